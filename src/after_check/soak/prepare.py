"""Compiling the memory tests before somebody waits for them: at install, behind the first screen, or while memory is taken.

The compiler keeps what it made beside the code or in the user's cache (numba's `cache=True`), so this is long only once
on each computer.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from after_check.soak import kernels
from after_check.soak.kinds import ADDRESS, CONSTANT, RANDOM, WALKING

ALL_KINDS = (ADDRESS, CONSTANT, RANDOM, WALKING)


def prepare(kinds: Iterable[int] = ALL_KINDS, grouped: bool = True, moves: bool = True) -> None:
    """Compile the kernels for some kinds of backgrounds, or load what was compiled before.

    `grouped`: also those that flush; `moves`: also what block moves and repeated rows need.
    """
    words = np.zeros(2 * kernels.BLOCK_WORDS, dtype=np.uint64)
    zero, last = np.uint64(0), np.uint64(kernels.BLOCK_WORDS)
    log, lanes = kernels.empty_log(1), kernels.empty_lanes()
    for kind in kinds:
        for operations in ([0], [2, 1, 3, 0])[: 1 + grouped]:
            todo = np.array(operations, dtype=np.int64)
            kernels.sweep(words, 0, kernels.BLOCK_WORDS, False, todo, kind, zero, zero, log, lanes)
    kernels.flush_words(words, zero, last)
    if moves:
        kernels.copy_in_pieces(words[: kernels.BLOCK_WORDS], words[kernels.BLOCK_WORDS :], 16)
        kernels.read_alternately(words, zero, last, 1)
