"""What was seen at the first start after fitting: the firmware's notice, settings that were cleared, and how it started; a key each."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from rich.text import Text
from textual import events
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.widgets import Static

from after_check.domain.facts import typed
from after_check.domain.readings import Reading, StartOutcome
from after_check.tui.base import ShopDialog
from after_check.tui.theme import Ink

_WORDS = {
    StartOutcome.YES: "it started as usual",
    StartOutcome.SLOW: "it started slowly",
    StartOutcome.CYCLES: "it switched itself off and on before it started",
    StartOutcome.NO: "it did not start",
}


@dataclass(frozen=True, slots=True)
class FirstStart:
    """What somebody saw. The notice and the cleared settings are two things: either may come without the other."""

    memory_changed: bool = False
    settings_reset: bool = False
    start: StartOutcome | None = None

    def applied(self, reading: Reading) -> Reading:
        """Return a reading with what was seen; what was not noted stays as it is."""
        return replace(
            reading,
            memory_changed=typed(True) if self.memory_changed else reading.memory_changed,
            settings_reset=typed(True) if self.settings_reset else reading.settings_reset,
            start=typed(self.start) if self.start is not None else reading.start,
        )

    @property
    def words(self) -> str:
        """What was seen, in a few words; nothing where nothing was noted."""
        said = [
            "notice: amount of memory changed" if self.memory_changed else "",
            "settings were cleared" if self.settings_reset else "",
            _WORDS[self.start] if self.start is not None else "",
        ]
        return ", ".join(part for part in said if part)


class FirstStartDialog(ShopDialog[FirstStart | None]):
    """Notes it; a key pressed again takes it back."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("enter", "done", "done"), Binding("escape", "dismiss(None)", "back")]

    def __init__(self, seen: FirstStart) -> None:
        super().__init__()
        self._seen = seen

    def compose(self) -> ComposeResult:
        """Lay out the lines."""
        with Vertical(classes="dialog"):
            yield Static(id="first-start", markup=False)

    def on_mount(self) -> None:
        """Draw them."""
        self._draw()

    def _draw(self) -> None:
        seen, text = self._seen, Text()
        text.append("THE FIRST START\n\n", f"bold {Ink.PROMISED}")
        lines = [
            ("1", "the firmware said that the amount of memory changed", seen.memory_changed),
            ("2", "its settings were cleared (profile, fans, boot order)", seen.settings_reset),
            *((str(key), words, seen.start is outcome) for key, (outcome, words) in enumerate(_WORDS.items(), 3)),
        ]
        for key, words, is_set in lines:
            text.append(f"{key}  ", f"bold {Ink.PROMISED}")
            text.append("● " if is_set else "○ ", Ink.TEXT if is_set else Ink.MUTED)
            text.append(f"{words}\n", f"bold {Ink.TEXT}" if is_set else Ink.TEXT)
        text.append("\nenter", f"bold {Ink.PROMISED}")
        text.append("  done; it is kept with the reading", Ink.MUTED)
        self.query_one("#first-start", Static).update(text)

    def on_key(self, event: events.Key) -> None:
        """Note it, or take it back."""
        seen, key = self._seen, event.character or ""
        if key == "1":
            self._seen = replace(seen, memory_changed=not seen.memory_changed)
        elif key == "2":
            self._seen = replace(seen, settings_reset=not seen.settings_reset)
        elif key in "3456" and key:
            outcome = list(_WORDS)[int(key) - 3]
            self._seen = replace(seen, start=None if seen.start is outcome else outcome)
        else:
            return
        event.stop()
        self._draw()

    def action_done(self) -> None:
        """Close with it."""
        self.dismiss(self._seen)
