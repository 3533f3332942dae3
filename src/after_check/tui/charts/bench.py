"""The bench as lines in cells: groups, jobs with their tracks in miniature, ages."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from itertools import accumulate, chain
from typing import NamedTuple, overload

from rich.text import Text

from after_check.casework.answers import JobQuestion
from after_check.casework.verdict_words import OUTCOME_MARKS
from after_check.domain.bench import BenchEntry, Groups, JobLine, WaitsFor
from after_check.domain.codes import Severity
from after_check.tui.charts.answer_line import answer_colour
from after_check.tui.charts.cells import fitted, right_aligned
from after_check.tui.charts.tracks import MINI_CELLS, MINI_WORDS, mini_track
from after_check.tui.theme import Ink, outcome_colour

GROUP_WORDS = {
    WaitsFor.YOU: "waits for you",
    WaitsFor.SOAK: "a memory test runs",
    WaitsFor.CUSTOMER: "waits for the customer",
    WaitsFor.ARCHIVE: "in the archive",
}
_NAME_AT = 10
"""Where a job's name begins, behind its verdict and its number, in cells."""
_MINIS = tuple(MINI_WORDS)
_AGE_CELLS = 7
_SHORT = {
    JobQuestion.ALL_THERE: "there",
    JobQuestion.AT_PACE: "pace",
    JobQuestion.TRUSTED: "trust",
    JobQuestion.HELPED: "help",
    JobQuestion.TOLD: "told",
}
"""The five answers, where there is little room above their marks."""
_STEP_ENDS = re.compile(r",| and |: ")


@dataclass(frozen=True, slots=True)
class BenchSnapshot:
    """What the bench shows: the jobs that match the search, by group; and how many there are in all."""

    groups: tuple[tuple[WaitsFor, tuple[BenchEntry, ...]], ...] = ()
    waiting: Mapping[WaitsFor, int] = field(default_factory=dict)
    search: str = ""
    found_in: tuple[WaitsFor, ...] = ()
    """The groups that were searched."""
    of: Groups = field(default_factory=dict, repr=False, compare=False)
    """All jobs, among which these are."""

    @property
    def count(self) -> int:
        """How many jobs are shown."""
        return sum(len(jobs) for _, jobs in self.groups)

    @property
    def jobs(self) -> Sequence[BenchEntry]:
        """The jobs shown, in order."""
        return self.groups[0][1] if len(self.groups) == 1 else OneAfterAnother(tuple(jobs for _, jobs in self.groups))

    def finds(self, entry: BenchEntry) -> bool:
        """Whether a job is among those that the search finds, in whatever group it is."""
        return all(word in entry.search for word in self.search.casefold().split())


class OneAfterAnother(Sequence[BenchEntry]):
    """Several groups of jobs as one, without a copy: a letter of a search makes groups of a hundred thousand."""

    def __init__(self, groups: Sequence[Sequence[BenchEntry]]) -> None:
        self._groups = groups
        self._ends = list(accumulate(len(group) for group in groups))

    def __len__(self) -> int:
        return self._ends[-1] if self._ends else 0

    def __iter__(self) -> Iterator[BenchEntry]:
        return chain.from_iterable(self._groups)

    @overload
    def __getitem__(self, at: int) -> BenchEntry: ...
    @overload
    def __getitem__(self, at: slice) -> tuple[BenchEntry, ...]: ...
    def __getitem__(self, at: int | slice) -> BenchEntry | tuple[BenchEntry, ...]:
        if isinstance(at, slice):
            return tuple(self[index] for index in range(*at.indices(len(self))))
        at = at + len(self) if at < 0 else at
        if not 0 <= at < len(self):
            raise IndexError(at)
        group = bisect_right(self._ends, at)
        return self._groups[group][at - (self._ends[group - 1] if group else 0)]


class Row(NamedTuple):
    """A row of the bench: a group's heading, the first or second line of a job, or air."""

    job: int | None = None
    second: bool = False
    group: WaitsFor | None = None
    jobs: int = 0
    """How many jobs a heading has beneath it."""


