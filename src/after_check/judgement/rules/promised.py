"""Rules that hold the promised modules, word by word, against the fitted ones."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from after_check.domain.boards import Filling
from after_check.domain.codes import Code
from after_check.domain.fact_table import FactRow, promised_facts
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Finding, finding, shown
from after_check.domain.messages import Message, message
from after_check.domain.modules import Form, Generation, Module, Timings
from after_check.judgement.case import Case
from after_check.standards.labels import parse_label
from after_check.standards.rates import same_rate

_TELLING_LETTERS = 6
_LOW_VOLTAGE_MATTERS = (Generation.DDR2, Generation.DDR3)
"""Generations that are sold for two voltages; later ones have one, and what is written beside it is a profile's."""


def differs(case: Case) -> Iterator[Finding]:
    """module.differs: a fitted module is of another kind than the promised one."""
    said: dict[tuple[Message, ...], list[str]] = {}
    for slot, promised, fitted in _pairs(case):
        with_size = not case.seen or fewer_and_larger(case) or more_and_smaller(case) or is_another(case, promised, fitted)
        found = tuple(_differences(promised, fitted, with_size))
        if found:
            said.setdefault(found, []).append(slot)
    for difference, slots in said.items():
        named = tuple(slot for slot in slots if slot)
        evidence = (shown("difference", Source.WORKED_OUT, difference=difference),)
        yield finding(Code.MODULE_DIFFERS, 0.9, evidence, named, modules=len(slots), named=named, difference=difference)


def is_another(case: Case, promised: Module, fitted: Module) -> bool:
    """Return whether a module that is smaller than promised is another one, and not the promised one half seen.

    It is another one by its part number, by a sticker with the size that it shows, by its serial number where a module of this
    size had it on arrival, or by a rate that is not the promised one where a module of this size, kind and rate was there on arrival.
    """
    parts = [part.casefold() for part in (value_of(promised.part), value_of(fitted.part)) if part]
    if len(parts) == 2 and not (parts[0] in parts[1] or parts[1] in parts[0]):
        return True
    serial, size = value_of(fitted.serial), value_of(fitted.size_bytes)
    label = parse_label(fitted.label.value) if fitted.label is not None else None
    if label is not None and label.size_bytes is not None and label.size_bytes == size:
        return True
    earlier = case.before.reading.modules if case.before is not None else ()
    if promised.rated_mts is not None and fitted.rated_mts is not None and not same_rate(promised.rated_mts.value, fitted.rated_mts.value):
        kind = (size, value_of(fitted.rated_mts), value_of(fitted.generation))
        if any((value_of(one.size_bytes), value_of(one.rated_mts), value_of(one.generation)) == kind for one in earlier):
            return True
    return any(
        serial and serial != value_of(promised.serial) and (value_of(one.serial), value_of(one.size_bytes)) == (serial, size)
        for one in earlier
    )


def fewer_and_larger(case: Case) -> bool:
    """Return whether fewer modules than promised make up all that was promised: other modules, and none that is not seen."""
    promised = [value_of(module.size_bytes) or 0 for module in case.promise.modules]
    fitted = [value_of(module.size_bytes) or 0 for module in case.now.reading.modules]
    if case.now.channels.contradiction:
        return False  # More channels than modules: the list is short, and another one may be there.
    return bool(fitted) and all(promised) and all(fitted) and len(fitted) < len(promised) and sum(fitted) >= sum(promised)


def more_and_smaller(case: Case) -> bool:
    """Return whether more modules than promised make up what was promised, and not one of them for each promised one is as large."""
    promised = sorted((value_of(module.size_bytes) or 0 for module in case.promise.modules), reverse=True)
    fitted = sorted((value_of(module.size_bytes) or 0 for module in case.now.reading.modules), reverse=True)
    if len(promised) < 2 or not all(promised) or not all(fitted) or len(fitted) <= len(promised):
        return False  # One promised module is most often meant as the amount.
    return any(have < wanted for have, wanted in zip(fitted, promised, strict=False)) and sum(fitted) >= sum(promised)


_TRACKED = ("channels", "profile", "timings", "read_gbs", "write_gbs", "copy_gbs", "latency_ns")
"""Facts whose promise has a track."""
_OWN_RULE = ("ecc_on",)


def promised_beside(case: Case) -> Iterator[tuple[FactRow, Any, Any]]:
    """Yield the promised facts that have no track: their row, the promised value, and the present one where it is known."""
    for row, wanted in promised_facts(case.promise):
        if row.name not in _TRACKED:
            yield row, wanted, value_of(row.of(case.now.reading))


def not_as_promised(case: Case) -> Iterator[Finding]:
    """promise.differs: a promised fact without a rule of its own is known, and is another one than promised."""
    for row, wanted, now in promised_beside(case):
        if row.name == "redundancy" and all_is_counted(case):
            evidence = (shown("all-counted", Source.WORKED_OUT, size_bytes=case.now.capacity.now_bytes),)
            yield finding(Code.PROMISE_DIFFERS, 0.9, evidence, what=row.words, now="none", promised=row.said(wanted))
        if row.name in _OWN_RULE or now is None or now == wanted:
            continue
        fact = row.of(case.now.reading)
        source = fact.source if fact is not None else Source.TYPED
        evidence = (shown("fact", source, what=row.words, now=row.said(now)),)
        yield finding(Code.PROMISE_DIFFERS, 0.95, evidence, what=row.words, now=row.said(now), promised=row.said(wanted))


