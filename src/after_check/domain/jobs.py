"""A job: one machine's upgrade, from arrival to hand-back."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

from after_check.domain.benchmark import BenchmarkRecord
from after_check.domain.cards import Card
from after_check.domain.case_files import Needs
from after_check.domain.demand import DemandRecord
from after_check.domain.handback import HandBack, Revision
from after_check.domain.readings import Reading
from after_check.domain.soak import SoakRecord
from after_check.domain.tries import TryLog


class Moment(StrEnum):
    """When in the job a reading was taken."""

    ARRIVAL = "arrival"
    FITTED = "fitted"


@dataclass(frozen=True, slots=True)
class KeptReading:
    """A reading as a shop keeps it."""

    id: int
    moment: Moment
    taken_at: datetime
    reading: Reading


@dataclass(frozen=True, slots=True)
class KeptSoak:
    """A soak as a shop keeps it; `changed_at` is when its record was last written."""

    id: int
    changed_at: datetime
    record: SoakRecord


@dataclass(frozen=True, slots=True)
class KeptBenchmark:
    """A benchmark, or typed scores, as a shop keeps them."""

    id: int
    moment: Moment
    record: BenchmarkRecord


@dataclass(frozen=True, slots=True)
class KeptTries:
    """A job's log of tries as a shop keeps it; its version rises with every change."""

    version: int
    log: TryLog


@dataclass(frozen=True, slots=True)
class JobFacts:
    """What a person says of a job; `promise` is a line of notation."""

    number: str
    title: str = ""
    machine: str = ""
    customer: str = ""
    promise: str = ""


@dataclass(frozen=True, slots=True)
class Job:
    """A whole job with its readings, oldest first. `version` rises with every change; `card` is that of its machine's model.

    `uid` is the same wherever the job is kept. A `frozen` job is signed: nothing changes until a new revision is begun.
    `damaged` says what of it could not be read from its store, `needs` what its shop asks for beside the promise, and
    `lineages` has marks of what stood in each of its words, oldest first.
    """

    id: int
    facts: JobFacts
    readings: tuple[KeptReading, ...]
    created_at: datetime
    changed_at: datetime
    version: int
    card: Card | None = None
    soaks: tuple[KeptSoak, ...] = ()
    benchmarks: tuple[KeptBenchmark, ...] = ()
    demands: tuple[DemandRecord, ...] = ()
    tries: KeptTries | None = None
    uid: str = ""
    frozen: bool = False
    archived: bool = False
    hand_back: HandBack = field(default_factory=HandBack)
    revisions: tuple[Revision, ...] = ()
    damaged: tuple[str, ...] = ()
    needs: Needs = field(default_factory=Needs)
    lineages: Mapping[str, tuple[str, ...]] = field(default_factory=dict, compare=False)

    @property
    def arrival(self) -> KeptReading | None:
        """The reading before anything was fitted."""
        return next((kept for kept in self.readings if kept.moment is Moment.ARRIVAL), None)

    @property
    def soak(self) -> KeptSoak | None:
        """The latest soak."""
        return self.soaks[-1] if self.soaks else None

    @property
    def soak_is_over(self) -> bool:
        """Whether no soak of this job runs."""
        return self.soak is None or self.soak.record.state.is_over

    @property
    def now(self) -> KeptReading | None:
        """The latest reading after fitting."""
        return next((kept for kept in reversed(self.readings) if kept.moment is Moment.FITTED), None)
