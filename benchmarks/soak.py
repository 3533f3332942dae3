"""Times the soak's kernels beside a compiled C loop, and shows that their reads come from memory and not from a cache.

Run `.venv/bin/python benchmarks/soak.py [GiB]`; it needs a C compiler (cc).
"""

from __future__ import annotations

import ctypes
import mmap
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from after_check.host.memory import available_memory, hold
from after_check.host.processors import cache_bytes
from after_check.host.slices import Words
from after_check.soak import kernels
from after_check.soak.backgrounds import CHECKERBOARD, OWN_ADDRESS, SOLID, Background, random, walking
from after_check.sources.tree import Tree

ROUNDS = 15
ALL = 2**64 - 1
WRITE_0, WRITE_1, READ_0, READ_1 = 0, 1, 2, 3
THREADS = len(os.sched_getaffinity(0))


def compiled() -> ctypes.CDLL:
    """Return the C loops, compiled for this machine."""
    if shutil.which("cc") is None:
        sys.exit("benchmarks/soak.py needs a C compiler: apt install gcc")
    folder = tempfile.mkdtemp()
    library = Path(folder) / "sweep.so"
    source = Path(__file__).with_name("sweep.c")
    subprocess.run(["cc", "-O3", "-march=native", "-shared", "-fPIC", "-o", library, source], check=True)
    loaded = ctypes.CDLL(str(library))
    loaded.read_compare_write.argtypes = [ctypes.c_void_p, ctypes.c_size_t, ctypes.c_uint64, ctypes.c_uint64]
    loaded.read_compare_write.restype = ctypes.c_uint64
    return loaded


def on_all_cores(work: Callable[[int, int], None], words: int) -> float:
    """Return the seconds that all threads together need for their shares of the words."""
    share = words // THREADS // kernels.BLOCK_WORDS * kernels.BLOCK_WORDS

    def pinned(thread: int) -> None:
        os.sched_setaffinity(0, {sorted(os.sched_getaffinity(os.getpid()))[thread]})
        work(thread * share, (thread + 1) * share)

    threads = [threading.Thread(target=pinned, args=(number,)) for number in range(THREADS)]
    begun = time.perf_counter()
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return time.perf_counter() - begun


def swept(words: Words, operations: list[int], background: Background = SOLID) -> float:
    """Return the seconds of one element over all words."""
    steps = np.array(operations, dtype=np.int64)
    one, two = kernels.word(background.first), kernels.word(background.second)

    def work(first: int, last: int) -> None:
        log, lanes = kernels.empty_log(4), kernels.empty_lanes()
        chunk = 128 << 17
        for at in range(first, last, chunk):
            wrong = kernels.sweep(words, at, min(last, at + chunk), False, steps, background.kind, one, two, log, lanes)
            if wrong:
                raise AssertionError(f"{wrong} words were wrong: the memory, or the benchmark")

    return on_all_cores(work, words.size)


def beside_c(words: Words, library: ctypes.CDLL) -> None:
    """Print the rate of read, compare, write beside that of the C loop, in turns on the same buffer."""
    base = words.ctypes.data

    def c_loop(expected: int, following: int) -> float:
        return on_all_cores(lambda first, last: library.read_compare_write(base + first * 8, last - first, expected, following), words.size)

    swept(words, [WRITE_0])
    ratios, rates = [], []
    for _ in range(ROUNDS):
        c_seconds = c_loop(0, ALL) + c_loop(ALL, 0)
        own_seconds = swept(words, [READ_0, WRITE_1]) + swept(words, [READ_1, WRITE_0])
        ratios.append(c_seconds / own_seconds)
        rates.append(2 * words.nbytes / own_seconds / 1e9)
    print(
        f"read, compare, write on {THREADS} threads: {statistics.median(rates):.1f} GB/s, "
        f"{statistics.median(ratios):.2f} of compiled C (bound 0.95), from {min(ratios):.2f} to {max(ratios):.2f}"
    )


def other_backgrounds(words: Words) -> None:
    """Print the rates on other backgrounds, and of elements that flush."""
    for background in (CHECKERBOARD, OWN_ADDRESS, walking(0), random(7)):
        swept(words, [WRITE_0], background)
        seconds = min(swept(words, [READ_0, WRITE_1], background) + swept(words, [READ_1, WRITE_0], background) for _ in range(3))
        print(f"  {background.name:<16} {2 * words.nbytes / seconds / 1e9:5.1f} GB/s")
    swept(words, [WRITE_0])
    operations = [READ_0, WRITE_1, READ_1, WRITE_0]
    seconds = min(swept(words, operations) for _ in range(3))
    print(f"  r0,w1,r1,w0, flushed between: {len(operations) * words.nbytes / seconds / 1e9:.1f} GB/s of operations")


def from_memory() -> None:
    """Print how long a word takes in a cache and after a flush: reads of the kernels cost what memory costs."""
    # A buffer of half a second-level cache: read twice, it is read from the cache the second time.
    size = 256 << 10
    words = np.frombuffer(mmap.mmap(-1, size), dtype=np.uint64).copy()
    steps = np.array([READ_0], dtype=np.int64)
    flushing = np.array([READ_0, READ_0], dtype=np.int64)
    log, lanes, zero = kernels.empty_log(1), kernels.empty_lanes(), kernels.word(0)

    def best(operations: np.ndarray, before: Callable[[], None]) -> float:
        seconds = []
        for _ in range(200):
            before()
            begun = time.perf_counter()
            kernels.sweep(words, 0, words.size, False, operations, SOLID.kind, zero, zero, log, lanes)
            seconds.append(time.perf_counter() - begun)
        return statistics.median(seconds) / len(operations) / (size // 64) * 1e9

    warm = best(steps, lambda: None)
    flushed = best(steps, lambda: kernels.flush_words(words, np.uint64(0), np.uint64(words.size)))
    grouped = best(flushing, lambda: kernels.flush_words(words, np.uint64(0), np.uint64(words.size)))
    print(
        f"a line of 64 bytes read again: {warm:.1f} ns from a cache, {flushed:.1f} ns after a flush, {grouped:.1f} ns in a flushing element"
    )
    cache = cache_bytes(Tree(Path("/")))
    print(f"  largest cache {cache >> 20} MiB; a streamed sweep flushes the last {2 * cache >> 20} MiB that it touched")


def coverage() -> None:
    """Print how much of the available memory a soak takes."""
    room = available_memory(Tree(Path("/")))
    begun = time.perf_counter()
    held = hold(Tree(Path("/")))
    share = held.held_bytes / room.available_bytes
    held.give_back()
    print(
        f"held {held.covered.held_bytes / 2**30:.1f} GiB of {room.available_bytes / 2**30:.1f} GiB available: {share:.1%} (bound 95 %), "
        f"taken in {time.perf_counter() - begun:.0f} s"
    )


def main() -> None:
    """Run all of it."""
    gib = float(sys.argv[1]) if len(sys.argv) > 1 else 2.0
    mapping = mmap.mmap(-1, int(gib * (1 << 30)))
    mapping.madvise(mmap.MADV_HUGEPAGE)
    words = np.frombuffer(mapping, dtype=np.uint64)
    beside_c(words, compiled())
    other_backgrounds(words)
    from_memory()
    coverage()


if __name__ == "__main__":
    main()
