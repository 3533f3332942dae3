"""Rules about errors that the machine itself counted."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Finding, finding, shown
from after_check.domain.readings import uncorrected_errors
from after_check.judgement.case import Case
from after_check.judgement.rules.regressions import new_modules


def corrected(case: Case) -> Iterator[Finding]:
    """ecc.corrected: errors that error correction put right."""
    count = value_of(case.now.reading.ecc_errors) or 0
    if not count:
        return
    where = [counter.name for counter in case.now.reading.error_counters if counter.corrected]
    earlier = value_of(case.before.reading.ecc_errors) if case.before is not None else None
    grew = earlier is not None and count > earlier and new_modules(case)
    fact = case.now.reading.ecc_errors
    yield finding(
        Code.ECC_CORRECTED,
        0.9,
        (shown("corrected", fact.source if fact is not None else Source.SYSTEM, errors=count),),
        severity=Severity.FIX if grew else Severity.TELL,
        errors=count,
        where=tuple(where),
        earlier=earlier if grew else None,
    )


def uncorrected(case: Case) -> Iterator[Finding]:
    """ecc.uncorrected: errors that could not be corrected."""
    failing = [counter for counter in case.now.reading.error_counters if counter.uncorrected]
    typed_fact = case.now.reading.uncorrected_errors
    count = max(uncorrected_errors(failing) or 0, value_of(typed_fact) or 0)
    if not count:
        return
    named = tuple(counter.name for counter in failing)
    counters = tuple(shown("counter-uncorrected", Source.SYSTEM, label=one.name, errors=one.uncorrected) for one in failing)
    typed = shown("uncorrected", typed_fact.source if typed_fact is not None else Source.SYSTEM, errors=count)
    yield finding(Code.ECC_UNCORRECTED, 0.95, counters or (typed,), errors=count, where=named)
