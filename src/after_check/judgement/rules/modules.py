"""Rules about the modules that should be there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from after_check.domain.boards import Filling
from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Evidence, Finding
from after_check.domain.quantities import size_text
from after_check.judgement.capacity import lists_too_little
from after_check.judgement.case import Case
from after_check.judgement.reconcile import size_contradictions
from after_check.judgement.rules.promised import swapped_slots
from after_check.judgement.rules.suspects import told_by_tries


def missing_count(case: Case) -> int:
    """Return how many promised modules are not seen; 0 where a slot may hide one or nothing was listed."""
    reading, promised = case.now.reading, case.promise.modules
    if not case.seen or not promised or not reading.modules or any(slot.filling is Filling.UNKNOWN for slot in reading.slots):
        return 0
    if lists_too_little(reading) and (value_of(reading.total_bytes) or 0) >= (case.promise.total_bytes or 0):
        return 0  # The machine counts all of it: a module is missing in the list, not in the machine.
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
    where = f": {_list(named)} {'is' if len(named) == 1 else 'are'} empty" if named else ""
    candidates = f" The empty slots are {_list(list(empty.values()))}." if empty and not named else ""
    finding = Finding(
        code=Code.MODULE_MISSING,
        severity=Severity.FIX,
        title=f"{_count(count)} not seen{where}",
        reason=_promised_and_seen(len(promised), len(reading.modules))
        + (f", and {_list(named)} {'reports' if len(named) == 1 else 'report'} empty." if named else f".{candidates}"),
        next="Power off and reseat the module: both latches up, an even line of contacts, the notch on the right side. "
        "If it stays away, try it alone in a slot that works, and another module in this slot.",
        sure=0.95 if named else 0.85,
        customer=f"{_count(count)} of the new memory {'is' if count == 1 else 'are'} not seen by the machine yet.",
        evidence=tuple(Evidence(f"{name} empty", _source(case)) for name in named)
        or (Evidence(f"{_count(len(reading.modules))} seen".lower(), _source(case)),),
        slots=tuple(named),
    )
    yield told_by_tries(case, finding)


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
        half = less.seen_bytes * 2 == less.promised_bytes
        place = f" in {less.slot}" if less.slot else ""
        yield Finding(
            code=Code.MODULE_SHORT,
            severity=Severity.FIX,
            title=f"The module{place} shows {size_text(less.seen_bytes)} of {size_text(less.promised_bytes)}",
            reason=_half_words(case, less.slot)
            if half
            else "It shows less than its size: part of it makes no contact, or another module was fitted.",
            next="Power off, reseat the module and clean its contacts; then try it in another slot.",
            sure=0.85,
            customer=f"One module shows {size_text(less.seen_bytes)} instead of {size_text(less.promised_bytes)}.",
            evidence=(Evidence(f"seen {size_text(less.seen_bytes)}{place}", _source(case)),),
            slots=(less.slot,) if less.slot else (),
        )


def unexpected(case: Case) -> Iterator[Finding]:
    """module.unexpected: a module where the promise says empty, or more modules than promised."""
    promised = {slot.name.casefold(): slot for slot in case.promise.slots}
    seen = [slot.name for slot in case.now.reading.slots if slot.module is not None]
    wrong = [name for name in seen if name.casefold() in promised and promised[name.casefold()].filling is Filling.EMPTY]
    more = len(case.now.reading.modules) - len(case.promise.modules) if case.promise.modules else 0
    if not wrong and more <= 0:
        return
    where = f" in {_list(wrong)}" if wrong else ""
    yield Finding(
        code=Code.MODULE_UNEXPECTED,
        severity=Severity.NOTE if not wrong and _is_one_amount(case) else Severity.TELL,
        title=f"{'A module' if max(more, len(wrong)) == 1 else f'{max(more, len(wrong))} modules'} not promised{where}",
        reason=f"{_promised_and_seen(len(case.promise.modules), len(case.now.reading.modules))}.",
        next="Check whether an old module was left in, or change the promise.",
        sure=0.9,
        customer="The machine holds more memory modules than agreed on.",
        evidence=tuple(Evidence(f"{name} filled", _source(case)) for name in wrong),
        slots=tuple(wrong),
    )


def _is_one_amount(case: Case) -> bool:
    """Whether one size was promised, with no slot, and all modules together make just that: most people mean the amount."""
    sizes = [value_of(module.size_bytes) or 0 for module in case.now.reading.modules]
    return not case.promise.slots and len(case.promise.loose) == 1 and sum(sizes) == case.promise.total_bytes


def unreadable(case: Case) -> Iterator[Finding]:
    """module.unreadable: the reading lists a slot and cannot say what is in it."""
    slots = [slot.name for slot in case.now.reading.slots if slot.filling is Filling.UNKNOWN]
    if slots:
        yield Finding(
            code=Code.MODULE_UNREADABLE,
            severity=Severity.NOTE,
            title=f"{_list(slots)}: content not known",
            reason="The reading lists the slot and does not say whether a module is in it, or how large it is.",
            next="Look at the slot, and type what is in it.",
            sure=0.9,
            customer="The content of one slot could not be read.",
            evidence=(Evidence(f"{_list(slots)} not known", _source(case)),),
            slots=tuple(slots),
        )


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
        if promised and size and size < promised:
            yield _Less(found.name, size, promised)
    modules = list(case.now.reading.filled())
    if matched_by_slot or len(modules) != len(case.promise.modules):
        return
    sizes = sorted((size, name) for name, module in modules if (size := value_of(module.size_bytes)))
    promised_sizes = sorted(size for module in case.promise.modules if (size := value_of(module.size_bytes)))
    if len(sizes) != len(promised_sizes):
        return
    for (size, name), promised in zip(sizes, promised_sizes, strict=True):
        if size < promised:
            yield _Less(name, size, promised)


def _half_words(case: Case, slot: str) -> str:
    module = next((module for name, module in case.now.reading.filled() if name == slot), None)
    ranks = value_of(module.ranks) if module is not None else None
    if ranks is not None and ranks > 1:
        return f"It has {ranks} ranks and shows half of its size: ranks of it are switched off, make no contact, or are faulty."
    return "It shows half of its size: one side of it makes no contact, or is faulty."


def _source(case: Case) -> Source:
    return next((module.size_bytes.source for module in case.now.reading.modules if module.size_bytes), Source.TYPED)


def _promised_and_seen(promised: int, seen: int) -> str:
    """Return both numbers as a sentence without its end."""
    return f"{promised} {'module was' if promised == 1 else 'modules were'} promised, {seen} {'is' if seen == 1 else 'are'} seen"


def _count(count: int) -> str:
    return "One module" if count == 1 else f"{count} modules"


def _list(names: list[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}" if names else ""
