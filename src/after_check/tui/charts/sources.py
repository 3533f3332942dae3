"""Every value of a reading with its source, and what other sources said instead."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields
from functools import partial
from typing import Any

from rich.text import Text

from after_check.domain.fact_table import known_facts
from after_check.domain.facts import Fact
from after_check.domain.modules import Module, Profile
from after_check.domain.quantities import size_text
from after_check.domain.readings import Machine, Reading
from after_check.tui.charts.cells import fitted, wrapped
from after_check.tui.theme import Ink

_NAME_CELLS = 18
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
    """Return a line for each value: what, value, source and place; beneath it what another source said."""
    lines: list[Text] = []
    for slot, module in reading.filled():
        lines += _block(slot or "a module", _facts(module, Module), cells)
    lines += _block("settings and totals", [(row.words, fact, row.said) for row, fact in known_facts(reading)], cells)
    lines += _block("the machine", _facts(reading.machine, Machine), cells)
    for temperature in reading.temperatures:
        lines += [Text(f"{fitted(temperature.sensor, _NAME_CELLS)}{temperature.celsius.value:g} °C", Ink.TEXT)]
    for line in reading.log_lines[-5:]:
        lines += [Text(part, Ink.MUTED) for part in wrapped(f"kernel log: {line}", cells)]
    return lines


_Told = tuple[str, Fact[Any], Callable[[Any], str]]
"""What a value is called, the value, and how it is said."""


def _facts(thing: Any, kind: type) -> list[_Told]:
    found = [(field.name, getattr(thing, field.name)) for field in fields(kind)]
    named = [(_WORDS.get(name, name.replace("_", " ")), fact) for name, fact in found if isinstance(fact, Fact)]
    return [(word, fact, partial(_said, word)) for word, fact in named]


def _block(title: str, facts: list[_Told], cells: int) -> list[Text]:
    if not facts:
        return []
    lines = [Text(title, f"bold {Ink.TEXT}")]
    for word, fact, said in facts:
        line = Text(no_wrap=True)
        line.append(f" {fitted(word, _NAME_CELLS - 1)}", Ink.MUTED)
        line.append(said(fact.value), Ink.TEXT)
        line.append(f"  {fact.source.value}", Ink.TEXT)
        if fact.where:
            line.append(f", {fact.where}", Ink.MUTED)
        line.truncate(cells, overflow="ellipsis")
        lines.append(line)
        for other in fact.others:
            loser = Text(no_wrap=True)
            loser.append(" " * _NAME_CELLS + "≠ ", f"bold {Ink.PROMISED}")
            loser.append(f"{said(other.value)}  {other.source.value}, not counted", Ink.PROMISED)
            loser.truncate(cells, overflow="ellipsis")
            lines.append(loser)
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