def snapshot_of(
    groups: Groups, search: str, only: WaitsFor | None = None, archive: bool = False, before: BenchSnapshot | None = None
) -> BenchSnapshot:
    """Return the jobs in which every word of the search occurs, grouped by whose turn it is.

    The archive is shown when it is asked for, and searched when the bench has no match. A search that goes on from the one
    `before` looks at what that one found.
    """
    waiting = {group: len(jobs) for group, jobs in groups.items()}
    bench = tuple(group for group in groups if group is not WaitsFor.ARCHIVE)
    chosen = (WaitsFor.ARCHIVE,) if archive else (only,) if only is not None else bench
    goes_on = before is not None and before.of is groups and before.found_in == chosen and search.startswith(before.search)
    among: Groups = dict(before.groups) if before is not None and goes_on else groups
    # What was found before has the words of before; only the new ones are looked for in it.
    known = set(before.search.casefold().split()) if before is not None and goes_on else set()
    found = _matching(among, chosen, [word for word in search.casefold().split() if word not in known])
    if not found and search.strip():
        chosen = bench if archive else (WaitsFor.ARCHIVE,)
        found = _matching(groups, chosen, search.casefold().split())
    return BenchSnapshot(found, waiting, search, chosen, groups)


def _matching(groups: Groups, chosen: Sequence[WaitsFor], words: Sequence[str]) -> tuple[tuple[WaitsFor, tuple[BenchEntry, ...]], ...]:
    found: list[tuple[WaitsFor, tuple[BenchEntry, ...]]] = []
    for group in chosen:
        jobs = groups.get(group, ())
        for word in words:
            jobs = tuple([entry for entry in jobs if word in entry.search])
        if jobs:
            found.append((group, jobs))
    return tuple(found)


class Rows(Sequence[Row]):
    """The rows of a snapshot, each worked out when it is asked for: ten thousand jobs cost no more than those on screen.

    `airy` puts a blank row beneath every heading and every job, else there is one between two groups.
    """

    def __init__(self, snapshot: BenchSnapshot, airy: bool) -> None:
        self._groups = [(group, len(jobs)) for group, jobs in snapshot.groups]
        self._airy = airy
        self._job_rows = 3 if airy else 2
        self._firsts: list[int] = []
        """The row of each group's heading."""
        self._jobs_before: list[int] = []
        at = jobs = 0
        for index, (_, count) in enumerate(self._groups):
            at += 0 if airy or index == 0 else 1
            self._firsts.append(at)
            self._jobs_before.append(jobs)
            at += (2 if airy else 1) + self._job_rows * count
            jobs += count
        self._length = at

    def __len__(self) -> int:
        return self._length

    @overload
    def __getitem__(self, at: int) -> Row: ...

    @overload
    def __getitem__(self, at: slice) -> list[Row]: ...

    def __getitem__(self, at: int | slice) -> Row | list[Row]:
        if isinstance(at, slice):
            return [self[index] for index in range(*at.indices(self._length))]
        if not 0 <= at < self._length:
            raise IndexError(at)
        index = bisect_right(self._firsts, at) - 1
        group, count = self._groups[index]
        within = at - self._firsts[index]
        if within == 0:
            return Row(group=group, jobs=count)
        job, line = divmod(within - (2 if self._airy else 1), self._job_rows)
        if job < 0 or job >= count or line == 2:
            return Row()
        return Row(job=self._jobs_before[index] + job, second=line == 1)

    def of_job(self, job: int) -> int:
        """Return the first row of a job."""
        index = max(0, bisect_right(self._jobs_before, job) - 1)
        return self._firsts[index] + (2 if self._airy else 1) + self._job_rows * (job - self._jobs_before[index])


def rows_of(snapshot: BenchSnapshot, height: int) -> Rows:
    """Return the rows, with air between the jobs when everything fits anyway."""
    return Rows(snapshot, snapshot.count * 3 + 2 * len(snapshot.groups) <= height)


def counts_text(snapshot: BenchSnapshot) -> Text:
    """Return how many jobs wait for whom; of a search, how many of them it finds. An empty shop counts nothing."""
    text = Text(no_wrap=True)
    if not any(snapshot.waiting.values()):
        return text
    found = {group: len(jobs) for group, jobs in snapshot.groups}
    for group, words, colour in ((WaitsFor.YOU, "for you", Ink.SHORT), (WaitsFor.CUSTOMER, "to hand back", Ink.KEPT)):
        shown, of = found.get(group, 0), snapshot.waiting.get(group, 0)
        text.append("  ·  " if text.plain else "", Ink.LINE)
        text.append(f"{shown if shown == of else f'{shown} of {of}'} {words}", f"bold {colour}" if shown else Ink.MUTED)
    text.append(" ")
    return text


