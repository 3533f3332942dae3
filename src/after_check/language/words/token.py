"""A token: a piece of the text with all that it may mean; and what a bare number may be."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from after_check.language.words.figures import as_size_bytes, is_usual_rate


@dataclass(slots=True)
class Token:
    """A piece of the text: the kinds that it may be of, its value, where it is, and its words in small letters."""

    kinds: frozenset[str]
    value: Any
    start: int
    end: int
    text: str
    values: dict[str, int] | None = None

    def means(self, *kinds: str) -> bool:
        """Return whether the token may be of one of these kinds."""
        return not self.kinds.isdisjoint(kinds)

    def number(self, kind: str) -> int | None:
        """Return the number that a word stands for as one of this kind."""
        return (self.values or {}).get(kind)


def number_kinds(value: float, whole: bool = True) -> frozenset[str]:
    """Return what a bare number may be: a count, a size in GiB or MiB, a rate."""
    kinds = {"number"}
    if whole and float(value).is_integer():
        if 1 <= value <= 64:
            kinds.add("count")
            if value <= 4:
                kinds.add("few")
        if as_size_bytes(value) is not None:
            kinds.add("mib" if value >= 1024 else "gib" if value >= 4 else "gib_small")
        elif value == 0:
            kinds.add("zero")
        if value >= 200 and "mib" not in kinds and is_usual_rate(value, None):
            kinds.add("mts")
    elif 1 < value < 1024:
        kinds.add("gib_part")
    return frozenset(kinds)
