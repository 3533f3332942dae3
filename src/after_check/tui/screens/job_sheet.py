"""The job sheet."""

from __future__ import annotations

import asyncio
import time
from functools import partial
from typing import ClassVar

from textual import on, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, Vertical
from textual.reactive import reactive
from textual.widgets import OptionList

from after_check.casework.next_step import ToDo, next_step_of
from after_check.casework.snapshot import JobSnapshot, take_snapshot
from after_check.domain.jobs import Job
from after_check.domain.modules import MakerId
from after_check.shop.errors import ShopError
from after_check.tui.base import ShopScreen
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.views import TAKES_THE_JOB, View
from after_check.tui.widgets.job_sheet_panes import (
    AnswersLine,
    BoardPane,
    ChainLine,
    FindingsList,
    FindingsTitle,
    JobPane,
    JobSheetHeader,
    ReasonPane,
    TracksPane,
)
from after_check.tui.widgets.keys_line import KeysLine
from after_check.tui.worker_messages import SoakMoved

_SOAK_SECONDS = 3.0
_VIEWS = {
    ToDo.READ: View.READ,
    ToDo.PROMISE: View.EDITOR,
    ToDo.BEFORE: View.BEFORE,
    ToDo.TRY: View.TRIES,
    ToDo.TEST: View.SOAK,
    ToDo.SETTLE: View.HAND_BACK,
    ToDo.HAND_BACK: View.HAND_BACK,
}


