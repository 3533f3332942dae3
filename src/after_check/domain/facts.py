"""A value and where it came from. Every figure that the program shows is one of these."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Generic, TypeVar

T = TypeVar("T")


class Source(StrEnum):
    """Where a value came from."""

    FIRMWARE = "firmware table"
    SPD = "SPD"
    SYSTEM = "system"
    TYPED = "typed"
    LABEL = "label"
    WORKED_OUT = "worked out"
    MEASURED = "measured"


@dataclass(frozen=True, slots=True)
class Fact(Generic[T]):
    """One value with its source, the place within that source, and the values that lost against it."""

    value: T
    source: Source
    where: str = ""
    others: tuple[Fact[T], ...] = ()


def value_of(fact: Fact[T] | None) -> T | None:
    """Return the value of a fact that may not be known."""
    return None if fact is None else fact.value


def typed(value: T, where: str = "") -> Fact[T]:
    """Return a fact that a person typed."""
    return Fact(value, Source.TYPED, where)
