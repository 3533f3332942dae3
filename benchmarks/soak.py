"""Times the soak's kernels beside compiled C: every background, downwards, random, and elements that flush.

It shows as well that their reads come from memory and not from a cache.

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

from after_check.files.tree import Tree
from after_check.host.held_memory import available_memory, hold
from after_check.host.processors import cache_bytes
from after_check.host.slices import Words
from after_check.soak import kernels
from after_check.soak.backgrounds import ADDRESS, CHECKERBOARD, CONSTANT, OWN_ADDRESS, RANDOM, SOLID, WALKING, Background, random, walking

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
    place, word = ctypes.c_size_t, ctypes.c_uint64
    for name in ("constant", "walking", "address", "random"):
        getattr(loaded, f"sweep_{name}").argtypes = [ctypes.c_void_p, place, place, ctypes.c_int, word, word, word]
    loaded.sweep_plain.argtypes = [ctypes.c_void_p, place, place, word, word]
    loaded.read_plain.argtypes = [ctypes.c_void_p, place, place, word]
    loaded.sweep_flushed.argtypes = [ctypes.c_void_p, place, place]
    for name in ("sweep_constant", "sweep_walking", "sweep_address", "sweep_random", "sweep_plain", "read_plain", "sweep_flushed"):
        getattr(loaded, name).restype = word
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


def swept(words: Words, operations: list[int], background: Background = SOLID, down: bool = False) -> float:
    """Return the seconds of one element over all words, by the engine's own kernels."""
    steps = np.array(operations, dtype=np.int64)
    one, two = kernels.word(background.first), kernels.word(background.second)

    def work(first: int, last: int) -> None:
        log, lanes = kernels.empty_log(4), kernels.empty_lanes()
        chunk = 128 << 17
        for at in range(first, last, chunk):
            wrong = kernels.sweep(words, at, min(last, at + chunk), down, steps, background.kind, one, two, log, lanes)
            if wrong:
                raise AssertionError(f"{wrong} words were wrong: the memory, or the benchmark")

    return on_all_cores(work, words.size)


def c_swept(words: Words, library: ctypes.CDLL, background: Background, down: bool) -> float:
    """Return the seconds of r0,w1 and then r1,w0 of a background by the C loop."""
    name = {CONSTANT: "constant", WALKING: "walking", ADDRESS: "address", RANDOM: "random"}[background.kind]
    loop = getattr(library, f"sweep_{name}")
    one, two = background.first & ALL, background.second & ALL

    def both(first: int, last: int) -> None:
        for flip in (0, ALL):
            if loop(words.ctypes.data, first, last, down, one, two, flip):
                raise AssertionError("the C loop finds other words than the kernels wrote")

    return on_all_cores(both, words.size)


def say(what: str, moved_bytes: int, pairs: list[tuple[float, float]], bound: float) -> None:
    """Print the rate, and the ratio to the reference in pairs that ran in turns."""
    ratios = [reference / own for own, reference in pairs]
    rate = moved_bytes / statistics.median(own for own, _ in pairs) / 1e9
    spread = f"from {min(ratios):.2f} to {max(ratios):.2f}"
    print(f"  {what:<26} {rate:5.1f} GB/s   {statistics.median(ratios):.2f} of compiled C (goal {bound:.2f}), {spread}")


def beside_c(words: Words, library: ctypes.CDLL) -> None:
    """Print what each background and each way to sweep takes, beside the same in C, in turns on the same buffer."""
    print(f"read, compare, write on {THREADS} threads")
    for background, down in [*((one, False) for one in (SOLID, CHECKERBOARD, OWN_ADDRESS, walking(0), random(7))), (SOLID, True)]:
        swept(words, [WRITE_0], background)
        pairs = []
        for _ in range(ROUNDS):
            own = swept(words, [READ_0, WRITE_1], background, down) + swept(words, [READ_1, WRITE_0], background, down)
            pairs.append((own, c_swept(words, library, background, down)))
        say(f"{background.name}{', downwards' if down else ''}", 2 * words.nbytes, pairs, 0.95)
    base, random_words, ratios = words.ctypes.data, random(7), []
    for _ in range(ROUNDS):
        swept(words, [WRITE_0], random_words)
        own = swept(words, [READ_0, WRITE_1], random_words) + swept(words, [READ_1, WRITE_0], random_words)
        swept(words, [WRITE_0])
        plain = on_all_cores(lambda first, last: library.sweep_plain(base, first, last, 0, ALL), words.size)
        plain += on_all_cores(lambda first, last: library.sweep_plain(base, first, last, ALL, 0), words.size)
        ratios.append(plain / own)
    print(
        f"  random, to a plain loop over one word: {statistics.median(ratios):.2f} (goal 0.90), from {min(ratios):.2f} to {max(ratios):.2f}"
    )
    operations = [READ_0, WRITE_1, READ_1, WRITE_0]
    pairs = [
        (swept(words, operations), on_all_cores(lambda first, last: library.sweep_flushed(base, first, last), words.size))
        for _ in range(ROUNDS)
    ]
    say("r0,w1,r1,w0, flushed", len(operations) * words.nbytes, pairs, 0.9)


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


def buffer_asked(usual_gib: float) -> Words:
    """Return a buffer of as many GiB as the command line says, in large pages; it is given back with its last reference."""
    gib = float(sys.argv[1]) if len(sys.argv) > 1 else usual_gib
    mapping = mmap.mmap(-1, int(gib * (1 << 30)))
    mapping.madvise(mmap.MADV_HUGEPAGE)
    return np.frombuffer(mapping, dtype=np.uint64)


def main() -> None:
    """Run all of it."""
    words = buffer_asked(2.0)
    beside_c(words, compiled())
    from_memory()
    coverage()


if __name__ == "__main__":
    main()
