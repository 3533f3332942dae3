"""A plan for a given time: first what finds most in a second, then what adds less, as long as it fits.

What a step would add is the gain in the mean share of all kinds of faults (`shares.py`), and what it costs is worked out
from the rates that were measured on the memory under test. What a step adds only shrinks when others were done before,
so the order is found by looking again only at the step that seems the best (Minoux 1978).
"""

from __future__ import annotations

import heapq
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from itertools import count

from after_check.domain.errors import AfterCheckError
from after_check.domain.soak import LookedFor, SoakRecord
from after_check.soak.backgrounds import CHECKERBOARD, SOLID, Background, background_named, random
from after_check.soak.march import PROGRAMS, MarchError, MarchProgram, parse_march, program_named
from after_check.soak.plans import FULL, PLANS, Plan, Step, Work, custom, march, step_named
from after_check.soak.shares import Shares

MOST_STEPS = 400
_WITHOUT_MODEL = 0.02
"""What block moves and repeated rows are taken to add, once: they press on wires, power and rows, which no model here has."""
_AGAIN = 1e-6
"""A step that finds nothing new for a model may still find what is not always there; it comes last."""
_NAME = re.compile(r"(\d+(?:\.\d+)?)-minute")


def plan_within(minutes: float) -> Plan:
    """Return a plan that ends within so many minutes; its steps are chosen when the memory's rate is known."""
    seconds = minutes * 60
    return Plan(f"{minutes:g}-minute", "what finds most in that time", FULL.steps, within_seconds=seconds)


def plan_within_named(name: str) -> Plan | None:
    """Return the plan that `plan_within` named so, None for another name."""
    found = _NAME.fullmatch(name)
    return plan_within(float(found[1])) if found is not None else None


def ordered(steps: Sequence[Step], seconds_of: Callable[[Step], float], done: Sequence[Step] = ()) -> tuple[Step, ...]:
    """Return the steps by what each newly finds for a second, after those that were done."""
    shares, mean = Shares(done), 0.0
    mean = _mean(shares)
    seen = {step.work for step in done}

    def gain(step: Step) -> float:
        if step.program is None:
            return _AGAIN if step.work in seen else _WITHOUT_MODEL
        return max(_AGAIN, _mean(shares.with_step(step)) - mean)

    # The number breaks ties: what comes first in the full plan comes first here.
    waiting = [(-gain(step) / seconds_of(step), number) for number, step in enumerate(steps)]
    heapq.heapify(waiting)
    chosen: list[Step] = []
    while waiting:
        _, number = heapq.heappop(waiting)
        step = steps[number]
        worth = (-gain(step) / seconds_of(step), number)
        if waiting and worth > waiting[0]:
            heapq.heappush(waiting, worth)
            continue
        shares.add(step)
        mean = _mean(shares)
        seen.add(step.work)
        chosen.append(step)
    return tuple(chosen)


class Chooser:
    """Chooses the steps of a plan that is to end within a time, newly before each of them."""

    def __init__(self) -> None:
        self._order: tuple[Step, ...] | None = None

    def fitted(self, plan: Plan, steps_done: int, seconds_left: float, seconds_of: Callable[[Step], float]) -> Plan:
        """Return the plan with those of its steps that still fit. The first step of all is there whether it fits or not."""
        done = plan.steps[:steps_done]
        if self._order is None:
            self._order = ordered([step for step in FULL.steps if step not in done], seconds_of, done)
        chosen: list[Step] = []
        for step in self._to_come(done):
            if len(done) + len(chosen) >= MOST_STEPS or (seconds_left <= 0 and (done or chosen)):
                break
            seconds = seconds_of(step)
            if seconds <= seconds_left or not (done or chosen):
                chosen.append(step)
                seconds_left -= seconds
            elif step.work is Work.MARCH and step not in self._order:
                break  # Where not even the shortest of what is repeated fits, nothing does.
        return replace(plan, steps=(*done, *chosen))

    def _to_come(self, done: Sequence[Step]) -> Iterator[Step]:
        """Yield the steps in their order, and after them the same programs on other random data without end."""
        for step in self._order or ():
            if step not in done:
                yield step
        for number in count(1):
            for step in (
                march("March C-", random(0xC0DE + number)),
                march("March SS", random(0x55 + number)),
                march("March X", random(number)),
            ):
                if step not in done:
                    yield step


