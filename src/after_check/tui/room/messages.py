"""What the reading of a room tells its screen."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from textual.message import Message

from after_check.judgement.room import JudgedMachine
from after_check.sources.errors import SourceError

if TYPE_CHECKING:
    from after_check.tui.room.work import Reader


class ReadingBegun(Message):
    """The machines of a room are known, `whole` of them, and their reading begins. `room` is the folder of its room."""

    def __init__(self, room: Path, whole: int) -> None:
        super().__init__()
        self.room = room
        self.whole = whole


class MachineJudged(Message):
    """One machine was read, or could not be (`problem`), and judged; `done` of `whole` are behind it. `room` is its room's folder."""

    def __init__(self, room: Path, machine: JudgedMachine, problem: SourceError | None, done: int, whole: int) -> None:
        super().__init__()
        self.room = room
        self.machine = machine
        self.problem = problem
        self.done = done
        self.whole = whole


class RoomRead(Message):
    """What a reader was to read of a room is over; `problem` says why where it did not end well."""

    def __init__(self, room: Path, reader: Reader, problem: str = "") -> None:
        super().__init__()
        self.room = room
        self.reader = reader
        self.problem = problem
