"""A gauge: measured bandwidth and latency with their samples, and the scores that other programs gave."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum


class Unit(StrEnum):
    """Units of what the program measures itself."""

    GBS = "GB/s"
    NS = "ns"


@dataclass(frozen=True, slots=True)
class Series:
    """Samples of one quantity, in the order in which they were taken. `typed` ones were measured by another program.

    `stress` says what the quantity depends on most, to group scores: memory, processor, graphics, storage, work.
    """

    name: str
    unit: str
    samples: tuple[float, ...]
    lower_is_better: bool = False
    typed: bool = False
    stress: str = "memory"

    @property
    def median(self) -> float:
        """The middle of the samples; the mean of the two middle ones for an even number. 0 without samples."""
        ordered = sorted(self.samples)
        count = len(ordered)
        if not count:
            return 0.0
        return ordered[count // 2] if count % 2 else (ordered[count // 2 - 1] + ordered[count // 2]) / 2


@dataclass(frozen=True, slots=True)
class Conditions:
    """What has to be alike for two gauges to be compared. An empty text, or None, is not known.

    `load` is for each core; `stolen` the share of the processor that a hypervisor took away while it was measured.
    """

    plan: str = ""
    threads: int = 0
    buffer_bytes: int = 0
    governor: str = ""
    power: str = ""
    system: str = ""
    versions: str = ""
    load: float | None = None
    processor_celsius: float | None = None
    throttled: int | None = None
    large_pages: bool | None = None
    stolen: float | None = None


class GaugeState(StrEnum):
    """How a gauge ended."""

    RUNNING = "running"
    FINISHED = "finished"
    STOPPED = "stopped"
    FAILED = "failed"


@dataclass(frozen=True, slots=True)
class GaugeRecord:
    """A whole gauge. Series are named `read · 2 threads` or `latency · 64 KiB`; a stopped one keeps what it has."""

    begun_at: datetime
    state: GaugeState = GaugeState.RUNNING
    conditions: Conditions = Conditions()
    series: tuple[Series, ...] = ()
    seconds: float = 0.0
    share: float = 0.0
    doing: str = ""
    remarks: tuple[str, ...] = ()

    def named(self, name: str) -> Series | None:
        """Return a series by its name."""
        return next((one for one in self.series if one.name == name), None)

    @property
    def best_bandwidth_gbs(self) -> float | None:
        """The median of the fastest measured flow in GB/s."""
        return max((one.median for one in self.series if one.unit == Unit.GBS and not one.typed), default=None)


class Change(StrEnum):
    """What a comparison says."""

    BETTER = "better"
    WORSE = "worse"
    SAME = "no difference that can be measured"
    NOT_COMPARABLE = "not comparable"


@dataclass(frozen=True, slots=True)
class Comparison:
    """One quantity before and now. Shares are of the median before: 0.1 is ten per cent more; an interval of 95 %.

    `single` marks a plain percentage of scores that were given once.
    """

    name: str
    unit: str
    before: float
    now: float
    change: Change
    share: float
    low: float | None = None
    high: float | None = None
    single: bool = False
    why: str = ""
    stress: str = "memory"
    lower_is_better: bool = False
