"""Taking a reading: one line that understands this machine, a folder or file, and notation."""

from __future__ import annotations

import asyncio
from dataclasses import replace
from typing import ClassVar

from rich.text import Text
from textual import on, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal
from textual.widgets import Input, Label

from after_check.casework.adding import last_reading, slot_names, taken_with_last, with_last
from after_check.casework.promised import promise_of
from after_check.domain.cards import Card
from after_check.domain.jobs import Job, Moment
from after_check.domain.modules import Module
from after_check.domain.readings import Reading
from after_check.files.errors import SourceError
from after_check.language.examples import said_after_fitting, said_on_arrival
from after_check.language.short_form import write
from after_check.language.short_form.edit import emptied, put
from after_check.language.typed_text import modules_said, read_line
from after_check.local.recent import remember, remembered
from after_check.shop.errors import KeptAsideError, ShopError
from after_check.sources.evidence import PHOTO, RawEvidence, Taken, with_evidence
from after_check.sources.open_source import NETWORK, take
from after_check.sources.trust import Access, PasswordNeededError, TrustNeededError
from after_check.tui.dialogs.choose import trust_dialog
from after_check.tui.dialogs.first_start import FirstStart, FirstStartDialog
from after_check.tui.entry_screen import EntryScreen
from after_check.tui.long_work import LongWork
from after_check.tui.theme import Ink
from after_check.tui.this_machine import OnThisMachine
from after_check.tui.widgets.entry import Chips, EntryLine, examples_words
from after_check.tui.widgets.keys_line import KeysLine
from after_check.tui.widgets.notation_board import NotationBoard
from after_check.tui.widgets.reading_lines import READING_HINT, ReadingLines, holds_password, is_path
from after_check.tui.widgets.verdict_preview import VerdictPreview
from after_check.tui.worker_messages import AccessNeeded, ReadingFailed, ReadingTaken

_PLACES = "readings"
_MOMENT_WORDS = {Moment.ARRIVAL: "on arrival", Moment.FITTED: "after fitting"}


