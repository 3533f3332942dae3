"""How long the rest of a plan will take: what is still to be read and written, at the rates measured so far."""

from __future__ import annotations

from collections.abc import Sequence

from after_check.soak.plans import Plan, step_seconds
from after_check.soak.work import Tally

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
