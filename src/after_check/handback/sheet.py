"""The sheet that goes with the machine: one A4 page."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import dataclass

from reportlab.graphics.shapes import Drawing
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, Frame, KeepInFrame, Paragraph, Spacer, Table, TableStyle

from after_check.domain.facts import value_of
from after_check.domain.findings import Finding, Judgement, Quantity, Severity, Verdict
from after_check.domain.gauge import GaugeRecord
from after_check.domain.jobs import Job
from after_check.domain.promises import Promise
from after_check.domain.quantities import peak_bandwidth_gbs
from after_check.domain.readings import Reading
from after_check.handback.board_drawing import board_drawing
from after_check.handback.palette import BOLD, FAINT, INK, KEPT, PROMISED, REGULAR, SHORT, WHITE, printable
from after_check.handback.tracks_drawing import tracks_drawing
from after_check.handback.wording import VERDICT_WORDS, not_checked, promise_in_words, soak_in_words
from after_check.judgement.reconcile import reconciled
from after_check.shop.summary import gauges_of, reading_now

_MARGIN = 18 * mm
WIDTH = A4[0] - 2 * _MARGIN
_COLUMN_GAP = 14.0

_TITLE = ParagraphStyle("title", fontName=BOLD, fontSize=19, leading=23, textColor=INK)
_SUBTITLE = ParagraphStyle("subtitle", fontName=REGULAR, fontSize=10, leading=14, textColor=FAINT)
_HEADING = ParagraphStyle("heading", fontName=BOLD, fontSize=10.5, leading=14, textColor=INK, spaceBefore=9, spaceAfter=3)
_TEXT = ParagraphStyle("text", fontName=REGULAR, fontSize=9.5, leading=13, textColor=INK)
_ITEM = ParagraphStyle("item", parent=_TEXT, leftIndent=14, bulletIndent=2, spaceAfter=2)
_SMALL = ParagraphStyle("small", fontName=REGULAR, fontSize=7.5, leading=10, textColor=FAINT)
_VERDICT = ParagraphStyle("verdict", fontName=BOLD, fontSize=12, leading=15, textColor=WHITE)

_VERDICT_COLOURS = {Verdict.READY: KEPT, Verdict.NOT_READY: SHORT, Verdict.CANT_TELL: PROMISED}
_SHOWN_FINDINGS = 8


@dataclass(frozen=True, slots=True)
class SheetContent:
    """Everything that the sheet shows."""

    job: Job
    promise: Promise | None
    judgement: Judgement

    @property
    def before(self) -> Reading | None:
        """The reading on arrival."""
        return reconciled(self.job.arrival.reading) if self.job.arrival else None

    @property
    def now(self) -> Reading | None:
        """The latest reading after fitting."""
        now = reading_now(self.job)
        return reconciled(now) if now is not None else None

    @property
    def gauges(self) -> tuple[GaugeRecord | None, GaugeRecord | None]:
        """The gauges on arrival and now."""
        return gauges_of(self.job)

    @property
    def one_channel_gbs(self) -> float | None:
        """What one channel carries at the running rate, in GB/s."""
        rate = self.judgement.track(Quantity.RATE)
        return peak_bandwidth_gbs(int(rate.now), 1) if rate is not None and isinstance(rate.now, int | float) else None

    @property
    def channels(self) -> int:
        """How many channels run, or the two that most machines have where that is not known."""
        channels = self.judgement.track(Quantity.CHANNELS)
        return int(channels.now) if channels is not None and isinstance(channels.now, int | float) else 2


class _Figure(Flowable):  # type: ignore[misc]  # reportlab carries no types
    """A drawing in the flow of the page."""

    def __init__(self, drawing: Drawing) -> None:
        super().__init__()
        self._drawing = drawing
        self.width, self.height = drawing.width, drawing.height

    def wrap(self, *_: float) -> tuple[float, float]:
        return self.width, self.height

    def draw(self) -> None:
        from reportlab.graphics import renderPDF

        renderPDF.draw(self._drawing, self.canv, 0, 0)


def sheet_pdf(content: SheetContent) -> bytes:
    """Return the sheet as the bytes of a PDF of one page."""
    stream = io.BytesIO()
    canvas = Canvas(stream, pagesize=A4, invariant=False)
    title = f"Job {content.job.facts.number}: {content.job.facts.title}"
    canvas.setTitle(printable(title))
    canvas.setAuthor("After Check")
    canvas.setSubject("Memory upgrade: what was promised, and what the machine has now")
    canvas.bookmarkPage("sheet")
    canvas.addOutlineEntry(printable(title), "sheet")
    frame = Frame(_MARGIN, _MARGIN, WIDTH, A4[1] - 2 * _MARGIN, 0, 0, 0, 0)
    # One page, always: a long list of findings makes everything a little smaller rather than spilling over.
    frame.addFromList([KeepInFrame(WIDTH, A4[1] - 2 * _MARGIN, list(_story(content)), mode="shrink")], canvas)
    canvas.showPage()
    canvas.save()
    return stream.getvalue()


def _story(content: SheetContent) -> Iterator[Flowable]:
    facts = content.job.facts
    yield Paragraph(_escaped(facts.title or f"Job {facts.number}"), _TITLE)
    parts = [facts.machine, facts.customer, f"job {facts.number}", f"{content.job.changed_at:%-d %B %Y}"]
    yield Paragraph("  ·  ".join(_escaped(part) for part in parts if part), _SUBTITLE)
    yield Spacer(1, 8)
    yield _verdict_band(content.judgement.verdict)
    yield Paragraph("What was promised", _HEADING)
    yield Paragraph(_escaped(_capital(promise_in_words(content.promise))), _TEXT)
    yield Paragraph("On arrival, as promised, and now", _HEADING)
    if content.judgement.tracks:
        yield _Figure(tracks_drawing(content.judgement.tracks, WIDTH))
    else:
        yield Paragraph("Nothing was read yet.", _TEXT)
    yield Paragraph("The memory slots", _HEADING)
    column = (WIDTH - _COLUMN_GAP) / 2
    boards = [
        [_Figure(board_drawing(content.before, "on arrival", column)), "", _Figure(board_drawing(content.now, "now", column))],
    ]
    yield Table(boards, colWidths=[column, _COLUMN_GAP, column], style=TableStyle(_PLAIN))
    yield from _findings(content.judgement.findings)
    soak = value_of(content.now.soak) if content.now is not None else None
    if soak is not None:
        yield Paragraph("What was tested", _HEADING)
        yield Paragraph(soak_in_words(soak), _TEXT)
    yield Paragraph("What was not checked", _HEADING)
    for sentence in not_checked(content.judgement, soak, content.now is not None and content.now.bandwidth_gbs is not None):
        yield Paragraph(_escaped(sentence), _ITEM, bulletText="–")
    yield Spacer(1, 10)
    yield Paragraph(_escaped(_provenance(content)), _SMALL)


_PLAIN = [("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0), ("RIGHTPADDING", (0, 0), (-1, -1), 0)]


def _verdict_band(verdict: Verdict) -> Table:
    style = [
        ("BACKGROUND", (0, 0), (-1, -1), _VERDICT_COLOURS[verdict]),
        ("LEFTPADDING", (0, 0), (-1, -1), 10),
        ("TOPPADDING", (0, 0), (-1, -1), 6),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 8),
    ]
    return Table([[Paragraph(VERDICT_WORDS[verdict], _VERDICT)]], colWidths=[WIDTH], style=TableStyle(style))


def _findings(findings: tuple[Finding, ...]) -> Iterator[Flowable]:
    groups = (("Still to be mended", Severity.FIX), ("Good to know", Severity.TELL))
    for heading, severity in groups:
        sentences = list(dict.fromkeys(finding.customer for finding in findings if finding.severity is severity))
        if not sentences:
            continue
        yield Paragraph(heading, _HEADING)
        for sentence in sentences[:_SHOWN_FINDINGS]:
            yield Paragraph(_escaped(sentence), _ITEM, bulletText="!" if severity is Severity.FIX else "•")
        if len(sentences) > _SHOWN_FINDINGS:
            yield Paragraph(f"And {len(sentences) - _SHOWN_FINDINGS} more.", _ITEM)


def _provenance(content: SheetContent) -> str:
    parts: list[str] = []
    for word, kept in (("on arrival", content.job.arrival), ("now", content.job.now)):
        if kept is None:
            continue
        origin = "typed from a screen or a sticker" if _was_typed(kept.reading) else "read from the machine"
        hashes = ", ".join(f"{one.name.rsplit('/', 1)[-1]} {one.sha256[:12]}" for one in kept.reading.evidence)
        parts.append(
            f"Reading {word}: {kept.taken_at:%Y-%m-%d %H:%M} UTC, {origin}" + (f" (kept evidence: {hashes})" if hashes else "") + "."
        )
    model = content.now.machine if content.now else None
    serial = value_of(model.serial) if model else None
    if serial:
        parts.append(f"Serial number of the machine: {serial}.")
    return " ".join(parts) + " Made with After Check."


def _was_typed(reading: Reading) -> bool:
    return any(one.name == "notation" for one in reading.evidence)


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _escaped(text: str) -> str:
    """Return outside text for a paragraph: its own markup means nothing."""
    return printable(text).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
