"""What caps the rate, as a vector drawing: a bar for each ceiling, the binding one marked."""

from __future__ import annotations

from reportlab.graphics.shapes import Drawing, Polygon, Rect, String

from after_check.casework.rate_words import ceiling_words
from after_check.domain.findings import Ceiling, CeilingKind
from after_check.handback.palette import BOLD, FAINT, INK, PAPER_TINT, PROMISED, REGULAR, RULE, SHORT, printable

_HEAD, _ROW = 18.0, 16.0
_NAME_WIDTH = 150.0
_VALUE_WIDTH = 120.0


def ceilings_drawing(ceilings: tuple[Ceiling, ...], width: float, title: str = "What limits the speed, in MT/s") -> Drawing:
    """Return the drawing of the ceilings, the promise and what runs among them, `width` points wide; rates in MT/s."""
    head = _HEAD if title else 0.0
    drawing = Drawing(width, head + _ROW * max(1, len(ceilings)))
    top = drawing.height
    drawing.add(String(0, top - 10, title, fontName=BOLD, fontSize=9, fillColor=INK))
    if not ceilings:
        drawing.add(String(0, top - head - 10, "not known", fontName=REGULAR, fontSize=8.5, fillColor=FAINT))
        return drawing
    most = max(ceiling.rate_mts for ceiling in ceilings)
    room = width - _NAME_WIDTH - _VALUE_WIDTH
    for index, one in enumerate(ceilings):
        y = top - head - _ROW * (index + 1) + 4
        length = one.rate_mts / most * room
        drawing.add(String(0, y + 2, printable(ceiling_words(one)), fontName=BOLD if one.binding else REGULAR, fontSize=8.5, fillColor=INK))
        fill = SHORT if one.binding else PROMISED if one.kind is CeilingKind.PROMISE else PAPER_TINT
        drawing.add(Rect(_NAME_WIDTH, y, length, 9, fillColor=fill, strokeColor=RULE, strokeWidth=0.5))
        x = _NAME_WIDTH + length
        if one.binding:
            drawing.add(Polygon([x + 4, y + 4.5, x + 10, y + 9, x + 10, y], fillColor=SHORT, strokeColor=SHORT))
        words = f"{one.rate_mts}" + ("  this is the limit" if one.binding else "")
        drawing.add(String(x + 13, y + 1, words, fontName=BOLD if one.binding else REGULAR, fontSize=8.5, fillColor=INK))
    return drawing
