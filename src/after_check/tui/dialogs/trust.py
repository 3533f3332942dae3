"""Asking whether a host's key or certificate is the right one."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.widgets import Static

from after_check.tui.base import ShopDialog
from after_check.tui.theme import Ink


class TrustDialog(ShopDialog[bool]):
    """Shows a fingerprint for comparison; only a y accepts it."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("y", "decide(True)", "accept"),
        Binding("n,escape,enter", "decide(False)", "refuse"),
    ]

    def __init__(self, reason: str) -> None:
        super().__init__()
        self._reason = reason

    def compose(self) -> ComposeResult:
        """Lay out the question."""
        text = Text()
        text.append("IS THIS THE MACHINE YOU MEAN?\n\n", f"bold {Ink.PROMISED}")
        text.append(f"{self._reason}\n\n", Ink.TEXT)
        text.append("y", f"bold {Ink.PROMISED}")
        text.append("  it is the same: accept and remember it\n", Ink.TEXT)
        text.append("n", f"bold {Ink.PROMISED}")
        text.append("  refuse; nothing is read", Ink.TEXT)
        with Vertical(classes="dialog"):
            yield Static(text)

    def action_decide(self, accepted: bool) -> None:
        """Close with the decision."""
        self.dismiss(accepted)
