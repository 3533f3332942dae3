"""Judging a job as the shop keeps it, and the line that the bench shows of it."""

from __future__ import annotations

from after_check.domain.bench import JobLine, MiniTrack, WaitsFor
from after_check.domain.facts import value_of
from after_check.domain.findings import Judgement, Severity, Verdict
from after_check.domain.jobs import Job
from after_check.domain.promises import Promise
from after_check.domain.readings import Reading
from after_check.judgement.judge import judge
from after_check.sources.notation import parse_promise

_NOT_READ = "the machine was not read after fitting"


def promise_of(job: Job) -> Promise | None:
    """Return the job's promise, or None where nothing was promised yet."""
    return parse_promise(job.facts.promise)[0] if job.facts.promise else None


def judge_job(job: Job) -> Judgement:
    """Judge the latest reading after fitting against the promise; without one, nothing can be told."""
    before = job.arrival.reading if job.arrival else None
    if job.now is None:
        judgement = judge(Reading(), before, promise_of(job), job.card)
        return Judgement(Verdict.CANT_TELL, _NOT_READ, judgement.tracks, (), judgement.ceilings)
    return judge(job.now.reading, before, promise_of(job), job.card)


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
        waits_for=WaitsFor.CUSTOMER if judgement.verdict is Verdict.READY else WaitsFor.YOU,
        worst_severity=worst.severity if worst else None,
        worst_title=worst.title if worst else "",
        tracks=tuple(MiniTrack(track.quantity.value, track.status, track.now, track.promised) for track in judgement.tracks),
    )


def search_text(job: Job, judgement: Judgement) -> str:
    """Return everything that a search looks at, in small letters."""
    facts = job.facts
    words = [facts.number, facts.title, facts.machine, facts.customer, facts.promise, judgement.verdict.value]
    words += [f"{finding.code} {finding.title}" for finding in judgement.findings]
    for kept in job.readings:
        for module in kept.reading.modules:
            words += [text for text in (value_of(module.maker), value_of(module.part), value_of(module.serial)) if text]
    return " ".join(dict.fromkeys(words)).casefold()
