"""What a log of tries says: who may be to blame, how clear that is, and what speaks against it.

Weighing only: which arrangement to try next is another question (`next_try.py`), which takes longer and is asked less often.
"""

from __future__ import annotations

import functools
from collections.abc import Sequence

from after_check.domain.cards import Card
from after_check.domain.tries import Blame, Suspect, SuspectKind, TryLog, sureness
from after_check.tries.model import PLACELESS
from after_check.tries.weigh import SETTLED, Weighed, contradictions, suspects_from, weigh

PUT_RIGHT_SURE = 0.8
"""A poor contact that works now needs to be no surer than this: nothing is replaced for it."""


@functools.lru_cache(maxsize=32)
def blame(log: TryLog, card: Card | None = None) -> Blame:
    """Return what a log of tries says: suspects, contradictions, and whether one suspect is clear enough.

    The same log is weighed once.
    """
    if not any(attempt.failed for attempt in log.tries):
        said = "No try failed: there is nothing to blame." if log.tries else "Nothing was tried yet."
        return Blame(says=said, tries=len(log.tries))
    weighed = weigh(log, card)
    suspects = suspects_from(weighed)
    put_right = _is_put_right(log, suspects)
    settled = not needs_old_modules(log, weighed, suspects) and (put_right or is_settled(suspects, weighed))
    return Blame(
        suspects=suspects,
        settled=settled,
        says=_says(suspects, settled, weighed.has_pairs, put_right),
        contradictions=contradictions(log, weighed),
        tries=len(log.tries),
        two_faults=weighed.has_pairs,
        slots=_where_now(log, weighed, suspects),
        works_now=log.last is not None and log.last.worked,
        fitted_now=len(log.last.arrangement.fitted) if log.last is not None else 0,
        fitted_bytes=_fitted_bytes(log),
    )


def needs_old_modules(log: TryLog, weighed: Weighed, suspects: Sequence[Suspect]) -> bool:
    """Return whether the machine is about to be blamed, and nobody proved it with its old modules yet."""
    old = {module.letter for module in log.modules if module.old}
    proven = any(attempt.arrangement.fitted and set(attempt.arrangement.slot_of) <= old for attempt in log.tries)
    return bool(old) and not proven and is_settled(suspects, weighed) and suspects[0].kind is SuspectKind.MACHINE


def _fitted_bytes(log: TryLog) -> int | None:
    """Return what the latest arrangement adds up to, where all sizes are known."""
    letters = list(log.last.arrangement.slot_of) if log.last is not None else []
    sizes = [log.by_letter[letter].size_bytes if letter in log.by_letter else None for letter in letters]
    known = [size for size in sizes if size is not None]
    return sum(known) if known and len(known) == len(sizes) else None


def _where_now(log: TryLog, weighed: Weighed, suspects: Sequence[Suspect]) -> tuple[str, ...]:
    """Return the slots at which the first suspect sits in the latest arrangement; none for one that is everywhere."""
    if not suspects or log.last is None or suspects[0].kind in PLACELESS:
        return ()
    named = next((culprit for culprit in weighed.culprits if (culprit.kind, culprit.name) == (suspects[0].kind, suspects[0].name)), None)
    return named.where(log.last.arrangement) if named is not None else ()


def is_settled(suspects: Sequence[Suspect], weighed: Weighed) -> bool:
    """Return whether the first suspect is clear enough, or both are where two faults are likelier than one."""
    needed = 2 if weighed.has_pairs else 1
    return len(suspects) >= needed and all(suspect.weight >= SETTLED for suspect in suspects[:needed])


def _is_put_right(log: TryLog, suspects: Sequence[Suspect]) -> bool:
    """Return whether it was a poor contact and works now; which of several it was cannot be told any more, and need not be."""
    seats = sum(suspect.weight for suspect in suspects if suspect.kind is SuspectKind.CONTACT)
    return seats >= PUT_RIGHT_SURE and log.last is not None and log.last.worked


def _says(suspects: Sequence[Suspect], settled: bool, two: bool, put_right: bool) -> str:
    if not suspects:
        return "Nothing explains what happened."
    first = suspects[0]
    if put_right:
        weight = sum(suspect.weight for suspect in suspects if suspect.kind is SuspectKind.CONTACT)
        return f"It was a poor contact; seated again, it works ({sureness(weight)} sure)."
    if settled and two:
        return f"Two faults: {first.words} and {suspects[1].words} ({sureness(suspects[1].weight)} sure)."
    if settled:
        return f"It is {first.words} ({sureness(first.weight)} sure)."
    return f"Most likely {first.words} ({sureness(first.weight)}); not clear yet."


def says_with(said: Blame, found_next: bool) -> str:
    """Return what the tries say where a next one was looked for: without one, that nothing separates the suspects."""
    if said.settled or found_next or not said.suspects:
        return said.says
    like = ", ".join(f"{suspect.words} ({sureness(suspect.weight)})" for suspect in said.suspects[:3])
    return f"No arrangement of these modules separates what is left: {like}."
