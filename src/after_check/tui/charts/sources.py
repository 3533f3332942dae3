"""Where the values of a reading come from: first what sources said differently, then each source with what was taken from it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields
from functools import partial
from typing import Any

from rich.text import Text

from after_check.domain.fact_table import known_facts
from after_check.domain.facts import Fact, Source
from after_check.domain.modules import Module, Profile
from after_check.domain.quantities import size_text
from after_check.domain.readings import Machine, Reading
from after_check.tui.charts.cells import fitted, wrapped
from after_check.tui.theme import Ink

_NAME_CELLS = 12
_WORDS = {
    "size_bytes": "size",
    "rated_mts": "sold as",
    "standard_mts": "standard rate",
    "running_mts": "runs at",
    "device_width_bits": "device width",
    "data_width_bits": "data width",
    "voltage_mv": "voltage",
    "ecc": "ECC",
    "maker_id": "maker's code",
}
"""What is told of a module; the table of facts has the words of a reading."""


def source_lines(reading: Reading, cells: int) -> list[Text]:
    """Return what sources said differently; then, source by source and place by place, what was taken from each."""
    told = [(_place(slot, index), fact) for index, (slot, module) in enumerate(reading.filled()) for fact in _facts(module, Module)]
    told += [("", (row.words, fact, row.said)) for row, fact in known_facts(reading)]
    told += [("", fact) for fact in _facts(reading.machine, Machine)]
    lines = _differences(told, cells)
    for source in Source:
        lines += _of_source(source, told, cells)
    for temperature in reading.temperatures:
        lines += [Text(f"{temperature.sensor}: {temperature.celsius.value:g} °C", Ink.TEXT)]
    for line in reading.log_lines[-5:]:
        lines += [Text(part, Ink.MUTED) for part in wrapped(f"kernel log: {line}", cells)]
    return lines


_Told = tuple[str, Fact[Any], Callable[[Any], str]]
"""What a value is called, the value, and how it is said."""


def _place(slot: str, index: int) -> str:
    return slot or f"module {index + 1}"


def _facts(thing: Any, kind: type) -> list[_Told]:
    found = [(field.name, getattr(thing, field.name)) for field in fields(kind)]
    named = [(_WORDS.get(name, name.replace("_", " ")), fact) for name, fact in found if isinstance(fact, Fact)]
    return [(word, fact, partial(_said, word)) for word, fact in named]


def _differences(told: list[tuple[str, _Told]], cells: int) -> list[Text]:
    """Return the exceptions: values of which another source says something else, and which of the two counts."""
    lines: list[Text] = []
    for place, (word, fact, said) in told:
        for other in fact.others:
            words = f"{place} {word}: {said(fact.value)} by {fact.source.value}, which counts; {said(other.value)} by {other.source.value}"
            for at, part in enumerate(wrapped(words.strip(), cells - 2)):
                lines.append(Text(f"{'≠ ' if at == 0 else '  '}{part}", Ink.PROMISED))
    return [*lines, Text("")] if lines else []


def _of_source(source: Source, told: list[tuple[str, _Told]], cells: int) -> list[Text]:
    """Return a source's name, what of the machine is from it, and what of its modules; equal modules together."""
    mine = [(place, word, said(fact.value), fact.where) for place, (word, fact, said) in told if fact.source is source]
    if not mine:
        return []
    where = ", ".join(dict.fromkeys(place for *_, place in mine if place))
    head = Text(no_wrap=True)
    head.append(source.value, f"bold {Ink.TEXT}")
    head.append(f"  {where}" if where else "", Ink.MUTED)
    head.truncate(cells, overflow="ellipsis")
    lines = [head]
    by_place: dict[str, list[str]] = {}
    for place, word, said, _ in mine:
        by_place.setdefault(place, []).append(f"{word} {said}")
    same: dict[tuple[str, ...], list[str]] = {}
    for place, values in by_place.items():
        same.setdefault(tuple(values), []).append(place)
    for alike, places in sorted(same.items(), key=lambda one: one[1] == [""]):
        named = ", ".join(filter(None, places)) or "machine"
        for at, part in enumerate(wrapped(", ".join(alike), cells - _NAME_CELLS)):
            line = Text(no_wrap=True)
            line.append(fitted(f" {named}" if at == 0 else "", _NAME_CELLS), Ink.MUTED)
            line.append(part, Ink.TEXT)
            lines.append(line)
    return [*lines, Text("")]


_UNITS = {
    "sold as": " MT/s",
    "standard rate": " MT/s",
    "runs at": " MT/s",
    "voltage": " mV",
    "device width": " bits",
    "data width": " bits",
}


def _said(word: str, value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        return ", ".join(f"{profile.number}: {profile.rate_mts}" for profile in value if isinstance(profile, Profile)) or "none"
    if isinstance(value, int) and value >= 1 << 20:
        return size_text(value)
    return f"{value}{_UNITS.get(word, '')}"
