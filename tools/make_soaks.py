"""Makes the soaks of the demo's jobs: one that fails at one module, and two that are clean.

Run `.venv/bin/python tools/make_soaks.py`; it writes `soak.json` into the samples of the jobs.
"""

from __future__ import annotations

import random
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from after_check.domain.readings import MappedRange
from after_check.domain.soak import Covered, SoakRecord, SoakState, Surroundings, WrongWord
from after_check.soak.locating import suspects_of
from after_check.soak.plans import FULL, SHORT, Plan
from after_check.soak.soak_json import write_record
from after_check.soak.symptoms import symptoms_of
from after_check.sources.open_source import take

SAMPLES = Path(__file__).parents[1] / "src" / "after_check" / "samples"
GIB = 1 << 30
_BEGUN = datetime(2026, 11, 2, 18, 0, tzinfo=UTC)
_BLOCKS = 240


def surroundings(dice: random.Random, seconds: float, rate: float) -> tuple[Surroundings, ...]:
    """Return temperatures that rise and settle, and a rate that wavers."""
    found = []
    for number in range(60):
        at = seconds * number / 60
        celsius = 34 + 9 * (1 - 0.9**number) + dice.random()
        found.append(
            Surroundings(round(at, 1), round(celsius, 1), round(celsius + 17, 1), None, None, 0, rate * (0.93 + 0.07 * dice.random()))
        )
    return tuple(found)


def covered(installed: int) -> Covered:
    """Return what a soak under a system covers of an otherwise idle machine."""
    available, reserve = round(installed * 0.965), round(installed * 0.0386)
    out = (f"{(installed - available) / GIB:.1f} GiB are held by the system and by other programs, and cannot be tested from here",)
    return Covered((available - reserve) >> 21 << 21, available, installed, reserve, True, True, out)


def record(plan: Plan, installed: int, seconds: float, rate: float, dice: random.Random) -> SoakRecord:
    """Return the record of a finished pass without errors."""
    room = covered(installed)
    return SoakRecord(
        plan=plan.name,
        state=SoakState.FINISHED,
        begun_at=_BEGUN,
        seconds=seconds,
        steps=tuple(step.name for step in plan.steps),
        steps_done=len(plan.steps),
        passes_done=1,
        bytes_done=round(seconds * rate),
        rate_bytes_per_s=rate,
        covered=room,
        fully_swept_bytes=room.held_bytes,
        lanes=((0, 0),) * 64,
        blocks=(2,) * _BLOCKS,
        surroundings=surroundings(dice, seconds, rate),
    )


def failing(dice: random.Random) -> SoakRecord:
    """Return the soak of job 0425: bit 37 of module b reads as 0 in some of its rows, wherever the test looks."""
    mapped = (MappedRange(0, 16 * GIB - 1, "A2"), MappedRange(16 * GIB, 32 * GIB - 1, "B2"))
    reading = replace(take(str(SAMPLES / "0425" / "fitted.txt")).reading, mapped=mapped)
    whole = record(FULL, 32 * GIB, 2460.0, 28.4e9, dice)
    errors = []
    for number in range(214):
        physical = 16 * GIB + dice.randrange(40, 44) * (1 << 28) + dice.randrange(1 << 22) * 8
        wanted = dice.choice((0xFFFFFFFFFFFFFFFF, 0xAAAAAAAAAAAAAAAA, dice.getrandbits(64) | 1 << 37))
        found = wanted & ~(1 << 37)
        step = whole.steps[1 + number % 3]
        errors.append(WrongWord(60.0 + 11 * number, step, 0x7F20_0000_0000 + physical, physical, wanted, found, found, found))
    lanes = tuple((len(errors), 0) if lane == 37 else (0, 0) for lane in range(64))
    wrong = {error.physical_byte * _BLOCKS // (32 * GIB) for error in errors if error.physical_byte is not None}
    return replace(
        whole,
        state=SoakState.STOPPED,
        steps_done=18,
        passes_done=0,
        step_share=0.4,
        errors=len(errors),
        kept=tuple(errors),
        lanes=lanes,
        blocks=tuple(3 if block in wrong else 2 if block < 96 else 0 for block in range(_BLOCKS)),
        symptoms=symptoms_of(errors),
        suspects=suspects_of(errors, reading),
    )


def main() -> None:
    """Write the records."""
    dice = random.Random(425)
    write_record(failing(dice), SAMPLES / "0425" / "soak.json")
    write_record(record(SHORT, 32 * GIB, 118.0, 33.1e9, dice), SAMPLES / "0426" / "soak.json")
    write_record(record(SHORT, 16 * GIB, 96.0, 20.4e9, random.Random(418)), SAMPLES / "0418" / "soak.json")


if __name__ == "__main__":
    main()
