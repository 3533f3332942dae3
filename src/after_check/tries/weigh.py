"""From a log of tries to suspects with weights: Bayes' rule over single faults, and over pairs where no single one explains the log."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from after_check.domain.cards import Card
from after_check.domain.tries import Arrangement, Suspect, TryLog
from after_check.tries.model import Array, Expected, Hypotheses, contacts, expected, hypotheses_of, joined, likelihood
from after_check.tries.suspects import Culprit, culprits_of
from after_check.tries.words import outcome_words

SETTLED = 0.94
"""A suspect this likely is clear enough."""
UNEXPLAINED = 0.04
"""A try that the best single fault makes this unlikely is not explained by it: then two faults at once are weighed too."""
TWO_FAULTS_SHARE = 0.05
"""How much less likely than one fault a second one at the same time is."""
_MOST_FOR_PAIRS = 260
_MOST_FOR_PROPOSALS = 1500
_LEAST_SHOWN = 0.005


@dataclass(frozen=True)
class Weighed:
    """The hypotheses with their weights after the tries; `second` is the index of a second fault, -1 for none."""

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
        return found

    def expected_of(
        self, arrangements: Sequence[Arrangement], slots: Sequence[str], least: float = 0.0
    ) -> tuple[Expected, Array, NDArray[np.int64]]:
        """Return what the hypotheses above a least weight expect of arrangements, their weights, and a number for whom they blame."""
        chosen = np.argsort(-self.weight, kind="stable")[:_MOST_FOR_PROPOSALS]
        chosen = chosen[self.weight[chosen] > least]
        paired = self.second[chosen] >= 0
        first, second = self.first[chosen], np.where(paired, self.second[chosen], 0)  # Index 0: nothing is wrong.
        group = self.hypotheses.culprit[first] * (len(self.culprits) + 1) + np.where(paired, self.hypotheses.culprit[second], -1)
        used, place = np.unique(np.concatenate([first, second]), return_inverse=True)
        found = expected(self.hypotheses.only(used), arrangements, slots)
        ones, others = place[: len(chosen)], place[len(chosen) :]
        return joined(found, ones, others) if paired.any() else found.only(ones), self.weight[chosen], group


def weigh(log: TryLog, card: Card | None = None) -> Weighed:
    """Weigh every hypothesis after all tries; the order of the tries does not matter."""
    hypotheses = hypotheses_of(culprits_of(log, card))
    slots = slots_of(log)
    # Row by row: a long log of a large board would else fill the memory with what each try expects.
    rows = [expected(hypotheses, [attempt.arrangement], slots) for attempt in log.tries]
    chances = np.array([likelihood(row, attempt, slots) for row, attempt in zip(rows, log.tries, strict=True)])
    first = np.arange(len(hypotheses.prior))
    second = np.full(len(first), -1)
    factor, strength = contacts(hypotheses, log.tries)
    weight = hypotheses.prior * factor * chances.prod(axis=0)
    best = int(np.argmax(weight))
    if (chances[:, best] < UNEXPLAINED).any():
        ones, others = _pairs(hypotheses, chances)
        both = np.array([likelihood(joined(row, ones, others), attempt, slots) for row, attempt in zip(rows, log.tries, strict=True)])
        share = TWO_FAULTS_SHARE / hypotheses.prior.sum()
        first, second = np.concatenate([first, ones]), np.concatenate([second, others])
        weight = np.concatenate(
            [weight, (hypotheses.prior * factor)[ones] * (hypotheses.prior * factor)[others] * share * both.prod(axis=0)]
        )
        chances = np.concatenate([chances, both], axis=1)
    return Weighed(replace(hypotheses, strength=strength), first, second, weight / weight.sum(), chances)


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
        strangers = [slot for slot in tried.seen or () if slot not in tried.arrangement.module_in]
        if strangers:
            found.append(f"try {at}: {', '.join(strangers)} was reported filled, and nothing was fitted there")
    for (at, tried), (later, other) in itertools.combinations(enumerate(log.tries, 1), 2):
        if tried.arrangement == other.arrangement and ((tried.failed and other.worked) or (tried.worked and other.failed)):
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
