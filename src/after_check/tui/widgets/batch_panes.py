"""The parts of the batch's screen that are drawn."""

from __future__ import annotations

from rich.text import Text
from textual.message import Message
from textual.reactive import reactive
from textual.widgets.option_list import Option

from after_check.casework.batch import JudgedMachine
from after_check.tui.charts.batch import BatchSnapshot, column_names, group_line, head_lines, machine_line
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.listed import Listed


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


class MachineList(Listed):
    """The machines; it tells when it gets its size: it is hidden until there is something to show."""

    class Resized(Message):
        """The lines are to be drawn again."""

    def __init__(self, id: str | None = None) -> None:
        super().__init__(id=id)
        self.rows: dict[int, JudgedMachine] = {}
        """The machine of each line; lines between them name the groups."""

    @property
    def chosen(self) -> JudgedMachine | None:
        """The machine under the cursor."""
        return self.rows.get(self.highlighted) if self.highlighted is not None else None

    def show(self, snapshot: BatchSnapshot) -> None:
        """Show the machines by their groups; the cursor stays on its machine, or goes to the first."""
        chosen, cells = self.chosen, max(30, self.size.width - 3)
        self.clear_options()
        self.rows = {}
        for name, group in snapshot.groups:
            self.add_option(Option(group_line(len(group), name, cells), disabled=True))
            for machine in group:
                self.rows[self.option_count] = machine
                self.add_option(Option(machine_line(machine, cells)))
        if self.rows:
            same = (index for index, machine in self.rows.items() if chosen is not None and machine.name == chosen.name)
            self.highlighted = next(same, min(self.rows))

    def on_resize(self) -> None:
        """Tell the screen."""
        self.post_message(self.Resized())
