"""From a log of tries to suspects with weights: Bayes' rule over single faults, and over pairs where no single one explains the log."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from after_check.domain.cards import Card
from after_check.domain.tries import Arrangement, Suspect, SuspectKind, TryLog
from after_check.tries.elsewhere import elsewhere_factor
from after_check.tries.error_places import evidence
from after_check.tries.model import (
    CONTACT_SHOWS,
    NOT_SEEN,
    OUT_OF_ORDER,
    OUT_OF_ORDER_OF_SHEET,
    PASS_MINUTES,
    REPAIRED,
    USUAL_LONGEST_SECONDS,
    Array,
    Expected,
    Hypotheses,
    TryConditions,
    contacts,
    expected,
    hypotheses_of,
    joined,
    likelihood,
)
from after_check.tries.starts import one_by_one
from after_check.tries.suspects import Culprit, Mode, culprits_of
from after_check.tries.try_words import outcome_words

SETTLED = 0.94
"""A suspect this likely is clear enough."""
SETTLED_AFTER = ((8, 0.9), (13, 0.85), (17, 0.65))
"""After so many tries this much is: who has tried so often wants the likeliest answer, and is told how sure it is."""
UNEXPLAINED = 0.04
"""A try that the best single fault makes this unlikely is not explained by it: then two faults at once are weighed too."""
TWO_FAULTS_SHARE = 0.05
"""How much less likely than one fault a second one at the same time is."""
CAME_AGAIN = 0.15
"""What came once, and then once more, did not come once: how much less likely each further failure makes it."""
_MOST_FOR_PAIRS = 260
_MOST_FOR_PROPOSALS = 1500
_LEAST_SHOWN = 0.005
_USUALLY, _NOTHING_FITTED = TryConditions(), Arrangement()


@dataclass(frozen=True)
class Weighed:
    """The hypotheses with their weights after the tries; `second` is the index of a second fault, -1 for none.

    `chances` has a row for each try: of its starts the one that is explained worst.
    """

    hypotheses: Hypotheses
    first: NDArray[np.int64]
    second: NDArray[np.int64]
    weight: Array
    chances: Array

    @property
    def culprits(self) -> tuple[Culprit, ...]:
        """Whom the hypotheses blame."""
        return self.hypotheses.culprits

    @property
    def has_pairs(self) -> bool:
        """Whether two faults at once are the likelier explanation."""
        return bool(self.weight[self.second >= 0].sum() > 0.5)

    def by_culprit(self) -> Array:
        """Return the weight of each culprit, alone or with another."""
        found = np.zeros(len(self.culprits))
        for indices in (self.first, self.second):
            known = indices >= 0
            blamed = self.hypotheses.culprit[np.where(known, indices, 0)]
            chosen = known & (blamed >= 0)
            np.add.at(found, blamed[chosen], self.weight[chosen])
        # That nothing is wrong at all, and that something was once, are the same by now.
        nothing = [number for number, culprit in enumerate(self.culprits) if culprit.kind is SuspectKind.NOTHING]
        if nothing:
            alone = (self.second < 0) & (self.hypotheses.culprit[np.maximum(self.first, 0)] < 0)
            found[nothing[0]] += float(self.weight[alone].sum())
        return found

    def expected_of(
        self,
        arrangements: Sequence[Arrangement],
        slots: Sequence[str],
        least: float = 0.0,
        conditions: TryConditions = _USUALLY,
        last: Arrangement = _NOTHING_FITTED,
    ) -> tuple[Expected, Array, NDArray[np.int64]]:
        """Return what the hypotheses above a least weight expect of arrangements, their weights, and a number for whom they blame."""
        chosen = np.argsort(-self.weight, kind="stable")[:_MOST_FOR_PROPOSALS]
        chosen = chosen[self.weight[chosen] > least]
        paired = self.second[chosen] >= 0
        first, second = self.first[chosen], np.where(paired, self.second[chosen], 0)  # Index 0: nothing is wrong.
        group = self.hypotheses.culprit[first] * (len(self.culprits) + 1) + np.where(paired, self.hypotheses.culprit[second], -1)
        used, place = np.unique(np.concatenate([first, second]), return_inverse=True)
        found = expected(self.hypotheses.only(used), arrangements, slots, conditions)
        _untouched(found, self.hypotheses.only(used), arrangements, last)
        ones, others = place[: len(chosen)], place[len(chosen) :]
        return joined(found, ones, others) if paired.any() else found.only(ones), self.weight[chosen], group


def _untouched(found: Expected, hypotheses: Hypotheses, arrangements: Sequence[Arrangement], last: Arrangement) -> None:
    """A poor contact is repaired only where its module is handled: seated again, or moved there."""
    slots = {slot for one in arrangements for slot, _ in one.fitted}
    if not slots:
        return
    for at, number in enumerate(hypotheses.culprit):
        if number < 0 or hypotheses.culprits[number].kind is not SuspectKind.CONTACT:
            continue
        for row, arrangement in enumerate(arrangements):
            there = hypotheses.culprits[number].where(arrangement)
            stays = bool(there) and bool(hypotheses.culprits[number].where(last)) and arrangement.fitted != last.fitted
            if stays:
                share = hypotheses.strength[at] / (1 - REPAIRED)
                mode = hypotheses.modes[at]
                for part, own in ((found.no_start, Mode.START), (found.errors, Mode.SOAK)):
                    if mode is own:
                        part[row, at] = max(part[row, at], min(CONTACT_SHOWS, share))
                if mode is Mode.SEEN:
                    hidden = found.unseen[row, at]
                    found.unseen[row, at] = np.where(hidden > NOT_SEEN * 1.5, np.maximum(hidden, min(CONTACT_SHOWS, share)), hidden)


def weigh(log: TryLog, card: Card | None = None) -> Weighed:
    """Weigh every hypothesis after all tries; the order of the tries does not matter."""
    hypotheses = hypotheses_of(culprits_of(log, card))
    slots = slots_of(log)
    longest = float(card.longest_start_seconds or USUAL_LONGEST_SECONDS) if card is not None else USUAL_LONGEST_SECONDS
    starts, tried_in = one_by_one(log.tries)
    # Row by row: a long log of a large board would else fill the memory with what each try expects.
    rows = [
        expected(hypotheses, [attempt.arrangement], slots, conditions_of(log, card, attempt.soak_minutes or PASS_MINUTES))
        for attempt in log.tries
    ]
    for place, row in enumerate(rows):
        if any(before.put_right for before in log.tries[: place + 1]):
            _put_right(row, hypotheses)
    chances = np.array([likelihood(rows[at], start, slots, longest) for at, start in zip(tried_in, starts, strict=True)])
    first = np.arange(len(hypotheses.prior))
    second = np.full(len(first), -1)
    factor, strength = contacts(hypotheses, starts)
    factor = factor * evidence(hypotheses, log.tries) * elsewhere_factor(hypotheses, log.modules)
    factor[_of_kind(hypotheses, SuspectKind.NOTHING)] *= CAME_AGAIN ** max(0, sum(start.failed for start in starts) - 1)
    weight = hypotheses.prior * factor * chances.prod(axis=0)
    best = int(np.argmax(weight))
    if (chances[:, best] < UNEXPLAINED).any():
        ones, others = _pairs(hypotheses, chances)
        both = np.array(
            [likelihood(joined(rows[at], ones, others), start, slots, longest) for at, start in zip(tried_in, starts, strict=True)]
        )
        share = TWO_FAULTS_SHARE / hypotheses.prior.sum()
        first, second = np.concatenate([first, ones]), np.concatenate([second, others])
        weight = np.concatenate(
            [weight, (hypotheses.prior * factor)[ones] * (hypotheses.prior * factor)[others] * share * both.prod(axis=0)]
        )
        chances = np.concatenate([chances, both], axis=1)
    first_starts = np.flatnonzero(np.diff(np.array(tried_in), prepend=-1))
    chances = np.minimum.reduceat(chances, first_starts, axis=0)
    return Weighed(replace(hypotheses, strength=strength), first, second, weight / weight.sum(), chances)


def _of_kind(hypotheses: Hypotheses, kind: SuspectKind) -> NDArray[np.bool_]:
    return np.array([number >= 0 and hypotheses.culprits[number].kind is kind for number in hypotheses.culprit])


def settled_at(log: TryLog) -> float:
    """Return how likely a suspect has to be to be clear enough, after so many tries."""
    return next((least for count, least in reversed(SETTLED_AFTER) if len(log.tries) >= count), SETTLED)


def is_settled(log: TryLog, suspects: Sequence[Suspect], weighed: Weighed) -> bool:
    """Return whether the first suspect is clear enough, or both are where two faults are likelier than one."""
    needed = 2 if weighed.has_pairs else 1
    return len(suspects) >= needed and all(suspect.weight >= settled_at(log) for suspect in suspects[:needed])


def conditions_of(log: TryLog, card: Card | None, soak_minutes: float = PASS_MINUTES) -> TryConditions:
    """Return under what a try on this board is made."""
    sheet = log.order or (tuple(slot.name for slot in card.slots) if card is not None else ())
    slots = slots_of(log)
    if len(slots) < 2 or not (sheet or log.slots):
        return TryConditions(soak_minutes)
    first = next((slot for name in sheet[:1] for slot in slots if slot.casefold() == name.casefold()), "") or slots[0]
    return TryConditions(soak_minutes, first, OUT_OF_ORDER_OF_SHEET if sheet else OUT_OF_ORDER)


def _put_right(row: Expected, hypotheses: Hypotheses) -> None:
    """A cause outside memory that was put right is at work no longer: what it expects is what nothing would."""
    gone = _of_kind(hypotheses, SuspectKind.OUTSIDE)
    for part in (row.no_start, row.unseen, row.errors, row.errors_at, row.off):
        part[:, gone] = part[:, :1]  # The first hypothesis is that nothing is wrong.


def suspects_from(weighed: Weighed) -> tuple[Suspect, ...]:
    """Return the suspects by weight; what is below half a per cent is left out."""
    weights = weighed.by_culprit()
    order = np.argsort(-weights, kind="stable")
    return tuple(
        Suspect(weighed.culprits[number].kind, weighed.culprits[number].name, round(float(weights[number]), 4))
        for number in order
        if weights[number] >= _LEAST_SHOWN
    )


def slots_of(log: TryLog) -> tuple[str, ...]:
    """Return the board's slots: those that were given, then those that only tries name."""
    used = (slot for attempt in log.tries for slot, _ in attempt.arrangement.fitted)
    return tuple(dict.fromkeys((*log.slots, *used)))


