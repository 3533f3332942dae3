"""The list of jobs: draws only the rows that are on screen, so ten thousand jobs cost no more than ten."""

from __future__ import annotations

import time
from collections.abc import Hashable, Sequence
from functools import lru_cache
from typing import ClassVar

from rich.segment import Segment
from rich.text import Text
from textual import events
from textual.binding import Binding, BindingType
from textual.geometry import Region, Size
from textual.message import Message
from textual.scroll_view import ScrollView
from textual.strip import Strip
from textual.widget import Widget

from after_check.domain.bench import NOT_READ_YET, BenchEntry, JobLine
from after_check.shop.stored_lines import line_of_entry
from after_check.tui.charts.bench import BenchSnapshot, Row, group_text, job_text, rows_of
from after_check.tui.theme import Ink

_AGES_CHANGE_SECONDS = 30
_MOST_STRIPS = 2000


class BenchList(ScrollView, can_focus=True):
    """The jobs of a bench snapshot, one of them chosen."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("up,k", "move(-1)", show=False),
        Binding("down,j", "move(1)", show=False),
        Binding("pageup", "move(-8)", show=False),
        Binding("pagedown", "move(8)", show=False),
        Binding("home", "move(-1000000)", show=False),
        Binding("end", "move(1000000)", show=False),
    ]

    class Opened(Message):
        """A job was chosen to be opened."""

        def __init__(self, number: str) -> None:
            super().__init__()
            self.number = number

    def __init__(self, id: str) -> None:
        super().__init__(id=id)
        self._snapshot = BenchSnapshot()
        self._jobs: Sequence[BenchEntry] = ()
        self._rows = rows_of(self._snapshot, 0)
        self._chosen = 0
        self._strips: dict[Hashable, Strip] = {}
        self._drawn_for: Hashable = ()

    @property
    def chosen(self) -> BenchEntry | None:
        """The job that the cursor is on."""
        return self._jobs[self._chosen] if 0 <= self._chosen < len(self._jobs) else None

    def show(self, snapshot: BenchSnapshot) -> None:
        """Show other jobs; the cursor stays on its job where that is still shown."""
        before = self.chosen
        self._snapshot, self._jobs = snapshot, snapshot.jobs
        if before is None or before.number != NOT_READ_YET:
            # A job that the search leaves out need not be looked for among a hundred thousand.
            self.choose(before.number if before is not None and snapshot.finds(before) else None)
        self._chosen = max(0, min(self._chosen, len(self._jobs) - 1))  # What was not read yet stays in its place.
        self._lay_out()

    def choose(self, number: str | None) -> None:
        """Put the cursor on a job by its number, or on the first one where it is not shown."""
        found = (index for index, job in enumerate(self._jobs) if job.number == number) if number is not None else iter(())
        self._chosen = next(found, 0)

    def on_mount(self) -> None:
        """Follow the theme."""
        self.app.theme_changed_signal.subscribe(self, lambda _: self.refresh())

    def on_resize(self) -> None:
        """Lay the rows out for the new height."""
        self._lay_out()

    def _lay_out(self) -> None:
        self._rows = rows_of(self._snapshot, self.size.height)
        self._grow(Size(self.size.width, len(self._rows)))
        self._follow()
        self.refresh()

    def _grow(self, size: Size) -> None:
        """Take another number of rows; the screen is laid out again only where the scroll bar comes or goes, not with every letter."""
        before, rows = self.virtual_size, self.size.height
        if before.width == size.width and (before.height > rows) == (size.height > rows):
            self.set_reactive(Widget.virtual_size, size)
            if self.show_vertical_scrollbar:
                self.vertical_scrollbar.window_virtual_size = size.height
        else:
            self.virtual_size = size

    def _follow(self) -> None:
        top = self._rows.of_job(self._chosen) if self._jobs else 0
        first = 0 if self._chosen == 0 else top
        self.scroll_to_region(Region(0, first, 1, top - first + 2), animate=False, force=True)

    def action_move(self, by: int) -> None:
        """Move the cursor by a number of jobs."""
        if self._jobs:
            self._chosen = max(0, min(len(self._jobs) - 1, self._chosen + by))
            self._follow()
            self.refresh()

    def open_chosen(self) -> None:
        """Open the job that the cursor is on."""
        if self.chosen is not None and self.chosen.number != NOT_READ_YET:
            self.post_message(self.Opened(self.chosen.number))

    def on_click(self, event: events.Click) -> None:
        """Choose the job that was clicked on; a second click opens it."""
        y = event.y + self.scroll_offset.y
        job = self._rows[y].job if 0 <= y < len(self._rows) else None
        if job is None:
            return
        if job == self._chosen and event.chain > 1:
            self.open_chosen()
        self._chosen = job
        self.refresh()

    def render_line(self, y: int) -> Strip:
        """Draw one row, or show it again as it was drawn: most keys change nothing in most rows."""
        drawn_for = (self.size.width, self.app.theme, int(time.time() // _AGES_CHANGE_SECONDS))
        if drawn_for != self._drawn_for or len(self._strips) > _MOST_STRIPS:
            self._drawn_for, self._strips = drawn_for, {}
        at = y + self.scroll_offset.y
        row = self._rows[at] if at < len(self._rows) else Row()
        line = self._jobs[row.job].line if row.job is not None else ""
        key = (line, row.second, row.group, row.jobs, row.job is not None and row.job == self._chosen)
        if key not in self._strips:
            self._strips[key] = self._drawn(row, line)
        return self._strips[key]

    def _drawn(self, row: Row, line: str) -> Strip:
        cells = self.size.width
        background = Ink.BACKGROUND
        if row.job is not None:
            number = self._jobs[row.job].number
            text = job_text(_line(number, line), row.second, cells) if number != NOT_READ_YET else Text(" …" if not row.second else "")
            if row.job == self._chosen:
                background = Ink.CHOSEN
                text = _with_edge(text)
        elif row.group is not None:
            text = group_text(row, cells)
        else:
            text = Text("")
        segments = list(text.render(self.app.console, end=""))
        return Strip(Segment.apply_style(segments, self.app.console.get_style(f"{Ink.TEXT} on {background}"))).adjust_cell_length(
            cells, self.app.console.get_style(f"on {background}")
        )


@lru_cache(maxsize=512)
def _line(number: str, text: str) -> JobLine:
    """Read a line when it is first drawn; those that nobody scrolls to are never read."""
    return line_of_entry(number, text)


def _with_edge(text: Text) -> Text:
    """Mark the chosen job with an edge as well as with a colour."""
    edge = Text(no_wrap=True)
    edge.append("▌", Ink.PROMISED)
    edge.append_text(text[1:])
    return edge
