"""Writing down a try: modules are moved on the drawn board with their letters, outcomes and signs take one key each."""

from __future__ import annotations

import asyncio
import contextlib
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import ClassVar

from rich.cells import cell_len
from rich.text import Text
from textual import events, on, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal
from textual.widgets import Input

from after_check.casework.snapshot import JobSnapshot
from after_check.domain.modules import Module
from after_check.domain.tries import Arrangement, SoakSaid, Started, Try, TryLog, TryModule
from after_check.language.short_form.writer import write_module
from after_check.language.typed_text import modules_said
from after_check.tries.blame import blame
from after_check.tries.log_json import begun_from_json, begun_to_json
from after_check.tries.notes import noted
from after_check.tries.try_words import outcome_words
from after_check.tries.watch import SIGNS
from after_check.tui.base import DraftScreen
from after_check.tui.charts.cells import wrapped
from after_check.tui.charts.tries import TriesSnapshot, board_lines, module_words
from after_check.tui.charts.try_keys import (
    LETTERS,
    OUTCOMES,
    Mark,
    beside_words,
    lettered,
    outcome_groups,
    seated,
    toggled_unseen,
    with_corrections,
)
from after_check.tui.screens.start_watch import StartWatchScreen, Watched
from after_check.tui.theme import Ink
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine
from after_check.tui.widgets.typed_line import TypedLine

_KEY_CELLS = 6
_NOTE = "a note; enter takes it"
_CORRECTED = "corrected: module"


@dataclass(frozen=True, slots=True)
class Entered:
    """A try that was written down, and the modules on the bench, also those added meanwhile; None: only the modules."""

    tried: Try | None
    modules: tuple[TryModule, ...]


