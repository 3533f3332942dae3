"""Rules about what was tried: starts, memory tests, benchmarks, and causes that are not memory."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.findings import Evidence, Finding
from after_check.domain.quantities import counted, size_text
from after_check.domain.readings import BenchmarkOutcome, SoakResult, StartOutcome
from after_check.domain.soak import FaultKind
from after_check.domain.standing import Quantity, TrackStatus
from after_check.domain.tries import SuspectKind
from after_check.judgement.case import Case
from after_check.judgement.rules.suspects import told_by_tries
from after_check.judgement.tracks import measured_track

_NEARLY_ALL = 0.95
_ENOUGH_PERCENT = 90
"""Below this share of the memory, "no errors" is said of a part only."""


def soak_errors(case: Case) -> Iterator[Finding]:
    """soak.errors: a memory test found errors."""
    fact = case.soak
    if fact is None or not fact.value.errors:
        return
    count, suspects = fact.value.errors, fact.value.suspects
    filled = {slot.name for slot in case.now.reading.slots if slot.module is not None}
    pointed = suspects if suspects and set(suspects) < filled else ()
    place = f", which point at {' or '.join(pointed)}" if pointed else ""
    finding = Finding(
        code=Code.SOAK_ERRORS,
        severity=Severity.FIX,
        title=f"The memory test found {count:,} error{'s' if count > 1 else ''}{place}",
        reason="Memory that fails a test once cannot be trusted with anybody's work, however rarely it fails."
        + _looks_like(fact.value)
        + (" The processor or the modules ran hot meanwhile, which makes sound memory fail too." if fact.value.hot else ""),
        next=f"Test the module of {pointed[0]} alone, in a slot that is known to be good; then another one in {pointed[0]}."
        if pointed
        else "Set standard rate and voltage and test again; if it still fails, test one module at a time to find which.",
        sure=0.97,
        customer="A test found errors in the memory; it is not safe to use like this.",
        evidence=(Evidence(_said(fact.value), fact.source), *_diagnosis(fact)),
        slots=pointed,
    )
    yield told_by_tries(case, finding)


def _looks_like(result: SoakResult) -> str:
    """Return what the errors look like, in a sentence; nothing where no test of this program looked."""
    first = next(iter(result.symptoms), None)
    if first is None:
        return ""
    devices = f" They lie in {result.devices}." if result.devices else ""
    return f" The errors look like: {_SYMPTOMS[first.kind]} ({first.why}).{devices}"


def _diagnosis(fact: Fact[SoakResult]) -> tuple[Evidence, ...]:
    return tuple(Evidence(f"{counted(part.errors, 'error')}: {part.kind.value}, {part.why}", fact.source) for part in fact.value.symptoms)


_SYMPTOMS = {
    FaultKind.STUCK: "a bit that keeps its value, which is a fault of the module",
    FaultKind.LANE: "one data line or one device of a module; dirt in the slot can look the same",
    FaultKind.ADDRESSING: "an address that reaches another place, in the module or in the slot's contacts",
    FaultKind.RETENTION: "cells that lose their value in time",
    FaultKind.DISTURBED: "cells that change when their neighbours are used",
    FaultKind.READ: "wrong reads of right values, as from a rate or a voltage at its limit",
    FaultKind.SCATTERED: "single bits here and there, as from heat, voltage or a rate at its limit",
}
"""What each kind of errors points at, in a technician's words."""


def soak_partial(case: Case) -> Iterator[Finding]:
    """soak.partial: a clean test that covered a part of the memory only, or does not say how much."""
    fact = case.soak
    if fact is None or fact.value.errors:
        return
    percent = fact.value.covered_percent
    if fact.value.passes == 0:
        yield _within_a_pass(fact)
        return
    if percent is not None and percent >= _ENOUGH_PERCENT:
        return
    said = f"{percent} % of the memory" if percent is not None else "an unknown part of the memory"
    yield Finding(
        code=Code.SOAK_PARTIAL,
        severity=Severity.TELL,
        title=f"The memory test covered {said}",
        reason="No errors were found in what was tested; the rest was not.",
        next="Test again with less running beside it, or from outside the system.",
        sure=0.95,
        customer=f"The memory test found no errors and covered {said}.",
        evidence=(Evidence(_said(fact.value), fact.source),),
    )