def all_is_counted(case: Case) -> bool:
    """Return whether the machine itself counts as much as its modules add up to, so that no setting keeps any of it back as promised."""
    if case.promise.redundancy is None or case.now.reading.redundancy is not None:
        return False
    capacity, counted = case.now.capacity, value_of(case.now.reading.total_bytes)
    return counted is not None and capacity.fitted_bytes is not None and counted >= capacity.fitted_bytes


def swapped(case: Case) -> Iterator[Finding]:
    """slots.swapped: the promised modules are all there, in other slots than promised."""
    wrong = tuple(swapped_slots(case))
    if wrong:
        yield finding(Code.SLOTS_SWAPPED, 0.9, tuple(shown("swapped", Source.WORKED_OUT, slot=slot) for slot in wrong), wrong, named=wrong)


def places_missed(case: Case) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the promised slots that hold nothing, and the filled slots that were not promised; nothing of either where names differ.

    Firmware, board and people name one slot differently: only names that the reading knows, or a board of which the
    promise and the reading name some slot alike, can be held against each other.
    """
    promised = {slot.name.casefold(): slot.name for slot in case.promise.slots if slot.module is not None}
    seen = {slot.name.casefold(): slot for slot in case.now.reading.slots}
    filled = {name for name, slot in seen.items() if slot.module is not None}
    if (
        case.now.reading.loose
        or case.promise.loose
        or len(filled) < len(promised)
        or any(s.filling is Filling.UNKNOWN for s in seen.values())
    ):
        return (), ()
    alike = bool(promised.keys() & seen.keys())
    left = tuple(name for key, name in promised.items() if key not in filled and alike)
    return left, tuple(seen[name].name for name in seen if name in filled - promised.keys()) if left else ()


def elsewhere(case: Case) -> Iterator[Finding]:
    """slots.elsewhere: modules are in other slots than the promise names."""
    left, instead = places_missed(case)
    if left and instead:
        evidence = tuple(shown("slot-filled", Source.WORKED_OUT, slot=slot) for slot in instead)
        yield finding(Code.SLOTS_ELSEWHERE, 0.9, evidence, instead, named=instead, left=left)


def swapped_slots(case: Case) -> list[str]:
    """Return the slots whose modules are swapped: the promised sizes are all there, and not where they were promised."""
    promised = {slot.name.casefold(): size for slot in case.promise.slots if slot.module and (size := value_of(slot.module.size_bytes))}
    seen = {
        slot.name.casefold(): (slot.name, size)
        for slot in case.now.reading.slots
        if slot.module is not None and (size := value_of(slot.module.size_bytes))
    }
    if not promised or case.promise.loose or sorted(promised.values()) != sorted(size for _, size in seen.values()):
        return []
    return [name for key, (name, size) in seen.items() if key in promised and promised[key] != size]


def _pairs(case: Case) -> Iterator[tuple[str, Module, Module]]:
    """Yield slot, promised and fitted module: by slot where both name it, else those that differ the least."""
    if case.promise.each is not None:
        yield from ((slot, case.promise.each, module) for slot, module in case.now.reading.filled())
    seen = {slot.name.casefold(): (slot.name, slot.module) for slot in case.now.reading.slots if slot.module is not None}
    swap = bool(swapped_slots(case))
    left_promised: list[Module] = list(case.promise.loose)
    taken: set[str] = set()
    for slot in case.promise.slots:
        key = slot.name.casefold()
        if slot.module is None:
            continue
        if key in seen and not swap:
            name, module = seen[key]
            taken.add(key)
            yield name, slot.module, module
        else:
            left_promised.append(slot.module)
    left = [(slot, module) for slot, module in case.now.reading.filled() if slot.casefold() not in taken or not slot]
    for promised in left_promised:
        if not left:
            yield "", promised, Module()  # In a slot that nobody looked at, or not there: nothing is known of it.
            continue
        best = min(left, key=lambda pair: (_size_differs(promised, pair[1]), len(list(_differences(promised, pair[1])))))
        left.remove(best)
        yield best[0], promised, best[1]


_FITS_OR_NOT = ("generation", "form", "voltage")
"""What a machine that started with the module has proven: another kind would not fit its slots, or not start."""


def not_known(case: Case) -> list[str]:
    """Return which promised words of modules nobody said of the fitted ones, so that nothing tells whether they are kept."""
    found: list[str] = []
    for _, promised, fitted in _pairs(case):
        found += [
            what.replace("-", " ")
            for what, read in _COMPARED
            if what not in _FITS_OR_NOT and read(promised) is not None and read(fitted) is None
        ]
        wanted, rated_mts = value_of(promised.timings), value_of(promised.rated_mts)
        known = [timings for timings in (_timings_at(fitted, rated_mts), case.now.timings) if timings is not None]
        if wanted is not None and rated_mts is not None and not any(timings.tells(wanted) for timings in known):
            found.append("timings")
    if set(case.now.reading.empty_slots) & {slot.name for slot in case.promise.slots if slot.module is not None}:
        found.append("modules")  # A promised slot shows empty, whatever the machine counts in all.
    if _looks_away_from_a_promised_slot(case) or (_of_several_processors(case) and not _every_promised_slot_is_seen(case)):
        found.append("modules")  # Whether it is where it was promised, and at which processor, only its slot says.
    return list(dict.fromkeys(found))


def _looks_away_from_a_promised_slot(case: Case) -> bool:
    """Return whether the reading lists a promised slot and does not say what is in it."""
    unseen = {slot.name.casefold() for slot in case.now.reading.slots if slot.filling is Filling.UNKNOWN}
    return any(slot.name.casefold() in unseen for slot in case.promise.slots if slot.module is not None)


def _of_several_processors(case: Case) -> bool:
    places = [slot.place for slot in case.promise.slots if slot.module is not None]
    return len({place.socket for place in places if place is not None}) > 1


def _every_promised_slot_is_seen(case: Case) -> bool:
    seen = {slot.name.casefold() for slot in case.now.reading.slots if slot.module is not None}
    return {slot.name.casefold() for slot in case.promise.slots if slot.module is not None} <= seen


def _size_differs(promised: Module, fitted: Module) -> bool:
    wanted, size = value_of(promised.size_bytes), value_of(fitted.size_bytes)
    return wanted is not None and size is not None and wanted != size


def _differences(promised: Module, fitted: Module, with_size: bool = False) -> Iterator[Message]:
    """Yield what both state and state differently. What the fitted module does not say of itself is no difference."""
    for what, read in _COMPARED:
        wanted, found = read(promised), read(fitted)
        if wanted is not None and found is not None and not _same(wanted, found):
            yield message("differs", what=what, **{f"wanted{_UNITS.get(what, '')}": wanted, f"found{_UNITS.get(what, '')}": found})
    if with_size and _size_differs(promised, fitted):
        sizes = (value_of(promised.size_bytes) or 0, value_of(fitted.size_bytes) or 0)
        yield message("differs", what="size", wanted_bytes=sizes[0], found_bytes=sizes[1])
    wanted_timings, best = value_of(promised.timings), _timings_at(fitted, value_of(promised.rated_mts))
    if wanted_timings is not None and best is not None and best.longer_than(wanted_timings):
        yield message("differs", what="timings", wanted=str(wanted_timings), found=str(best))


def _timings_at(module: Module, rate_mts: int | None) -> Timings | None:
    """Return the shortest timings that a module states for exactly this rate, at its standard or by a profile."""
    if rate_mts is None:
        return None
    found = [profile.timings for profile in value_of(module.profiles) or () if same_rate(profile.rate_mts, rate_mts) and profile.timings]
    own_mts = value_of(module.standard_mts if module.timings and module.timings.source is Source.SPD else module.rated_mts)
    if module.timings is not None and own_mts is not None and same_rate(own_mts, rate_mts):
        found.append(module.timings.value)
    return min(found, key=lambda timings: timings.cl, default=None)


def _form(module: Module) -> str | None:
    """Return the form; a firmware table that says DIMM and no more does not say that nothing is registered."""
    if module.form is None or (module.form.source is Source.FIRMWARE and module.form.value is Form.UDIMM):
        return None
    return module.form.value.value


def _voltage(module: Module) -> int | None:
    generation = value_of(module.generation)  # Of a module without a kind the other one's kind says whether it matters.
    return value_of(module.voltage_mv) if generation is None or generation in _LOW_VOLTAGE_MATTERS else None


def _text(name: str) -> Callable[[Module], str | None]:
    def read(module: Module) -> str | None:
        found: str | None = value_of(getattr(module, name))
        return found or None

    return read


def _same(wanted: object, found: object) -> bool:
    """Return whether two values are the same; of numbers on stickers and in tables one may be cut, or padded with zeros."""
    if isinstance(wanted, str) and isinstance(found, str):
        shorter, longer = sorted((text.replace(" ", "").casefold().lstrip("0") for text in (wanted, found)), key=len)
        return shorter == longer or (len(shorter) >= _TELLING_LETTERS and (longer.startswith(shorter) or longer.endswith(shorter)))
    return wanted == found


_COMPARED: tuple[tuple[str, Callable[[Module], int | str | None]], ...] = (
    ("generation", lambda module: value_of(module.generation)),
    ("form", _form),
    ("error-correction", lambda module: value_of(module.ecc)),
    ("ranks", lambda module: value_of(module.ranks)),
    ("device-width", lambda module: value_of(module.device_width_bits)),
    ("voltage", _voltage),
    ("maker", _text("maker")),
    ("part", _text("part")),
    ("serial", _text("serial")),
)
"""What is compared, and how it is read off a module."""
_UNITS = {"voltage": "_mv"}
