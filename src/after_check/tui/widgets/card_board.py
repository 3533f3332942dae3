"""The drawing of a card: slots in the order of filling and their channels, then its limits; filled in and corrected where it is."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.binding import Binding, BindingType
from textual.message import Message

from after_check.domain.cards import Card, CardSlot
from after_check.tui.charts.card_board import card_board_lines
from after_check.tui.charts.card_edit import added, confirmed, moved, next_channel, removed
from after_check.tui.charts.card_limits import LIMITS, LimitLine, gaps
from after_check.tui.charts.cells import beside, fitted, wrapped
from after_check.tui.theme import Ink
from after_check.tui.widgets.drawn import Drawn

_TWO_COLUMNS = 100
_GAP = 4


class CardDrawing(Drawn, can_focus=True):
    """The model's slots in the order in which they are filled, and its limits; or what is wrong with the card.

    With the focus it is filled in by key: every change is posted as another card. The cursor goes through slots and limits.
    """

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("up", "step(-1)", show=False),
        Binding("down", "step(1)", show=False),
        Binding("left", "channel(-1)", show=False),
        Binding("=", "confirm", "channels are so", show=False, tooltip="the channels are as drawn: seen on the board or in its manual"),
        Binding("right", "channel(1)", "channel", key_display="← →", tooltip="the channel of the chosen slot"),
        Binding("plus", "move(1)", show=False),
        Binding("minus", "move(-1)", "earlier", key_display="- +", tooltip="fill the chosen slot earlier (-) or later (+)"),
        Binding("enter", "words", "in words", tooltip="another name for the chosen slot, or another value for the chosen line"),
        Binding("insert,a", "add", "add a slot", key_display="a", tooltip="another slot after the chosen one"),
        Binding("delete,d", "remove", "remove", key_display="d", tooltip="take the chosen slot off the sheet, or what a line says"),
        *(Binding(str(number), f"choose({number - 1})", show=False) for number in range(1, 10)),
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

    class ValueWanted(Message):
        """What a line says is to be typed."""

        def __init__(self, line: LimitLine) -> None:
            super().__init__()
            self.line = line

    card: Card | None = None
    problem = ""
    cursor = 0

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the card: slots and limits beneath each other, and where there is room for it the board that they make beside them."""
        if self.card is None or cells < _TWO_COLUMNS:
            return self._list(cells, rows)
        column = (cells - _GAP) // 2
        chosen = self.card.slots[self._at].name if self.has_focus and self._on_slot else ""
        return beside(self._list(column, rows), card_board_lines(self.card, chosen, column)[:rows], column, _GAP)

    def _list(self, cells: int, rows: int) -> list[Text]:
        """Return slots and limits beneath each other, the chosen line in sight."""
        if self.card is None:
            return [Text(line, Ink.SHORT) for line in wrapped(f"▲ {self.problem}", cells)]
        card = self.card
        lines = [Text(f"SLOTS OF {card.name.upper()}, in the order in which they are filled", f"bold {Ink.MUTED}")]
        if not card.slots:
            lines.append(Text("  ? not known: a adds one. Good for: says which slots a new module goes into", Ink.MUTED))
        chosen = 0
        for index, slot in enumerate(card.slots):
            if index == self._at:
                chosen = len(lines)
            lines.append(self._slot(index, slot, sorted({other.channel for other in card.slots if other.channel})))
        open_lines = gaps(card)
        limits = f"LIMITS OF THIS MODEL: {open_lines} not known" if open_lines else "LIMITS OF THIS MODEL"
        lines += [Text(""), Text(limits, f"bold {Ink.MUTED}")]
        for number, limit in enumerate(LIMITS):
            here = self.has_focus and self._at == len(card.slots) + number
            if self._at == len(card.slots) + number:
                chosen = len(lines)
            lines.append(self._limit(limit, card, here))
            if here:
                lines += self._choices(limit, card, cells)
        first = max(0, min(chosen - rows // 2, len(lines) - rows))
        return lines[first : first + rows]

    def _slot(self, index: int, slot: CardSlot, channels: list[str]) -> Text:
        here = self.has_focus and index == self._at
        line = Text("▶" if here else " ", f"bold {Ink.PROMISED}", no_wrap=True)
        line.append(f" {index + 1}. ", Ink.PROMISED)
        line.append(fitted(slot.name, 14), f"bold reverse {Ink.TEXT}" if here else f"bold {Ink.TEXT}")
        line.append("  channel ", Ink.MUTED)
        if not slot.channel:
            line.append(" ? ", f"bold {Ink.PROMISED}")
            line.append("  not known: ← → says it" if here else "  not known", Ink.PROMISED)
            return line
        for other in channels:
            known = f"bold {Ink.ON_COLOUR} on {Ink.MODULE}" if not slot.guessed else f"{Ink.PROMISED}"
            line.append(
                f" {other}{'?' if slot.guessed else ''} " if other == slot.channel else " · ", known if other == slot.channel else Ink.LINE
            )
        if slot.guessed:
            line.append("  a guess: = where it is so, ← → where not" if here else "  a guess", Ink.PROMISED)
        return line

    def _limit(self, limit: LimitLine, card: Card, here: bool) -> Text:
        line = Text("▶ " if here else "  ", f"bold {Ink.PROMISED}", no_wrap=True)
        line.append(fitted(limit.words, 23), f"bold {Ink.TEXT}" if here else Ink.MUTED)
        said = limit.said(card)
        if said:
            line.append(said, f"bold {Ink.TEXT}")
        else:
            line.append("? ", f"bold {Ink.PROMISED}")
            line.append(limit.good_for, Ink.MUTED)
        return line

    def _choices(self, limit: LimitLine, card: Card, cells: int) -> list[Text]:
        """Return the keys of a line's values, in as many lines as they need."""
        lines = [Text("    ", no_wrap=True)]
        for key, words in [*((str(number), choice.words) for number, choice in enumerate(limit.choices(card), 1)), ("enter", "in words")]:
            if lines[-1].cell_len + len(key) + len(words) + 3 > cells and lines[-1].plain.strip():
                lines.append(Text("    ", no_wrap=True))
            lines[-1].append(f"{key} ", f"bold {Ink.PROMISED}")
            lines[-1].append(f"{words}  ", Ink.TEXT)
        return lines

    @property
    def _count(self) -> int:
        return (len(self.card.slots) if self.card else 0) + len(LIMITS)

    @property
    def _at(self) -> int:
        return min(self.cursor, self._count - 1)

    @property
    def _on_slot(self) -> bool:
        return self.card is not None and self._at < len(self.card.slots)

    @property
    def _line(self) -> LimitLine | None:
        return LIMITS[self._at - len(self.card.slots)] if self.card is not None and not self._on_slot else None

    def on_focus(self) -> None:
        """Show the cursor."""
        self.refresh()

    def on_blur(self) -> None:
        """Hide the cursor."""
        self.refresh()

    def action_step(self, by: int) -> None:
        """Go to the next slot or line."""
        self.cursor = (self._at + by) % self._count
        self.refresh()

    def action_confirm(self) -> None:
        """Take the channels as seen on the board: none is a guess any more."""
        if self.card is not None:
            self.post_message(self.Corrected(confirmed(self.card)))

    def action_channel(self, by: int) -> None:
        """Put the slot on the next channel."""
        if self.card is not None and self._on_slot:
            self.post_message(self.Corrected(next_channel(self.card, self._at, by)))

    def action_move(self, by: int) -> None:
        """Fill the slot earlier or later."""
        if self.card is None or not self._on_slot:
            return
        changed = moved(self.card, self._at, by)
        if changed is not self.card:
            self.cursor = self._at + by
            self.post_message(self.Corrected(changed))

    def action_choose(self, index: int) -> None:
        """Take one of the values of a line, and go to the next line."""
        choices = self._line.choices(self.card) if self.card is not None and self._line is not None else ()
        if index < len(choices):
            self.cursor = min(self._at + 1, self._count - 1)
            self.post_message(self.Corrected(choices[index].card))

    def action_words(self) -> None:
        """Ask for another name of the slot, or another value of the line."""
        if self.card is not None and self._on_slot:
            self.post_message(self.NameWanted(self._at, self.card.slots[self._at].name))
        elif self._line is not None:
            self.post_message(self.ValueWanted(self._line))

    def action_add(self) -> None:
        """Add a slot behind the chosen one, or behind the last."""
        if self.card is not None:
            after = min(self._at, len(self.card.slots) - 1)
            self.cursor = after + 1
            self.post_message(self.Corrected(added(self.card, after)))

    def action_remove(self) -> None:
        """Take the slot off the sheet, or what the line says."""
        if self.card is not None and self._on_slot:
            self.post_message(self.Corrected(removed(self.card, self._at)))
        elif self.card is not None and self._line is not None:
            self.post_message(self.Corrected(self._line.emptied(self.card)))
