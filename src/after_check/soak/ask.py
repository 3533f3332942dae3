"""From words to a plan: names of plans, programs and backgrounds as a person gives them."""

from __future__ import annotations

import re
from dataclasses import replace

from after_check.domain.errors import AfterCheckError
from after_check.domain.soak import SoakRecord
from after_check.soak.backgrounds import CHECKERBOARD, SOLID, Background, background_named
from after_check.soak.march import PROGRAMS, MarchError, MarchProgram, parse_march, program_named
from after_check.soak.plans import PLANS, Plan, custom, step_named
from after_check.soak.timed_plan import plan_within, plan_within_named

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
