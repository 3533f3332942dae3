"""The parts of the room's screen that are drawn."""

from __future__ import annotations

from rich.text import Text
from textual.message import Message
from textual.widgets import OptionList

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


class MachineList(OptionList):
    """The machines; it tells when it gets its size: it is hidden until there is something to show."""

    class Resized(Message):
        """The lines are to be drawn anew."""

    def on_resize(self) -> None:
        """Tell the screen."""
        self.post_message(self.Resized())
