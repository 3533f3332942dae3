"""How much of each kind of fault a test has looked for so far, by simulation: the share that would have shown.

Every fault of a model in two cells that lie in different words is simulated under every program, with the bits that the
background puts into the two cells, whatever they held at first and in either order (`coverage.py`). A background is known by how often each
bit of a word holds a one, in even and in odd words; where that is chance, so is what is found, and each step takes the chance again. Pairs
of bits of one word are counted apart: seen equal, and seen different (van de Goor and Tlili, DATE 1998). Faults of an
address change a whole word: one bit that tells is enough.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from functools import lru_cache
from itertools import product

import numpy as np
from numpy.typing import NDArray

from after_check.domain.soak import LookedFor
from after_check.soak import backgrounds
from after_check.soak.backgrounds import Background
from after_check.soak.coverage import interpret
from after_check.soak.faults import Model, faults_of
from after_check.soak.march import MarchProgram, Order
from after_check.soak.plans import Step

WORD_BITS = 64
_ADDRESS_BITS = range(3, 33)
"""The bits of a word's own address that differ from word to word in a few gigabytes."""

Floats = NDArray[np.float64]


_MODELS = {
    LookedFor.STUCK: (Model.SAF,),
    LookedFor.CHANGE: (Model.TF,),
    LookedFor.ADDRESS: (Model.AF,),
    LookedFor.COUPLED: (Model.CFIN, Model.CFID, Model.CFST),
    LookedFor.READ: (Model.RDF, Model.DRDF, Model.IRF),
    LookedFor.WRITTEN: (Model.WDF,),
    LookedFor.TIME: (Model.DRF,),
    LookedFor.HIDDEN: (Model.LINKED_CFID, Model.LINKED_TF),
}
_FIRST: tuple[tuple[int, int], ...] = ((0, 0), (0, 1), (1, 0), (1, 1))


class Shares:
    """What the steps of a test have looked for so far. Cheap to copy: a plan is chosen by trying what a step would add."""

    def __init__(self, steps: Iterable[Step] = ()) -> None:
        self._missed: dict[Model, Floats] = {}
        self._pairs = (np.ones((WORD_BITS, WORD_BITS)), np.ones((WORD_BITS, WORD_BITS)))
        for step in steps:
            self.add(step)

    def with_step(self, step: Step) -> Shares:
        """Return the shares with one step more."""
        new = Shares()
        new._missed, new._pairs = dict(self._missed), self._pairs
        new.add(step)
        return new

    def add(self, step: Step) -> None:
        """Count a step that was done. Block moves and repeated rows look for nothing that has a model here."""
        if step.program is None:
            return
        ones = _ones(step.background)
        for model in (model for models in _MODELS.values() for model in models):
            found = _found(step.program, model)
            missed = 1 - (_any_bit(found, step.background) if model is Model.AF else _by_bits(found, ones))
            self._missed[model] = self._missed[model] * missed if model in self._missed else missed
        if {(operation.is_read, operation.value) for element in step.program.elements for operation in element.operations} >= {
            (True, 0),
            (True, 1),
        }:
            one, other = ones[:, 0][:, None], ones[:, 0][None, :]
            equal = one * other + (1 - one) * (1 - other)
            self._pairs = (self._pairs[0] * (1 - equal), self._pairs[1] * equal)

    def of(self, kind: LookedFor) -> float:
        """Return the share of a kind that would have shown, from 0 to 1."""
        if kind is LookedFor.PAIRS:
            apart = ~np.eye(WORD_BITS, dtype=bool)
            return 1 - float((self._pairs[0][apart].mean() + self._pairs[1][apart].mean()) / 2)
        models = _MODELS[kind]
        return sum(1 - float(self._missed[model].mean()) for model in models if model in self._missed) / len(models)

    @property
    def all(self) -> tuple[float, ...]:
        """Return the share of each kind, in the order of `LookedFor`."""
        return tuple(round(self.of(kind), 4) for kind in LookedFor)


def by_steps(steps: Iterable[Step]) -> Iterator[tuple[float, ...]]:
    """Yield the share of each kind after each of the steps."""
    shares = Shares()
    for step in steps:
        shares.add(step)
        yield shares.all


@lru_cache(maxsize=512)
def _found(program: MarchProgram, model: Model) -> Floats:
    """Return which faults of a model in two cells a program finds for certain: faults by 2 by 2 bits of the background, 0 or 1."""
    faults = list(faults_of(model, 2))
    found = np.zeros((len(faults), 2, 2))
    for number, fault in enumerate(faults):
        for bits in _FIRST:
            found[number][bits] = all(
                interpret(program, fault.memory(first), either, bits) is not None for first in _FIRST for either in (Order.UP, Order.DOWN)
            )
    return found


@lru_cache(maxsize=128)
def _ones(background: Background) -> Floats:
    """Return how often each bit of a word is one in a background: 64 bits by even and odd words."""
    ones = np.full((WORD_BITS, 2), 0.5)
    if background.kind == backgrounds.CONSTANT:
        for parity in (0, 1):
            word = background.word(parity)
            ones[:, parity] = [word >> bit & 1 for bit in range(WORD_BITS)]
    elif background.kind == backgrounds.WALKING:
        ones[:] = 1 / WORD_BITS
    elif background.kind == backgrounds.ADDRESS:
        ones[[bit for bit in range(WORD_BITS) if bit not in _ADDRESS_BITS]] = 0.0
    return ones


def _by_bits(found: Floats, ones: Floats) -> Floats:
    """Return the share of cases in which each fault is found: faults by the first cell's place by the second's, of 128 each."""
    at = ones.reshape(-1)
    held = np.stack([1 - at, at])
    shares: Floats = np.einsum("fab,ai,bj->fij", found, held, held, optimize=True)
    return shares


def _any_bit(found: Floats, background: Background) -> Floats:
    """Return the share of pairs of words in which some bit finds each fault of an address: faults by parities of two words."""
    shares = np.zeros((len(found), 2, 2))
    for first, second in product((0, 1), repeat=2):
        if background.kind == backgrounds.CONSTANT:
            one, other = background.word(first), background.word(second)
            seen = {(one >> bit & 1, other >> bit & 1) for bit in range(WORD_BITS)}
        else:
            # Two words differ somewhere, and agree somewhere; which of them holds the one is as often this as that.
            seen = {(0, 0), (0, 1)} if background.kind == backgrounds.ADDRESS else set(_FIRST)
        shares[:, first, second] = np.max([found[:, a, b] for a, b in seen], axis=0)
        if background.kind == backgrounds.ADDRESS:
            swapped = np.max([found[:, 0, 0], found[:, 1, 0]], axis=0)
            shares[:, first, second] = (shares[:, first, second] + swapped) / 2
    return shares
