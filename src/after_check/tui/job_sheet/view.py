"""What the views beside the job sheet share: its header, and drawing anew for another width or theme."""

from __future__ import annotations

from after_check.tui.base import ShopScreen
from after_check.tui.job_sheet.panes import JobHeader
from after_check.tui.job_sheet.snapshot import JobSnapshot


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
        """Draw anew for another width."""
        self.call_after_refresh(self.draw)
