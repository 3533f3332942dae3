"""What a benchmark measures. The version is raised whenever a figure would come out otherwise: then nothing is comparable."""

from __future__ import annotations

from dataclasses import dataclass

from after_check.domain.quantities import KIB, MIB

VERSION = "1"
REPEATS = 9
_USUAL_SMALLEST_BYTES = 16 * KIB
LARGEST_WORKING_SET_BYTES = 1 << 40
"""More than the working set of any plan."""


@dataclass(frozen=True, slots=True)
class BenchmarkPlan:
    """Threads, the size of each of three buffers, repeats, and the working sets of the latency staircase, in bytes."""

    name: str
    threads: int
    buffer_bytes: int
    repeats: int
    working_sets_bytes: tuple[int, ...]
    chase_steps: int = 1_000_000
    under_load: bool = True

    @property
    def words(self) -> str:
        """The plan by name and version, as conditions keep it."""
        return f"{self.name} {VERSION}"


def usual_plan(threads: int, cache_bytes: int, available_bytes: int, short: bool = False) -> BenchmarkPlan:
    """Return the plan for a machine: buffers of at least four times the largest cache, as far as a third of the memory allows."""
    wanted = max(256 * MIB, 4 * cache_bytes)
    buffer_bytes = max(8 * MIB, min(wanted, available_bytes // 8) >> 21 << 21)
    largest = min(max(8 * cache_bytes, 64 * MIB), buffer_bytes * 2)
    if short:
        return BenchmarkPlan("short", threads, buffer_bytes, 7, staircase(largest, steps_an_octave=1), 300_000, under_load=False)
    return BenchmarkPlan("usual", threads, buffer_bytes, REPEATS, staircase(largest, steps_an_octave=2))


def staircase(largest_bytes: int, steps_an_octave: int) -> tuple[int, ...]:
    """Return working sets from 16 KiB up to the largest, evenly in octaves, whole lines each."""
    sizes: list[int] = []
    step = 0
    while (size := int(_USUAL_SMALLEST_BYTES * 2 ** (step / steps_an_octave)) // 64 * 64) <= largest_bytes:
        sizes.append(size)
        step += 1
    return tuple(sizes)
