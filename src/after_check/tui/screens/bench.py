"""The bench."""

from __future__ import annotations

import asyncio
import gc
import time
from collections.abc import Callable
from typing import TYPE_CHECKING, ClassVar

from textual import on, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.widgets import Input

from after_check.domain.bench import BenchEntry, Groups, WaitsFor, grouped
from after_check.domain.quantities import counted
from after_check.local.log import logger
from after_check.local.settings import load_settings
from after_check.shop.errors import ShopError
from after_check.tui.base import ShopScreen
from after_check.tui.charts.bench import BenchSnapshot, snapshot_of
from after_check.tui.stick_here import LOOK_SECONDS, StickHere
from after_check.tui.views import View
from after_check.tui.widgets.bench_list import BenchList
from after_check.tui.widgets.bench_panes import FIRST, BenchHeader, BenchHint, SearchLine
from after_check.tui.widgets.keys_line import KeysLine

if TYPE_CHECKING:
    from after_check.tui.worker_messages import SoakMoved

_SOAK_SECONDS = 3.0
_SERVER_SECONDS = 20.0


class BenchScreen(StickHere, ShopScreen[None]):
    """The jobs on the bench, grouped by what they wait for."""

    AUTO_FOCUS = ""
    HELP_TITLE = "The bench"
    HELP_LINES = (
        "Every job is two lines: its name and four tracks in miniature, then its machine and its worst finding.",
        "━━━━━◈ as promised   ━━●╌◇ short of it   ····? not known   – not promised",
    )

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("u", "stick", "stick", tooltip="collect from the stick that is plugged in, or load it"),
        Binding("enter", "open", "open", tooltip="open the chosen job"),
        Binding("n", "new_job", "new job", tooltip="a new job, typed in three lines"),
        Binding("slash", "search", "search", tooltip="search as you type: names, parts, serials, findings"),
        Binding("g", "group", "filter", tooltip="only one group: yours, those under test, those to hand back; then all again"),
        Binding("z", "archive", "archive", tooltip="the jobs in the archive, and back"),
        Binding("r", "batch", "batch", tooltip="many equal machines against one promise"),
        Binding("q", "app.quit", "quit", tooltip="leave After Check"),
        Binding("escape", "clear_search", "all jobs", show=False, tooltip="end the search"),
    ]

    def __init__(self) -> None:
        super().__init__()
        self._groups: Groups = grouped(())
        self._found: BenchSnapshot | None = None
        self.is_open = False
        self._then: Callable[[], object] | None = None
        self._looked_at = 0.0
        self._only: WaitsFor | None = None
        self._archive = False

    @property
    def entries(self) -> tuple[BenchEntry, ...]:
        """All jobs, as they were when the bench looked last."""
        return tuple(entry for jobs in self._groups.values() for entry in jobs)

    def compose(self) -> ComposeResult:
        """Lay out the bench."""
        yield BenchHeader()
        yield SearchLine(placeholder="search: a name, a part, a serial, a finding", id="search")
        yield BenchHint()
        yield BenchList(id="bench-list")
        yield KeysLine()

    def on_mount(self) -> None:
        """Show what a first look gives, and open the shop."""
        search = self.query_one("#search", Input)
        search.display = False
        # With the letter itself, and not by a message about it: both are drawn at once, and the list not two moments later.
        self.watch(search, "value", self._show, init=False)
        self.query_one(BenchList).display = False
        header = self.query_one(BenchHeader)
        header.place = "demo shop" if self.shop_app.demo else ""
        glimpse = self.shop_app.first_look()
        if glimpse is not None and any(glimpse.values()):
            self._groups = glimpse
            self._show()
        self.set_interval(2 * _SOAK_SECONDS, self._look_again)
        self.set_interval(_SERVER_SECONDS, self.look_for_the_server)
        self.set_interval(LOOK_SECONDS, self.look_for_stick)
        for problem in load_settings().problems:
            self.notify(problem, severity="warning", timeout=10)
        # The shop is opened when the first frame is out: its imports would hold it up.
        self.call_after_refresh(self.load)

    def _look_again(self) -> None:
        """Follow a soak that runs elsewhere: on another bench, or in a program that was killed just now."""
        if self.is_open and self.is_current and self._groups[WaitsFor.SOAK]:
            self.load()

    def on_screen_resume(self) -> None:
        """Look again at the jobs when another screen was left."""
        if self.is_open:
            self.load()

    @work(exclusive=True)
    async def load(self) -> None:
        """Fetch the lines of all jobs, opening the shop first if need be."""
        try:
            if not self.is_open:
                self.shop_app.take_shop(await asyncio.to_thread(self.shop_app.look_for_shop))
                self.is_open = True
            self._groups = await asyncio.to_thread(self.shop_app.bench_entries)
            self._say_what_waits()
            self._say_what_was_brought()
        except ShopError as error:
            if self.is_open:
                self._say_what_waits()
                self.notify(str(error), severity="error", timeout=10)
                return
            self.shop_app.give_up(str(error))
            return
        self._show()
        # The shop's modules and ten thousand lines stay; looking through them for garbage would hold up the key after it.
        gc.freeze()
        if self._then is not None:
            then, self._then = self._then, None
            then()

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Offer the stick while one is here."""
        return self.stick is not None if action == "stick" else True

    def collected(self) -> None:
        """Show what came in."""
        self.load()

    def _when_open(self, act: Callable[[], object]) -> None:
        """Do something at once, or as soon as the shop is open: a key that comes early is not lost."""
        if self.is_open:
            act()
        else:
            self._then = act

    @work(exclusive=True, group="server")
    async def look_for_the_server(self) -> None:
        """Change to the server's jobs when it is back, unless somebody is at work on a job or a soak runs."""
        if not self.is_open or not self._may_change_shop():
            return
        try:
            opened = await asyncio.to_thread(self.shop_app.look_for_shop)
        except ShopError as problem:
            logger().error("%s", problem)
            return
        # A job that was opened in this moment belongs to the store on this computer; what it gets is written another time.
        if opened.shop.away_from or not self._may_change_shop():
            opened.shop.close()
            return
        self.shop_app.take_shop(opened)
        self.query_one(BenchHeader).waits = ""
        self.load()

    def _may_change_shop(self) -> bool:
        soak = self.shop_app.soak_runner
        return self.is_current and bool(self.shop.away_from) and (soak is None or not soak.is_running)

    def _say_what_was_brought(self) -> None:
        sent, self.shop_app.sent = self.shop_app.sent, None
        if sent is None:
            return
        if sent.jobs:
            self.notify(f"{counted(sent.jobs, 'job')} of the time without the server written to it", timeout=10)
        for problem in sent.problems:
            self.notify(problem, severity="error", timeout=10)

    def _say_what_waits(self) -> None:
        """Say in the header what was kept on this computer because the server was away, or what the shop did not take."""
        outbox = self.shop.outbox
        if self.shop.away_from:
            self.query_one(BenchHeader).waits = "without the server: new jobs stay here until it is back"
        if outbox is not None:
            waiting, refused = len(outbox.waiting), len(outbox.refused)
            words = [f"{waiting} kept here until the server is back" if waiting else "", f"{refused} not taken" if refused else ""]
            self.query_one(BenchHeader).waits = ", ".join(part for part in words if part)

    def soak_moved(self, message: SoakMoved) -> None:
        """Show how far a running soak is; its line is written every few seconds."""
        if self.is_open and (message.record.state.is_over or time.monotonic() - self._looked_at >= _SOAK_SECONDS):
            self._looked_at = time.monotonic()
            self.load()

    def _show(self) -> None:
        search = self.query_one("#search", Input)
        snapshot = snapshot_of(self._groups, search.value if search.display else "", self._only, self._archive, self._found)
        self._found = snapshot
        self.query_one(BenchHeader).snapshot = snapshot
        hint, jobs = self.query_one(BenchHint), self.query_one(BenchList)
        if snapshot.count:
            hint.display = False
            jobs.display = True
            jobs.show(snapshot)
            if not search.has_focus:
                jobs.focus()
            return
        jobs.display = False
        hint.display = True
        if self._archive and not search.value:
            hint.words = ("the archive is empty", "z in a job's hand-back puts it here; z goes back to the bench")
        elif self._only is not None and not search.value:
            hint.words = ("no job in this group", "g goes on to the next group, and to all")
        elif any(self._groups.values()):
            hint.words = ("no job matches", "shorten the search, or press esc to see all jobs")
        else:
            hint.words = FIRST
        hint.refresh()

    def action_open(self) -> None:
        """Open the chosen job."""
        self.query_one(BenchList).open_chosen()

    @on(BenchList.Opened)
    def open_job(self, message: BenchList.Opened) -> None:
        """Show a job's sheet."""
        self._when_open(lambda: self._open_job(message.number))

    def _open_job(self, number: str) -> None:
        self.app.push_screen(self.shop_app.view(View.JOB_SHEET, number))

    def action_new_job(self) -> None:
        """Begin a new job."""
        self._when_open(self._begin_job)

    def _begin_job(self) -> None:
        def opened(number: str | None) -> None:
            if number is not None:
                self.post_message(BenchList.Opened(number))

        self.app.push_screen(self.shop_app.view(View.EDITOR, None), opened)

    def action_batch(self) -> None:
        """Show a batch of machines."""
        self._when_open(self._open_batch)

    def _open_batch(self) -> None:
        def made(number: str | None) -> None:
            if number is not None:
                self.post_message(BenchList.Opened(number))

        self.app.push_screen(self.shop_app.view(View.BATCH), made)

    def action_group(self) -> None:
        """Show the next group alone, then all again."""
        order = [None, WaitsFor.YOU, WaitsFor.SOAK, WaitsFor.CUSTOMER]
        self._only = order[(order.index(self._only) + 1) % len(order)]
        self._archive = False
        self._show()

    def action_archive(self) -> None:
        """Show the archive, or the bench again."""
        self._archive = not self._archive
        self._show()

    def action_search(self) -> None:
        """Show the search line."""
        search = self.query_one("#search", Input)
        search.display = True
        # At once, so that what is typed right behind the key goes into the search and is no command.
        self.set_focus(search)

    def action_clear_search(self) -> None:
        """End the search."""
        search = self.query_one("#search", Input)
        search.value = ""
        search.display = False
        self._show()
        self.query_one(BenchList).focus()

    @on(Input.Submitted, "#search")
    def search_done(self) -> None:
        """Open the only match; with several, go to the list."""
        self._when_open(self._open_only_match)

    def _open_only_match(self) -> None:
        jobs = self.query_one(BenchList)
        jobs.focus()
        if snapshot_of(self._groups, self.query_one("#search", Input).value, self._only, self._archive).count == 1:
            jobs.open_chosen()