class EntryBoard(Drawn):
    """The board with the try's modules and a cursor."""

    snapshot: TriesSnapshot = TriesSnapshot()
    tried: Try = Try()
    last: Arrangement = Arrangement()
    cursor = 0

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it, with what was noted of each slot beside it, and the modules that lie on the bench."""
        slots = self.snapshot.slots
        lines = [Text("THE BOARD", f"bold {Ink.MUTED}")]
        hint = "▶ up and down; a letter seats that module, - takes it out; . it is not seen, ! errors were here"
        lines += [Text(part, Ink.MUTED) for part in wrapped(hint, cells)]
        room = max(3, rows - len(lines) - 4)
        bench = len(self.snapshot.log.modules) - len(self.tried.arrangement.fitted)
        wide = room >= 2 * len(slots) + bench
        first = max(0, min(self.cursor - room // 2, len(slots) - room))
        drawn = board_lines(self.snapshot, self.tried.arrangement, self.last, cells - 13, room, self.cursor)
        for slot, line in zip(slots[first:], drawn, strict=False):
            marks = " ".join(word for word, at in (("◌ not seen", self.tried.unseen), ("✗ errors", self.tried.errors_in)) if slot in at)
            if wide:
                lines.append(Text(""))
            line.append(" " * max(1, cells - 12 - line.cell_len))
            line.append(marks, f"bold {Ink.SHORT}")
            lines.append(line)
        lines.append(Text(""))
        for module in self.snapshot.log.modules:
            if module.letter not in self.tried.arrangement.slot_of:
                words = module_words(self.snapshot.log, module.letter)
                lines.append(Text.assemble((f" {module.letter} ", f"bold {Ink.TEXT}"), (f"on the bench  {words}", Ink.MUTED)))
        return lines[:rows]


class OutcomePane(Drawn):
    """What happened, with its keys."""

    tried: Try = Try()
    said: str = ""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw every outcome with its key and whether it is set, in groups where there is room."""
        groups = outcome_groups(self.tried)
        spacious = rows >= sum(len(marks) + 2 for _, marks in groups) + 4
        packed = [_packed(marks, cells if title == "SIGNS" and not spacious else 0) for title, marks in groups]
        halves = rows < sum(len(drawn) for drawn in packed) + 2
        if halves:
            packed = [[marks[at : at + 2] for at in range(0, len(marks), 2)] for _, marks in groups]
        lines: list[Text] = []
        for (title, _), drawn in zip(groups, packed, strict=True):
            if spacious:
                lines.append(Text(title, f"bold {Ink.MUTED}"))
            for marks in drawn:
                line = Text(no_wrap=True)
                for key, words, is_set in marks:
                    piece = Text.assemble(
                        (f" {key} ", f"bold {Ink.PROMISED}"),
                        ("● " if is_set else "○ ", Ink.TEXT if is_set else Ink.MUTED),
                        (words, f"bold {Ink.TEXT}" if is_set else Ink.TEXT),
                    )
                    piece.truncate(cells // 2 if halves else cells, overflow="ellipsis", pad=halves)
                    piece.append("" if halves else " ")
                    line.append_text(piece)
                lines.append(line)
            if spacious:
                lines.append(Text(""))
        said = "; ".join(beside_words(self.tried))
        lines += [Text(f" {part}", f"bold {Ink.PROMISED}") for part in wrapped(self.said, cells - 2)]
        lines += [Text(f" {part}", Ink.MUTED) for part in wrapped(said, cells - 2)]
        return lines[:rows]


def _packed(marks: list[Mark], cells: int) -> list[list[Mark]]:
    """Return marks in lines: two on one line where both fit."""
    lines: list[list[Mark]] = []
    for mark in marks:
        if lines and len(lines[-1]) == 1 and 2 * _KEY_CELLS + cell_len(lines[-1][0][1]) + cell_len(mark[1]) <= cells:
            lines[-1].append(mark)
        else:
            lines.append([mark])
    return lines


class TryEntryScreen(DraftScreen[Entered | None]):
    """Enters one try and returns it; what was begun and not kept is found again."""

    CSS_PATH = "try_entry.tcss"
    AUTO_FOCUS = ""
    HELP_TITLE = "A try"
    HELP_LINES = (
        "Up and down choose a slot; a letter seats that module there and takes it out of where it was.",
        "Digits say what happened, capitals are signs; enter keeps the try. The last line shows what it would say.",
        "+ adds a module to the bench, in your own words: 2 sticks of 8 GB DDR4 2400; known good is a borrowed one.",
        "ctrl+e corrects the module in the chosen slot. A note (tab) that says what the machine shows fills the table:",
        "runs at 2400, total 16 GB, dual channel. So does where errors lay, and how hot it was: bit 17, A2: 14 corrected, 84 °C.",
        "7 and 8: how often it was started with nothing touched, and how many failed. A note says it too: 2 of 5 starts failed.",
        "A note that begins with put right (put right: fan plugged in) says that a cause is gone from this try on.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("enter", "keep", "keep"),
        Binding("up,down", "cursor", "slot", show=False),
        Binding("W", "watch", "start watch", tooltip="a clock for this start"),
        Binding("tab", "note", "note", tooltip="write a note", priority=True),
        Binding("ctrl+e", "correct_module", "correct module", tooltip="correct what is known of the module in the chosen slot"),
        Binding("plus", "module", "add a module", tooltip="a module that is not in the list yet"),
        Binding("escape", "back", "back", tooltip="back; what was begun is kept as a draft"),
    ]

    def __init__(self, job: JobSnapshot, log: TryLog, begun: Try, watch: bool = False, new: bool = True, kept_already: str = "") -> None:
        """Begin with a try; `kept_already` is the draft of one that is on its way to the store, and not to be brought back."""
        super().__init__()
        self._kept_already = kept_already
        self._job = job
        self.draft_place = f"try:{job.job.facts.number}"
        self._entry_log = log
        self._tried = begun
        self._new = new
        self._begin_watch = watch
        self._cursor = 0
        self._touched = self._modules_changed = False

    def draft_text(self) -> str:
        """Return the try as it is so far, with the modules that it speaks of."""
        return begun_to_json(replace(self._tried, note=self._note_so_far()), self._entry_log.modules)

    def _note_so_far(self) -> str:
        line = self.query_one("#entry-note", Input)
        return line.value if line.display and line.placeholder == _NOTE else self._tried.note

    @on(Input.Changed, "#entry-note")
    def note_typed(self) -> None:
        """Keep a note while it is typed."""
        if self._new and self._note_so_far() != self._tried.note:
            self._touched = True
            self.keep_draft()

    def compose(self) -> ComposeResult:
        """Lay out board and outcomes."""
        yield JobHeader(id="entry-header")
        with Horizontal(id="entry-body"):
            yield EntryBoard(id="entry-board")
            yield OutcomePane(id="entry-outcomes")
        note = TypedLine(id="entry-note", placeholder=_NOTE)
        note.select_on_focus = False  # A key must not take the place of what was noted before.
        yield note
        yield KeysLine()

    async def on_mount(self) -> None:
        """Show the try, or the one that was begun and not kept."""
        note = self.query_one("#entry-note", Input)
        note.display = False
        header = self.query_one(JobHeader)
        header.snapshot = self._job
        self._slots()
        self._show()
        draft = await self.left_unfinished() if self._new else ""
        if draft and draft != self._kept_already:
            with contextlib.suppress(ValueError):
                self._tried, modules = begun_from_json(draft)
                self._entry_log = replace(self._entry_log, modules=with_corrections(self._entry_log.modules, modules))
                self.notify("a try that was begun and not kept is back", timeout=6)
        self._slots()
        self._show()
        if self._begin_watch:
            self.action_watch()

    def _slots(self) -> None:
        slots = self._board_slots()
        filled = [at for at, slot in enumerate(slots) if slot in self._tried.arrangement.module_in]
        self._cursor = filled[0] if filled else 0

    def _board_slots(self) -> tuple[str, ...]:
        return TriesSnapshot(self._entry_log).slots or ("A1", "A2", "B1", "B2")

    def _show(self) -> None:
        board, outcomes = self.query_one(EntryBoard), self.query_one(OutcomePane)
        log = replace(self._entry_log, slots=self._board_slots())
        board.snapshot, board.tried, board.cursor = TriesSnapshot(log), self._tried, self._cursor
        board.last = self._entry_log.last.arrangement if self._entry_log.last is not None else Arrangement()
        outcomes.tried = self._tried
        board.refresh()
        outcomes.refresh()
        self.weigh()

    @work(exclusive=True, group="weigh")
    async def weigh(self) -> None:
        """Say what the tries would say with this one, as soon as it is worked out."""
        said = ""
        if self._new and (self._tried.failed or self._tried.worked):
            log = replace(self._entry_log, tries=(*self._entry_log.tries, self._tried))
            found = await asyncio.to_thread(blame, log, self._job.job.card)
            said = f"{outcome_words(self._tried).capitalize()}. {found.says}"
        for outcomes in self.query(OutcomePane):  # The view may have been left while it was worked out.
            outcomes.said = said
            outcomes.refresh()

    def _change(self, tried: Try) -> None:
        self._tried = tried
        self._touched = True
        if self._new:
            self.keep_draft()
        self._show()

    def on_key(self, event: events.Key) -> None:
        """Take letters, digits and signs."""
        if self.query_one("#entry-note", Input).has_focus:
            return
        if event.key in ("up", "down"):
            slots = self._board_slots()
            self._cursor = (self._cursor + (1 if event.key == "down" else -1)) % len(slots)
            self._show()
        elif event.character and self._take(event.character):
            event.stop()

    def _take(self, key: str) -> bool:
        """Change the try by one key; return whether the key means anything."""
        tried, slot = self._tried, self._board_slots()[self._cursor]
        letters = {module.letter for module in self._entry_log.modules}
        if key in letters or key == "-":
            self._change(replace(tried, arrangement=seated(tried.arrangement, slot, key, self._board_slots()), seen=None, errors_in=()))
        elif key in OUTCOMES:
            self._change(OUTCOMES[key](tried))
        elif key == "." and slot in tried.arrangement.module_in:
            self._change(toggled_unseen(tried, slot))
        elif key == "!" and slot in tried.arrangement.module_in:
            errors = tuple(other for other in tried.errors_in if other != slot) if slot in tried.errors_in else (*tried.errors_in, slot)
            self._change(
                replace(tried, soak=SoakSaid.ERRORS if errors else tried.soak, errors_in=errors, started=tried.started or Started.YES)
            )
        elif key in SIGNS:
            sign = SIGNS[key]
            signs = tuple(other for other in tried.signs if other != sign) if sign in tried.signs else (*tried.signs, sign)
            self._change(replace(tried, signs=signs))
        else:
            return False
        return True

    def action_note(self) -> None:
        """Write a note."""
        note = self.query_one("#entry-note", Input)
        if note.has_focus:
            note.display = False
            self.set_focus(None)
            return
        note.display = True
        note.placeholder, note.value = _NOTE, self._tried.note
        # At once, so that what is typed right behind the key goes into the line and is no command.
        self.set_focus(note)

    def action_module(self) -> None:
        """Ask for another module, or several, in words or in the short form."""
        note = self.query_one("#entry-note", Input)
        note.display = True
        note.value = ""
        note.placeholder = "another module, for instance 16 GB DDR4-2400 sodimm serial 12AB; known good is a borrowed one; enter takes it"
        # At once, so that what is typed right behind the key goes into the line and is no command.
        self.set_focus(note)

    def action_correct_module(self) -> None:
        """Ask what the module in the chosen slot is; what is corrected holds for every try."""
        letter = self._tried.arrangement.module_in.get(self._board_slots()[self._cursor])
        module = self._entry_log.by_letter.get(letter or "")
        if module is None:
            self.notify("choose a slot with a module first", severity="warning", timeout=4)
            return
        note = self.query_one("#entry-note", Input)
        note.display, note.value = True, module.words
        note.placeholder = f"{_CORRECTED} {module.letter}: 16 GB DDR4-2400 sodimm ecc; enter takes it"
        self.set_focus(note)

    def _correct(self, letter: str, modules: tuple[Module, ...]) -> None:
        corrected = tuple(
            replace(one, words=write_module(modules[0]), module=modules[0]) if one.letter == letter and modules else one
            for one in self._entry_log.modules
        )
        self._take_modules(corrected)

    @on(Input.Submitted, "#entry-note")
    def line_given(self, event: Input.Submitted) -> None:
        """Take the note, or the module."""
        event.stop()
        if event.input.placeholder.startswith("another"):
            new, left_over, problems = lettered(event.value, {module.letter for module in self._entry_log.modules})
            if problems:  # The line stays as it is: nothing typed is lost.
                self.notify(str(problems[0]), severity="warning", timeout=8)
                return
            self._add_modules(new, left_over)
        elif event.input.placeholder.startswith(_CORRECTED):
            modules, problems = modules_said(event.value)
            if problems or len(modules) != 1:
                self.notify(str(problems[0]) if problems else "one module is wanted here", severity="warning", timeout=8)
                return
            self._correct(event.input.placeholder.removeprefix(_CORRECTED).split(":")[0].strip(), modules)
        else:
            self._change(noted(self._tried, event.value))
        event.input.display = False
        self.set_focus(None)

    def _add_modules(self, new: tuple[TryModule, ...], left_over: int) -> None:
        if new:
            self._take_modules((*self._entry_log.modules, *new))
            letters = " and ".join(module.letter for module in new)
            self.notify(f"it is module {letters}" if len(new) == 1 else f"they are modules {letters}", timeout=4)
        if left_over:
            self.notify(f"a log of tries has {len(LETTERS)} modules at most", severity="warning", timeout=6)

    def _take_modules(self, modules: tuple[TryModule, ...]) -> None:
        """Take other modules: what is known of them holds for every try, also where this one is not kept."""
        self._entry_log = replace(self._entry_log, modules=modules)
        self._modules_changed = True
        self._change(self._tried)

    def action_watch(self) -> None:
        """Watch the start of this arrangement."""

        def watched(found: Watched | None) -> None:
            if found is not None:
                self._change(found.into(self._tried))
            elif self._begin_watch and not self._touched:
                self.dismiss(None)  # Left without an answer: back to where the watch was asked for.

        if self._new and self._touched:
            self.workers.cancel_group(self, "draft")
            self.keep_now(self.draft_text())  # A start takes its time, and what was entered before it is not to wait for the end.
        self.app.push_screen(StartWatchScreen(self._job, self._entry_log, self._tried.arrangement), watched)

    def action_keep(self) -> None:
        """Return the try."""
        if self.query_one("#entry-note", Input).has_focus:
            return
        if not self._tried.arrangement.fitted:
            self.notify("no module is fitted: a try needs an arrangement", severity="warning", timeout=5)
            return
        if self._new:
            # It is forgotten once the log is kept, by whoever keeps it.
            self.workers.cancel_group(self, "draft")
            self.keep_now(self.draft_text())
        tried = self._tried if self._tried.at else replace(self._tried, at=datetime.now(UTC).replace(microsecond=0))
        self.dismiss(Entered(tried, self._entry_log.modules))

    def action_back(self) -> None:
        """Leave the note, or go back; the draft stays until it is kept or the same is left once more unchanged."""
        note = self.query_one("#entry-note", Input)
        if note.has_focus:
            note.display = False
            self.set_focus(None)
            return
        if self._new and self._touched:
            self.keep_now(self.draft_text())
        self.dismiss(Entered(None, self._entry_log.modules) if self._modules_changed else None)
