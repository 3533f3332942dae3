"""What the worker that takes a reading tells its screen."""

from __future__ import annotations

from textual.message import Message

from after_check.sources.taken import Taken


class ReadingTaken(Message):
    """A reading was taken and may be kept."""

    def __init__(self, taken: Taken) -> None:
        super().__init__()
        self.taken = taken


class ReadingFailed(Message):
    """No reading could be taken; the job is as it was."""

    def __init__(self, reason: str) -> None:
        super().__init__()
        self.reason = reason
