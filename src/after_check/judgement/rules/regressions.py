"""Rules about what the machine had on arrival and has no more, promised or not."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.findings import Finding, finding, shown
from after_check.domain.messages import Message, message
from after_check.domain.modules import Generation, Module
from after_check.judgement.case import Case
from after_check.judgement.running_rate import common_generation
from after_check.standards.rates import same_rate


def rate(case: Case) -> Iterator[Finding]:
    """rate.slower: slower than on arrival, where the promise does not ask for more and nothing else explains it."""
    before, now = case.before.rate_mts if case.before else None, case.now.rate_mts
    if before is None or now is None or now >= before or same_rate(now, before) or case.explanation is not None:
        return
    evidence = (shown("rate-before", _source_before(case), rate_mts=before), shown("rate-now", _source_now(case), rate_mts=now))
    agreed = case.promise.rate_mts is not None  # What was agreed on is kept, or another finding would say why it is not.
    yield finding(Code.RATE_SLOWER, 0.95, evidence, now_mts=now, before_mts=before, agreed=agreed)


def channels(case: Case) -> Iterator[Finding]:
    """channels.fewer: fewer channels than on arrival, where the promise asks for no more than run."""
    before, now = case.before.channels.count if case.before else None, case.now.channels.count
    promised = case.promise.channels
    if before is None or now is None or now >= before or (promised is not None and now < promised):
        return
    if promised is None and now == 1 and len(case.now.reading.modules) > 1:
        return  # channels.single says so, and why.
    sources = (shown("earlier-channels", Source.WORKED_OUT, earlier=before), shown("channels-now", Source.WORKED_OUT, channels=now))
    yield finding(Code.CHANNELS_FEWER, 0.9, sources, channels=now, earlier=before, agreed=promised is not None)


def ecc(case: Case) -> Iterator[Finding]:
    """ecc.off: error correction was promised, or was on, and is off."""
    fact, before = case.now.reading.ecc_on, case.before.reading.ecc_on if case.before else None
    promised = case.promise.ecc_on is True
    only_inside = promised and fact is not None and fact.value and _has_no_ecc(case)
    if fact is None or (fact.value and not only_inside) or not (promised or (before is not None and before.value)):
        return
    inside = "inside" if _corrects_inside(case) else "contradicted"
    agreed = any(value_of(module.ecc) is False for module in case.promise.modules)
    yield finding(
        Code.ECC_OFF,
        0.95,
        (shown("error-correction", fact.source, on=fact.value),),
        severity=Severity.TELL if agreed and not promised else Severity.FIX,
        why=inside if only_inside else "promised" if promised else "arrival",
    )


def on_die(case: Case) -> Iterator[Finding]:
    """ecc.on_die: what corrects errors inside a DDR5 device is no error correction of the machine (JESD79-5, on-die ECC)."""
    fact = case.now.reading.ecc_on
    if fact is None or not fact.value or case.promise.ecc_on or not _has_no_ecc(case) or not _corrects_inside(case):
        return
    yield finding(Code.ECC_ON_DIE, 0.85, (shown("error-correction", fact.source, on=True),))


def _has_no_ecc(case: Case) -> bool:
    """Return whether the modules are known to have no devices for error correction."""
    modules = case.now.reading.modules
    return bool(modules) and all(value_of(module.ecc) is False for module in modules)


def _corrects_inside(case: Case) -> bool:
    return {value_of(module.generation) for module in case.now.reading.modules} <= {Generation.DDR5, None}


def other_machine(case: Case) -> Iterator[Finding]:
    """source.other_machine: the readings before and now are of two machines."""
    said = two_machines(case)
    if said is not None:
        values: dict[str, Any] = dict(said.values)
        yield finding(Code.SOURCE_OTHER_MACHINE, 0.85, (shown("two-machines", Source.WORKED_OUT, **values),), **values)


def two_machines(case: Case) -> Message | None:
    """Return what says that both readings are of two machines; None where nothing does."""
    if case.before is None:
        return None
    before, now = case.before.reading, case.now.reading
    generations = common_generation(before), common_generation(now)
    if None not in generations and generations[0] is not generations[1]:
        return message("two-machines", mark="generation", before=str(generations[0]), now=str(generations[1]))
    pairs: tuple[tuple[str, Fact[str] | None, Fact[str] | None], ...] = (
        ("serial", before.machine.serial, now.machine.serial),
        ("uuid", before.machine.uuid, now.machine.uuid),
        ("model", before.machine.model, now.machine.model),
    )
    for mark, first, second in pairs:
        if first is None or second is None:
            continue
        names = first.value.casefold(), second.value.casefold()
        if names[0] not in names[1] and names[1] not in names[0]:  # One source may give a part of the name only.
            return message("two-machines", mark=mark, before=first.value, now=second.value)
    return None


def kept_module(case: Case) -> Iterator[Finding]:
    """module.short: a module that was there on arrival, known again by its serial number, shows less than it did."""
    if case.before is None:
        return
    earlier = {serial: module for module in case.before.reading.modules if (serial := value_of(module.serial))}
    for slot, module in case.now.reading.filled():
        known = earlier.get(value_of(module.serial) or "")
        was, size = (value_of(known.size_bytes) if known is not None else None), value_of(module.size_bytes)
        if was is not None and size is not None and size < was:
            yield finding(
                Code.MODULE_SHORT,
                0.9,
                (shown("size-before", Source.WORKED_OUT, size_bytes=was), shown("size-now", Source.WORKED_OUT, size_bytes=size)),
                (slot,) if slot else (),
                why="kept",
                slot=slot or None,
                seen_bytes=size,
                whole_bytes=was,
            )


def new_modules(case: Case) -> bool:
    """Return whether modules are fitted that were not there on arrival, as far as both readings tell."""
    if case.before is None:
        return True
    return sorted(map(_identity, case.before.reading.modules)) != sorted(map(_identity, case.now.reading.modules))


def _identity(module: Module) -> tuple[str, str, str]:
    return str(value_of(module.size_bytes)), str(value_of(module.part)), str(value_of(module.serial))


def _source_before(case: Case) -> Source:
    return case.before.rate.source if case.before is not None and case.before.rate is not None else Source.WORKED_OUT


def _source_now(case: Case) -> Source:
    return case.now.rate.source if case.now.rate is not None else Source.WORKED_OUT
