"""The next try: of the arrangements to choose from, the one that tells the most for its cost.

What a try tells is the mutual information between its outcome and whoever is to blame, in bits (Shannon 1948); the cost
is minutes of work and waiting.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from after_check.domain.cards import Card
from after_check.domain.tries import Arrangement, NextTry, Outcome, SoakSaid, Started, SuspectKind, Try, TryLog, sureness
from after_check.tries.arrangements import candidates, fill_order
from after_check.tries.blame import blame
from after_check.tries.confirm import needs_old_modules, proof_bits, to_confirm
from after_check.tries.error_places import counted
from after_check.tries.model import Array, Expected, TryConditions
from after_check.tries.starts import ONE_IN_THREE_SHOWS, STARTS
from after_check.tries.suspects import Mode
from after_check.tries.weigh import Weighed, conditions_of, slots_of, suspects_from, weigh

LEAST_BITS = 0.05
"""A try that tells less than this is not worth a screwdriver."""
MOVE_MINUTES, PROFILE_MINUTES, SOAK_MINUTES, LONG_SOAK_MINUTES, LOOK_MINUTES = 1.5, 1.0, 10.0, 40.0, 2.0
_PATIENCE_MINUTES = 3.0
"""What one more try costs beside its minutes, when tries are chosen: few that tell much are better than many that tell little."""
_USUAL_START_MINUTES = 1.0
_LOOK_AGAIN_MINUTES = 0.5
_LEAST_WEIGHT = 3e-4
_WORTH_A_SOAK = 0.03
_SHOWN_CHANCE = 0.02
_FAIR_PART = 0.5
_WORTH_A_SETTING = 0.05
_SHOWN_OUTCOMES = 4
_MORE_BITS = 0.02
"""Starting it again with nothing touched is asked for where it tells at least so much more."""
_MOST_WAITS = 4
"""What did not show in so many rounds of starts and tests is not waited for any longer: it is written down, and goes back."""
_OFTEN = 2
"""After so many tries of one arrangement another one tells little."""


@functools.lru_cache(maxsize=8)
def next_try(log: TryLog, card: Card | None = None) -> NextTry | None:
    """Return what to try next: None where one suspect is clear enough, no arrangement tells enough, or nothing failed for long."""
    log = counted(log)
    said = blame(log, card)
    if not said.suspects:
        return _until_it_shows(log, card)
    if said.settled:
        return None
    weighed = weigh(log, card)
    missing = to_confirm(log, weighed, said.suspects)
    if missing is not None:
        return _confirming(log, weighed, missing, said.suspects[0].kind, card)
    if needs_old_modules(log, weighed, said.suspects):
        return _old_modules_back(log, weighed, card)
    found = _most_telling(log, weighed, card)
    if found is None or sum(attempt.arrangement == found.arrangement for attempt in log.tries) < _OFTEN:
        return found
    # The same for a third time tells little: a module from the shelf would tell more, or another machine.
    return replace(found, or_borrow_for=said.borrow_for, or_elsewhere_for=said.elsewhere_for)


def _until_it_shows(log: TryLog, card: Card | None) -> NextTry | None:
    """Return the latest arrangement as it is, started and tested so often that what comes and goes would show; None where that was done."""
    last = log.last
    if last is None or not last.worked:
        return None
    made = sum((attempt.starts or 1) for attempt in log.tries if attempt.arrangement == last.arrangement)
    if made >= _MOST_WAITS * STARTS:
        return None
    why = (
        f"Nothing failed so far. Try the same as it is, started up to {STARTS} times with nothing touched, "
        f"then a memory test of {LONG_SOAK_MINUTES:.0f} minutes: "
        f"a fault of one start in three would show with {ONE_IN_THREE_SHOWS * 100:.0f} %, one of one pass in three with 80 %."
    )
    minutes = cost_minutes(last.arrangement, last.arrangement, card, untouched=True) + _again_minutes(STARTS, card) + LONG_SOAK_MINUTES
    return NextTry(last.arrangement, why, round(minutes, 1), True, LONG_SOAK_MINUTES, starts=STARTS)


def _old_modules_back(log: TryLog, weighed: Weighed, card: Card | None) -> NextTry:
    """Return the old modules back as a try, which proves whether the machine itself is sound."""
    old = [module.letter for module in log.modules if module.old]
    last = log.last.arrangement if log.last else Arrangement()
    chosen = Arrangement(tuple(zip(fill_order(log, card), old, strict=False)), last.profile)
    with_soak = any(attempt.soak is SoakSaid.ERRORS for attempt in log.tries)
    soak_minutes = SOAK_MINUTES if with_soak else 0.0
    outcomes = _meanings(log, weighed, chosen, card, soak_minutes)
    minutes = cost_minutes(last, chosen, card) + soak_minutes
    why = _why(log, chosen, last, outcomes, soak_minutes)
    return NextTry(chosen, why, round(minutes, 1), with_soak, soak_minutes, moves(last, chosen), 0.0, outcomes)


def _confirming(log: TryLog, weighed: Weighed, chosen: Arrangement, blamed: SuspectKind, card: Card | None) -> NextTry:
    """Return the try that would clear the suspect, before it is named."""
    last = log.last.arrangement if log.last else Arrangement()
    soak_minutes = SOAK_MINUTES if any(attempt.soak is SoakSaid.ERRORS for attempt in log.tries) else 0.0
    starts = 1 if soak_minutes else _starts_for(weighed, chosen, card, log, last)
    minutes = cost_minutes(last, chosen, card) + soak_minutes + _again_minutes(starts, card)
    outcomes = _meanings(log, weighed, chosen, card, soak_minutes, starts)
    as_it_was = any(attempt.failed and attempt.arrangement == chosen for attempt in log.tries)
    without = (
        "before a board is blamed, with the slot empty"
        if blamed is SuspectKind.SLOT
        else "before anything is replaced, without the suspect"
    )
    head = "To be sure: back to where it failed, seated again." if as_it_was else f"To be sure {without}."
    why = f"{head} {_why(log, chosen, last, outcomes, soak_minutes, starts)}"
    return NextTry(chosen, why, round(minutes, 1), soak_minutes > 0, soak_minutes, moves(last, chosen), 0.0, outcomes, starts=starts)


def _most_telling(log: TryLog, weighed: Weighed, card: Card | None) -> NextTry | None:
    """Return the arrangement with the most information for its cost, or None where none tells enough."""
    slots = slots_of(log)
    settings = (SuspectKind.PROFILE, SuspectKind.MARGINAL)
    suspects = suspects_from(weighed)
    profile = sum(suspect.weight for suspect in suspects if suspect.kind in settings)
    modules, board = _likely(weighed, SuspectKind.MODULE), _likely(weighed, SuspectKind.SLOT)
    offered = candidates(log, card, modules, board, profile_off=profile >= _WORTH_A_SETTING)
    if not offered:
        return None
    last = log.last.arrangement if log.last else Arrangement()
    untouched = log.last is not None and log.last.worked
    costs = np.array([cost_minutes(last, arrangement, card, untouched) for arrangement in offered])
    ways = (0.0, SOAK_MINUTES, LONG_SOAK_MINUTES) if _soak_may_show(weighed) else (0.0,)
    bits = np.array([_told(weighed, offered, way, conditions_of(log, card, way or SOAK_MINUTES), slots, last) for way in ways])
    gain = bits + proof_bits(log, suspects, offered)
    minutes = np.array([costs + way for way in ways])
    patience = minutes + _PATIENCE_MINUTES
    # The cheapest way to learn next to nothing is no bargain: only tries that tell a fair part of the most are compared by cost.
    worth = np.where(bits >= max(LEAST_BITS, _FAIR_PART * float(bits.max())), gain / patience, 0.0)
    best, at = (int(place) for place in np.unravel_index(int(np.argmax(worth)), worth.shape))
    if not worth[best, at]:
        return None
    soak_minutes, chosen = ways[best], offered[at]
    with_soak = soak_minutes > 0
    starts = 1 if with_soak else _starts_for(weighed, chosen, card, log, last)
    outcomes = _meanings(log, weighed, chosen, card, soak_minutes, starts)
    return NextTry(
        arrangement=chosen,
        why=_why(log, chosen, last, outcomes, soak_minutes, starts),
        cost_minutes=round(float(minutes[best, at]) + _again_minutes(starts, card), 1),
        with_soak=with_soak,
        soak_minutes=soak_minutes,
        moves=moves(last, chosen),
        bits=round(float(bits[best, at]), 2),
        outcomes=outcomes,
        starts=starts,
    )


def _told(
    weighed: Weighed,
    offered: Sequence[Arrangement],
    soak_minutes: float,
    conditions: TryConditions,
    slots: Sequence[str],
    last: Arrangement,
) -> Array:
    """Return how much each arrangement would tell, in bits."""
    found, weight, group = weighed.expected_of(offered, slots, _LEAST_WEIGHT, conditions, last)
    order = np.argsort(group, kind="stable")
    firsts = np.flatnonzero(np.r_[True, np.diff(group[order]) != 0])
    return _information(_outcomes(found, soak_minutes > 0), weight / weight.sum(), order, firsts)


def _starts_for(weighed: Weighed, chosen: Arrangement, card: Card | None, log: TryLog, last: Arrangement) -> int:
    """Return how often to start an arrangement: several times where that tells more, as something may come and go."""
    once = conditions_of(log, card)
    told = [float(_told(weighed, [chosen], 0.0, conditions, slots_of(log), last)[0]) for conditions in (once, replace(once, starts=STARTS))]
    return STARTS if told[1] >= told[0] + _MORE_BITS else 1


def _again_minutes(starts: int, card: Card | None) -> float:
    """Return how long the starts after the first one take, with a short look at each."""
    return (starts - 1) * (_start_minutes(card) + _LOOK_AGAIN_MINUTES)


def _start_minutes(card: Card | None) -> float:
    return card.usual_start_seconds / 60 if card is not None and card.usual_start_seconds else _USUAL_START_MINUTES


def moves(last: Arrangement, chosen: Arrangement) -> int:
    """Return how many modules have to be handled to get from one arrangement to another."""
    before, after = last.slot_of, chosen.slot_of
    return sum(before.get(letter) != after.get(letter) for letter in {*before, *after})


def cost_minutes(last: Arrangement, chosen: Arrangement, card: Card | None = None, untouched: bool = False) -> float:
    """Return the minutes that a try costs without a soak: moving modules, a setting, the start, a look at what is seen.

    The same arrangement once more means seating every module again, unless it is `untouched` to see whether it stays well.
    """
    setting = PROFILE_MINUTES if last.profile != chosen.profile else 0.0
    hands = moves(last, chosen) or (len(chosen.fitted) if last.profile == chosen.profile and not untouched else 0)
    return LOOK_MINUTES + _start_minutes(card) + MOVE_MINUTES * hands + setting


def _likely(weighed: Weighed, kind: SuspectKind) -> list[str]:
    weights = weighed.by_culprit()
    found = [(float(weights[number]), culprit.name) for number, culprit in enumerate(weighed.culprits) if culprit.kind is kind]
    return [name for _, name in sorted(found, key=lambda pair: (-pair[0], _as_counted(pair[1])))]


def _as_counted(name: str) -> tuple[str | int, ...]:
    """Return a key that puts DIMM 2 before DIMM 10."""
    return tuple(int(part) if at % 2 else part for at, part in enumerate(re.split(r"(\d+)", name)))


def _soak_may_show(weighed: Weighed) -> bool:
    modes = weighed.hypotheses.modes
    shows = np.array([mode in (Mode.SOAK, Mode.HEAT) for mode in modes])
    weight = weighed.weight[shows[weighed.first] | (shows[np.maximum(weighed.second, 0)] & (weighed.second >= 0))]
    return float(weight.sum()) >= _WORTH_A_SOAK


def _outcomes(found: Expected, with_soak: bool) -> Array:
    """Return the chance of each way to end: (arrangements, hypotheses, ways).

    Without a soak: no start, all seen, only one slot not seen (each), several not seen. With one: no start, any not
    seen, clean, errors at each slot.
    """
    starts = 1 - found.no_start
    seen = 1 - found.unseen
    all_seen = seen.prod(axis=2)
    if with_soak:
        named = found.errors_at / np.maximum(found.errors_at.sum(axis=2, keepdims=True), 1e-12)
        there = starts * all_seen
        errors = (there * found.errors)[:, :, None] * named
        return np.concatenate([np.stack([found.no_start, starts * (1 - all_seen), there * (1 - found.errors)], axis=2), errors], axis=2)
    only = all_seen[:, :, None] * found.unseen / np.maximum(seen, 1e-12)
    several = np.clip(1 - all_seen - only.sum(axis=2), 0.0, 1.0)
    parts = [found.no_start[:, :, None], (starts * all_seen)[:, :, None], starts[:, :, None] * only, (starts * several)[:, :, None]]
    return np.concatenate(parts, axis=2)


def _information(chances: Array, weight: Array, order: np.ndarray, starts: np.ndarray) -> Array:
    """Return the mutual information of outcome and culprit in bits, for every arrangement."""
    both = np.add.reduceat((chances * weight[None, :, None])[:, order, :], starts, axis=1)
    of_group = both.sum(axis=2, keepdims=True)
    of_outcome = both.sum(axis=1, keepdims=True)
    with np.errstate(divide="ignore", invalid="ignore"):
        terms = both * np.log2(both / (of_group * of_outcome))
    return np.asarray(np.nansum(np.where(both > 1e-15, terms, 0.0), axis=(1, 2)))


def _meanings(
    log: TryLog,
    weighed: Weighed,
    chosen: Arrangement,
    card: Card | None,
    soak_minutes: float,
    starts: int = 1,
) -> tuple[Outcome, ...]:
    """Return how the chosen try can end, how likely each is, and who would be the first suspect then."""
    with_soak, slots = soak_minutes > 0, slots_of(log)
    last = log.last.arrangement if log.last else Arrangement()
    conditions = replace(conditions_of(log, card, soak_minutes or SOAK_MINUTES), starts=starts)
    found, weight, _ = weighed.expected_of([chosen], slots, 0.0, conditions, last)
    filled = [slot for slot in slots if slot in chosen.module_in]
    ends: list[tuple[str, float, Try]] = []
    chances = (weight / weight.sum())[None, :, None] * _outcomes(found, with_soak)
    total = chances.sum(axis=(0, 1))
    ends.append(("no start", float(total[0]), Try(chosen, Started.NO)))
    every = tuple(filled)
    if with_soak:
        ends.append(("a memory test is clean", float(total[2]), Try(chosen, Started.YES, every, SoakSaid.CLEAN)))
        wrong = float(total[3:].sum())
        at = max(filled, key=lambda slot: float(total[3 + slots.index(slot)]), default="")
        ends.append(
            (
                f"a memory test finds errors{f' in {at}' if len(filled) > 1 else ''}",
                wrong,
                Try(chosen, Started.YES, every, SoakSaid.ERRORS, (at,)),
            )
        )
        ends.append(("a module is not seen", float(total[1]), Try(chosen, Started.YES, every[1:])))
    else:
        well = "it starts and all are seen" if len(filled) > 1 else "it starts"
        well = "every start is good" if starts > 1 else well
        ends.append((well, float(total[1]), Try(chosen, Started.YES, every, starts=starts)))
        for slot in filled:
            rest = tuple(other for other in filled if other != slot)
            ends.append((f"{slot} is not seen", float(total[2 + slots.index(slot)]), Try(chosen, Started.YES, rest)))
    likely = sorted((end for end in ends if end[1] >= _SHOWN_CHANCE), key=lambda end: -end[1])[:_SHOWN_OUTCOMES]
    said: list[Outcome] = []
    for what, chance, imagined in likely:
        after = suspects_from(weigh(replace(log, tries=(*log.tries, imagined)), card))
        first = after[0] if after else None
        said.append(Outcome(what, round(chance, 3), first.words if first else "nothing", first.weight if first else 0.0))
    return tuple(said)


def _why(log: TryLog, chosen: Arrangement, last: Arrangement, outcomes: Sequence[Outcome], soak_minutes: float, starts: int = 1) -> str:
    """Return the proposal in words, with what its outcomes would mean."""
    old = {module.letter for module in log.modules if module.old}
    letters = set(chosen.slot_of)
    fitted = ", ".join(f"{letter} in {slot}" for slot, letter in chosen.fitted)
    if chosen.fitted == last.fitted and chosen.profile != last.profile:
        head = "the same modules with the profile off"
    elif chosen.fitted == last.fitted and log.last is not None and log.last.worked:
        head = "the same once more with nothing touched, to see whether it stays well"
    elif chosen.fitted == last.fitted:
        head = "the same arrangement, every module seated again"
    elif letters and letters <= old:
        head = f"the old modules back ({fitted}), to see whether the machine itself is sound"
    elif len(letters) == 1:
        head = f"module {next(iter(letters))} alone in {chosen.fitted[0][0]}"
    elif letters == set(last.slot_of):
        head = f"the modules crossed: {fitted}"
    else:
        head = fitted
    before = [place for place, attempt in enumerate(log.tries, 1) if attempt.arrangement == chosen]
    if before and chosen != last:
        head = f"{head}, as in try {before[-1]}, to see whether it ends the same way again"
    soak = ""
    if soak_minutes > SOAK_MINUTES:
        soak = f", with a memory test of {soak_minutes:.0f} minutes: a fault that comes at one pass in three would show with 80 %"
    elif soak_minutes:
        soak = ", with a short soak"
    elif starts > 1:
        soak = f", started up to {starts} times with nothing touched"
    ends = "; ".join(f"if {outcome.what}: {outcome.then} ({sureness(outcome.weight)})" for outcome in outcomes[:3])
    often = f" A fault of one start in three would show with {ONE_IN_THREE_SHOWS * 100:.0f} %." if starts > 1 and not soak_minutes else ""
    return f"Try {head}{soak}.{often}" + (f" {ends[:1].upper()}{ends[1:]}." if ends else "")
