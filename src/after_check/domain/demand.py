"""Demand: how much memory the customer's work asks for, over time."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from after_check.domain.identity import MachineIdentity


@dataclass(frozen=True, slots=True)
class DemandSample:
    """Memory at one moment, in bytes. `used_bytes` is what programs hold, swapped out parts included; caches are not in it.

    `swapped_out_pages` and `hard_faults` count since the watch began; `pressure_percent` is the share of the last ten
    seconds in which some program waited for memory.
    """

    at_seconds: float
    used_bytes: int
    cached_bytes: int = 0
    swapped_bytes: int = 0
    swapped_out_pages: int = 0
    hard_faults: int = 0
    pressure_percent: float | None = None


@dataclass(frozen=True, slots=True)
class DemandRecord:
    """A watch over memory. `rehearsed_bytes` is how far a rehearsed load grew; None where the customer's own work ran."""

    begun_at: datetime
    total_bytes: int
    samples: tuple[DemandSample, ...] = ()
    rehearsed_bytes: int | None = None
    remarks: tuple[str, ...] = ()
    machine: MachineIdentity | None = None

    @property
    def peak_bytes(self) -> int:
        """The most that programs held at once."""
        return max((sample.used_bytes for sample in self.samples), default=0)

    @property
    def swapped_out(self) -> bool:
        """Whether anything was swapped out during the watch."""
        return any(sample.swapped_out_pages for sample in self.samples)

    def seconds_above(self, total_bytes: int) -> float:
        """Return for how long programs held more than an amount: each sample stands until the next one."""
        above = 0.0
        for sample, following in zip(self.samples, self.samples[1:], strict=False):
            if sample.used_bytes > total_bytes:
                above += following.at_seconds - sample.at_seconds
        return above
