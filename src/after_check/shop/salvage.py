"""Rows that are damaged: one of them ends neither the program nor its job. What can be derived again is; what cannot is said.

A reading is derived again from its evidence, a line of the bench from its job. A job with damage is never ready.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from typing import Any, TypeVar

from sqlalchemy import DateTime, Dialect, TypeDecorator

from after_check.domain.facts import value_of
from after_check.domain.outside_text import clean
from after_check.domain.readings import Reading
from after_check.files.errors import SourceError
from after_check.sources.evidence import RawEvidence

NO_DATE = datetime(1970, 1, 1, tzinfo=UTC)
"""What stands for a date that cannot be read."""
FAULTS = (ValueError, KeyError, TypeError, AttributeError, SourceError)
"""What readers of documents raise over damaged ones."""
Kept = TypeVar("Kept")


class Moments(TypeDecorator[datetime]):
    """Dates of a table; one that is damaged reads as `NO_DATE`."""

    impl = DateTime(timezone=True)
    cache_ok = True

    def result_processor(self, dialect: Dialect, coltype: object) -> Callable[[Any], datetime | None] | None:
        """Return what turns a stored value into a date."""
        read = super().result_processor(dialect, coltype)

        def lenient(value: Any) -> datetime | None:
            try:
                found = read(value) if read is not None else value
            except FAULTS:
                return NO_DATE
            return found if found is None or isinstance(found, datetime) else NO_DATE

        return lenient


class Damage:
    """What was found damaged while a job was read, in words."""

    def __init__(self) -> None:
        self.words: list[str] = []

    def or_none(self, what: str, read: Callable[[], Kept]) -> Kept | None:
        """Return what a reader gives, or None where what it reads is damaged, which is noted."""
        try:
            return read()
        except FAULTS:
            self.words.append(f"{what} is damaged and left out")
            return None

    def text(self, what: str, value: Any) -> str:
        """Return a text as text, whatever a damaged column holds."""
        if isinstance(value, str):
            return value
        self.words.append(f"{what} is damaged")
        return clean(str(value))


def essence(reading: Reading) -> tuple[object, ...]:
    """Return the facts of a reading that a judgement rests on first: what sits where, of what size and rate, and the totals."""
    slots = tuple(
        (slot.name, module and (value_of(module.size_bytes), value_of(module.rated_mts), value_of(module.part), value_of(module.serial)))
        for slot in reading.slots
        for module in (slot.module,)
    )
    loose = tuple((value_of(module.size_bytes), value_of(module.rated_mts)) for module in reading.loose)
    facts = (reading.total_bytes, reading.usable_bytes, reading.running_rate, reading.profile, reading.channels)
    return (slots, loose, *(fact.value if fact is not None else None for fact in facts))


def derived(evidence: Sequence[RawEvidence], moment: datetime) -> Reading | None:
    """Return the reading that evidence gives when it is decoded again; None where it is of a kind that cannot be."""
    from after_check.sources.linux import read_kept
    from after_check.sources.open_source import NotationError, take_notation

    try:
        if len(evidence) == 1 and evidence[0].name == "notation":
            return take_notation(evidence[0].data.decode("utf-8", "replace")).reading
        if any("/" in part.name for part in evidence):
            return read_kept(tuple(evidence), f"decoded again, of {moment:%Y-%m-%d}").reading
    except (*FAULTS, NotationError):
        return None
    return None
