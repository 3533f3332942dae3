"""Makes the benchmarks of the demo's spectrum laptop: one module on one channel before, two on two channels now.

Run `.venv/bin/python tools/make_benchmarks.py`; it writes `benchmark-before.json` and `benchmark-now.json` into the sample of job 0426.
"""

from __future__ import annotations

import random
from datetime import UTC, datetime
from pathlib import Path

from after_check.benchmark.benchmark_json import benchmark_to_json
from after_check.benchmark.plan import usual_plan
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState, Conditions, Kind, Measurement, Series, Unit
from after_check.domain.quantities import GIB, KIB, MIB

SAMPLE = Path(__file__).parents[1] / "src" / "after_check" / "samples" / "0426"
_THREADS = 8
_PLAN = usual_plan(_THREADS, 24 * MIB, 14 * GIB)
_BANDWIDTHS_GBS = {
    Kind.READ: ((24.6, 27.1), (39.6, 74.3)),
    Kind.WRITE: ((14.8, 18.2), (26.1, 47.4)),
    Kind.WRITE_PAST_CACHE: ((21.7, 24.0), (38.0, 70.2)),
    Kind.COPY: ((22.9, 27.2), (34.1, 63.0)),
    Kind.SCALED_SUM: ((23.8, 27.8), (35.5, 66.1)),
}
"""Before and now, on one thread and on all."""
_CACHES = ((48 * KIB, 1.3), (1280 * KIB, 4.1), (24 * MIB, 15.2))
"""How large each level is, and how long it takes in ns."""
_MEMORY_NS = (93.5, 92.8)
_LOADED_NS = (216.0, 151.0)
_WORK_SECONDS = (412.0, 371.0)


def latency_ns(size_bytes: int, memory_ns: float) -> float:
    """Return how long a word of a working set takes: what fits into each level comes from there."""
    spent, below = 0.0, 0
    for holds, ns in _CACHES:
        share = (min(size_bytes, holds) - below) / size_bytes
        spent += max(0.0, share) * ns
        below = min(size_bytes, holds)
    return spent + (size_bytes - below) / size_bytes * memory_ns


def samples(middle: float, spread: float, dice: random.Random) -> tuple[float, ...]:
    """Return what repeated measurements of a quantity give."""
    return tuple(round(middle * (1 + dice.gauss(0, spread)), 3) for _ in range(_PLAN.repeats))


def benchmark(which: int, dice: random.Random) -> BenchmarkRecord:
    """Return the benchmark before (0) or now (1)."""
    series: list[Series] = []
    for place, threads in enumerate((1, _THREADS)):
        for kind, bandwidths in _BANDWIDTHS_GBS.items():
            series.append(Series(samples(bandwidths[place][which], 0.006, dice), kind.unit, Measurement(kind, threads)))
    for size in _PLAN.working_sets_bytes:
        found = samples(latency_ns(size, _MEMORY_NS[which]), 0.01, dice)
        series.append(Series(found, Unit.NS, Measurement(Kind.LATENCY, 1, size), lower_is_better=True))
    loaded = Measurement(Kind.LATENCY, 1, _PLAN.working_sets_bytes[-1], under_load=True)
    series.append(Series(samples(_LOADED_NS[which], 0.02, dice), Unit.NS, loaded, lower_is_better=True))
    series.append(Series((_WORK_SECONDS[which],), "s", name="spectrum of a night", lower_is_better=True, typed=True, stress="work"))
    conditions = Conditions(
        plan=_PLAN.words,
        threads=_THREADS,
        buffer_bytes=_PLAN.buffer_bytes,
        governor="performance",
        power="mains",
        load=0.03,
        processor_celsius=51.0 + 2 * which,
        throttled=0,
        large_pages=True,
        stolen=0.0,
    )
    return BenchmarkRecord(datetime(2026, 11, 2, 9, 0, tzinfo=UTC), BenchmarkState.FINISHED, conditions, tuple(series), 164.0, 1.0)


def main() -> None:
    """Write both."""
    dice = random.Random(426)
    for which, name in enumerate(("benchmark-before.json", "benchmark-now.json")):
        (SAMPLE / name).write_text(benchmark_to_json(benchmark(which, dice)) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
