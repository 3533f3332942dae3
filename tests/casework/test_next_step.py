"""What is to be done next with a job: one thing at each moment, from arrival to sheet."""

from __future__ import annotations

from dataclasses import replace

from after_check.casework.next_step import ToDo, next_step_of
from after_check.casework.snapshot import take_snapshot
from after_check.domain.handback import HandBack, Override
from after_check.domain.jobs import Moment
from tests.casework.test_same_machine import job

ARRIVAL = (Moment.ARRIVAL, "A2=8G DDR4-2400; B2=-; run 2400; single")
PROMISE = "2x8G DDR4-2400; dual; run 2400"


def doing(*readings, promise=PROMISE, **changes):
    return next_step_of(take_snapshot(replace(job(*readings, promise=promise), **changes))).doing


def test_from_arrival_to_sheet():
    good = "A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400; dual"
    assert doing() is ToDo.READ
    assert doing(ARRIVAL, promise="") is ToDo.PROMISE
    assert doing(ARRIVAL) is ToDo.BEFORE
    assert doing(ARRIVAL, (Moment.FITTED, "A2=8G DDR4-2400; B2=-; run 2400; single")) is ToDo.TRY
    assert doing(ARRIVAL, (Moment.FITTED, "A2=8G DDR4-2400; B2=8G DDR4-2400; run 2133; dual")) is ToDo.READ
    assert doing(ARRIVAL, (Moment.FITTED, good)) is ToDo.TEST
    assert doing(ARRIVAL, (Moment.FITTED, f"{good}; soak clean 60min 95%")) is ToDo.HAND_BACK
    assert doing(ARRIVAL, frozen=True) is ToDo.HAND_BACK


def test_what_is_not_known_is_read_and_named():
    step = next_step_of(take_snapshot(job(ARRIVAL, (Moment.FITTED, "A2=8G DDR4-2400; B2=8G DDR4-2400; total 16G"), promise=PROMISE)))
    assert step.doing is ToDo.READ
    assert "speed" in step.words


def test_what_was_agreed_to_is_not_to_be_done():
    fitted = (Moment.FITTED, "A2=8G DDR4-2400; B2=8G DDR4-2400; run 2133; dual; soak clean 60min 95%")
    roots = take_snapshot(job(ARRIVAL, fitted, promise=PROMISE)).judgement.roots
    agreed = HandBack(overrides=tuple(Override(root.code, "agreed") for root in roots))
    assert doing(ARRIVAL, fitted, hand_back=agreed) is ToDo.HAND_BACK
    missing = (Moment.FITTED, "A2=8G DDR4-2400; B2=-; run 2400; single")
    assert doing(ARRIVAL, missing, hand_back=HandBack(as_it_came="no")) is ToDo.HAND_BACK
