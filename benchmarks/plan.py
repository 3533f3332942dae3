"""Times a whole memory test by the engine itself: the short plan, block moves, and how much of a test's time is spent testing.

The limit of the plan is what its reads, writes and copies take in compiled C on the same memory in the same run.

Run `.venv/bin/python benchmarks/plan.py [GiB]`; it needs a C compiler (cc).
"""

from __future__ import annotations

import ctypes
import json
import statistics
import subprocess
import sys
import time
from collections.abc import Callable

import numpy as np

from after_check.host.slices import Words
from after_check.soak import kernels
from after_check.soak.backgrounds import random
from after_check.soak.plans import LOOK_BACK_SWEEPS, SHORT, Step
from after_check.soak.prepare import prepare
from after_check.soak.soak_run import Soak, Wishes
from after_check.soak.work import MOVE_WORDS
from soak import buffer_asked, compiled, on_all_cores

ROUNDS = 5
ALL = 2**64 - 1
_A_MINUTE = """
import json, sys, threading, time
from after_check.soak.soak_run import Soak, Wishes
from after_check.soak.backgrounds import random
from after_check.soak.plans import SHORT, Plan
# Without block moves, whose copies no tally counts.
soak = Soak(Plan("a minute", "", SHORT.steps[:4], repeats=True), Wishes(seconds=60))
tested = threading.Thread(target=soak.run)
tested.start()
while not any(worker.tally.bytes_done > worker.tally.streamed_bytes / 2 > 0 for worker in soak._first.workers):
    time.sleep(0.005)
first = time.time()
tested.join()
tallies = [worker.tally for worker in (*soak.workers, *soak._first.workers)]
spent = sum(tally.streamed_seconds + tally.grouped_seconds for tally in tallies) / len(soak.workers)
print(json.dumps([first, time.time(), spent, soak.record.covered.held_bytes]))
"""


def seconds_of(work: Callable[[int, int], object], words: int) -> float:
    """Return the median seconds of a loop over all words on all cores."""

    def run(first: int, last: int) -> None:
        work(first, last)

    return float(statistics.median(on_all_cores(run, words) for _ in range(ROUNDS)))


def sweeps_of(step: Step) -> tuple[int, int, int]:
    """Return how often a step of a program writes all, reads all, and reads and then writes all; the look back among the reads."""
    assert step.program is not None
    kinds = [tuple(operation.is_read for operation in element.operations) for element in step.program.elements]
    if set(kinds) - {(False,), (True,), (True, False)}:
        raise ValueError(f"{step.name} has elements that flush")
    return kinds.count((False,)), kinds.count((True,)) + LOOK_BACK_SWEEPS, kinds.count((True, False))


def beside_its_limit(words: Words, library: ctypes.CDLL, gib: float) -> None:
    """Print what block moves and the short plan take beside what their parts take in C."""
    base = words.ctypes.data
    libc = ctypes.CDLL(None)
    libc.memcpy.argtypes = [ctypes.c_void_p, ctypes.c_void_p, ctypes.c_size_t]
    libc.memset.argtypes = [ctypes.c_void_p, ctypes.c_int, ctypes.c_size_t]

    def halves(first: int, last: int) -> tuple[int, int, int]:
        half = (last - first) // 2
        return base + first * 8, base + (first + half) * 8, half * 8

    def c_copy(first: int, last: int) -> None:
        near, far, size = halves(first, last)
        libc.memcpy(far, near, size)

    background = random(0x5EED)
    as_written = (background.kind, kernels.word(background.first), kernels.word(background.second))

    def own_copy(first: int, last: int) -> None:
        half = (last - first) // 2 // kernels.BLOCK_WORDS * kernels.BLOCK_WORDS
        near, far = words[first : first + half], words[first + half : first + 2 * half]
        kernels.move_checked(near, far, MOVE_WORDS[0], *as_written, kernels.empty_log(1), kernels.empty_lanes())

    def fill(first: int, last: int) -> None:
        half = (last - first) // 2 // kernels.BLOCK_WORDS * kernels.BLOCK_WORDS
        near, write = words[first : first + half], np.array([0], dtype=np.int64)
        kernels.sweep(near, 0, half, False, write, *as_written, kernels.empty_log(1), kernels.empty_lanes())

    prepare()
    on_all_cores(fill, words.size)
    own_copy(0, 2 * kernels.BLOCK_WORDS)
    pairs = [(on_all_cores(c_copy, words.size), on_all_cores(own_copy, words.size)) for _ in range(3 * ROUNDS)]
    ratio = statistics.median(c / own for c, own in pairs)
    print(f"a block move beside memcpy, on all cores: {ratio:.2f} (goal 0.85)")

    write = seconds_of(lambda first, last: libc.memset(base + first * 8, 1, (last - first) * 8), words.size)
    read = seconds_of(lambda first, last: library.read_plain(base, first, last, 0), words.size)
    both = seconds_of(lambda first, last: library.sweep_plain(base, first, last, 0, ALL), words.size)
    copy = statistics.median(c for c, _ in pairs)
    programs = [step for step in SHORT.steps if step.program is not None]
    counts = [sweeps_of(step) for step in programs]
    limit = sum(writes * write + reads * read + twice * both for writes, reads, twice in counts)
    turns = len(MOVE_WORDS)
    # A look at what was there before and one at what is left; half is written. Each turn copies there and back, clears a half and
    # verifies three halves, and one more where it copies over what the turn before it left.
    limit += (1 + LOOK_BACK_SWEEPS) * read + write / 2 + turns * (2 * copy + write / 2 + 1.5 * read) + (turns - 1) * read / 2
    soak = Soak(SHORT, Wishes(memory_bytes=int(gib * (1 << 30))))
    whole = soak.run().seconds
    own = whole - soak._taken_after_seconds
    print(
        f"the short plan: {own / gib:.2f} s a GiB, {own / limit:.2f} of its limit in compiled C ({limit / gib:.2f} s a GiB; goal 1.25); "
        f"with the memory taken and looked at first {whole / gib:.2f} s a GiB, {whole / limit:.2f}"
    )


def a_minute() -> None:
    """Print how soon the first word is verified, and how much of a minute's test is testing."""
    begun = time.time()
    said = subprocess.run([sys.executable, "-c", _A_MINUTE], check=True, capture_output=True, text=True).stdout
    first, end, spent, held_bytes = json.loads(said)
    print(f"first words verified {first - begun:.1f} s after the start of the process (goal 2 s)")
    print(
        f"of {end - begun:.0f} s from the start of the process to its end, {spent:.0f} s are spent testing "
        f"({spent / (end - begun):.0%}; of five minutes {(spent + 240) / (end - begun + 240):.0%}, goal 90 %); {held_bytes / 2**30:.1f} GiB"
    )


def main() -> None:
    """Run all of it."""
    words = buffer_asked(8.0)
    words[:] = 0
    beside_its_limit(words, compiled(), words.nbytes / 2**30)
    del words
    a_minute()


if __name__ == "__main__":
    main()
