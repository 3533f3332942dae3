"""What a running gauge tells its screen."""

from __future__ import annotations

from textual.message import Message

from after_check.domain.gauge import GaugeRecord


class GaugeMoved(Message):
    """A gauge went on, or ended."""

    def __init__(self, record: GaugeRecord) -> None:
        super().__init__()
        self.record = record
