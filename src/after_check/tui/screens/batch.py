"""A batch of machines: one promise, a reading of each, and the few that differ from the rest with their reasons."""

from __future__ import annotations

import asyncio
import time
from dataclasses import replace
from pathlib import Path
from typing import ClassVar

from rich.text import Text
from textual import on, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import VerticalScroll
from textual.timer import Timer
from textual.widgets import OptionList, Static

from after_check.casework.batch import Batch, JudgedMachine
from after_check.domain.standing import Verdict
from after_check.files.errors import SourceError
from after_check.local.recent import remember, remembered
from after_check.shop.batches import KeptBatch, latest_batch
from after_check.shop.errors import ShopError
from after_check.sources.many import sources_in
from after_check.sources.open_source import take_promise
from after_check.tui.base import ShopScreen
from after_check.tui.charts.batch import BatchSnapshot, machine_lines
from after_check.tui.charts.cells import joined, wrapped
from after_check.tui.charts.promise import promise_words
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.long_work import LongWork
from after_check.tui.theme import Ink
from after_check.tui.widgets.batch_panes import BatchHead, ColumnNames, MachineList
from after_check.tui.widgets.keys_line import KeysLine
from after_check.tui.work.batch import Reader, judge_kept, make_job, read_machines, take_before, write_batch
from after_check.tui.work.batch_in_hand import InHand
from after_check.tui.work.letting_in import LettingIn
from after_check.tui.worker_messages import BatchRead, MachineJudged, ReadingBegun

_PLACE = "batches"
_SHOW_SECONDS = 0.3
_EMPTY = (
    "Thirty equal machines, one promise: press o and name a folder with a reading of each (a copied tree or a file), "
    "or a list with one source a line: NAME = ssh://USER@HOST, redfish+https://HOST, or a path."
)


