"""A line of notation, drawn while it is typed: the board it describes, and what is not understood."""

from __future__ import annotations

from rich.text import Text

from after_check.judgement.case import view
from after_check.sources.notation.parser import Parsed
from after_check.sources.notation.problems import pointed_out
from after_check.tui.drawing.board import board_lines, snapshot_of
from after_check.tui.drawing.text import wrapped
from after_check.tui.drawn import Drawn
from after_check.tui.palette import Palette


class NotationBoard(Drawn):
    """Shows a parsed line: problems first, with their place, then the board and the facts."""

    parsed: Parsed | None = None
    title = ""
    hint = ""

    def show(self, parsed: Parsed | None, title: str, hint: str = "") -> None:
        """Show another line, or a hint where there is none."""
        self.parsed, self.title, self.hint = parsed, title, hint
        self.refresh()

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw problems, board and facts."""
        lines = [Text(self.title.upper(), f"bold {palette.muted}"), Text("")]
        if self.parsed is None or not self.parsed.line.strip():
            return lines + [Text(line, palette.muted) for part in self.hint.splitlines() for line in wrapped(part, cells) or [""]]
        for problem in self.parsed.problems[:2]:
            shown, marks = pointed_out(self.parsed.line, problem, cells).split("\n")
            lines += [Text(shown, palette.text, no_wrap=True), Text(marks, f"bold {palette.short}", no_wrap=True)]
            lines += [Text(line, palette.short) for line in wrapped(f"▲ {problem}", cells)]
        if self.parsed.problems:
            lines.append(Text(""))
        reading = self.parsed.reading
        if reading.slots or reading.loose:
            parts = view(reading).channels.parts
            lines += board_lines(snapshot_of(reading, parts), min(cells, 72), max(4, rows - len(lines) - 4), palette)
        facts = _facts(self.parsed)
        if facts:
            lines += [Text(""), *(Text(line, palette.text) for line in wrapped(facts, cells))]
        return lines[:rows]


def _facts(parsed: Parsed) -> str:
    from after_check.domain.quantities import size_text

    reading, now = parsed.reading, view(parsed.reading)
    parts: list[str] = []
    if now.rate is not None:
        parts.append(f"runs at {now.rate.mts} MT/s" + (f" ({now.rate.doubt})" if now.rate.doubt else ""))
    if now.channels.count is not None:
        parts.append(f"{now.channels.count} channel{'s' if now.channels.count > 1 else ''}")
    if now.profile is not None:
        parts.append(f"profile {now.profile.value}")
    for word, fact in (("total", reading.total_bytes), ("usable", reading.usable_bytes), ("graphics", reading.graphics_bytes)):
        if fact is not None:
            parts.append(f"{word} {size_text(fact.value)}")
    for word, flag in (("settings cleared", reading.settings_reset), ("restart pending", reading.restart_pending)):
        if flag is not None:
            parts.append(word)
    return " · ".join(parts)
