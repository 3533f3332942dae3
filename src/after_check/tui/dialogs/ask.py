"""A dialog that asks for one line."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar

from rich.text import Text
from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.suggester import SuggestFromList
from textual.widgets import Input, Static

from after_check.files.errors import SourceError
from after_check.shop.errors import ShopError
from after_check.tui.base import DraftDialog
from after_check.tui.theme import Ink
from after_check.tui.widgets.typed_line import TypedLine


@dataclass(frozen=True, slots=True)
class Asked:
    """What is asked for; `may_be_empty`: an empty line is an answer.

    `places` are lines that were given before: one that begins like what is typed is offered, and taken with the right arrow.
    `check` raises ValueError or SourceError for a line that it does not understand: that is said beneath the line, which stays.
    """

    title: str
    question: str = ""
    remark: str = ""
    value: str = ""
    placeholder: str = ""
    password: bool = False
    may_be_empty: bool = False
    places: tuple[str, ...] = ()
    check: Callable[[str], object] = lambda _: None


class AskDialog(DraftDialog[str | None]):
    """Asks for a line of text under a title; returns it without blanks around it, or None.

    `draft_place` is where what is typed is kept until whoever asked forgets it; leaving with escape forgets it too.
    `typed` is a line that could not be kept and is there again.
    """

    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape", "leave", "back")]

    def __init__(self, asked: Asked, draft_place: str = "", typed: str | None = None) -> None:
        super().__init__()
        self._asked = asked
        self.draft_place = draft_place
        self._typed = typed

    def compose(self) -> ComposeResult:
        """Lay out the question."""
        text = Text()
        text.append(f"{self._asked.title}\n", f"bold {Ink.PROMISED}")
        if self._asked.question:
            text.append(f"\n{self._asked.question}\n", Ink.TEXT)
        if self._asked.remark:
            text.append(f"{self._asked.remark}\n", Ink.MUTED)
        with Vertical(classes="dialog"):
            yield Static(text, markup=False)
            suggester = SuggestFromList(self._asked.places) if self._asked.places else None
            value = self._typed if self._typed is not None else self._asked.value
            line = TypedLine(
                value=value, id="answer", placeholder=self._asked.placeholder, password=self._asked.password, suggester=suggester
            )
            # What comes back by itself must not be selected: the next key would take its place.
            line.select_on_focus = self._typed is None
            yield line
            problem = Static("", id="ask-problem", markup=False)
            problem.display = False
            yield problem

    async def on_mount(self) -> None:
        """Bring back what was typed here when the program was ended."""
        if not self.draft_place or self._typed is not None:
            return
        draft = ""
        with contextlib.suppress(ShopError):
            draft = await self.left_unfinished()
        line = self.query_one("#answer", Input)
        if draft and line.value == self._asked.value:
            line.value = draft
            line.action_end()
            self.notify("what was typed here and not kept is back", timeout=6)

    def draft_text(self) -> str:
        """Return the line, where it is another than the one that stood there."""
        line = self.query_one("#answer", Input).value
        return line if line != self._asked.value else ""

    @on(Input.Changed, "#answer")
    def changed(self) -> None:
        """Keep what is typed; what was said of an earlier line no longer holds."""
        self.query_one("#ask-problem").display = False
        self.keep_draft()

    @on(Input.Submitted, "#answer")
    def answered(self, event: Input.Submitted) -> None:
        """Close with the line."""
        answer = event.value.strip()
        if answer:
            try:
                self._asked.check(answer)
            except (ValueError, SourceError) as problem:
                said = self.query_one("#ask-problem", Static)
                # The line itself is above.
                said.update(f"▲ {str(problem).splitlines()[0]}")
                said.display = True
                return
        if self.draft_place:
            self.workers.cancel_group(self, "draft")
            self.keep_now(self.draft_text())
        self.dismiss(answer if answer or self._asked.may_be_empty else None)

    def action_leave(self) -> None:
        """Leave without an answer."""
        if self.draft_place:
            self.workers.cancel_group(self, "draft")
            self.keep_now("")
        self.dismiss(None)