def _within_a_pass(fact: Fact[SoakResult]) -> Finding:
    return Finding(
        code=Code.SOAK_PARTIAL,
        severity=Severity.TELL,
        title="The memory test was stopped before a whole pass",
        reason="Each step of a test finds other faults. Those that were not run found nothing, and say nothing.",
        next="Test again and let one pass end, the short one where there is little time.",
        sure=0.95,
        customer="The memory test found no errors, and was stopped before it had done everything once.",
        evidence=(Evidence(_said(fact.value), fact.source),),
    )


def soak_not_enough(case: Case) -> Iterator[Finding]:
    """soak.not_enough: the shop asks for a longer or a fuller memory test before a job counts as ready."""
    said = soak_wanting(case)
    if said:
        yield Finding(
            code=Code.SOAK_NOT_ENOUGH,
            severity=Severity.TELL,
            title=f"The memory test is not enough for this shop: {said}",
            reason="The shop's settings ask for it before a machine goes back.",
            next="Run the memory test as long as the settings ask, or go on with the one that was stopped.",
            sure=1.0,
            customer="The memory test that this shop runs on every machine is not done yet.",
            evidence=(Evidence(said, Source.WORKED_OUT),),
        )


def soak_wanting(case: Case) -> str:
    """Return what of the memory test that the shop asks for is missing; empty where nothing is, or nothing is asked for."""
    needs = case.needs
    if not needs.a_soak or (case.soak is not None and case.soak.value.errors):
        return ""
    if case.soak is None:
        return "none is on record"
    minutes, passes, percent = case.soak.value.minutes, case.soak.value.passes, case.soak.value.covered_percent
    if needs.soak_minutes and (minutes is None or minutes < needs.soak_minutes):
        return f"{minutes if minutes is not None else 'an unknown number of'} of {needs.soak_minutes} minutes"
    if needs.soak_passes and (passes is None or passes < needs.soak_passes):
        return f"{passes if passes is not None else 'an unknown number'} of {counted(needs.soak_passes, 'pass', 'passes')}"
    if needs.soak_percent and (percent is None or percent < needs.soak_percent):
        return f"{percent if percent is not None else 'an unknown share'} of {needs.soak_percent} % covered"
    return ""


def soak_none(case: Case) -> Iterator[Finding]:
    """soak.none: what was promised was read, and no memory test is on record."""
    reading = case.now.reading
    anything_read = reading.modules or reading.total_bytes or reading.usable_bytes
    if case.soak is not None or case.needs.a_soak or not case.promise.notation or not anything_read:
        return
    yield Finding(
        code=Code.SOAK_NONE,
        severity=Severity.NOTE,
        title="No memory test is on record",
        reason="What was read says that the memory is there and at its pace; whether it can be trusted only a test shows.",
        next="Test the memory, or add the result of a test that was run elsewhere, for instance + soak clean 60min 95%.",
        sure=1.0,
        customer="The memory was not tested for hidden faults.",
        evidence=(Evidence("no result of a test", Source.WORKED_OUT),),
    )


def start_outcome(case: Case) -> Iterator[Finding]:
    """start.none, start.slow, start.cycles: how the machine started after the change."""
    fact = case.start
    if fact is None or fact.value not in _STARTS:
        return
    code, severity, title, reason, step, customer = _STARTS[fact.value]
    finding = Finding(code, severity, title, reason, step, 0.9, customer, (Evidence(f"start {fact.value.value}", fact.source),))
    yield told_by_tries(case, finding) if fact.value is StartOutcome.NO else finding


