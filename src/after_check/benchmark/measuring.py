"""A benchmark while it runs: buffers, threads in step, samples, and a frozen record of it at any moment."""

from __future__ import annotations

import contextlib
import mmap
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from functools import partial
from pathlib import Path

import numpy as np

from after_check.benchmark import kernels
from after_check.benchmark.conditions import look_around, processor_times
from after_check.benchmark.plan import BenchmarkPlan, usual_plan
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState, Doing, Kind, Measurement, Series
from after_check.domain.errors import AfterCheckError
from after_check.domain.identity import MachineIdentity
from after_check.domain.quantities import size_text
from after_check.files.tree import Files, Tree
from after_check.host.held_memory import NotEnoughMemoryError, available_memory
from after_check.host.instructions import LINE_BYTES
from after_check.host.processors import cache_bytes, stay_on_core, usable_cores
from after_check.host.slices import Words

BANDWIDTHS: tuple[tuple[Kind, int], ...] = (
    (Kind.READ, 1),
    (Kind.WRITE, 1),
    (Kind.WRITE_PAST_CACHE, 1),
    (Kind.COPY, 2),
    (Kind.SCALED_SUM, 3),
)
"""What bandwidths are measured, and how many buffers each goes through."""
_LEAST_SECONDS = 0.02
"""A sample shorter than this is repeated within the sample: a clock and a thread's start would show."""
_SEED = 0x5EED


class BenchmarkStoppedError(AfterCheckError):
    """The benchmark is to stop."""


@dataclass
class Buffers:
    """Three buffers of equal size, on large pages where there are any, and their mappings."""

    words: tuple[Words, ...]

    @classmethod
    def take(cls, size_bytes: int, count: int = 3, large_pages: bool = True) -> Buffers:
        """Take the buffers and touch every page. Raises NotEnoughMemoryError."""
        words: list[Words] = []
        for _ in range(count):
            try:
                mapping = mmap.mmap(-1, size_bytes, flags=mmap.MAP_PRIVATE | mmap.MAP_ANONYMOUS)
            except OSError as error:
                raise NotEnoughMemoryError(
                    f"{size_text(size_bytes * count)} for the benchmark's buffers is not available ({error.strerror})"
                ) from None
            advice = getattr(mmap, "MADV_HUGEPAGE" if large_pages else "MADV_NOHUGEPAGE", None)
            if advice is not None:
                with contextlib.suppress(OSError):
                    mapping.madvise(advice)
            buffer = np.frombuffer(mapping, dtype=np.uint64)
            buffer[:] = 1
            words.append(buffer)
        return cls(tuple(words))


