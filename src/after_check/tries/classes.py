"""Suspects that nobody has to tell apart, as one act repairs them all: leaving out the same modules.

Whether it is this module, its kind, its mix with another or the total: where each would be repaired by the same act, the
act is what counts. Suspects that a cheaper act repairs (a contact, a slot, a setting) are never in such a class.
"""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.tries import Arrangement, NamedClass, SoakSaid, Suspect, SuspectKind, TryLog
from after_check.tries.weigh import Weighed

_MENDED_BY_LEAVING_OUT = (SuspectKind.MODULE, SuspectKind.MIX, SuspectKind.TOTAL, SuspectKind.KIND)
_OF_ALL = 0.6
"""How much of a class of several modules has to be about all of them."""


def class_of(log: TryLog, weighed: Weighed, settled_at: float) -> NamedClass | None:
    """Return the smallest set of modules whose leaving out repairs enough of what may be wrong, where no single suspect is enough."""
    weights = weighed.by_culprit()
    failed = [attempt.arrangement for attempt in log.tries if attempt.failed and attempt.arrangement.fitted]
    if not failed or weighed.has_pairs:
        return None
    last = failed[-1]
    board = _board(log, weighed, settled_at)
    if board is not None:
        return board
    for letters in _left_out(log, last):
        found = [
            (number, culprit)
            for number, culprit in enumerate(weighed.culprits)
            if culprit.kind in _MENDED_BY_LEAVING_OUT and weights[number] > 0 and _mended(last, letters, culprit.where)
        ]
        weight = float(sum(weights[number] for number, _ in found))
        kinds = {culprit.kind for number, culprit in found if weights[number] > 0.02}
        of_all = sum(weights[number] for number, culprit in found if culprit.kind in (SuspectKind.KIND, SuspectKind.TOTAL))
        if len(letters) > 1 and of_all < _OF_ALL:
            continue  # One of them alone may well be enough: that can be told apart.
        if weight >= settled_at and len(kinds) > 1 and _cleared(log, letters):
            order = sorted(found, key=lambda pair: -weights[pair[0]])
            suspects = tuple(
                Suspect(culprit.kind, culprit.name, round(float(weights[number]), 4))
                for number, culprit in order
                if weights[number] > 0.005
            )
            return NamedClass(suspects, letters, _act(log, letters), round(weight, 4))
    return None


def _board(log: TryLog, weighed: Weighed, settled_at: float) -> NamedClass | None:
    """Return the machine and the memory that is soldered to it as one, where it fails with nothing else fitted: one board repairs both."""
    soldered = tuple(log.soldered.values())
    if not any(attempt.failed and set(attempt.arrangement.slot_of) == set(soldered) for attempt in log.tries if soldered):
        return None
    weights = weighed.by_culprit()
    found = [
        Suspect(culprit.kind, culprit.name, round(float(weights[number]), 4))
        for number, culprit in enumerate(weighed.culprits)
        if culprit.kind is SuspectKind.MACHINE or (culprit.kind is SuspectKind.MODULE and culprit.name in soldered)
    ]
    weight = sum(suspect.weight for suspect in found)
    order = tuple(sorted((suspect for suspect in found if suspect.weight > 0.005), key=lambda suspect: -suspect.weight))
    if weight < settled_at or len({suspect.kind for suspect in order}) < 2:
        return None
    return NamedClass(order, soldered, "memory is soldered to this board: the board has to be repaired, or replaced", round(weight, 4))


def _cleared(log: TryLog, letters: tuple[str, ...]) -> bool:
    """Return whether the machine was seen to work without these modules, tested as it was when it failed."""
    with_errors = any(attempt.soak is SoakSaid.ERRORS for attempt in log.tries)
    return any(
        attempt.worked and not set(letters) & attempt.arrangement.slot_of.keys() and (attempt.soak is SoakSaid.CLEAN or not with_errors)
        for attempt in log.tries
    )


def _left_out(log: TryLog, last: Arrangement) -> Iterator[tuple[str, ...]]:
    """Yield sets of modules that may be left out: each alone, then all the new ones. Never what is soldered or old."""
    letters = [letter for _, letter in last.fitted if not (one := log.by_letter.get(letter)) or one.is_new]
    for letter in letters:
        yield (letter,)
    if len(letters) > 1:
        yield tuple(letters)


def _mended(last: Arrangement, letters: tuple[str, ...], where: object) -> bool:
    """Return whether a suspect is at work in an arrangement, and no longer without these modules."""
    rest = Arrangement(tuple(pair for pair in last.fitted if pair[1] not in letters), last.profile)
    return bool(where(last)) and not where(rest)  # type: ignore[operator]


def _act(log: TryLog, letters: tuple[str, ...]) -> str:
    names = " and ".join(letters) if len(letters) < 3 else f"{', '.join(letters[:-1])} and {letters[-1]}"
    kind = "module" if len(letters) == 1 else "modules"
    verb = "does" if len(letters) == 1 else "do"
    known = [log.by_letter[letter].module for letter in letters if letter in log.by_letter]
    without_ecc = known and all(one is not None and one.ecc is not None and one.ecc.value is False for one in known)
    what = " without ECC" if without_ecc else ""
    others = "another in its place" if len(letters) == 1 else "others in their place"
    return f"{kind} {names}{what} {verb} not go into this machine: fit {others}"
