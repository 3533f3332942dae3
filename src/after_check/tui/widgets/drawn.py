"""A widget that shows lines drawn for its own size."""

from __future__ import annotations

from rich.text import Text
from textual.widget import Widget

from after_check.local.log import logger
from after_check.tui.charts.cells import joined
from after_check.tui.theme import Ink


class Drawn(Widget):
    """Draws itself again whenever its size, its content or the theme changes; subclasses give the lines."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Return what to show in a space of `cells` by `rows`."""
        raise NotImplementedError

    def on_mount(self) -> None:
        """Follow the theme."""
        self.app.theme_changed_signal.subscribe(self, lambda _: self.refresh())

    def render(self) -> Text:
        """Draw for the present size."""
        cells = max(1, self.size.width)
        try:
            lines = self.lines(cells, max(1, self.size.height))
        except Exception as fault:
            if not getattr(self.app, "catches", False):
                raise
            logger().error("%s cannot be drawn", type(self).__name__, exc_info=fault)
            lines = [Text("! This part cannot be drawn: something in it is damaged. The log says what.", Ink.SHORT)]
        for line in lines:
            # A line that wrapped would push the last ones out of sight.
            line.truncate(cells, overflow="ellipsis")
        return joined(lines)
