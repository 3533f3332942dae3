"""A line of notation, drawn while it is typed: the board it describes, and what is not understood."""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar

from rich.text import Text
from textual.binding import Binding, BindingType
from textual.message import Message

from after_check.domain.facts import value_of
from after_check.domain.modules import Module
from after_check.domain.outside_text import clean
from after_check.domain.quantities import size_text
from after_check.domain.readings import Reading
from after_check.judgement.case import view
from after_check.language.short_form import parse, write
from after_check.language.short_form.edit import emptied, moved, put, with_slots_for_loose
from after_check.language.short_form.parser import Parsed
from after_check.language.short_form.problems import Problem, pointed_out
from after_check.language.short_form.writer import write_module
from after_check.language.typed_text import with_note
from after_check.tui.charts.board import board_lines, snapshot_of_reading
from after_check.tui.charts.cells import wrapped
from after_check.tui.theme import Ink
from after_check.tui.widgets.drawn import Drawn

ANSWER_KEYS = ("F6", "F7", "F9")
"""One for each answer to a question about the line, the likeliest first."""


NAMELESS_SLOTS = ("slot 1", "slot 2", "slot 3", "slot 4")
"""Slots of a machine of which nobody named any: their names tell no channel, and what is in them is not known until it is said."""


class NotationBoard(Drawn, can_focus=True):
    """Shows a parsed line: problems first, with their place, then the board and the facts.

    With the focus, its slots can be corrected: every change is written back as a line.
    """

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("up,k", "step(-1)", show=False),
        Binding("down,j", "step(1)", show=False),
        Binding("enter", "change", "change", tooltip="change the words of the chosen slot's module"),
        Binding("m", "move", "move", tooltip="pick the module up; again in another slot puts it there"),
        Binding("c", "copy", "copy", tooltip="copy the module; v puts it into other slots"),
        Binding("v", "paste", "paste", tooltip="put the copied module into the chosen slot"),
        Binding("delete,minus,backspace", "empty", "empty", tooltip="empty the chosen slot"),
    ]

    class Corrected(Message):
        """The drawing was corrected; `line` says the same in notation. `filled`: the program only gave it slots to choose from."""

        def __init__(self, line: str, filled: bool = False) -> None:
            super().__init__()
            self.line = line
            self.filled = filled

    class WordsWanted(Message):
        """The words of a slot's module are to be changed."""

        def __init__(self, slot: str, words: str) -> None:
            super().__init__()
            self.slot = slot
            self.words = words

    parsed: Parsed | None = None
    cursor = 0
    held = ""
    copied: Module | None = None
    known_slots: tuple[str, ...] = ()
    """The slots of this machine as its data sheet or a reading names them, for a page on which nothing is typed yet."""
    title = ""
    hint = ""

    def show(self, parsed: Parsed | None, title: str, hint: str = "") -> None:
        """Show another line, or a hint where there is none."""
        self.parsed, self.title, self.hint = parsed, title, hint
        self.refresh()

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw problems, board and facts."""
        lines = [Text(self.title.upper(), f"bold {Ink.MUTED}"), Text("")]
        if self.parsed is None or not self.parsed.line.strip():
            return lines + [Text(line, Ink.MUTED) for part in self.hint.splitlines() for line in wrapped(part, cells) or [""]]
        for problem in self.parsed.problems[:2]:
            if problem.asked:
                lines += [
                    Text(line, f"bold {Ink.PROMISED}") for line in wrapped(f"? {problem.message if problem.answers else problem}", cells)
                ]
                lines += _answer_lines(problem, cells) if problem.answers else []
                continue
            shown, marks = pointed_out(self.parsed.line, problem, cells).split("\n")
            lines += [Text(shown, Ink.TEXT, no_wrap=True), Text(marks, f"bold {Ink.SHORT}", no_wrap=True)]
            lines += [Text(line, Ink.SHORT) for line in wrapped(f"▲ {problem}", cells)]
            lines += [Text.assemble(("  F8", f"bold {Ink.PROMISED}"), ("  keeps it as a note", Ink.TEXT))] if with_note(self.parsed) else []
        lines += _aside_lines(self.parsed, cells)
        if self.parsed.problems or self.parsed.left_aside:
            lines.append(Text(""))
        reading = self.parsed.reading
        if reading.slots or reading.loose:
            parts = view(reading).channels.parts
            snapshot = replace(snapshot_of_reading(reading, parts), cursor=self.slot_name if self.has_focus else "", held=self.held)
            lines += board_lines(snapshot, min(cells, 72), max(4, rows - len(lines) - 4))
        exact = write(reading)
        if exact and parse(self.parsed.line).problems:  # It was said in words.
            lines += [Text("")] if lines[-1] else []
            lines += [Text(line, Ink.MUTED) for line in wrapped(f"in the short form: {exact}", cells)]
        facts = _facts(self.parsed)
        if facts:
            lines += [Text(""), *(Text(line, Ink.TEXT) for line in wrapped(facts, cells))]
        return lines[:rows]

    @property
    def slot_name(self) -> str:
        """The slot that the cursor is on; empty where there is none."""
        slots = self.parsed.reading.slots if self.parsed else ()
        return slots[min(self.cursor, len(slots) - 1)].name if slots else ""

    def on_focus(self) -> None:
        """Modules without slots get some, so that there is something to move; on an empty page, the slots themselves are there."""
        if self.parsed is None or not self.parsed.line.strip():
            said = "; ".join(f"{name}=-" for name in self.known_slots) or "; ".join(f"{name}=?" for name in NAMELESS_SLOTS)
            self.post_message(self.Corrected(said, filled=True))
        elif self.parsed.reading.loose and not self.parsed.reading.slots and not self.parsed.problems:
            reading = self.parsed.reading
            # Only as many as there are modules, or as somebody counted: a slot that nobody named is no empty one.
            count = max(len(reading.loose), value_of(reading.slot_count) or 0)
            names = self.known_slots or tuple(f"slot {number}" for number in range(1, count + 1))
            self.post_message(self.Corrected(write(with_slots_for_loose(reading, names)), filled=True))
        self.refresh()

    def on_blur(self) -> None:
        """Hide the cursor."""
        self.held = ""
        self.refresh()

    def action_step(self, by: int) -> None:
        """Move the cursor from slot to slot."""
        if self.parsed is not None and self.parsed.reading.slots:
            self.cursor = (min(self.cursor, len(self.parsed.reading.slots) - 1) + by) % len(self.parsed.reading.slots)
            self.refresh()

    def action_empty(self) -> None:
        """Empty the chosen slot."""
        if self.parsed is not None and self.slot_name:
            self._correct(emptied(self.parsed.reading, self.slot_name))

    def action_move(self) -> None:
        """Pick a module up, or put it down."""
        if self.parsed is None or not self.slot_name:
            return
        if not self.held:
            self.held = self.slot_name
            self.refresh()
            return
        source, self.held = self.held, ""
        self._correct(moved(self.parsed.reading, source, self.slot_name))

    def action_copy(self) -> None:
        """Copy the chosen module; its serial number is its own and is not copied."""
        module = self._module()
        if module is not None:
            self.copied = replace(module, serial=None)
            self.notify("copied; v puts it into the chosen slot", timeout=2)

    def action_paste(self) -> None:
        """Put the copied module into the chosen slot."""
        if self.parsed is not None and self.copied is not None and self.slot_name:
            self._correct(put(self.parsed.reading, self.slot_name, self.copied))

    def action_change(self) -> None:
        """Ask for other words for the chosen module."""
        if self.slot_name:
            module = self._module()
            self.post_message(self.WordsWanted(self.slot_name, write_module(module) if module is not None else ""))

    def _module(self) -> Module | None:
        slots = self.parsed.reading.slots if self.parsed else ()
        return next((slot.module for slot in slots if slot.name == self.slot_name), None)

    def _correct(self, reading: Reading) -> None:
        if self.parsed is not None and self.parsed.problems:
            self.notify("fix the marked place in the line first", severity="warning", timeout=3)
            return
        self.post_message(self.Corrected(write(reading)))


MOST_ASIDE = 3
"""So many stretches that were left aside are told on the board; the line itself shows all."""


def _aside_lines(parsed: Parsed, cells: int) -> list[Text]:
    """Return what was heard and is no fact of now, with its reason."""
    lines: list[Text] = []
    for start, end, because in parsed.left_aside[:MOST_ASIDE]:
        words = " ".join(clean(parsed.line[start:end], 40).split())
        lines += [Text(line, Ink.MUTED) for line in wrapped(f"– left aside: “{words}”: {because}", cells)]
    more = len(parsed.left_aside) - MOST_ASIDE
    return [*lines, *([Text(f"– and {more} more", Ink.MUTED)] if more > 0 else [])]


def _answer_lines(problem: Problem, cells: int) -> list[Text]:
    """Return the answers with their keys, as many beside each other as fit, and the way out that is always there."""
    lines = [Text("")]
    told = [
        Text.assemble((key, f"bold {Ink.PROMISED}"), (f"  {words}", Ink.TEXT))
        for key, (words, _) in zip(ANSWER_KEYS, problem.answers, strict=False)
    ]
    for answer in [*told, Text("or something else: type it", Ink.MUTED)]:
        if lines[-1] and lines[-1].cell_len + answer.cell_len + 4 > cells:
            lines.append(Text(""))
        lines[-1].append("    " if lines[-1] else "  ").append_text(answer)
    return lines


def answered(parsed: Parsed | None, index: int) -> str | None:
    """Return the line with an answer to the first question that one key can answer; None where there is none."""
    asked = next((problem for problem in parsed.problems if problem.answers), None) if parsed is not None else None
    return asked.answers[index][1] if asked is not None and index < len(asked.answers) else None


def _facts(parsed: Parsed) -> str:
    reading, now = parsed.reading, view(parsed.reading)
    parts: list[str] = []
    if now.rate is not None:
        parts.append(f"runs at {now.rate.mts} MT/s" + (f" ({now.rate.doubt})" if now.rate.doubt else ""))
    if now.channels.count is not None:
        parts.append(f"{now.channels.count} channel{'s' if now.channels.count > 1 else ''}")
    if now.profile is not None:
        parts.append(f"profile {now.profile.value}")
    for word, fact in (
        ("total", reading.total_bytes),
        ("usable", reading.usable_bytes),
        ("graphics", reading.graphics_bytes),
        ("graphics may borrow", reading.borrowed_bytes),
    ):
        if fact is not None:
            parts.append(f"{word} {size_text(fact.value)}")
    for word, flag in (("settings cleared", reading.settings_reset), ("restart pending", reading.restart_pending)):
        if flag is not None:
            parts.append(word)
    return " · ".join(parts)
