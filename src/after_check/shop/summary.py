"""Judging a job as the shop keeps it, and the line that the bench shows of it."""

from __future__ import annotations

from dataclasses import replace

from after_check.domain.bench import JobLine, MiniTrack, WaitsFor
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.findings import Judgement, Severity, Verdict
from after_check.domain.gauge import GaugeRecord
from after_check.domain.jobs import Job, KeptReading, KeptSoak, Moment
from after_check.domain.promises import Promise
from after_check.domain.readings import Reading, StartOutcome
from after_check.domain.soak import SoakState
from after_check.domain.tries import Started
from after_check.gauge.record import merged, outcome_of, promised_figures
from after_check.judgement.judge import judge
from after_check.shop.tried import blame_of
from after_check.soak.record import result_of
from after_check.sources.notation import parse_promise

_NOT_READ = "the machine was not read after fitting"


def promise_of(job: Job) -> Promise | None:
    """Return the job's promise, or None where nothing was promised yet."""
    return parse_promise(job.facts.promise)[0] if job.facts.promise else None


def judge_job(job: Job) -> Judgement:
    """Judge the latest reading after fitting against the promise; without one, nothing can be told."""
    before = reading_before(job)
    tried = blame_of(job)
    if job.now is None and tried is None:
        judgement = judge(Reading(), before, promise_of(job), job.card)
        return Judgement(Verdict.CANT_TELL, _NOT_READ, judgement.tracks, (), judgement.ceilings)
    return judge(_with_last_try(job, reading_now(job) or Reading()), before, promise_of(job), job.card, tried)


def _with_last_try(job: Job, reading: Reading) -> Reading:
    """Put what the latest try said of the start into a reading, where it is later than the reading."""
    last = job.tries.log.last if job.tries is not None else None
    if last is None or (job.now is not None and last.at is not None and last.at < job.now.taken_at):
        return reading
    outcomes = {Started.NO: StartOutcome.NO, Started.CYCLES: StartOutcome.CYCLES}
    if reading.start is None and last.started in outcomes:
        reading = replace(reading, start=Fact(outcomes[last.started], Source.TYPED, "latest try"))
    if reading.off_under_load is None and last.off_under_load:
        reading = replace(reading, off_under_load=Fact(True, Source.TYPED, "latest try"))
    return reading


def reading_now(job: Job) -> Reading | None:
    """Return the reading now with the result of the latest soak that has one, unless a later reading says its own."""
    now = job.now
    if now is None:
        return None
    return _with_gauge(job, _with_soak(job, now))


def reading_before(job: Job) -> Reading | None:
    """Return the reading on arrival with what was measured then."""
    return _with_measured(job.arrival.reading, gauges_of(job)[0]) if job.arrival else None


def gauges_of(job: Job) -> tuple[GaugeRecord | None, GaugeRecord | None]:
    """Return the gauges on arrival and after fitting, each as one."""
    before, after = (merged(kept.record for kept in job.gauges if kept.moment is moment) for moment in (Moment.ARRIVAL, Moment.FITTED))
    return before, after


def _with_gauge(job: Job, reading: Reading) -> Reading:
    before, now = gauges_of(job)
    outcome = outcome_of(before, now)
    if outcome is not None and reading.gauge is None:
        reading = replace(reading, gauge=Fact(outcome, Source.MEASURED, "gauges on arrival and now"))
    peaks = [one.peak_bytes for one in job.demands if one.rehearsed_bytes is None]
    if peaks:
        reading = replace(reading, peak_demand_bytes=Fact(max(peaks), Source.MEASURED, "demand"))
    reading = _with_measured(reading, now)
    best_gbs = now.best_bandwidth_gbs if now is not None else None
    if best_gbs is not None:
        reading = replace(reading, bandwidth_gbs=Fact(best_gbs, Source.MEASURED, "gauge"))
    return reading


def _with_measured(reading: Reading, gauge: GaugeRecord | None) -> Reading:
    """Put what a gauge measured into a reading; what was typed into it stays where nothing was measured."""
    for name, value in promised_figures(gauge).items() if gauge is not None else ():
        reading = replace(reading, **{name: Fact(value, Source.MEASURED, "gauge")})  # type: ignore[arg-type]  # one field of its type
    return reading


def _with_soak(job: Job, now: KeptReading) -> Reading:
    for kept in reversed(job.soaks):
        result = result_of(kept.record)
        typed_later = now.reading.soak is not None and now.taken_at > kept.changed_at
        if result is not None and not typed_later and _is_of_these_modules(job, kept):
            source = Source.SYSTEM if result.own_word else Source.MEASURED
            return replace(now.reading, soak=Fact(result, source, f"soak of {kept.record.begun_at:%Y-%m-%d %H:%M} UTC"))
    return now.reading


def _is_of_these_modules(job: Job, kept: KeptSoak) -> bool:
    """A soak from before the modules were fitted says nothing of them."""
    first = next((one for one in job.readings if one.moment is Moment.FITTED), None)
    return first is None or kept.changed_at >= first.taken_at


def line_of(job: Job, judgement: Judgement) -> JobLine:
    """Return the job as a line on the bench."""
    worst = judgement.findings[0] if judgement.findings and judgement.findings[0].severity is not Severity.NOTE else None
    return JobLine(
        number=job.facts.number,
        title=job.facts.title,
        machine=job.facts.machine,
        customer=job.facts.customer,
        since=min((kept.taken_at for kept in job.readings), default=job.created_at),
        latest=max((kept.taken_at for kept in job.readings), default=job.created_at),
        verdict=judgement.verdict,
        why=judgement.why,
        waits_for=_waits_for(job, judgement),
        worst_severity=worst.severity if worst else None,
        worst_title=worst.title if worst else "",
        soak=_soak_words(job),
        tracks=tuple(MiniTrack(track.quantity.value, track.status, track.now, track.promised) for track in judgement.tracks),
    )


def _waits_for(job: Job, judgement: Judgement) -> WaitsFor:
    if job.archived:
        return WaitsFor.ARCHIVE
    if not job.soak_is_over:
        return WaitsFor.SOAK
    return WaitsFor.CUSTOMER if judgement.verdict is Verdict.READY else WaitsFor.YOU


def _soak_words(job: Job) -> str:
    """Return how far a soak is that runs or waits to be taken up again; empty where there is nothing to say."""
    record = job.soak.record if job.soak is not None else None
    if record is None or (record.state.is_over and record.state is not SoakState.INTERRUPTED):
        return ""
    errors = f"{record.errors:,} errors" if record.errors else "no errors"
    left = f", {max(1, round(record.seconds_left / 60))} min left" if record.seconds_left is not None else ""
    return f"{record.plan} soak {record.state.value} at {record.share:.0%}, {errors}{left}"


def search_text(job: Job, judgement: Judgement) -> str:
    """Return everything that a search looks at, in small letters."""
    facts = job.facts
    words = [facts.number, facts.title, facts.machine, facts.customer, facts.promise, judgement.verdict.value]
    words += [f"{finding.code} {finding.title}" for finding in judgement.findings]
    for kept in job.readings:
        for module in kept.reading.modules:
            words += [text for text in (value_of(module.maker), value_of(module.part), value_of(module.serial)) if text]
    return " ".join(dict.fromkeys(words)).casefold()
