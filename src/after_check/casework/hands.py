"""What hands do next with a machine: one move at a time from the arrangement that is fitted to the one to be tried, and what is asked then.

A module is taken out before another one goes into its slot, so that each move can be made when it is told.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from enum import StrEnum

from after_check.casework.job_tries import first_try
from after_check.domain.facts import value_of
from after_check.domain.jobs import Job
from after_check.domain.modules import Form
from after_check.domain.tries import PROFILE_OFF, Arrangement, Blame, NextTry, SoakSaid, Started, Try, TryLog


class HandAct(StrEnum):
    """What is done in one move."""

    TAKE_OUT = "take out"
    PUT_IN = "put in"
    SEAT_AGAIN = "seat again"
    SET = "set"


@dataclass(frozen=True, slots=True)
class HandMove:
    """One move: at a slot with a module by its letter, or a setting (`slot` says which)."""

    act: HandAct
    slot: str
    letter: str = ""


@dataclass(frozen=True, slots=True)
class HandPlan:
    """The way to a try: its moves in order, what stays where it is, the try as it will be written down, and what is asked of it.

    `starts` is how often it is started, `soak_minutes` how long the memory is tested after that (0: not at all). `is_fitting`: the
    modules go in for the first time, and no try is written where it starts.
    """

    moves: tuple[HandMove, ...]
    kept: tuple[tuple[str, str], ...]
    begun: Try
    starts: int = 1
    soak_minutes: float = 0.0
    is_fitting: bool = False


def plan_of(job: Job, log: TryLog, following: NextTry | None) -> HandPlan | None:
    """Return the way to the next try, or of a plain fitting to the promised arrangement; None where nothing is to be moved or tried."""
    last = log.last
    if last is None:
        target = replace(first_try(job), seen=None, started=None)
        # What was read after fitting is fitted: then nothing is moved before the first try.
        from_here = _on_arrival(job, log) if job.now is None else target.arrangement
        return replace(_plan(log, from_here, target), is_fitting=job.now is None) if target.arrangement.fitted else None
    if following is None:
        return None
    again = following.arrangement == last.arrangement and not last.worked
    seated = tuple(letter for _, letter in following.arrangement.fitted) if again else ()
    plan = _plan(log, last.arrangement, Try(following.arrangement, reseated=seated))
    return replace(plan, starts=max(1, following.starts), soak_minutes=following.soak_minutes if following.with_soak else 0.0)


def put_back(log: TryLog, said: Blame) -> tuple[tuple[str, str], ...]:
    """Return which modules stay in which slots when the cause is known: those of the last try that it does not concern."""
    last = log.last
    return tuple(pair for pair in last.arrangement.fitted if pair[0] not in said.slots) if last is not None else ()


def written(plan: HandPlan, counted: StartsSeen, seconds: float | None, soak: SoakSaid | None) -> Try:
    """Return the try with what was answered."""
    return replace(
        plan.begun,
        started=Started.YES if counted.started else Started.NO,
        seconds=round(seconds, 1) if seconds is not None else None,
        starts=counted.starts if counted.starts > 1 else None,
        starts_failed=counted.failed if counted.starts > 1 else None,
        soak=soak,
        soak_minutes=plan.soak_minutes if soak is not None else None,
        at=datetime.now(UTC).replace(microsecond=0),
    )


@dataclass(frozen=True, slots=True)
class StartsSeen:
    """Starts that were answered so far: how many, and how many of them failed."""

    starts: int = 0
    failed: int = 0

    @property
    def started(self) -> bool:
        """Whether none failed."""
        return self.failed == 0

    def then(self, started: bool) -> StartsSeen:
        """Return these and one more."""
        return StartsSeen(self.starts + 1, self.failed + (not started))


def _on_arrival(job: Job, log: TryLog) -> Arrangement:
    """Return which lettered modules sit where while the machine is as it came."""
    if job.arrival is None:
        return Arrangement()
    loose = [slot.name for slot in job.arrival.reading.slots if slot.module is not None and value_of(slot.module.form) is not Form.SOLDERED]
    old = [module.letter for module in log.modules if module.old and not module.soldered]  # In the order of the reading's slots.
    return Arrangement(tuple(zip(loose, old, strict=False)))


def _plan(log: TryLog, last: Arrangement, target: Try) -> HandPlan:
    moves = tuple(_moves(log, last, target))
    touched = {move.slot for move in moves if move.letter}
    return HandPlan(moves, tuple(pair for pair in target.arrangement.fitted if pair[0] not in touched), target)


def _moves(log: TryLog, last: Arrangement, target: Try) -> Iterator[HandMove]:
    """Yield the moves in the board's order: what has to leave, what is put in, what is seated again, what is set."""
    chosen = target.arrangement
    soldered = {module.letter for module in log.modules if module.soldered}
    for slot, letter in last.fitted:
        if chosen.module_in.get(slot) != letter and letter not in soldered:
            yield HandMove(HandAct.TAKE_OUT, slot, letter)
    for slot, letter in chosen.fitted:
        if last.module_in.get(slot) != letter and letter not in soldered:
            yield HandMove(HandAct.PUT_IN, slot, letter)
    for slot, letter in chosen.fitted:
        if letter in (target.reseated or ()) and last.module_in.get(slot) == letter and letter not in soldered:
            yield HandMove(HandAct.SEAT_AGAIN, slot, letter)
    if chosen.profile and chosen.profile != last.profile:
        yield HandMove(HandAct.SET, "profile off" if chosen.profile == PROFILE_OFF else f"profile {chosen.profile}")
