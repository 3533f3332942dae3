"""The bench as lines in cells: groups, jobs with their tracks in miniature, ages."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime

from rich.text import Text

from after_check.domain.bench import BenchEntry, JobLine, WaitsFor
from after_check.domain.findings import Severity, Verdict
from after_check.tui.drawing.text import fitted, right_aligned
from after_check.tui.drawing.tracks import MINI_CELLS, MINI_WORDS, mini_track
from after_check.tui.palette import Palette

GROUP_WORDS = {
    WaitsFor.YOU: "waits for you",
    WaitsFor.SOAK: "a soak runs",
    WaitsFor.CUSTOMER: "ready, waits for the customer",
    WaitsFor.ARCHIVE: "in the archive",
}
_MINIS = tuple(MINI_WORDS)
_VERDICT_MARKS = {Verdict.READY: "✓", Verdict.NOT_READY: "▲", Verdict.CANT_TELL: "?"}
_VERDICT_WORDS = {Verdict.READY: "ready", Verdict.NOT_READY: "not ready", Verdict.CANT_TELL: "can't tell"}


@dataclass(frozen=True, slots=True)
class BenchSnapshot:
    """What the bench shows: the jobs that match the search, by group; and how many there are in all."""

    groups: tuple[tuple[WaitsFor, tuple[BenchEntry, ...]], ...] = ()
    waiting: Mapping[WaitsFor, int] = field(default_factory=dict)

    @property
    def jobs(self) -> tuple[BenchEntry, ...]:
        """The jobs shown, in order."""
        return tuple(job for _, jobs in self.groups for job in jobs)


@dataclass(frozen=True, slots=True)
class Row:
    """A row of the bench: a group's heading, the first or second line of a job, or air."""

    job: int | None = None
    second: bool = False
    group: WaitsFor | None = None
    count: int = 0


def snapshot_of(entries: list[BenchEntry], search: str, only: WaitsFor | None = None, archive: bool = False) -> BenchSnapshot:
    """Return the jobs in which every word of the search occurs, grouped by whose turn it is.

    The archive is shown when it is asked for, and searched when the bench has no match.
    """
    words = search.casefold().split()
    shown = [entry for entry in entries if all(word in entry.search for word in words)] if words else entries
    on_bench = [entry for entry in shown if (entry.waits_for is WaitsFor.ARCHIVE) is archive]
    shown = on_bench or (shown if words else [])
    wanted = [only] if only is not None and not archive else list(WaitsFor)
    groups = tuple((group, tuple(entry for entry in shown if entry.waits_for is group)) for group in wanted)
    return BenchSnapshot(tuple((group, jobs) for group, jobs in groups if jobs), Counter(entry.waits_for for entry in entries))


def rows_of(snapshot: BenchSnapshot, height: int) -> list[Row]:
    """Return the rows, with air between the jobs when everything fits anyway."""
    jobs = len(snapshot.jobs)
    airy = jobs * 3 + 2 * len(snapshot.groups) <= height
    rows: list[Row] = []
    index = 0
    for group, lines in snapshot.groups:
        if rows and not airy:
            rows.append(Row())
        rows.append(Row(group=group, count=len(lines)))
        if airy:
            rows.append(Row())
        for _ in lines:
            rows += [Row(job=index), Row(job=index, second=True)]
            if airy:
                rows.append(Row())
            index += 1
    return rows


def column_names(cells: int, palette: Palette) -> Text:
    """Return the heading above the miniatures."""
    text = Text(no_wrap=True)
    text.append(" " * _minis_at(cells))
    for quantity in _MINIS:
        text.append(fitted(MINI_WORDS[quantity], MINI_CELLS + 1), palette.muted)
    return text


def group_text(row: Row, cells: int, palette: Palette) -> Text:
    """Return a group's heading."""
    text = Text(no_wrap=True)
    if row.group is not None:
        text.append(f" {GROUP_WORDS[row.group]} ", f"bold {palette.promised}")
        text.append(f"{row.count} ", palette.muted)
    text.append("─" * max(0, cells - text.cell_len - 1), palette.line)
    return text


def job_text(line: JobLine, second: bool, cells: int, palette: Palette) -> Text:
    """Return one of the two lines of a job."""
    colour = {Verdict.READY: palette.kept, Verdict.NOT_READY: palette.short, Verdict.CANT_TELL: palette.promised}[line.verdict]
    name_cells = _minis_at(cells) - 10
    text = Text(no_wrap=True)
    if second:
        text.append(" " * 10)
        text.append(fitted(" · ".join(part for part in (line.machine, line.customer) if part), name_cells - 2) + "  ", palette.muted)
        if line.soak:
            text.append(fitted(f"◌ {line.soak}", cells - text.cell_len - 1), f"bold {palette.promised}")
            return text
        mark = {Severity.FIX: "▲ ", Severity.TELL: "● "}.get(line.worst_severity, "") if line.worst_severity else ""
        words = f"{mark}{line.worst_title}" if line.worst_title else line.why
        text.append(fitted(words, cells - text.cell_len - 1), palette.text if line.worst_title else palette.muted)
        return text
    text.append(f" {_VERDICT_MARKS[line.verdict]} ", f"bold {colour}")
    text.append(fitted(line.number, 7), palette.muted)
    text.append(fitted(line.title or "(no name)", name_cells - 2) + "  ", f"bold {palette.text}")
    tracks = {track.quantity: track for track in line.tracks}
    for quantity in _MINIS:
        text.append_text(mini_track(tracks.get(quantity), palette))
        text.append(" ")
    if cells - text.cell_len >= 22:
        text.append(_VERDICT_WORDS[line.verdict], f"bold {colour}")
    return right_aligned(text, Text(f"{age_text(line.since)} ", palette.muted), cells)


def age_text(moment: datetime, now: datetime | None = None) -> str:
    """Return how long ago something was, in one unit."""
    seconds = max(0.0, ((now or datetime.now(UTC)) - moment).total_seconds())
    for size, word in ((86400.0, "d"), (3600.0, "h"), (60.0, "min")):
        if seconds >= size:
            return f"{int(seconds // size)} {word}"
    return "now"


def _minis_at(cells: int) -> int:
    return 54 if cells >= 120 else 38 if cells >= 90 else 30
