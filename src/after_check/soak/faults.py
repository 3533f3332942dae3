"""Functional fault models, and small simulated memories that have them.

The models are those of the literature: stuck-at, transition, address decoder, coupling, retention and disturb faults
after A. J. van de Goor, "Testing Semiconductor Memories" (1991), chapters 2 and 4; the disturb faults and linked
faults as fault primitives after S. Hamdioui, "Testing Static Random Access Memories" (2004). A fault here is a small
object that is between the test and the cells: it says what a write does and what a read returns.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from enum import StrEnum
from functools import partial
from itertools import permutations


class Model(StrEnum):
    """Fault models by their standard names."""

    SAF = "SAF"
    TF = "TF"
    AF = "AF"
    CFIN = "CFin"
    CFID = "CFid"
    CFST = "CFst"
    DRF = "DRF"
    RDF = "RDF"
    DRDF = "DRDF"
    IRF = "IRF"
    WDF = "WDF"
    LINKED_CFID = "linked CFid"
    LINKED_TF = "linked TF"

    @property
    def words(self) -> str:
        """The model in words."""
        return _WORDS[self]


_WORDS = {
    Model.SAF: "a cell is stuck at a value",
    Model.TF: "a cell cannot change in one direction",
    Model.AF: "an address reaches no cell, a wrong one or several",
    Model.CFIN: "a change of one cell inverts another",
    Model.CFID: "a change of one cell forces a value into another",
    Model.CFST: "a cell is forced to a value while another holds one",
    Model.DRF: "a cell loses its value in time",
    Model.RDF: "a read flips the cell and returns the flipped value",
    Model.DRDF: "a read flips the cell and returns the value from before",
    Model.IRF: "a read returns the wrong value, the cell keeps its own",
    Model.WDF: "writing the value that a cell holds flips it",
    Model.LINKED_CFID: "two coupling faults on one cell that may hide each other",
    Model.LINKED_TF: "a transition fault and a coupling fault on one cell that may hide each other",
}


@dataclass
class Memory:
    """A memory of one-bit cells with the rules of its faults. `cells` are the values, one int of 0 or 1 each."""

    cells: list[int]
    rules: tuple[Rule, ...] = ()

    def write(self, address: int, value: int) -> None:
        """Write through the address decoder."""
        for cell in self._reached(address):
            self._write_cell(cell, value)
        self._settle()

    def read(self, address: int) -> int:
        """Read through the address decoder; several cells at once give what the decoder's fault says."""
        reached = self._reached(address)
        decoder = next((rule for rule in self.rules if isinstance(rule, Decoder)), None)
        if not reached:
            return decoder.floating if decoder is not None else 0
        found = [self._read_cell(cell) for cell in reached]
        self._settle()
        return max(found) if decoder is not None and decoder.wired_or else min(found)

    def pause(self) -> None:
        """Let time pass."""
        for rule in self.rules:
            rule.after_pause(self)
        self._settle()

    def _reached(self, address: int) -> tuple[int, ...]:
        for rule in self.rules:
            if isinstance(rule, Decoder) and address in rule.reached:
                return rule.reached[address]
        return (address,)

    def _write_cell(self, cell: int, value: int) -> None:
        before = self.cells[cell]
        after = value
        for rule in self.rules:
            after = rule.written(cell, before, value, after)
        self.cells[cell] = after
        if before != after:
            for rule in self.rules:
                rule.changed(self, cell, before, after)

    def _read_cell(self, cell: int) -> int:
        returned = self.cells[cell]
        for rule in self.rules:
            returned = rule.was_read(self, cell, returned)
        return returned

    def _settle(self) -> None:
        for rule in self.rules:
            rule.settle(self)


class Rule:
    """What a fault does; a rule that does nothing is a sound memory."""

    def written(self, cell: int, before: int, value: int, after: int) -> int:
        """Return what the cell holds after `value` was written over `before`; `after` is what other rules made of it."""
        return after

    def changed(self, memory: Memory, cell: int, before: int, after: int) -> None:
        """A write changed a cell."""

    def was_read(self, memory: Memory, cell: int, returned: int) -> int:
        """Return what a read of the cell gives."""
        return returned

    def after_pause(self, memory: Memory) -> None:
        """Time passed."""

    def settle(self, memory: Memory) -> None:
        """An operation ended."""


