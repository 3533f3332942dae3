"""A benchmark: measured bandwidth and latency with their samples, and the scores that other programs gave."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from statistics import median

from after_check.domain.identity import MachineIdentity


class Unit(StrEnum):
    """Units of what the program measures itself."""

    GBS = "GB/s"
    NS = "ns"


class Kind(StrEnum):
    """What the program measures: how much memory moves a second in one way or another, or how long a word takes."""

    READ = "read"
    WRITE = "write"
    WRITE_PAST_CACHE = "write past cache"
    COPY = "copy"
    SCALED_SUM = "scaled sum"
    LATENCY = "latency"

    @property
    def is_bandwidth(self) -> bool:
        """Whether it is counted in GB/s."""
        return self is not Kind.LATENCY

    @property
    def unit(self) -> Unit:
        """The unit of its samples."""
        return Unit.GBS if self.is_bandwidth else Unit.NS


@dataclass(frozen=True, slots=True)
class Measurement:
    """One quantity that is measured, by all that sets it apart from the others: what a series is known again by.

    `threads` work at a time; a latency has a working set in bytes, on large pages of the processor or on usual ones,
    alone or while the other threads read.
    """

    kind: Kind
    threads: int = 1
    working_set_bytes: int | None = None
    usual_pages: bool = False
    under_load: bool = False

    @property
    def is_a_stair(self) -> bool:
        """Whether it is a step of the staircase: a latency on large pages with nothing else going on."""
        return self.kind is Kind.LATENCY and not self.usual_pages and not self.under_load


@dataclass(frozen=True, slots=True)
class Series:
    """Samples of one quantity, in the order in which they were taken.

    `measured` says which quantity where this program measured it; a score of another program has a `name` that a
    person typed. `stress` says what a score depends on most: memory, processor, graphics, storage, work.
    """

    samples: tuple[float, ...]
    unit: str
    measured: Measurement | None = None
    name: str = ""
    lower_is_better: bool = False
    typed: bool = False
    stress: str = "memory"
    did_not_run: bool = False
    """The work froze or gave up: there is no value, and that says more than one."""

    @property
    def key(self) -> Measurement | str:
        """What the series is known again by: the quantity, or a score's name in small letters."""
        return self.measured if self.measured is not None else self.name.casefold()

    @property
    def median(self) -> float:
        """The middle of the samples; the mean of the two middle ones for an even number. 0 without samples."""
        return median(self.samples) if self.samples else 0.0


@dataclass(frozen=True, slots=True)
class Conditions:
    """What has to be alike for two benchmarks to be compared. An empty text, or None, is not known.

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


@dataclass(frozen=True, slots=True)
class Stair:
    """One step of the latency staircase: a working set in bytes and the samples in ns."""

    size_bytes: int
    series: Series


class BenchmarkState(StrEnum):
    """How a benchmark ended."""

    RUNNING = "running"
    FINISHED = "finished"
    STOPPED = "stopped"
    FAILED = "failed"


@dataclass(frozen=True, slots=True)
class Doing:
    """What a running benchmark is at: a quantity in one of so many rounds, where round 0 warms up; no quantity while it takes memory."""

    measured: Measurement | None = None
    round: int = 0
    rounds: int = 0


@dataclass(frozen=True, slots=True)
class BenchmarkRecord:
    """A whole benchmark; a stopped one keeps what it has. `doing` is there while it runs, for whoever watches."""

    begun_at: datetime
    state: BenchmarkState = BenchmarkState.RUNNING
    conditions: Conditions = Conditions()
    series: tuple[Series, ...] = ()
    seconds: float = 0.0
    share: float = 0.0
    doing: Doing | None = None
    remarks: tuple[str, ...] = ()
    machine: MachineIdentity | None = None

    def of(self, key: Measurement | str) -> Series | None:
        """Return the series of a quantity, or of a score by its name in small letters."""
        return next((series for series in self.series if series.key == key), None)

    @property
    def bandwidths(self) -> tuple[Series, ...]:
        """What was measured of how much memory moves a second."""
        return tuple(series for series in self.series if series.measured is not None and series.measured.kind.is_bandwidth)

    @property
    def stairs(self) -> tuple[Stair, ...]:
        """The latency staircase, smallest working set first; what was measured under load is not in it."""
        found = [
            Stair(series.measured.working_set_bytes, series)
            for series in self.series
            if series.measured is not None and series.measured.is_a_stair and series.measured.working_set_bytes and series.median > 0
        ]
        return tuple(sorted(found, key=lambda stair: stair.size_bytes))

    @property
    def best_bandwidth_gbs(self) -> float | None:
        """The median of the fastest measured bandwidth in GB/s."""
        return max((series.median for series in self.bandwidths), default=None)


class Change(StrEnum):
    """What a comparison says."""

    BETTER = "better"
    WORSE = "worse"
    SAME = "no difference that can be measured"
    NOT_COMPARABLE = "not comparable"


@dataclass(frozen=True, slots=True)
class Comparison:
    """One quantity before and now. Shares are of the median before: 0.1 is ten per cent more; an interval of 95 %.

    `series` is the later one; `single` marks scores that were given once, which prove nothing. `ran` is whether the work ran
    before and now, where it did not both times: it is better or worse then, whatever a score says.
    """

    series: Series
    before: float
    now: float
    change: Change
    share: float
    low: float | None = None
    high: float | None = None
    single: bool = False
    why: str = ""
    ran: tuple[bool, bool] = (True, True)
