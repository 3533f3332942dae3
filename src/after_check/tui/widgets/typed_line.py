"""A line to type into, as all views have it."""

from __future__ import annotations

from textual.geometry import Region
from textual.widgets import Input


class TypedLine(Input):
    """The toolkit's line; the cursor is seen also behind a text that was pasted into an empty one."""

    def replace(self, text: str, start: int, end: int) -> None:
        """Put a text in the place of a stretch of the line, and show where the cursor is.

        The toolkit's own line does not follow the cursor at the first change of its text, which may be a long paste.
        """
        super().replace(text, start, end)
        self.scroll_to_region(Region(self._cursor_offset, 0, width=1, height=1), force=True, animate=False)
