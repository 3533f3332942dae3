"""What each hypothesis expects of an arrangement, as arrays, and how well it explains what happened.

A hypothesis is a culprit with the way in which it shows (Mode) and whether it does so always or comes and goes. Two
hypotheses at once are joined as independent causes (noisy or). Everything is written out in docs/tries.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from after_check.domain.tries import Arrangement, SoakSaid, Started, SuspectKind, Try
from after_check.tries.suspects import MODES, Culprit, Mode

Array = NDArray[np.float64]

DEGREES = ((0.97, 0.62), (0.68, 0.14), (0.35, 0.14), (0.12, 0.1))
"""How often a fault that is there shows at a start, or in ten minutes of a memory test, and how many faults are so."""
POOR_CONTACT, ONCE = 0.6, 0.12
"""A bad contact before it is counted (`contacts`), and what came once: seldom, at any try."""
CONTACT_SHOWS = 0.9
"""How often a contact shows that it is bad, while it is."""
REPAIRED = 0.7
"""How often seating a module again fixes a bad contact, which then stays good."""
PASS_MINUTES = 10.0
FELL_BACK_SHARE = 0.45
"""Of starts that fail with a profile, how many fall back to cleared settings instead."""
LEAST_WAIT_SHARE, CUT_SHORT = 0.7, 0.5
"""A start that was waited for less than this share of the longest time may have been cut short, half of the time."""
USUAL_LONGEST_SECONDS = 300.0
OUT_OF_ORDER, OUT_OF_ORDER_OF_SHEET = 0.06, 0.35
"""How often a board does not start because the slot that it wants filled first is empty: by its data sheet, or as it happens."""
ALONE_IS_NO_START = 0.85
"""How often a machine does not start that sees none of its memory; some have a little of their own."""
NO_START, NOT_SEEN, SOAK_ERRORS, OFF_UNDER_LOAD = 0.01, 0.01, 0.005, 0.01
"""How often each happens for no reason that is looked for here."""
CYCLES_OF_GOOD, CYCLES_OF_BAD = 0.05, 0.15
"""How often a sound start comes after power cycles, and how often a fault that hinders the start lets one through that way."""
HEAT_OFF, HEAT_ERRORS, HEAT_NO_START = 0.8, 0.25, 0.1
AT_CULPRIT, ELSEWHERE = 0.95, 0.04
"""Given errors in a soak, how often they are put at the culprit's slot and at another one; a fault without a place is put at any."""
PLACELESS = (SuspectKind.PROFILE, SuspectKind.MACHINE, SuspectKind.OUTSIDE, SuspectKind.NOTHING, SuspectKind.ORDER)
NOTHING_PRIOR = 0.3
"""Nothing is wrong, or it has gone away."""


@dataclass(frozen=True)
class Hypotheses:
    """Hypotheses as arrays of one length: the culprit's index (-1: nothing is wrong), mode, strength, prior weight."""

    culprits: tuple[Culprit, ...]
    culprit: NDArray[np.int64]
    modes: tuple[Mode | None, ...]
    strength: Array
    prior: Array

    def only(self, chosen: NDArray[np.int64]) -> Hypotheses:
        """Return some of the hypotheses, by their indices."""
        modes = tuple(self.modes[at] for at in chosen)
        return Hypotheses(self.culprits, self.culprit[chosen], modes, self.strength[chosen], self.prior[chosen])


@dataclass(frozen=True)
class Expected:
    """What hypotheses expect of arrangements. Shapes: (arrangements, hypotheses), with slots as a third axis.

    `no_start`, `errors` and `off` are probabilities; `unseen` is that of a slot not being seen once the machine started,
    `errors_at` that of a slot being named given errors.
    """

    no_start: Array
    unseen: Array
    errors: Array
    errors_at: Array
    off: Array

    def only(self, chosen: NDArray[np.int64]) -> Expected:
        """Return what some of the hypotheses expect, by their indices."""
        return Expected(
            self.no_start[:, chosen], self.unseen[:, chosen], self.errors[:, chosen], self.errors_at[:, chosen], self.off[:, chosen]
        )


