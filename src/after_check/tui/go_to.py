"""Going anywhere by typing a part of its name: what can be done here, the jobs, the themes. Each shows its own key as well."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar, cast

from rich.text import Text
from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.fuzzy import Matcher
from textual.screen import Screen
from textual.widgets import Input, OptionList, Static
from textual.widgets.option_list import Option

from after_check.shop.lines import line_from_json
from after_check.tui.base import ShopDialog
from after_check.tui.bench.list import BenchList
from after_check.tui.bench.screen import BenchScreen
from after_check.tui.drawing.text import fitted, right_aligned
from after_check.tui.help import key_words
from after_check.tui.palette import THEME_WORDS, Palette

if TYPE_CHECKING:
    from after_check.tui.app import AfterCheckApp

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
            yield Static(Text("GO TO", f"bold {self.palette.promised}"))
            yield Input(placeholder="a job, a view, a thing to do", id="go-to-line")
            yield OptionList(id="go-to-list")

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
        listed.add_options([Option(_line(way, cells, self.palette)) for way in self._shown])
        if not self._shown:
            listed.add_option(Option(Text("nothing of that name", self.palette.muted), disabled=True))
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
    return [way for _, way in sorted(((score, way) for score, way in scored if score > 0), key=lambda one: -one[0])]


def ways_from(app: AfterCheckApp, screen: Screen[object]) -> tuple[Way, ...]:
    """Return where one can go from a screen."""
    return (*_of_screen(app, screen), *_everywhere(app), *_jobs(app, screen))


def _of_screen(app: AfterCheckApp, screen: Screen[object]) -> Iterator[Way]:
    for binding in screen.BINDINGS:
        if not isinstance(binding, Binding) or not binding.description:
            continue
        name, _, parameter = binding.action.partition("(")
        given = (parameter.rstrip(")").strip("'\""),) if parameter else ()
        if "." not in name and screen.check_action(name, cast("tuple[object, ...]", given)):
            words = f"{binding.description}: {binding.tooltip}" if binding.tooltip else binding.description
            yield Way(words, "here", key_words(binding.key), lambda action=binding.action: app.call_later(screen.run_action, action))  # type: ignore[misc]


def _everywhere(app: AfterCheckApp) -> Iterator[Way]:
    for name, words in THEME_WORDS.items():
        if name != app.theme:
            yield Way(f"{words} theme", "everywhere", "ctrl+t", lambda name=name: app.choose_theme(name))  # type: ignore[misc]
    yield Way("keys of this screen", "everywhere", "?", app.action_help)
    yield Way("leave After Check", "everywhere", "ctrl+q", lambda: app.call_later(app.action_quit))


def _jobs(app: AfterCheckApp, screen: Screen[object]) -> Iterator[Way]:
    """Yield the jobs; from a screen with something typed on it nobody is led away."""
    if any(line.value for line in screen.query(Input) if line.id != "search" and line.display):
        return
    bench = next((one for one in app.screen_stack if isinstance(one, BenchScreen)), None)
    for entry in bench.entries if bench is not None else ():
        line = line_from_json(entry.line)
        words = " · ".join(part for part in (line.number, line.title, line.machine, line.customer) if part)
        yield Way(words, "job", "", lambda number=entry.number: go_to_job(app, number))  # type: ignore[misc]


def go_to_job(app: AfterCheckApp, number: str) -> None:
    """Leave whatever is open, down to the bench, and open a job."""
    while not isinstance(app.screen, BenchScreen) and len(app.screen_stack) > 1:
        app.pop_screen()
    app.screen.post_message(BenchList.Opened(number))


def _line(way: Way, cells: int, palette: Palette) -> Text:
    key = Text(way.key, f"bold {palette.promised}") if way.key else Text(way.kind, palette.muted)
    return right_aligned(Text(fitted(way.words, cells - key.cell_len - 2), palette.text), key, cells)
