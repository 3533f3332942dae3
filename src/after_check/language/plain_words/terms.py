"""The vocabulary: what each term may mean, and the numbers that words stand for. It is read off `vocabulary.toml`."""

from __future__ import annotations

import re
import tomllib
import unicodedata
from functools import cache
from importlib.resources import files
from typing import Any


@cache
def _document() -> dict[str, Any]:
    return tomllib.loads((files("after_check.language.plain_words") / "vocabulary.toml").read_text(encoding="utf-8"))


@cache
def vocabulary() -> tuple[dict[str, frozenset[str]], dict[str, dict[str, int]]]:
    """Return what each term may mean, and the numbers that words stand for."""
    found: dict[str, set[str]] = {}
    values: dict[str, dict[str, int]] = {}
    for kind, entries in _document().items():
        if isinstance(entries, dict):
            values[kind] = {plain(word): number for word, number in entries.items()}
            for word in entries:
                found.setdefault(plain(word), set()).add(kind)
        else:
            for word in entries:
                found.setdefault(plain(word), set()).add(kind)
    return {word: frozenset(kinds) for word, kinds in found.items()}, values


def plain(word: str) -> str:
    """Return a word in small letters and without accents, as many people type it."""
    apart = unicodedata.normalize("NFKD", word.casefold())
    return "".join(character for character in apart if not unicodedata.combining(character)).replace("’", "'")


@cache
def any_of(kind: str) -> str:
    """Return a pattern for any term of a kind, with accents and without, the longest first; for use without regard to case."""
    terms = {term for term, kinds in vocabulary()[0].items() if kind in kinds}
    spelt = _document().get(kind, [])
    return "|".join(sorted(map(re.escape, {*terms, *spelt}), key=len, reverse=True))