_SINGLE: dict[SuspectKind, tuple[tuple[float, float], ...]] = {
    SuspectKind.CONTACT: ((POOR_CONTACT, 1.0),),
    SuspectKind.NOTHING: ((ONCE, 1.0),),
    SuspectKind.MIX: ((DEGREES[0][0], 0.85), (0.5, 0.15)),
    SuspectKind.KIND: ((DEGREES[0][0], 1.0),),
    SuspectKind.TOTAL: ((DEGREES[0][0], 1.0),),
    SuspectKind.ORDER: ((DEGREES[0][0], 1.0),),
}
"""Kinds that come in fewer degrees: what a machine refuses, it refuses each time."""


def hypotheses_of(culprits: Sequence[Culprit]) -> Hypotheses:
    """Return every way in which every culprit could show, and nothing."""
    index, modes, strength, prior = [-1], [None], [0.0], [NOTHING_PRIOR]
    kept: list[Mode | None] = list(modes)
    for number, culprit in enumerate(culprits):
        for mode, share in MODES[culprit.kind].items():
            for value, part in _SINGLE.get(culprit.kind, DEGREES):
                index.append(number)
                kept.append(mode)
                strength.append(value)
                prior.append(culprit.prior * share * part)
    return Hypotheses(tuple(culprits), np.array(index), tuple(kept), np.array(strength), np.array(prior))


@dataclass(frozen=True)
class TryConditions:
    """Under what a try is made: how long a memory test takes, how often it is started, and how often a board does not
    start that wants a slot filled first."""

    soak_minutes: float = PASS_MINUTES
    first_slot: str = ""
    out_of_order: float = 0.0
    starts: int = 1


def expected(
    hypotheses: Hypotheses, arrangements: Sequence[Arrangement], slots: Sequence[str], conditions: TryConditions = TryConditions()
) -> Expected:
    """Return what every hypothesis expects of every arrangement."""
    place = {slot: number for number, slot in enumerate(slots)}
    count = len(hypotheses.culprits)
    where = np.zeros((len(arrangements), count + 1, len(slots)))
    filled = np.zeros((len(arrangements), 1, len(slots)))
    for row, arrangement in enumerate(arrangements):
        for slot, _ in arrangement.fitted:
            filled[row, 0, place[slot]] = 1.0
        for number, culprit in enumerate(hypotheses.culprits):
            for slot in culprit.where(arrangement):
                where[row, number, place[slot]] = 1.0
    where = where[:, hypotheses.culprit, :]  # Index -1 takes the last row, which is empty: nothing is at work.
    at_work = where.any(axis=2)
    mode = np.array([mode.value if mode is not None else "" for mode in hypotheses.modes])
    placeless = np.array([number >= 0 and hypotheses.culprits[number].kind in PLACELESS for number in hypotheses.culprit])
    mixed = np.array([number >= 0 and hypotheses.culprits[number].kind is SuspectKind.MIX for number in hypotheses.culprit])

    # With nothing touched a contact is good or bad for all starts; other faults have their chance at each.
    stays = np.array([number >= 0 and hypotheses.culprits[number].kind is SuspectKind.CONTACT for number in hypotheses.culprit])
    at_a_start = np.where(stays, hypotheses.strength, 1 - (1 - hypotheses.strength) ** conditions.starts)

    def of(chosen: Mode) -> Array:
        return np.where(at_work & (mode == chosen.value), hypotheses.strength if chosen is Mode.SOAK else at_a_start, 0.0)

    heat = at_work & (mode == Mode.HEAT.value)
    count = np.maximum(filled.sum(axis=2), 1.0)
    # A fault without a place hides one module by chance; one of two together hides either, or both.
    spread = np.where(placeless[None, :], 1.0 / count, np.where(mixed[None, :], 0.65, 1.0))
    unseen = of(Mode.SEEN)
    hidden = unseen[:, :, None] * where * spread[:, :, None]
    # Where nothing but what is not seen is fitted, the machine does not start.
    alone = unseen * (where.sum(axis=2) >= filled.sum(axis=2)) * at_work * np.where(placeless[None, :] | mixed[None, :], 0.0, 1.0)
    hidden = np.where(alone[:, :, None] > 0, (1 - ALONE_IS_NO_START) * hidden, hidden)
    alone = ALONE_IS_NO_START * alone
    anywhere = AT_CULPRIT / count
    places = np.maximum(where.sum(axis=2), 1.0)
    at_one = np.where(where > 0, (AT_CULPRIT / places)[:, :, None], ELSEWHERE * filled)
    named = np.where((placeless[None, :] | ~at_work)[:, :, None], anywhere[:, :, None] * filled, at_one)
    passes = max(conditions.soak_minutes / PASS_MINUTES, 0.3)
    left_out = np.array([bool(conditions.first_slot) and conditions.first_slot not in one.module_in for one in arrangements])
    return Expected(
        no_start=_either(
            1 - (1 - NO_START) ** conditions.starts,
            of(Mode.START),
            alone,
            np.where(heat, HEAT_NO_START, 0.0),
            np.where(left_out, conditions.out_of_order, 0.0)[:, None],
        ),
        unseen=_either((1 - (1 - NOT_SEEN) ** conditions.starts) * filled, hidden),
        errors=_either(SOAK_ERRORS, 1 - (1 - of(Mode.SOAK)) ** passes, np.where(heat, HEAT_ERRORS, 0.0)),
        errors_at=named,
        off=_either(OFF_UNDER_LOAD, np.where(heat, HEAT_OFF, 0.0)),
    )