class BatchScreen(LongWork, ShopScreen[str]):
    """Reads and shows a batch; closes with the number of a job that was made of one of its machines."""

    CSS_PATH = "batch.tcss"
    HELP_TITLE = "A batch of machines"
    HELP_LINES = (
        "One promise for all: those that differ from the rest stand first, with their reasons; below, the chosen one.",
        "Every reading is kept on this computer as it comes: a program that was stopped reads on where it was.",
    )
    STOPS_FIRST = False
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("o", "open", "open", tooltip="name a folder of readings, or a list of sources"),
        Binding("p", "promise", "promise", tooltip="what was promised for each machine"),
        Binding("b", "before", "on arrival", tooltip="a folder or list of the readings on arrival"),
        Binding("r", "read(True)", "read again", tooltip="read every machine again"),
        Binding("g", "read(False)", "go on", tooltip="read those that are not read yet, or could not be"),
        Binding("a", "let_in", "let in", tooltip="compare the host key of the chosen machine, or give its own password"),
        Binding("w", "password", "password", tooltip="a password for all machines of the batch"),
        Binding("x", "stop", "stop", tooltip="stop reading; what was read stays"),
        Binding("j", "job", "make a job", tooltip="a job on the bench of the chosen machine"),
        Binding("e", "export", "write it", tooltip="the summary sheet as PDF, and the table as CSV"),
        Binding("escape", "back", "bench", tooltip="back to the bench"),
    ]

    def __init__(self) -> None:
        super().__init__()
        self._kept: KeptBatch | None = None
        self.machines: dict[str, JudgedMachine] = {}
        self._read_lately: set[str] = set()
        """The machines that were read since what is kept was looked at last."""
        self._whole = 0
        self.in_hand = InHand()
        self._shown_at = 0.0
        self._show_soon: Timer | None = None
        self._letting_in = LettingIn()
        self._offers_to_let_in = False

    def compose(self) -> ComposeResult:
        """Lay out the view."""
        yield BatchHead(id="batch-head")
        yield ColumnNames(id="batch-names")
        yield MachineList(id="batch-machines")
        with VerticalScroll(id="batch-chosen"):
            yield Static(id="batch-chosen-text", markup=False)
        yield KeysLine()

    def on_mount(self) -> None:
        """Show the batch that was open last."""
        self.app.theme_changed_signal.subscribe(self, lambda _: self._show())
        self.load()

    @on(MachineList.Resized)
    def on_resize(self) -> None:
        """Draw again for another width."""
        self.call_after_refresh(self._show)

    def on_unmount(self) -> None:
        """Leave nothing behind that reads on."""
        self.in_hand.stop()

    @work(exclusive=True, group="load")
    async def load(self) -> None:
        """Judge what was kept of the batch."""
        if self._kept is None:
            self._kept = await asyncio.to_thread(latest_batch)
        await self._judge_anew()

    async def _judge_anew(self) -> None:
        kept = self._kept
        if kept is not None:
            promise = take_promise(kept.facts.promise) if kept.facts.promise else None
            self._read_lately.clear()
            batch, no_cards = await asyncio.to_thread(judge_kept, kept, promise, self.shop.cards.all)
            if no_cards is not None:
                self.notify(_without_cards(no_cards), severity="warning", timeout=10)
            # A machine that was read meanwhile is newer than what was looked at.
            lately = {name: machine for name, machine in self.machines.items() if name in self._read_lately}
            self.machines = {machine.name: machine for machine in batch.machines} | lately
            self._whole = len(kept.facts.machines)
        self._show()

    def _snapshot(self) -> BatchSnapshot:
        kept = self._kept
        if kept is None:
            return BatchSnapshot()
        order = {name: index for index, name in enumerate(kept.facts.machines)}
        machines = sorted(self.machines.values(), key=lambda machine: order.get(machine.name, 0))
        facts = kept.facts
        words = promise_words(take_promise(facts.promise)) if facts.promise else ""
        under_way, left = self.in_hand.is_on, self.in_hand.left_seconds
        batch = Batch(tuple(machines))
        return BatchSnapshot(facts.source, facts.promise, words, batch, self._whole, under_way, facts.read_at, left)

    def _show(self) -> None:
        self._shown_at = time.monotonic()
        if self._show_soon is not None:
            self._show_soon.stop()
            self._show_soon = None
        snapshot = self._snapshot()
        machines = self.query_one(MachineList)
        self.set_class(not snapshot.batch.machines, "-empty")
        self.query_one(BatchHead).snapshot = snapshot
        machines.show(snapshot)
        machines.focus()
        self._explain()
        self.refresh_bindings()

    @property
    def chosen(self) -> JudgedMachine | None:
        """The machine under the cursor."""
        return self.query_one(MachineList).chosen

    @on(OptionList.OptionHighlighted, "#batch-machines")
    def _explain(self) -> None:
        cells = max(30, self.query_one("#batch-chosen").size.width - 3)
        chosen = self.chosen
        if chosen is not None:
            lines = machine_lines(chosen, cells)
        else:
            lines = [Text(part, Ink.TEXT) for part in wrapped("reading ..." if self.in_hand.is_on else _EMPTY, cells)]
        self.query_one("#batch-chosen-text", Static).update(joined(lines))
        wants = chosen is not None and self._letting_in.wants(chosen.name)
        if wants != self._offers_to_let_in:
            self._offers_to_let_in = wants
            self.refresh_bindings()

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Offer what makes sense."""
        if action == "let_in":
            return self.chosen is not None and self._letting_in.wants(self.chosen.name)
        if action in ("promise", "before"):
            return self._kept is not None
        if action == "read":
            unread = any(machine.judgement is None for machine in self.machines.values()) or len(self.machines) < self._whole
            return self._kept is not None and not self.in_hand.is_on and (bool(parameters[0]) or unread)
        return bool(self.machines) if action in ("job", "export") else super().check_action(action, parameters)

    @property
    def is_under_way(self) -> bool:
        """Whether machines are being read."""
        return self.in_hand.is_on

    def stop_work(self) -> None:
        """Stop reading; it is taken up again later."""
        self.in_hand.stop()
        self._show()

    def leave(self) -> None:
        """Go back to the bench; what is being read stops."""
        self.in_hand.stop()
        self.dismiss(None)

    def action_open(self) -> None:
        """Ask for a source."""

        def given(text: str | None) -> None:
            if text:
                self.open_batch(str(Path(text).expanduser()))

        places = remembered(_PLACE)
        question = "A folder with a reading of each machine (a copied tree or a file), or a list with one source a line."
        value = self._kept.facts.source if self._kept is not None else places[0] if places else ""
        self.app.push_screen(AskDialog(Asked("A BATCH OF MACHINES", question, value=value, places=places)), given)

    @work(exclusive=True, group="load")
    async def open_batch(self, source: str) -> None:
        """Open a batch and read what was not read yet; one that is being read stops, and is taken up again another time."""
        try:
            await asyncio.to_thread(sources_in, Path(source))
            kept = await asyncio.to_thread(KeptBatch.begin, source)
        except (SourceError, OSError) as problem:
            self.notify(str(problem), severity="error", timeout=10)
            return
        self.in_hand.stop()
        self._kept = kept
        self._letting_in = LettingIn()
        remember(_PLACE, source)
        self.machines = {}
        await self._judge_anew()
        if kept.facts.promise:
            self.action_read(False)
        else:
            self.action_promise()

    def action_promise(self) -> None:
        """Ask for the promise; then read, where nothing was read yet."""
        kept = self._kept
        if kept is None:
            return

        def given(line: str | None) -> None:
            if not line:
                return
            try:
                kept.change(replace(kept.facts, promise=line))
            except OSError as problem:
                self.notify(str(problem), severity="error", timeout=10)
                ask(line)
                return
            self._judge_and_read()

        def ask(typed: str | None = None) -> None:
            dialog = AskDialog(Asked("PROMISED FOR EACH MACHINE", question, value=kept.facts.promise, check=take_promise), typed=typed)
            self.app.push_screen(dialog, given)

        question = "In the short form, for each machine: 2x16G DDR4-3200; dual"
        ask()

    @work(exclusive=True, group="load")
    async def _judge_and_read(self) -> None:
        """Judge by another promise; then read what was not read yet."""
        await self._judge_anew()
        if len(self.machines) < max(1, self._whole):
            self.action_read(False)

    def action_before(self) -> None:
        """Ask for the readings on arrival, and take them."""
        kept = self._kept
        if kept is None:
            return

        def given(text: str | None) -> None:
            if text:
                self._fetch_before(kept, Path(text).expanduser())

        question = "A folder or list with the readings on arrival; machines are known again by their names."
        self.app.push_screen(AskDialog(Asked("ON ARRIVAL", question, value=kept.facts.before, places=remembered(_PLACE))), given)

    @work(exclusive=True, group="before")
    async def _fetch_before(self, kept: KeptBatch, source: Path) -> None:
        """Take the readings on arrival."""
        try:
            count = await asyncio.to_thread(take_before, kept, source, self._letting_in.access)
        except (SourceError, OSError) as problem:
            self.notify(str(problem), severity="error", timeout=10)
            return
        self.notify(f"{count} readings on arrival belong to machines of this batch", timeout=6)
        self.load()

    def action_password(self) -> None:
        """Ask for a password for all machines."""
        self._letting_in.ask_for_all(self)

    def action_let_in(self) -> None:
        """Ask for what the chosen machine needs, and read it."""
        kept, chosen = self._kept, self.chosen
        if kept is not None and chosen is not None:
            self._letting_in.ask(chosen.name, self, lambda: self._read(kept, only=chosen.name))

    def action_read(self, again: bool) -> None:
        """Read the machines in the background."""
        kept = self._kept
        if kept is None or self.in_hand.is_on:
            return
        if again:
            self.workers.cancel_group(self, "load")  # What is being looked at is not the state now any more.
            self.machines = {}
        self._read(kept, again=again)

    def _read(self, kept: KeptBatch, again: bool = False, only: str | None = None) -> None:
        reader = self.in_hand.begin(kept.facts.promise, self._letting_in.access, self.shop.cards.all, self.post_message)
        self._show()
        self.read_batch(kept, again, only, reader)

    @work(thread=True, group="read")
    def read_batch(self, kept: KeptBatch, again: bool, only: str | None, reader: Reader) -> None:
        """Read, keep and judge each machine as it comes."""
        problem = ""
        try:
            read_machines(kept, again, only, reader)
        except (SourceError, OSError) as failure:
            problem = str(failure)
        except ShopError as no_cards:
            problem = _without_cards(no_cards)
        self.post_message(BatchRead(kept.folder, reader, reader.promise, problem))

    @on(ReadingBegun)
    def reading_begun(self, message: ReadingBegun) -> None:
        """Show how many machines there are before the first has answered."""
        if self._shows(message.batch):
            self._whole = message.whole
            self._show()

    @on(MachineJudged)
    def machine_judged(self, message: MachineJudged) -> None:
        """Show a machine that was just read, unless another batch was opened meanwhile."""
        if not self._shows(message.batch):
            return
        self.machines[message.machine.name] = message.machine
        self._read_lately.add(message.machine.name)
        self._letting_in.heard(message.machine.name, message.problem)
        self.in_hand.moved(message)
        # Hundreds come at once, and each drawing shows them all.
        if self._show_soon is None:
            self._show_soon = self.set_timer(max(0.0, self._shown_at + _SHOW_SECONDS - time.monotonic()), self._show)

    @on(BatchRead)
    def batch_read(self, message: BatchRead) -> None:
        """Show that the reading is over, and why where it did not end well."""
        self.in_hand.ended(message.reader)
        if not self._shows(message.batch):
            return
        if message.problem:
            self.notify(message.problem, severity="error", timeout=10)
        if self._kept is not None and message.promise != self._kept.facts.promise:
            self.load()  # It was changed while they were read.
        if self.chosen is None or self.chosen.verdict is Verdict.READY:
            self.query_one(MachineList).rows = {}  # The cursor goes to the first that differs.
        self._show()

    def _shows(self, batch: Path) -> bool:
        return self._kept is not None and self._kept.folder == batch

    def action_job(self) -> None:
        """Make a job of the chosen machine; a second press while it is made makes no second one."""
        if self.chosen is not None and not any(worker.group == "job" and not worker.is_finished for worker in self.workers):
            self._make_a_job(self.chosen.name)

    @work(exclusive=True, group="job")
    async def _make_a_job(self, name: str) -> None:
        """Keep a machine's readings and promise as a job, and show it."""
        kept = self._kept
        if kept is None:
            return
        try:
            self.dismiss(await asyncio.to_thread(make_job, self.shop, kept, name))
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)

    def action_export(self) -> None:
        """Ask where to, and write."""

        def given(text: str | None) -> None:
            if text:
                self.write_out(Path(text).expanduser())

        where = str(Path.cwd() / "batch.pdf")
        self.app.push_screen(AskDialog(Asked("WRITE THE SUMMARY TO", "The table goes beside it, as CSV.", value=where)), given)

    @work(exclusive=True, group="write")
    async def write_out(self, path: Path) -> None:
        """Write the summary sheet and the table."""
        try:
            await asyncio.to_thread(write_batch, self._snapshot(), path)
        except OSError as error:
            self.notify(f"{error.strerror or error}: {path}. Nothing was written; name another place.", severity="error", timeout=10)
            return
        self.notify(f"written: {path.name} and {path.with_suffix('.csv').name}", timeout=6)


def _without_cards(problem: ShopError) -> str:
    return f"judged without the shop's cards: {problem}"