class JobSheetScreen(ShopScreen[None]):
    """One job: promise, board, findings, and what to do next."""

    CSS_PATH = "job_sheet.tcss"
    HELP_TITLE = "The job sheet"
    HELP_LINES = (
        "Left the board, right the promise: every quantity on arrival (○), as promised (◇) and now (●).",
        "Below the findings, worst first, and for the chosen one the reason and what to do next.",
        "Above them its chain: the cause, what follows from it, and the act that breaks it.",
    )

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("enter", "next", "next step", show=False, tooltip="do what is to be done next; the last line names it"),
        Binding("f", "go('before fitting')", "before", show=False, tooltip="what is known before the machine is opened, and the slip"),
        Binding("r", "go('read')", "read", tooltip="take a reading: this machine, a folder or file, or typed"),
        Binding("e", "go('promise')", "promise", tooltip="change the promise, the name, the machine, the customer"),
        Binding("o", "other_board", "boards", show=False, tooltip="the board now, on arrival, as promised"),
        Binding("w", "sources", "sources", show=False, tooltip="show where each value comes from"),
        Binding("s", "go('soak')", "memory test", tooltip="test the memory: start a test, watch it, see what it found"),
        Binding("g", "go('benchmark')", "benchmark", tooltip="did it help? bandwidth and latency before and now, scores of other programs"),
        Binding("d", "go('demand')", "in use", tooltip="what the customer's work takes, against the old total"),
        Binding("t", "go('tries')", "tries", tooltip="what was tried, who is to blame, and what to try next"),
        Binding("f6", "go('hands')", "hands", show=False, tooltip="with a module in your hand: one move, two answers, in large letters"),
        Binding("m", "go('modules')", "modules", tooltip="the modules side by side: timings in ns, who made them"),
        Binding("c", "go('ceilings')", "limits", tooltip="what limits the speed, and what would lift it"),
        Binding("v", "go('compare')", "compare", tooltip="any two readings of this job against each other"),
        Binding("k", "go('card')", "model", show=False, tooltip="what is known of this machine's model: slots, channels, limits"),
        Binding("n", "name_maker", "name maker", tooltip="name a maker that a module gives only as a code"),
        Binding("h", "go('hand back')", "hand back", tooltip="the sheet for the customer, as PDF and drawings"),
        Binding("b", "board_or_tracks", "board", tooltip="on a narrow screen: the board or the promise"),
        Binding("escape", "back", "bench", tooltip="back to the bench"),
    ]

    snapshot: reactive[JobSnapshot | None] = reactive(None, repaint=False, always_update=True)

    def __init__(self, number: str) -> None:
        super().__init__()
        self._number = number
        self._looked_at = 0.0
        self._wanted = ""
        self.is_fetching = False
        self._told_damage = False

    def compose(self) -> ComposeResult:
        """Lay out the sheet."""
        yield JobSheetHeader(id="job-header")
        yield AnswersLine(id="job-answers")
        with Horizontal(id="job-upper"):
            yield BoardPane(id="job-board")
            yield TracksPane(id="job-tracks")
        yield ChainLine(id="job-chain", classes="-empty")
        with Horizontal(id="job-lower"):
            with Vertical(id="job-findings-pane"):
                yield FindingsTitle(id="job-findings-title")
                yield FindingsList(id="job-findings")
            yield ReasonPane(id="job-reason")
        yield KeysLine()

    def on_mount(self) -> None:
        """Fetch the job."""
        self.app.theme_changed_signal.subscribe(self, lambda _: self.watch_snapshot(self.snapshot))
        self.load()

    @work(exclusive=True)
    async def load(self) -> None:
        """Fetch and judge the job."""
        try:
            self.snapshot = await asyncio.to_thread(lambda: take_snapshot(self.shop.jobs.job(self._number)))
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)
            self.is_fetching = False
            if self.snapshot is None:
                self.dismiss()  # Otherwise the job stays on the screen as it was known last.
            return
        self.is_fetching = False
        if self.snapshot is not None and self.snapshot.job.damaged and not self._told_damage:
            self._told_damage = True
            words = "; ".join(self.snapshot.job.damaged)
            self.notify(
                f"A part of this job is damaged: {words}. The rest is as it was; a backup may have it whole.",
                severity="warning",
                timeout=20,
            )
        if self._wanted:
            view, self._wanted = self._wanted, ""
            self.action_go(view)

    @property
    def next_step(self) -> str:
        """What enter does, in a few words."""
        return next_step_of(self.snapshot).words if self.snapshot is not None else ""

    def action_next(self) -> None:
        """Do what is to be done next."""
        if self.snapshot is not None:
            self.action_go(_VIEWS[next_step_of(self.snapshot).doing])

    def show_job(self, job: Job) -> None:
        """Show a job that was just changed."""
        self._number = job.facts.number
        self.snapshot = take_snapshot(job)

    def watch_snapshot(self, snapshot: JobSnapshot | None) -> None:
        """Show the job as it is now."""
        if snapshot is None:
            return
        for pane in self.query(JobPane):
            pane.snapshot = snapshot
        findings = self.query_one(FindingsList)
        findings.show(snapshot.judgement.findings)
        findings.focus()
        self.refresh_bindings()
        self._explain()

    def on_resize(self) -> None:
        """Draw the texts again for the new width."""
        self.refresh_bindings()
        self.call_after_refresh(self.watch_snapshot, self.snapshot)

    @on(OptionList.OptionHighlighted, "#job-findings")
    def _explain(self) -> None:
        if self.snapshot is None:
            return
        chosen = self.query_one(FindingsList).highlighted
        finding = self.snapshot.finding(chosen) if chosen is not None else None
        chain = self.query_one(ChainLine)
        chain.finding = finding
        chain.fit()
        board = self.query_one(BoardPane)
        board.pointed_at = frozenset(finding.slots) if finding else frozenset()
        board.refresh()
        if self.query_one(TracksPane).with_sources:
            self.query_one(ReasonPane).show_sources(self.snapshot, board.shown)
        else:
            self.query_one(ReasonPane).show(self.snapshot, finding)

    def action_go(self, name: str) -> None:
        """Go to another view of the job; a key that comes before the job is there waits for it."""
        view = View(name)
        if self.snapshot is None:
            self._wanted = view
            return
        if self._has(view):
            given = self.snapshot.job if view in TAKES_THE_JOB else self.snapshot
            self.app.push_screen(self.shop_app.view(view, given), partial(self._came_back, view))

    def _came_back(self, view: View, result: object) -> None:
        """Show the job as it is after another view; the hand-back names the view that fixes what it lacks."""
        if isinstance(result, Job):
            self.show_job(result)
            return
        if view is View.BEFORE:  # It changes nothing: what comes next is there at once.
            if isinstance(result, View):
                self.action_go(result)
            return
        if isinstance(result, View):
            self._wanted = result
        elif isinstance(result, str) and view is View.EDITOR:
            self._number = result
        self.is_fetching = True  # A key that is struck now must not show the job as it was before that view.
        self.load()

    def _has(self, view: View) -> bool:
        """Return whether there is something to see in a view."""
        return view is not View.COMPARE or (self.snapshot is not None and len(self.snapshot.job.readings) > 1)

    def soak_moved(self, message: SoakMoved) -> None:
        """Follow a soak of this job."""
        if message.job == self._number and time.monotonic() - self._looked_at >= _SOAK_SECONDS:
            self._looked_at = time.monotonic()
            self.load()

    def _unnamed(self) -> tuple[MakerId, str] | None:
        """Return code and slot of the first module whose maker has a code and no name."""
        for board in self.snapshot.boards() if self.snapshot else ():
            for slot, module in board.reading.filled():
                if module.maker is None and module.maker_id is not None:
                    return module.maker_id.value, slot
        return None

    def action_name_maker(self) -> None:
        """Ask for the name of a maker that is only a code."""
        found = self._unnamed()
        if found is not None:
            maker, slot = found

            self._ask_maker(maker, slot)

    def _ask_maker(self, maker: MakerId, slot: str | None, typed: str | None = None) -> None:
        def named(name: str | None) -> None:
            if name:
                self.keep_name(maker, slot, name)

        dialog = AskDialog(
            Asked(
                "WHO MADE THIS MODULE?",
                f"The module in {slot or 'no named slot'} gives its maker as {maker} only.",
                "The name on its sticker counts for all modules of this shop with that code.",
                placeholder="the name on the sticker",
            ),
            typed=typed,
        )
        self.app.push_screen(dialog, named)

    @work(exclusive=True)
    async def keep_name(self, maker: MakerId, slot: str | None, name: str) -> None:
        """Keep the name for this shop and show it; where it cannot be kept, it is asked for again."""
        try:
            await asyncio.to_thread(self.shop.cards.name_maker, maker, name)
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)
            self._ask_maker(maker, slot, name)
            return
        self.load()

    def action_other_board(self) -> None:
        """Show the next board: now, on arrival, as promised."""
        board = self.query_one(BoardPane)
        board.shown += 1
        board.refresh()
        self._explain()

    def action_sources(self) -> None:
        """Show or hide where each value comes from."""
        tracks = self.query_one(TracksPane)
        tracks.with_sources = not tracks.with_sources
        tracks.refresh()
        self._explain()

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Offer the change between board and promise only where there is no room for both."""
        if action == "go":
            return self.snapshot is None or self._has(View(str(parameters[0])))
        if action == "name_maker":
            return self._unnamed() is not None
        return self.has_class("-narrow") if action == "board_or_tracks" else True

    def action_board_or_tracks(self) -> None:
        """On a narrow screen, change between board and promise."""
        self.toggle_class("show-board")

    def action_back(self) -> None:
        """Go back to the bench."""
        self.dismiss()
