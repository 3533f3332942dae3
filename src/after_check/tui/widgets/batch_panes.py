"""The parts of the batch's screen that are drawn."""

from __future__ import annotations

from rich.text import Text
from textual.message import Message
from textual.reactive import reactive
from textual.widgets import OptionList

from after_check.tui.charts.batch import BatchSnapshot, column_names, head_lines
from after_check.tui.widgets.drawn import Drawn


class BatchHead(Drawn):
    """The source, the promise, and how many machines are ready."""

    snapshot: reactive[BatchSnapshot] = reactive(BatchSnapshot())

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        return head_lines(self.snapshot, cells)


class ColumnNames(Drawn):
    """The names of the miniatures."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw them."""
        return [column_names(cells)]


class MachineList(OptionList):
    """The machines; it tells when it gets its size: it is hidden until there is something to show."""

    class Resized(Message):
        """The lines are to be drawn again."""

    def on_resize(self) -> None:
        """Tell the screen."""
        self.post_message(self.Resized())
