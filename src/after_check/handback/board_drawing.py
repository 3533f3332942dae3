"""The board as a vector drawing: its slots by channel, and what is in them."""

from __future__ import annotations

from reportlab.graphics.shapes import Drawing, Line, Rect, String

from after_check.domain.boards import Filling, Slot, Soldered, place_of, soldered_apart
from after_check.domain.facts import value_of
from after_check.domain.modules import Module
from after_check.domain.quantities import size_text
from after_check.domain.readings import Reading
from after_check.handback.palette import BOLD, FAINT, INK, KEPT, PAPER_TINT, REGULAR, RULE, WHITE, printable

_ROW = 17.0
_TITLE = 18.0
_NAME_WIDTH = 46.0
_MOST_ROWS = 16


def board_drawing(reading: Reading | None, title: str, width: float) -> Drawing:
    """Return the drawing of one reading's board, `width` points wide."""
    rows: list[Slot | Soldered | Module] = []
    if reading is not None:
        soldered, slots, loose = soldered_apart(reading.slots, reading.loose)
        rows = [*slots, *soldered, *loose]
    shown = rows[:_MOST_ROWS]
    height = _TITLE + _ROW * max(1, len(shown)) + (12 if len(rows) > len(shown) else 0)
    drawing = Drawing(width, height)
    drawing.add(String(0, height - 10, title, fontName=BOLD, fontSize=9, fillColor=INK))
    drawing.add(Line(0, height - 14, width, height - 14, strokeColor=RULE, strokeWidth=0.6))
    y = height - _TITLE - _ROW
    if not rows:
        drawing.add(String(0, y + 5, "not read", fontName=REGULAR, fontSize=9, fillColor=FAINT))
    for row in shown:
        _row(drawing, row, width, y)
        y -= _ROW
    if len(rows) > len(shown):
        drawing.add(String(0, 1, f"and {len(rows) - len(shown)} more", fontName=REGULAR, fontSize=8, fillColor=FAINT))
    return drawing


def _row(drawing: Drawing, row: Slot | Soldered | Module, width: float, y: float) -> None:
    module = row.module if isinstance(row, Slot) else row.device if isinstance(row, Soldered) else row
    name = row.name if isinstance(row, Slot) else "soldered" if isinstance(row, Soldered) else "no slot named"
    count = row.count if isinstance(row, Soldered) else 1
    drawing.add(String(0, y + 4, _fitted(_short(name), 10), fontName=REGULAR, fontSize=8, fillColor=FAINT))
    x, body = _NAME_WIDTH, width - _NAME_WIDTH
    if module is not None:
        words = _module_text(module) if count == 1 else f"{count} x {_module_text(module)}"
        drawing.add(Rect(x, y, body, _ROW - 3, rx=1.5, ry=1.5, fillColor=KEPT, strokeColor=KEPT, strokeWidth=0.8))
        drawing.add(String(x + 6, y + 4, _fitted(words, int((body - 10) / 4.3)), fontName=BOLD, fontSize=8, fillColor=WHITE))
        return
    drawing.add(Rect(x, y, body, _ROW - 3, rx=1.5, ry=1.5, fillColor=PAPER_TINT, strokeColor=RULE, strokeWidth=0.8, strokeDashArray=[2, 2]))
    word = "empty" if isinstance(row, Slot) and row.filling is Filling.EMPTY else "not known"
    drawing.add(String(x + 6, y + 4, word, fontName=REGULAR, fontSize=8, fillColor=FAINT))


def _short(name: str) -> str:
    """Return a slot's name as short as it stays telling: channel and number for the long styles."""
    place = place_of(name)
    return f"{place.channel}{place.position}" if place is not None and len(name) > 10 else name


def _module_text(module: Module) -> str:
    generation, rated_mts = value_of(module.generation), value_of(module.rated_mts)
    parts = [
        size_text(module.size_bytes.value) if module.size_bytes else "size not known",
        f"{generation}-{rated_mts}" if generation and rated_mts else str(generation or ""),
        value_of(module.maker) or "",
        value_of(module.part) or "",
    ]
    return "  ".join(part for part in parts if part)


def _fitted(text: str, most: int) -> str:
    text = printable(text)
    return text if len(text) <= most else text[: max(1, most - 3)] + "..."
