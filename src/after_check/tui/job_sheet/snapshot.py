"""What the job sheet shows of a job, frozen: collected in a worker, drawn by the widgets."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from after_check.domain.facts import value_of
from after_check.domain.findings import Finding, Judgement, Quantity
from after_check.domain.jobs import Job
from after_check.domain.modules import Module
from after_check.domain.promises import Promise
from after_check.domain.quantities import size_text
from after_check.domain.readings import ProfileState, Reading
from after_check.judgement.reconcile import reconciled
from after_check.shop.summary import judge_job, promise_of, reading_now


class StepState(StrEnum):
    """How far a step of the job is."""

    DONE = "done"
    HERE = "here"
    OPEN = "open"


@dataclass(frozen=True, slots=True)
class JobSnapshot:
    """A job, its promise and its judgement at one moment."""

    job: Job
    promise: Promise | None
    judgement: Judgement

    @property
    def running_mts(self) -> int | None:
        """The rate that runs now."""
        track = self.judgement.track(Quantity.RATE)
        return int(track.now) if track is not None and isinstance(track.now, int | float) else None

    @property
    def steps(self) -> tuple[tuple[str, StepState], ...]:
        """Where the job stands, from arrival to hand-back."""
        done = {
            "Arrival": self.job.arrival is not None,
            "Promise": self.promise is not None,
            "Fit, read back": self.job.now is not None,
        }
        steps: list[tuple[str, StepState]] = []
        here = False
        for name, is_done in done.items():
            state = StepState.DONE if is_done else StepState.OPEN if here else StepState.HERE
            here = here or not is_done
            steps.append((name, state))
        steps.append(self._soak_step())
        fixing = self.judgement.verdict.value != "ready"
        steps.append(("Mend", (StepState.HERE if fixing else StepState.DONE) if not here else StepState.OPEN))
        signed = StepState.DONE if self.job.frozen else StepState.HERE if not here and not fixing else StepState.OPEN
        steps.append(("Hand back", signed))
        return tuple(steps)

    def _soak_step(self) -> tuple[str, StepState]:
        record = self.job.soak.record if self.job.soak is not None else None
        if record is not None and not record.state.is_over:
            return f"Soak {record.share:.0%}", StepState.HERE
        now = reading_now(self.job)
        return "Soak", StepState.DONE if now is not None and now.soak is not None else StepState.OPEN

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
    return JobSnapshot(job, promise_of(job), judge_job(job))


def promise_words(promise: Promise | None) -> str:
    """Return a promise in a line: `2 × 24 GiB DDR5-6400, two channels, profile 1`."""
    if promise is None:
        return ""
    groups: dict[str, int] = {}
    for module in promise.modules:
        groups[_module_words(module)] = groups.get(_module_words(module), 0) + 1
    parts = [" + ".join(f"{count} × {words}" for words, count in groups.items())] if groups else []
    if not groups and promise.total_bytes:
        parts.append(size_text(promise.total_bytes))
    sold = {value_of(module.rated_mts) for module in promise.modules}
    if promise.rate_mts and sold != {promise.rate_mts}:
        parts.append(f"at {promise.rate_mts}")
    if promise.channels:
        parts.append({1: "one channel", 2: "two channels"}.get(promise.channels, f"{promise.channels} channels"))
    if promise.profile is not None:
        parts.append("no profile" if promise.profile is ProfileState.OFF else f"profile {promise.profile.value}")
    return ", ".join(parts)


def _module_words(module: Module) -> str:
    generation, rated_mts = value_of(module.generation), value_of(module.rated_mts)
    size = size_text(module.size_bytes.value) if module.size_bytes else "?"
    return f"{size} {generation}-{rated_mts}" if generation and rated_mts else f"{size} {generation or ''}".strip()
