"""What a running soak tells the screens."""

from __future__ import annotations

from textual.message import Message

from after_check.domain.soak import SoakRecord


class SoakMoved(Message):
    """A soak went on, or ended; `record` is how it stands."""

    def __init__(self, job: str, record: SoakRecord) -> None:
        super().__init__()
        self.job = job
        self.record = record
