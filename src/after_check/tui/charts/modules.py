"""The fitted modules side by side on one scale in ns, and where label, SPD and firmware differ."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from rich.text import Text

from after_check.casework.shown_boards import ShownBoard
from after_check.domain.facts import Fact, value_of
from after_check.domain.modules import Module
from after_check.domain.quantities import number_text
from after_check.judgement.timings import clocks_at, module_times
from after_check.standards.weeks import week_dates
from after_check.tui.charts.board import module_text
from after_check.tui.charts.cells import fitted, wrapped
from after_check.tui.theme import Ink

_NAME_CELLS = 14
_VALUE_CELLS = 30


def module_scale_lines(shown: ShownBoard, running_mts: int | None, sentence: str, cells: int, alarm: str = Ink.TEXT) -> list[Text]:
    """Return the timings of every module on one scale, beneath a sentence that says whether they matter.

    The slowest of each is marked; it has the colour of an alarm (`alarm`) only where it matters.
    """
    modules = [(_name(shown, index, slot), module_times(module)) for index, (slot, module) in enumerate(shown.reading.filled())]
    known = [(name, times) for name, times in modules if times is not None]
    if not known:
        return [Text(line, Ink.MUTED) for line in wrapped("No module says its timings: read its SPD, or type CL and the label.", cells)]
    longest = max(value for _, times in known for _, value in times.named() if value is not None)
    bar_cells = max(8, cells - _NAME_CELLS - _VALUE_CELLS)
    lines: list[Text] = [*(Text(line, f"bold {Ink.TEXT}") for line in wrapped(sentence, cells)), Text("")] if sentence else []
    for index, (word, _) in enumerate(known[0][1].named()):
        values = [(name, times.named()[index][1]) for name, times in known]
        stated = [value for _, value in values if value is not None]
        if not stated:
            continue
        lines.append(Text(word, f"bold {Ink.TEXT}"))
        slowest = max(stated)
        uneven = slowest - min(stated) > 0.05
        for name, value in values:
            if value is not None:
                lines.append(_bar(name, value, longest, alarm if uneven and value == slowest else "", running_mts, bar_cells))
        lines.append(Text(""))
    return lines


def _name(shown: ShownBoard, index: int, slot: str) -> str:
    """Return what a module is called: its letter and its slot."""
    if slot:
        return f"{shown.letters.get(slot, ' ')}  {slot}"
    at = index - sum(1 for name, _ in shown.reading.filled() if name)
    letter = shown.loose_letters[at] if at < len(shown.loose_letters) else ""
    return letter or f"module {index + 1}"


def _bar(name: str, value: float, longest: float, alarm: str, running_mts: int | None, cells: int) -> Text:
    text = Text(no_wrap=True)
    text.append(f" {fitted(name, _NAME_CELLS - 1)}", Ink.TEXT)
    text.append("▆" * max(1, round(value / longest * cells)), alarm if alarm not in ("", Ink.TEXT) else Ink.MODULE)
    clocks = f" = {clocks_at(value, running_mts)} clocks" if running_mts else ""
    text.append(f" {number_text(value, 1)} ns{clocks}{' ◂ slowest' if alarm else ''}", f"bold {alarm}" if alarm else Ink.MUTED)
    return text


def identity_lines(shown: ShownBoard, cells: int) -> list[Text]:
    """Return maker, part, serial and date of every module, and what sources say differently."""
    lines: list[Text] = []
    places = {slot.name: slot.bank for slot in shown.reading.slots}
    for index, (slot, module) in enumerate(shown.reading.filled()):
        head = Text(no_wrap=True)
        head.append(f"{_name(shown, index, slot).strip()}  ", f"bold {Ink.TEXT}")
        head.append(module_text(module), f"bold {Ink.TEXT}")
        head.truncate(cells, overflow="ellipsis")
        lines.append(head)
        for word, said in [("place", place) if (place := places.get(slot)) else ("", ""), *_identity(module)]:
            if not said:
                continue
            lines.append(Text(f"  {fitted(word, 10)}{fitted(said, cells - 12)}", Ink.MUTED, no_wrap=True))
        for field in fields(Module):
            fact = getattr(module, field.name)
            for other in fact.others if isinstance(fact, Fact) else ():
                lines.append(_difference(field.name, fact, other, cells))
        lines.append(Text(""))
    return lines or [Text("no modules in this reading", Ink.MUTED)]


def _identity(module: Module) -> list[tuple[str, str]]:
    made = value_of(module.made)
    dates = ""
    if made is not None:
        monday, sunday = week_dates(made)
        dates = f"{made}, {monday:%-d %b} to {sunday:%-d %b %Y}"
    found = [
        ("maker", value_of(module.maker) or (str(module.maker_id.value) if module.maker_id else "")),
        ("part", value_of(module.part) or ""),
        ("serial", value_of(module.serial) or ""),
        ("made", dates),
        ("label", value_of(module.label) or ""),
    ]
    return [(word, said) for word, said in found if said]


def _difference(name: str, fact: Fact[Any], other: Fact[Any], cells: int) -> Text:
    text = Text(no_wrap=True)
    text.append("  ≠ ", f"bold {Ink.PROMISED}")
    word = name.removesuffix("_mts").removesuffix("_bytes").replace("_", " ")
    text.append(f"{word}: {fact.value} ({fact.source.value}), {other.value} ({other.source.value})", Ink.PROMISED)
    text.truncate(cells, overflow="ellipsis")
    return text
