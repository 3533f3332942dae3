"""March programs in the notation of the literature.

`{⇕(w0); ⇑(r0,w1); ⇓(r1,w0)}`: elements of operations that are done to each cell in turn, upwards, downwards or in
either order. `Del` between elements is a pause in which cells may lose what they hold. The notation and the programs
follow A. J. van de Goor, "Testing Semiconductor Memories: Theory and Practice" (1991) and "Using March Tests to
Test SRAMs" (IEEE Design & Test, 1993); March LR after van de Goor, Gaydadjiev, Mikitjuk and Yarmolik, "March LR: A
Test for Realistic Linked Faults" (VTS 1996); March SS after Hamdioui, van de Goor and Rodgers, "March SS: A Test for
All Static Simple RAM Faults" (MTDT 2002).
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum

from after_check.domain.errors import AfterCheckError


class Order(StrEnum):
    """The order in which an element goes through the addresses."""

    UP = "⇑"
    DOWN = "⇓"
    EITHER = "⇕"


@dataclass(frozen=True, slots=True)
class Operation:
    """A read that expects a value, or a write of one; `value` is 0 for the data background, 1 for its inverse."""

    is_read: bool
    value: int

    def __str__(self) -> str:
        return f"{'r' if self.is_read else 'w'}{self.value}"


@dataclass(frozen=True, slots=True)
class Element:
    """Operations done to each cell in turn; without operations it is a pause (`Del`)."""

    order: Order
    operations: tuple[Operation, ...]
    pause_seconds: float | None = None

    @property
    def is_pause(self) -> bool:
        """Whether nothing is done but waiting."""
        return not self.operations

    def __str__(self) -> str:
        if self.is_pause:
            return "Del" if self.pause_seconds is None else f"Del {self.pause_seconds:g}s"
        return f"{self.order.value}({','.join(str(operation) for operation in self.operations)})"


@dataclass(frozen=True, slots=True)
class MarchProgram:
    """A march program by its name in the literature, or `typed`."""

    name: str
    elements: tuple[Element, ...]

    @property
    def length(self) -> int:
        """Operations for each cell: the n of "a 10n test"."""
        return sum(len(element.operations) for element in self.elements)

    @property
    def reads(self) -> int:
        """Reads of each cell."""
        return sum(operation.is_read for element in self.elements for operation in element.operations)

    def __str__(self) -> str:
        return "{" + "; ".join(str(element) for element in self.elements) + "}"


class MarchError(AfterCheckError, ValueError):
    """A line that is no march program: what is wrong, at which place (from 0), and what would do."""

    def __init__(self, message: str, position: int, help: str = "") -> None:
        super().__init__(f"{message}, at place {position + 1}" + (f" ({help})" if help else ""))
        self.message = message
        self.position = position
        self.help = help


_ORDERS = {
    **dict.fromkeys(("⇑", "↑", "^", "up"), Order.UP),
    **dict.fromkeys(("⇓", "↓", "v", "down"), Order.DOWN),
    **dict.fromkeys(("⇕", "↕", "any", "either"), Order.EITHER),
}
_PART = re.compile(r"\s*(?P<order>⇑|↑|\^|up|⇓|↓|v|down|⇕|↕|any|either)\s*\((?P<operations>[^()]*)\)\s*\Z", re.IGNORECASE)
_PAUSE = re.compile(r"\s*del(?:ay)?(?:\s*(?P<seconds>\d{1,5}(?:\.\d{1,3})?)\s*s?)?\s*\Z", re.IGNORECASE)
_OPERATION = re.compile(r"\s*([rw])([01])\s*\Z", re.IGNORECASE)
_LONGEST = 2000
_MOST_OPERATIONS = 200


def parse_march(text: str, name: str = "typed") -> MarchProgram:
    """Read a march program and check that every read expects what was written last. Raises MarchError.

    `^`, `v` and `any` (or up, down, either) do for the arrows; the braces may be left out.
    """
    if len(text) > _LONGEST:
        raise MarchError(f"{len(text)} characters are more than a program has", 0)
    inner, offset = text, 0
    if text.strip().startswith("{") or text.strip().endswith("}"):
        first, last = text.find("{"), text.rfind("}")
        if first < 0 or last < first or text[:first].strip() or text[last + 1 :].strip():
            raise MarchError("the braces do not enclose the program", max(first, 0), "write {⇕(w0); ⇑(r0,w1)}")
        inner, offset = text[first + 1 : last], first + 1
    elements: list[Element] = []
    position = offset
    for part in inner.split(";"):
        if part.strip() or len(inner.split(";")) == 1:
            elements.append(_element(part, position))
        elif position + len(part) < offset + len(inner):
            raise MarchError("an element is empty", position, "take one of the two semicolons out")
        position += len(part) + 1
    program = MarchProgram(name, tuple(elements))
    if program.length > _MOST_OPERATIONS:
        raise MarchError(f"{program.length} operations a cell are too many", offset, f"{_MOST_OPERATIONS} are the most")
    _check(program, offset)
    return program


def _element(part: str, position: int) -> Element:
    start = position + len(part) - len(part.lstrip())
    pause = _PAUSE.match(part)
    if pause is not None:
        return Element(Order.EITHER, (), float(pause["seconds"]) if pause["seconds"] else None)
    match = _PART.match(part)
    if match is None:
        raise MarchError(f"{part.strip()!r} is no element", start, "an order and operations, for instance ⇑(r0,w1), or Del")
    operations: list[Operation] = []
    at = position + match.start("operations")
    for word in match["operations"].split(","):
        found = _OPERATION.match(word)
        if found is None:
            raise MarchError(f"{word.strip()!r} is no operation", at + len(word) - len(word.lstrip()), "r0, r1, w0 or w1")
        operations.append(Operation(found[1].lower() == "r", int(found[2])))
        at += len(word) + 1
    return Element(_ORDERS[match["order"].lower()], tuple(operations))


def _check(program: MarchProgram, position: int) -> None:
    """Every cell holds the same value between elements, so one walk over the operations tells what each read finds."""
    held: int | None = None
    for number, element in enumerate(program.elements, 1):
        for operation in element.operations:
            if not operation.is_read:
                held = operation.value
            elif held is None:
                raise MarchError(f"element {number} reads before anything was written", position, "begin with ⇕(w0)")
            elif held != operation.value:
                raise MarchError(f"element {number}: {operation} expects {operation.value}, and {held} was written last", position)
    if not program.reads:
        raise MarchError("the program never reads, so it finds nothing", position, "add an element like ⇕(r0)")


PROGRAMS: dict[str, MarchProgram] = {
    name: parse_march(text, name)
    for name, text in (
        ("MATS", "{⇕(w0); ⇕(r0,w1); ⇕(r1)}"),
        ("MATS+", "{⇕(w0); ⇑(r0,w1); ⇓(r1,w0)}"),
        ("MATS++", "{⇕(w0); ⇑(r0,w1); ⇓(r1,w0,r0)}"),
        ("March X", "{⇕(w0); ⇑(r0,w1); ⇓(r1,w0); ⇕(r0)}"),
        ("March Y", "{⇕(w0); ⇑(r0,w1,r1); ⇓(r1,w0,r0); ⇕(r0)}"),
        ("March C-", "{⇕(w0); ⇑(r0,w1); ⇑(r1,w0); ⇓(r0,w1); ⇓(r1,w0); ⇕(r0)}"),
        ("March A", "{⇕(w0); ⇑(r0,w1,w0,w1); ⇑(r1,w0,w1); ⇓(r1,w0,w1,w0); ⇓(r0,w1,w0)}"),
        ("March B", "{⇕(w0); ⇑(r0,w1,r1,w0,r0,w1); ⇑(r1,w0,w1); ⇓(r1,w0,w1,w0); ⇓(r0,w1,w0)}"),
        ("March LR", "{⇕(w0); ⇓(r0,w1); ⇑(r1,w0,r0,w1); ⇑(r1,w0); ⇑(r0,w1,r1,w0); ⇑(r0)}"),
        ("March SS", "{⇕(w0); ⇑(r0,r0,w0,r0,w1); ⇑(r1,r1,w1,r1,w0); ⇓(r0,r0,w0,r0,w1); ⇓(r1,r1,w1,r1,w0); ⇕(r0)}"),
    )
}
"""The programs of the literature by name."""

RETENTION = parse_march("{⇕(w0); Del 10s; ⇕(r0,w1); Del 10s; ⇕(r1)}", "retention")
"""Write, wait, verify, for both values."""


def program_named(name: str) -> MarchProgram | None:
    """Return a program of the literature by its name, whatever its case, blanks and hyphens."""
    key = _key(name)
    return next((program for known, program in (*PROGRAMS.items(), ("retention", RETENTION)) if _key(known) == key), None)


def _key(name: str) -> str:
    return name.casefold().replace(" ", "").removeprefix("march").replace("−", "-")
