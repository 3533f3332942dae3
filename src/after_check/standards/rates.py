"""Data rates and module classes.

Documents: the speed bin tables of JESD79 (DDR), JESD79-2, JESD79-3, JESD79-4 and JESD79-5; module classes
(`PC4-25600`) are the peak of a 64-bit module in MB/s, rounded down to hundreds by custom.
"""

from __future__ import annotations

import functools
from collections.abc import Iterable

from after_check.domain.modules import Generation

RATE_TOLERANCE = 0.006
"""A rate within 0.6 % of a standard or profile rate is that rate: 2133.33, 2133 and 2134 are one."""

STANDARD_RATES_MTS: dict[Generation, tuple[int, ...]] = {
    Generation.DDR: (200, 266, 333, 400),
    Generation.DDR2: (400, 533, 667, 800, 1066),
    Generation.DDR3: (800, 1066, 1333, 1600, 1866, 2133),
    Generation.DDR4: (1600, 1866, 2133, 2400, 2666, 2933, 3200),
    Generation.DDR5: (3200, 3600, 4000, 4400, 4800, 5200, 5600, 6000, 6400, 6800, 7200, 7600, 8000, 8400, 8800),
    Generation.LPDDR3: (1333, 1600, 1866, 2133),
    Generation.LPDDR4: (1600, 2133, 2400, 2666, 3200, 3733, 4266),
    Generation.LPDDR4X: (1600, 2133, 2400, 2666, 3200, 3733, 4266),
    Generation.LPDDR5: (3200, 3733, 4266, 4800, 5500, 6000, 6400),
    Generation.LPDDR5X: (6400, 7500, 8533, 9600),
}
"""The data rates of the speed bins, in MT/s as they are printed on labels; 9600 is of JESD209-5C."""

COMMON_PROFILE_RATES_MTS: dict[Generation, tuple[int, ...]] = {
    Generation.DDR3: (2200, 2400, 2666, 2800, 2933, 3000),
    Generation.DDR4: (2800, 3000, 3333, 3400, 3466, 3600, 3733, 3800, 3866, 4000, 4133, 4266, 4333, 4400, 4600, 4800),
    Generation.DDR5: (6200, 6600, 7000, 7400, 7800, 8200),
}
"""Rates between and above the speed bins that profiles use, multiples of the 100 and 133.3 MT/s clock steps."""

_CLOCK_STEPS_MTS = (200 / 3, 100.0, 400 / 3)
"""Rates are multiples of these (clocks of 33.3, 50 and 66.7 MHz); 2133 stands for 2133.33."""

_HIGHEST_RATE_IN_A_PC_NAME_MTS = {
    Generation.DDR: 1000,
    Generation.DDR2: 2000,
    Generation.DDR3: 3500,
    Generation.DDR4: 6000,
    Generation.DDR5: 12000,
}
"""`PC4-2933` names a rate and `PC4-23400` a class; the two ranges of each generation do not meet."""

HIGHEST_RATE_MTS = 20_000
"""Above this a number is no data rate of any generation."""


def same_rate(a_mts: float, b_mts: float) -> bool:
    """Return whether two rates are one rate, rounded in different ways."""
    return abs(a_mts - b_mts) <= RATE_TOLERANCE * max(a_mts, b_mts)


def snap_rate(rate_mts: float, generation: Generation | None = None, also: Iterable[int] = ()) -> int:
    """Return the standard, profile or given rate that `rate_mts` is, or `rate_mts` itself, rounded.

    Rates in `also` (those that the modules themselves state) win over standard ones, nearest first.
    """
    for known in (tuple(also), _known_rates(generation, STANDARD_RATES_MTS), _known_rates(generation, COMMON_PROFILE_RATES_MTS)):
        near = [rate for rate in known if same_rate(rate, rate_mts)]
        if near:
            return min(near, key=lambda rate: abs(rate - rate_mts))
    return round(rate_mts)


def is_standard_rate(rate_mts: float, generation: Generation) -> bool:
    """Return whether a rate is one of the generation's speed bins."""
    return any(same_rate(rate, rate_mts) for rate in STANDARD_RATES_MTS[generation])


def lowest_standard_rate_mts(generation: Generation) -> int:
    """Return the slowest speed bin of a generation."""
    return STANDARD_RATES_MTS[generation][0]


def highest_known_rate_mts(generation: Generation) -> int:
    """Return the fastest rate of a generation, of its speed bins or of profiles."""
    return max((*STANDARD_RATES_MTS[generation], *COMMON_PROFILE_RATES_MTS.get(generation, ())))


def class_to_rate_mts(class_mbs: int, generation: Generation) -> int | None:
    """Return the data rate of a module class such as 21300 (2666 MT/s), or None where no rate fits."""
    rates = _known_rates(generation, STANDARD_RATES_MTS) + _known_rates(generation, COMMON_PROFILE_RATES_MTS)
    return next((rate for rate in rates if class_mbs in _class_names(rate)), None)


@functools.cache
def _class_names(rate_mts: int) -> frozenset[int]:
    """Return how a class is written: the peak in MB/s, whole or rounded to tens or hundreds (10600, 10660, 10666; 2700 of DDR-333)."""
    exact = _exact_mts(rate_mts) * 8
    down = {int(exact // step) * step for step in (1, 10, 100)}
    return frozenset({*down, round(exact), round(exact / 100) * 100, rate_mts * 8})


def _exact_mts(rate_mts: int) -> float:
    """Return the rate that a printed one stands for: 2133 is 2133.33."""
    near = [round(rate_mts / step) * step for step in _CLOCK_STEPS_MTS]
    return min(near, key=lambda exact: abs(exact - rate_mts))


def pc_number_to_rate_mts(number: int, generation: Generation) -> int | None:
    """Return the rate that the number of `PC4-2933` or `PC4-23400` stands for, or None where it is neither."""
    if number <= _HIGHEST_RATE_IN_A_PC_NAME_MTS.get(generation, 0):
        known = _known_rates(generation, STANDARD_RATES_MTS) + _known_rates(generation, COMMON_PROFILE_RATES_MTS)
        return next((rate for rate in known if number in (rate, int(_exact_mts(rate)), round(_exact_mts(rate)))), None)
    return class_to_rate_mts(number, generation)


def module_class_mbs(rate_mts: int) -> int:
    """Return the class by which a module of this rate is sold: MB/s rounded down to hundreds."""
    return rate_mts * 8 // 100 * 100


def generations_of_rate(rate_mts: float) -> tuple[Generation, ...]:
    """Return the generations that have this rate as a speed bin."""
    return tuple(generation for generation in STANDARD_RATES_MTS if is_standard_rate(rate_mts, generation))


def _known_rates(generation: Generation | None, table: dict[Generation, tuple[int, ...]]) -> tuple[int, ...]:
    if generation is not None:
        return table.get(generation, ())
    return tuple(sorted({rate for rates in table.values() for rate in rates}))
