"""A dialog that asks what is in a slot: size, kind and rate, one key each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.widgets import Static

from after_check.domain.cards import Card
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.modules import Module
from after_check.domain.quantities import size_text
from after_check.language.corrections import likely_kinds, likely_rates, likely_sizes
from after_check.tui.base import ShopDialog
from after_check.tui.theme import Ink


@dataclass(frozen=True, slots=True)
class SlotAnswer:
    """What is in the slot; no module is an empty one. `in_words`: it is to be typed instead."""

    module: Module | None = None
    in_words: bool = False


_STEPS = ("size_bytes", "generation", "rated_mts")
_NAMES = {"size_bytes": "size", "generation": "kind", "rated_mts": "sold as"}


class ModuleDialog(ShopDialog[SlotAnswer | None]):
    """Asks for size, kind and rate in turn; what was known of the module stays where another key is not pressed."""

    BINDINGS: ClassVar[list[BindingType]] = [
        *(Binding(str(number), f"choose({number - 1})", show=False) for number in range(1, 10)),
        Binding("enter,down", "go_on", "keep it and go on"),
        Binding("up", "back_a_step", "a step back"),
        Binding("e,minus,delete", "empty", "empty"),
        Binding("w", "words", "in words"),
        Binding("escape", "dismiss(None)", "back"),
    ]

    def __init__(self, slot: str, module: Module | None, others: Sequence[Module], card: Card | None) -> None:
        super().__init__()
        self._slot = slot
        self._module = module or Module()
        self._others = tuple(others)
        self._card = card
        self._step = 0

    def compose(self) -> ComposeResult:
        """Lay out the three rows."""
        with Vertical(classes="dialog"):
            yield Static(id="module-rows", markup=False)

    def on_mount(self) -> None:
        """Draw them."""
        self._draw()

    def _choices(self) -> tuple[Any, ...]:
        generation = value_of(self._module.generation)
        if _STEPS[self._step] == "size_bytes":
            return likely_sizes(self._others, self._card, generation)
        if _STEPS[self._step] == "generation":
            return likely_kinds(self._others, self._card)
        return likely_rates(generation, self._others, self._card) if generation is not None else ()

    def _draw(self) -> None:
        text = Text()
        text.append(f"WHAT IS IN {self._slot}\n\n", f"bold {Ink.PROMISED}")
        for number, name in enumerate(_STEPS):
            here = number == self._step
            text.append("▶ " if here else "  ", f"bold {Ink.PROMISED}")
            text.append(f"{_NAMES[name]:<9}", Ink.TEXT if here else Ink.MUTED)
            text.append(f"{_words(name, value_of(getattr(self._module, name)))}\n", f"bold {Ink.TEXT}")
            if here:
                text.append("           ")
                for key, choice in enumerate(self._choices(), 1):
                    text.append(f"{key} ", f"bold {Ink.PROMISED}")
                    text.append(f"{_words(name, choice)}   ", Ink.TEXT)
                text.append("\n")
        text.append("\nenter", f"bold {Ink.PROMISED}")
        text.append(" keeps what is there   ", Ink.MUTED)
        for hint, words in (("e", "empty slot"), ("w", "in words"), ("↑", "a step back"), ("esc", "back")):
            text.append(hint, f"bold {Ink.PROMISED}")
            text.append(f" {words}   ", Ink.MUTED)
        self.query_one("#module-rows", Static).update(text)

    def action_choose(self, index: int) -> None:
        """Take a choice and go on."""
        choices = self._choices()
        if index >= len(choices):
            return
        name = _STEPS[self._step]
        if name == "generation" and value_of(self._module.generation) not in (None, choices[index]):
            self._module = replace(self._module, rated_mts=None, timings=None)  # No rate of one kind is a rate of another.
        changes: dict[str, Any] = {name: Fact(choices[index], Source.TYPED)}
        self._module = replace(self._module, **changes)
        self.action_go_on()

    def action_go_on(self) -> None:
        """Go to the next row; behind the last, the module is done. What has no choices is passed over."""
        self._step += 1
        if self._step >= len(_STEPS) or not self._choices():
            self.dismiss(SlotAnswer(self._module))
        else:
            self._draw()

    def action_back_a_step(self) -> None:
        """Go to the row before."""
        self._step = max(0, self._step - 1)
        self._draw()

    def action_empty(self) -> None:
        """The slot is empty."""
        self.dismiss(SlotAnswer())

    def action_words(self) -> None:
        """Type it instead."""
        self.dismiss(SlotAnswer(in_words=True))


def _words(name: str, value: Any) -> str:
    if value is None:
        return "not known"
    return size_text(value) if name == "size_bytes" else f"{value} MT/s" if name == "rated_mts" else str(value)
