"""Which result of several memory tests stands: errors stay until a run clears them, and a short run takes nothing from a long one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

from after_check.domain.readings import SoakResult

Run = TypeVar("Run")


def standing(runs: Sequence[Run], result: Callable[[Run], SoakResult], changed: Callable[[Run, Run], bool]) -> Run | None:
    """Return the run whose result stands, of runs in the order in which they were made; None where there is none.

    A clean run clears the errors of an earlier one when it covers at least as much and something was `changed` between the two:
    the same test of the same arrangement may miss what comes and goes. Of clean runs the one that covered most stands.
    """
    failed: Run | None = None
    clean: Run | None = None
    for run in runs:
        if result(run).errors:
            failed, clean = run, None
        elif failed is None:
            clean = run if clean is None or _covers(result(run), result(clean)) else clean
        elif changed(failed, run) and _covers(result(run), result(failed)):
            failed, clean = None, run
    return failed if failed is not None else clean


_WHOLE_PERCENT = 90
"""A run that covered so much clears one that does not say what it covered."""


def _covers(later: SoakResult, earlier: SoakResult) -> bool:
    """Return whether a run covers at least what an earlier one covered."""
    if earlier.errors and earlier.covered_percent is None and earlier.minutes is None:
        return (later.covered_percent or 0) >= _WHOLE_PERCENT
    pairs = ((later.covered_percent, earlier.covered_percent), (later.minutes, earlier.minutes))
    return all(before is None or (now is not None and now >= before) for now, before in pairs)
