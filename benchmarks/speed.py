"""Times the benchmark's loops beside compiled C on the same buffers, in turns, on one thread.

Run `.venv/bin/python benchmarks/speed.py`; it needs a C compiler (cc).
"""

from __future__ import annotations

import ctypes
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from after_check.benchmark import kernels
from after_check.benchmark.measuring import Buffers

ROUNDS = 15
SIZE_BYTES = 256 << 20
STEPS = 1_000_000


def compiled() -> ctypes.CDLL:
    """Return the C loops, compiled for this machine."""
    if shutil.which("cc") is None:
        sys.exit("benchmarks/speed.py needs a C compiler: apt install gcc")
    library = Path(tempfile.mkdtemp()) / "benchmark.so"
    source = Path(__file__).with_name("speed.c")
    subprocess.run(["cc", "-O3", "-march=native", "-shared", "-fPIC", "-o", library, source], check=True)
    return ctypes.CDLL(str(library))


def seconds(work: Callable[[], object]) -> float:
    """Return how long one call takes."""
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def beside(name: str, own: Callable[[], object], reference: Callable[[], object], amount: float, unit: str, bound: str) -> None:
    """Print the median of the own loop, and of the ratios to the reference's time right beside it."""
    own()
    reference()
    pairs = [(seconds(own), seconds(reference)) for _ in range(ROUNDS)]
    ratio = statistics.median(c_seconds / own_seconds for own_seconds, c_seconds in pairs)
    median = statistics.median(own_seconds for own_seconds, _ in pairs)
    value = amount / median / 1e9 if unit == "GB/s" else median / amount * 1e9
    print(f"{name:<28} {value:7.2f} {unit}   {ratio:.3f} of compiled C ({bound})")


def main() -> None:
    """Run all of it."""
    c = compiled()
    buffers = Buffers.take(SIZE_BYTES)
    one, other, third = buffers.words
    size, count = SIZE_BYTES, ctypes.c_size_t(one.size)
    a, b, d = (ctypes.c_void_p(words.ctypes.data) for words in buffers.words)
    seven, five, words = ctypes.c_uint64(7), ctypes.c_uint64(5), one.size
    bandwidth = "within 3 %"
    beside("read", lambda: kernels.read(one, 0, words), lambda: c.read_words(a, count), size, "GB/s", bandwidth)
    beside("write", lambda: kernels.write(one, 0, words, np.uint64(7)), lambda: c.write_words(a, count, seven), size, "GB/s", bandwidth)
    beside(
        "write past cache",
        lambda: kernels.write_past_cache(one, 0, words, np.uint64(7)),
        lambda: c.write_past_cache(a, count, seven),
        *(size, "GB/s", bandwidth),
    )
    beside(
        "copy",
        lambda: kernels.copy(other, third, 0, words, np.uint64(5)),
        lambda: c.copy_words(b, d, count, five),
        2 * size,
        "GB/s",
        bandwidth,
    )
    numbers = [buffer.view(np.float64) for buffer in buffers.words]
    for buffer in numbers:
        buffer[:] = 1.0
    beside(
        "scaled sum",
        lambda: kernels.scaled_sum(*numbers, 0, words, 3.0),
        lambda: c.scaled_sum(a, b, d, count, ctypes.c_double(3.0)),
        *(3 * size, "GB/s", bandwidth),
    )
    for working_set in (16 << 10, 256 << 10, 4 << 20, 64 << 20, 256 << 20):
        kernels.lay_chain(one, working_set // 64, np.uint64(1))
        beside(
            f"latency of {working_set >> 10} KiB",
            lambda: kernels.chase(one, np.uint64(0), STEPS),
            lambda: c.chase(a, ctypes.c_uint64(0), ctypes.c_size_t(STEPS)),
            *(STEPS, "ns", "within 5 %"),
        )


if __name__ == "__main__":
    main()
