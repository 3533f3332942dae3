"""Any two readings of a job against each other: the tracks between them, and everything that changed."""

from __future__ import annotations

from itertools import groupby
from typing import ClassVar

from rich.text import Text
from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll
from textual.widgets import OptionList, Static
from textual.widgets.option_list import Option

from after_check.casework.snapshot import JobSnapshot
from after_check.domain.case_files import CaseFile
from after_check.domain.jobs import KeptReading, Moment
from after_check.judgement.compare import NOT_KNOWN, Difference, differences
from after_check.judgement.judge import judge
from after_check.tui.charts.cells import day_and_time, fitted, joined, wrapped
from after_check.tui.charts.tracks import change_line
from after_check.tui.job_screen import SnapshotScreen
from after_check.tui.theme import Ink
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine
from after_check.tui.widgets.listed import Listed

_MOMENTS = {Moment.ARRIVAL: "on arrival", Moment.FITTED: "after fitting"}


class CompareScreen(SnapshotScreen[None]):
    """A list of the job's readings, two of them marked, and what differs between these two."""

    drawn_for_width = True

    CSS_PATH = "compare.tcss"
    HELP_TITLE = "Two readings compared"
    HELP_LINES = (
        "Left: every reading of the job, oldest first. ○ is the one compared from, ● the one compared to.",
        "Right: what changed from ○ to ●, the settings and the firmware as well as the modules.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("f", "from_here", "from (○)", tooltip="compare from the chosen reading"),
        Binding("t", "to_here", "to (●)", tooltip="compare to the chosen reading"),
        Binding("x", "swap", "swap", tooltip="compare the other way round"),
        Binding("escape,v", "dismiss", "back", tooltip="back to the job sheet"),
    ]

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__(snapshot)
        readings = snapshot.job.readings
        first, last = snapshot.job.arrival, snapshot.job.now
        self._first = readings.index(first) if first is not None else 0
        self._second = readings.index(last) if last is not None else len(readings) - 1

    def compose(self) -> ComposeResult:
        """Lay out list and differences."""
        yield JobHeader(id="compare-header")
        with Horizontal(id="compare-body"):
            yield Listed(id="compare-list")
            with VerticalScroll(id="compare-differences", can_focus=False):
                yield Static(id="compare-text", markup=False)
        yield KeysLine()

    def draw(self) -> None:
        """Draw the list and what differs."""
        chosen = self.query_one("#compare-list", OptionList)
        kept = chosen.highlighted
        readings = self.snapshot.job.readings
        chosen.clear_options()
        chosen.add_options(Option(_reading_words(reading, self._mark(index))) for index, reading in enumerate(readings))
        if readings:
            chosen.highlighted = kept if kept is not None else self._second
        chosen.focus()
        cells = max(40, self.query_one("#compare-differences").size.width - 4)
        self.query_one("#compare-text", Static).update(joined(self._lines(cells)))

    def _mark(self, index: int) -> str:
        return "".join(mark for mark, at in (("○", self._first), ("●", self._second)) if at == index)

    def _lines(self, cells: int) -> list[Text]:
        readings = self.snapshot.job.readings
        if len(readings) < 2:
            return [Text(line, Ink.MUTED) for line in wrapped("Two readings are needed to compare them: take another one.", cells)]
        first, second = readings[self._first], readings[self._second]
        lines = [Text("WHAT CHANGED", f"bold {Ink.MUTED}"), Text("")]
        lines += [change_line(track, cells) for track in judge(CaseFile(second.reading, first.reading)).tracks]
        found = differences(first.reading, second.reading)
        if not found:
            same = "Nothing: the two readings say the same." if self._first != self._second else "○ and ● are the same reading."
            return [*lines, Text(""), Text(same, Ink.TEXT)]
        changed = [difference for difference in found if not difference.one_sided]
        for part, group in groupby(changed, key=lambda difference: difference.part):
            lines += [Text(""), Text(part.value.upper(), f"bold {Ink.MUTED}")]
            for difference in group:
                lines += _difference_lines(difference, cells)
        if not changed:
            lines += [Text(""), Text("Nothing of what both readings say.", Ink.TEXT)]
        for mark, silent in (("○", "second"), ("●", "first")):
            said = [difference for difference in found if difference.one_sided and getattr(difference, silent) == NOT_KNOWN]
            words = ", ".join(f"{difference.what} {difference.first if mark == '○' else difference.second}" for difference in said)
            if words:
                lines += [Text(""), Text(f"ONLY {mark} SAYS", f"bold {Ink.MUTED}")]
                lines += [Text(line, Ink.MUTED) for line in wrapped(words, cells)]
        return lines

    def _set(self, name: str) -> None:
        at = self.query_one("#compare-list", OptionList).highlighted
        if at is not None:
            setattr(self, name, at)
            self.draw()

    def action_from_here(self) -> None:
        """Compare from the chosen reading."""
        self._set("_first")

    def action_to_here(self) -> None:
        """Compare to the chosen reading."""
        self._set("_second")

    @on(OptionList.OptionSelected, "#compare-list")
    def chosen(self) -> None:
        """Enter compares to the chosen reading."""
        self._set("_second")

    def action_swap(self) -> None:
        """Compare the other way round."""
        self._first, self._second = self._second, self._first
        self.draw()


def _reading_words(kept: KeptReading, mark: str) -> Text:
    text = Text(no_wrap=True, overflow="ellipsis")
    text.append(f"{mark:<3}", f"bold {Ink.TEXT}")
    text.append(f"{day_and_time(kept.taken_at)}  ", Ink.TEXT)
    text.append(_MOMENTS[kept.moment], f"bold {Ink.TEXT}")
    text.append(f"\n   {kept.reading.origin or 'typed'}", Ink.MUTED)
    return text


def _difference_lines(difference: Difference, cells: int) -> list[Text]:
    name_cells = 14 if cells < 60 else 26
    half = (cells - name_cells - 3) // 2
    first, second = wrapped(difference.first, half - 1), wrapped(difference.second, half - 1)
    lines: list[Text] = []
    for index in range(max(len(first), len(second), 1)):
        line = Text(no_wrap=True)
        line.append(fitted(difference.what if index == 0 else "", name_cells), Ink.TEXT)
        line.append(fitted(first[index] if index < len(first) else "", half), Ink.MUTED)
        line.append("─▶ " if index == 0 else "   ", Ink.LINE)
        line.append(second[index] if index < len(second) else "", f"bold {Ink.TEXT}")
        lines.append(line)
    return lines
