"""Adding to the last reading of a job what was typed or looked at later, with the evidence of both."""

from __future__ import annotations

from after_check.domain.jobs import Job, KeptReading, Moment
from after_check.domain.readings import Reading
from after_check.judgement.reconcile import combined, fitted_since
from after_check.sources.evidence import RawEvidence, Taken, with_evidence


def last_reading(job: Job, moment: Moment) -> KeptReading | None:
    """Return the reading that something of a moment is added to: the present one, else that of the arrival."""
    return (job.now if moment is Moment.FITTED else None) or job.arrival


def slot_names(job: Job, moment: Moment) -> tuple[str, ...]:
    """Return the slots of a job's machine: those of its data sheet, else those that a reading named."""
    if job.card is not None and job.card.slots:
        return tuple(slot.name for slot in job.card.slots)
    last = last_reading(job, moment)
    return tuple(slot.name for slot in last.reading.slots) if last is not None else ()


def with_last(job: Job, moment: Moment, added: Reading) -> Reading:
    """Return the last reading with another one added to it; what stood before the modules were changed is not read again by that."""
    last = last_reading(job, moment)
    if last is None:
        return added
    of_arrival = moment is Moment.FITTED and job.now is None
    return fitted_since(last.reading, added) if of_arrival else combined(last.reading, added)


def taken_with_last(job: Job, moment: Moment, added: Taken, kept: tuple[RawEvidence, ...]) -> Taken:
    """Return what was added as a whole reading. `kept` is the evidence of the last one."""
    if last_reading(job, moment) is None:
        return added
    extra = tuple(RawEvidence(f"{part.name}, added {len(kept)}", part.data) for part in added.evidence)
    return with_evidence(with_last(job, moment, added.reading), kept + extra)