_STARTS = {
    StartOutcome.NO: (
        *(Code.START_NONE, Severity.FIX, "The machine does not start"),
        "With this arrangement of modules nothing was seen of a start within the longest reasonable time.",
        "Reseat the modules; then one module alone in a slot known to be good; then the old modules, to prove the machine itself.",
        "The machine does not start with the new memory yet.",
    ),
    StartOutcome.SLOW: (
        *(Code.START_SLOW, Severity.TELL, "The start took long"),
        "The first start after a change is slower, as the memory is measured out; later ones should be as before.",
        "Start once more and compare; if it stays slow, look for the memory settings in the firmware setup.",
        "The first start after the change takes longer than usual.",
    ),
    StartOutcome.CYCLES: (
        *(Code.START_CYCLES, Severity.TELL, "The machine switched itself off and on while starting"),
        "Two or three power cycles are how some machines find the settings of new memory.",
        "Wait for them to end; more than a handful points to a setting or a module that it cannot use.",
        "The machine restarted by itself a few times while it got used to the new memory.",
    ),
}


def benchmark_outcome(case: Case) -> Iterator[Finding]:
    """gauge.same, gauge.worse, gauge.not_comparable: what benchmarks before and after said."""
    fact = case.benchmark
    if fact is None or fact.value is BenchmarkOutcome.BETTER:
        return
    code, severity, title, reason, customer = _BENCHMARKS[fact.value]
    step = "Look at channels, rate and timings first; then measure again under equal conditions."
    yield Finding(code, severity, title, reason, step, 0.85, customer, (Evidence(f"benchmark {fact.value.value}", fact.source),))


_MEASURED = (
    (Quantity.READ, "Reading memory", "reads"),
    (Quantity.WRITE, "Writing memory", "writes"),
    (Quantity.COPY, "Copying memory", "copies"),
    (Quantity.LATENCY, "Waiting for memory", "answers"),
)


def benchmark_short(case: Case) -> Iterator[Finding]:
    """gauge.short: a bandwidth or a wait that was promised was measured, and is not reached."""
    for quantity, words, does in _MEASURED:
        track = measured_track(case, quantity)
        if track.status is not TrackStatus.SHORT or track.now is None:
            continue
        yield Finding(
            code=Code.BENCHMARK_SHORT,
            severity=Severity.FIX,
            title=f"{words}: {track.now} {track.unit}, promised {track.promised:g} {track.unit}",
            reason="The promise names a measured figure, and the median of the runs does not reach it.",
            next="Look at channels, rate and timings first; measure again with nothing else running; else agree on another promise.",
            sure=0.85,
            customer=f"The memory {does} at {track.now} {track.unit}; {track.promised:g} {track.unit} was promised.",
            evidence=(Evidence(f"benchmark, {track.now} {track.unit}", Source.MEASURED if "measured" in track.basis else Source.TYPED),),
        )


_BENCHMARKS = {
    BenchmarkOutcome.SAME: (
        *(Code.BENCHMARK_SAME, Severity.TELL, "No difference that can be measured"),
        "The runs before and after lie within each other's spread.",
        "The measured speed is the same as before; the gain is in capacity.",
    ),
    BenchmarkOutcome.WORSE: (
        *(Code.BENCHMARK_WORSE, Severity.TELL, "Slower than before"),
        "The runs after the change are slower by more than their spread.",
        "The measured memory speed is lower than before.",
    ),
    BenchmarkOutcome.NOT_COMPARABLE: (
        *(Code.BENCHMARK_NOT_COMPARABLE, Severity.NOTE, "The benchmarks cannot be compared"),
        "Conditions differed: thread count, load, temperature or the version of the plan.",
        "The speed before and after was not measured under equal conditions.",
    ),
}


