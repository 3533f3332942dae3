"""The vocabulary: what each term may mean in any language, and the numbers that words stand for. It is read off `languages/*.toml`."""

from __future__ import annotations

import tomllib
import unicodedata
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files

_NUMBER_PARTS = {"numbers": "number_word", "counts": "count_word", "plurals": "plural", "ordinals": "ordinal", "modes": "mode"}
"""Parts of a language file whose words stand for numbers, and the kind that such a word is."""
_SHORTEST_MISTYPED = 4
_LONGEST_MISTYPED = 40
_TRADE = (
    *("module", "modules", "slot", "slots", "channel", "mode", "empty", "filled", "soldered", "usable", "total", "installed", "graphics"),
    *("sodimm", "udimm", "rdimm", "lrdimm", "rank", "reserved", "profile", "off", "runs", "speed", "memory", "other", "one_channel"),
    *("two_channels", "each", "system", "registered"),
)
"""Kinds of words that are known again with a letter too few, too many, wrong or in the wrong place."""


@dataclass(slots=True)
class Term:
    """What a word may mean alone (`kinds`, and its number by kind), and the words that may follow it in a longer term."""

    kinds: frozenset[str] = frozenset()
    values: dict[str, int] = field(default_factory=dict)
    longer: dict[str, Term] = field(default_factory=dict)


def plain(word: str) -> str:
    """Return a word in small letters and without accents, as many people type it."""
    if word.isascii():
        return word.lower()
    if word in ("à", "À"):
        return "à"  # "each", in German and French; without its accent it is another word.
    apart = unicodedata.normalize("NFKD", word.casefold())
    return "".join(one for one in apart if not unicodedata.combining(one)).replace("’", "'").replace("ł", "l").replace("ß", "ss")


@cache
def terms() -> Term:
    """Return the words of all languages as a tree: each step is one word of a term."""
    root = Term()
    for name in languages():
        document = tomllib.loads((files("after_check.language.words") / "languages" / f"{name}.toml").read_text(encoding="utf-8"))
        for kind, words in document.get("words", {}).items():
            for word in words:
                _add(root, word, kind)
        for part, kind in _NUMBER_PARTS.items():
            for word, value in document.get(part, {}).items():
                _add(root, word, kind).values[kind] = value
    return root


def languages() -> tuple[str, ...]:
    """Return the codes of the languages that are understood (ISO 639-1), English first."""
    found = sorted(entry.name.removesuffix(".toml") for entry in (files("after_check.language.words") / "languages").iterdir())
    return ("en", *(name for name in found if name != "en" and "." not in name and not name.startswith("_")))


def _add(root: Term, words: str, kind: str) -> Term:
    term = root
    for word in parts_of(words):
        term = term.longer.setdefault(word, Term())
    term.kinds |= {kind}
    return term


def parts_of(words: str) -> list[str]:
    """Return the words of a term, as the lexer cuts them."""
    return [plain(part).rstrip(".") or part for part in words.replace("-", " ").split()]


def meaning(words: str) -> Term | None:
    """Return what a word or term means; None where it is unknown."""
    term: Term | None = terms()
    for word in parts_of(words):
        term = term.longer.get(word) if term is not None else None
    return term if term is not None and term.kinds else None


@cache
def _almost() -> dict[str, str]:
    """Return words of the trade by what is left of them with one letter taken out; a word that two are near to is none."""
    found: dict[str, str] = {}
    for word, term in terms().longer.items():
        if len(word) < _SHORTEST_MISTYPED + 1 or not term.kinds & frozenset(_TRADE) or not word.isalpha():
            continue
        for shorter in {word[:at] + word[at + 1 :] for at in range(1, len(word))}:
            known = found.get(shorter)
            found[shorter] = word if known is None or (known and terms().longer[known].kinds & term.kinds) else ""
    return found


def mistyped(word: str) -> Term | None:
    """Return the word of the trade that a mistyped one is: one letter too few, too many, wrong, or two in the wrong order."""
    if not _SHORTEST_MISTYPED <= len(word) <= _LONGEST_MISTYPED or not word.isalpha():
        return None
    known = terms().longer
    for at in range(1, len(word) - 1):  # two letters in the wrong order
        turned = word[:at] + word[at + 1] + word[at] + word[at + 2 :]
        if turned in known and known[turned].kinds & frozenset(_TRADE):
            return known[turned]
    near = _almost()
    if near.get(word):
        return known[near[word]]
    if len(word) > _SHORTEST_MISTYPED:
        for at in range(1, len(word)):
            shorter = word[:at] + word[at + 1 :]
            if len(shorter) > _SHORTEST_MISTYPED and shorter in known and known[shorter].kinds & frozenset(_TRADE):
                return known[shorter]
            if len(word) > _SHORTEST_MISTYPED + 1 and near.get(shorter) and len(near[shorter]) == len(word):
                return known[near[shorter]]
    return None
