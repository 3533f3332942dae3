"""What the worker that takes a reading tells its screen."""

from __future__ import annotations

from textual.message import Message

from after_check.sources.taken import Taken


class ReadingTaken(Message):
    """A reading was taken and may be kept."""

    def __init__(self, taken: Taken) -> None:
        super().__init__()
        self.taken = taken


class AccessNeeded(Message):
    """A person has to decide: accept a fingerprint, or give a password."""

    def __init__(self, source: str, reason: str, fingerprint: str | None) -> None:
        super().__init__()
        self.source = source
        self.reason = reason
        self.fingerprint = fingerprint


class ReadingFailed(Message):
    """No reading could be taken; the job is as it was."""

    def __init__(self, reason: str) -> None:
        super().__init__()
        self.reason = reason
