"""What the reading of a room tells its screen."""

from __future__ import annotations

from textual.message import Message

from after_check.judgement.room import JudgedMachine


class MachineJudged(Message):
    """One machine was read, or could not be, and judged; `done` of `whole` are behind it."""

    def __init__(self, machine: JudgedMachine, done: int, whole: int) -> None:
        super().__init__()
        self.machine = machine
        self.done = done
        self.whole = whole


class RoomRead(Message):
    """The reading of a room is over; `problem` says why where it did not end well."""

    def __init__(self, problem: str = "") -> None:
        super().__init__()
        self.problem = problem