def contradictions(log: TryLog, weighed: Weighed) -> tuple[str, ...]:
    """Return, in sentences, which tries the best explanation does not explain, and which tries contradict each other."""
    found: list[str] = []
    best = int(np.argmax(weighed.weight))
    number = int(weighed.hypotheses.culprit[weighed.first[best]])
    said = Suspect(weighed.culprits[number].kind, weighed.culprits[number].name, 0).words if number >= 0 else "that nothing is wrong"
    for at, (tried, chance) in enumerate(zip(log.tries, weighed.chances[:, best], strict=True), 1):
        if chance < UNEXPLAINED:
            found.append(f"try {at} ({outcome_words(tried)}) does not fit {said}")
        if tried.starts_failed and tried.starts_failed < (tried.starts or 0):
            found.append(f"try {at}: {tried.starts_failed} of {tried.starts} starts failed with nothing touched: something comes and goes")
        strangers = [slot for slot in tried.seen or () if slot not in tried.arrangement.module_in]
        if strangers:
            found.append(f"try {at}: {', '.join(strangers)} was reported filled, and nothing was fitted there")
    for (at, tried), (later, other) in itertools.combinations(enumerate(log.tries, 1), 2):
        repaired = any(between.put_right or between.reseated for between in log.tries[at:later])
        apart = (tried.failed and other.worked and not repaired) or (tried.worked and other.failed)
        if tried.arrangement == other.arrangement and apart:
            found.append(f"tries {at} and {later} are the same arrangement and ended differently: something comes and goes")
    return tuple(found)


def _pairs(hypotheses: Hypotheses, chances: Array) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return pairs of hypotheses about two different culprits, of those that alone explain the most tries."""
    explains = np.where(chances > UNEXPLAINED, 0.0, -1.0).sum(axis=0) + np.log(hypotheses.prior + 1e-9) * 0.01
    candidates = np.flatnonzero(hypotheses.culprit >= 0)
    candidates = candidates[np.argsort(-explains[candidates], kind="stable")][:_MOST_FOR_PAIRS]
    ones, others = np.triu_indices(len(candidates), 1)
    first, second = candidates[ones], candidates[others]
    apart = hypotheses.culprit[first] != hypotheses.culprit[second]
    return first[apart], second[apart]
