"""A dialog that asks for one line."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.suggester import SuggestFromList
from textual.widgets import Input, Static

from after_check.tui.base import ShopDialog
from after_check.tui.theme import Ink


class AskDialog(ShopDialog[str | None]):
    """Asks for a line of text under a title; returns it without blanks around it, or None. `may_be_empty`: an empty line is an answer.

    `places` are lines that were given before: one that begins like what is typed is offered, and taken with the right arrow.
    """

    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape", "dismiss", "back")]

    def __init__(
        self,
        title: str,
        question: str = "",
        remark: str = "",
        value: str = "",
        placeholder: str = "",
        password: bool = False,
        may_be_empty: bool = False,
        places: tuple[str, ...] = (),
    ) -> None:
        super().__init__()
        self._title = title
        self._question = question
        self._remark = remark
        self._value = value
        self._placeholder = placeholder
        self._password = password
        self._may_be_empty = may_be_empty
        self._places = places

    def compose(self) -> ComposeResult:
        """Lay out the question."""
        text = Text()
        text.append(f"{self._title}\n", f"bold {Ink.PROMISED}")
        if self._question:
            text.append(f"\n{self._question}\n", Ink.TEXT)
        if self._remark:
            text.append(f"{self._remark}\n", Ink.MUTED)
        with Vertical(classes="dialog"):
            yield Static(text)
            suggester = SuggestFromList(self._places) if self._places else None
            yield Input(value=self._value, id="answer", placeholder=self._placeholder, password=self._password, suggester=suggester)

    @on(Input.Submitted, "#answer")
    def answered(self, event: Input.Submitted) -> None:
        """Close with the line."""
        answer = event.value.strip()
        self.dismiss(answer if answer or self._may_be_empty else None)
