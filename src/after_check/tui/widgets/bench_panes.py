"""The parts of the bench around its list: the header, the line that is searched for, and what to do where nothing is shown."""

from __future__ import annotations

from rich.text import Text
from textual.geometry import Size
from textual.reactive import Reactive, reactive

from after_check.tui.charts.bench import BenchSnapshot, column_names, counts_text
from after_check.tui.charts.cells import right_aligned
from after_check.tui.safety_net import Caught
from after_check.tui.theme import Ink
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.typed_line import TypedLine

FIRST = (
    "no job yet",
    "n\tbegin the first job: three lines, and the board draws itself as you type",
    "",
    " \t2x8gb ddr4, runs at 2400, dual      what the machine has",
    " \t2x16gb ddr4 3200, dual channel      what was promised",
    "",
    "r\ta batch: many equal machines against one promise",
    "?\tthe keys of where you are",
    "",
    " \tafter-check demo opens a shop with thirteen jobs to look around in",
)
"""What the very first look at an empty shop says."""


class BenchHeader(Drawn):
    """Product, shop, and how many jobs wait for whom; beneath it the names of the miniatures."""

    snapshot: reactive[BenchSnapshot | None] = reactive(None)
    place = reactive("")
    waits = reactive("")

    def __init__(self) -> None:
        super().__init__(id="bench-header")

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the two bands and the column names."""
        left = Text(no_wrap=True)
        left.append(" After Check", f"bold {Ink.PROMISED}")
        left.append("   the bench", Ink.TEXT)
        if self.place:
            left.append(f"   {self.place}", Ink.MUTED)
        if self.waits:
            left.append(f"   ▲ {self.waits}", f"bold {Ink.PROMISED}")
        right = counts_text(self.snapshot) if self.snapshot is not None else Text("")
        names = column_names(cells) if self.snapshot is not None and self.snapshot.count else Text("")
        return [right_aligned(left, right, cells), Text(""), names, Text("")][:rows]


class SearchLine(Caught, TypedLine):
    """The line that is searched for; it keeps its size, so that a letter lays nothing out again. What a letter leads to runs in it."""

    virtual_size = Reactive(Size(0, 0), layout=False)


class BenchHint(Drawn):
    """What to do when there is nothing to show."""

    def __init__(self) -> None:
        super().__init__(id="bench-hint")
        self.words: tuple[str, ...] = ("opening the shop ...",)

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw what it is, and below it what to do; the first word of a line that begins with a key is that key."""
        lines = [Text(f" {self.words[0]}", f"bold {Ink.TEXT}"), Text("")]
        for words in self.words[1:]:
            key, _, rest = words.partition("\t")
            line = Text(no_wrap=True)
            line.append(f" {key:<3}" if rest else " ", f"bold {Ink.PROMISED}")
            line.append(rest or key, Ink.MUTED)
            line.truncate(cells, overflow="ellipsis")
            lines.append(line)
        return lines
