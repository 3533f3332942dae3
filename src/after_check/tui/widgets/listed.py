"""A list to choose from that stands being drawn in no space at all."""

from __future__ import annotations

from textual.widgets import OptionList


class Listed(OptionList):
    """The toolkit's list; where a small terminal leaves it no line, a page is one step."""

    def action_page_up(self) -> None:
        """Go up by a page."""
        if self._has_lines:
            super().action_page_up()  # type: ignore[no-untyped-call]
        else:
            self.action_cursor_up()

    def action_page_down(self) -> None:
        """Go down by a page."""
        if self._has_lines:
            super().action_page_down()  # type: ignore[no-untyped-call]
        else:
            self.action_cursor_down()

    @property
    def _has_lines(self) -> bool:
        return self.scrollable_content_region.height > 0 and self.scrollable_content_region.width > 0
