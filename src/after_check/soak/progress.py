"""How long a soak has tested: time in which words were checked, and no time in which its program stood still."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Sequence

from after_check.domain.soak import Block
from after_check.host.slices import Slice
from after_check.soak.plans import Plan, step_seconds
from after_check.soak.work import Tally

_LONGEST_GAP_SECONDS = 2.0
"""Whoever looks after a soak looks several times a second; a longer gap is counted as far as the processor worked in it."""


class SoakClock:
    """Seconds of testing. Begins with the first word that is checked; a pause does not count, nor does a stopped process."""

    def __init__(
        self,
        before_seconds: float = 0.0,
        wall: Callable[[], float] = time.monotonic,
        work: Callable[[], float] = time.process_time,
    ) -> None:
        self._wall, self._work = wall, work
        self._seconds = before_seconds
        self._before_seconds = before_seconds
        self._last: float | None = None
        self._last_work = 0.0
        self._lock = threading.Lock()

    def begin(self) -> None:
        """A word is checked now; the first one counts."""
        with self._lock:
            if self._last is None:
                self._last, self._last_work = self._wall(), self._work()

    def look(self, paused: bool = False) -> float:
        """Return the seconds until now, those of an interrupted run before included."""
        with self._lock:
            if self._last is None:
                return self._seconds
            now, work = self._wall(), self._work()
            if not paused:
                self._seconds += min(now - self._last, _LONGEST_GAP_SECONDS + work - self._last_work)
            self._last, self._last_work = now, work
            return self._seconds

    @property
    def of_this_run(self) -> float:
        """Seconds of this run alone, as they were last looked at."""
        return self._seconds - self._before_seconds


_LEAST_MEASURED_SECONDS = 0.02
_GROUPED_SHARE = 0.45
"""A flushed operation goes about this fast beside a streamed one; used until it was measured."""


def seconds_left(plan: Plan, steps_done: int, step_share: float, held_bytes: int, tallies: Sequence[Tally]) -> float | None:
    """Return the seconds until the plan is done, `step_share` of its present step being done; None where nothing was measured yet.

    Each tally is of a thread, and all of them work at once.
    """
    rates = measured_rates(tallies)
    if rates is None:
        return None
    left = [step_seconds(step, held_bytes, *rates) for step in plan.steps[steps_done % len(plan.steps) :]]
    return left[0] * (1 - step_share) + sum(left[1:]) if left else 0.0


def measured_rates(tallies: Sequence[Tally]) -> tuple[float, float] | None:
    """Return bytes a second of operations that stream and of those that are flushed; None where nothing was measured yet."""
    streamed = sum(tally.streamed_seconds for tally in tallies)
    if streamed < _LEAST_MEASURED_SECONDS:
        return None
    streamed_rate = sum(tally.streamed_bytes for tally in tallies) / streamed * len(tallies)
    grouped = sum(tally.grouped_seconds for tally in tallies)
    grouped_rate = streamed_rate * _GROUPED_SHARE
    if grouped > _LEAST_MEASURED_SECONDS:
        grouped_rate = sum(tally.grouped_bytes for tally in tallies) / grouped * len(tallies)
    return streamed_rate, grouped_rate


def blocks_of(slices: Sequence[Slice], tallies: Sequence[Tally]) -> tuple[Block, ...]:
    """Return what each slice shows, by what the threads have begun, swept and found."""
    begun = set().union(*(set(tally.begun) for tally in tallies))
    swept = set().union(*(set(tally.swept) for tally in tallies))
    wrong = set().union(*(set(tally.wrong) for tally in tallies))

    def block(number: int, piece: Slice) -> Block:
        if piece.given_back:
            return Block.GIVEN_BACK
        if number in wrong:
            return Block.WRONG
        if number in swept:
            return Block.CLEAN
        return Block.UNDER_WAY if number in begun else Block.WAITING

    return tuple(block(number, piece) for number, piece in enumerate(slices))


def lane_counts(before: Sequence[tuple[int, int]], tallies: Sequence[Tally]) -> tuple[tuple[int, int], ...]:
    """Return how often each of 64 bits was found 0 for 1 and 1 for 0, what was counted before included."""
    lanes = [list(pair) for pair in before] or [[0, 0] for _ in range(64)]
    for tally in tallies:
        for lane in range(64):
            lanes[lane][0] += int(tally.lanes[lane, 0])
            lanes[lane][1] += int(tally.lanes[lane, 1])
    return tuple((low, high) for low, high in lanes)
