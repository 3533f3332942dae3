"""Naming a maker that a module gives only as a JEDEC code."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.widgets import Input, Static

from after_check.domain.modules import MakerId
from after_check.tui.base import ShopDialog


class NameMakerDialog(ShopDialog[str | None]):
    """Asks for a name; it counts for every module of this shop with the same code."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape", "dismiss", "back")]

    def __init__(self, maker: MakerId, slot: str) -> None:
        super().__init__()
        self._maker = maker
        self._slot = slot

    def compose(self) -> ComposeResult:
        """Lay out the question."""
        text = Text()
        text.append("WHO MADE THIS MODULE?\n\n", f"bold {self.palette.promised}")
        text.append(f"The module in {self._slot or 'no named slot'} gives its maker as {self._maker} only.\n", self.palette.text)
        text.append("The name on its sticker counts for all modules of this shop with that code.\n", self.palette.muted)
        with Vertical(classes="dialog"):
            yield Static(text)
            yield Input(id="maker-name", placeholder="the name on the sticker")

    @on(Input.Submitted, "#maker-name")
    def named(self, event: Input.Submitted) -> None:
        """Close with the name."""
        self.dismiss(event.value.strip() or None)