def _mean(shares: Shares) -> float:
    return sum(shares.of(kind) for kind in LookedFor) / len(LookedFor)


MOST_MINUTES = 24 * 60
_USUAL_BACKGROUNDS = (SOLID, CHECKERBOARD)


class NotUnderstoodError(AfterCheckError, ValueError):
    """A word that names nothing; the message says what there is."""


def program_asked(text: str) -> MarchProgram:
    """Return a program of the literature by its name, or one that is typed. Raises NotUnderstoodError."""
    known = program_named(text)
    if known is not None:
        return known
    if not any(sign in text for sign in "({;"):
        raise NotUnderstoodError(f"no program is named {text!r}; there are {', '.join(PROGRAMS)}, or type one like {{⇕(w0); ⇑(r0,w1)}}")
    try:
        return parse_march(text)
    except MarchError as problem:
        raise NotUnderstoodError(f"the program {text!r}: {problem}") from None


def background_asked(text: str) -> Background:
    """Return a background by its name. Raises NotUnderstoodError."""
    found = background_named(text)
    if found is None:
        raise NotUnderstoodError(
            f"no background is named {text!r}; there are solid, checkerboard, column stripes, own address, "
            "stripes of 2, 4, 8, 16 or 32, walking bit 0 to 63, random SEED"
        )
    return found


def plan_again(record: SoakRecord) -> Plan | None:
    """Return the plan that a record was of, with the steps as they were then; None for programs that were typed."""
    plan = PLANS.get(record.plan) or plan_within_named(record.plan)
    steps = [step_named(name) for name in record.steps]
    return replace(plan, steps=tuple(step for step in steps if step is not None)) if plan is not None and all(steps) else None


def minutes_asked(text: str) -> Plan:
    """Return the plan for a number of minutes that was typed. Raises NotUnderstoodError."""
    found = re.fullmatch(r"\s*(\d{1,4}(?:[.,]\d{1,2})?)\s*(m|min|minutes?|h|hours?)?\s*", text.casefold())
    minutes = float(found[1].replace(",", ".")) * (60 if (found[2] or "m").startswith("h") else 1) if found is not None else 0.0
    if not 0.05 <= minutes <= MOST_MINUTES:
        raise NotUnderstoodError(
            f"{text!r} is no time for a test: a number of minutes, like 8 or 8 min, or 2 h, up to {MOST_MINUTES // 60} hours"
        )
    return plan_within(minutes)


def there_asked(text: str) -> tuple[str, tuple[str, ...], str]:
    """Return the address, the options of the command there and the plan's name, of `ADDRESS [short|full|overnight|MINUTES]`.

    Raises NotUnderstoodError where the words after the address are no test, or where an appliance, which has its own, is given one.
    """
    address, words = (*text.split(maxsplit=1), "", "")[:2]
    words = words.strip().casefold()
    if words and not address.startswith("ssh://"):
        raise NotUnderstoodError(f"{words!r}: an appliance runs its own test, so only its address is needed")
    if not words or words in PLANS:
        name = words or "short"
        return address, ("--plan", name), name
    try:
        plan = minutes_asked(words)
    except NotUnderstoodError:
        raise NotUnderstoodError(f"{words!r} is no test: {', '.join(PLANS)}, or a number of minutes, like 8 or 2 h") from None
    return address, ("--within", f"{(plan.within_seconds or 0) / 60:g}"), plan.name


def plan_asked(name: str, programs: tuple[str, ...] = (), backgrounds: tuple[str, ...] = (), repeats: bool = False) -> Plan:
    """Return the plan of a name, or one of the given programs. Raises NotUnderstoodError."""
    if programs:
        chosen = tuple(program_asked(text) for text in programs)
        return custom(chosen, tuple(background_asked(text) for text in backgrounds) or _USUAL_BACKGROUNDS, repeats)
    if name.casefold() not in PLANS:
        raise NotUnderstoodError(f"no plan is named {name!r}; there are {', '.join(PLANS)}, or name programs")
    plan = PLANS[name.casefold()]
    return replace(plan, repeats=True) if repeats else plan
