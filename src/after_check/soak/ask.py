"""From words to a plan: names of plans, programs and backgrounds as a person gives them."""

from __future__ import annotations

from dataclasses import replace

from after_check.soak.backgrounds import CHECKERBOARD, SOLID, Background, background_named
from after_check.soak.march import PROGRAMS, MarchError, MarchProgram, parse_march, program_named
from after_check.soak.plans import PLANS, Plan, custom

_USUAL_BACKGROUNDS = (SOLID, CHECKERBOARD)


class NotUnderstood(ValueError):
    """A word that names nothing; the message says what there is."""


def program_asked(text: str) -> MarchProgram:
    """Return a program of the literature by its name, or one that is typed. Raises NotUnderstood."""
    known = program_named(text)
    if known is not None:
        return known
    if not any(sign in text for sign in "({;"):
        raise NotUnderstood(f"no program is named {text!r}; there are {', '.join(PROGRAMS)}, or type one like {{⇕(w0); ⇑(r0,w1)}}")
    try:
        return parse_march(text)
    except MarchError as problem:
        raise NotUnderstood(f"the program {text!r}: {problem}") from None


def background_asked(text: str) -> Background:
    """Return a background by its name. Raises NotUnderstood."""
    found = background_named(text)
    if found is None:
        raise NotUnderstood(
            f"no background is named {text!r}; there are solid, checkerboard, column stripes, own address, "
            "stripes of 2, 4, 8, 16 or 32, walking bit 0 to 63, random SEED"
        )
    return found


def plan_asked(name: str, programs: tuple[str, ...] = (), backgrounds: tuple[str, ...] = (), repeats: bool = False) -> Plan:
    """Return the plan of a name, or one of the given programs. Raises NotUnderstood."""
    if programs:
        chosen = tuple(program_asked(text) for text in programs)
        return custom(chosen, tuple(background_asked(text) for text in backgrounds) or _USUAL_BACKGROUNDS, repeats)
    if name.casefold() not in PLANS:
        raise NotUnderstood(f"no plan is named {name!r}; there are {', '.join(PLANS)}, or name programs")
    plan = PLANS[name.casefold()]
    return replace(plan, repeats=True) if repeats else plan