class ReadingScreen(LongWork, OnThisMachine[Job | None], EntryScreen[Job | None]):
    """Takes a reading for a job; returns the job with the reading in it, or nothing."""

    INSTEAD = (("c", "read another machine: show what to type there"), ("e", "type an address, or what its screen shows"))
    HERE_WORDS = "it is the job's machine all the same, with another board or other memory: read it"

    CSS_PATH = "reading.tcss"
    HELP_TITLE = "Taking a reading"
    HELP_LINES = (
        "An empty line reads this machine. A path reads a folder or a file. Anything else is your own words, or the short form.",
        "Nothing of the job changes until the reading is there and kept.",
    )

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("f2", "other_moment", "arrival/fitted", tooltip="is this the reading on arrival, or after fitting?"),
        Binding("f3", "system", "system", tooltip="a second line for what the system shows; the first is then the firmware page"),
        Binding("ctrl+l", "last", "last reading", tooltip="bring the last reading back as a line to change"),
        Binding("f4", "board", "correct on the board", tooltip="move, empty, copy, change modules on the drawing"),
        Binding("f5", "first_start", "first start", tooltip="the notice that memory changed, cleared settings, how it started"),
        Binding("f6", "answer(0)", "first answer", tooltip="answer the question beneath the line"),
        Binding("f7", "answer(1)", "second answer", show=False),
        Binding("f9", "answer(2)", "third answer", show=False),
        Binding("f8", "note", "keep as a note", show=False, tooltip="keep what is not understood as a note"),
        Binding("escape", "back", "back", tooltip="back; stops a reading that is under way"),
    ]

    def __init__(self, job: Job) -> None:
        super().__init__()
        self._job = job
        self._moment = Moment.FITTED if job.arrival is not None else Moment.ARRIVAL
        self.is_busy = False
        self._access = Access()
        self._slot = ""
        self._photo: tuple[RawEvidence, ...] = ()
        """The photo that the line was read off, with the text as it was recognised."""
        self._first_start = FirstStart()
        self.draft_place = f"reading {job.uid}"

    @property
    def entry(self) -> ReadingLines:
        """The lines that are typed."""
        return self.query_one(ReadingLines)

    def compose(self) -> ComposeResult:
        """Lay out the lines and the drawing."""
        yield ReadingLines(remembered(_PLACES), id="reading-lines")
        with Horizontal(id="reading-lower"):
            yield NotationBoard(id="reading-board")
            yield VerdictPreview(id="reading-preview")
        yield KeysLine()

    def on_mount(self) -> None:
        """Begin at the line."""
        self._title()
        self._give_examples()
        self.query_one(NotationBoard).known_slots = slot_names(self._job, self._moment)
        self._draw()
        self.entry.line.focus()
        self.bring_back()

    def draft_text(self) -> str:
        """Return the line, unless it is an address: that may hold a password."""
        return self.entry.draft

    @work(exclusive=True, group="bring back")
    async def bring_back(self) -> None:
        """Bring back what was left unfinished, unless something is typed already."""
        try:
            text = await self.left_unfinished()
        except ShopError:
            return  # Whoever keeps the reading is told then.
        if self.entry.bring_back(text):
            self.notify("brought back what was left unfinished", timeout=3)

    def _title(self) -> None:
        facts = self._job.facts
        text = Text()
        text.append(f"{facts.number}  {facts.title}", f"bold {Ink.TEXT}")
        text.append("   the reading ", Ink.MUTED)
        text.append(_MOMENT_WORDS[self._moment], f"bold {Ink.PROMISED}")
        text.append("  (F2 changes)", Ink.MUTED)
        text.append(f"   {self._first_start.words}" if self._first_start.words else "", f"bold {Ink.PROMISED}")
        self.query_one("#reading-title", Label).update(text)

    def _give_examples(self) -> None:
        """What people say at this moment: of this model, of what was there, of what was promised."""
        line = self.entry.line
        if self._moment is Moment.ARRIVAL:
            line.examples = said_on_arrival(self._job.card)
        else:
            last = last_reading(self._job, self._moment)
            line.examples = said_after_fitting(promise_of(self._job), last.reading if last is not None else None)

    @on(ReadingLines.Typed)
    def _line_changed(self) -> None:
        """Draw what is typed, and keep it."""
        self._draw()
        self.offer_answers()
        self.keep_draft()

    def _draw(self) -> None:
        entry, board, chips = self.entry, self.query_one(NotationBoard), self.query_one(Chips)
        line = entry.text.strip()
        if entry.is_network:
            chips.show(None)
            self.query_one(VerdictPreview).show(self._job, None)
            board.show(None, "an address", f"{line}\nPress enter to read it. Nothing is installed there; it needs sh and cat.")
            return
        parsed, is_typed = entry.read(), bool(line) and not entry.is_path
        whole = self._first_start.applied(self._whole(parsed.reading))
        chips.show(parsed if is_typed else None)
        entry.line.mark(parsed if is_typed else None)
        self.query_one(VerdictPreview).show(self._job, whole if is_typed and self._moment is Moment.FITTED else None)
        if not line:
            board.show(None, "this machine, a path, or your own words", examples_words(entry.line) + READING_HINT)
        elif not is_typed:
            board.show(None, "a path", f"{line}\nPress enter to read it.")
        else:
            board.show(replace(parsed, reading=whole), "the last reading with this added" if line.startswith("+") else "as typed")

    @on(Input.Submitted, "#reading-line,#reading-system")
    def line_done(self) -> None:
        """Take the reading."""
        if self.is_busy:
            return
        entry, line = self.entry, self.entry.text.strip()
        if line and not entry.is_network and not entry.is_path and entry.read().problems:
            self._say(f"▲ {entry.read().problems[0]}", failed=True)
            return
        if line or self.entry.system:
            self._begin(line)
        else:
            self.on_the_jobs_machine(self._job, lambda machine: self._begin(""))

    def instead(self, key: str) -> None:
        """Go back to the line, with what to type on the other machine where that was asked for."""
        self.entry.line.focus()
        if key == "c":
            self._say("on that machine: after-check collector --for sh > read.sh, run it there, and type the path of its file here")

    def _begin(self, line: str) -> None:
        self.is_busy = True
        what = line if self.entry.is_path or self.entry.is_network else "what was typed" if line else "this machine"
        self._say(f"reading {what} ... esc stops it")
        self.take_reading(line or None)

    @work(exclusive=True)
    async def take_reading(self, source: str | None) -> None:
        """Take a reading off the screen's thread and tell what came of it."""
        try:
            taken = await asyncio.to_thread(self._take, source)
            taken = replace(taken, reading=self._first_start.applied(taken.reading))
        except TrustNeededError as error:
            self.post_message(AccessNeeded(source or "", str(error), error.fingerprint))
        except PasswordNeededError as error:
            self.post_message(AccessNeeded(source or "", str(error), None))
        except SourceError as error:
            self.post_message(ReadingFailed(str(error)))
        else:
            self.post_message(ReadingTaken(taken))

    def _take(self, source: str | None) -> Taken:
        """Take a reading; what follows a + is added to the last one, with the evidence of both."""
        if source is None or source.startswith(NETWORK) or is_path(source):
            return take(source, self._access)
        added = self.with_own_words(self.entry.taken(source), self.entry.line)
        if self._photo:
            added = with_evidence(added.reading, (*added.evidence, *self._photo))
        if not source.startswith("+"):
            return added
        last = last_reading(self._job, self._moment)
        return taken_with_last(self._job, self._moment, added, self.shop.jobs.evidence(last.id) if last is not None else ())

    def action_first_start(self) -> None:
        """Note what was seen at the first start."""

        def noted(seen: FirstStart | None) -> None:
            if seen is not None:
                self._first_start = seen
                self._title()
                self._draw()

        self.app.push_screen(FirstStartDialog(self._first_start), noted)

    def action_system(self) -> None:
        """Open the line for what the system shows, or close it."""
        self.entry.toggle_system()

    def _whole(self, reading: Reading) -> Reading:
        """Return the reading that the typed line makes: itself, or the last one with it added."""
        is_added = self.entry.text.lstrip().startswith("+")
        return with_last(self._job, self._moment, reading) if is_added else reading

    @on(AccessNeeded)
    def ask(self, message: AccessNeeded) -> None:
        """Ask about a key, or for a password."""
        if not self.is_busy:
            return
        self.is_busy = False
        if message.fingerprint is not None:
            self._say(f"▲ {message.reason}", failed=True)
            self.app.push_screen(trust_dialog(message.reason), lambda yes: self._decided(message, bool(yes)))
            return
        self._say(f"▲ {message.reason}", failed=True)
        password = self.query_one("#reading-password", Input)
        password.display = True
        password.value = ""
        self.set_focus(password)

    def _decided(self, message: AccessNeeded, accepted: bool) -> None:
        if accepted:
            self._access = replace(self._access, accepted_fingerprint=message.fingerprint)
            self._begin(message.source)
        else:
            self._say("not accepted; nothing was read, and the job is as it was")

    @on(Input.Submitted, "#reading-password")
    def password_given(self, event: Input.Submitted) -> None:
        """Try again with a password; it is kept in memory only, as long as this screen is open."""
        self._access = replace(self._access, password=event.value)
        event.input.display = False
        self.entry.line.focus()
        self._begin(self.entry.text.strip())

    @on(ReadingFailed)
    def failed(self, message: ReadingFailed) -> None:
        """Say why there is no reading."""
        self.is_busy = False
        self._say(f"▲ {message.reason}", failed=True)

    @on(ReadingTaken)
    def taken(self, message: ReadingTaken) -> None:
        """Keep the reading."""
        if self.is_busy and not self._photo and any(part.name == PHOTO for part in message.taken.evidence):
            self._look_at(message.taken)
        elif self.is_busy:
            self.keep(message)

    def _look_at(self, taken: Taken) -> None:
        """Put what was recognised of a photo into the line: nothing of it is kept before somebody has looked."""
        self.is_busy = False
        self._photo = taken.evidence
        recognised = next(part.data.decode() for part in taken.evidence if part.name != PHOTO)
        self.entry.put(", ".join(recognised.splitlines()))
        self._say("▲ read off a photo: compare the line with the picture, correct it, and press enter", failed=True)

    @work(exclusive=True)
    async def keep(self, message: ReadingTaken) -> None:
        """Write the reading with its evidence into the job."""
        try:
            job = await asyncio.to_thread(self.shop.jobs.add_reading, self._job.facts.number, self._moment, message.taken)
            await self.forget_draft()
        except KeptAsideError as kept:
            await self.forget_draft()
            self.notify(str(kept), severity="warning", timeout=10)
            self.dismiss(kept.job)
            return
        except ShopError as error:
            self.post_message(ReadingFailed(str(error)))
            return
        line = self.entry.text.strip()
        if self.entry.is_path or (self.entry.is_network and not holds_password(line)):
            remember(_PLACES, line)
        self.dismiss(job)

    def _say(self, words: str, failed: bool = False) -> None:
        self.entry.say(words, failed)

    def action_other_moment(self) -> None:
        """Change between arrival and after fitting."""
        self._moment = Moment.ARRIVAL if self._moment is Moment.FITTED else Moment.FITTED
        self._title()
        self._give_examples()
        self._draw()

    def action_last(self) -> None:
        """Bring the last reading back as a line of notation."""
        last = self._job.now or self._job.arrival
        if last is not None:
            line = self.query_one("#reading-line", Input)
            line.value = write(last.reading)
            line.cursor_position = len(line.value)

    @property
    def drawn_line(self) -> EntryLine:
        """The line that the drawing and the chips are of."""
        return self.entry.line

    @property
    def known_card(self) -> Card | None:
        """The data sheet of the machine."""
        return self._job.card

    @property
    def known_modules(self) -> tuple[Module, ...]:
        """What was there on arrival."""
        return self._job.arrival.reading.modules if self._job.arrival is not None else ()

    def put(self, text: str) -> None:
        """Write another text into the line; a + that stood before it stays, and what was typed is remembered."""
        self.remember_words(text)
        self.entry.put_reading(text)

    def words_wanted(self, slot: str, words: str) -> None:
        """Let the words of one module be changed in a line of their own."""
        line = self.query_one("#reading-words", Input)
        line.display, line.value = True, words
        line.cursor_position = len(words)
        self._slot = slot
        self.set_focus(line)

    @on(Input.Submitted, "#reading-words")
    def _words_given(self, event: Input.Submitted) -> None:
        """Put the changed module into its slot, unless its words are not understood."""
        modules, problems = modules_said(event.value)
        if problems or len(modules) > 1:
            self._say(f"▲ {problems[0]}" if problems else f"▲ {len(modules)} modules do not go into one slot", failed=True)
            return
        reading = read_line(self.query_one("#reading-line", Input).value).reading
        changed = put(reading, self._slot, modules[0]) if modules else emptied(reading, self._slot)
        self.query_one("#reading-line", Input).value = write(changed)
        self._say("")
        event.input.display = False
        self.set_focus(self.query_one(NotationBoard))

    @property
    def is_under_way(self) -> bool:
        """Whether a reading is under way."""
        return self.is_busy

    def stop_work(self) -> None:
        """Stop it; the job is as it was."""
        self.is_busy = False
        self.workers.cancel_node(self)
        self._say("stopped; the job is as it was")

    def leave(self) -> None:
        """Close what was opened last: the words of a module, the password, the view."""
        words = self.query_one("#reading-words", Input)
        if self.query_one(NotationBoard).has_focus:
            self.action_board()
            return
        if words.display:
            words.display = False
            self.set_focus(self.query_one("#reading-line"))
            return
        password = self.query_one("#reading-password", Input)
        if password.display:
            password.display = False
            self.set_focus(self.query_one("#reading-line"))
            self._say("no password given; the job is as it was")
            return
        self.dismiss(None)
