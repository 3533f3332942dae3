"""The regions of the soak's view."""

from __future__ import annotations

from rich.text import Text
from textual.reactive import reactive

from after_check.tui.charts.soak import (
    SoakSnapshot,
    covered_lines,
    error_lines,
    field_lines,
    head_lines,
    rate_lines,
    step_lines,
)
from after_check.tui.theme import Ink
from after_check.tui.widgets.drawn import Drawn

_ROWS_FOR_A_HEADING = 4


class SoakPane(Drawn):
    """A region that draws a part of a soak."""

    snapshot: reactive[SoakSnapshot | None] = reactive(None)


class SoakHead(SoakPane):
    """How it stands and how far it is."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the head."""
        return head_lines(self.snapshot, cells) if self.snapshot else [Text(" no memory test yet", Ink.MUTED)]


class FieldPane(SoakPane):
    """The memory under test."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the field."""
        return field_lines(self.snapshot.record, cells, rows) if self.snapshot else []


class StepsPane(SoakPane):
    """The steps of the plan."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the steps."""
        return step_lines(self.snapshot.record, rows, cells) if self.snapshot else []


class RatePane(SoakPane):
    """Rate, surroundings, and what is covered."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw them."""
        if self.snapshot is None:
            return []
        rates, covered = rate_lines(self.snapshot, cells), covered_lines(self.snapshot.record, cells)
        if rows - len(rates) < _ROWS_FOR_A_HEADING:
            return [*rates, *covered[1:]][:rows]  # What was covered says more than its heading.
        return [*rates, Text(""), *covered][:rows]


class ErrorsPane(SoakPane):
    """What failed, and where."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the errors."""
        return error_lines(self.snapshot.record, cells, rows) if self.snapshot else []
