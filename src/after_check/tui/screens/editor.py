"""Entering a job: three lines, drawn while they are typed. The same screen changes the promise of a job."""

from __future__ import annotations

import asyncio
import json
from dataclasses import replace
from typing import TYPE_CHECKING, ClassVar
from uuid import uuid4

from textual import on, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.widgets import Input, Label

from after_check.domain.cards import Card
from after_check.domain.jobs import Job, JobFacts, Moment
from after_check.domain.modules import Module
from after_check.domain.readings import Reading
from after_check.files.strict_json import parse_json
from after_check.language.examples import said_as_promise, said_on_arrival
from after_check.language.short_form.parser import Parsed
from after_check.language.typed_text import exact_promise, read_line, read_promise
from after_check.shop.errors import AlreadyExistsError, ShopError
from after_check.sources.evidence import Taken
from after_check.sources.open_source import take_notation
from after_check.tui.base import after_typing
from after_check.tui.entry_screen import EntryScreen
from after_check.tui.widgets.entry import Chips, EntryLine, examples_words
from after_check.tui.widgets.keys_line import KeysLine
from after_check.tui.widgets.notation_board import NotationBoard
from after_check.tui.widgets.typed_line import TypedLine

if TYPE_CHECKING:
    from after_check.shop.shop import Shop

_HINTS = {
    "names": "What people call it, the machine, the customer, separated by commas:\nTide desk, Larkfield T1, Tide-gauge office",
    "arrival": "What the machine has, as a screen or a sticker shows it (or leave it, and read the machine later):\n"
    "in the short form: A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400; dual; profile off",
    "promise": "What the job is to deliver, in your own words or in the short form:\n"
    "add 16gb        keep the 8gb, add another 8gb        the same again        twice as much\n"
    "in the short form: A2=24G DDR5-6400; B2=24G DDR5-6400; dual; profile 1",
}
_JOBS_LOOKED_AT = 4
_TITLES = {"names": "the job", "arrival": "on arrival", "promise": "as promised"}


_NUMBERS_TRIED = 5
_LINES = ("names", "arrival", "promise")


