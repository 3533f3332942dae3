"""How the sheet is set: margins, styles of text, and the small parts that its pages share."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from reportlab.graphics import renderPDF
from reportlab.graphics.shapes import Drawing
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Paragraph, Table, TableStyle

from after_check.handback.palette import BOLD, FAINT, INK, PAPER_TINT, REGULAR, RULE, WHITE, printable

MARGIN = 16 * mm

TITLE = ParagraphStyle("title", fontName=BOLD, fontSize=18, leading=22, textColor=INK)
SUBTITLE = ParagraphStyle("subtitle", fontName=REGULAR, fontSize=9.5, leading=13, textColor=FAINT)
STORY = ParagraphStyle("story", fontName=BOLD, fontSize=11, leading=15, textColor=INK, spaceBefore=6)
HEADING = ParagraphStyle("heading", fontName=BOLD, fontSize=10.5, leading=14, textColor=INK, spaceBefore=9, spaceAfter=3)
TEXT = ParagraphStyle("text", fontName=REGULAR, fontSize=9.2, leading=12.6, textColor=INK)
ITEM = ParagraphStyle("item", parent=TEXT, leftIndent=14, bulletIndent=2, spaceAfter=2)
SMALL = ParagraphStyle("small", fontName=REGULAR, fontSize=7.5, leading=10, textColor=FAINT)
CELL = ParagraphStyle("cell", fontName=REGULAR, fontSize=7.8, leading=9.8, textColor=INK)
HEAD_CELL = ParagraphStyle("head cell", parent=CELL, fontName=BOLD, textColor=FAINT)
VERDICT = ParagraphStyle("verdict", fontName=BOLD, fontSize=12, leading=15, textColor=WHITE)
PLAIN = [("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0), ("RIGHTPADDING", (0, 0), (-1, -1), 0)]


def width_of(size: tuple[float, float]) -> float:
    """Return the width of the text on a page."""
    return float(size[0] - 2 * MARGIN)


def paragraph(text: str, style: ParagraphStyle = TEXT, **named: Any) -> Paragraph:
    """Return outside text as a paragraph: its own markup means nothing."""
    return Paragraph(escaped(text), style, **named)


def escaped(text: str) -> str:
    """Return outside text in the type's characters, with what means something to a paragraph made harmless."""
    return printable(text).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def table(head: Sequence[str], rows: Sequence[Sequence[str]], widths: Sequence[float]) -> Table:
    """Return a table of outside texts, its head repeated on every page."""
    cells = [[paragraph(cell, HEAD_CELL) for cell in head], *([paragraph(cell, CELL) for cell in row] for row in rows)]
    style = [
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 3),
        ("RIGHTPADDING", (0, 0), (-1, -1), 3),
        ("TOPPADDING", (0, 0), (-1, -1), 1.5),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
        ("LINEBELOW", (0, 0), (-1, 0), 0.6, RULE),
        ("ROWBACKGROUNDS", (0, 1), (-1, -1), [WHITE, PAPER_TINT]),
    ]
    return Table(cells, colWidths=list(widths), style=TableStyle(style), repeatRows=1)


class Placed(Flowable):  # type: ignore[misc]  # reportlab carries no types
    """A drawing in the run of the page."""

    def __init__(self, drawing: Drawing) -> None:
        super().__init__()
        self._drawing = drawing
        self.width, self.height = drawing.width, drawing.height

    def wrap(self, *_: float) -> tuple[float, float]:
        """Return the room it takes."""
        return self.width, self.height

    def draw(self) -> None:
        """Draw it on the page."""
        renderPDF.draw(self._drawing, self.canv, 0, 0)


class Bookmark(Flowable):  # type: ignore[misc]
    """A place that the document's outline leads to."""

    def __init__(self, title: str, key: str, level: int = 0) -> None:
        super().__init__()
        self._title, self._key, self._level = title, key, level
        self.width = self.height = 0.0

    def wrap(self, *_: float) -> tuple[float, float]:
        """It takes no room."""
        return 0.0, 0.0

    def draw(self) -> None:
        """Mark the place."""
        self.canv.bookmarkPage(self._key)
        self.canv.addOutlineEntry(printable(self._title), self._key, self._level)
