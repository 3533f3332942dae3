"""What differs between any two readings: modules, amount, pace, settings, and the machine itself."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from after_check.domain.boards import Filling
from after_check.domain.fact_table import FactKind, FactRow, Part, rows
from after_check.domain.facts import value_of
from after_check.domain.modules import Module
from after_check.domain.quantities import size_text
from after_check.domain.readings import Reading
from after_check.judgement.case import ReadingView, view
from after_check.standards.rates import same_rate

NOT_KNOWN = "not known"


@dataclass(frozen=True, slots=True)
class Difference:
    """One thing that two readings say differently, or that only one of them says (`not known` in the other)."""

    part: Part
    what: str
    first: str
    second: str

    @property
    def one_sided(self) -> bool:
        """Whether only one of the readings says anything of it."""
        return NOT_KNOWN in (self.first, self.second)


_Said = Callable[[ReadingView], str | None]


def _machine(name: str) -> _Said:
    return lambda of: value_of(getattr(of.reading.machine, name))


_WORKED_OUT: tuple[tuple[Part, str, _Said], ...] = (
    (Part.AMOUNT, "fitted", lambda of: size_text(of.capacity.fitted_bytes) if of.capacity.fitted_bytes else None),
    (Part.PACE, "data rate", lambda of: f"{of.rate_mts} MT/s" if of.rate_mts else None),
    (Part.PACE, "channels", lambda of: str(of.channels.count) if of.channels.count else None),
    (Part.PACE, "timings", lambda of: str(of.timings) if of.timings else None),
    (Part.SETTINGS, "profile", lambda of: of.profile.value if of.profile else None),
    (Part.MACHINE, "firmware version", _machine("firmware_version")),
    (Part.MACHINE, "firmware date", _machine("firmware_date")),
    (Part.MACHINE, "model", _machine("model")),
    (Part.MACHINE, "serial number", _machine("serial")),
    (Part.MACHINE, "processor", _machine("processor")),
)
"""What is compared beside the facts of the table: what follows from several of them, and the machine itself."""


def _of_row(row: FactRow) -> _Said:
    def said(of: ReadingView) -> str | None:
        fact = row.of(of.reading)
        if row.kind is FactKind.FLAG:  # A warning: that nobody gave it is what a reading without it means.
            return row.said(fact is not None and fact.value)
        return row.said(fact.value) if fact is not None else None

    return said


def _compared() -> list[tuple[Part, str, _Said]]:
    of_rows = [(row.part, row.compared, _of_row(row)) for row in rows() if row.compared]
    order = list(Part)
    return sorted([*_WORKED_OUT, *of_rows], key=lambda each: order.index(each[0]))


def differences(first: Reading, second: Reading) -> tuple[Difference, ...]:
    """Return what differs from the first reading to the second.

    What neither says is left out; what only one says is listed, as a lost value is not an unchanged one.
    """
    before, now = view(first), view(second)
    found = list(_slots(before.reading, now.reading))
    for part, what, said in _compared():
        one, other = said(before), said(now)
        if one != other and not (what == "data rate" and _same_pace(before, now)):
            found.append(Difference(part, what, one or NOT_KNOWN, other or NOT_KNOWN))
    return tuple(found)


def _same_pace(before: ReadingView, now: ReadingView) -> bool:
    return before.rate_mts is not None and now.rate_mts is not None and same_rate(before.rate_mts, now.rate_mts)


def _slots(before: Reading, now: Reading) -> list[Difference]:
    one, other = _contents(before), _contents(now)
    names = list(dict.fromkeys([*one, *other]))
    return [
        Difference(Part.MODULES, name, one.get(name, NOT_KNOWN), other.get(name, NOT_KNOWN))
        for name in names
        if one.get(name, NOT_KNOWN) != other.get(name, NOT_KNOWN)
    ]


def _contents(reading: Reading) -> dict[str, str]:
    contents = {slot.name: _slot_words(slot.filling, slot.module) for slot in reading.slots}
    for index, module in enumerate(reading.loose):
        contents[f"module {index + 1}"] = _words(module)
    return contents


def _slot_words(filling: Filling, module: Module | None) -> str:
    if module is not None:
        return _words(module)
    return "empty" if filling is Filling.EMPTY else NOT_KNOWN


def _words(module: Module) -> str:
    size, generation, rated_mts = value_of(module.size_bytes), value_of(module.generation), value_of(module.rated_mts)
    sold = f"{generation}-{rated_mts}" if generation and rated_mts else str(generation or "")
    parts = [size_text(size) if size else "", sold, value_of(module.part) or "", value_of(module.serial) or ""]
    return " ".join(part for part in parts if part) or "a module"
