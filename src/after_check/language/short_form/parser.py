"""Reading a line of notation. Nothing is dropped: what is not understood becomes a problem with its position."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from after_check.domain.boards import Filling, Slot, short_name
from after_check.domain.fact_table import with_facts
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.modules import Module
from after_check.domain.outside_text import clean, nearest
from after_check.domain.quantities import parse_size
from after_check.domain.readings import Machine, MemoryNode, Notice, NoticeKind, Reading
from after_check.language.short_form import fact_words
from after_check.language.short_form.items import LONGEST_LINE, QUOTED, Cursor, Item, split_items, unquote
from after_check.language.short_form.module_words import read_module
from after_check.language.short_form.problems import Problem, quoted

_LONGEST_NOTE = 200
MOST_MODULES = 64
"""Of one item such as `64x8G`; the largest boards have 48 slots."""

_SLOT = re.compile(rf"(?P<name>{QUOTED}|[^=\";]++)\s*+=")
_FIRMWARE = re.compile(rf"firmware\s+(?P<text>{QUOTED}|[^\s\";]+)", re.IGNORECASE | re.ASCII)
_NO_RIGHTS = re.compile(r"(?:no-?\s*rights|rights?\s+refused)(?![A-Za-z0-9])", re.IGNORECASE | re.ASCII)
_NOTE = re.compile(rf"note\s*(?P<text>{QUOTED})", re.IGNORECASE | re.ASCII)
_NODES = re.compile(r"nodes\s+(?P<sizes>[0-9.]+\s*[KMGT]?(?:i?B)?(?:\s*\+\s*[0-9.]+\s*[KMGT]?(?:i?B)?)+)", re.IGNORECASE | re.ASCII)
_EMPTY = re.compile(r"(?:-|–|—|empty)\s*\Z", re.IGNORECASE)
_NOT_KNOWN = re.compile(r"\?\s*\Z")
_TIMES = re.compile(r"(?P<count>\d{1,4})\s*[x×*]\s*(?=\S)", re.IGNORECASE | re.ASCII)
_MODULE_START = re.compile(r"\"|\d+(?:\.\d+)?\s*[KMGT](?:i?B)?(?![A-Za-z0-9])|(?:LP)?DDR|PC\d|module\b", re.IGNORECASE | re.ASCII)


@dataclass(frozen=True, slots=True)
class Parsed:
    """What a line says, as far as it was understood, and what was not. `uncounted` are the modules that stand there without a number.

    `left_aside` are stretches that are no fact of now and of this machine (first and last place), and why.
    """

    line: str
    reading: Reading
    problems: tuple[Problem, ...]
    uncounted: tuple[Module, ...] = ()
    left_aside: tuple[tuple[int, int, str], ...] = ()


def parse(line: str) -> Parsed:
    """Read a line of notation; any text is accepted, and the time taken is linear in its length."""
    if len(line) > LONGEST_LINE:
        too_long = Problem(LONGEST_LINE, len(line), f"the line has {len(line):,} characters; {LONGEST_LINE:,} are the most", "shorten it")
        return Parsed(line, Reading(), (too_long,))
    state = _State()
    if line.count('"') % 2:
        opened = line.rindex('"')
        state.problems.append(Problem(opened, len(line), "this quote is not closed", 'add a " at its end'))
    for item in split_items(line):
        _read_item(item, state)
    problems = tuple(sorted(state.problems, key=lambda problem: problem.start))
    return Parsed(line, state.reading(), problems, tuple(state.uncounted))


def typed_notes(text: str) -> list[Notice]:
    """Return a note that a person typed; nothing where nothing is left of it."""
    kept = clean(text, _LONGEST_NOTE)
    return [Notice(NoticeKind.REMARK, kept, "typed")] if kept else []


class _State:
    """What the items read so far say."""

    def __init__(self) -> None:
        self.slots: list[Slot] = []
        self.loose: list[Module] = []
        self.uncounted: list[Module] = []
        self.facts: dict[str, Fact[Any] | None] = {}
        self.fields: dict[str, Any] = {}
        self.notices: list[Notice] = []
        self.problems: list[Problem] = []

    def reading(self) -> Reading:
        bare = Reading(slots=tuple(self.slots), loose=tuple(self.loose), notices=tuple(self.notices), **self.fields)
        return with_facts(bare, self.facts)

    def put_fact(self, name: str, value: Any, span: tuple[int, int]) -> None:
        standing = self.fields.get(name) if name == "via" else value_of(self.facts.get(name))
        if name == "soak" and standing is not None:
            # Tests are written in the order in which they ran; the last one counts, and the others are not forgotten.
            self.fields["earlier_soaks"] = (*self.fields.get("earlier_soaks", ()), standing)
        elif standing is not None and standing != value:
            word = name.removesuffix("_bytes").replace("_", " ")
            said = f"{word} is given twice: {fact_words.shown_fact(name, standing)} and {fact_words.shown_fact(name, value)}"
            self.problems.append(Problem(*span, said, "keep one of the two"))
            return
        if name == "via":
            self.fields[name] = value
        else:
            self.facts[name] = Fact(value, Source.TYPED)


def _read_item(item: Item, state: _State) -> None:
    cursor = Cursor(item)
    if slot := cursor.take(_SLOT):
        _read_slot(slot, cursor, state)
    elif _TIMES.match(item.line, item.start, item.end) or _MODULE_START.match(item.line, item.start, item.end):
        _read_loose(cursor, state)
    else:
        _read_fact(cursor, item, state)


def _read_slot(slot: re.Match[str], cursor: Cursor, state: _State) -> None:
    name = short_name(clean(unquote(slot["name"]).strip(), 40))
    if not name:
        state.problems.append(Problem(*slot.span(), "the slot has no name", "for instance A2=16G"))
        return
    if any(standing.name.casefold() == name.casefold() for standing in state.slots):
        state.problems.append(Problem(*slot.span("name"), f"slot {quoted(name)} is given twice", "keep one of the two"))
        return
    if cursor.done:
        state.problems.append(
            Problem(*slot.span(), f"nothing is behind {quoted(name)} =", "write - for an empty slot, ? for one not looked at")
        )
        state.slots.append(Slot(name, Filling.UNKNOWN))
    elif cursor.take(_EMPTY):
        state.slots.append(Slot(name, Filling.EMPTY))
    elif cursor.take(_NOT_KNOWN):
        state.slots.append(Slot(name, Filling.UNKNOWN))
    else:
        module, problems = read_module(cursor)
        state.slots.append(Slot(name, Filling.FILLED, module))
        state.problems += problems


def _read_loose(cursor: Cursor, state: _State) -> None:
    count, counted = 1, False
    if times := cursor.take(_TIMES):
        count, counted = int(times["count"]), True
        if not 1 <= count <= MOST_MODULES:
            state.problems.append(Problem(*times.span(), f"{count} modules are not possible", f"1 to {MOST_MODULES} are"))
            count = 0
    module, problems = read_module(cursor)
    state.problems += problems
    state.loose += [module] * count
    state.uncounted += [] if counted else [module]


def _read_other(cursor: Cursor, state: _State) -> bool:
    """Read what is no single field of a reading; return whether it was that."""
    if version := cursor.take(_FIRMWARE):
        found = clean(unquote(version["text"]), 40)
        state.fields["machine"] = Machine(firmware_version=Fact(found, Source.TYPED))
    elif cursor.take(_NO_RIGHTS):
        state.notices.append(Notice(NoticeKind.RIGHTS, "a part could not be read", "typed", "read again with more rights"))
    elif note := cursor.take(_NOTE):
        state.notices += typed_notes(unquote(note["text"]))
    elif nodes := cursor.take(_NODES):
        sizes = [parse_size(size) for size in nodes["sizes"].split("+")] if nodes["sizes"] else []
        state.fields["nodes"] = tuple(MemoryNode(number, size or 0) for number, size in enumerate(sizes))
    else:
        return False
    return True


def _read_fact(cursor: Cursor, item: Item, state: _State) -> None:
    if _read_other(cursor, state):
        if not cursor.done:
            left = item.line[cursor.at : item.end]
            state.problems.append(Problem(cursor.at, item.end, f"{quoted(left)} is left over", "separate items with ;"))
        return
    for name, form in ((name, form) for name, several in fact_words.forms().items() for form in several):
        match = cursor.take(form.words)
        if match is None:
            continue
        try:
            state.put_fact(name, form.read(match), match.span())
        except fact_words.UnfitError as unfit:
            state.problems.append(Problem(*match.span(), str(unfit)))
        if not cursor.done:
            state.problems.append(
                Problem(cursor.at, item.end, f"{quoted(item.line[cursor.at : item.end])} is left over", "separate items with ;")
            )
        return
    start, end = cursor.take_rest_of_word()
    word = item.line[start:end].lower()
    hints = fact_words.hints()
    if word in hints:
        state.problems.append(Problem(start, item.end, f"{quoted(item.text)} is not understood", hints[word]))
    else:
        hint = nearest(word, fact_words.vocabulary()) or "a module starts with its size or SLOT="
        state.problems.append(Problem(start, item.end, f"{quoted(item.text)} is not understood", hint))
