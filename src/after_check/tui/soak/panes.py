"""The regions of the soak's view."""

from __future__ import annotations

from rich.text import Text

from after_check.tui.drawing.soak import (
    SoakSnapshot,
    covered_lines,
    error_lines,
    field_lines,
    head_lines,
    rate_lines,
    step_lines,
)
from after_check.tui.drawn import Drawn
from after_check.tui.palette import Palette


class SoakPane(Drawn):
    """A region that draws a part of a soak."""

    snapshot: SoakSnapshot | None = None


class SoakHead(SoakPane):
    """How it stands and how far it is."""

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw the head."""
        return head_lines(self.snapshot, cells, palette) if self.snapshot else [Text(" no soak yet", palette.muted)]


class FieldPane(SoakPane):
    """The memory under test."""

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw the field."""
        return field_lines(self.snapshot.record, cells, rows, palette) if self.snapshot else []


class StepsPane(SoakPane):
    """The steps of the plan."""

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw the steps."""
        return step_lines(self.snapshot.record, rows, cells, palette) if self.snapshot else []


class RatePane(SoakPane):
    """Rate, surroundings, and what is covered."""

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw them."""
        if self.snapshot is None:
            return []
        return [*rate_lines(self.snapshot, cells, palette), Text(""), *covered_lines(self.snapshot.record, cells, palette)][:rows]


class ErrorsPane(SoakPane):
    """What failed, and where."""

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw the errors."""
        return error_lines(self.snapshot.record, cells, rows, palette) if self.snapshot else []
