"""The drawing of a card: the board in the order of filling, grouped by channel at a glance; corrected where it stands."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.binding import Binding, BindingType
from textual.message import Message

from after_check.domain.cards import Card
from after_check.domain.quantities import size_text
from after_check.tui.charts.card_edit import added, moved, next_channel, removed
from after_check.tui.charts.text import fitted, wrapped
from after_check.tui.theme import Ink
from after_check.tui.widgets.drawn import Drawn


class CardDrawing(Drawn, can_focus=True):
    """The model's slots in the order in which they are filled, and its limits; or what is wrong with the card.

    With the focus its slots can be corrected: every change is posted as another card.
    """

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("up", "step(-1)", show=False),
        Binding("down", "step(1)", show=False),
        Binding("left", "channel(-1)", show=False),
        Binding("right", "channel(1)", "channel", key_display="◂ ▸", tooltip="the channel of the chosen slot"),
        Binding("plus", "move(1)", show=False),
        Binding("minus", "move(-1)", "earlier", key_display="- +", tooltip="fill the chosen slot earlier (-) or later (+)"),
        Binding("enter", "rename", "rename", tooltip="another name for the chosen slot"),
        Binding("insert,a", "add", "add", key_display="a", tooltip="another slot after the chosen one"),
        Binding("delete,d", "remove", "remove", key_display="d", tooltip="take the chosen slot off the data sheet"),
    ]

    class Corrected(Message):
        """The drawing was corrected."""

        def __init__(self, card: Card) -> None:
            super().__init__()
            self.card = card

    class NameWanted(Message):
        """The name of a slot is to be changed."""

        def __init__(self, index: int, name: str) -> None:
            super().__init__()
            self.index = index
            self.name = name

    card: Card | None = None
    problem = ""
    cursor = 0

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the card."""
        if self.card is None:
            return [Text(line, Ink.SHORT) for line in wrapped(f"▲ {self.problem}", cells)]
        card = self.card
        lines = [Text(card.name, f"bold {Ink.TEXT}"), Text("")]
        channels = sorted({slot.channel for slot in card.slots})
        for index, slot in enumerate(card.slots):
            chosen = self.has_focus and index == self._at
            line = Text("▸" if chosen else " ", f"bold {Ink.PROMISED}", no_wrap=True)
            line.append(f"{index + 1}. ", Ink.PROMISED)
            line.append(fitted(slot.name, 14), f"bold reverse {Ink.TEXT}" if chosen else f"bold {Ink.TEXT}")
            line.append("  ")
            for channel in channels:
                mine = channel == slot.channel
                line.append(f" {channel} " if mine else " · ", f"bold {Ink.ON_COLOUR} on {Ink.KEPT}" if mine else Ink.LINE)
            lines.append(line)
        if card.slots:
            lines += [Text(" filled in this order; the letter is the channel", Ink.MUTED), Text("")]
        for word, said in _limits(card):
            line = Text(no_wrap=True)
            line.append(f" {fitted(word, 18)}", Ink.MUTED)
            line.append(said, Ink.TEXT)
            lines.append(line)
        if not self.has_focus:
            lines += [Text(""), Text(" tab: correct the slots here", Ink.MUTED)]
        return lines[:rows]

    @property
    def _at(self) -> int:
        count = len(self.card.slots) if self.card else 0
        return min(self.cursor, max(0, count - 1))

    def on_focus(self) -> None:
        """Show the cursor."""
        self.refresh()

    def on_blur(self) -> None:
        """Hide the cursor."""
        self.refresh()

    def action_step(self, by: int) -> None:
        """Go to the next slot."""
        if self.card is not None and self.card.slots:
            self.cursor = (self._at + by) % len(self.card.slots)
            self.refresh()

    def action_channel(self, by: int) -> None:
        """Put the slot on the next channel."""
        if self.card is not None and self.card.slots:
            self.post_message(self.Corrected(next_channel(self.card, self._at, by)))

    def action_move(self, by: int) -> None:
        """Fill the slot earlier or later."""
        if self.card is None:
            return
        changed = moved(self.card, self._at, by)
        if changed is not self.card:
            self.cursor = self._at + by
            self.post_message(self.Corrected(changed))

    def action_rename(self) -> None:
        """Ask for another name."""
        if self.card is not None and self.card.slots:
            self.post_message(self.NameWanted(self._at, self.card.slots[self._at].name))

    def action_add(self) -> None:
        """Add a slot."""
        if self.card is not None:
            after = self._at if self.card.slots else -1
            self.cursor = after + 1
            self.post_message(self.Corrected(added(self.card, after)))

    def action_remove(self) -> None:
        """Take the slot off the card."""
        if self.card is not None and self.card.slots:
            self.post_message(self.Corrected(removed(self.card, self._at)))


def _limits(card: Card) -> list[tuple[str, str]]:
    found = [
        ("takes", " ".join(part for part in (str(card.generation or ""), ", ".join(card.forms)) if part)),
        ("ECC", card.ecc.value if card.ecc else ""),
        ("largest total", size_text(card.total_bytes) if card.total_bytes else ""),
        ("largest module", size_text(card.module_bytes) if card.module_bytes else ""),
        ("profile", card.profile.value if card.profile else ""),
        *((f"{rate.per_channel} a channel", f"{rate.rate_mts} MT/s") for rate in card.rates),
        ("starts in", f"{card.usual_start_seconds} s" if card.usual_start_seconds else ""),
        ("at the longest", f"{card.longest_start_seconds} s" if card.longest_start_seconds else ""),
    ]
    return [(word, said) for word, said in found if said]
