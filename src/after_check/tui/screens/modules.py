"""The modules of a job side by side."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll
from textual.widgets import Static

from after_check.casework.snapshot import JobSnapshot
from after_check.domain.codes import Code
from after_check.texts import words_of
from after_check.tui.charts.cells import joined
from after_check.tui.charts.modules import identity_lines, module_scale_lines
from after_check.tui.job_screen import SnapshotScreen
from after_check.tui.theme import Ink
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine

_SENTENCES = (Code.TIMINGS_MIXED, Code.TIMINGS_SLOWER, Code.PROFILE_HIDDEN, Code.MIX_GENERATION)


class ModulesScreen(SnapshotScreen[None]):
    """Timings on one scale in ns, and what each source says of each module."""

    drawn_for_width = True

    CSS_PATH = "modules.tcss"
    HELP_TITLE = "The modules"
    HELP_LINES = (
        "Left: what each module asks for, in ns, and in clocks at the rate that runs; the slowest of each is marked ◂.",
        "Right: who made it and when, and where label, SPD and firmware differ (≠).",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("o", "other", "other board", tooltip="the modules now, on arrival, as promised"),
        Binding("escape,m", "dismiss", "back", tooltip="back to the job sheet"),
    ]

    def __init__(self, snapshot: JobSnapshot, board: int = 0) -> None:
        super().__init__(snapshot)
        self._board = board

    def compose(self) -> ComposeResult:
        """Lay out the two halves."""
        yield JobHeader(id="modules-header")
        with Horizontal(id="modules-body"):
            with VerticalScroll(id="modules-scale"):
                yield Static(id="scale-text", markup=False)
            with VerticalScroll(id="modules-identity"):
                yield Static(id="identity-text", markup=False)
        yield KeysLine()

    def action_other(self) -> None:
        """Show the modules of the next board."""
        self._board += 1
        self.draw()

    def draw(self) -> None:
        """Draw the view."""
        boards = self.snapshot.board_readings()
        if not boards:
            return
        name, reading = boards[self._board % len(boards)]
        running = self.snapshot.running_mts if name == "now" else None
        findings = {finding.code: finding for finding in self.snapshot.judgement.findings}
        said = next((words_of(findings[code]).customer for code in _SENTENCES if code in findings), "")
        sentence = said or "The modules ask for the same timings, as far as they say them. Nothing to choose between them."
        left, right = (self.query_one(selector, VerticalScroll).size.width - 3 for selector in ("#modules-scale", "#modules-identity"))
        scale = [Text(f"TIMINGS IN NS  {name}", f"bold {Ink.MUTED}"), Text("")]
        scale += module_scale_lines(reading, running, sentence if name == "now" else "", max(30, left))
        self.query_one("#scale-text", Static).update(joined(scale))
        identity = [Text("WHO THEY ARE", f"bold {Ink.MUTED}"), Text(""), *identity_lines(reading, max(24, right))]
        self.query_one("#identity-text", Static).update(joined(identity))
