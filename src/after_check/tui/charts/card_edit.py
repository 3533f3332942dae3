"""Corrections of a card on its drawing: the order of filling, a slot's channel, a slot more or less."""

from __future__ import annotations

from dataclasses import replace

from after_check.domain.cards import Card, CardSlot

_CHANNELS = "ABCDEFGHIJKL"


def moved(card: Card, index: int, by: int) -> Card:
    """Return the card with a slot filled earlier (by -1) or later (by 1); unchanged at the ends."""
    target = index + by
    if not (0 <= index < len(card.slots) and 0 <= target < len(card.slots)):
        return card
    slots = list(card.slots)
    slots[index], slots[target] = slots[target], slots[index]
    return replace(card, slots=tuple(slots))


def next_channel(card: Card, index: int, by: int) -> Card:
    """Return the card with a slot's channel one letter on or back; a channel of another name begins at A."""
    slots = list(card.slots)
    channel = slots[index].channel.upper()
    at = (_CHANNELS.index(channel) + by) % len(_CHANNELS) if channel in _CHANNELS and channel else 0
    slots[index] = replace(slots[index], channel=_CHANNELS[at], guessed=False)
    return replace(card, slots=tuple(slots))


def confirmed(card: Card) -> Card:
    """Return the card with its channels as somebody saw them on the board or in the manual: none is a guess any more."""
    return replace(card, slots=tuple(replace(slot, guessed=False) for slot in card.slots))


def renamed(card: Card, index: int, name: str) -> Card:
    """Return the card with another name for a slot. Raises ValueError where another slot has it or it is empty."""
    name = name.strip()
    if not name:
        raise ValueError("a slot needs a name")
    if any(slot.name.casefold() == name.casefold() for at, slot in enumerate(card.slots) if at != index):
        raise ValueError(f"another slot is named {name}")
    slots = list(card.slots)
    slots[index] = replace(slots[index], name=name)
    return replace(card, slots=tuple(slots))


def added(card: Card, after: int) -> Card:
    """Return the card with a new slot after another, named by the first free number; its channel is not known until it is said."""
    taken = {slot.name.casefold() for slot in card.slots}
    name = next(f"slot {number}" for number in range(1, len(taken) + 2) if f"slot {number}" not in taken)
    slots = list(card.slots)
    slots.insert(after + 1, CardSlot(name, ""))
    return replace(card, slots=tuple(slots))


def removed(card: Card, index: int) -> Card:
    """Return the card without a slot."""
    return replace(card, slots=card.slots[:index] + card.slots[index + 1 :])
