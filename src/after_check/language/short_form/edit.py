"""Correcting a typed reading on its drawing: pure changes of the board, written back as a line."""

from __future__ import annotations

from dataclasses import replace

from after_check.domain.boards import Filling, Slot
from after_check.domain.modules import Module
from after_check.domain.readings import Reading
from after_check.language.short_form.parser import parse
from after_check.language.short_form.problems import Problem


def emptied(reading: Reading, slot: str) -> Reading:
    """Return the reading with a slot emptied."""
    return _with(reading, {slot: None})


def put(reading: Reading, slot: str, module: Module) -> Reading:
    """Return the reading with a module in a slot, whatever was in it."""
    return _with(reading, {slot: module})


def moved(reading: Reading, source: str, target: str) -> Reading:
    """Return the reading with the modules of two slots exchanged; an empty one makes it a plain move."""
    modules = {slot.name: slot.module for slot in reading.slots}
    return _with(reading, {source: modules[target], target: modules[source]})


def with_slots_for_loose(reading: Reading, names: tuple[str, ...]) -> Reading:
    """Return the reading with its modules without slots put into the first of the named slots that are not there yet."""
    taken = {slot.name.casefold() for slot in reading.slots}
    free = [name for name in names if name.casefold() not in taken]
    loose = list(reading.loose)
    added = tuple(Slot(name, Filling.FILLED, loose.pop(0)) if loose else Slot(name, Filling.EMPTY) for name in free)
    return replace(reading, slots=reading.slots + added, loose=tuple(loose))


def module_from_words(words: str) -> tuple[Module | None, tuple[Problem, ...]]:
    """Return the module that words describe, and what of them is not understood; `-` is no module."""
    parsed = parse(f"X={words.strip() or '-'}")
    shifted = tuple(replace(problem, start=max(0, problem.start - 2), end=max(0, problem.end - 2)) for problem in parsed.problems)
    modules = parsed.reading.modules
    return (modules[0] if modules else None), shifted


def _with(reading: Reading, changes: dict[str, Module | None]) -> Reading:
    slots = tuple(
        slot
        if slot.name not in changes
        else replace(slot, filling=Filling.EMPTY if changes[slot.name] is None else Filling.FILLED, module=changes[slot.name])
        for slot in reading.slots
    )
    return replace(reading, slots=slots)