def demand(case: Case) -> Iterator[Finding]:
    """demand.proven, demand.short: the customer's work held more than the old total, or more than nearly all there is now."""
    fact, before, now = case.demand, case.before, case.now.capacity.now_bytes
    if fact is None:
        return
    peak, old = fact.value, before.capacity.now_bytes if before is not None else None
    evidence = (Evidence(f"at its peak {size_text(peak)}", fact.source),)
    if now is not None and peak > now * _NEARLY_ALL:
        yield Finding(
            code=Code.DEMAND_SHORT,
            severity=Severity.TELL,
            title=f"The work takes {size_text(peak)}, nearly all of {size_text(now)}",
            reason="Little is left for caches, and a little more work would begin to swap.",
            next="Tell the customer that more memory would help further, as far as the machine takes it.",
            sure=0.8,
            customer=f"Your work takes {size_text(peak)} of memory at its peak, nearly all there is; more would help further.",
            evidence=evidence,
        )
    elif old is not None and peak > old:
        yield Finding(
            code=Code.DEMAND_PROVEN,
            severity=Severity.TELL,
            title=f"The work takes {size_text(peak)}: it would not have fit in {size_text(old)}",
            reason=f"It was seen to hold {size_text(peak)}, more than the machine had on arrival.",
            next="Nothing to do; this is what the upgrade did for the customer.",
            sure=0.95,
            customer=f"Your work takes {size_text(peak)} of memory at its peak; it did not fit before, and it does now.",
            evidence=evidence,
        )


def outside(case: Case) -> Iterator[Finding]:
    """cause.outside: the machine switches off under load, or a test failed in the heat: not, or not surely, the memory."""
    fact = case.off_under_load
    soak = case.soak
    if soak is not None and soak.value.errors and soak.value.hot:
        yield Finding(
            code=Code.CAUSE_OUTSIDE,
            severity=Severity.TELL,
            title="The errors came while it was hot: cool it before the memory is blamed",
            reason="The processor slowed itself down for heat, or a sensor went above what memory is made for, while the test ran.",
            next="See whether every fan turns and the cooler sits, let the machine cool, and test again.",
            sure=0.6,
            customer="The machine got hot during the test; its cooling has to be looked at before the memory is blamed.",
            evidence=(Evidence("hot during the memory test", soak.source),),
        )
    blamed = case.tried.first if case.tried is not None and case.tried.settled else None
    if fact is None or not fact.value or (blamed is not None and blamed.kind is SuspectKind.OUTSIDE):
        return  # Where the tries say so too, their finding says more.
    tested = value_of(case.soak)
    clean = tested is not None and not tested.errors
    failed = tested is not None and bool(tested.errors)
    yield Finding(
        code=Code.CAUSE_OUTSIDE,
        severity=Severity.FIX,
        title="Switches off under load: look at cooling and power" + ("" if failed else ", not at memory"),
        reason="Faulty memory makes programs fail; a machine that switches off protects itself from heat or loses its power."
        + (" The memory test was clean." if clean else "")
        + (" The memory test found errors too: heat or a weak supply can cause them, and faulty modules can." if failed else ""),
        next="See whether every fan and pump turns, seat and clean the cooler, and check the power supply; then test again.",
        sure=0.9 if clean else 0.75,
        customer="The machine switches off under load. Cooling and power have to be looked at, and the memory as well."
        if failed
        else "The machine switches off under load. The cause is cooling or power, not the new memory.",
        evidence=(Evidence("switches off under load", fact.source),),
    )


def _said(result: SoakResult) -> str:
    parts = [f"{result.errors} errors" if result.errors else "clean"]
    parts += [f"{result.minutes} minutes"] if result.minutes is not None else []
    parts += [counted(result.passes, "whole pass", "whole passes")] if result.passes is not None else []
    parts += [f"{result.covered_percent} % covered"] if result.covered_percent is not None else []
    parts += [result.by] if result.by else []
    parts += ["the machine's own word"] if result.own_word else []
    return ", ".join(parts)
