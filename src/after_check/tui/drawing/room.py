"""A room of machines in cells: those that differ from the rest first, each with its tracks in miniature and its reason."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

from rich.text import Text

from after_check.domain.bench import MiniTrack
from after_check.domain.findings import Finding, Verdict
from after_check.judgement.room import JudgedMachine, Room
from after_check.tui.drawing.reason import reason_lines
from after_check.tui.drawing.text import fitted, right_aligned, wrapped
from after_check.tui.drawing.tracks import MINI_CELLS, MINI_WORDS, mini_track, track_line
from after_check.tui.palette import Palette

MARKS = {Verdict.READY: "✓", Verdict.NOT_READY: "▲", Verdict.CANT_TELL: "?"}
_WIDE = 100


@dataclass(frozen=True, slots=True)
class RoomSnapshot:
    """What the room's screen shows: the machines judged so far, how many there are, and what is going on.

    `promise` is the line of notation, `promised` the same in words.
    """

    source: str = ""
    promise: str = ""
    promised: str = ""
    room: Room = field(default_factory=lambda: Room(()))
    whole: int = 0
    reading: bool = False
    read_at: datetime | None = None
    left_seconds: float | None = None

    @property
    def groups(self) -> tuple[tuple[str, tuple[JudgedMachine, ...]], ...]:
        """The machines by whether they are like most; without two alike, all in one group."""
        room = self.room
        if room.usual is None:
            return (("no two are alike", room.machines),) if room.machines else ()
        different = {id(one) for one in room.different}
        alike = tuple(one for one in room.machines if id(one) not in different)
        parts = (("differ from the rest" if len(different) > 1 else "differs from the rest", room.different), ("are alike", alike))
        return tuple((name, machines) for name, machines in parts if machines)


def head_lines(room: RoomSnapshot, cells: int, palette: Palette) -> list[Text]:
    """Return the two lines of the head: the source with the counts, the promise with how far the reading is."""
    counts = Text(no_wrap=True)
    for verdict, words, colour in (
        (Verdict.READY, "ready", palette.kept),
        (Verdict.NOT_READY, "not ready", palette.short),
        (Verdict.CANT_TELL, "can't tell", palette.promised),
    ):
        number = room.room.count(verdict)
        if number or (verdict is Verdict.READY and room.room.machines):
            counts.append("  " if counts else "")
            counts.append(f" {MARKS[verdict]} {number} {words} ", f"bold {palette.on_colour} on {colour}")
    counts.append(" ")
    source = Text(" a room   ", palette.muted, no_wrap=True)
    source.append(Path(room.source).name or "no source yet", f"bold {palette.text}")
    source.truncate(max(10, cells - counts.cell_len - 1), overflow="ellipsis")
    done = len(room.room.machines)
    words = f"{done} of {room.whole} read" if room.reading or done < room.whole else f"{done} machines"
    if room.reading and room.left_seconds is not None:
        words += f", {max(1, round(room.left_seconds))} s left"
    elif room.read_at is not None:
        words += f", read {room.read_at.astimezone():%d %b %H:%M}"
    progress = Text(f"{words} " if room.whole else "", palette.promised if room.reading else palette.muted)
    promised = Text(" promised  ", palette.muted, no_wrap=True)
    promised.append(room.promised or "nothing yet" + (": press p" if room.source else ""), palette.promised)
    promised.truncate(max(10, cells - progress.cell_len - 1), overflow="ellipsis")
    return [right_aligned(source, counts, cells), right_aligned(promised, progress, cells)]


def column_names(cells: int, palette: Palette) -> Text:
    """Return the names of the miniatures above their columns."""
    text = Text(" " * (_name_cells(cells) + 3), no_wrap=True)
    for name in MINI_WORDS.values():
        text.append(fitted(name, MINI_CELLS + 1), palette.muted)
    return text


def group_line(count: int, name: str, cells: int, palette: Palette) -> Text:
    """Return the heading of a group."""
    text = Text(no_wrap=True)
    text.append(f"{count} {name} ", f"bold {palette.promised}")
    text.append("─" * max(0, cells - text.cell_len), palette.line)
    return text


def machine_line(machine: JudgedMachine, cells: int, palette: Palette) -> Text:
    """Return one machine as a line: verdict, name, tracks in miniature, why."""
    colour = {Verdict.READY: palette.kept, Verdict.NOT_READY: palette.short, Verdict.CANT_TELL: palette.promised}[machine.verdict]
    text = Text(no_wrap=True)
    text.append(f"{MARKS[machine.verdict]} ", f"bold {colour}")
    text.append(fitted(machine.name, _name_cells(cells)) + " ", palette.text)
    tracks = {one.quantity.value: one for one in machine.judgement.tracks} if machine.judgement is not None else {}
    for quantity in MINI_WORDS:
        track = tracks.get(quantity)
        mini = MiniTrack(quantity, track.status, track.now, track.promised) if track is not None else None
        text.append_text(mini_track(mini, palette))
        text.append(" ")
    if machine.telling or machine.verdict is not Verdict.READY:
        text.append(fitted(machine.why, max(0, cells - text.cell_len)), palette.text)
    return text


def machine_lines(machine: JudgedMachine, cells: int, palette: Palette) -> list[Text]:
    """Return what is to be known of the chosen machine: its tracks and the reason of each finding, or why it was not read."""
    lines = [Text(machine.name, f"bold {palette.text}")]
    if machine.judgement is None:
        return [*lines, *(Text(part, palette.short) for part in wrapped(machine.problem, cells))]
    lines += [track_line(track, cells, palette) for track in machine.judgement.tracks]
    telling = machine.telling
    if not telling:
        lines += [Text(""), *(Text(part, palette.kept) for part in wrapped(machine.judgement.why, cells))]
    for finding in telling:
        lines += [Text(""), Text(_headline(finding), f"bold {palette.text}"), *reason_lines(finding, cells, palette)]
    return lines


def _headline(finding: Finding) -> str:
    return f"{finding.severity.value}: {finding.title}"


def _name_cells(cells: int) -> int:
    return 24 if cells >= _WIDE else 14
