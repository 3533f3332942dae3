"""Typing or pasting scores of other programs, several lines at once."""

from __future__ import annotations

import contextlib
from typing import ClassVar

from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.widgets import Static, TextArea

from after_check.benchmark.measurement_names import plain_number
from after_check.benchmark.scores import parse_scores
from after_check.domain.benchmark import Series
from after_check.shop.errors import ShopError
from after_check.tui.base import DraftDialog, after_typing

_HOW = (
    "One to a line: a name, the value of each run, a unit. One run proves nothing; three before and three now do.\n"
    "Export 61.2 60.8 61.0 s   or   Frames: 58fps 57fps 58fps   or   Startup 1 min 20 s   or   Export froze"
)


class ScoresDialog(DraftDialog[tuple[Series, ...]]):
    """Asks for scores, one to a line; shows what it understands as it is typed."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("ctrl+s", "keep", "keep", priority=True),
        Binding("escape", "back", "back", priority=True),
    ]

    def __init__(self, moment: str, draft_place: str = "", typed: str = "") -> None:
        """`draft_place`: where what is typed lives until whoever asked forgets it; `typed`: lines that could not be kept."""
        super().__init__()
        self._moment = moment
        self.draft_place = draft_place
        self.typed = typed

    def compose(self) -> ComposeResult:
        """Lay out the lines and what they say."""
        with Vertical(classes="dialog"):
            yield Static(f"SCORES {self._moment.upper()}", classes="title", markup=False)
            yield Static(_HOW, markup=False)
            yield TextArea(self.typed, id="scores-text")
            yield Static("", id="scores-said", markup=False)
            yield Static("ctrl+s keeps them, esc leaves without.", markup=False)

    async def on_mount(self) -> None:
        """Begin typing, behind what was typed when the program was ended."""
        text = self.query_one(TextArea)
        text.focus()
        draft = ""
        if self.draft_place and not self.typed:
            with contextlib.suppress(ShopError):
                draft = await self.left_unfinished()
        if draft and not text.text:
            text.text = draft
            text.move_cursor(text.document.end)

    def draft_text(self) -> str:
        """Return what is typed."""
        return self.query_one(TextArea).text

    @on(TextArea.Changed)
    def changed(self) -> None:
        """Say what is understood, and keep the draft."""
        self.keep_draft()
        found, problems = parse_scores(self.query_one(TextArea).text)
        said = [_understood(score) for score in found]
        self.query_one("#scores-said", Static).update("\n".join([*(f"▲ {problem}" for problem in problems), *said][:8]))

    def action_keep(self) -> None:
        """Keep the scores once all that was typed has arrived."""
        after_typing(self, self._keep_if_understood)

    def _keep_if_understood(self) -> None:
        found, problems = parse_scores(self.query_one(TextArea).text)
        if problems:
            self.notify(str(problems[0]), severity="warning", timeout=6)
        else:
            self.typed = self.draft_text()
            self._close(self.typed, found)

    def action_back(self) -> None:
        """Leave without keeping."""
        self._close("", ())

    def _close(self, draft: str, found: tuple[Series, ...]) -> None:
        if self.draft_place:
            self.workers.cancel_group(self, "draft")
            self.keep_now(draft)
        self.dismiss(found)


def _understood(series: Series) -> str:
    if series.did_not_run:
        return f"{series.name}: it did not run"
    values = ", ".join(plain_number(value) for value in series.samples)
    runs = "one run: proves nothing alone" if len(series.samples) == 1 else f"{len(series.samples)} runs"
    return f"{series.name}: {values} {series.unit}, {'lower' if series.lower_is_better else 'higher'} is better, {runs}"
