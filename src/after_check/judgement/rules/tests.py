"""Rules about what was tried: starts, memory tests, benchmarks, and causes that are not memory."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from after_check.domain.case_files import ENOUGH_PERCENT
from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.findings import Evidence, Finding, finding, shown
from after_check.domain.messages import Message, message
from after_check.domain.readings import BenchmarkOutcome, SoakResult, StartOutcome
from after_check.domain.standing import Quantity, TrackStatus
from after_check.domain.tries import SuspectKind
from after_check.judgement.case import Case
from after_check.judgement.rules.blame import told_by_tries
from after_check.judgement.tracks import measured_track

_NEARLY_ALL = 0.95
_SAID_OF_MEMORY = ("total_bytes", "usable_bytes", "running_rate", "channels", "profile")
"""What a machine says of its memory as a whole: with any of it the promise may be kept, and a memory test is still missing."""
"""Below this share of the memory, "no errors" is said of a part only."""


def soak_errors(case: Case) -> Iterator[Finding]:
    """soak.errors: a memory test found errors."""
    fact = case.soak
    if fact is None or not fact.value.errors:
        return
    count, suspects = fact.value.errors, fact.value.suspects
    filled = {slot.name for slot in case.now.reading.slots if slot.module is not None}
    pointed = suspects if suspects and set(suspects) < filled else ()
    said = finding(
        Code.SOAK_ERRORS,
        0.97,
        (_result(fact), *_symptoms(fact)),
        pointed,
        errors=count,
        named=pointed,
        suspects=_one_of(pointed),
        first=next(iter(pointed), None),
        hot=fact.value.hot,
    )
    yield told_by_tries(case, replace(said, more=_looks_like(fact.value)))


def _one_of(slots: tuple[str, ...]) -> str:
    return " or ".join(slots)


def _looks_like(result: SoakResult) -> tuple[Message, ...]:
    """Return what the errors look like and lie in; nothing where no test of this program looked."""
    first = next(iter(result.symptoms), None)
    if first is None:
        return ()
    kind = message("errors-look-like", **first.values)
    return (kind, Message("errors-lie-in", result.wrong_devices.message.values)) if result.wrong_devices is not None else (kind,)


def _symptoms(fact: Fact[SoakResult]) -> tuple[Evidence, ...]:
    return tuple(
        shown("symptom", fact.source, errors=part.errors, kind_words=part.kind.value, **part.values) for part in fact.value.symptoms
    )


def soak_partial(case: Case) -> Iterator[Finding]:
    """soak.partial: a clean test that covered a part of the memory only, or does not say how much."""
    fact = case.soak
    if fact is None or fact.value.errors:
        return
    percent = fact.value.covered_percent
    if fact.value.passes == 0:
        yield finding(Code.SOAK_PARTIAL, 0.95, (_result(fact),), why="stopped", percent=percent)
    elif percent is None or percent < ENOUGH_PERCENT:
        yield finding(Code.SOAK_PARTIAL, 0.95, (_result(fact),), why="covered", percent=percent, passes=fact.value.passes)


def soak_not_enough(case: Case) -> Iterator[Finding]:
    """soak.not_enough: the shop asks for a longer or a fuller memory test before a job counts as ready."""
    wanting = soak_wanting(case)
    if wanting is not None:
        values: dict[str, Any] = dict(wanting.values)
        yield finding(Code.SOAK_NOT_ENOUGH, 1.0, (shown("wanting", Source.WORKED_OUT, **values),), **values)


def soak_wanting(case: Case) -> Message | None:
    """Return what of the memory test that the shop asks for is missing; None where nothing is, or nothing is asked for."""
    needs = case.needs
    if not needs.a_soak or (case.soak is not None and case.soak.value.errors):
        return None
    if case.soak is None:
        return message("wanting", what="none-yet")
    done = case.soak.value
    for what, wanted, reached in (
        ("minutes", needs.soak_minutes, done.minutes),
        ("passes", needs.soak_passes, done.passes),
        ("percent", needs.soak_percent, done.covered_percent),
    ):
        if wanted and (reached is None or reached < wanted):
            return message("wanting", what=what, done=reached, wanted=wanted)
    return None


def soak_none(case: Case) -> Iterator[Finding]:
    """soak.none: what was promised was read, and no memory test is on record; where nothing starts, none can be."""
    reading = case.now.reading
    if case.start is not None and case.start.value is StartOutcome.NO:
        return
    anything_read = reading.modules or any(getattr(reading, name) for name in _SAID_OF_MEMORY)
    if case.soak is not None or case.needs.a_soak or not case.promise.notation or not anything_read:
        return
    yield finding(Code.SOAK_NONE, 1.0, (shown("no-test", Source.WORKED_OUT),))


def start_outcome(case: Case) -> Iterator[Finding]:
    """start.none, start.slow, start.cycles: how the machine started after the change."""
    fact = case.start
    if fact is None or fact.value not in _STARTS:
        return
    said = finding(_STARTS[fact.value], 0.9, (shown("start", fact.source, outcome=fact.value.value),))
    yield told_by_tries(case, said) if fact.value is StartOutcome.NO else said


_STARTS = {StartOutcome.NO: Code.START_NONE, StartOutcome.SLOW: Code.START_SLOW, StartOutcome.CYCLES: Code.START_CYCLES}


def benchmark_outcome(case: Case) -> Iterator[Finding]:
    """gauge.same, gauge.worse, gauge.not_comparable: what benchmarks before and after said."""
    fact = case.benchmark
    if fact is None or fact.value is BenchmarkOutcome.BETTER:
        return
    yield finding(_BENCHMARKS[fact.value], 0.85, (shown("benchmark", fact.source, outcome=fact.value.value),))


_MEASURED = (Quantity.READ, Quantity.WRITE, Quantity.COPY, Quantity.LATENCY)


def benchmark_short(case: Case) -> Iterator[Finding]:
    """gauge.short: a bandwidth or a wait that was promised was measured, and is not reached."""
    for quantity in _MEASURED:
        track = measured_track(case, quantity)
        if track.status is not TrackStatus.SHORT or track.now is None:
            continue
        source = Source.MEASURED if "measured" in track.basis else Source.TYPED
        yield finding(
            Code.BENCHMARK_SHORT,
            0.85,
            (shown("measured", source, now=f"{track.now}", unit=track.unit),),
            quantity=quantity.value,
            now=f"{track.now}",
            promised=f"{track.promised:g}",
            unit=track.unit,
        )


_BENCHMARKS = {
    BenchmarkOutcome.SAME: Code.BENCHMARK_SAME,
    BenchmarkOutcome.WORSE: Code.BENCHMARK_WORSE,
    BenchmarkOutcome.NOT_COMPARABLE: Code.BENCHMARK_NOT_COMPARABLE,
}


def demand(case: Case) -> Iterator[Finding]:
    """demand.proven, demand.short: the customer's work held more than the old total, or more than nearly all there is now."""
    fact, before, now = case.demand, case.before, case.now.capacity.now_bytes
    if fact is None:
        return
    peak, old = fact.value, before.capacity.now_bytes if before is not None else None
    evidence = (shown("peak", fact.source, peak_bytes=peak),)
    if now is not None and peak > now * _NEARLY_ALL:
        yield finding(Code.DEMAND_SHORT, 0.8, evidence, peak_bytes=peak, now_bytes=now)
    elif old is not None and peak > old:
        yield finding(Code.DEMAND_PROVEN, 0.95, evidence, peak_bytes=peak, before_bytes=old)