class JobEditorScreen(EntryScreen[str | None]):
    """A new job, or the names and the promise of one; returns the job's number when it was kept."""

    CSS_PATH = "editor.tcss"
    AUTO_FOCUS = ""
    HELP_TITLE = "Entering a job"
    HELP_LINES = (
        "Three lines: names, what is there, what is promised. The board draws itself while you type.",
        "What is not understood is pointed at. An unfinished new job is kept, even if the program is killed.",
    )

    draft_place = "new job"

    BINDINGS: ClassVar[list[BindingType]] = [
        # Before anything else sees it, so that what is typed right behind it goes into the next line.
        Binding("enter", "next_line", "next line", show=False, priority=True),
        Binding("ctrl+s", "keep", "keep", tooltip="keep the job (enter on the last line does the same)", priority=True),
        Binding("f4", "board", "on the board", tooltip="choose slot by slot what is in it, without typing"),
        Binding("f6", "answer(0)", "first answer", tooltip="answer the question beneath the line"),
        Binding("f7", "answer(1)", "second answer", show=False),
        Binding("f9", "answer(2)", "third answer", show=False),
        Binding("f8", "note", "keep as a note", show=False, tooltip="keep what is not understood as a note"),
        Binding("escape", "back", "back", tooltip="back without keeping; a new job stays as a draft"),
    ]

    def __init__(self, job: Job | None) -> None:
        super().__init__()
        self._is_being_kept = False
        self._job = job
        self._number = job.facts.number if job else ""
        self._uid = job.uid if job else str(uuid4())
        """A new job's identity: what is kept twice, as an answer was lost, is one job."""
        self._drawn = "names"
        """The line that the drawing is of."""
        self._lately: tuple[Reading, ...] = ()
        """What the last jobs had on arrival."""

    def compose(self) -> ComposeResult:
        """Lay out the lines and the drawing."""
        facts = self._job.facts if self._job else JobFacts("")
        names = ", ".join(part for part in (facts.title, facts.machine, facts.customer) if part)
        with Vertical(id="editor-lines"):
            yield Label("", id="editor-title", classes="title", markup=False)
            yield Label("Name, machine, customer", markup=False)
            yield TypedLine(value=names, id="names", placeholder="Tide desk, Larkfield T1, Tide-gauge office")
            if self._job is None:
                yield Label("On arrival", markup=False)
                yield EntryLine(id="arrival", placeholder="2x8gb ddr4 2400, dual channel")
                yield Chips("arrival", id="arrival-chips")
            yield Label("Promise", markup=False)
            yield EntryLine(value=facts.promise, id="promise", placeholder="2x16G DDR4-3200; dual")
            yield Chips("promise", promise=True, id="promise-chips")
        yield NotationBoard(id="editor-board")
        yield KeysLine()

    def on_mount(self) -> None:
        """Bring back a draft, and begin at the line that matters."""
        if self._job is not None:
            self.query_one("#editor-title", Label).update(f"JOB {self._number}")
            self.set_focus(self.query_one("#promise", Input))
            return
        self.set_focus(self.query_one("#names", Input))
        self.bring_back()

    @work(exclusive=True, group="bring back")
    async def bring_back(self) -> None:
        """Find the next number and what was left unfinished."""
        try:
            self._number = await asyncio.to_thread(self.shop.jobs.next_number)
            self._lately = await asyncio.to_thread(self._last_arrivals)
            draft = await self.left_unfinished()
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)
            return
        self.query_one("#editor-title", Label).update(f"NEW JOB {self._number}")
        try:
            kept = parse_json(draft) if draft else {}
        except ValueError:
            kept = {}
        if not any(kept.get(name) for name in _LINES):
            return
        if any(self._line(name) for name in _LINES):
            # Somebody types already: two jobs are never mixed. What was left unfinished makes room for this one.
            self.notify("another job was begun and not kept; this one takes its place", severity="warning", timeout=6)
            return
        self._uid = str(kept.get("uid") or self._uid)
        for name in _LINES:
            self.query_one(f"#{name}", Input).value = str(kept.get(name, ""))
        self.query_one("#names", Input).cursor_position = len(self._line("names"))
        self.notify("brought back what was begun and not kept: ctrl+u in a line empties it", timeout=5)

    def _last_arrivals(self) -> tuple[Reading, ...]:
        """Return what the last jobs had on arrival. Raises ShopError."""
        return tuple(job.arrival.reading for job in self.shop.jobs.latest(_JOBS_LOOKED_AT) if job.arrival is not None)

    @on(Input.Changed)
    def line_changed(self, event: Input.Changed) -> None:
        """Draw the line that is typed, and keep the draft."""
        self._draw(event.input.id or "")
        if self._job is None and not self._is_being_kept:
            self.keep_draft()

    def on_descendant_focus(self) -> None:
        """Draw the line that the cursor went to."""
        if isinstance(self.focused, Input):
            self._draw(self.focused.id or "")

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Go on by enter from every line but the last, which keeps the job once all of it has arrived."""
        if action == "next_line":
            return self.focused is not None and self.focused.id in ("names", "arrival")
        return super().check_action(action, parameters)

    def action_next_line(self) -> None:
        """Go to the next line."""
        at_names = self.focused is not None and self.focused.id == "names"
        self.set_focus(self.query_one("#arrival" if at_names and self.query("#arrival") else "#promise"))

    @on(Input.Submitted, "#promise")
    def line_done(self) -> None:
        """Keep the job."""
        self.action_keep()

    @property
    def drawn_line(self) -> EntryLine:
        """The line that the drawing and the chips are of."""
        return self.query_one("#promise" if self._drawn == "names" else f"#{self._drawn}", EntryLine)

    @property
    def known_card(self) -> Card | None:
        """The data sheet of the job's machine."""
        return self._job.card if self._job is not None else None

    @property
    def known_modules(self) -> tuple[Module, ...]:
        """What is there on arrival."""
        arrival = self._arrival()
        return arrival.modules if arrival is not None else ()

    def action_board(self) -> None:
        """Go to the drawing of the line, and back; names have none."""
        if self._drawn != "names":
            super().action_board()

    def draft_text(self) -> str:
        """Return the lines as they are typed."""
        lines = {name: self._line(name) for name in ("names", "arrival", "promise")}
        return json.dumps({**lines, "uid": self._uid}) if any(lines.values()) else ""

    def _line(self, name: str) -> str:
        found = self.query(f"#{name}").results(Input)
        return next((line.value for line in found), "")

    def _arrival(self) -> Reading | None:
        """Return what is there on arrival, for a promise in words: one more, the same again, twice as much."""
        if self._job is not None:
            return self._job.arrival.reading if self._job.arrival is not None else None
        typed = read_line(self._line("arrival"))
        return typed.reading if typed.line.strip() and not typed.problems else None

    def _draw(self, name: str) -> None:
        parsed: Parsed | None = None
        self._drawn = name
        if name == "arrival":
            parsed = read_line(self._line(name))
        elif name == "promise":
            parsed = read_promise(self._line(name), self._arrival())[1]
        for chips in self.query(Chips):
            chips.show(parsed if chips.id == f"{name}-chips" else None)
        examples = ""
        for line in self.query(EntryLine).filter(f"#{name}"):
            line.mark(parsed)
            if line.value:
                continue  # Examples are for an empty page; nobody needs them again at each key.
            line.examples = said_on_arrival(lately=self._lately) if name == "arrival" else said_as_promise(self._arrival())
            examples = examples_words(line)
        self.query_one(NotationBoard).show(parsed, _TITLES.get(name, ""), examples + _HINTS.get(name, ""))
        self.offer_answers()

    def action_keep(self) -> None:
        """Keep the job once all that was typed has arrived."""
        after_typing(self, self._keep_if_understood)

    def _keep_if_understood(self) -> None:
        if self._is_being_kept:
            return  # A second press while it is on its way is no second change.
        for name, problems in (
            ("arrival", read_line(self._line("arrival")).problems),
            ("promise", read_promise(self._line("promise"), self._arrival())[1].problems),
        ):
            if problems:
                self.query_one(f"#{name}", Input).focus()
                self.notify(f"{_TITLES[name]}: {problems[0]}", severity="warning", timeout=6)
                return
        if not self._line("names").strip():
            self.query_one("#names", Input).focus()
            self.notify("the job needs a name", severity="warning")
            return
        self._is_being_kept = True  # What is typed from now on is no draft: it would come back into the next job.
        self.keep()

    @work(exclusive=True, group="keep")
    async def keep(self) -> None:
        """Write the job, and forget the draft."""
        title, machine, customer = ([part.strip() for part in self._line("names").split(",", 2)] + ["", ""])[:3]
        # It is kept in the short form, the exact one.
        facts = JobFacts(self._number, title, machine, customer, exact_promise(self._line("promise"), self._arrival()))
        shop = self.shop
        try:
            if self._job is not None:
                job = await asyncio.to_thread(shop.jobs.change_facts, self._job, facts)
            else:
                line = self._line("arrival").strip()
                arrived = self.with_own_words(take_notation(line), self.query_one("#arrival", EntryLine)) if line else None
                readings: tuple[tuple[Moment, Taken], ...] = ((Moment.ARRIVAL, arrived),) if arrived is not None else ()
                job = await asyncio.to_thread(self._added, shop, facts, readings)
                await self.forget_draft()
        except ShopError as error:
            self._is_being_kept = False
            self.notify(str(error), severity="error", timeout=10)
            return
        self.dismiss(job.facts.number)

    def _added(self, shop: Shop, facts: JobFacts, readings: tuple[tuple[Moment, Taken], ...]) -> Job:
        """Keep the new job; where another bench took its number in the meantime, under the next one.

        Kept again after a silence, it is the same job: it has its identity from here.
        """
        for _ in range(_NUMBERS_TRIED):
            try:
                return shop.jobs.add(facts, readings, self._uid)
            except AlreadyExistsError:
                facts = replace(facts, number=shop.jobs.next_number())
        return shop.jobs.add(facts, readings, self._uid)

    def action_back(self) -> None:
        """Go back without keeping; from the drawing, to its line."""
        if self.query_one(NotationBoard).has_focus:
            self.action_board()
        else:
            self.dismiss(None)
