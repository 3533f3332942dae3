"""What timings a module wants, in ns, and what they come to at a common rate."""

from __future__ import annotations

import math
from dataclasses import dataclass

from after_check.domain.facts import Source, value_of
from after_check.domain.modules import Module


@dataclass(frozen=True, slots=True)
class ModuleTimes:
    """The shortest times that a module asks for, in ns; None where it does not say."""

    first_word_ns: float
    trcd_ns: float | None
    trp_ns: float | None
    tras_ns: float | None

    def named(self) -> tuple[tuple[str, float | None], ...]:
        """Return the times with words for them."""
        return (
            ("first word (CL)", self.first_word_ns),
            ("open a row (tRCD)", self.trcd_ns),
            ("close a row (tRP)", self.trp_ns),
            ("row stays open (tRAS)", self.tras_ns),
        )


def module_times(module: Module) -> ModuleTimes | None:
    """Return a module's times: typed and labelled clocks count at the rate it is sold as, an SPD's at its standard rate."""
    timings = module.timings
    own = timings is not None and timings.source is Source.SPD
    rate_mts = value_of(module.standard_mts) if own else value_of(module.rated_mts)
    if timings is None or not rate_mts:
        return None

    def ns(clocks: int | None) -> float | None:
        return None if clocks is None else clocks * 2000 / rate_mts

    first = timings.value.cl * 2000 / rate_mts
    return ModuleTimes(first, ns(timings.value.trcd), ns(timings.value.trp), ns(timings.value.tras))


def clocks_at(time_ns: float, rate_mts: int) -> int:
    """Return the clocks that a time takes at a rate: rounded up, less the 2.5 % that rounded clocks are off by."""
    return max(1, math.ceil(time_ns * rate_mts / 2000 - 0.025))
