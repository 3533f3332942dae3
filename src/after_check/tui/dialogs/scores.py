"""Typing or pasting scores of other programs, several lines at once."""

from __future__ import annotations

from typing import ClassVar

from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.widgets import Static, TextArea

from after_check.benchmark.scores import parse_scores
from after_check.benchmark.words import plain_number
from after_check.domain.benchmark import Series
from after_check.tui.base import ShopDialog, after_typing

_HOW = (
    "One to a line: a name, the value of each run, a unit. One run proves nothing; three before and three now do.\n"
    "Export 61.2 60.8 61.0 s   or   Frames: 58fps 57fps 58fps   or   Startup 1 min 20 s   or   Export froze"
)


class ScoresDialog(ShopDialog[tuple[Series, ...]]):
    """Asks for scores, one to a line; shows what it understands as it is typed."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("ctrl+s", "keep", "keep", priority=True),
        Binding("escape", "back", "back", priority=True),
    ]

    def __init__(self, moment: str) -> None:
        super().__init__()
        self._moment = moment

    def compose(self) -> ComposeResult:
        """Lay out the lines and what they say."""
        with Vertical(classes="dialog"):
            yield Static(f"SCORES {self._moment.upper()}", classes="title")
            yield Static(_HOW)
            yield TextArea(id="scores-text")
            yield Static("", id="scores-said", markup=False)
            yield Static("ctrl+s keeps them, esc leaves without.")

    def on_mount(self) -> None:
        """Begin typing."""
        self.query_one(TextArea).focus()

    @on(TextArea.Changed)
    def changed(self) -> None:
        """Say what is understood."""
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
            self.dismiss(found)

    def action_back(self) -> None:
        """Leave without keeping."""
        self.dismiss(())


def _understood(series: Series) -> str:
    if series.did_not_run:
        return f"{series.name}: it did not run"
    values = ", ".join(plain_number(value) for value in series.samples)
    runs = "one run: proves nothing alone" if len(series.samples) == 1 else f"{len(series.samples)} runs"
    return f"{series.name}: {values} {series.unit}, {'lower' if series.lower_is_better else 'higher'} is better, {runs}"
