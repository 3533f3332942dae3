"""Before you open it: all that can be known of a promise while the machine is still shut, and the slip for the shelf."""

from __future__ import annotations

import asyncio
from pathlib import Path
from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal
from textual.reactive import reactive

from after_check.casework.rate_words import expected_range_words
from after_check.judgement.before_fitting import BeforeFitting, Weight, look_before_fitting
from after_check.tui.charts.board import board_lines, snapshot_of_reading
from after_check.tui.charts.cells import wrapped
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.job_screen import SnapshotScreen
from after_check.tui.theme import Ink
from after_check.tui.views import View
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine
from after_check.tui.work.sheets import place_for, remember_place

_MARKS = {Weight.STOP: ("▲", Ink.SHORT), Weight.MIND: ("■", Ink.PROMISED), Weight.SAYS: ("·", Ink.MUTED)}


class KnownPane(Drawn):
    """A region that draws a part of what is known."""

    known: reactive[BeforeFitting | None] = reactive(None)


class RemarksPane(KnownPane):
    """What speaks against it, and what to mind; what is not known, and where it would be said."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw them, the heaviest first."""
        known = self.known
        if known is None:
            return []
        lines = [Text("BEFORE YOU OPEN IT", f"bold {Ink.MUTED}"), Text("")]
        if not known.remarks:
            lines += [Text("✓ Nothing that is known speaks against it.", f"bold {Ink.KEPT}"), Text("")]
        for remark in known.remarks:
            mark, colour = _MARKS[remark.weight]
            for at, part in enumerate(wrapped(remark.words, cells - 2)):
                lines.append(Text.assemble((f"{mark} " if at == 0 else "  ", f"bold {colour}"), (part, f"bold {Ink.TEXT}")))
            lines += [Text(f"  {part}", Ink.MUTED) for part in wrapped(remark.do, cells - 2)] if remark.do else []
            lines.append(Text(""))
        if known.missing:
            lines.append(Text("NOT KNOWN, AND GOOD TO KNOW", f"bold {Ink.MUTED}"))
        for missing in known.missing:
            lines += [Text(f"{'? ' if at == 0 else '  '}{part}", Ink.TEXT) for at, part in enumerate(wrapped(missing, cells - 2))]
        return lines[:rows]


class PlanPane(KnownPane):
    """What goes where, what to expect of it, and what to buy."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the board as it is to be, and beneath it what to expect and to buy."""
        known = self.known
        if known is None:
            return []
        lines = [Text("WHAT GOES WHERE", f"bold {Ink.MUTED}")]
        if known.plan.modules:
            lines += board_lines(snapshot_of_reading(known.plan, known.parts), cells, max(4, rows - 10))
        else:
            lines.append(Text("nothing is promised yet", Ink.MUTED))
        if known.kept:
            lines += [Text(part, Ink.MUTED) for part in wrapped(f"stays where it is: {', '.join(known.kept)}", cells)]
        expected = expected_range_words(known.expected_mts, known.parts)
        if expected:
            lines += [Text(""), Text("WHAT TO EXPECT", f"bold {Ink.MUTED}")]
            lines += [Text(part, f"bold {Ink.TEXT}") for words in expected for part in wrapped(words, cells)]
        if known.to_buy:
            lines += [Text(""), Text("TO BUY", f"bold {Ink.MUTED}")]
            lines += [Text(part, f"bold {Ink.PROMISED}") for words in known.to_buy for part in wrapped(words, cells)]
        return lines[:rows]


class BeforeFittingScreen(SnapshotScreen[View]):
    """Shows what is known before the machine is opened; closes with the view that comes next, if any."""

    CSS_PATH = "before_fitting.tcss"
    HELP_TITLE = "Before you open it"
    HELP_LINES = (
        "Worked out from the reading on arrival, the promise and the machine data sheet, while the machine is still shut.",
        "▲ speaks against it; ■ is to be minded, and told to the customer first. e writes a slip for the shelf, with what to buy.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("enter", "leave_for('read')", "it is fitted: read it", tooltip="the modules are in: take the reading after fitting"),
        Binding("e", "slip", "write the slip", tooltip="one small page for the shelf, as PDF"),
        Binding("p", "leave_for('promise')", "promise", tooltip="change the promise"),
        Binding("k", "leave_for('card')", "data sheet", tooltip="what is known of this model: slots, limits, speeds"),
        Binding("escape,f", "dismiss", "back", tooltip="back to the job sheet"),
    ]

    def compose(self) -> ComposeResult:
        """Lay out the view."""
        yield JobHeader(id="before-header")
        with Horizontal(id="before-body"):
            yield RemarksPane(id="before-remarks")
            yield PlanPane(id="before-plan")
        yield KeysLine()

    def draw(self) -> None:
        """Give the regions what is known."""
        known = self._known()
        for pane in self.query(KnownPane):
            pane.known = known

    def _known(self) -> BeforeFitting:
        arrival = self.job.arrival
        return look_before_fitting(arrival.reading if arrival is not None else None, self.snapshot.promise, self.job.card)

    def action_leave_for(self, name: str) -> None:
        """Close, and go to another view of the job."""
        self.dismiss(View(name))

    def action_slip(self) -> None:
        """Ask where to, and write the slip."""

        def given(text: str | None) -> None:
            if text:
                self.write_slip(Path(text).expanduser())

        where = str(place_for(self.shop, self.job.facts, "-slip.pdf"))
        self.app.push_screen(AskDialog(Asked("WRITE THE SLIP TO", "One page of A6, for the shelf.", value=where)), given)

    @work(exclusive=True, group="write")
    async def write_slip(self, path: Path) -> None:
        """Write the slip."""

        def write() -> Path:
            from after_check.handback.slip import export_slip

            return export_slip(self.job, self._known(), path)

        try:
            await asyncio.to_thread(write)
        except OSError as error:
            self.notify(f"{error.strerror or error}: {path}. Nothing was written; name another place.", severity="error", timeout=10)
            return
        remember_place(self.shop, path)
        self.notify(f"written: {path.absolute()}", timeout=8)
