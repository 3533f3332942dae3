"""Did it change? A rank method that assumes nothing of how times are spread.

The shift between two sets of samples is estimated after Hodges and Lehmann: the median of all pairwise differences.
Its confidence interval comes from the distribution of the Mann-Whitney count of pairs (M. Hollander and D. A. Wolfe,
"Nonparametric Statistical Methods", sections 4.2 and 4.3): the ordered differences at the ends are cut off as far as
the count allows. Exact for small samples, as these are.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import NormalDist, median

CONFIDENCE = 0.95
LEAST_SAMPLES = 4
"""With three and three samples no rank method reaches 95 per cent: the smallest chance is 2 in 20."""
LARGEST_EXACT = 60


@dataclass(frozen=True, slots=True)
class Shift:
    """By how much `now` lies above `before`: estimate and interval, in the unit of the samples."""

    estimate: float
    low: float
    high: float

    @property
    def is_a_difference(self) -> bool:
        """Whether the interval leaves no doubt about the direction."""
        return self.low > 0 or self.high < 0


@functools.cache
def _ways(first: int, second: int, count: int) -> int:
    """Return in how many orders of two sets exactly `count` pairs have the first set's value above the second's."""
    if count < 0:
        return 0
    if first == 0 or second == 0:
        return 1 if count == 0 else 0
    return _ways(first - 1, second, count - second) + _ways(first, second - 1, count)


def critical_count(first: int, second: int, confidence: float = CONFIDENCE) -> int:
    """Return the largest Mann-Whitney count that is significant in a two-sided test; -1 where none is.

    For 7 and 7 samples at 95 per cent it is 8, as in the published tables.
    """
    allowed = (1 - confidence) / 2
    if first * second > LARGEST_EXACT**2 // 4:
        deviation = math.sqrt(first * second * (first + second + 1) / 12)
        return max(-1, math.floor(first * second / 2 - NormalDist().inv_cdf(1 - allowed) * deviation - 0.5))
    whole = math.comb(first + second, first)
    summed, count = 0, 0
    while True:
        summed += _ways(first, second, count)
        if summed / whole > allowed:
            return count - 1
        count += 1


def shift(before: Sequence[float], now: Sequence[float]) -> Shift | None:
    """Return the shift from before to now with its interval; None where there are too few samples for one."""
    if min(len(before), len(now)) < LEAST_SAMPLES:
        return None
    critical = critical_count(len(before), len(now))
    if critical < 0:
        return None
    differences = sorted(later - earlier for earlier in before for later in now)
    return Shift(median(differences), differences[critical], differences[len(differences) - 1 - critical])
