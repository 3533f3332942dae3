"""A job and its judgement at one moment, frozen: collected in a worker, drawn by screens and paper."""

from __future__ import annotations

from dataclasses import dataclass

from after_check.casework.judging import judge_job, soak_of
from after_check.casework.outcome import outcome_of
from after_check.casework.promised import promise_of
from after_check.casework.shown_boards import ShownBoard, arrival_board, present_board, promised_board
from after_check.domain.facts import Fact
from after_check.domain.findings import Finding, Judgement
from after_check.domain.jobs import Job
from after_check.domain.promises import Promise
from after_check.domain.readings import SoakResult
from after_check.domain.standing import JobOutcome, Quantity


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

    def boards(self) -> tuple[ShownBoard, ...]:
        """The boards that can be shown: now, on arrival, as promised."""
        promised = promised_board(self.job, self.promise) if self.promise is not None and self.promise.modules else None
        return tuple(board for board in (present_board(self.job), arrival_board(self.job), promised) if board is not None)

    def finding(self, index: int) -> Finding | None:
        """Return a finding by its place in the list."""
        findings = self.judgement.findings
        return findings[index] if 0 <= index < len(findings) else None


def take_snapshot(job: Job) -> JobSnapshot:
    """Judge a job and freeze what there is to show."""
    return snapshot_of(job, judge_job(job))


def snapshot_of(job: Job, judgement: Judgement) -> JobSnapshot:
    """Freeze what there is to show of a job that is judged already."""
    typed = job.now.reading.soak if job.now is not None else None
    return JobSnapshot(job, promise_of(job), judgement, soak_of(job) or typed)
