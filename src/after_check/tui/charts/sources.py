"""Every value of a reading with its source, and what other sources said instead."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from rich.text import Text

from after_check.domain.facts import Fact
from after_check.domain.modules import Module, Profile
from after_check.domain.quantities import size_text
from after_check.domain.readings import Machine, Reading, ShownRate
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
    "total_bytes": "total",
    "usable_bytes": "usable",
    "graphics_bytes": "graphics",
    "borrowed_bytes": "graphics may borrow",
    "system_bits": "system",
    "running_rate": "running rate",
    "array_limit_bytes": "firmware's limit",
    "slot_count": "slots",
    "ecc_on": "ECC",
    "ecc_errors": "ECC errors",
    "settings_reset": "settings cleared",
    "restart_pending": "restart pending",
    "pressure_percent": "pressure",
    "channels": "channels shown",
}


def source_lines(reading: Reading, cells: int) -> list[Text]:
    """Return a line for each value: what, value, source and place; beneath it what another source said."""
    lines: list[Text] = []
    for slot, module in reading.filled():
        lines += _block(slot or "a module", _facts(module, Module), cells)
    lines += _block("settings and totals", _facts(reading, Reading), cells)
    lines += _block("the machine", _facts(reading.machine, Machine), cells)
    for temperature in reading.temperatures:
        lines += [Text(f"{fitted(temperature.sensor, _NAME_CELLS)}{temperature.celsius.value:g} °C", Ink.TEXT)]
    for line in reading.log_lines[-5:]:
        lines += [Text(part, Ink.MUTED) for part in wrapped(f"kernel log: {line}", cells)]
    return lines


def _facts(thing: Any, kind: type) -> list[tuple[str, Fact[Any]]]:
    found = [(field.name, getattr(thing, field.name)) for field in fields(kind)]
    return [(_WORDS.get(name, name.replace("_", " ")), fact) for name, fact in found if isinstance(fact, Fact)]


def _block(title: str, facts: list[tuple[str, Fact[Any]]], cells: int) -> list[Text]:
    if not facts:
        return []
    lines = [Text(title, f"bold {Ink.TEXT}")]
    for word, fact in facts:
        line = Text(no_wrap=True)
        line.append(f" {fitted(word, _NAME_CELLS - 1)}", Ink.MUTED)
        line.append(_said(word, fact.value), Ink.TEXT)
        line.append(f"  {fact.source.value}", Ink.KEPT)
        if fact.where:
            line.append(f", {fact.where}", Ink.MUTED)
        line.truncate(cells, overflow="ellipsis")
        lines.append(line)
        for other in fact.others:
            loser = Text(no_wrap=True)
            loser.append(" " * _NAME_CELLS + "≠ ", f"bold {Ink.PROMISED}")
            loser.append(f"{_said(word, other.value)}  {other.source.value}, not counted", Ink.PROMISED)
            loser.truncate(cells, overflow="ellipsis")
            lines.append(loser)
    return [*lines, Text("")]


def _said(word: str, value: Any) -> str:
    if isinstance(value, ShownRate):
        return f"{value.number:g} {value.unit.value}".strip()
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        return ", ".join(f"{profile.number}: {profile.rate_mts}" for profile in value if isinstance(profile, Profile)) or "none"
    if isinstance(value, int) and value >= 1 << 20:
        return size_text(value)
    units = {
        "sold as": " MT/s",
        "standard rate": " MT/s",
        "runs at": " MT/s",
        "voltage": " mV",
        "device width": " bits",
        "data width": " bits",
    }
    return f"{value}{units.get(word, '')}"
