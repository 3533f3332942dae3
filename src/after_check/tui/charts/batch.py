"""A batch of machines in cells: those that differ from the rest first, each with its tracks in miniature and its reason."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

from rich.text import Text

from after_check.casework.batch import Batch, JudgedMachine
from after_check.casework.verdict_words import OUTCOME_MARKS
from after_check.domain.bench import MiniTrack
from after_check.domain.findings import Finding
from after_check.domain.standing import Verdict
from after_check.texts import say, words_of
from after_check.tui.charts.cells import day_and_time, fitted, right_aligned, wrapped
from after_check.tui.charts.reason import reason_lines
from after_check.tui.charts.tracks import MINI_CELLS, MINI_WORDS, mini_track, track_line
from after_check.tui.theme import Ink, outcome_colour

_WIDE = 100


@dataclass(frozen=True, slots=True)
class BatchSnapshot:
    """What the batch's screen shows: the machines judged so far, how many there are, and what is going on.

    `promise` is the line of notation, `promised` the same in words.
    """

    source: str = ""
    promise: str = ""
    promised: str = ""
    batch: Batch = field(default_factory=lambda: Batch(()))
    whole: int = 0
    reading: bool = False
    read_at: datetime | None = None
    left_seconds: float | None = None

    @property
    def groups(self) -> tuple[tuple[str, tuple[JudgedMachine, ...]], ...]:
        """The machines by whether they are like most; without two alike, all in one group."""
        batch = self.batch
        if batch.usual is None:
            return (("no two are alike", batch.machines),) if batch.machines else ()
        different = {id(machine) for machine in batch.different}
        alike = tuple(machine for machine in batch.machines if id(machine) not in different)
        parts = (("differ from the rest" if len(different) > 1 else "differs from the rest", batch.different), ("are alike", alike))
        return tuple((name, machines) for name, machines in parts if machines)


def head_lines(batch: BatchSnapshot, cells: int) -> list[Text]:
    """Return the two lines of the head: the source with the counts, the promise with how far the reading is."""
    counts = Text(no_wrap=True)
    for outcome, number, words in batch.batch.counts if batch.batch.machines else ():
        counts.append("  " if counts else "")
        words = words if cells >= _WIDE else words.removeprefix("as promised, ")
        counts.append(f" {OUTCOME_MARKS[outcome]} {number} {words} ", f"bold {Ink.ON_COLOUR} on {outcome_colour(outcome)}")
    counts.append(" ")
    source = Text(" a batch   ", Ink.MUTED, no_wrap=True)
    source.append(Path(batch.source).name or "no source yet", f"bold {Ink.TEXT}")
    source.truncate(max(10, cells - counts.cell_len - 1), overflow="ellipsis")
    done = len(batch.batch.machines)
    words = f"{done} of {batch.whole} read" if batch.reading or done < batch.whole else f"{done} machines"
    if batch.reading and batch.left_seconds is not None:
        words += f", {max(1, round(batch.left_seconds))} s left"
    elif batch.read_at is not None:
        words += f", read {day_and_time(batch.read_at)}"
    progress = Text(f"{words} " if batch.whole else "", Ink.PROMISED if batch.reading else Ink.MUTED)
    promised = Text(" promised  ", Ink.MUTED, no_wrap=True)
    promised.append(batch.promised or "nothing yet" + (": press p" if batch.source else ""), Ink.PROMISED)
    promised.truncate(max(10, cells - progress.cell_len - 1), overflow="ellipsis")
    return [right_aligned(source, counts, cells), right_aligned(promised, progress, cells)]


def column_names(cells: int) -> Text:
    """Return the names of the miniatures above their columns."""
    text = Text(" " * (_name_cells(cells) + 3), no_wrap=True)
    for name in MINI_WORDS.values():
        text.append(fitted(name, MINI_CELLS + 1), Ink.MUTED)
    return text


def group_line(count: int, name: str, cells: int) -> Text:
    """Return the heading of a group."""
    text = Text(no_wrap=True)
    text.append(f"{count} {name} ", f"bold {Ink.PROMISED}")
    text.append("─" * max(0, cells - text.cell_len), Ink.LINE)
    return text


def machine_line(machine: JudgedMachine, cells: int) -> Text:
    """Return one machine as a line: verdict, name, tracks in miniature, why."""
    text = Text(no_wrap=True)
    text.append(f"{OUTCOME_MARKS[machine.outcome]} ", f"bold {outcome_colour(machine.outcome)}")
    text.append(fitted(machine.name, _name_cells(cells)) + " ", Ink.TEXT)
    tracks = {track.quantity.value: track for track in machine.judgement.tracks} if machine.judgement is not None else {}
    for quantity in MINI_WORDS:
        track = tracks.get(quantity)
        mini = MiniTrack(quantity, track.status, track.now, track.promised) if track is not None else None
        text.append_text(mini_track(mini))
        text.append(" ")
    if machine.telling or machine.verdict is not Verdict.READY:
        text.append(fitted(machine.why, max(0, cells - text.cell_len)), Ink.TEXT)
    return text


def machine_lines(machine: JudgedMachine, cells: int) -> list[Text]:
    """Return what is to be known of the chosen machine: its tracks and the reason of each finding, or why it was not read."""
    lines = [Text(machine.name, f"bold {Ink.TEXT}")]
    if machine.judgement is None:
        return [*lines, *(Text(part, Ink.SHORT) for part in wrapped(machine.problem, cells))]
    lines += [track_line(track, cells) for track in machine.judgement.tracks]
    telling = machine.telling
    if not telling:
        lines += [Text(""), *(Text(part, Ink.KEPT) for part in wrapped(say(machine.judgement.why), cells))]
    for finding in telling:
        lines += [Text(""), Text(_headline(finding), f"bold {Ink.TEXT}"), *reason_lines(finding, cells)]
    return lines


def _headline(finding: Finding) -> str:
    return f"{finding.severity.value}: {words_of(finding).title}"


def _name_cells(cells: int) -> int:
    return 24 if cells >= _WIDE else 14
