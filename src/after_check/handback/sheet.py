"""The sheet that goes with the machine: one page for the customer, then the record."""

from __future__ import annotations

import io
from collections.abc import Callable
from typing import Any

from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import BaseDocTemplate, Frame, KeepInFrame, NextPageTemplate, PageBreak, PageTemplate

from after_check.handback.content import Look, SheetContent
from after_check.handback.customer_page import customer_page
from after_check.handback.ownership import mark_of
from after_check.handback.palette import BOLD, FAINT, INK, REGULAR, RULE, in_grey, printable
from after_check.handback.record_pages import record_pages
from after_check.handback.typesetting import MARGIN, Bookmark, width_of

PAPERS = {"A4": A4, "Letter": LETTER}
_HEAD = 30.0
_FOOT = 16.0


def sheet_pdf(content: SheetContent, look: Look = Look(), with_record: bool = True) -> bytes:  # noqa: B008 - frozen
    """Return the sheet as the bytes of a PDF: the customer's page alone, or with the record behind it."""
    stream = io.BytesIO()
    size = PAPERS[look.paper]
    facts = content.job.facts
    title = printable(f"Job {facts.number}: {facts.title}")
    document = BaseDocTemplate(
        stream,
        pagesize=size,
        title=title,
        author=printable(look.shop_name) or "After Check",
        subject="Memory upgrade: what was promised, and what the machine has now",
        creator="After Check",
        keywords=mark_of(content.job.uid),
        enforceColorSpace=None if look.colour else in_grey,
    )
    frame = (MARGIN, MARGIN + _FOOT, width_of(size), size[1] - 2 * MARGIN - _HEAD - _FOOT)
    document.addPageTemplates(
        [
            PageTemplate(name, [Frame(*frame, 0, 0, 0, 0)], onPage=_furniture(content, look, size, words))
            for name, words in (("customer", "for you"), ("record", "for the record"))
        ]
    )
    # One page for the customer, always: a long list makes everything a little smaller rather than spilling over.
    first = KeepInFrame(frame[2], frame[3], list(customer_page(content, frame[2])), mode="shrink")
    story: list[Any] = [Bookmark(title, "sheet"), first]
    if with_record:
        story += [NextPageTemplate("record"), PageBreak(), *record_pages(content, frame[2])]
    document.build(story, canvasmaker=_counting(in_grey if not look.colour else None))
    return stream.getvalue()


def _furniture(content: SheetContent, look: Look, size: tuple[float, float], words: str) -> Callable[[Canvas, Any], None]:
    """Return what draws head and foot of a page."""
    revision = content.job.revisions[-1] if content.job.frozen and content.job.revisions else None

    def draw(canvas: Canvas, document: Any) -> None:
        top = size[1] - MARGIN
        x = MARGIN
        if look.shop_mark is not None:
            x += _mark(canvas, look, x, top)
        canvas.setFillColor(INK)
        canvas.setFont(BOLD, 11)
        canvas.drawString(x, top - 12, printable(look.shop_name or "Hand-back sheet"))
        canvas.setFillColor(FAINT)
        canvas.setFont(REGULAR, 8)
        canvas.drawString(x, top - 23, printable(look.shop_words))
        canvas.drawRightString(size[0] - MARGIN, top - 12, printable(f"job {content.job.facts.number}, {words}"))
        when = revision.signed_at if revision is not None else content.job.changed_at
        canvas.drawRightString(size[0] - MARGIN, top - 23, f"{when:%-d %B %Y}" + (f", revision {revision.number}" if revision else ""))
        canvas.setStrokeColor(RULE)
        canvas.setLineWidth(0.6)
        canvas.line(MARGIN, top - 28, size[0] - MARGIN, top - 28)

    return draw


def _mark(canvas: Canvas, look: Look, x: float, top: float) -> float:
    """Draw the shop's mark and return the room it takes; a picture that cannot be read is left out."""
    try:
        image = ImageReader(str(look.shop_mark))
        wide, high = image.getSize()
        width = min(70.0, 24.0 * wide / max(1, high))
        canvas.drawImage(image, x, top - 25, width, 24, mask="auto", preserveAspectRatio=True)
    except Exception:  # The library raises whatever its decoders raise.
        return 0.0
    return float(width + 8)


def _counting(grey: Any) -> type[Canvas]:
    """Return a canvas that says on every page how many there are."""

    class Counting(Canvas):  # type: ignore[misc]  # reportlab carries no types
        def __init__(self, *arguments: Any, **named: Any) -> None:
            super().__init__(*arguments, **named)
            self._enforceColorSpace = grey
            self._pages: list[dict[str, Any]] = []

        def showPage(self) -> None:
            self._pages.append(dict(self.__dict__))
            self._startPage()

        def save(self) -> None:
            for number, page in enumerate(self._pages, 1):
                self.__dict__.update(page)
                self.setFont(REGULAR, 7.5)
                self.setFillColor(FAINT)
                self.drawString(MARGIN, MARGIN - 2, "Made with After Check")
                self.drawRightString(self._pagesize[0] - MARGIN, MARGIN - 2, f"page {number} of {len(self._pages)}")
                super().showPage()
            super().save()

    return Counting
