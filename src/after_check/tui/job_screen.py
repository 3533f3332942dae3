"""A view of one job: its header and its snapshot; and for views that may change the job, the one way in which changes are kept."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import ClassVar

from textual import work
from textual.binding import Binding, BindingType
from textual.reactive import reactive

from after_check.casework.snapshot import JobSnapshot, take_snapshot
from after_check.domain.jobs import Job
from after_check.shop.errors import ChangedElsewhereError, KeptAsideError, ShopError
from after_check.tui.base import Result, ShopScreen
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.views import View
from after_check.tui.widgets.job_sheet_panes import JobHeader


def _none_yet() -> JobSnapshot:
    raise LookupError("a view of a job is made with a snapshot of it")


class SnapshotScreen(ShopScreen[Result]):
    """Shows a job's snapshot, and again when it changes; subclasses compose a JobHeader among their widgets and draw the rest."""

    drawn_for_width: ClassVar[bool] = False
    """Whether what `draw` gives fits one width only; regions that draw themselves need no telling."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("f6", "hands", "hands", show=False, tooltip="one move, two answers, in large letters")]

    # Drawn again even for an equal job: what else a view shows may have changed with it.
    snapshot: reactive[JobSnapshot] = reactive(_none_yet, init=False, repaint=False, always_update=True)

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__()
        self.set_reactive(SnapshotScreen.snapshot, snapshot)

    @property
    def job(self) -> Job:
        """The job as it was when it was looked at last."""
        return self.snapshot.job

    @property
    def number(self) -> str:
        """The job's number."""
        return self.job.facts.number

    def draw(self) -> None:
        """Give the regions what they show, for the present size and theme."""
        raise NotImplementedError

    def show(self) -> None:
        """Show the job as it is now, and offer what makes sense with it."""
        headers = self.query(JobHeader)
        if not headers:
            return  # The view is just being taken away.
        headers.first().snapshot = self.snapshot
        self.draw()
        self.refresh_bindings()

    def action_hands(self) -> None:
        """Go on with a module in the hand; what is next after that is the job sheet's."""

        def came_back(result: object) -> None:
            if isinstance(result, Job):
                self.snapshot = take_snapshot(result)
            elif isinstance(result, View):
                self.dismiss(result)  # type: ignore[arg-type]  # The job sheet, from which all views of a job are opened, goes there.

        self.app.push_screen(self.shop_app.view(View.HANDS, self.snapshot), came_back)

    def watch_snapshot(self) -> None:
        """Show another snapshot."""
        if self.is_mounted:
            self.show()

    def on_mount(self) -> None:
        """Show it, and follow the theme."""
        self.app.theme_changed_signal.subscribe(self, lambda _: self.draw())
        self.show()

    def on_resize(self) -> None:
        """Draw again for another width."""
        if self.drawn_for_width:
            self.call_after_refresh(self.draw)


class JobView(SnapshotScreen[Result]):
    """A view that may change its job."""

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__(snapshot)
        self._turn = asyncio.Lock()

    @work(group="change")
    async def change(
        self, make: Callable[[], Job], then: Callable[[], None] = lambda: None, not_kept: Callable[[], None] = lambda: None
    ) -> None:
        """Change the job off the screen's thread, each change after the one before; show what came of it, and go on.

        What cannot be kept is said, and `not_kept` brings back what was typed for it.
        """
        async with self._turn:
            try:
                job = await asyncio.to_thread(make)
            except KeptAsideError as kept:
                self.notify(str(kept), severity="warning", timeout=10)
                job = kept.job
            except ShopError as error:
                self.notify(str(error), severity="error", timeout=10)
                if isinstance(error, ChangedElsewhereError):
                    await self._look_anew()  # Else the next attempt would be refused like this one, for ever.
                not_kept()
                return
            self.snapshot = take_snapshot(job)
            then()

    def ask_to_keep(
        self, asked: Asked, make: Callable[[str], Job], then: Callable[[], None] = lambda: None, typed: str | None = None
    ) -> None:
        """Ask for a line, change the job with it, and go on. A line that could not be kept is asked for again, as it was typed."""
        place = f"{asked.title} {self.job.uid}"

        def kept() -> None:
            self.shop_app.writes.submit(self.shop.drafts.keep, place, "")
            then()

        def given(text: str | None) -> None:
            if text is not None:
                self.change(lambda: make(text), kept, lambda: self.ask_to_keep(asked, make, then, text))

        dialog = AskDialog(asked, draft_place=place, typed=typed)
        self.app.push_screen(dialog, given)

    @work(exclusive=True, group="load")
    async def load(self, also_unchanged: bool = True) -> None:
        """Fetch the job again, and show it; where it is as it was, only if that is asked for."""
        await self._look_anew(also_unchanged)

    async def _look_anew(self, also_unchanged: bool = True) -> None:
        try:
            job = await asyncio.to_thread(self.shop.jobs.job, self.number)
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)
            return
        if also_unchanged or job != self.job:
            self.snapshot = take_snapshot(job)
