"""One summary sheet for a batch of machines, and its table."""

from __future__ import annotations

import io
from collections.abc import Iterator
from typing import Any

from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer

from after_check.casework.batch import Batch, JudgedMachine
from after_check.casework.verdict_words import QUANTITY_WORDS, outcome_words
from after_check.domain.promises import Promise
from after_check.domain.quantities import number_text
from after_check.domain.standing import Quantity
from after_check.handback.content import Look
from after_check.handback.csv_tables import csv_bytes
from after_check.handback.page import promise_in_words
from after_check.handback.palette import in_grey
from after_check.handback.sheet import PAPERS
from after_check.handback.typesetting import HEADING, ITEM, MARGIN, SUBTITLE, TITLE, paragraph, table, width_of

_SHOWN = (Quantity.CAPACITY, Quantity.RATE, Quantity.CHANNELS, Quantity.PROFILE)


def batch_pdf(batch: Batch, promise: Promise | None, look: Look = Look()) -> bytes:  # noqa: B008 - frozen
    """Return the summary as the bytes of a PDF."""
    stream = io.BytesIO()
    size = PAPERS[look.paper]
    document = SimpleDocTemplate(
        stream,
        pagesize=size,
        leftMargin=MARGIN,
        rightMargin=MARGIN,
        topMargin=MARGIN,
        bottomMargin=MARGIN,
        title=f"{len(batch.machines)} machines",
        author=look.shop_name or "After Check",
        creator="After Check",
        enforceColorSpace=None if look.colour else in_grey,
    )
    document.build(list(_story(batch, promise, look, width_of(size))))
    return stream.getvalue()


def _story(batch: Batch, promise: Promise | None, look: Look, width: float) -> Iterator[Flowable]:
    yield paragraph(f"{len(batch.machines)} machines: {batch.counts[0][1]} ready", TITLE)
    counts = ", ".join(f"{number} {words}" for _, number, words in batch.counts[1:])
    yield paragraph("  ·  ".join(part for part in (look.shop_name, counts) if part), SUBTITLE)
    yield Paragraph("What was promised for each", HEADING)
    yield paragraph(promise_in_words(promise))
    if batch.different and batch.usual is not None:
        yield Paragraph("Those that differ from the rest", HEADING)
        for machine in batch.different:
            yield paragraph(f"{machine.name}: {machine.why}", ITEM, bulletText="!")
    yield Paragraph("All machines", HEADING)
    yield Spacer(1, 2)
    rows = [
        (machine.name, outcome_words(machine.outcome), *(_value(machine, quantity) for quantity in _SHOWN), machine.why)
        for machine in batch.machines
    ]
    shares = (0.2, 0.1, 0.09, 0.09, 0.08, 0.08, 0.36)
    yield table(("Machine", "", *(QUANTITY_WORDS[quantity] for quantity in _SHOWN), "Why"), rows, [share * width for share in shares])


def _value(machine: JudgedMachine, quantity: Quantity) -> str:
    track = machine.judgement.track(quantity) if machine.judgement is not None else None
    if track is None or track.now is None:
        return "not known"
    return track.now if isinstance(track.now, str) else number_text(track.now)


def batch_csv(batch: Batch) -> bytes:
    """Return the batch as a table with a column for every finding."""
    rows: list[tuple[Any, ...]] = []
    for machine in batch.machines:
        codes = {found.code for found in machine.telling}
        values = (_value(machine, quantity) for quantity in _SHOWN)
        rows.append((machine.name, machine.outcome.value, *values, *("x" if code in codes else "" for code in batch.codes), machine.why))
    return csv_bytes(("machine", "verdict", *(quantity.value for quantity in _SHOWN), *batch.codes, "why"), rows)