@dataclass
class StuckAt(Rule):
    """SAF: the cell holds `value` whatever is written."""

    cell: int
    value: int

    def written(self, cell: int, before: int, value: int, after: int) -> int:
        """The cell stays."""
        return self.value if cell == self.cell else after

    def settle(self, memory: Memory) -> None:
        """The cell had its value from the beginning."""
        memory.cells[self.cell] = self.value

    def was_read(self, memory: Memory, cell: int, returned: int) -> int:
        """It reads as it is stuck."""
        return self.value if cell == self.cell else returned


@dataclass
class Transition(Rule):
    """TF: the cell cannot change from `before` to its inverse."""

    cell: int
    before: int

    def written(self, cell: int, before: int, value: int, after: int) -> int:
        """The change fails."""
        return before if cell == self.cell and before == self.before and value != before else after


@dataclass
class Decoder(Rule):
    """AF: addresses that reach other cells than their own; an address that reaches none reads as `floating`."""

    reached: dict[int, tuple[int, ...]]
    wired_or: bool
    floating: int


@dataclass
class Coupling(Rule):
    """CFin and CFid: a change of the aggressor from `before` inverts the victim, or forces `forced` into it."""

    aggressor: int
    victim: int
    before: int
    forced: int | None

    def changed(self, memory: Memory, cell: int, before: int, after: int) -> None:
        """The victim follows."""
        if cell == self.aggressor and before == self.before:
            memory.cells[self.victim] = 1 - memory.cells[self.victim] if self.forced is None else self.forced


@dataclass
class StateCoupling(Rule):
    """CFst: the victim is forced to a value while the aggressor holds `held`."""

    aggressor: int
    victim: int
    held: int
    forced: int

    def settle(self, memory: Memory) -> None:
        """Force it."""
        if memory.cells[self.aggressor] == self.held:
            memory.cells[self.victim] = self.forced


@dataclass
class Retention(Rule):
    """DRF: the cell loses `value` while time passes."""

    cell: int
    value: int

    def after_pause(self, memory: Memory) -> None:
        """The value is gone."""
        if memory.cells[self.cell] == self.value:
            memory.cells[self.cell] = 1 - self.value


@dataclass
class ReadFault(Rule):
    """RDF, DRDF and IRF: a read of a cell that holds `value` flips it, returns the wrong value, or both."""

    cell: int
    value: int
    flips: bool
    lies: bool

    def was_read(self, memory: Memory, cell: int, returned: int) -> int:
        """Disturb the read."""
        if cell != self.cell or memory.cells[cell] != self.value:
            return returned
        if self.flips:
            memory.cells[cell] = 1 - self.value
        return 1 - self.value if self.lies else self.value


@dataclass
class WriteDisturb(Rule):
    """WDF: writing `value` over the same value flips the cell."""

    cell: int
    value: int

    def written(self, cell: int, before: int, value: int, after: int) -> int:
        """The same value again flips."""
        return 1 - value if cell == self.cell and value == before == self.value else after


@dataclass(frozen=True)
class Fault:
    """One fault of a model: its description, and how a memory with it is made from first values."""

    model: Model
    words: str
    rules: Callable[[], tuple[Rule, ...]] = field(compare=False)

    def memory(self, first: tuple[int, ...]) -> Memory:
        """Return a memory that has this fault and holds these values at first."""
        memory = Memory(list(first), self.rules())
        memory._settle()
        return memory


def faults_of(model: Model, cells: int) -> Iterator[Fault]:
    """Yield every fault of a model in a memory of so many cells: every cell, every ordered pair, every kind."""
    yield from _MAKERS[model](cells)


def _fault(model: Model, words: str, *rules: Callable[[], Rule]) -> Fault:
    return Fault(model, words, lambda: tuple(make() for make in rules))


