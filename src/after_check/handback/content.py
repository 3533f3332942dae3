"""Everything that the sheet shows, frozen, and how it is to look."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from after_check.casework.job_tries import blame_of, log_of
from after_check.casework.judging import benchmarks_of
from after_check.casework.outcome import open_fixes
from after_check.casework.shown_boards import ShownBoard, arrival_board, present_board
from after_check.casework.snapshot import JobSnapshot, take_snapshot
from after_check.domain.benchmark import BenchmarkRecord
from after_check.domain.codes import Severity
from after_check.domain.facts import value_of
from after_check.domain.findings import Finding, Judgement
from after_check.domain.jobs import Job
from after_check.domain.promises import Promise
from after_check.domain.quantities import peak_bandwidth_gbs
from after_check.domain.readings import Reading, SoakResult
from after_check.domain.standing import Quantity
from after_check.domain.tries import Blame, TryLog
from after_check.judgement.reconcile import reconciled
from after_check.local.settings import Settings


@dataclass(frozen=True, slots=True)
class Look:
    """Paper (A4 or Letter), colour or grey, and the shop's own name, words (an address) and mark (a PNG)."""

    paper: str = "A4"
    colour: bool = True
    shop_name: str = ""
    shop_words: str = ""
    shop_mark: Path | None = None


def look_of(settings: Settings) -> Look:
    """Return the look that the settings ask for."""
    return Look(settings.paper, settings.colour, settings.shop_name, settings.shop_words, settings.shop_mark)


@dataclass(frozen=True, slots=True)
class SheetContent:
    """Everything that the sheet shows."""

    snapshot: JobSnapshot

    @property
    def job(self) -> Job:
        """The job."""
        return self.snapshot.job

    @property
    def promise(self) -> Promise | None:
        """Its promise, where there is one."""
        return self.snapshot.promise

    @property
    def judgement(self) -> Judgement:
        """Its judgement."""
        return self.snapshot.judgement

    @property
    def soak(self) -> SoakResult | None:
        """The result of the memory test that counts."""
        return value_of(self.snapshot.soak)

    @property
    def board_before(self) -> ShownBoard | None:
        """The board on arrival, with the letters of its modules."""
        return arrival_board(self.job)

    @property
    def board_now(self) -> ShownBoard | None:
        """The board as it is now, with the letters of its modules."""
        return present_board(self.job)

    @property
    def before(self) -> Reading | None:
        """The reading on arrival."""
        return reconciled(self.job.arrival.reading) if self.job.arrival else None

    @property
    def now(self) -> Reading | None:
        """The latest reading after fitting."""
        return reconciled(self.job.now.reading) if self.job.now else None

    @property
    def benchmarks(self) -> tuple[BenchmarkRecord | None, BenchmarkRecord | None]:
        """The benchmarks on arrival and now."""
        return benchmarks_of(self.job)

    @property
    def tries(self) -> TryLog | None:
        """The tries, where there are any."""
        return log_of(self.job) if self.job.tries is not None and self.job.tries.log.tries else None

    @property
    def conclusion(self) -> str:
        """What the technician concludes of them, in his own words."""
        return self.tries.conclusion if self.tries is not None else ""

    @property
    def blame(self) -> Blame | None:
        """What the tries say."""
        return blame_of(self.job)

    @property
    def one_channel_gbs(self) -> float | None:
        """What one channel carries at the running rate, in GB/s."""
        rate = self.judgement.track(Quantity.RATE)
        return peak_bandwidth_gbs(int(rate.now), 1) if rate is not None and isinstance(rate.now, int | float) else None

    @property
    def channels(self) -> int:
        """How many channels run, or the two that most machines have where that is not known."""
        channels = self.judgement.track(Quantity.CHANNELS)
        return int(channels.now) if channels is not None and isinstance(channels.now, int | float) else 2

    def open_findings(self, severity: Severity) -> tuple[Finding, ...]:
        """Return the causes of a severity that nobody accepted; what follows from one goes with it."""
        if severity is Severity.FIX:
            return open_fixes(self.judgement, self.job.hand_back)
        roots = (finding for finding in self.judgement.roots if finding.severity is severity)
        return tuple(finding for finding in roots if self.job.hand_back.accepted(finding.code) is None)


def content_of(job: Job) -> SheetContent:
    """Return what the sheet of a job shows."""
    return SheetContent(take_snapshot(job))
