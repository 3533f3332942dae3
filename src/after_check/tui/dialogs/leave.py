"""Leaving the program while a soak runs."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.widgets import Static

from after_check.domain.soak import SoakRecord
from after_check.tui.base import ShopDialog
from after_check.tui.theme import Ink


class LeaveDialog(ShopDialog[bool]):
    """Asks whether to stop the soak and leave."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("y", "answer(True)", "stop and leave"),
        Binding("n,escape", "answer(False)", "stay"),
    ]

    def __init__(self, record: SoakRecord) -> None:
        super().__init__()
        self._record = record

    def compose(self) -> ComposeResult:
        """Lay out the question."""
        text = Text()
        text.append("A SOAK RUNS\n\n", f"bold {Ink.PROMISED}")
        text.append(f"The {self._record.plan} soak is at {self._record.share:.0%}. Leaving stops it; what it found is kept.\n\n", Ink.TEXT)
        text.append(" y ", f"bold {Ink.PROMISED}")
        text.append("stop it and leave    ", Ink.TEXT)
        text.append(" n ", f"bold {Ink.PROMISED}")
        text.append("stay", Ink.TEXT)
        with Vertical(classes="dialog"):
            yield Static(text)

    def action_answer(self, sure: bool) -> None:
        """Close with the answer."""
        self.dismiss(sure)