def _single(model: Model, make: Callable[[int, int], Rule]) -> Callable[[int], Iterator[Fault]]:
    def faults(cells: int) -> Iterator[Fault]:
        for cell in range(cells):
            for value in (0, 1):
                yield _fault(model, f"cell {cell}, {value}", partial(make, cell, value))

    return faults


def _address_faults(cells: int) -> Iterator[Fault]:
    """The four combinations of decoder faults (van de Goor 1991, section 2.3.2), wired-OR and wired-AND, floating low and high."""
    for one, other in permutations(range(cells), 2):
        kinds: dict[str, dict[int, tuple[int, ...]]] = {
            f"address {one} reaches no cell": {one: ()},
            f"address {one} reaches no cell, {other} reaches both": {one: (), other: (one, other)},
            f"address {one} reaches cell {other} only": {one: (other,)},
            f"address {one} reaches its own cell and {other}": {one: (one, other)},
        }
        for words, reached in kinds.items():
            for wired_or in (False, True):
                for floating in (0, 1):
                    yield _fault(Model.AF, words, partial(Decoder, reached, wired_or, floating))


def _inversions(cells: int) -> Iterator[Fault]:
    for aggressor, victim in permutations(range(cells), 2):
        for before in (0, 1):
            yield _fault(Model.CFIN, f"{aggressor} inverts {victim}", partial(Coupling, aggressor, victim, before, None))


def _idempotent(cells: int) -> Iterator[Fault]:
    for aggressor, victim in permutations(range(cells), 2):
        for before in (0, 1):
            for forced in (0, 1):
                words = f"a change of {aggressor} from {before} forces {forced} into {victim}"
                yield _fault(Model.CFID, words, partial(Coupling, aggressor, victim, before, forced))


def _states(cells: int) -> Iterator[Fault]:
    for aggressor, victim in permutations(range(cells), 2):
        for held in (0, 1):
            for forced in (0, 1):
                words = f"{victim} is {forced} while {aggressor} holds {held}"
                yield _fault(Model.CFST, words, partial(StateCoupling, aggressor, victim, held, forced))


def _linked_couplings(cells: int) -> Iterator[Fault]:
    """Two CFid with one victim and opposite effects, from one aggressor or from two."""
    for victim in range(cells):
        others = [cell for cell in range(cells) if cell != victim]
        for first in others:
            for second in others:
                for before_first in (0, 1):
                    for before_second in (0, 1):
                        if first == second and before_first == before_second:
                            continue  # The same change cannot force both values.
                        yield _fault(
                            Model.LINKED_CFID,
                            f"{first} from {before_first} forces 0 into {victim}, {second} from {before_second} forces 1",
                            partial(Coupling, first, victim, before_first, 0),
                            partial(Coupling, second, victim, before_second, 1),
                        )


def _linked_transitions(cells: int) -> Iterator[Fault]:
    """A TF whose failed change a CFid may bring about all the same."""
    for aggressor, victim in permutations(range(cells), 2):
        for stays in (0, 1):
            for before in (0, 1):
                yield _fault(
                    Model.LINKED_TF,
                    f"{victim} cannot leave {stays}, and a change of {aggressor} from {before} forces {1 - stays} into it",
                    partial(Transition, victim, stays),
                    partial(Coupling, aggressor, victim, before, 1 - stays),
                )


_MAKERS: dict[Model, Callable[[int], Iterator[Fault]]] = {
    Model.SAF: _single(Model.SAF, StuckAt),
    Model.TF: _single(Model.TF, Transition),
    Model.AF: _address_faults,
    Model.CFIN: _inversions,
    Model.CFID: _idempotent,
    Model.CFST: _states,
    Model.DRF: _single(Model.DRF, Retention),
    Model.RDF: _single(Model.RDF, lambda cell, value: ReadFault(cell, value, flips=True, lies=True)),
    Model.DRDF: _single(Model.DRDF, lambda cell, value: ReadFault(cell, value, flips=True, lies=False)),
    Model.IRF: _single(Model.IRF, lambda cell, value: ReadFault(cell, value, flips=False, lies=True)),
    Model.WDF: _single(Model.WDF, WriteDisturb),
    Model.LINKED_CFID: _linked_couplings,
    Model.LINKED_TF: _linked_transitions,
}