class Benchmark:
    """One benchmark of this computer; `earlier` is one of the same plan that was stopped, whose rounds are not measured again.

    `keep` is given the record after every sample, as one that was stopped there: a program that is killed leaves what was measured.
    """

    def __init__(
        self,
        plan: BenchmarkPlan | None = None,
        files: Files | None = None,
        short: bool = False,
        earlier: BenchmarkRecord | None = None,
        machine: MachineIdentity | None = None,
        keep: Callable[[BenchmarkRecord], object] = lambda record: None,
    ) -> None:
        self._keep = keep
        self._files: Files = files or Tree(Path("/"))
        self._plan = plan
        self._short = short
        self._earlier = earlier
        self._stop = threading.Event()
        self._lock = threading.Lock()
        self._record = BenchmarkRecord(datetime.now(UTC).replace(microsecond=0), machine=machine)
        self._begun = time.monotonic()
        self._parts_done = 0
        self._times: dict[tuple[Kind, int], int] = {}
        self._parts = 1

    @property
    def record(self) -> BenchmarkRecord:
        """The benchmark at this moment, frozen."""
        with self._lock:
            return self._record

    def stop(self) -> None:
        """Stop soon; what was measured is kept."""
        self._stop.set()

    def run(self) -> BenchmarkRecord:
        """Measure everything; what goes wrong is in the record, not raised."""
        self._begun = time.monotonic()
        try:
            room = available_memory(self._files)
            cores = usable_cores()
            plan = self._plan or usual_plan(cores, cache_bytes(self._files), room.available_bytes, self._short)
            self._change(conditions=look_around(self._files, plan, large_pages=True))
            stolen_before, all_before = processor_times(self._files)
            try:
                self._measure(plan)
            finally:
                stolen, whole = processor_times(self._files)
                share = (stolen - stolen_before) / (whole - all_before) if whole > all_before else None
                self._change(conditions=replace(self.record.conditions, stolen=round(share, 4) if share is not None else None))
        except BenchmarkStoppedError:
            return self._end(BenchmarkState.STOPPED)
        except (NotEnoughMemoryError, MemoryError) as problem:
            return self._end(BenchmarkState.FAILED, str(problem) or "there was not enough memory")
        return self._end(BenchmarkState.FINISHED)

    def _measure(self, plan: BenchmarkPlan) -> None:
        """Measure in rounds, every quantity once in each: what drifts meanwhile shows in the spread of all of them."""
        self._now_doing(Doing())
        largest = plan.working_sets_bytes[-1]
        buffers = Buffers.take(plan.buffer_bytes)
        chain = Buffers.take(_whole_pages(largest), 1).words[0]
        small_pages = Buffers.take(_whole_pages(largest), 1, large_pages=False).words[0]
        samplers = self._samplers(plan, buffers, chain, small_pages)
        samples = self._samples_so_far(plan, [measured for measured, _ in samplers])
        rounds_done = min(len(taken) for taken in samples.values())
        if rounds_done and self._earlier is not None:
            self._change(series=self._earlier.series)
        self._parts = len(samplers) * (plan.repeats - rounds_done + 1)
        warm: dict[Measurement, list[float]] = {}
        for round_number in (0, *range(rounds_done + 1, plan.repeats + 1)):
            for measured, sample in samplers:
                self._now_doing(Doing(measured, round_number, plan.repeats))
                value = sample()
                self._parts_done += 1
                self._change(share=min(1.0, self._parts_done / self._parts))
                if round_number:
                    samples[measured].append(value)
                    self._change(series=_as_series(samples))
                elif not rounds_done:
                    warm[measured] = [value]  # Not counted in the end; all that is left of one that is killed before the first round.
                kept = self.record.series or _as_series(warm)
                with contextlib.suppress(Exception):  # Whoever keeps it says at the end what cannot be kept.
                    self._keep(replace(self.record, state=BenchmarkState.STOPPED, doing=None, series=kept))

    def _samples_so_far(self, plan: BenchmarkPlan, wanted: list[Measurement]) -> dict[Measurement, list[float]]:
        """Return the whole rounds of the earlier benchmark, where it was one of this plan; else none."""
        earlier = self._earlier if self._earlier is not None and self._earlier.conditions.plan == plan.words else None
        found = {measured: earlier.of(measured) if earlier is not None else None for measured in wanted}
        rounds = min((len(series.samples) if series is not None else 0) for series in found.values())
        return {measured: list(series.samples[:rounds]) if series is not None else [] for measured, series in found.items()}

    def _samplers(
        self, plan: BenchmarkPlan, buffers: Buffers, chain: Words, small_pages: Words
    ) -> list[tuple[Measurement, Callable[[], float]]]:
        """Return every quantity with what takes one sample of it."""
        found: list[tuple[Measurement, Callable[[], float]]] = []
        for threads in sorted({1, plan.threads}):
            for kind, arrays in BANDWIDTHS:
                found.append((Measurement(kind, threads), partial(self._bandwidth, buffers, kind, arrays, threads)))
        for size in plan.working_sets_bytes:
            found.append((Measurement(Kind.LATENCY, 1, size), partial(self.latency_ns, chain, size, plan)))
        largest = plan.working_sets_bytes[-1]
        usual_pages = Measurement(Kind.LATENCY, 1, largest, usual_pages=True)
        found.append((usual_pages, partial(self.latency_ns, small_pages, largest, plan)))
        if plan.under_load and plan.threads > 1:
            loaded = Measurement(Kind.LATENCY, 1, largest, under_load=True)
            found.append((loaded, partial(self._under_load, plan, buffers, chain)))
        return found

    def _bandwidth(self, buffers: Buffers, kind: Kind, arrays: int, threads: int) -> float:
        """Return one sample in GB/s: all threads begin together, and the last one to end counts."""
        share = buffers.words[0].size // threads // kernels.LINE_WORDS * kernels.LINE_WORDS
        if kind is Kind.SCALED_SUM:
            # Words that are no ordinary numbers, as the other loops leave them, would be worked with far slower.
            for buffer in buffers.words:
                buffer.view(np.float64)[:] = 1.0
        work = _work(kind, buffers)
        times = self._times.get((kind, threads), 1)
        barrier = threading.Barrier(threads)
        with ThreadPoolExecutor(threads, "benchmark") as pool:
            futures = [pool.submit(_timed, barrier, thread, work, thread * share, (thread + 1) * share, times) for thread in range(threads)]
            spans = [future.result() for future in futures]
        seconds = max(end for _, end in spans) - min(begin for begin, _ in spans)
        if seconds < _LEAST_SECONDS:  # The next sample goes over the buffer more often.
            self._times[(kind, threads)] = times * (int(_LEAST_SECONDS / max(seconds, 1e-6)) + 1)
        return arrays * share * threads * 8 * times / seconds / 1e9

    def latency_ns(self, chain: Words, size_bytes: int, plan: BenchmarkPlan) -> float:
        """Return one sample in ns: a ring through the working set, gone through once to warm it, then measured."""
        lines = max(2, size_bytes // LINE_BYTES)
        kernels.lay_chain(chain, lines, np.uint64(_SEED))
        at = kernels.chase(chain, np.uint64(0), min(lines, plan.chase_steps))
        steps = plan.chase_steps
        begun = time.perf_counter()
        at = kernels.chase(chain, np.uint64(at), steps)
        seconds = time.perf_counter() - begun
        if seconds < _LEAST_SECONDS:  # So short a chase would show every interruption; a longer one takes its place.
            steps *= int(_LEAST_SECONDS / max(seconds, 1e-6)) + 1
            begun = time.perf_counter()
            kernels.chase(chain, np.uint64(at), steps)
            seconds = time.perf_counter() - begun
        return seconds / steps * 1e9

    def _under_load(self, plan: BenchmarkPlan, buffers: Buffers, chain: Words) -> float:
        """Return the latency of memory in ns while all other threads read."""
        over = threading.Event()

        def load(thread: int) -> None:
            stay_on_core(thread)
            while not over.is_set():
                kernels.read(buffers.words[0], 0, buffers.words[0].size)

        readers = [threading.Thread(target=load, args=(thread,), daemon=True) for thread in range(1, plan.threads)]
        for reader in readers:
            reader.start()
        try:
            return self.latency_ns(chain, plan.working_sets_bytes[-1], plan)
        finally:
            over.set()
            for reader in readers:
                reader.join()

    def _check(self) -> None:
        if self._stop.is_set():
            raise BenchmarkStoppedError

    def _now_doing(self, doing: Doing) -> None:
        self._check()
        self._change(doing=doing)

    def _change(self, **changes: object) -> None:
        with self._lock:
            seconds = round(time.monotonic() - self._begun, 2)
            self._record = replace(self._record, **{"seconds": seconds, **changes})  # type: ignore[arg-type]

    def _end(self, state: BenchmarkState, problem: str = "") -> BenchmarkRecord:
        remarks = (*self.record.remarks, problem) if problem else self.record.remarks
        self._change(state=state, doing=None, remarks=remarks, share=1.0 if state is BenchmarkState.FINISHED else self.record.share)
        return self.record


def _as_series(samples: dict[Measurement, list[float]]) -> tuple[Series, ...]:
    return tuple(
        Series(tuple(taken), measured.kind.unit, measured, lower_is_better=not measured.kind.is_bandwidth)
        for measured, taken in samples.items()
        if taken
    )


def _work(kind: Kind, buffers: Buffers) -> Callable[[int, int], object]:
    """Return what one thread does to its part of the buffers."""
    one, other, third = buffers.words
    numbers = [buffer.view(np.float64) for buffer in buffers.words]
    return {
        Kind.READ: lambda first, last: kernels.read(one, first, last),
        Kind.WRITE: lambda first, last: kernels.write(one, first, last, np.uint64(7)),
        Kind.WRITE_PAST_CACHE: lambda first, last: kernels.write_past_cache(one, first, last, np.uint64(7)),
        Kind.COPY: lambda first, last: kernels.copy(other, third, first, last, np.uint64(5)),
        Kind.SCALED_SUM: lambda first, last: kernels.scaled_sum(numbers[0], numbers[1], numbers[2], first, last, 3.0),
    }[kind]


def _timed(
    barrier: threading.Barrier, thread: int, work: Callable[[int, int], object], first: int, last: int, times: int
) -> tuple[float, float]:
    """Return when a thread began and ended its part, on a core of its own."""
    stay_on_core(thread)
    barrier.wait()
    begun = time.perf_counter()
    for _ in range(times):
        work(first, last)
    return begun, time.perf_counter()


def _whole_pages(size_bytes: int) -> int:
    return -(-size_bytes // (2 << 20)) * (2 << 20)
