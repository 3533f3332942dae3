"""A machine model as a board: its slots by channel in the order of filling, with its limits drawn on it."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby

from rich.text import Text

from after_check.domain.cards import Card, CardSlot, ProfileChoice
from after_check.domain.quantities import counted, size_text
from after_check.tui.charts.cells import fitted, wrapped
from after_check.tui.theme import Ink

_PLACE_CELLS = 5
_NAME_CELLS = 10
_ORDINALS = {1: "1st", 2: "2nd", 3: "3rd"}
_PROFILES = {
    ProfileChoice.CHOICE: "A profile can be chosen: full speed is a setting away.",
    ProfileChoice.LOCKED: "The firmware locks the profile.",
    ProfileChoice.NONE: "There is no profile to choose: modules run at their standard rate.",
}


def card_board_lines(card: Card, chosen: str, cells: int) -> list[Text]:
    """Return the drawing: channel by channel its slots, each with its place in the order of filling and the largest module that fits."""
    lines = [Text("THE BOARD  as it is filled", f"bold {Ink.MUTED}"), Text("")]
    if not card.slots:
        return [*lines, Text("no slots yet: a adds one", Ink.MUTED)]
    order = {slot.name: place for place, slot in enumerate(card.slots, 1)}
    by_channel = sorted(card.slots, key=lambda slot: (not slot.channel, slot.channel))
    for channel, group in groupby(by_channel, key=lambda slot: slot.channel):
        slots = list(group)
        guessed = any(slot.guessed for slot in slots)
        lines.append(_head(f"channel {channel}{', a guess' if guessed else ''}" if channel else "channel not known", guessed, cells))
        lines += [_slot(slot, order[slot.name], slot.name == chosen, card, cells) for slot in slots]
        if channel:
            lines += [Text(f"{' ' * _PLACE_CELLS}{part}", Ink.MUTED) for part in wrapped(_rates(card, len(slots)), cells - _PLACE_CELLS)]
        lines.append(Text(""))
    for said in _about_all(card):
        lines += [Text(part, Ink.TEXT) for part in wrapped(said, cells)]
    return lines


def _head(words: str, guessed: bool, cells: int) -> Text:
    head = Text(f"{words} ", Ink.PROMISED if guessed else Ink.MUTED, no_wrap=True)
    head.append("─" * max(0, cells - head.cell_len), Ink.LINE)
    return head


def _slot(slot: CardSlot, place: int, chosen: bool, card: Card, cells: int) -> Text:
    line = Text(fitted(_ORDINALS.get(place, f"{place}th"), _PLACE_CELLS), Ink.MUTED, no_wrap=True)
    line.append(fitted(slot.name, _NAME_CELLS), f"bold {Ink.PROMISED}" if chosen else Ink.TEXT)
    body = max(8, cells - _PLACE_CELLS - _NAME_CELLS)
    words = f"{size_text(card.module_bytes)} at most" if card.module_bytes else "largest module not known"
    edge = Ink.PROMISED if chosen else Ink.MUTED
    line.append("▌", edge)
    line.append(fitted(f" {words}", body - 2), Ink.TEXT if card.module_bytes else Ink.MUTED)
    line.append("▐", edge)
    return line


def _rates(card: Card, slots: int) -> str:
    """Return what runs with one, two … modules in a channel of so many slots."""
    said = [(number, card.rate_for(number)) for number in range(1, max(1, slots) + 1)]
    known = [f"{number} in it: {rate_mts} MT/s" for number, rate_mts in said if rate_mts]
    return " · ".join(known) or "how fast with how many in it is not known"


def _about_all(card: Card) -> Iterator[str]:
    """Yield what holds for the whole board, each in a sentence."""
    if card.total_bytes:
        all_slots = (card.module_bytes or 0) * len(card.slots)
        needs = f", which {counted(card.total_bytes // card.module_bytes, 'module')} of the largest size make" if card.module_bytes else ""
        yield f"{size_text(card.total_bytes)} in all at most{needs if all_slots > card.total_bytes else ''}."
    fits = " ".join([*([str(card.generation)] if card.generation else []), *(form.value for form in card.forms)])
    if fits:
        yield f"Only {fits} fits."
    if card.profile is not None:
        yield _PROFILES[card.profile]
