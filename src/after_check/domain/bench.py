"""Jobs as the bench shows them. Kept apart from the whole job, so that ten thousand of them are there at once.

Named tuples, as some others that the first frame waits for: Python makes one in a sixth of the time of a frozen data class.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime
from enum import StrEnum
from typing import NamedTuple

from after_check.domain.codes import Severity
from after_check.domain.standing import JobOutcome, TrackStatus


class WaitsFor(StrEnum):
    """Whose turn it is."""

    YOU = "you"
    SOAK = "soak"
    CUSTOMER = "customer"
    ARCHIVE = "archive"


class MiniTrack(NamedTuple):
    """A track as small as a line on the bench shows it: quantity, how it stands, and its value."""

    quantity: str
    status: TrackStatus | None
    now: int | float | str | None = None
    promised: int | float | str | None = None


class JobLine(NamedTuple):
    """A job as a line on the bench. `since` is when its machine was first read, `latest` when last; `soak` is how far one is that runs.

    `answers` has the marks of the five answers in their order, `next_step` what is to be done next; both are empty in lines of before.
    """

    number: str
    title: str
    machine: str
    customer: str
    since: datetime
    latest: datetime
    outcome: JobOutcome
    why: str
    waits_for: WaitsFor
    worst_severity: Severity | None
    worst_title: str
    tracks: tuple[MiniTrack, ...]
    soak: str = ""
    answers: str = ""
    next_step: str = ""


class BenchEntry(NamedTuple):
    """What is needed of every job at once: its group, what a search looks at, its line, still as JSON text, and when it was read last."""

    number: str
    waits_for: WaitsFor
    search: str
    line: str
    latest: str = ""


Groups = Mapping[WaitsFor, tuple[BenchEntry, ...]]


def grouped(entries: Iterable[BenchEntry]) -> Groups:
    """Return jobs by whose turn it is, each group in the order given; done once, and not with every letter of a search."""
    groups: dict[WaitsFor, list[BenchEntry]] = {group: [] for group in WaitsFor}
    for entry in entries:
        groups[entry.waits_for].append(entry)
    return {group: tuple(jobs) for group, jobs in groups.items()}


NOT_READ_YET = ""
"""The number of an entry that is known to be there and no more."""
