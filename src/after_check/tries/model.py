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

STEADY, COMES_AND_GOES, POOR_CONTACT = 0.95, 0.5, 0.6
"""How often a fault that is there shows: a steady one, one that comes and goes, and a bad contact before it is counted (`contacts`)."""
MENDED = 0.7
"""How often seating a module again fixes a bad contact, which then stays good."""
STEADY_SHARE = 0.75
NO_START, NOT_SEEN, SOAK_ERRORS, OFF_UNDER_LOAD = 0.01, 0.01, 0.005, 0.01
"""How often each happens for no reason that is looked for here."""
CYCLES_OF_GOOD, CYCLES_OF_BAD = 0.05, 0.15
"""How often a sound start comes after power cycles, and how often a fault that hinders the start lets one through that way."""
HEAT_OFF, HEAT_ERRORS, HEAT_NO_START = 0.8, 0.25, 0.1
AT_CULPRIT, ELSEWHERE, ANYWHERE = 0.95, 0.03, 0.5
"""Given errors in a soak, how often they are put at the culprit's slot, at another one, and at any one for a fault without a place."""
PLACELESS = (SuspectKind.TOTAL, SuspectKind.PROFILE, SuspectKind.MACHINE, SuspectKind.OUTSIDE)
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


def hypotheses_of(culprits: Sequence[Culprit]) -> Hypotheses:
    """Return every way in which every culprit could show, and nothing."""
    index, modes, strength, prior = [-1], [None], [0.0], [NOTHING_PRIOR]
    kept: list[Mode | None] = list(modes)
    for number, culprit in enumerate(culprits):
        for mode, share in MODES[culprit.kind].items():
            strengths = (
                ((POOR_CONTACT, 1.0),)
                if culprit.kind is SuspectKind.CONTACT
                else ((STEADY, STEADY_SHARE), (COMES_AND_GOES, 1 - STEADY_SHARE))
            )
            for value, part in strengths:
                index.append(number)
                kept.append(mode)
                strength.append(value)
                prior.append(culprit.prior * share * part)
    return Hypotheses(tuple(culprits), np.array(index), tuple(kept), np.array(strength), np.array(prior))


def expected(hypotheses: Hypotheses, arrangements: Sequence[Arrangement], slots: Sequence[str]) -> Expected:
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

    def of(chosen: Mode) -> Array:
        return np.where(at_work & (mode == chosen.value), hypotheses.strength, 0.0)

    heat = at_work & (mode == Mode.HEAT.value)
    # A fault without a place, or of two modules together, does not hide every module that it could: each about every other time.
    hidden = of(Mode.SEEN)[:, :, None] * where * np.where(placeless | mixed, 0.6, 1.0)[None, :, None]
    named = np.where((placeless[None, :] | ~at_work)[:, :, None], ANYWHERE * filled, np.where(where > 0, AT_CULPRIT, ELSEWHERE * filled))
    return Expected(
        no_start=_either(NO_START, of(Mode.START), np.where(heat, HEAT_NO_START, 0.0)),
        unseen=_either(NOT_SEEN * filled, hidden),
        errors=_either(SOAK_ERRORS, of(Mode.SOAK), np.where(heat, HEAT_ERRORS, 0.0)),
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


def likelihood(found: Expected, tried: Try, slots: Sequence[str]) -> Array:
    """Return the probability of what happened in one try, under each hypothesis; `found` expects of its arrangement alone."""
    row = 0
    hindered = found.no_start[row]
    value: Array = np.ones_like(hindered)
    started = tried.started
    if started is None and (tried.seen is not None or tried.soak is not None):
        started = Started.YES
    if started is Started.NO:
        return np.asarray(value * hindered * (1 - CYCLES_OF_BAD))
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
        value = value * found.errors[row]
        if tried.errors_in:
            for number, slot in enumerate(slots):
                if slot in filled:
                    named = found.errors_at[row, :, number]
                    value = value * (named if slot in tried.errors_in else 1 - named)
    if tried.off_under_load is not None:
        value = value * (found.off[row] if tried.off_under_load else 1 - found.off[row])
    return value


def contacts(hypotheses: Hypotheses, tries: Sequence[Try]) -> tuple[Array, Array]:
    """Return for every hypothesis of a bad contact what corrects its likelihood, and how often it would show the next time.

    A contact that was bad and is seated again is put right with MENDED and stays so. Bad in k of n tries that could show
    it has then the chance 0.3^(k-1) * 0.7 (k < n) or 0.3^(n-1) (k = n), whatever the order in which they are listed;
    that takes the place of n independent chances of POOR_CONTACT. Other hypotheses are left as they are.
    """
    factor, strength = np.ones(len(hypotheses.strength)), hypotheses.strength.copy()
    for at, number in enumerate(hypotheses.culprit):
        culprit = hypotheses.culprits[number] if number >= 0 else None
        if culprit is None or culprit.kind is not SuspectKind.CONTACT:
            continue
        shown = [
            said
            for attempt in tries
            if (slots := culprit.where(attempt.arrangement)) and (said := _shows(attempt, slots[0], hypotheses.modes[at])) is not None
        ]
        bad, count = sum(shown), len(shown)
        if not bad:
            continue  # Never bad yet: nothing to count.
        chain = (1 - MENDED) ** (bad - 1) * (MENDED if bad < count else 1.0)
        factor[at] = chain / (POOR_CONTACT**bad * (1 - POOR_CONTACT) ** (count - bad))
        strength[at] = 1 - MENDED if bad == count else (1 - MENDED) * 0.1
    return factor, strength


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
