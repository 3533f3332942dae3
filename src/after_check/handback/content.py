"""Everything that the sheet shows, frozen, and how it is to look."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from after_check.domain.findings import Finding, Judgement, Quantity, Severity
from after_check.domain.gauge import GaugeRecord
from after_check.domain.jobs import Job
from after_check.domain.promises import Promise
from after_check.domain.quantities import peak_bandwidth_gbs
from after_check.domain.readings import Reading
from after_check.domain.tries import Blame, TryLog
from after_check.judgement.reconcile import reconciled
from after_check.shop.settings import Settings
from after_check.shop.summary import gauges_of, judge_job, promise_of, reading_now
from after_check.shop.tried import blame_of, log_of


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

    job: Job
    promise: Promise | None
    judgement: Judgement

    @property
    def before(self) -> Reading | None:
        """The reading on arrival."""
        return reconciled(self.job.arrival.reading) if self.job.arrival else None

    @property
    def now(self) -> Reading | None:
        """The latest reading after fitting."""
        now = reading_now(self.job)
        return reconciled(now) if now is not None else None

    @property
    def gauges(self) -> tuple[GaugeRecord | None, GaugeRecord | None]:
        """The gauges on arrival and now."""
        return gauges_of(self.job)

    @property
    def tries(self) -> TryLog | None:
        """The tries, where there are any."""
        return log_of(self.job) if self.job.tries is not None and self.job.tries.log.tries else None

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
        """Return the findings of a severity that nobody accepted."""
        return tuple(one for one in self.judgement.findings if one.severity is severity and self.job.hand_back.accepted(one.code) is None)


def content_of(job: Job) -> SheetContent:
    """Return what the sheet of a job shows."""
    return SheetContent(job, promise_of(job), judge_job(job))
