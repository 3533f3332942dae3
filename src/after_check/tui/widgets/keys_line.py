"""The keys of a screen in its last line. What matters is never cut off: the next step first, the way out and the help last."""

from __future__ import annotations

from typing import NamedTuple

from rich.text import Text
from textual import events
from textual.binding import Binding
from textual.screen import Screen
from textual.widgets import Input

from after_check.tui.theme import Ink
from after_check.tui.widgets.drawn import Drawn

_ALWAYS = ("escape", "f1", "question_mark")
_MAIN = "enter"
_KEEP = "ctrl+s"
_FOLDED = " … "
_MOST = 4
"""How many keys stand there beside the next step and the way out: more are no longer read."""


class _Key(NamedTuple):
    binding: Binding
    shown: str
    words: str

    @property
    def cells(self) -> int:
        return len(self.shown) + len(self.words) + 3


class KeysLine(Drawn):
    """Draws the next step, the first four keys that can be pressed now, and the way out; the others are folded away, and `?` shows them."""

    def __init__(self) -> None:
        super().__init__()
        self._places: list[tuple[int, int, Binding]] = []

    def on_mount(self) -> None:
        """Follow the theme and the keys."""
        super().on_mount()
        self.screen.bindings_updated_signal.subscribe(self, self._keys_changed)

    def _keys_changed(self, screen: Screen[object]) -> None:
        if self.is_attached and screen is self.screen:
            self.refresh()

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the line."""
        keys = self._keys()
        main = [key for key in keys if key.binding.key in (_MAIN, _KEEP)]
        last = [key for key in keys if key.binding.key in _ALWAYS]
        others = [key for key in keys if key not in main and key not in last]
        room = cells - sum(key.cells for key in (*main, *last))
        shown: list[_Key] = []
        for at, key in enumerate(others[:_MOST]):
            left = room - sum(other.cells for other in shown)
            if key.cells + (len(_FOLDED) if at < len(others) - 1 else 0) > left:
                break
            shown.append(key)
        line = Text(no_wrap=True)
        self._places = []
        for key in (*main, *shown):
            self._append(line, key)
        if len(shown) < len(others):
            line.append(_FOLDED, Ink.MUTED)
        for key in last:
            self._append(line, key)
        return [line]

    def _append(self, line: Text, key: _Key) -> None:
        begin = line.cell_len
        line.append(f" {key.shown} ", f"bold {Ink.PROMISED}")
        line.append(f"{key.words} ", Ink.MUTED)
        self._places.append((begin, line.cell_len, key.binding))

    def _keys(self) -> list[_Key]:
        """Return the keys to show, each action once."""
        found: dict[str, _Key] = {}
        step = str(getattr(self.screen, "next_step", ""))  # What enter does, where a screen says so.
        for _, binding, enabled, _ in self.screen.active_bindings.values():
            words = step if binding.key == _MAIN and step else binding.description
            is_shown = binding.show or binding.key in _ALWAYS or (binding.key == _MAIN and step)
            if is_shown and words and enabled and binding.action not in found:
                shown = "f1" if binding.key == "question_mark" and self._is_typed_on() else self.app.get_key_display(binding)
                found[binding.action] = _Key(binding, shown, words)
        return list(found.values())

    def _is_typed_on(self) -> bool:
        """Return whether a question mark would be text."""
        focused = self.screen.focused
        if isinstance(focused, Input):
            return bool(focused.value)
        # Asked of the widget, so that the text area need not be imported before the bench is there.
        return focused is not None and focused.check_consume_key("question_mark", "?")

    async def on_click(self, event: events.Click) -> None:
        """A click on a key is the key."""
        for begin, end, binding in self._places:
            if begin <= event.x < end:
                self.app.simulate_key(binding.key)
                return
