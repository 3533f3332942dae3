"""A job's case file, put together from all that was read, tested, measured and tried, and its judgement."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime

from after_check.benchmark.benchmark_json import merged, outcome_of, promised_figures
from after_check.casework.job_tries import blame_of, next_try_of
from after_check.casework.promised import promise_of
from after_check.casework.same_machine import counts
from after_check.domain.benchmark import BenchmarkRecord
from after_check.domain.case_files import CaseFile, Figures, Needs
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.findings import Judgement
from after_check.domain.jobs import Job, KeptReading, KeptSoak, Moment
from after_check.domain.once import once_for_each
from after_check.domain.readings import BenchmarkOutcome, Reading, SoakResult, StartOutcome
from after_check.domain.tries import SoakSaid, Started
from after_check.judgement.judge import judge
from after_check.judgement.standing_test import standing
from after_check.judgement.version import judged_by
from after_check.soak.soak_json import result_of

_STARTS = {Started.NO: StartOutcome.NO, Started.CYCLES: StartOutcome.CYCLES}


def judged_by_now(needs: Needs) -> int:
    """Return the number of the rules and needs that judge now."""
    return judged_by(needs.soak_minutes, needs.soak_passes, needs.soak_percent)


def judge_job(job: Job, propose: bool = True) -> Judgement:
    """Judge a job. Without `propose` the next try is not worked out, as a list of jobs does not show it."""
    # A job without tries has no next try: its judgement is the same either way, and worked out once.
    return _judged(job, propose and _has_tries(job))


@once_for_each(16)
def _judged(job: Job, propose: bool) -> Judgement:
    return judge(case_file_of(job, propose))


def _has_tries(job: Job) -> bool:
    return job.tries is not None and bool(job.tries.log.tries)


def with_reading(job: Job, reading: Reading, at: datetime) -> Job:
    """Return the job as it would be with one more reading after fitting: what is typed is judged as it will be kept."""
    return replace(job, readings=(*job.readings, KeptReading(0, Moment.FITTED, reading.taken_at or at, reading)))


def case_file_of(job: Job, propose: bool = True) -> CaseFile:
    """Return everything that is known of a job's machine, as judgement looks at it: the one place that makes a case of a job."""
    before, now = benchmarks_of(job)
    return _with_last_try(
        job,
        CaseFile(
            now=job.now.reading if job.now is not None else None,
            before=job.arrival.reading if job.arrival is not None else None,
            promise=promise_of(job),
            card=job.card,
            soak=soak_of(job),
            benchmark=_outcome(before, now),
            figures_now=_figures(now),
            figures_before=_figures(before),
            demand=_demand(job),
            tried=blame_of(job),
            next_try=next_try_of(job) if propose else None,
            needs=job.needs,
            damaged=job.damaged,
            settled=frozenset(job.hand_back.settled),
        ),
    )


@once_for_each(16)
def benchmarks_of(job: Job) -> tuple[BenchmarkRecord | None, BenchmarkRecord | None]:
    """Return the benchmarks of the job's own machine on arrival and after fitting, each as one."""
    before, after = (
        merged(kept.record for kept in job.benchmarks if kept.moment is moment and counts(job, kept.record))
        for moment in (Moment.ARRIVAL, Moment.FITTED)
    )
    return before, after


@dataclass(frozen=True, slots=True)
class _Run:
    at: datetime
    result: SoakResult
    source: Source
    where: str


@once_for_each(16)
def soak_of(job: Job) -> Fact[SoakResult] | None:
    """Return the result that stands of the memory tests of the fitted modules in the job's own machine, run here or typed."""
    now = job.now
    if now is None:
        return None
    stands = standing(_runs(job), lambda run: run.result, lambda failed, later: _changed_between(job, failed.at, later.at))
    return Fact(stands.result, stands.source, stands.where) if stands is not None else _soak_of_the_last_try(job, now)


