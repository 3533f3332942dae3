"""The compiled loops of the benchmarks. They hold no interpreter lock; each thread runs them on a part of its own.

Flow is counted in bytes that the loop asks for: one array for a read or a write, two for a copy, three for a scaled
sum (a = b + s·c). A cache that fetches a line before it is written moves more than that; stores that bypass the cache
do not.
"""

from __future__ import annotations

from typing import Any

import numba
import numpy as np
from llvmlite import ir
from numba import types
from numba.extending import intrinsic
from numpy.typing import NDArray

from after_check.host.instructions import CAN_STORE_PAST, LINE_BYTES, fence
from after_check.host.slices import Words
from after_check.host.splitmix import STEP, mixed

Numbers = NDArray[np.float64]

_njit: Any = numba.njit
_intrinsic: Any = intrinsic
_ONE = np.uint64(1)
LINE_WORDS = LINE_BYTES // 8


@_intrinsic
def store_past_cache(typing_context: Any, address: Any, value: Any) -> Any:
    """Store a word so that it goes to memory without a stay in the caches; an ordinary store where there is no such one."""

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        pointer = builder.inttoptr(arguments[0], ir.IntType(64).as_pointer())
        if CAN_STORE_PAST:
            kind = ir.FunctionType(ir.VoidType(), [pointer.type, ir.IntType(64)])
            builder.asm(kind, "movnti $1, ($0)", "r,r", [pointer, arguments[1]], True)
        else:
            builder.store(arguments[1], pointer)
        return context.get_dummy_value()

    return types.void(types.uintp, types.uint64), codegen


@_njit(nogil=True, cache=True)
def read(source: Words, first: int, last: int) -> np.uint64:
    """Read every word; return their sum, so that the reads are needed."""
    total = np.uint64(0)
    for at in range(np.uint64(first), np.uint64(last)):
        total += source[at]
    return total


@_njit(nogil=True, cache=True)
def write(target: Words, first: int, last: int, value: np.uint64) -> None:
    """Write every word the ordinary way."""
    for at in range(np.uint64(first), np.uint64(last)):
        target[at] = value ^ at


@_njit(nogil=True, cache=True)
def write_past_cache(target: Words, first: int, last: int, value: np.uint64) -> None:
    """Write every word past the caches, line by line; first and last are multiples of LINE_WORDS."""
    base = np.uint64(target.ctypes.data)
    for line in range(np.uint64(first), np.uint64(last), np.uint64(LINE_WORDS)):
        place = base + (line << np.uint64(3))
        for word in range(np.uint64(LINE_WORDS)):
            store_past_cache(np.uintp(place + (word << np.uint64(3))), value ^ (line + word))
    fence()


@_njit(nogil=True, cache=True)
def copy(target: Words, source: Words, first: int, last: int, flip: np.uint64) -> None:
    """Copy every word, flipped, so that no compiler makes a call of the system's own copy of it."""
    for at in range(np.uint64(first), np.uint64(last)):
        target[at] = source[at] ^ flip


@_njit(nogil=True, cache=True)
def scaled_sum(target: Numbers, one: Numbers, other: Numbers, first: int, last: int, scale: float) -> None:
    """Work out target = one + scale × other."""
    for at in range(np.uint64(first), np.uint64(last)):
        target[at] = one[at] + scale * other[at]


@_njit(nogil=True, cache=True)
def chase(following: Words, start: np.uint64, steps: int) -> np.uint64:
    """Go from word to word, each telling where the next one is: every load waits for the one before."""
    at = start
    for _ in range(steps):
        at = following[at]
    return at


@_njit(nogil=True, cache=True)
def lay_chain(following: Words, lines: int, seed: np.uint64) -> None:
    """Lay one ring through all lines in random order (Sattolo, "An algorithm to generate a random cyclic permutation", 1986).

    Each line's first word holds the index of the next line's first word.
    """
    step = np.uint64(LINE_WORDS)
    for place in range(np.uint64(lines)):
        following[place * step] = place * step
    state = seed
    line = np.uint64(lines - 1)
    while line > np.uint64(0):
        state = state + STEP
        other = mixed(state) % line
        held = following[line * step]
        following[line * step] = following[other * step]
        following[other * step] = held
        line = line - _ONE


def prepare() -> None:
    """Compile every loop, or load what was compiled before."""
    one, other = np.zeros(4 * LINE_WORDS, dtype=np.uint64), np.zeros(4 * LINE_WORDS, dtype=np.uint64)
    numbers, value = np.zeros(8), np.uint64(1)
    read(one, 0, 8)
    write(one, 0, 8, value)
    write_past_cache(one, 0, LINE_WORDS, value)
    copy(other, one, 0, 8, value)
    scaled_sum(numbers, numbers, numbers, 0, 8, 1.0)
    lay_chain(one, 4, value)
    chase(one, np.uint64(0), 3)
