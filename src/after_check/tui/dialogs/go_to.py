"""Going anywhere by typing a part of its name: what can be done here, the jobs, the themes. Each shows its own key as well."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar

from rich.text import Text
from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.fuzzy import Matcher
from textual.widgets import Input, OptionList, Static
from textual.widgets.option_list import Option

from after_check.tui.base import ShopDialog
from after_check.tui.charts.cells import fitted, right_aligned
from after_check.tui.theme import Ink
from after_check.tui.widgets.listed import Listed
from after_check.tui.widgets.typed_line import TypedLine

_MOST_SHOWN = 12
_MOST_GUESSED = 200


@dataclass(frozen=True, slots=True)
class Way:
    """Somewhere to go, or something to do: its words, what kind it is, its key, and how."""

    words: str
    kind: str
    key: str
    go: Callable[[], object]


class GoToDialog(ShopDialog[Way | None]):
    """Lists what matches; enter goes to the chosen one."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape,ctrl+p", "dismiss", "back"),
        Binding("up", "move(-1)", show=False),
        Binding("down", "move(1)", show=False),
    ]

    def __init__(self, ways: tuple[Way, ...]) -> None:
        super().__init__()
        self._ways = ways
        self._shown: list[Way] = []

    def compose(self) -> ComposeResult:
        """Lay out line and list."""
        with Vertical(classes="dialog"):
            yield Static(Text("GO TO", f"bold {Ink.PROMISED}"), markup=False)
            yield TypedLine(placeholder="a job, a view, a thing to do", id="go-to-line")
            yield Listed(id="go-to-list")

    def on_mount(self) -> None:
        """Begin with what can be done here."""
        self.query_one("#go-to-list", OptionList).can_focus = False
        self.call_after_refresh(self._show, "")

    @on(Input.Changed, "#go-to-line")
    def typed(self, event: Input.Changed) -> None:
        """Show what matches."""
        self._show(event.value.strip())

    def _show(self, text: str) -> None:
        self._shown = matching(self._ways, text)[:_MOST_SHOWN]
        listed = self.query_one("#go-to-list", OptionList)
        cells = max(30, listed.size.width - 2)
        listed.clear_options()
        listed.add_options([Option(_line(way, cells)) for way in self._shown])
        if not self._shown:
            listed.add_option(Option(Text("nothing of that name", Ink.MUTED), disabled=True))
        listed.highlighted = 0 if self._shown else None

    def action_move(self, by: int) -> None:
        """Move the choice."""
        listed = self.query_one("#go-to-list", OptionList)
        if self._shown:
            listed.highlighted = ((listed.highlighted or 0) + by) % len(self._shown)

    @on(Input.Submitted, "#go-to-line")
    def chosen(self) -> None:
        """Go to the chosen one."""
        at = self.query_one("#go-to-list", OptionList).highlighted
        self.dismiss(self._shown[at] if at is not None and at < len(self._shown) else None)

    @on(OptionList.OptionSelected, "#go-to-list")
    def clicked(self, event: OptionList.OptionSelected) -> None:
        """Go to the one that was clicked on."""
        self.dismiss(self._shown[event.option_index])


def matching(ways: tuple[Way, ...], text: str) -> list[Way]:
    """Return the ways in which every word of a text occurs, in their order; none of them, those that have its letters in order."""
    words = text.casefold().split()
    found = [way for way in ways if all(word in way.words.casefold() for word in words)]
    if found:
        return found
    matcher = Matcher(text)
    scored = [(matcher.match(way.words), way) for way in ways[:_MOST_GUESSED]]
    return [way for _, way in sorted(((score, way) for score, way in scored if score > 0), key=lambda found: -found[0])]


def _line(way: Way, cells: int) -> Text:
    key = Text(way.key, f"bold {Ink.PROMISED}") if way.key else Text(way.kind, Ink.MUTED)
    return right_aligned(Text(fitted(way.words, cells - key.cell_len - 2), Ink.TEXT), key, cells)
