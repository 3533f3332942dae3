"""The modules of a job side by side."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll
from textual.widgets import Static

from after_check.casework.snapshot import JobSnapshot
from after_check.domain.codes import Code, Severity
from after_check.texts import words_of
from after_check.tui.charts.cells import joined
from after_check.tui.charts.modules import identity_lines, module_scale_lines
from after_check.tui.job_screen import SnapshotScreen
from after_check.tui.theme import Ink
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine

_ALARM = {Severity.FIX: Ink.SHORT, Severity.TELL: Ink.PROMISED}
_SENTENCES = (Code.TIMINGS_MIXED, Code.TIMINGS_SLOWER, Code.PROFILE_HIDDEN, Code.MIX_GENERATION)


class ModulesScreen(SnapshotScreen[None]):
    """Timings on one scale in ns, and what each source says of each module."""

    drawn_for_width = True

    CSS_PATH = "modules.tcss"
    HELP_TITLE = "The modules"
    HELP_LINES = (
        "Left: whether it matters; then what each module asks for, in ns, and in clocks at the rate that runs; the slowest is marked ◂.",
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
        boards = self.snapshot.boards()
        if not boards:
            return
        board = boards[self._board % len(boards)]
        running = self.snapshot.running_mts if board.is_now else None
        findings = {finding.code: finding for finding in self.snapshot.judgement.findings}
        found = next((findings[code] for code in _SENTENCES if code in findings), None)
        sentence = words_of(found).customer if found is not None else "The modules ask for the same timings, as far as they say them."
        alarm = _ALARM.get(found.severity, Ink.TEXT) if found is not None and board.is_now else Ink.TEXT
        left, right = (self.query_one(selector, VerticalScroll).size.width - 3 for selector in ("#modules-scale", "#modules-identity"))
        scale = [Text(f"TIMINGS IN NS  {board.name}", f"bold {Ink.MUTED}"), Text("")]
        scale += module_scale_lines(board, running, sentence if board.is_now else "", max(30, left), alarm)
        self.query_one("#scale-text", Static).update(joined(scale))
        identity = [Text("WHO THEY ARE", f"bold {Ink.MUTED}"), Text(""), *identity_lines(board, max(24, right))]
        self.query_one("#identity-text", Static).update(joined(identity))
