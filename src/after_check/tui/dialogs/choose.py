"""A question with a key for each answer."""

from __future__ import annotations

from typing import ClassVar

from rich.table import Table
from rich.text import Text
from textual import events
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.widgets import Static

from after_check.tui.base import ShopDialog
from after_check.tui.theme import Ink


class ChooseDialog(ShopDialog[str | None]):
    """Asks something, and returns the key of the answer; None where it was left without one. Answers stand in the order of their weight."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape", "dismiss(None)", "back")]

    def __init__(self, title: str, question: str, answers: tuple[tuple[str, str], ...]) -> None:
        super().__init__()
        self._title, self._question, self._answers = title, question, answers

    def compose(self) -> ComposeResult:
        """Lay out the question."""
        text = Text()
        text.append(f"{self._title}\n\n", f"bold {Ink.PROMISED}")
        text.append(f"{self._question}\n", Ink.TEXT)
        keys = Table.grid(padding=(0, 2, 0, 0))
        for key, words in (*self._answers, ("esc", "back, nothing is done")):
            keys.add_row(Text(f"{key:<3}", f"bold {Ink.PROMISED}"), Text(words, Ink.TEXT))
        with Vertical(classes="dialog"):
            yield Static(text, markup=False)
            yield Static(keys, markup=False)

    def on_key(self, event: events.Key) -> None:
        """Close with the answer."""
        if event.character in {key for key, _ in self._answers}:
            event.stop()
            self.dismiss(event.character)


class ConfirmDialog(ShopDialog[bool]):
    """Asks something with two answers and returns whether it was agreed to."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("y", "answer(True)", "yes"),
        Binding("n,escape,enter", "answer(False)", "no"),
    ]

    def __init__(self, title: str, question: str, yes: str, no: str, name: str | None = None) -> None:
        super().__init__(name)
        self._title, self._question, self._answers = title, question, (("y", yes), ("n", no))

    def compose(self) -> ComposeResult:
        """Lay out the question."""
        text = Text()
        text.append(f"{self._title}\n\n", f"bold {Ink.PROMISED}")
        text.append(f"{self._question}\n", Ink.TEXT)
        for key, words in self._answers:
            text.append(f"\n{key}", f"bold {Ink.PROMISED}")
            text.append(f"  {words}", Ink.TEXT)
        with Vertical(classes="dialog"):
            yield Static(text, markup=False)

    def action_answer(self, agreed: bool) -> None:
        """Close with the answer."""
        self.dismiss(agreed)


def trust_dialog(reason: str) -> ConfirmDialog:
    """Return the question whether a host's key or certificate is the right one; `reason` shows its fingerprint."""
    return ConfirmDialog("IS THIS THE MACHINE YOU MEAN?", reason, "it is the same: accept and remember it", "refuse; nothing is read")
