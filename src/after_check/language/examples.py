"""What people say at this moment, for an entry with nothing typed: from the sheet of the machine, the arrival, the last jobs."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace

from after_check.domain.cards import Card
from after_check.domain.facts import value_of
from after_check.domain.modules import Module
from after_check.domain.promises import Promise
from after_check.domain.quantities import GIB, size_notation, size_text
from after_check.domain.readings import Reading
from after_check.language.short_form import write

_HOW_MANY = 3
_LONGEST = 110
"""Characters: a longer example is nothing that anybody reads."""
_USUAL_ON_ARRIVAL = (
    "2x8gb ddr4 2400, runs at 2400, dual channel, 15.8 GB usable",
    "one stick of 8gb ddr4 2666, other slot empty",
    "8 gb ddr4 soldered + 8 gb sodimm",
)
_USUAL_NOW = (
    "2x16gb ddr4 3200, runs at 3200, dual channel, 31.8 GB usable",
    "32 GB total, 31.7 usable, runs at 3200 MHz, dual channel",
    "2 sticks of 24 GB DDR5-6400, runs at 6400, dual channel, profile 1 on",
)
_USUAL_PROMISES = ("2x16gb ddr4 3200 dual channel", "upgrade to 32gb dual channel", "2x24G DDR5-6400; dual; profile 1")


def said_on_arrival(card: Card | None = None, lately: Iterable[Reading] = ()) -> tuple[str, ...]:
    """Return three examples for a machine that just came in; `lately` are the last jobs' readings on arrival, the newest first."""
    found = [write(reading) for reading in lately if reading.modules]
    if card is not None and card.slots:
        kind = f" {card.generation}" if card.generation is not None else ""
        filled, *others = (slot.name for slot in card.slots)
        found.insert(0, "; ".join([f"{filled}=8G{kind}", *(f"{name}=-" for name in others)]))
    return _three(found, _USUAL_ON_ARRIVAL)


def said_after_fitting(promise: Promise | None, last: Reading | None) -> tuple[str, ...]:
    """Return three examples for a machine that was just fitted: what has to be looked at is left for the person to type."""
    found: list[str] = []
    if promise is not None and promise.modules:
        slots = tuple(replace(slot, module=_in_short(slot.module)) if slot.module is not None else slot for slot in promise.slots)
        modules = write(Reading(slots=slots, loose=tuple(map(_in_short, promise.loose))))
        total = f"; total {size_notation(promise.total_bytes)}" if promise.total_bytes else ""
        found.append(f"{modules}{total}; run ")
    if promise is not None and promise.total_bytes:
        found.append(f"{size_text(promise.total_bytes)} in all, dual channel, runs at ")
    if last is not None:
        found.append("+ profile off; reset")
    return _three(found, _USUAL_NOW)


def said_as_promise(arrival: Reading | None) -> tuple[str, ...]:
    """Return three examples of a promise; what speaks of what is there needs the reading on arrival."""
    return _three(list(_promises_from(arrival)), _USUAL_PROMISES)


def _promises_from(arrival: Reading | None) -> Iterator[str]:
    modules = arrival.modules if arrival is not None else ()
    sizes = {value_of(module.size_bytes) for module in modules}
    if len(sizes) == 1 and (size := sizes.pop()):
        if len(modules) == 1:
            yield f"add another {size // GIB or 1}gb"
        generation, rated_mts = value_of(modules[0].generation), value_of(modules[0].rated_mts)
        kind = f" {generation}-{rated_mts}" if generation and rated_mts else f" {generation}" if generation else ""
        yield f"{max(2, len(modules))}x{2 * size // GIB or 1}G{kind}; dual"
    if modules:
        yield "twice as much"


def _in_short(module: Module) -> Module:
    return Module(size_bytes=module.size_bytes, generation=module.generation, rated_mts=module.rated_mts)


def _three(found: list[str], usual: tuple[str, ...]) -> tuple[str, ...]:
    fitting = [text for text in dict.fromkeys((*found, *usual)) if 0 < len(text) <= _LONGEST]
    return tuple(fitting[:_HOW_MANY])