def _runs(job: Job) -> list[_Run]:
    """Return every memory test that counts, in the order in which they ended."""
    found: list[_Run] = []
    for kept in job.soaks:
        result = result_of(kept.record)
        if result is not None and _is_of_these_modules(job, kept) and counts(job, kept.record):
            source = Source.SYSTEM if result.own_word else Source.MEASURED
            found.append(_Run(kept.changed_at, result, source, f"soak of {kept.record.begun_at:%Y-%m-%d %H:%M} UTC"))
    told: set[SoakResult] = set()
    for reading in (kept for kept in job.readings if kept.moment is Moment.FITTED):
        fact = reading.reading.soak
        for result in (*reading.reading.earlier_soaks, *((fact.value,) if fact is not None else ())):
            if result not in told:  # What is added to a reading carries the results of before with it.
                told.add(result)
                found.append(_Run(reading.taken_at, result, fact.source if fact is not None else Source.TYPED, "typed"))
    return sorted(found, key=lambda run: run.at)


def _changed_between(job: Job, failed: datetime, later: datetime) -> bool:
    """Return whether modules or slots were changed between two moments, or a try was made: something was done about the errors."""
    fitted = [kept for kept in job.readings if kept.moment is Moment.FITTED]
    before = [kept for kept in fitted if kept.taken_at <= failed][-1:]
    after = [kept for kept in fitted if kept.taken_at <= later]
    arrangements = [tuple(kept.reading.filled()) for kept in (*before, *after[-1:])]
    tried = job.tries.log.tries if job.tries is not None else ()
    return (len(arrangements) == 2 and arrangements[0] != arrangements[1]) or any(
        attempt.at is not None and failed < attempt.at <= later for attempt in tried
    )


def _soak_of_the_last_try(job: Job, now: KeptReading) -> Fact[SoakResult] | None:
    """Return the clean memory test that was noted with the last try, where nothing else is known and the try stands."""
    log = job.tries.log if job.tries is not None else None
    last = log.last if log is not None else None
    if log is None or last is None or last.soak is not SoakSaid.CLEAN or now.reading.soak is not None or last.failed:
        return None
    if len(last.arrangement.fitted) != len(now.reading.modules):
        return None
    minutes = int(last.soak_minutes) if last.soak_minutes is not None else None
    return Fact(SoakResult(0, minutes, by=f"try {len(log.tries)}"), Source.TYPED, f"try {len(log.tries)}")


def _is_of_these_modules(job: Job, kept: KeptSoak) -> bool:
    """A soak from before the modules were fitted says nothing of them."""
    first = next((reading for reading in job.readings if reading.moment is Moment.FITTED), None)
    return first is None or kept.changed_at >= first.taken_at


def benchmark_of(job: Job) -> BenchmarkOutcome | None:
    """Return what the benchmarks of a job say, or what a person typed of them."""
    typed = value_of(job.now.reading.benchmark) if job.now is not None else None
    return typed or value_of(_outcome(*benchmarks_of(job)))


def _outcome(before: BenchmarkRecord | None, now: BenchmarkRecord | None) -> Fact[BenchmarkOutcome] | None:
    outcome = outcome_of(before, now)
    return Fact(outcome, Source.MEASURED, "benchmarks on arrival and now") if outcome is not None else None


def _figures(record: BenchmarkRecord | None) -> Figures:
    if record is None:
        return Figures()
    measured = {name: Fact(value, Source.MEASURED, "benchmark") for name, value in promised_figures(record).items()}
    best_gbs = record.best_bandwidth_gbs
    return Figures(**measured, bandwidth_gbs=Fact(best_gbs, Source.MEASURED, "benchmark") if best_gbs is not None else None)


def _demand(job: Job) -> Fact[int] | None:
    peaks = [record.peak_bytes for record in job.demands if record.rehearsed_bytes is None and counts(job, record)]
    return Fact(max(peaks), Source.MEASURED, "memory in use") if peaks else None


def _with_last_try(job: Job, file: CaseFile) -> CaseFile:
    """Put what the latest try said of the start beside a reading that is older than it."""
    last = job.tries.log.last if job.tries is not None else None
    if last is None or (job.now is not None and last.at is not None and last.at < job.now.taken_at):
        return file
    start = Fact(_STARTS[last.started], Source.TYPED, "latest try") if last.started in _STARTS else None
    return replace(file, start=start, off_under_load=Fact(True, Source.TYPED, "latest try") if last.off_under_load else None)
