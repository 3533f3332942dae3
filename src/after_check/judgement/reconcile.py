"""Several sources make one reading: which is believed for each quantity, and what contradicts what.

A module is described by the firmware table, by its own SPD, by its label and by whoever types. The module's own word
counts for what it is; the firmware's for what the machine sees of it. The losing value stays beside the winning one.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from typing import Any

from after_check.domain.boards import Filling, Slot
from after_check.domain.fact_table import known_facts, rows, with_facts
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.modules import Generation, Module
from after_check.domain.once import once_for_each
from after_check.domain.quantities import size_text
from after_check.domain.readings import Reading, SpdEntry, StartOutcome
from after_check.judgement.machine_said import said_by_the_machine
from after_check.standards.rates import same_rate

_OWN_WORD = (Source.MEASURED, Source.SPD, Source.LABEL, Source.TYPED, Source.FIRMWARE, Source.SYSTEM, Source.WORKED_OUT)
_AS_SEEN = (Source.MEASURED, Source.FIRMWARE, Source.SYSTEM, Source.TYPED, Source.LABEL, Source.SPD, Source.WORKED_OUT)
_SEEN_FIELDS = frozenset({"size_bytes", "running_mts", "maker"})
"""What counts is what the machine sees (or, of the maker, the only text there is)."""
_UNSOUND = "check sum wrong"
_EMPTY = Module()


@dataclass(frozen=True, slots=True)
class Contradiction:
    """Two values for one thing that cannot both be true."""

    what: str
    first: str
    second: str
    slot: str = ""

    def __str__(self) -> str:
        where = f" in {self.slot}" if self.slot else ""
        return f"{self.what}{where}: {self.first}, and {self.second}"


@once_for_each(64)
def reconciled(reading: Reading) -> Reading:
    """Return the reading with its SPD entries merged into the modules they belong to.

    An entry belongs to the module with its serial number, else with its part number where only one has it; when as
    many entries as filled slots are left, they belong together in order. What belongs to none becomes a module
    without a slot where the reading lists no modules at all.
    """
    if not reading.spd:
        return reading
    filled = [index for index, slot in enumerate(reading.slots) if slot.module is not None]
    if not filled and not reading.loose:
        return replace(reading, loose=tuple(entry.module for entry in reading.spd))
    pairs = _pairs(reading, filled)
    slots = list(reading.slots)
    for index, entry in pairs.items():
        module = slots[index].module
        if module is not None:
            slots[index] = replace(slots[index], module=merge_modules(module, entry.module))
    loose = reading.loose
    if not filled and len(loose) == len(reading.spd):
        loose = tuple(merge_modules(module, entry.module) for module, entry in zip(loose, reading.spd, strict=True))
    return replace(reading, slots=tuple(slots), loose=loose)


def _pairs(reading: Reading, filled: list[int]) -> dict[int, SpdEntry]:
    left = list(reading.spd)
    pairs: dict[int, SpdEntry] = {}
    for name in ("serial", "part"):
        for index in filled:
            module = reading.slots[index].module
            wanted = _key(value_of(getattr(module, name)) if module else None)
            matching = [entry for entry in left if wanted and _key(value_of(getattr(entry.module, name))) == wanted]
            alone = sum(_key(value_of(getattr(reading.slots[other].module, name))) == wanted for other in filled) == 1
            if index not in pairs and len(matching) == 1 and alone:
                pairs[index] = matching[0]
                left.remove(matching[0])
    open_slots = [index for index in filled if index not in pairs]
    if len(open_slots) == len(left):
        pairs.update(zip(open_slots, left, strict=True))
    return pairs


def _key(text: str | None) -> str:
    return (text or "").replace(" ", "").lstrip("0").casefold()


def merge_modules(first: Module, second: Module) -> Module:
    """Return one module from two descriptions of it, field by field."""
    merged = {field.name: merge_facts(field.name, getattr(first, field.name), getattr(second, field.name)) for field in fields(Module)}
    return Module(**merged)


def merge_facts(name: str, first: Fact[Any] | None, second: Fact[Any] | None) -> Fact[Any] | None:
    """Return the believed one of two facts, with the other one beside it where it says something else."""
    if first is None or second is None:
        return first or second
    order = _AS_SEEN if name in _SEEN_FIELDS else _OWN_WORD
    ranked = sorted((first, second), key=lambda fact: (_UNSOUND in fact.where, order.index(fact.source)))
    winner, loser = ranked
    losers = (*winner.others, replace(loser, others=()), *loser.others)
    return replace(winner, others=tuple(fact for fact in losers if not _same(name, fact.value, winner.value)))


_TELLING = ("size_bytes", "generation", "form", "rated_mts", "part", "serial")
"""What two descriptions of one module agree on."""


def combined(base: Reading, added: Reading) -> Reading:
    """Return a reading with what was read or typed in addition; a later value for a setting replaces the earlier.

    A slot that is typed with another module than was read there holds that one now: nothing of the old one stays.
    """
    if any(_is_another(base, slot) for slot in added.slots):
        base = replace(reconciled(base), spd=())  # What each module said of itself goes with it, and not into the next one.
    changes: dict[str, Any] = {}
    for field in fields(Reading):
        new, old = getattr(added, field.name), getattr(base, field.name)
        if field.name in ("slots", "loose", "machine", "origin", "taken_at", "evidence") or new is None or new == ():
            continue
        if isinstance(new, Fact):
            changes[field.name] = _later(old, new)
        elif isinstance(new, Mapping):
            changes[field.name] = {**old, **{name: _later(old.get(name), fact) for name, fact in new.items()}}
        elif isinstance(new, tuple):
            changes[field.name] = tuple(dict.fromkeys((*old, *new)))
        else:
            changes[field.name] = new
    return replace(
        base,
        **changes,
        slots=_combined_slots(base.slots, added.slots),
        loose=added.loose or base.loose,
        evidence=base.evidence + added.evidence,
        origin=f"{base.origin}, then {added.origin}" if added.origin else base.origin,
        taken_at=added.taken_at or base.taken_at,
    )


def _later(old: Fact[Any] | None, new: Fact[Any]) -> Fact[Any]:
    """Return a later value, with the earlier one beside it where it says something else."""
    before = (replace(old, others=()), *old.others) if old is not None and old.value != new.value else ()
    return replace(new, others=before)


def with_system(firmware: Reading, system: Reading) -> Reading:
    """Return what a firmware page shows, and beside it what the system shows of the same machine.

    An amount that the system gives without more is what it can use. Where both speak of one thing, the firmware's word
    stands, and the system's beside it.
    """
    if system.total_bytes is not None and system.usable_bytes is None:
        system = replace(system, usable_bytes=system.total_bytes)
    changes: dict[str, Any] = {}
    for row, second in known_facts(system):
        first = row.of(firmware)
        if row.name == "total_bytes" and (first is not None or firmware.modules):
            continue
        second = replace(second, where="system")
        if first is None:
            firmware = row.put(firmware, second)
        elif first.value != second.value:
            firmware = row.put(firmware, replace(first, where="firmware page", others=(second,)))
    if not firmware.modules:
        changes |= {"slots": system.slots, "loose": system.loose}
    return replace(firmware, **changes, evidence=firmware.evidence + system.evidence)


def fitted_since(arrival: Reading, typed: Reading) -> Reading:
    """Return the machine after other modules were fitted and only typed: the board of arrival, and nothing that it measured then.

    Where nothing of the started machine was typed, it said nothing since: that is no proof of what it sees.
    """
    whole = combined(_not_read_again(arrival), typed)
    if said_by_the_machine(typed, typed.start):
        return whole
    return replace(whole, start=Fact(StartOutcome.NOT_TRIED, Source.WORKED_OUT, "nothing was read since arrival"))


def _not_read_again(arrival: Reading) -> Reading:
    modules = tuple(
        replace(slot, module=replace(slot.module, running_mts=None)) if slot.module is not None else slot for slot in arrival.slots
    )
    arrival = with_facts(arrival, {row.name: None for row in rows() if row.of_moment})
    return replace(
        arrival, slots=modules, via=None, earlier_soaks=(), error_counters=(), mapped=(), nodes=(), temperatures=(), log_lines=()
    )


def _is_another(base: Reading, typed: Slot) -> bool:
    """Return whether a slot was typed with another module than was read in it."""
    before = next((slot.module for slot in base.slots if slot.name.casefold() == typed.name.casefold()), None)
    return before is not None and typed.module is not None and _are_two(before, typed.module)


def _are_two(first: Module, second: Module) -> bool:
    """Return whether two descriptions cannot be of one module."""
    pairs = ((name, getattr(first, name), getattr(second, name)) for name in _TELLING)
    return any(old is not None and new is not None and not _same(name, old.value, new.value) for name, old, new in pairs)


def _combined_slots(base: tuple[Slot, ...], added: tuple[Slot, ...]) -> tuple[Slot, ...]:
    new = {slot.name.casefold(): slot for slot in added}
    slots: list[Slot] = []
    for slot in base:
        other = new.pop(slot.name.casefold(), None)
        if other is None or other.filling is Filling.UNKNOWN:
            slots.append(slot)
        elif slot.module is not None and other.module is not None and not _are_two(slot.module, other.module):
            slots.append(replace(slot, module=merge_modules(slot.module, other.module)))
        else:
            slots.append(replace(other, bank=slot.bank))
    return (*slots, *new.values())


def contradictions(reading: Reading) -> tuple[Contradiction, ...]:
    """Return what the sources of a reconciled reading say of one thing that cannot both be true."""
    found: list[Contradiction] = []
    for slot, module in reading.filled():
        for name, what in (("generation", "generation"), ("part", "part number"), ("serial", "serial number"), ("ranks", "ranks")):
            fact = getattr(module, name)
            for other in fact.others if fact is not None else ():
                if not _same(name, fact.value, other.value):
                    found.append(Contradiction(what, _said(fact), _said(other), slot))
    modules = reading.modules
    # Only devices of DDR5 correct single bits inside themselves; with any other kind one of the two was misread.
    others = bool(modules) and {value_of(module.generation) for module in modules}.isdisjoint({Generation.DDR5, None})
    if others and value_of(reading.ecc_on) and all(value_of(module.ecc) is False for module in modules):
        found.append(Contradiction("error correction", "shown as on", "none of the modules has ECC"))
    running = reading.running_rate
    slowest = min((module.running_mts.value for module in reading.modules if module.running_mts), default=None)
    if running is not None and slowest is not None and not any(same_rate(running.value.number * times, slowest) for times in (1, 2)):
        shown = f"{running.value.number:g} {running.value.unit.value}".strip()
        found.append(Contradiction("running rate", f"{shown} ({running.source.value})", f"{slowest} MT/s (firmware table)"))
    return tuple(found)


def size_contradictions(reading: Reading) -> tuple[tuple[str, int, int], ...]:
    """Return slot, seen bytes and own bytes of modules that the machine sees smaller than they say they are."""
    found: list[tuple[str, int, int]] = []
    for slot, module in reading.filled():
        fact = module.size_bytes
        for other in fact.others if fact is not None else ():
            if fact is not None and other.source is Source.SPD and fact.value < other.value and _UNSOUND not in other.where:
                found.append((slot, fact.value, other.value))
    return tuple(found)


def _same(name: str, first: Any, second: Any) -> bool:
    if name in ("part", "serial", "maker"):
        return _key(str(first)) == _key(str(second)) or _key(str(first)).startswith(_key(str(second)) or "\0")
    if name.endswith("_mts") and isinstance(first, int) and isinstance(second, int):
        return same_rate(first, second)
    return bool(first == second)


def _said(fact: Fact[Any]) -> str:
    value = size_text(fact.value) if isinstance(fact.value, int) and fact.value > 1 << 20 else str(fact.value)
    return f"{value} ({fact.source.value})"
