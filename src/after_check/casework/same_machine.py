"""Whether what was tested, measured or watched was done on the job's own machine: only then does it say anything of it."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from after_check.casework.promised import promise_of
from after_check.domain.benchmark import BenchmarkRecord
from after_check.domain.demand import DemandRecord
from after_check.domain.identity import Agreement, MachineIdentity, agreement
from after_check.domain.jobs import Job, Moment
from after_check.domain.soak import SoakRecord
from after_check.judgement.case import view

Run = SoakRecord | BenchmarkRecord | DemandRecord


def agreement_with(job: Job, ran_on: MachineIdentity, at: datetime | None = None) -> tuple[Agreement, str]:
    """Return whether something that ran at a moment (None: now) ran on the machine of a job, and why."""
    return agreement(ran_on, _identities(job, at))


def counts(job: Job, run: Run) -> bool:
    """Return whether a run says something of the job's machine. One that is older than identities counts unless its size is another."""
    if isinstance(run, SoakRecord) and run.own_word_of:
        return True  # The machine at a typed address tested itself.
    if isinstance(run, BenchmarkRecord) and all(series.typed for series in run.series) and run.series:
        return True  # Scores that a person read off the machine.
    ran_on = run.machine or _by_its_size(run)
    found, _ = agreement_with(job, ran_on, run.begun_at)
    return found is Agreement.SAME or (found is Agreement.OPEN and run.machine is None)


def why_not(job: Job, run: Run) -> str:
    """Return in words why a run does not count, or nothing where it does."""
    if counts(job, run):
        return ""
    found, why = agreement_with(job, run.machine or _by_its_size(run), run.begun_at)
    return f"another computer: {why}" if found is Agreement.DIFFERENT else "nobody said whether this was the job's machine"


def known_by(job: Job, run: Run) -> str:
    """Return by what the machine of a run was known to be the job's; empty where it was not, or where nothing was noted of it."""
    if run.machine is None or not counts(job, run):
        return ""
    return agreement_with(job, run.machine, run.begun_at)[1]


def _by_its_size(run: Run) -> MachineIdentity:
    if isinstance(run, SoakRecord):
        return MachineIdentity(usable_bytes=run.covered.installed_bytes)
    return MachineIdentity(usable_bytes=run.total_bytes or None) if isinstance(run, DemandRecord) else MachineIdentity()


def _identities(job: Job, at: datetime | None) -> tuple[MachineIdentity, ...]:
    """Return the job's machine by its readings, latest first. Amounts stand only where they may be those of the moment.

    These are the amount of the last reading before it and of the first one behind it; and what was promised, where the
    machine was not read again since it was opened.
    """
    before = [kept for kept in job.readings if at is None or kept.taken_at <= at]
    behind = [kept for kept in job.readings if kept not in before]
    near = (*before[-1:], *behind[:1])
    found = []
    for kept in reversed(job.readings):
        identity, seen = kept.reading.identity, view(kept.reading).capacity
        amounts = {"installed_bytes": identity.installed_bytes or seen.total_bytes, "usable_bytes": identity.usable_bytes}
        found.append(replace(identity, **amounts if kept in near else {"installed_bytes": None, "usable_bytes": None}))
    promise = promise_of(job)
    promised = promise.total_bytes if promise is not None else None
    if promised and found and all(kept.moment is Moment.ARRIVAL for kept in before):
        found.append(MachineIdentity(installed_bytes=promised))
    return tuple(found)
