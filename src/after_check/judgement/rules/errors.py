"""Rules about errors that the machine itself counted."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Evidence, Finding
from after_check.judgement.case import Case
from after_check.judgement.rules.regressions import new_modules


def corrected(case: Case) -> Iterator[Finding]:
    """ecc.corrected: errors that error correction put right."""
    count = value_of(case.now.reading.ecc_errors) or 0
    if not count:
        return
    where = [counter.label for counter in case.now.reading.error_counters if counter.corrected]
    earlier = value_of(case.before.reading.ecc_errors) if case.before is not None else None
    grew = earlier is not None and count > earlier and new_modules(case)
    yield Finding(
        code=Code.ECC_CORRECTED,
        severity=Severity.FIX if grew else Severity.TELL,
        title=f"{count} corrected memory error{'s' if count > 1 else ''}" + (f": {', '.join(where)}" if where else ""),
        reason=(f"On arrival it was {earlier}, and the modules are new since. " if grew else "")
        + "Error correction put them right, so nothing was lost; a module that goes on like this is wearing out or sits badly.",
        next="Reseat the module, clear the counters, run a long memory test, and look at them again.",
        sure=0.9,
        customer=f"The machine corrected {count} memory error{'s' if count > 1 else ''} by itself; this should be watched.",
        evidence=(Evidence(f"{count} corrected", case.now.reading.ecc_errors.source if case.now.reading.ecc_errors else Source.SYSTEM),),
    )


def uncorrected(case: Case) -> Iterator[Finding]:
    """ecc.uncorrected: errors that could not be corrected."""
    failing = [counter for counter in case.now.reading.error_counters if counter.uncorrected]
    typed_fact = case.now.reading.uncorrected_errors
    count = sum(counter.uncorrected for counter in failing) or (value_of(typed_fact) or 0)
    if not count:
        return
    where = f": {', '.join(error.label for error in failing)}" if failing else ""
    yield Finding(
        code=Code.ECC_UNCORRECTED,
        severity=Severity.FIX,
        title=f"{count} memory error{'s' if count > 1 else ''} that could not be corrected{where}",
        reason="Data was wrong in memory and could not be put right; this memory cannot be trusted.",
        next="Take the module out that the counter names, or try the modules one at a time, and test again.",
        sure=0.95,
        customer="The machine found memory errors that it could not correct.",
        evidence=tuple(Evidence(f"{error.label}: {error.uncorrected} uncorrected", Source.SYSTEM) for error in failing)
        or (Evidence(f"{count} uncorrected", typed_fact.source if typed_fact is not None else Source.SYSTEM),),
    )
