"""Random numbers that memory tests and benchmarks need millions of: the mixing of SplitMix64, compiled.

G. L. Steele, D. Lea and C. H. Flood, "Fast splittable pseudorandom number generators", OOPSLA 2014, figure 14.
"""

from __future__ import annotations

from typing import Any

import numba
import numpy as np

_njit: Any = numba.njit

STEP = np.uint64(0x9E3779B97F4A7C15)
"""What a state is increased by before it is mixed: 2^64 by the golden ratio, odd."""


@_njit(nogil=True, inline="always", cache=True)
def mixed(state: np.uint64) -> np.uint64:
    """Return a state with each of its bits spread over all others."""
    state = (state ^ (state >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    state = (state ^ (state >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return state ^ (state >> np.uint64(31))
