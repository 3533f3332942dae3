"""A view of one job that may change it: its header, its snapshot, and the one way in which changes are kept."""

from __future__ import annotations

import asyncio
from collections.abc import Callable

from textual import work

from after_check.casework.snapshot import JobSnapshot, take_snapshot
from after_check.domain.jobs import Job
from after_check.shop.errors import KeptAside, ShopError
from after_check.tui.base import Result, ShopScreen
from after_check.tui.widgets.job_sheet_panes import JobHeader


class JobView(ShopScreen[Result]):
    """Shows a job; subclasses compose a JobHeader among their widgets and draw the rest."""

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__()
        self.snapshot = snapshot

    @property
    def job(self) -> Job:
        """The job as it was when it was looked at last."""
        return self.snapshot.job

    @property
    def number(self) -> str:
        """The job's number."""
        return self.job.facts.number

    def draw(self) -> None:
        """Give the regions what they show."""
        raise NotImplementedError

    def show(self) -> None:
        """Show the job as it is now, and offer what makes sense with it."""
        header = self.query_one(JobHeader)
        header.snapshot = self.snapshot
        header.refresh()
        self.draw()
        self.refresh_bindings()

    def on_mount(self) -> None:
        """Show it, and follow the theme."""
        self.app.theme_changed_signal.subscribe(self, lambda _: self.draw())
        self.show()

    @work(exclusive=True, group="change")
    async def change(self, make: Callable[[], Job]) -> None:
        """Change the job off the screen's thread and show what came of it; what cannot be kept is said, and stays on the screen."""
        try:
            job = await asyncio.to_thread(make)
        except KeptAside as kept:
            self.notify(str(kept), severity="warning", timeout=10)
            job = kept.job
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)
            return
        self.snapshot = take_snapshot(job)
        self.show()

    @work(exclusive=True, group="load")
    async def load(self) -> None:
        """Fetch the job again."""
        number = self.number
        try:
            job = await asyncio.to_thread(self.shop.jobs.job, number)
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)
            return
        self.snapshot = take_snapshot(job)
        self.show()


class SnapshotScreen(ShopScreen[None]):
    """A view of one job's snapshot; subclasses compose a JobHeader among their widgets and draw the rest."""

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__()
        self.snapshot = snapshot

    def draw(self) -> None:
        """Draw the snapshot for the present size and theme."""
        raise NotImplementedError

    def on_mount(self) -> None:
        """Draw, and follow the theme."""
        self.query_one(JobHeader).snapshot = self.snapshot
        self.app.theme_changed_signal.subscribe(self, lambda _: self.draw())
        self.call_after_refresh(self.draw)

    def on_resize(self) -> None:
        """Draw again for another width."""
        self.call_after_refresh(self.draw)
