"""A promise: what the job is to deliver."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from after_check.domain.boards import Slot
from after_check.domain.modules import Module, Timings
from after_check.domain.readings import ProfileState, Redundancy


@dataclass(frozen=True, slots=True)
class Promise:
    """What was promised. A field that is None was not promised. Flows are to be reached at least, the latency at most.

    `each` describes every module, where an amount was promised in any number of them ("32G DDR4-3200").
    `timings_run`: the timings were promised to run, and do not only describe the modules.
    """

    slots: tuple[Slot, ...] = ()
    loose: tuple[Module, ...] = ()
    total_bytes: int | None = None
    rate_mts: int | None = None
    channels: int | None = None
    profile: ProfileState | None = None
    timings: Timings | None = None
    ecc_on: bool | None = None
    redundancy: Redundancy | None = None
    read_gbs: float | None = None
    write_gbs: float | None = None
    copy_gbs: float | None = None
    latency_ns: float | None = None
    timings_run: bool = False
    each: Module | None = None
    notation: str = ""
    more: Mapping[str, bool | int | float | str] = field(default_factory=dict)

    @property
    def modules(self) -> tuple[Module, ...]:
        """All modules that were promised, those with slots first."""
        return tuple(slot.module for slot in self.slots if slot.module is not None) + self.loose