def joined(found: Expected, first: NDArray[np.int64], second: NDArray[np.int64]) -> Expected:
    """Return what pairs of hypotheses expect, by their indices: each causes what it causes, alone or with the other."""
    weight = found.errors[:, first, None] + 1e-12
    other = found.errors[:, second, None] + 1e-12
    return Expected(
        no_start=_either(found.no_start[:, first], found.no_start[:, second]),
        unseen=_either(found.unseen[:, first], found.unseen[:, second]),
        errors=_either(found.errors[:, first], found.errors[:, second]),
        # The place is told by whichever of the two made the errors.
        errors_at=(weight * found.errors_at[:, first] + other * found.errors_at[:, second]) / (weight + other),
        off=_either(found.off[:, first], found.off[:, second]),
    )


def likelihood(found: Expected, tried: Try, slots: Sequence[str], longest_seconds: float = USUAL_LONGEST_SECONDS) -> Array:
    """Return the probability of what happened in one try, under each hypothesis; `found` expects of its arrangement alone."""
    row = 0
    hindered = found.no_start[row]
    value: Array = np.ones_like(hindered)
    started = tried.started
    if started is None and (tried.seen is not None or tried.soak is not None):
        started = Started.YES
    if started is Started.NO or tried.fell_back:
        return _failed_start(hindered, tried, longest_seconds)
    if started is Started.CYCLES:
        value = value * (hindered * CYCLES_OF_BAD + (1 - hindered) * CYCLES_OF_GOOD)
    elif started is Started.YES:
        value = value * (1 - hindered) * (1 - CYCLES_OF_GOOD)
    filled = tried.arrangement.module_in
    if tried.seen is not None:
        for number, slot in enumerate(slots):
            if slot in filled:
                hidden = found.unseen[row, :, number]
                value = value * (1 - hidden if slot in tried.seen else hidden)
    if tried.soak is SoakSaid.CLEAN:
        value = value * (1 - found.errors[row])
    elif tried.soak is SoakSaid.ERRORS:
        value = value * found.errors[row] * _places(found, row, tried, slots)
    if tried.off_under_load is not None:
        value = value * (found.off[row] if tried.off_under_load else 1 - found.off[row])
    return value


def _places(found: Expected, row: int, tried: Try, slots: Sequence[str]) -> Array:
    """Return the probability of the places at which a memory test put its errors."""
    filled, value = tried.arrangement.module_in, np.ones_like(found.errors[row])
    if len(tried.errors_in) == 1:  # A test that names one place chose it: the chances of the places are shares of one.
        (named,) = tried.errors_in
        return np.asarray(found.errors_at[row, :, slots.index(named)]) if named in filled else value
    if tried.errors_in:
        for number, slot in enumerate(slots):
            if slot in filled:
                named_here = found.errors_at[row, :, number]
                value = value * (named_here if slot in tried.errors_in else 1 - named_here)
    return np.asarray(value)


def _failed_start(hindered: Array, tried: Try, longest_seconds: float) -> Array:
    """Return the probability of a start that failed, or fell back to cleared settings; one may only have been cut short."""
    if tried.fell_back:
        return np.asarray(hindered * (1 - CYCLES_OF_BAD) * FELL_BACK_SHARE)
    if tried.seconds is not None and 0 < tried.seconds < LEAST_WAIT_SHARE * longest_seconds:
        hindered = hindered + (1 - hindered) * CUT_SHORT
    return np.asarray(hindered * (1 - CYCLES_OF_BAD) * (1 - FELL_BACK_SHARE if tried.arrangement.profile_is_on else 1.0))


