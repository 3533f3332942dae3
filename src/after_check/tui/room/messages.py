"""What the reading of a room tells its screen."""

from __future__ import annotations

from pathlib import Path

from textual.message import Message

from after_check.judgement.room import JudgedMachine


class ReadingBegun(Message):
    """The machines of a room are known, `whole` of them, and their reading begins. `room` is the folder of its room."""

    def __init__(self, room: Path, whole: int) -> None:
        super().__init__()
        self.room = room
        self.whole = whole


class MachineJudged(Message):
    """One machine was read, or could not be, and judged; `done` of `whole` are behind it. `room` is the folder of its room."""

    def __init__(self, room: Path, machine: JudgedMachine, done: int, whole: int) -> None:
        super().__init__()
        self.room = room
        self.machine = machine
        self.done = done
        self.whole = whole


class RoomRead(Message):
    """The reading of a room is over; `problem` says why where it did not end well."""

    def __init__(self, room: Path, problem: str = "") -> None:
        super().__init__()
        self.room = room
        self.problem = problem
