"""What a soak does, step by step: a program on a background, a pause, block moves, repeated rows."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

from after_check.domain.soak import During
from after_check.soak.backgrounds import (
    CHECKERBOARD,
    COLUMNS,
    OWN_ADDRESS,
    RANDOM,
    SOLID,
    STRIPES,
    Background,
    background_named,
    random,
    walking,
)
from after_check.soak.march import PROGRAMS, RETENTION, Element, MarchProgram


class Work(StrEnum):
    """What a step does."""

    MARCH = "march"
    MOVES = "block moves"
    ROWS = "repeated rows"


@dataclass(frozen=True, slots=True)
class Step:
    """One thing that is done to all the memory under test."""

    work: Work
    program: MarchProgram | None = None
    background: Background = SOLID

    @property
    def name(self) -> str:
        """The step in words: `March C- · checkerboard`."""
        return f"{self.program.name} · {self.background.name}" if self.program is not None else self.work.value

    @property
    def during(self) -> During:
        """What an error that is found in the step was found during."""
        if self.program is not None:
            return During.PAUSES if any(element.is_pause for element in self.program.elements) else During.SWEEP
        return During.ROWS if self.work is Work.ROWS else During.MOVES

    @property
    def sweeps(self) -> float:
        """How often every byte is written or verified, the look at what the step before left among it."""
        return LOOK_BACK_SWEEPS + (self.program.length if self.program is not None else _OTHER_SWEEPS[self.work])


LOOK_BACK_SWEEPS = 1
USUAL_PAUSE_SECONDS = 5.0
_OTHER_SHARE = 0.1
"""Block moves spend most of their time on copies that are no sweeps."""
_ROWS_SECONDS = 20.0
"""Repeated rows read a few pairs in each slice, as often in a small one as in a large one: about so long on two cores."""
_OTHER_SWEEPS = {Work.MOVES: 6.0, Work.ROWS: 2.0}
"""Moves fill half of the memory and verify the halves eleven times; rows are written once and verified once."""


@dataclass(frozen=True, slots=True)
class Plan:
    """The steps of a soak. One that repeats goes on with other random data until it is stopped.

    `within_seconds` says that it is to end by then: steps are chosen, and left out, as the time allows (`within.py`).
    """

    name: str
    words: str
    steps: tuple[Step, ...]
    repeats: bool = False
    within_seconds: float | None = None


def march(name: str, background: Background) -> Step:
    """Return the step of a program of the literature."""
    return Step(Work.MARCH, PROGRAMS[name], background)


_MOVES = Step(Work.MOVES, background=random(0x5EED))
_ROWS = Step(Work.ROWS, background=CHECKERBOARD)
_RETAIN = tuple(Step(Work.MARCH, RETENTION, background) for background in (SOLID, CHECKERBOARD))

SHORT = Plan(
    "short",
    "while the customer waits: what finds most comes first",
    (march("March X", random(0xA11)), march("MATS+", OWN_ADDRESS), march("March C-", CHECKERBOARD), march("March C-", SOLID), _MOVES),
)
FULL = Plan(
    "full",
    "every program and background that adds something",
    (
        *SHORT.steps,
        *(march("March C-", background) for background in (COLUMNS, *STRIPES)),
        *(march("MATS+", walking(step)) for step in range(0, 64, 8)),
        march("March SS", SOLID),
        march("March LR", CHECKERBOARD),
        march("March B", random(0xB0B)),
        *_RETAIN,
        _ROWS,
    ),
)
OVERNIGHT = Plan("overnight", "the full plan again and again, until it is stopped", FULL.steps, repeats=True)

PLANS: dict[str, Plan] = {plan.name: plan for plan in (SHORT, FULL, OVERNIGHT)}


def step_named(name: str) -> Step | None:
    """Return the step of a name as `Step.name` gives it; None for a program that was typed."""
    if name in (_MOVES.name, _ROWS.name):
        return _MOVES if name == _MOVES.name else _ROWS
    program, _, background = name.partition(" · ")
    known, data = {**PROGRAMS, RETENTION.name: RETENTION}.get(program), background_named(background)
    return Step(Work.MARCH, known, data) if known is not None and data is not None else None


def custom(programs: tuple[MarchProgram, ...], backgrounds: tuple[Background, ...], repeats: bool = False) -> Plan:
    """Return a plan of the user's own programs, each on each background."""
    steps = tuple(Step(Work.MARCH, program, background) for program in programs for background in backgrounds)
    return Plan("custom", "programs of your own", steps, repeats)


def step_of_pass(step: Step, passes_done: int) -> Step:
    """Return the step of a later pass: random data gets another seed each time."""
    if step.background.kind != RANDOM or not passes_done:
        return step
    return replace(step, background=random(step.background.first + passes_done * 0x9E37))


def step_seconds(step: Step, held_bytes: int, streamed_rate: float, grouped_rate: float) -> float:
    """Return how long a step takes, at rates in bytes a second of operations that stream and of those that are flushed."""
    if step.work is Work.ROWS:
        return _ROWS_SECONDS + step.sweeps * held_bytes / streamed_rate
    if step.program is None:
        return step.sweeps * held_bytes / (streamed_rate * _OTHER_SHARE)
    seconds = LOOK_BACK_SWEEPS * held_bytes / streamed_rate
    for element in step.program.elements:
        if element.is_pause:
            seconds += USUAL_PAUSE_SECONDS if element.pause_seconds is None else element.pause_seconds
            continue
        seconds += len(element.operations) * held_bytes / (streamed_rate if streams(element) else grouped_rate)
    return seconds


def streams(element: Element) -> bool:
    """Whether an element needs no flush between its operations: a pause, one of them, or a read and then a write."""
    return len(element.operations) < 2 or [operation.is_read for operation in element.operations] == [True, False]
