"""Rules about what the machine had on arrival and has no more, promised or not."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.findings import Evidence, Finding
from after_check.domain.modules import Module
from after_check.domain.quantities import size_text
from after_check.judgement.case import Case
from after_check.judgement.rates import common_generation
from after_check.judgement.rules.channels import words
from after_check.standards.rates import same_rate


def rate(case: Case) -> Iterator[Finding]:
    """rate.slower: slower than on arrival, where the promise does not ask for more and nothing else explains it."""
    before, now = case.before.rate_mts if case.before else None, case.now.rate_mts
    if before is None or now is None or now >= before or same_rate(now, before) or case.explanation is not None:
        return
    yield Finding(
        code=Code.RATE_SLOWER,
        severity=Severity.TELL,
        title=f"Runs at {now}, {before} MT/s on arrival",
        reason="The fitted modules run at a lower rate than those that were there before.",
        next="Agree on it with the customer, or fit modules that run as fast as the old ones did.",
        sure=0.95,
        customer=f"The memory runs at {now} million transfers a second; before the change it was {before}.",
        evidence=(Evidence(f"{before} MT/s on arrival", _source_before(case)), Evidence(f"{now} MT/s now", _source_now(case))),
    )


def channels(case: Case) -> Iterator[Finding]:
    """channels.fewer: fewer channels than on arrival, where the promise asks for no more than run."""
    before, now = case.before.channels.count if case.before else None, case.now.channels.count
    promised = case.promise.channels
    if before is None or now is None or now >= before or (promised is not None and now < promised):
        return
    if promised is None and now == 1 and len(case.now.reading.modules) > 1:
        return  # channels.single says so, and why.
    yield Finding(
        code=Code.CHANNELS_FEWER,
        severity=Severity.TELL,
        title=f"Runs on {words(now)}, {words(before)} on arrival",
        reason="Each channel carries a part of the data: with fewer of them the memory is slower, however large it is.",
        next="Fit one module to each channel as before, or agree on it with the customer.",
        sure=0.9,
        customer=f"The memory works on {words(now)}; before the change it was {words(before)}, which is faster.",
        evidence=(Evidence(f"{words(before)} on arrival", Source.WORKED_OUT), Evidence(f"{words(now)} now", Source.WORKED_OUT)),
    )


def ecc(case: Case) -> Iterator[Finding]:
    """ecc.off: error correction was promised, or was on, and is off."""
    fact, before = case.now.reading.ecc_on, case.before.reading.ecc_on if case.before else None
    promised = case.promise.ecc_on is True
    only_inside = promised and fact is not None and fact.value and _has_no_ecc(case)
    if fact is None or (fact.value and not only_inside) or not (promised or (before is not None and before.value)):
        return
    agreed = any(value_of(module.ecc) is False for module in case.promise.modules)
    against = "promised on" if promised else "on at arrival"
    yield Finding(
        code=Code.ECC_OFF,
        severity=Severity.TELL if agreed and not promised else Severity.FIX,
        title="The modules have no ECC, error correction was promised" if only_inside else f"Error correction is off, {against}",
        reason="What is shown as on works inside the devices only (DDR5); it is not the error correction that was promised."
        if only_inside
        else "Errors in the memory are not put right and not counted any more.",
        next="Fit modules with ECC, or take it out of the promise with the customer."
        if only_inside
        else "Look for its setting in the firmware setup; fit modules with ECC throughout, as one without turns it off for all.",
        sure=0.95,
        customer="The correction of memory errors is not on any more.",
        evidence=(Evidence(f"error correction {'on' if fact.value else 'off'}", fact.source),),
    )


def on_die(case: Case) -> Iterator[Finding]:
    """ecc.on_die: what corrects errors inside a DDR5 device is no error correction of the machine (JESD79-5, on-die ECC)."""
    fact = case.now.reading.ecc_on
    if fact is None or not fact.value or case.promise.ecc_on or not _has_no_ecc(case):
        return
    yield Finding(
        code=Code.ECC_ON_DIE,
        severity=Severity.NOTE,
        title="Error correction is shown as on, and the modules have no ECC",
        reason="Every DDR5 device corrects single bits inside itself. The way between module and processor is not protected by that.",
        next="Do not promise ECC by it; modules with ECC have more devices in each rank.",
        sure=0.85,
        customer="The modules correct errors inside their chips only; this is not the error correction of servers.",
        evidence=(Evidence("error correction on", fact.source),),
    )


def _has_no_ecc(case: Case) -> bool:
    """Return whether the modules are known to have no devices for error correction."""
    modules = case.now.reading.modules
    return bool(modules) and all(value_of(module.ecc) is False for module in modules)


def other_machine(case: Case) -> Iterator[Finding]:
    """source.other_machine: the readings before and now are of two machines."""
    said = other_machine_words(case)
    if said:
        yield Finding(
            code=Code.SOURCE_OTHER_MACHINE,
            severity=Severity.TELL,
            title=f"Two machines? {said}",
            reason="The reading on arrival and the one now cannot be of the same machine, so nothing of one counts for the other.",
            next="See which reading is the wrong one, and take it again on this machine.",
            sure=0.85,
            customer="Two readings of the machine do not fit together; one has to be taken again.",
            evidence=(Evidence(said, Source.WORKED_OUT),),
        )


def other_machine_words(case: Case) -> str:
    """Return what says that both readings are of two machines; empty where nothing does."""
    if case.before is None:
        return ""
    before, now = case.before.reading, case.now.reading
    generations = common_generation(before), common_generation(now)
    if None not in generations and generations[0] is not generations[1]:
        return f"{generations[0]} on arrival, {generations[1]} now, and a board takes one of them"
    pairs: tuple[tuple[str, Fact[str] | None, Fact[str] | None], ...] = (
        ("serial number", before.machine.serial, now.machine.serial),
        ("number", before.machine.uuid, now.machine.uuid),
        ("model", before.machine.model, now.machine.model),
    )
    for what, first, second in pairs:
        if first is None or second is None:
            continue
        names = first.value.casefold(), second.value.casefold()
        if names[0] not in names[1] and names[1] not in names[0]:  # One source may give a part of the name only.
            return f"{what} {first.value} on arrival, {second.value} now"
    return ""


def kept_module(case: Case) -> Iterator[Finding]:
    """module.short: a module that was there on arrival, known again by its serial number, shows less than it did."""
    if case.before is None:
        return
    earlier = {serial: module for module in case.before.reading.modules if (serial := value_of(module.serial))}
    for slot, module in case.now.reading.filled():
        known = earlier.get(value_of(module.serial) or "")
        was, size = (value_of(known.size_bytes) if known is not None else None), value_of(module.size_bytes)
        if was is not None and size is not None and size < was:
            place = f" in {slot}" if slot else ""
            yield Finding(
                code=Code.MODULE_SHORT,
                severity=Severity.FIX,
                title=f"The module{place} shows {size_text(size)} of {size_text(was)}",
                reason=f"It is the module that showed {size_text(was)} on arrival: a part of it makes no contact any more, or is faulty.",
                next="Power off, reseat the module and clean its contacts; then try it in another slot.",
                sure=0.9,
                customer=f"One of the machine's own modules shows {size_text(size)} instead of {size_text(was)}.",
                evidence=tuple(Evidence(text, Source.WORKED_OUT) for text in (f"{size_text(was)} on arrival", f"{size_text(size)} now")),
                slots=(slot,) if slot else (),
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
