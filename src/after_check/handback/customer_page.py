"""The customer's page: no jargon, everything that matters, and what could not be checked."""

from __future__ import annotations

from collections.abc import Iterator

from reportlab.platypus import Flowable, Paragraph, Spacer, Table, TableStyle

from after_check.domain.facts import value_of
from after_check.domain.findings import Severity, Verdict
from after_check.domain.gauge import Change
from after_check.gauge.compare import compare, overall
from after_check.handback.board_drawing import board_drawing
from after_check.handback.content import SheetContent
from after_check.handback.later import suggestions
from after_check.handback.palette import FAINT, KEPT, PROMISED, SHORT
from after_check.handback.setting import HEADING, ITEM, PLAIN, SMALL, SUBTITLE, TEXT, TITLE, VERDICT, Figure, paragraph
from after_check.handback.tracks_drawing import tracks_drawing
from after_check.handback.wording import VERDICT_WORDS, accepted_words, not_checked, promise_in_words, soak_in_words, tried_words
from after_check.sources.notation import parse_promise

_COLUMN_GAP = 14.0
_VERDICT_COLOURS = {Verdict.READY: KEPT, Verdict.NOT_READY: SHORT, Verdict.CANT_TELL: PROMISED}
_SHOWN_FINDINGS = 8


def customer_page(content: SheetContent, width: float) -> Iterator[Flowable]:
    """Yield the parts of the page, from top to bottom."""
    facts, added = content.job.facts, content.job.hand_back
    yield paragraph(facts.title or f"Job {facts.number}", TITLE)
    parts = [facts.machine, facts.customer, f"job {facts.number}"]
    yield paragraph("  ·  ".join(part for part in parts if part), SUBTITLE)
    yield Spacer(1, 6)
    yield _verdict_band(content.judgement.verdict, width)
    yield Paragraph("What was promised", HEADING)
    yield paragraph(_capital(promise_in_words(content.promise)))
    for one in added.overrides:
        if one.code == "promise":
            before = promise_in_words(parse_promise(one.before)[0]) if one.before else "nothing"
            yield paragraph(f"Changed in agreement with you: {one.reason or 'no reason was written down'}. Before: {before}", SMALL)
    yield Paragraph("On arrival, as promised, and now", HEADING)
    if content.judgement.tracks:
        yield Figure(tracks_drawing(content.judgement.tracks, width))
    else:
        yield paragraph("Nothing was read yet.")
    yield Paragraph("The memory slots", HEADING)
    column = (width - _COLUMN_GAP) / 2
    boards = [[Figure(board_drawing(content.before, "on arrival", column)), "", Figure(board_drawing(content.now, "now", column))]]
    yield Table(boards, colWidths=[column, _COLUMN_GAP, column], style=TableStyle(PLAIN))
    yield from _findings(content)
    yield from _tested(content)
    yield from _ours(content)
    yield Spacer(1, 8)
    yield _signatures(content, width)
    yield Spacer(1, 4)
    yield paragraph(_provenance(content), SMALL)


def _verdict_band(verdict: Verdict, width: float) -> Table:
    style = [
        ("BACKGROUND", (0, 0), (-1, -1), _VERDICT_COLOURS[verdict]),
        ("LEFTPADDING", (0, 0), (-1, -1), 10),
        ("TOPPADDING", (0, 0), (-1, -1), 5),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 7),
    ]
    return Table([[Paragraph(VERDICT_WORDS[verdict], VERDICT)]], colWidths=[width], style=TableStyle(style))


def _findings(content: SheetContent) -> Iterator[Flowable]:
    for heading, severity in (("Still to be mended", Severity.FIX), ("Good to know", Severity.TELL)):
        sentences = list(dict.fromkeys(finding.customer for finding in content.open_findings(severity)))
        agreed = list(accepted_words(content.judgement, content.job.hand_back)) if severity is Severity.TELL else []
        if not sentences and not agreed:
            continue
        yield Paragraph(heading, HEADING)
        for sentence in [*sentences[:_SHOWN_FINDINGS], *agreed]:
            yield paragraph(sentence, ITEM, bulletText="!" if severity is Severity.FIX else "•")
        if len(sentences) > _SHOWN_FINDINGS:
            yield paragraph(f"And {len(sentences) - _SHOWN_FINDINGS} more.", ITEM)


def _tested(content: SheetContent) -> Iterator[Flowable]:
    soak = value_of(content.now.soak) if content.now is not None else None
    helped = _helped(content)
    tried = tried_words(content.blame)
    if soak is not None or helped or tried:
        yield Paragraph("What was tested", HEADING)
    for sentence in (soak_in_words(soak) if soak is not None else "", helped, tried):
        if sentence:
            yield paragraph(sentence, TEXT)
    yield Paragraph("What was not checked", HEADING)
    for sentence in not_checked(content.judgement, soak, content.now is not None and content.now.bandwidth_gbs is not None):
        yield paragraph(sentence, ITEM, bulletText="–")


def _helped(content: SheetContent) -> str:
    """Return whether the upgrade helped, in a sentence; empty where nothing was measured before and after."""
    before, now = content.gauges
    change = overall(compare(before, now)) if before is not None and now is not None else None
    return {
        Change.BETTER: "Measured before and after, the memory is faster than it was.",
        Change.WORSE: "Measured before and after, the memory is slower than it was.",
        Change.SAME: "Measured before and after, there is no difference in speed beyond what chance makes.",
        Change.NOT_COMPARABLE: "The speed was measured before and after, under conditions that cannot be compared.",
        None: "",
    }[change]


def _ours(content: SheetContent) -> Iterator[Flowable]:
    """Old modules, warranty, note, and what to consider later."""
    added = content.job.hand_back
    for heading, text in (("Your old modules", added.old_modules), ("Warranty", added.warranty), ("A note", added.note)):
        if text:
            yield Paragraph(heading, HEADING)
            yield paragraph(text)
    later = [added.later] if added.later else list(suggestions(content.now, content.promise, content.judgement, content.job.card))
    if later:
        yield Paragraph("To consider later", HEADING)
        for sentence in later[:2]:
            yield paragraph(sentence, ITEM, bulletText="•")


def _signatures(content: SheetContent, width: float) -> Table:
    job = content.job
    revision = job.revisions[-1] if job.frozen and job.revisions else None
    ours = f"Handed back by {revision.signed_by or 'the shop'}, {revision.signed_at:%-d %B %Y}" if revision else "Handed back by, on"
    cells = [[paragraph(ours, SMALL), "", paragraph("Received by, on", SMALL)]]
    style = [
        *PLAIN,
        ("LINEABOVE", (0, 0), (0, 0), 0.6, FAINT),
        ("LINEABOVE", (2, 0), (2, 0), 0.6, FAINT),
        ("TOPPADDING", (0, 0), (-1, -1), 2),
    ]
    column = (width - 30) / 2
    return Table(cells, colWidths=[column, 30, column], style=TableStyle(style), spaceBefore=16)


def _provenance(content: SheetContent) -> str:
    parts: list[str] = []
    for word, kept in (("on arrival", content.job.arrival), ("now", content.job.now)):
        if kept is not None:
            typed = any(one.name == "notation" for one in kept.reading.evidence)
            origin = "typed from a screen or a sticker" if typed else "read from the machine"
            parts.append(f"State {word}: {kept.taken_at:%Y-%m-%d %H:%M} UTC, {origin}.")
    serial = value_of(content.now.machine.serial) if content.now else None
    if serial:
        parts.append(f"Serial number of the machine: {serial}.")
    return " ".join(parts)


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]
