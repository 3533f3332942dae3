"""Rules about the modules that should be there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from after_check.domain.boards import Filling
from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Finding, finding, shown
from after_check.judgement.capacity import lists_too_little
from after_check.judgement.case import Case
from after_check.judgement.reconcile import size_contradictions
from after_check.judgement.rules.blame import told_by_tries
from after_check.judgement.rules.promised import fewer_and_larger, is_another, swapped_slots


def missing_count(case: Case) -> int:
    """Return how many promised modules are not seen; 0 where a slot may hide one or nothing was listed."""
    reading, promised = case.now.reading, case.promise.modules
    if not case.seen or not promised or not reading.modules or any(slot.filling is Filling.UNKNOWN for slot in reading.slots):
        return 0
    if lists_too_little(reading) and (value_of(reading.total_bytes) or 0) >= (case.promise.total_bytes or 0):
        return 0  # The machine counts all of it: a module is missing in the list, not in the machine.
    if fewer_and_larger(case):
        return 0  # module.differs says so.
    return max(0, len(promised) - len(reading.modules))


def missing(case: Case) -> Iterator[Finding]:
    """module.missing: fewer modules are seen than were promised, and no slot hides one."""
    reading, promised = case.now.reading, case.promise.modules
    count = missing_count(case)
    if not count:
        return
    empty = {name.casefold(): name for name in reading.empty_slots}
    named = [empty[slot.name.casefold()] for slot in case.promise.slots if slot.module is not None and slot.name.casefold() in empty]
    if not named and len(empty) == count:
        named = list(empty.values())
    source = _source(case)
    evidence = tuple(shown("slot-empty", source, slot=name) for name in named)
    missed = finding(
        Code.MODULE_MISSING,
        0.95 if named else 0.85,
        evidence or (shown("modules-seen", source, modules=len(reading.modules)),),
        tuple(named),
        missing=count,
        promised=len(promised),
        modules=len(reading.modules),
        named=tuple(named),
        empty=tuple(empty.values()),
    )
    yield told_by_tries(case, missed)


@dataclass(frozen=True, slots=True)
class _Less:
    slot: str
    seen_bytes: int
    promised_bytes: int


def short(case: Case) -> Iterator[Finding]:
    """module.short: a module shows less than its size, by the promise or by its own word."""
    own = [_Less(slot, seen, size) for slot, seen, size in size_contradictions(case.now.reading)]
    named = {less.slot for less in own}
    if not case.seen or swapped_slots(case):
        named |= {slot for slot, _ in case.now.reading.filled()}  # Not what the machine sees, or the right ones in each other's places.
    for less in [*own, *(less for less in _smaller_than_promised(case) if less.slot not in named)]:
        module = next((module for name, module in case.now.reading.filled() if name == less.slot), None)
        ranks = value_of(module.ranks) if module is not None else None
        half = less.seen_bytes * 2 == less.promised_bytes
        yield finding(
            Code.MODULE_SHORT,
            0.85,
            (shown("seen", _source(case), size_bytes=less.seen_bytes, slot=less.slot or None),),
            (less.slot,) if less.slot else (),
            why="less" if not half else "half-ranks" if ranks is not None and ranks > 1 else "half",
            slot=less.slot or None,
            seen_bytes=less.seen_bytes,
            whole_bytes=less.promised_bytes,
            ranks=ranks,
        )


def unexpected(case: Case) -> Iterator[Finding]:
    """module.unexpected: a module where the promise says empty, or more modules than promised."""
    promised = {slot.name.casefold(): slot for slot in case.promise.slots}
    seen = [slot.name for slot in case.now.reading.slots if slot.module is not None]
    wrong = [name for name in seen if name.casefold() in promised and promised[name.casefold()].filling is Filling.EMPTY]
    more = len(case.now.reading.modules) - len(case.promise.modules) if case.promise.modules else 0
    if not wrong and more <= 0:
        return
    yield finding(
        Code.MODULE_UNEXPECTED,
        0.9,
        tuple(shown("slot-filled", _source(case), slot=name) for name in wrong),
        tuple(wrong),
        Severity.NOTE if not wrong and _is_one_amount(case) else Severity.TELL,
        more=max(more, len(wrong)),
        named=tuple(wrong),
        promised=len(case.promise.modules),
        modules=len(case.now.reading.modules),
    )


def _is_one_amount(case: Case) -> bool:
    """Whether one size was promised, with no slot, and all modules together make just that: most people mean the amount."""
    sizes = [value_of(module.size_bytes) or 0 for module in case.now.reading.modules]
    return not case.promise.slots and len(case.promise.loose) == 1 and sum(sizes) == case.promise.total_bytes


def unreadable(case: Case) -> Iterator[Finding]:
    """module.unreadable: the reading lists a slot and cannot say what is in it."""
    slots = tuple(slot.name for slot in case.now.reading.slots if slot.filling is Filling.UNKNOWN)
    if slots:
        evidence = (shown("not-known", _source(case), named=slots),)
        yield finding(Code.MODULE_UNREADABLE, 0.9, evidence, slots, named=slots)


def _smaller_than_promised(case: Case) -> Iterator[_Less]:
    """Yield modules that are smaller than promised: slot by slot where the promise names slots, else by size."""
    seen = {slot.name.casefold(): slot for slot in case.now.reading.slots if slot.module is not None}
    matched_by_slot = False
    for slot in case.promise.slots:
        if slot.module is None or slot.name.casefold() not in seen:
            continue
        matched_by_slot = True
        found = seen[slot.name.casefold()]
        promised, size = value_of(slot.module.size_bytes), value_of(found.module.size_bytes) if found.module else None
        if promised and size and size < promised and not (found.module and is_another(case, slot.module, found.module)):
            yield _Less(found.name, size, promised)
    modules = list(case.now.reading.filled())
    if matched_by_slot or len(modules) != len(case.promise.modules):
        return
    fitted = sorted(((size, name, module) for name, module in modules if (size := value_of(module.size_bytes))), key=lambda one: one[:2])
    wanted = sorted(((size, module) for module in case.promise.modules if (size := value_of(module.size_bytes))), key=lambda one: one[0])
    if len(fitted) != len(wanted):
        return
    for (size, name, module), (promised, described) in zip(fitted, wanted, strict=True):
        if size < promised and not is_another(case, described, module):
            yield _Less(name, size, promised)


def _source(case: Case) -> Source:
    return next((module.size_bytes.source for module in case.now.reading.modules if module.size_bytes), Source.TYPED)
