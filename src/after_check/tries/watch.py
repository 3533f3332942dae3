"""The start watch: how long a start takes usually, after a change, and at the longest; and what to do at each moment.

A card's own times come first. Without them these are rules of thumb, and say so: a first start with other memory takes
longer because the controller trains every module again; DDR5 trains longest, and more with more memory.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from after_check.domain.cards import Card
from after_check.domain.modules import Generation
from after_check.domain.quantities import GIB

SIGNS = {
    "B": "beeps",
    "F": "fans stay fast",
    "P": "no picture",
    "L": "a warning light",
    "M": "message: the amount of memory changed",
    "T": "text on the screen",
    "H": "hot",
}
"""Signs at one key each; the same key takes it back."""


_USUAL_SECONDS = {"desktop": 40, "laptop": 30, "small": 35, "all-in-one": 45, "server": 180, "appliance": 240}
_USUAL_UNKNOWN = 45
_TRAINING: dict[Generation, tuple[float, float]] = {
    Generation.DDR2: (5, 0.0),
    Generation.DDR3: (10, 0.2),
    Generation.DDR4: (20, 0.5),
    Generation.DDR5: (60, 2.0),
}
"""Seconds that training adds to a first start: at least, and for each GiB."""
_TRAINING_UNKNOWN = (45, 1.0)
_LEAST_LONGEST_SECONDS = 300
MANY_CYCLES = 5


@dataclass(frozen=True, slots=True)
class StartTimes:
    """Seconds from power-on: the usual start, a first start with other memory, the longest reasonable one. `basis` says whose."""

    usual: int
    training: int
    longest: int
    basis: str


class Phase(StrEnum):
    """How far a start is by the clock."""

    USUAL = "usual"
    TRAINING = "training"
    LONG = "long"
    ENOUGH = "enough"


@dataclass(frozen=True, slots=True)
class Advice:
    """What to do now, in words, and until when in seconds (None: no longer)."""

    phase: Phase
    words: str
    until: int | None


def start_times(card: Card | None, generation: Generation | None = None, total_bytes: int | None = None) -> StartTimes:
    """Return the times for a kind of machine, a generation and an amount of memory."""
    kind = card.kind if card is not None else ""
    usual = (card.usual_start_seconds if card is not None else None) or _USUAL_SECONDS.get(kind, _USUAL_UNKNOWN)
    known = generation or (card.generation if card is not None else None)
    least, each = _TRAINING.get(known, _TRAINING_UNKNOWN) if known is not None else _TRAINING_UNKNOWN
    training = round(usual + least + each * (total_bytes or 0) / GIB)
    longest = (card.longest_start_seconds if card is not None else None) or max(_LEAST_LONGEST_SECONDS, 2 * training, 4 * usual)
    from_card = card is not None and bool(card.usual_start_seconds or card.longest_start_seconds)
    basis = f"card of {card.name}" if from_card and card is not None else "rule of thumb: this machine has no card with its times"
    return StartTimes(usual, min(training, longest), max(longest, usual), basis)


def advise(times: StartTimes, elapsed: float, changed: bool = True, cycles: int = 0) -> Advice:
    """Return what to do `elapsed` seconds after power-on; `changed` is a first start with other memory."""
    cycling = f" It went off and on {cycles} times: some machines do so two or three times." if 0 < cycles < MANY_CYCLES else ""
    if cycles >= MANY_CYCLES:
        return Advice(Phase.ENOUGH, f"It went off and on {cycles} times: power off. It cannot use something that is fitted.", None)
    if elapsed < times.usual:
        return Advice(Phase.USUAL, f"Wait: its usual start takes until {clock(times.usual)}.{cycling}", times.usual)
    if changed and elapsed < times.training:
        words = (
            f"Wait: a first start with other memory is longer; this is normal until {clock(times.training)}. Do not cut the power.{cycling}"
        )
        return Advice(Phase.TRAINING, words, times.training)
    if elapsed < times.longest:
        return Advice(Phase.LONG, f"Longer than most, and still within reason: wait until {clock(times.longest)}.{cycling}", times.longest)
    return Advice(Phase.ENOUGH, f"Long enough ({clock(times.longest)} is the longest reasonable time): power off.", None)


def clock(seconds: float) -> str:
    """Return seconds as minutes and seconds: 6:00."""
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"
