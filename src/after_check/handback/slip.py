"""The slip for the shelf: one small page with what is to be bought, what goes where, and what to mind, for whoever opens the machine."""

from __future__ import annotations

import io
from collections.abc import Iterator
from pathlib import Path

from reportlab.lib.pagesizes import A6
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Frame, KeepInFrame, PageTemplate
from reportlab.platypus.doctemplate import BaseDocTemplate

from after_check.casework.promised import promise_in
from after_check.casework.rate_words import expected_range_words
from after_check.domain.jobs import Job, JobFacts
from after_check.domain.outside_text import clean
from after_check.domain.readings import Reading
from after_check.files.whole_files import write_whole
from after_check.handback.ownership import check_owner, mark_of
from after_check.handback.page import promise_in_words
from after_check.handback.palette import printable
from after_check.handback.typesetting import HEADING, ITEM, SMALL, SUBTITLE, TITLE, paragraph
from after_check.judgement.before_fitting import BeforeFitting, Weight
from after_check.language.corrections import module_words

_MARGIN = 8 * mm
_MARKS = {Weight.STOP: "!", Weight.MIND: "–", Weight.SAYS: "–"}


def slip_pdf(facts: JobFacts, known: BeforeFitting, uid: str = "") -> bytes:
    """Return the slip of a job as the bytes of a PDF of one page."""
    stream = io.BytesIO()
    title = printable(f"Job {facts.number}: before it is opened")
    document = BaseDocTemplate(stream, pagesize=A6, title=title, author="After Check", creator="After Check", keywords=mark_of(uid))
    frame = (_MARGIN, _MARGIN, A6[0] - 2 * _MARGIN, A6[1] - 2 * _MARGIN)
    document.addPageTemplates([PageTemplate("slip", [Frame(*frame, 0, 0, 0, 0)])])
    document.build([KeepInFrame(frame[2], frame[3], list(_parts(facts, known)), mode="shrink")])
    return stream.getvalue()


def export_slip(job: Job, known: BeforeFitting, path: Path) -> Path:
    """Write the slip. Raises NotReplacedError where a file of another job is there, and OSError."""
    check_owner(path, job.uid)
    write_whole(path, slip_pdf(job.facts, known, job.uid))
    return path


def _parts(facts: JobFacts, known: BeforeFitting) -> Iterator[Flowable]:
    yield paragraph(f"Job {facts.number}", TITLE)
    yield paragraph(" · ".join(part for part in (facts.title, facts.machine, facts.customer) if part), SUBTITLE)
    promise = promise_in(facts.promise)
    yield paragraph(f"Promised: {promise_in_words(promise)}", SMALL)
    for heading, lines in (
        ("To buy", known.to_buy),
        ("Fit", _slot_plan_words(known.plan, known.kept)),
        ("What to expect", expected_range_words(known.expected_mts, known.parts)),
    ):
        if lines:
            yield paragraph(heading, HEADING)
        for line in lines:
            yield paragraph(clean(line), ITEM, bulletText="▯" if heading == "To buy" else "–")
    if known.remarks:
        yield paragraph("Before you open it", HEADING)
    for remark in known.remarks:
        yield paragraph(f"{remark.words} {remark.do}".strip(), ITEM, bulletText=_MARKS[remark.weight])


def _slot_plan_words(plan: Reading, kept: tuple[str, ...]) -> tuple[str, ...]:
    """Return which module goes into which slot, a line a slot; those without a slot name as one line."""
    lines = []
    for slot in plan.slots:
        words = module_words(slot.module, "a module") if slot.module is not None else "stays empty"
        lines.append(f"{slot.name}: {words}{', stays' if slot.name in kept and slot.module is not None else ''}")
    loose = [module_words(module, "a module") for module in plan.loose]
    return (*lines, *((f"{' and '.join(loose)}, into the slots that the machine's maker names first",) if loose else ()))
