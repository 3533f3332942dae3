"""A job and its judgement at one moment, frozen: collected in a worker, drawn by screens and paper."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from after_check.casework.judging import judge_job, soak_of
from after_check.casework.outcome import outcome_of
from after_check.casework.promised import promise_of
from after_check.domain.facts import Fact
from after_check.domain.findings import Finding, Judgement
from after_check.domain.jobs import Job
from after_check.domain.promises import Promise
from after_check.domain.readings import Reading, SoakResult
from after_check.domain.standing import JobOutcome, Quantity
from after_check.judgement.reconcile import reconciled


class StepState(StrEnum):
    """How far a step of the job is."""

    DONE = "done"
    HERE = "here"
    OPEN = "open"


class StepName(StrEnum):
    """The steps of a job."""

    ARRIVAL = "arrival"
    PROMISE = "promise"
    READ_BACK = "read back"
    SOAK = "soak"
    FIX = "fix"
    HAND_BACK = "hand back"


@dataclass(frozen=True, slots=True)
class JobStep:
    """A step and how far it is; `share` is how much of it is done, from 0 to 1, while it goes on."""

    step: StepName
    state: StepState
    share: float | None = None


@dataclass(frozen=True, slots=True)
class JobSnapshot:
    """A job, its promise and its judgement at one moment; `soak` is the result of a memory test that counts."""

    job: Job
    promise: Promise | None
    judgement: Judgement
    soak: Fact[SoakResult] | None = None

    @property
    def outcome(self) -> JobOutcome:
        """How the job stands, and how it goes back."""
        return outcome_of(self.judgement, self.job.hand_back)

    @property
    def running_mts(self) -> int | None:
        """The rate that runs now."""
        track = self.judgement.track(Quantity.RATE)
        return int(track.now) if track is not None and isinstance(track.now, int | float) else None

    @property
    def steps(self) -> tuple[JobStep, ...]:
        """Where the job stands, from arrival to hand-back."""
        done = {
            StepName.ARRIVAL: self.job.arrival is not None,
            StepName.PROMISE: self.promise is not None,
            StepName.READ_BACK: self.job.now is not None,
        }
        steps: list[JobStep] = []
        here = False
        for step, is_done in done.items():
            state = StepState.DONE if is_done else StepState.OPEN if here else StepState.HERE
            here = here or not is_done
            steps.append(JobStep(step, state))
        steps.append(self._soak_step())
        fixing = not self.outcome.may_go
        steps.append(JobStep(StepName.FIX, (StepState.HERE if fixing else StepState.DONE) if not here else StepState.OPEN))
        signed = StepState.DONE if self.job.frozen else StepState.HERE if not here and not fixing else StepState.OPEN
        steps.append(JobStep(StepName.HAND_BACK, signed))
        return tuple(steps)

    def _soak_step(self) -> JobStep:
        record = self.job.soak.record if self.job.soak is not None else None
        if record is not None and not record.state.is_over:
            return JobStep(StepName.SOAK, StepState.HERE, record.share)
        return JobStep(StepName.SOAK, StepState.DONE if self.soak is not None else StepState.OPEN)

    def board_readings(self) -> tuple[tuple[str, Reading], ...]:
        """The boards that can be shown: now, on arrival, as promised."""
        boards: list[tuple[str, Reading]] = []
        if self.job.now is not None:
            boards.append(("now", reconciled(self.job.now.reading)))
        if self.job.arrival is not None:
            boards.append(("on arrival", reconciled(self.job.arrival.reading)))
        if self.promise is not None and self.promise.modules:
            boards.append(("as promised", Reading(slots=self.promise.slots, loose=self.promise.loose)))
        return tuple(boards)

    def finding(self, index: int) -> Finding | None:
        """Return a finding by its place in the list."""
        findings = self.judgement.findings
        return findings[index] if 0 <= index < len(findings) else None


def take_snapshot(job: Job) -> JobSnapshot:
    """Judge a job and freeze what there is to show."""
    typed = job.now.reading.soak if job.now is not None else None
    return JobSnapshot(job, promise_of(job), judge_job(job), soak_of(job) or typed)
