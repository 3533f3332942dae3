"""A job as a line on the bench, and what a search looks at."""

from __future__ import annotations

from after_check.casework.answers import answers_of
from after_check.casework.next_step import next_step_of
from after_check.casework.outcome import outcome_of
from after_check.casework.snapshot import snapshot_of
from after_check.domain.bench import JobLine, MiniTrack, WaitsFor
from after_check.domain.codes import Severity
from after_check.domain.facts import value_of
from after_check.domain.findings import Judgement
from after_check.domain.jobs import Job
from after_check.domain.soak import SoakState
from after_check.domain.standing import JobOutcome
from after_check.texts import say, words_of


def line_of(job: Job, judgement: Judgement) -> JobLine:
    """Return the job as a line on the bench."""
    worst = next((root for root in judgement.roots if root.severity is not Severity.NOTE), None)
    snapshot = snapshot_of(job, judgement)
    outcome = snapshot.outcome
    return JobLine(
        number=job.facts.number,
        title=job.facts.title,
        machine=job.facts.machine,
        customer=job.facts.customer,
        since=min((kept.taken_at for kept in job.readings), default=job.created_at),
        latest=max((kept.taken_at for kept in job.readings), default=job.created_at),
        outcome=outcome,
        why=say(judgement.why),
        waits_for=_waits_for(job, outcome),
        worst_severity=worst.severity if worst else None,
        worst_title=words_of(worst).title if worst else "",
        soak=_soak_words(job),
        answers="".join(answer.kind.mark for answer in answers_of(snapshot)),
        next_step=next_step_of(snapshot).words,
        tracks=tuple(MiniTrack(track.quantity.value, track.status, track.now, track.promised) for track in judgement.tracks),
    )


def _waits_for(job: Job, outcome: JobOutcome) -> WaitsFor:
    if job.archived:
        return WaitsFor.ARCHIVE
    if not job.soak_is_over:
        return WaitsFor.SOAK
    # Without a memory test there is something left to do, though it may go back like this.
    is_done = job.frozen or outcome is not JobOutcome.NOT_TESTED
    return WaitsFor.CUSTOMER if outcome.may_go and is_done else WaitsFor.YOU


def _soak_words(job: Job) -> str:
    """Return how far a soak is that runs or waits to be taken up again; empty where there is nothing to say."""
    record = job.soak.record if job.soak is not None else None
    if record is None or (record.state.is_over and record.state is not SoakState.INTERRUPTED):
        return ""
    errors = f"{record.errors:,} errors" if record.errors else "no errors"
    left = f", {max(1, round(record.seconds_left / 60))} min left" if record.seconds_left is not None else ""
    return f"{record.plan} memory test {record.state.value} at {record.share:.0%}, {errors}{left}"


def search_text(job: Job, judgement: Judgement) -> str:
    """Return everything that a search looks at, in small letters."""
    facts = job.facts
    words = [facts.number, facts.title, facts.machine, facts.customer, facts.promise, outcome_of(judgement, job.hand_back).value]
    words += [f"{finding.code} {words_of(finding).title}" for finding in judgement.findings]
    for kept in job.readings:
        for module in kept.reading.modules:
            words += [text for text in (value_of(module.maker), value_of(module.part), value_of(module.serial)) if text]
    return " ".join(dict.fromkeys(words)).casefold()
