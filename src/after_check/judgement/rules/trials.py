"""Rules about what was tried: starts, memory tests, benchmarks, and causes that are not memory."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Evidence, Finding, Quantity, Severity, TrackStatus
from after_check.domain.quantities import size_text
from after_check.domain.readings import GaugeOutcome, SoakResult, StartOutcome
from after_check.domain.tries import SuspectKind
from after_check.judgement.case import Case
from after_check.judgement.rules.tried import told_by_tries
from after_check.judgement.tracks import measured_track

_NEARLY_ALL = 0.95
_ENOUGH_PERCENT = 90
"""Below this share of the memory, "no errors" is said of a part only."""


def soak_errors(case: Case) -> Iterator[Finding]:
    """soak.errors: a memory test found errors."""
    fact = case.now.reading.soak
    if fact is None or not fact.value.errors:
        return
    count, suspects = fact.value.errors, fact.value.suspects
    filled = {slot.name for slot in case.now.reading.slots if slot.module is not None}
    pointed = suspects if suspects and set(suspects) < filled else ()
    place = f", which point at {' or '.join(pointed)}" if pointed else ""
    finding = Finding(
        code="soak.errors",
        severity=Severity.FIX,
        title=f"The memory test found {count:,} error{'s' if count > 1 else ''}{place}",
        reason="Memory that fails a test once cannot be trusted with anybody's work, however rarely it fails."
        + (" The processor or the modules ran hot meanwhile, which makes sound memory fail too." if fact.value.hot else ""),
        next=f"Test the module of {pointed[0]} alone, in a slot that is known to be good; then another one in {pointed[0]}."
        if pointed
        else "Set standard rate and voltage and test again; if it still fails, test one module at a time to find which.",
        sure=0.97,
        customer="A test found errors in the memory; it is not safe to use like this.",
        evidence=(Evidence(_said(fact.value), fact.source),),
        slots=pointed,
    )
    yield told_by_tries(case, finding)


def soak_partial(case: Case) -> Iterator[Finding]:
    """soak.partial: a clean test that covered a part of the memory only, or does not say how much."""
    fact = case.now.reading.soak
    if fact is None or fact.value.errors:
        return
    percent = fact.value.covered_percent
    if percent is not None and percent >= _ENOUGH_PERCENT:
        return
    said = f"{percent} % of the memory" if percent is not None else "an unknown part of the memory"
    yield Finding(
        code="soak.partial",
        severity=Severity.TELL,
        title=f"The memory test covered {said}",
        reason="No errors were found in what was tested; the rest was not.",
        next="Test again with less running beside it, or from outside the system.",
        sure=0.95,
        customer=f"The memory test found no errors and covered {said}.",
        evidence=(Evidence(_said(fact.value), fact.source),),
    )


def soak_none(case: Case) -> Iterator[Finding]:
    """soak.none: what was promised was read, and no memory test is on record."""
    reading = case.now.reading
    if reading.soak is not None or not case.promise.notation or not (reading.modules or reading.total_bytes or reading.usable_bytes):
        return
    yield Finding(
        code="soak.none",
        severity=Severity.NOTE,
        title="No memory test is on record",
        reason="What was read says that the memory is there and at its pace; whether it can be trusted only a test shows.",
        next="Run a soak, or add the result of a test that was run elsewhere, for instance + soak clean 60min 95%.",
        sure=1.0,
        customer="The memory was not tested for hidden faults.",
        evidence=(Evidence("no result of a test", Source.WORKED_OUT),),
    )


def start_outcome(case: Case) -> Iterator[Finding]:
    """start.none, start.slow, start.cycles: how the machine started after the change."""
    fact = case.now.reading.start
    if fact is None:
        return
    code, severity, title, reason, step, customer = _STARTS[fact.value]
    finding = Finding(code, severity, title, reason, step, 0.9, customer, (Evidence(f"start {fact.value.value}", fact.source),))
    yield told_by_tries(case, finding) if fact.value is StartOutcome.NO else finding


_STARTS = {
    StartOutcome.NO: (
        *("start.none", Severity.FIX, "The machine does not start"),
        "With this arrangement of modules nothing was seen of a start within the longest reasonable time.",
        "Reseat the modules; then one module alone in a slot known to be good; then the old modules, to prove the machine itself.",
        "The machine does not start with the new memory yet.",
    ),
    StartOutcome.SLOW: (
        *("start.slow", Severity.NOTE, "The start took long"),
        "The first start after a change is slower, as the memory is measured out; later ones should be as before.",
        "Start once more and compare; if it stays slow, look for the memory settings in the firmware setup.",
        "The first start after the change takes longer than usual.",
    ),
    StartOutcome.CYCLES: (
        *("start.cycles", Severity.NOTE, "The machine switched itself off and on while starting"),
        "Two or three power cycles are how some machines find the settings of new memory.",
        "Wait for them to end; more than a handful points to a setting or a module that it cannot use.",
        "The machine restarted by itself a few times while it got used to the new memory.",
    ),
}


def gauge_outcome(case: Case) -> Iterator[Finding]:
    """gauge.same, gauge.worse, gauge.not_comparable: what benchmarks before and after said."""
    fact = case.now.reading.gauge
    if fact is None or fact.value is GaugeOutcome.BETTER:
        return
    code, severity, title, reason, customer = _GAUGES[fact.value]
    step = "Look at channels, rate and timings first; then measure again under equal conditions."
    yield Finding(code, severity, title, reason, step, 0.85, customer, (Evidence(f"gauge {fact.value.value}", fact.source),))


_MEASURED = (
    (Quantity.READ, "Reading memory", "reads"),
    (Quantity.WRITE, "Writing memory", "writes"),
    (Quantity.COPY, "Copying memory", "copies"),
    (Quantity.LATENCY, "Waiting for memory", "answers"),
)


def gauge_short(case: Case) -> Iterator[Finding]:
    """gauge.short: a flow or a wait that was promised was measured, and is not reached."""
    for quantity, words, does in _MEASURED:
        track = measured_track(case, quantity)
        if track.status is not TrackStatus.SHORT or track.now is None:
            continue
        yield Finding(
            code="gauge.short",
            severity=Severity.FIX,
            title=f"{words}: {track.now} {track.unit}, promised {track.promised:g} {track.unit}",
            reason="The promise names a measured figure, and the median of the runs does not reach it.",
            next="Look at channels, rate and timings first; measure again with nothing else running; else agree on another promise.",
            sure=0.85,
            customer=f"The memory {does} at {track.now} {track.unit}; {track.promised:g} {track.unit} was promised.",
            evidence=(Evidence(f"gauge, {track.now} {track.unit}", Source.MEASURED if "measured" in track.basis else Source.TYPED),),
        )


_GAUGES = {
    GaugeOutcome.SAME: (
        *("gauge.same", Severity.TELL, "No difference that can be measured"),
        "The runs before and after lie within each other's spread.",
        "The measured speed is the same as before; the gain is in capacity.",
    ),
    GaugeOutcome.WORSE: (
        *("gauge.worse", Severity.TELL, "Slower than before"),
        "The runs after the change are slower by more than their spread.",
        "The measured memory speed is lower than before.",
    ),
    GaugeOutcome.NOT_COMPARABLE: (
        *("gauge.not_comparable", Severity.NOTE, "The benchmarks cannot be compared"),
        "Conditions differed: thread count, load, temperature or the version of the plan.",
        "The speed before and after was not measured under equal conditions.",
    ),
}


def demand(case: Case) -> Iterator[Finding]:
    """demand.proven, demand.short: the customer's work held more than the old total, or more than nearly all there is now."""
    fact, before, now = case.now.reading.peak_demand_bytes, case.before, case.now.capacity.now_bytes
    if fact is None:
        return
    peak, old = fact.value, before.capacity.now_bytes if before is not None else None
    evidence = (Evidence(f"at its peak {size_text(peak)}", fact.source),)
    if now is not None and peak > now * _NEARLY_ALL:
        yield Finding(
            code="demand.short",
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
            code="demand.proven",
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
    fact = case.now.reading.off_under_load
    soak = case.now.reading.soak
    if soak is not None and soak.value.errors and soak.value.hot:
        yield Finding(
            code="cause.outside",
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
    tested = value_of(case.now.reading.soak)
    clean = tested is not None and not tested.errors
    yield Finding(
        code="cause.outside",
        severity=Severity.FIX,
        title="Switches off under load: look at cooling and power, not at memory",
        reason="Faulty memory makes programs fail; a machine that switches off protects itself from heat or loses its power."
        + (" The memory test was clean." if clean else ""),
        next="See whether every fan and pump turns, seat and clean the cooler, and check the power supply; then test again.",
        sure=0.9 if clean else 0.75,
        customer="The machine switches off under load. The cause is cooling or power, not the new memory.",
        evidence=(Evidence("switches off under load", fact.source),),
    )


def _said(result: SoakResult) -> str:
    parts = [f"{result.errors} errors" if result.errors else "clean"]
    parts += [f"{result.minutes} minutes"] if result.minutes is not None else []
    parts += [f"{result.covered_percent} % covered"] if result.covered_percent is not None else []
    parts += [result.by] if result.by else []
    parts += ["the machine's own word"] if result.own_word else []
    return ", ".join(parts)
