"""The keys of where one is."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import VerticalScroll
from textual.screen import Screen
from textual.widgets import Static

from after_check.casework.marks import marks_in
from after_check.tui.base import ShopDialog
from after_check.tui.theme import Ink

_KEY_WORDS = {"question_mark": "?", "slash": "/", "escape": "esc", "enter": "enter"}
_EVERYWHERE = (
    ("tab", "go to the next part of the screen"),
    ("? or F1", "these keys"),
    ("ctrl+p", "go to a job, a view or a thing to do by a part of its name"),
    ("ctrl+t", "dark, light, high contrast"),
    ("ctrl+q", "leave After Check"),
)


def key_words(keys: str) -> str:
    """Return the first of a binding's keys as it is written on a keyboard."""
    first = keys.split(",")[0]
    return _KEY_WORDS.get(first, first)


def drawn_text(screen: Screen[object]) -> str:
    """Return what a screen shows now, as text."""
    return "\n".join(strip.text for strip in screen._compositor.render_strips())


class HelpScreen(ShopDialog[None]):
    """Lists the marks and the keys of the screen beneath, with what they mean and do."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape,question_mark,f1,enter,q", "dismiss", "close")]

    def __init__(self, about: Screen[object]) -> None:
        super().__init__()
        self._about = about
        self._on_screen = drawn_text(about)

    def compose(self) -> ComposeResult:
        """Lay out the list."""
        with VerticalScroll(classes="dialog"):
            yield Static(self._text(), id="keys", markup=False)

    def _text(self) -> Text:
        text = Text()
        text.append(f"{getattr(self._about, 'HELP_TITLE', 'Keys')}\n\n", f"bold {Ink.TEXT}")
        for line in getattr(self._about, "HELP_LINES", ()):
            text.append(f"{line}\n", Ink.MUTED)
        if getattr(self._about, "HELP_LINES", ()):
            text.append("\n")
        for key, what in [*self._keys(), *_EVERYWHERE]:
            text.append(f"{key:>10}  ", f"bold {Ink.PROMISED}")
            text.append(f"{what}\n", Ink.TEXT)
        marks = marks_in(self._on_screen)
        text.append("\n" if marks else "")
        for mark in marks:
            text.append(f"{mark.sign:>10}  ", f"bold {Ink.TEXT}")
            text.append(f"{mark.meaning}\n", Ink.MUTED)
        text.append("\nesc closes this.", Ink.MUTED)
        return text

    def _keys(self) -> list[tuple[str, str]]:
        found: list[tuple[str, str]] = []
        for binding in self._about.BINDINGS:
            if isinstance(binding, Binding) and binding.description:
                found.append((key_words(binding.key), binding.tooltip or binding.description))
        return found
