"""Which module goes into which slot: in the order of the machine data sheet, or so that the channels are filled evenly."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from after_check.domain.boards import Filling, Slot
from after_check.domain.cards import Card
from after_check.domain.facts import value_of
from after_check.domain.modules import Form, Module
from after_check.domain.promises import Promise
from after_check.domain.readings import Reading


def alike(first: Module, second: Module) -> bool:
    """Return whether two modules may be one: nothing that both say differs, and their sizes are known and equal."""
    size = value_of(first.size_bytes)
    if size is None or size != value_of(second.size_bytes):
        return False
    names = ("generation", "rated_mts", "form", "ecc", "part", "serial")
    pairs = ((value_of(getattr(first, name)), value_of(getattr(second, name))) for name in names)
    return all(one is None or other is None or one == other for one, other in pairs)


def kept_and_new(arrival: Reading | None, promise: Promise) -> tuple[tuple[tuple[str, Module], ...], tuple[Module, ...]]:
    """Return the modules of the promise that are there already, with the slots that they are in, and those that come in."""
    there = list(arrival.filled()) if arrival is not None else []
    kept: list[tuple[str, Module]] = []
    new: list[Module] = []
    for module in promise.modules:
        found = next((pair for pair in there if alike(module, pair[1])), None)
        if found is None:
            new.append(module)
        else:
            there.remove(found)
            kept.append(found)
    soldered = [pair for pair in there if value_of(pair[1].form) is Form.SOLDERED]  # It cannot be taken out, said or not.
    return (*kept, *soldered), tuple(new)


def planned(arrival: Reading | None, promise: Promise, card: Card | None) -> Reading:
    """Return the board as it is to be: slots with modules as promised, kept ones where they are while the order allows it."""
    if promise.slots:
        named = {slot.name for slot in promise.slots}
        others = _board(arrival, card)
        return Reading(slots=(*promise.slots, *(Slot(name, Filling.EMPTY) for name in others if name not in named)), loose=promise.loose)
    kept, new = kept_and_new(arrival, promise)
    names = _board(arrival, card)
    count = len(kept) + len(new)
    if not names or len(names) < count:
        return Reading(loose=(*(module for _, module in kept), *new))
    ordered = [slot.name for slot in card.slots] if card is not None else []
    wanted = ordered[:count] if set(ordered[:count]) <= set(names) else []  # The machine may name its slots otherwise than the sheet.
    in_slot: dict[str, Module] = {}
    moved: list[Module] = []
    for name, module in kept:
        if name and (not wanted or name in wanted or value_of(module.form) is Form.SOLDERED) and name not in in_slot:
            in_slot[name] = module
        else:
            moved.append(module)
    free = [name for name in (wanted or names) if name not in in_slot]
    for module in (*moved, *new):
        name = free[0] if wanted else _emptiest(free, in_slot, arrival)
        free.remove(name)
        in_slot[name] = module
    return Reading(slots=tuple(Slot(name, Filling.FILLED if name in in_slot else Filling.EMPTY, in_slot.get(name)) for name in names))


def _board(arrival: Reading | None, card: Card | None) -> list[str]:
    """Return the names of the slots: as the machine shows them, else as the data sheet has them, in the order of filling."""
    shown = [slot.name for slot in arrival.slots] if arrival is not None else []
    listed = [slot.name for slot in card.slots] if card is not None else []
    return [*listed, *(name for name in shown if name not in listed)] if set(shown) & set(listed) or not shown else shown


def _emptiest(free: Iterable[str], in_slot: dict[str, Module], arrival: Reading | None) -> str:
    """Return a free slot of the channel with the fewest modules, by the slots' names."""
    places = {slot.name: slot.place for slot in (arrival.slots if arrival is not None else ())}

    def channel(name: str) -> str:
        place = places.get(name)
        return f"{place.socket}{place.channel}" if place is not None else name

    used = Counter(channel(name) for name in in_slot)
    return min(free, key=lambda name: used[channel(name)])
