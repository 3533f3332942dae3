"""Compiling the memory tests before somebody waits for them: at install, behind the first screen, or while memory is taken.

The compiler keeps what it made beside the code or in the user's cache (numba's `cache=True`), so this is long only once
on each computer.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable

import numpy as np

from after_check.soak import kernels
from after_check.soak.backgrounds import ADDRESS, CONSTANT, RANDOM, WALKING
from after_check.soak.first_look import FIRST_LOOK, FirstLook
from after_check.soak.plans import Plan, streams

SMALL_BYTES = 2 << 30
"""Where less than this is free, nothing is compiled beside the taking, and memory is not looked at while it is taken."""
_LOOK_SECONDS = 0.25
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
        for kind in kinds:
            kernels.move_checked(words[: kernels.BLOCK_WORDS], words[kernels.BLOCK_WORDS :], 16, kind, zero, zero, log, lanes)
        kernels.read_alternately(words, zero, last, 1)


class Compiling(threading.Thread):
    """Compiles what a plan needs, the loop of the first look first; where all is compiled already, this takes no time."""

    def __init__(self, plan: Plan, first: FirstLook) -> None:
        super().__init__(name="compile", daemon=True)
        self._plan, self._first = plan, first

    def run(self) -> None:
        """Compile."""
        programs = [step.program for step in self._plan.steps if step.program is not None]
        grouped = not all(streams(element) for program in programs for element in program.elements)
        prepare((FIRST_LOOK.background.kind,), grouped=False, moves=False)
        self._first.may_begin.set()
        prepare({step.background.kind for step in self._plan.steps}, grouped)

    def wait(self, meanwhile: Callable[[], None] = lambda: None) -> None:
        """Wait until it is done; `meanwhile` is called a few times a second."""
        while self.is_alive():
            self.join(_LOOK_SECONDS)
            meanwhile()