def column_names(cells: int) -> Text:
    """Return the heading above the miniatures and the five answers."""
    text = Text(no_wrap=True)
    text.append(" " * _minis_at(cells))
    for quantity in _MINIS:
        text.append(fitted(MINI_WORDS[quantity], MINI_CELLS + 1), Ink.MUTED)
    each = _answer_cells(cells)
    if each == 1:
        text.append("answers", Ink.MUTED)
    for question in JobQuestion if each > 1 else ():
        words = question.value if each > len(JobQuestion.ALL_THERE.value) else _SHORT[question]
        text.append(words.ljust(each), Ink.MUTED)
    return text


def _answer_cells(cells: int) -> int:
    """Return how wide the column of each answer is."""
    return max(1, min(10, (cells - _minis_at(cells) - len(_MINIS) * (MINI_CELLS + 1) - _AGE_CELLS) // len(JobQuestion)))


def group_text(row: Row, cells: int) -> Text:
    """Return a group's heading."""
    text = Text(no_wrap=True)
    if row.group is not None:
        text.append(f" {GROUP_WORDS[row.group]} ", f"bold {Ink.PROMISED}")
        text.append(f"{row.jobs} ", Ink.MUTED)
    text.append("─" * max(0, cells - text.cell_len - 1), Ink.LINE)
    return text


def job_text(line: JobLine, second: bool, cells: int) -> Text:
    """Return one of the two lines of a job."""
    colour = outcome_colour(line.outcome)
    name_cells = _minis_at(cells) - _NAME_AT
    text = Text(no_wrap=True)
    if second:
        text.append(" " * _NAME_AT)
        text.append(fitted(" · ".join(part for part in (line.machine, line.customer) if part), name_cells - 2) + "  ", Ink.MUTED)
        if line.soak:
            text.append(fitted(f"◐ {line.soak}", cells - text.cell_len - 1), f"bold {Ink.PROMISED}")
            return text
        mark = {Severity.FIX: "▲ ", Severity.TELL: "■ "}.get(line.worst_severity, "") if line.worst_severity else ""
        words = f"{mark}{line.worst_title}" if line.worst_title else line.why
        step = Text(f" ▸ {_STEP_ENDS.split(line.next_step)[0]} ", Ink.PROMISED) if line.next_step else Text("")
        room = cells - text.cell_len - 1
        if room - step.cell_len < len(words):
            step = Text("")  # What stands against it comes first, whole; the step is the first thing in the job's own view.
        text.append(fitted(words, min(len(words), room - step.cell_len)), Ink.TEXT if line.worst_title else Ink.MUTED)
        return right_aligned(text, step, cells)
    text.append(f" {OUTCOME_MARKS[line.outcome]} ", f"bold {colour}")
    text.append(fitted(line.number, min(12, max(_NAME_AT - 4, len(line.number)))) + " ", Ink.MUTED)
    text.append(fitted(line.title or "(no name)", _minis_at(cells) - text.cell_len - 2) + "  ", f"bold {Ink.TEXT}")
    tracks = {track.quantity: track for track in line.tracks}
    for quantity in _MINIS:
        text.append_text(mini_track(tracks.get(quantity)))
        text.append(" ")
    each = _answer_cells(cells)
    for mark in line.answers:
        text.append(mark + " " * (each - 1), f"bold {answer_colour(mark)}")
    return right_aligned(text, Text(f"{age_text(line.since)} ", Ink.MUTED), cells)


def age_text(moment: datetime, now: datetime | None = None) -> str:
    """Return how long ago something was, in one unit."""
    seconds = max(0.0, ((now or datetime.now(UTC)) - moment).total_seconds())
    for size, word in ((86400.0, "d"), (3600.0, "h"), (60.0, "min")):
        if seconds >= size:
            return f"{int(seconds // size)} {word}"
    return "now"


def _minis_at(cells: int) -> int:
    wide = max(0, cells - 140) // 4  # A part of a wide window's room goes to names and customers, which are cut in a narrow one.
    return 54 + wide if cells >= 120 else 38 if cells >= 90 else 30
