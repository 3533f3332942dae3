"""The arrangements that are worth a thought next: what a good technician would think of, as far as this board allows it."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

from after_check.domain.cards import Card
from after_check.domain.facts import value_of
from after_check.domain.tries import PROFILE_OFF, Arrangement, TryLog, TryModule
from after_check.tries.weigh import slots_of

_MOST_WITH_PROFILE = 40
MOST = 320
"""Beyond so many, more arrangements tell nothing that these do not."""
_MOST_OF_ONE_SORT = 96
"""On a board of many slots each module alone in each slot would leave no room for halves."""


def candidates(
    log: TryLog, card: Card | None, likely_modules: Sequence[str], likely_slots: Sequence[str], profile_off: bool = True
) -> tuple[Arrangement, ...]:
    """Return arrangements to choose from, without doubles; modules and slots with the likeliest suspects first.

    `profile_off` adds the last arrangement with its profile off: nothing is moved then, so it tells of the profile alone.
    """
    slots = fill_order(log, card)
    stays = log.soldered
    last = log.last.arrangement if log.last else Arrangement()
    found: dict[tuple[tuple[str, str], ...], Arrangement] = {}
    for fitted in itertools.chain(
        (last.module_in,),
        (attempt.arrangement.module_in for attempt in log.tries if attempt.failed),
        _controls(log, slots),
        itertools.islice(_alone(likely_modules, likely_slots, slots), _MOST_OF_ONE_SORT),
        _less_one(last.module_in),
        itertools.islice(_exchanged(last.module_in), _MOST_OF_ONE_SORT),
        itertools.islice(_moved(last.module_in, slots, likely_modules), _MOST_OF_ONE_SORT),
        _halves(last.module_in, likely_modules, slots),
        _turned(last.module_in, likely_modules, slots),
        _replaced(last.module_in, log.modules),
    ):
        whole = with_soldered(fitted, stays)
        if whole and fits(whole, log, card):
            arrangement = Arrangement(tuple((slot, whole[slot]) for slot in slots if slot in whole), last.profile)
            found.setdefault(arrangement.fitted, arrangement)
        if len(found) >= MOST:
            break
    tried_profile = next((attempt.arrangement.profile for attempt in log.tries if attempt.arrangement.profile_is_on), "")
    if not tried_profile:
        return tuple(found.values())
    # Whether it is the profile is told by turning it off, and whether it was by turning it on again.
    near = [last, *list(found.values())[:_MOST_WITH_PROFILE]]
    other = [Arrangement(one.fitted, PROFILE_OFF if one.profile_is_on else tried_profile) for one in near if one.fitted]
    return tuple(dict.fromkeys((*(other if profile_off else ()), *found.values())))


def with_soldered(fitted: dict[str, str], stays: dict[str, str]) -> dict[str, str]:
    """Return an arrangement with the soldered memory in it, which nobody can take out, and nothing in its place."""
    free = {slot: letter for slot, letter in fitted.items() if slot not in stays and letter not in stays.values()}
    return {**stays, **free}


def fill_order(log: TryLog, card: Card | None) -> tuple[str, ...]:
    """Return the slots of the board in the order in which they are to be filled, as far as the card knows it."""
    known = slots_of(log)
    sheet = log.order or (tuple(slot.name for slot in card.slots) if card is not None else ())
    by_name = {slot.casefold(): slot for slot in known}
    first = [by_name[name.casefold()] for name in sheet if name.casefold() in by_name]
    return tuple(dict.fromkeys((*first, *known)))


def fits(fitted: dict[str, str], log: TryLog, card: Card | None) -> bool:
    """Return whether the board takes an arrangement: each module once, and not generations or kinds that exclude each other."""
    letters = list(fitted.values())
    if len(set(letters)) != len(letters):
        return False
    movable = [one for letter in letters if not (one := log.by_letter.get(letter, TryModule(letter))).soldered]
    modules = [one.module for one in movable]
    for field in ("generation", "form"):
        kinds = {value_of(getattr(module, field)) for module in modules if module is not None} - {None}
        if len(kinds) > 1:
            return False
    return True


def _controls(log: TryLog, slots: Sequence[str]) -> Iterator[dict[str, str]]:
    """The arrangements in which only old modules sat, to prove the machine; else the old modules in the order of the slots."""
    old = [module.letter for module in log.modules if module.old]
    if not old:
        return
    for attempt in log.tries:
        if set(attempt.arrangement.slot_of) <= set(old):
            yield attempt.arrangement.module_in
    yield dict(zip(slots, old, strict=False))


def _alone(modules: Sequence[str], likely: Sequence[str], slots: Sequence[str]) -> Iterator[dict[str, str]]:
    for slot, module in itertools.product(dict.fromkeys((*slots[:1], *likely, *slots)), modules):
        yield {slot: module}


def _less_one(last: dict[str, str]) -> Iterator[dict[str, str]]:
    for slot in last:
        if len(last) > 1:
            yield {other: module for other, module in last.items() if other != slot}


def _exchanged(last: dict[str, str]) -> Iterator[dict[str, str]]:
    for first, second in itertools.combinations(last, 2):
        yield {**last, first: last[second], second: last[first]}


def _moved(last: dict[str, str], slots: Sequence[str], likely: Sequence[str]) -> Iterator[dict[str, str]]:
    for slot, module in sorted(last.items(), key=lambda pair: likely.index(pair[1]) if pair[1] in likely else len(likely)):
        for free in slots:
            if free not in last:
                yield {**{other: one for other, one in last.items() if other != slot}, free: module}


def _halves(last: dict[str, str], likely: Sequence[str], slots: Sequence[str]) -> Iterator[dict[str, str]]:
    """Halves of the modules, in the first slots and where they sit; of the likeliest ones and by every second one."""
    for letters in (list(likely), [letter for letter in likely if letter in last.values()]):
        for half in (letters[: len(letters) // 2], letters[len(letters) // 2 :], letters[::2], letters[1::2], letters[:2], letters[2:4]):
            if half:
                yield dict(zip(slots, half, strict=False))
                yield {slot: letter for slot, letter in last.items() if letter in half}


def _turned(last: dict[str, str], likely: Sequence[str], slots: Sequence[str]) -> Iterator[dict[str, str]]:
    """Every module one slot further, and as many as there is room for, from the likeliest on."""
    filled = list(last)
    for step in range(1, min(len(filled), 4)):
        yield {slot: last[filled[(at + step) % len(filled)]] for at, slot in enumerate(filled)}
    yield dict(zip(slots, likely, strict=False))


def _replaced(last: dict[str, str], modules: Sequence[TryModule]) -> Iterator[dict[str, str]]:
    """Another module that lies on the bench in the place of one that is fitted."""
    spare = [module.letter for module in sorted(modules, key=lambda one: not one.known_good) if module.letter not in last.values()]
    for slot in last:
        for letter in spare[:4]:
            yield {**last, slot: letter}
