"""The parts of the room's screen that are drawn."""

from __future__ import annotations

from rich.text import Text

from after_check.tui.drawing.room import RoomSnapshot, column_names, head_lines
from after_check.tui.drawn import Drawn
from after_check.tui.palette import Palette


class RoomHead(Drawn):
    """The source, the promise, and how many machines are ready."""

    snapshot = RoomSnapshot()

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw it."""
        return head_lines(self.snapshot, cells, palette)


class ColumnNames(Drawn):
    """The names of the miniatures."""

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw them."""
        return [column_names(cells, palette)]
