"""Which fault models a march program finds: by running it on every small memory that has such a fault.

A fault is found when the program reads a wrong value whatever the cells held at first and whichever order an element
for either order is run in. A model is found fully when every one of its faults is, in part when some are.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import product

from after_check.soak.faults import Fault, Memory, Model, faults_of
from after_check.soak.march import MarchProgram, Order

CELLS = 3
"""Enough for every order of aggressors and victim: no model here involves more than three cells."""


class Found(StrEnum):
    """How much of a fault model a program finds."""

    FULLY = "fully"
    PARTLY = "in part"
    NOT = "not"


@dataclass(frozen=True, slots=True)
class ModelCoverage:
    """How many of a model's faults a program finds, and one that it misses."""

    model: Model
    found: int
    total: int
    missed: str = ""

    @property
    def verdict(self) -> Found:
        """Fully, in part or not."""
        return Found.FULLY if self.found == self.total else Found.PARTLY if self.found else Found.NOT


def interpret(program: MarchProgram, memory: Memory, either: Order = Order.UP, background: Sequence[int] = ()) -> int | None:
    """Run a program on a simulated memory; return how many reads were made when the first was wrong, None where none was.

    `background` has the bit of each cell that stands for the program's 0; left out, that is 0.

    The plain reference for the kernels: one cell, one operation at a time.
    """
    reads = 0
    for element in program.elements:
        if element.is_pause:
            memory.pause()
            continue
        order = either if element.order is Order.EITHER else element.order
        addresses = range(len(memory.cells)) if order is Order.UP else range(len(memory.cells) - 1, -1, -1)
        for address in addresses:
            zero = background[address] if background else 0
            for operation in element.operations:
                if not operation.is_read:
                    memory.write(address, operation.value ^ zero)
                    continue
                reads += 1
                if memory.read(address) != operation.value ^ zero:
                    return reads
    return None


def finds(program: MarchProgram, fault: Fault, cells: int = CELLS) -> bool:
    """Whether a program finds a fault for certain."""
    return all(
        interpret(program, fault.memory(first), either) is not None
        for first in product((0, 1), repeat=cells)
        for either in (Order.UP, Order.DOWN)
    )


def coverage_of(program: MarchProgram, models: Iterable[Model] = Model, cells: int = CELLS) -> tuple[ModelCoverage, ...]:
    """Return what a program finds of each model, by exhaustive simulation on a memory of so many cells."""
    found: list[ModelCoverage] = []
    for model in models:
        faults = list(faults_of(model, cells))
        missed = [fault for fault in faults if not finds(program, fault, cells)]
        found.append(ModelCoverage(model, len(faults) - len(missed), len(faults), missed[0].words if missed else ""))
    return tuple(found)
