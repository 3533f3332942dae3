"""A case file: everything that is known of one machine's job, each thing as it came."""

from __future__ import annotations

from dataclasses import dataclass

from after_check.domain.cards import Card
from after_check.domain.facts import Fact
from after_check.domain.promises import Promise
from after_check.domain.readings import BenchmarkOutcome, Reading, SoakResult, StartOutcome
from after_check.domain.tries import Blame, NextTry


@dataclass(frozen=True, slots=True)
class Figures:
    """What a benchmark measured, as far as a promise may name it: in decimal GB/s and in ns; `bandwidth_gbs` is the largest."""

    read_gbs: Fact[float] | None = None
    write_gbs: Fact[float] | None = None
    copy_gbs: Fact[float] | None = None
    latency_ns: Fact[float] | None = None
    bandwidth_gbs: Fact[float] | None = None


ENOUGH_PERCENT = 90
"""Of how much of the memory a clean test counts as one of all of it, where the shop asks for no other share."""


@dataclass(frozen=True, slots=True)
class Needs:
    """What a shop asks for, beside the promise, before a job counts as ready; zero asks for nothing.

    A clean memory test of so many minutes and whole passes, that covered so many per cent of the memory.
    """

    soak_minutes: int = 0
    soak_passes: int = 0
    soak_percent: int = 0

    @property
    def a_soak(self) -> bool:
        """Whether a memory test is asked for at all."""
        return bool(self.soak_minutes or self.soak_passes or self.soak_percent)


@dataclass(frozen=True, slots=True)
class CaseFile:
    """What judgement looks at: readings, promise, data sheet, and what was tested, measured and tried.

    `now` is None where the machine was not read after fitting. `soak` and `benchmark` are results of this program's
    own runs, `demand` the most in bytes that the customer's work was seen to hold, `start` and `off_under_load` what
    the latest try said. `next_try` is there where somebody asked what to try next. `damaged` is what of the job could not be read,
    `settled` what was promised of the modules that no machine shows, and a person settled on the spot.
    """

    now: Reading | None = None
    before: Reading | None = None
    promise: Promise | None = None
    card: Card | None = None
    soak: Fact[SoakResult] | None = None
    benchmark: Fact[BenchmarkOutcome] | None = None
    figures_now: Figures = Figures()
    figures_before: Figures = Figures()
    demand: Fact[int] | None = None
    start: Fact[StartOutcome] | None = None
    off_under_load: Fact[bool] | None = None
    tried: Blame | None = None
    next_try: NextTry | None = None
    needs: Needs = Needs()
    damaged: tuple[str, ...] = ()
    settled: frozenset[str] = frozenset()