def contacts(hypotheses: Hypotheses, tries: Sequence[Try]) -> tuple[Array, Array]:
    """Return for every hypothesis of a bad contact what corrects its likelihood, and how often it would show the next time.

    A contact that was bad and is seated again is put right with REPAIRED and stays so. Bad in k of n tries that could show
    it has then the chance 0.3^(k-1) * 0.7 (k < n) or 0.3^(n-1) (k = n), whatever the order in which they are listed;
    that takes the place of n independent chances of POOR_CONTACT. Other hypotheses are left as they are.
    """
    factor, strength = np.ones(len(hypotheses.strength)), hypotheses.strength.copy()
    in_order = any(attempt.reseated is not None for attempt in tries)
    for at, number in enumerate(hypotheses.culprit):
        culprit = hypotheses.culprits[number] if number >= 0 else None
        if culprit is None or culprit.kind is not SuspectKind.CONTACT:
            continue
        if in_order:
            factor[at], strength[at] = _one_after_another(culprit, hypotheses.modes[at], tries)
            continue
        shown = [
            said
            for attempt in tries
            if (slots := culprit.where(attempt.arrangement)) and (said := _shows(attempt, slots[0], hypotheses.modes[at])) is not None
        ]
        bad, count = sum(shown), len(shown)
        if not bad:
            continue  # Never bad yet: nothing to count.
        chain = (1 - REPAIRED) ** (bad - 1) * (REPAIRED if bad < count else 1.0)
        factor[at] = chain / (POOR_CONTACT**bad * (1 - POOR_CONTACT) ** (count - bad))
        strength[at] = 1 - REPAIRED if bad == count else (1 - REPAIRED) * 0.1
    return factor, strength


def _one_after_another(culprit: Culprit, mode: Mode | None, tries: Sequence[Try]) -> tuple[float, float]:
    """Return the same for a contact where it is known which modules were handled, try after try.

    Bad from the first; each time its module is moved there or seated again it is put right with REPAIRED. While nobody
    touches it, it stays as it is: two states, followed forwards.
    """
    bad, whole, usual, touched, was_there = 1.0, 1.0, 1.0, False, False
    for attempt in tries:
        there = culprit.where(attempt.arrangement)
        if not there:
            touched = touched or was_there
            was_there = False
            continue
        letter = attempt.arrangement.module_in[there[0]]
        if touched or (was_there and letter in (attempt.reseated or ())):
            bad *= 1 - REPAIRED
        elif was_there and attempt.reseated is None:
            bad *= 1 - REPAIRED / 2  # Nobody said.
        touched, was_there = False, True
        said = _shows(attempt, there[0], mode)
        if said is None:
            continue
        # A longer memory test shows more often what shows in a pass now and then.
        passes = max((attempt.soak_minutes or PASS_MINUTES) / PASS_MINUTES, 0.3) if mode is Mode.SOAK else 1.0
        shows, expected_to = 1 - (1 - CONTACT_SHOWS) ** passes, 1 - (1 - POOR_CONTACT) ** passes
        chance = bad * (shows if said else 1 - shows) + (1 - bad) * (0.0 if said else 1.0)
        usual *= expected_to if said else 1 - expected_to
        whole *= max(chance, 1e-6)
        bad = bad * (shows if said else 1 - shows) / max(chance, 1e-6)
    return whole / usual, min(POOR_CONTACT, bad * (1 - REPAIRED))


def _shows(tried: Try, slot: str, mode: Mode | None) -> bool | None:
    """Return whether a try shows a fault of a mode at a slot; None where it could not tell."""
    if mode is Mode.START:
        return tried.started is Started.NO if tried.started is not None else False if tried.seen is not None else None
    if mode is Mode.SEEN:
        return slot not in tried.seen if tried.seen is not None else None
    return tried.soak is SoakSaid.ERRORS if tried.soak is not None else None


def _either(*chances: Array | float) -> Array:
    """Return the probability that at least one of independent causes acts."""
    left: Array | float = 1.0
    for chance in chances:
        left = left * (1 - np.asarray(chance))
    return np.asarray(1 - left)
