"""The five answers: worked out once from the judged job, the same on the screen and in JSON."""

from __future__ import annotations

import json
import subprocess
import sys
from dataclasses import replace

import pytest
from rich.cells import cell_len

from after_check.casework.answers import QUESTION_OF, JobAnswerKind, JobQuestion, answers_of
from after_check.casework.snapshot import take_snapshot
from after_check.domain.codes import Code
from after_check.domain.handback import HandBack, Override
from after_check.domain.jobs import Moment
from after_check.domain.standing import Quantity, TrackStatus
from after_check.tui.charts.answer_line import answers_line
from tests.casework.test_same_machine import job

ARRIVAL = (Moment.ARRIVAL, "A2=8G DDR4-2400; B2=-; run 2400; single")
PROMISE = "2x8G DDR4-2400; dual; run 2400"
GOOD = "A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400; total 16G; dual"


def marks(*readings, promise=PROMISE, **changes):
    snapshot = take_snapshot(replace(job(*readings, promise=promise), **changes))
    return "".join(one.kind.mark for one in answers_of(snapshot))


# What a technician would answer: all there, at pace, trusted, helped, told.
@pytest.mark.parametrize(
    ("fitted", "expected"),
    [
        (GOOD, "✓✓??–"),
        (f"{GOOD}; soak clean 60min 95%", "✓✓✓?–"),
        (f"{GOOD}; soak errors 12", "✓✓✗?–"),
        (f"{GOOD}; soak clean 60min 20%", "✓✓??–"),
        ("A2=8G DDR4-2400; B2=-; run 2400; total 8G; single", "✗✗??–"),  # One channel follows from the missing module.
        ("A2=8G DDR4-2400; B2=8G DDR4-2400; run 2133; total 16G; dual", "✓✗??–"),
        ("A2=8G DDR4-2400; B2=8G DDR4-2400; total 16G; dual", "✓???–"),
        ("A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400; total 64G; dual", "?✓??–"),
        (f"{GOOD}; benchmark better", "✓✓?✓–"),
    ],
)
def test_each_question_has_its_own_answer(fitted, expected):
    assert marks(ARRIVAL, (Moment.FITTED, fitted)) == expected


def test_what_was_not_promised_is_not_asked_and_what_was_not_read_is_not_known():
    assert marks(ARRIVAL, promise="") == "––??–"
    assert marks(ARRIVAL) == "????–"
    assert marks(ARRIVAL, (Moment.FITTED, GOOD), promise="16G")[1] == "–"


def test_what_was_agreed_is_waived_and_a_signed_sheet_is_told():
    slow = (Moment.FITTED, "A2=8G DDR4-2400; B2=8G DDR4-2400; run 2133; total 16G; dual")
    snapshot = take_snapshot(job(ARRIVAL, slow, promise=PROMISE))
    agreed = HandBack(overrides=tuple(Override(root.code, "by phone") for root in snapshot.judgement.roots))
    answers = answers_of(take_snapshot(replace(snapshot.job, hand_back=agreed, frozen=True)))
    assert [(one.kind, one.why) for one in answers][1] == (JobAnswerKind.WAIVED, "by phone")
    assert answers[4].kind is JobAnswerKind.YES


def test_every_finding_belongs_to_a_question():
    assert {code.value.partition(".")[0] for code in Code} == set(QUESTION_OF)


def test_no_job_of_the_demo_is_ready_with_a_no_and_each_answer_no_has_its_reason(demo_shop):
    for number in demo_shop.jobs.numbers():
        snapshot = take_snapshot(demo_shop.jobs.job(number))
        answers = answers_of(snapshot)
        assert [one.question for one in answers] == list(JobQuestion)
        negative = [one for one in answers if one.kind is JobAnswerKind.NO]
        assert all(one.why for one in negative)
        if snapshot.outcome.value == "ready":
            assert not negative
            assert {one.kind for one in answers[:2]} <= {JobAnswerKind.YES, JobAnswerKind.WAIVED, JobAnswerKind.NOT_ASKED}
        if snapshot.outcome.value == "not ready":
            assert negative
        for cells in (80, 128, 200):
            line = answers_line(answers, cells)
            assert cell_len(line.plain) <= cells
            assert all(f"{one.question.value} {one.kind.mark}" in line.plain for one in answers)


def test_the_command_has_them_in_json():
    said = [sys.executable, "-m", "after_check", "judge", "--after", GOOD, "--promise", PROMISE, "--json"]
    document = json.loads(subprocess.run(said, capture_output=True, text=True, check=False, timeout=60).stdout)
    assert [(one["question"], one["answer"]) for one in document["answers"]] == [
        ("all there", "yes"),
        ("at pace", "yes"),
        ("trusted", "not known"),
        ("helped", "not known"),
        ("told", "not asked"),
    ]


def test_what_is_short_of_the_promise_is_a_no_whatever_else_is_not_known(demo_shop):
    """On one screen a value was "too little" and its answer "not known"."""
    asked = {Quantity.CAPACITY: 0, Quantity.RATE: 1, Quantity.CHANNELS: 1, Quantity.PROFILE: 1}
    seen = 0
    for number in demo_shop.jobs.numbers():
        snapshot = take_snapshot(demo_shop.jobs.job(number))
        answers = answers_of(snapshot)
        for track in snapshot.judgement.tracks:
            if track.status is TrackStatus.SHORT and track.quantity in asked:
                seen += 1
                assert answers[asked[track.quantity]].kind is JobAnswerKind.NO, (number, track.quantity)
    assert seen > 5
