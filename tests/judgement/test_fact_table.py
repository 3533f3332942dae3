"""The table of facts: every fact of a reading has a row, and a new row is read, written, promised, compared, printed and saved."""

from __future__ import annotations

from dataclasses import fields, replace

import pytest

from after_check.cli.report_lines import reading_lines
from after_check.domain import fact_table
from after_check.domain.case_files import CaseFile
from after_check.domain.fact_table import FACTS, FactKind, FactRow, Part
from after_check.domain.facts import Fact, Source
from after_check.domain.readings import Reading
from after_check.domain.standing import Verdict
from after_check.judgement.compare import differences
from after_check.judgement.judge import judge
from after_check.judgement.machine_said import said_by_the_machine
from after_check.judgement.reconcile import combined, fitted_since
from after_check.language.corrections import pieces_of
from after_check.language.short_form import parse, parse_promise, write
from after_check.sources.open_source import take_notation, take_promise
from after_check.sources.saved import reading_from_json, reading_to_json
from after_check.texts import words_of
from after_check.tui.charts.sources import source_lines

MADE_UP = FactRow(
    "scrub_on",
    FactKind.SWITCH,
    "memory scrubbing",
    ("scrub {}",),
    hint="scrub on or scrub off",
    promised="scrub_on",
    part=Part.SETTINGS,
    compared="memory scrubbing",
    listed=True,
    on_record=True,
)
BOARD = "A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400"
PROMISE = "2x8G DDR4-2400; run 2400"


@pytest.fixture
def made_up(monkeypatch):
    monkeypatch.setattr(fact_table, "FACTS", (*FACTS, MADE_UP))


def test_every_fact_of_a_reading_has_a_row():
    named = {field.name for field in fields(Reading) if str(field.type).startswith("Fact[")}
    assert named == {row.name for row in FACTS}


def test_every_fact_can_be_promised_or_says_that_it_cannot():
    assert not [row.name for row in FACTS if not row.promised and not row.not_promised and row.name not in ("running_rate", "total_bytes")]
    assert not [row.name for row in FACTS if row.promised and row.not_promised]


def test_a_new_row_is_read_and_written(made_up):
    reading = parse(f"{BOARD}; scrub on").reading
    assert reading.more == {"scrub_on": Fact(True, Source.TYPED)}
    assert write(reading) == f"{BOARD}; scrub on"
    assert "did you mean 'scrub'?" in str(parse("scrubb").problems[0])
    assert "scrub on or scrub off" in str(parse("scrub").problems[0])
    (twice,) = parse("scrub on; scrub off").problems
    assert "scrub on is given twice: on and off" in str(twice)


def test_a_new_row_is_promised_and_held_against_the_machine(made_up):
    promise = take_promise(f"{PROMISE}; scrub on")
    assert promise.more == {"scrub_on": True}

    def judged(line):
        return judge(CaseFile(take_notation(line).reading, promise=promise))

    assert judged(BOARD).verdict is Verdict.CANT_TELL
    assert judged(f"{BOARD}; scrub on").verdict is Verdict.READY
    off = judged(f"{BOARD}; scrub off")
    assert off.verdict is Verdict.NOT_READY
    assert words_of(off.roots[0]).title == "Not as promised, memory scrubbing: off, on promised"


def test_a_new_row_that_cannot_be_promised_says_so(monkeypatch):
    monkeypatch.setattr(fact_table, "FACTS", (*FACTS, replace(MADE_UP, promised="", not_promised="scrubbing")))
    assert "scrubbing cannot be promised" in str(parse_promise("2x8G; scrub on")[1].problems[0])


def test_a_new_row_is_reconciled_compared_and_corrected(made_up):
    on, off = (take_notation(f"{BOARD}; scrub {state}").reading for state in ("on", "off"))
    later = combined(on, off).more["scrub_on"]
    assert (later.value, [other.value for other in later.others]) == (False, [True])
    assert not fitted_since(on, take_notation("A2=16G").reading).more
    assert said_by_the_machine(parse("scrub on").reading, None)
    (difference,) = differences(on, off)
    assert (difference.what, difference.first, difference.second) == ("memory scrubbing", "on", "off")
    piece = next(piece for piece in pieces_of(on) if piece.words == "memory scrubbing on")
    assert not piece.choices[-1].reading.more


def test_a_new_row_is_printed_and_saved(made_up, shop):
    reading = take_notation(f"{BOARD}; scrub on").reading
    assert reading_from_json(reading_to_json(reading)) == reading
    assert any("memory scrubbing on" in " ".join(line.split()) for line in reading_lines(reading))
    assert any("memory scrubbing" in line.plain for line in source_lines(reading, 80))
    from after_check.domain.jobs import JobFacts, Moment
    from after_check.handback.content import content_of
    from after_check.handback.record_pages import _facts

    job = shop.jobs.add(JobFacts("1", promise=f"{PROMISE}; scrub on"), ((Moment.FITTED, take_notation(write(reading))),))
    assert shop.jobs.job("1").now.reading.more == reading.more
    assert ("Memory scrubbing", "on") in [(name, said) for name, said, _ in _facts(content_of(job).now)]