def outside(case: Case) -> Iterator[Finding]:
    """cause.outside: the machine switches off under load, or a test failed in the heat: not, or not surely, the memory."""
    fact = case.off_under_load
    soak = case.soak
    if soak is not None and soak.value.errors and soak.value.hot:
        evidence = (shown("hot", soak.source),)
        yield finding(Code.CAUSE_OUTSIDE, 0.6, evidence, severity=Severity.TELL, why="hot")
    blamed = case.tried.first if case.tried is not None and case.tried.settled else None
    if fact is None or not fact.value or (blamed is not None and blamed.kind is SuspectKind.OUTSIDE):
        return  # Where the tries say so too, their finding says more.
    tested = value_of(case.soak)
    why = "off" if tested is None else "off-errors" if tested.errors else "off-clean"
    sure = 0.9 if why == "off-clean" else 0.75
    yield finding(Code.CAUSE_OUTSIDE, sure, (shown("off-under-load", fact.source),), severity=Severity.FIX, why=why)


def _result(fact: Fact[SoakResult]) -> Evidence:
    said = fact.value
    return shown(
        "test",
        fact.source,
        errors=said.errors,
        minutes=said.minutes,
        passes=said.passes,
        percent=said.covered_percent,
        by=said.by or None,
        own_word=said.own_word,
    )
