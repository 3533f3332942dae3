"""Joining what two benches did on one job: each kept its own order, and both are right.

Pure functions. Whoever joins in whatever direction gets the same whole, and nothing of either side is left out.
"""

from __future__ import annotations

import string
from collections import Counter
from collections.abc import Callable, Hashable, Sequence
from dataclasses import replace
from datetime import UTC, datetime
from heapq import heapify, heappop, heappush
from itertools import pairwise
from typing import TypeVar

from after_check.domain.handback import HandBack, Override
from after_check.domain.tries import Try, TryLog, TryModule, noted_by_both

Kept = TypeVar("Kept")
_LONG_AGO = datetime.min.replace(tzinfo=UTC)


def merged(
    here: Sequence[Kept], theirs: Sequence[Kept], key: Callable[[Kept], Hashable], at: Callable[[Kept], datetime | None]
) -> list[Kept]:
    """Return both lists as one: what has the same key once (as it is here), each list's own order kept, else by time.

    A list's own order goes before the time: a machine whose settings were cleared may have had a wrong clock.
    """
    kept = {key(row): row for row in (*theirs, *here)}
    following: dict[Hashable, set[Hashable]] = {name: set() for name in kept}
    for names in ([key(row) for row in here], [key(their) for their in theirs]):
        for one, other in pairwise(dict.fromkeys(names)):
            following[one].add(other)
    waiting = Counter(other for others in following.values() for other in others)

    def entry(name: Hashable) -> tuple[datetime, str, Hashable]:
        return (at(kept[name]) or _LONG_AGO, str(name), name)

    free = [entry(name) for name in kept if not waiting[name]]
    heapify(free)
    order: list[Hashable] = []
    while free:
        *_, name = heappop(free)
        order.append(name)
        for other in following[name]:
            waiting[other] -= 1
            if not waiting[other]:
                heappush(free, entry(other))
    # Two lists that contradict each other leave some over; for those only the time is left.
    order += sorted(kept.keys() - set(order), key=entry)
    return [kept[name] for name in order]


def merged_log(here: TryLog, theirs: TryLog) -> TryLog:
    """Return two logs of tries as one. A letter that means another module over there gets a letter that is free here."""
    modules = list(here.modules)
    letters = {module.letter: _letter(module, modules) for module in theirs.modules}
    relabelled = [_relabelled(attempt, letters) for attempt in theirs.tries]
    tries = merged(here.tries, relabelled, _identity, lambda tried: tried.at)
    slots = (*here.slots, *(slot for slot in theirs.slots if slot not in here.slots))
    return TryLog(tuple(modules), slots, tuple(tries), here.conclusion or theirs.conclusion, here.order or theirs.order)


def _letter(module: TryModule, modules: list[TryModule]) -> str:
    """Return the letter of a module among those here; one that is not there yet is added."""
    at = next((index for index, one in enumerate(modules) if one.letter == module.letter), None)
    if at is not None and (not module.words or not modules[at].words or modules[at].words == module.words):
        own = modules[at]
        modules[at] = replace(own if own.words else module, elsewhere=noted_by_both(own.elsewhere, module.elsewhere))
        return module.letter
    known = next((index for index, one in enumerate(modules) if module.serial and one.serial == module.serial), None)
    if known is not None:
        own = modules[known]
        modules[known] = replace(own, elsewhere=noted_by_both(own.elsewhere, module.elsewhere))
        return own.letter
    taken = {module.letter for module in modules}
    letter = module.letter if at is None else next(letter for letter in _letters() if letter not in taken)
    modules.append(replace(module, letter=letter))
    return letter


def _letters() -> list[str]:
    return [*string.ascii_lowercase, *(f"{first}{second}" for first in string.ascii_lowercase for second in string.ascii_lowercase)]


def _relabelled(tried: Try, letters: dict[str, str]) -> Try:
    """Return a try with the letters that its modules have here."""
    fitted = tuple((slot, letters.get(letter, letter)) for slot, letter in tried.arrangement.fitted)
    reseated = None if tried.reseated is None else tuple(letters.get(letter, letter) for letter in tried.reseated)
    return replace(tried, arrangement=replace(tried.arrangement, fitted=fitted), reseated=reseated)


def _identity(one: Try) -> Hashable:
    """A try that was begun at one moment with one arrangement is one try, whatever was found out later."""
    return (one.at, one.arrangement) if one.at is not None else one


def merged_hand_back(later: HandBack, earlier: HandBack) -> HandBack:
    """Return what was added to the sheet on two benches: the later texts, and every agreement of both."""
    agreed = [
        *earlier.overrides,
        *(override for override in later.overrides if not any(_alike(override, other) for other in earlier.overrides)),
    ]
    texts = {name: getattr(later, name) or getattr(earlier, name) for name in TEXTS}
    return HandBack(**texts, overrides=tuple(agreed))


def _alike(one: Override, other: Override) -> bool:
    return (one.code, one.reason, one.at, one.after) == (other.code, other.reason, other.at, other.after)


TEXTS = ("old_modules", "warranty", "later", "note", "as_it_came")
"""The texts that a person adds to the sheet."""
