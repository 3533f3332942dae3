"""The customer's page on paper: sets what `page` says; no jargon, everything that matters, and what could not be checked."""

from __future__ import annotations

from collections.abc import Iterator

from reportlab.platypus import Flowable, Paragraph, Spacer, Table, TableStyle

from after_check.casework.verdict_words import OUTCOME_MARKS
from after_check.domain.standing import JobOutcome
from after_check.handback.content import SheetContent
from after_check.handback.drawings import board_drawing, tracks_drawing
from after_check.handback.page import MARKS, CustomerPage, Figure, Section, Tone, customer_page_of
from after_check.handback.palette import FAINT, KEPT, PROMISED, SHORT
from after_check.handback.typesetting import HEADING, ITEM, PLAIN, SMALL, STORY, SUBTITLE, TEXT, TITLE, VERDICT, Placed, paragraph

_COLUMN_GAP = 14.0
_COLOURS = {JobOutcome.READY: KEPT, JobOutcome.NOT_READY: SHORT}
_STYLES = {Tone.PLAIN: TEXT, Tone.SMALL: SMALL}


def customer_page(content: SheetContent, width: float) -> Iterator[Flowable]:
    """Yield the parts of the page, from top to bottom."""
    page = customer_page_of(content)
    yield paragraph(page.title, TITLE)
    yield paragraph(page.subtitle, SUBTITLE)
    yield Spacer(1, 6)
    yield _verdict_band(page, width)
    yield paragraph(page.answers, SUBTITLE)
    if page.story:
        yield paragraph(page.story, STORY)
    for section in page.sections:
        yield from _set(section, content, width)
    if page.outcome.may_go:  # Nobody signs for a machine that is not ready.
        yield Spacer(1, 8)
        yield _signatures(page, width)
    yield Spacer(1, 4)
    yield paragraph(page.provenance, SMALL)


def _verdict_band(page: CustomerPage, width: float) -> Table:
    style = [
        ("BACKGROUND", (0, 0), (-1, -1), _COLOURS.get(page.outcome, PROMISED)),
        ("LEFTPADDING", (0, 0), (-1, -1), 10),
        ("TOPPADDING", (0, 0), (-1, -1), 5),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 7),
    ]
    # The mark says in grey what the colour says.
    words = Paragraph(f"{OUTCOME_MARKS[page.outcome]} {page.outcome_words}", VERDICT)
    return Table([[words]], colWidths=[width], style=TableStyle(style))


def _set(section: Section, content: SheetContent, width: float) -> Iterator[Flowable]:
    yield Paragraph(section.heading, HEADING)
    if section.figure is Figure.TRACKS:
        yield Placed(tracks_drawing(content.judgement.tracks, width))
    elif section.figure is Figure.BOARDS:
        column = (width - _COLUMN_GAP) / 2
        boards = [
            [Placed(board_drawing(content.board_before, "on arrival", column)), "", Placed(board_drawing(content.board_now, "now", column))]
        ]
        yield Table(boards, colWidths=[column, _COLUMN_GAP, column], style=TableStyle(PLAIN))
    for sentence in section.sentences:
        mark = MARKS.get(sentence.tone)
        yield paragraph(sentence.text, ITEM, bulletText=mark) if mark else paragraph(sentence.text, _STYLES[sentence.tone])


def _signatures(page: CustomerPage, width: float) -> Table:
    cells = [[paragraph(page.handed_back_by, SMALL), "", paragraph("Received by, on", SMALL)]]
    style = [
        *PLAIN,
        ("LINEABOVE", (0, 0), (0, 0), 0.6, FAINT),
        ("LINEABOVE", (2, 0), (2, 0), 0.6, FAINT),
        ("TOPPADDING", (0, 0), (-1, -1), 2),
    ]
    column = (width - 30) / 2
    return Table(cells, colWidths=[column, 30, column], style=TableStyle(style), spaceBefore=16)
