"""What is to be done next with a job: one thing at each moment, from arrival to sheet."""

from __future__ import annotations

from dataclasses import replace

from after_check.casework.next_step import ToDo, next_step_of
from after_check.casework.outcome import ON_STICKERS, to_settle
from after_check.casework.snapshot import take_snapshot
from after_check.domain.handback import ON_THE_STICKER, ONLY_DESCRIBES, HandBack, Override, settled_code
from after_check.domain.jobs import Moment
from after_check.domain.standing import JobOutcome, Verdict
from after_check.handback.page import accepted_words, settled_words
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


DESCRIBED = "2x8G 2Rx8 DDR4-2400 CL17; dual; run 2400"
GOOD = (Moment.FITTED, "A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400; total 16G; dual; soak clean 60min 95%")


def snapshot(added, *readings, promise=DESCRIBED):
    return take_snapshot(replace(job(ARRIVAL, *readings, promise=promise), hand_back=added))


def settled(*names, why=ON_THE_STICKER):
    return HandBack(overrides=tuple(Override(settled_code(name), why) for name in names))


def test_what_only_stickers_tell_is_asked_once_and_then_counts():
    asked = snapshot(HandBack(), GOOD)
    assert asked.judgement.verdict is Verdict.CANT_TELL
    assert next_step_of(asked).doing is ToDo.SETTLE
    assert to_settle(asked.judgement, HandBack(), asked.promise) == ("ranks", "device width", "timings")
    for why in (ON_THE_STICKER, ONLY_DESCRIBES):
        answered = snapshot(settled("ranks", "device width", "timings", why=why), GOOD)
        assert (answered.judgement.verdict, answered.outcome) == (Verdict.READY, JobOutcome.READY)
        assert list(accepted_words(answered.judgement, answered.job.hand_back)) == []
        said = " ".join(settled_words(answered.job.hand_back))
        assert said.startswith("Ranks, device width, timings: ")
        assert ("sticker" in said) == (why == ON_THE_STICKER)


def test_each_name_is_settled_for_itself():
    for left in ("ranks", "device width", "timings"):
        names = {"ranks", "device width", "timings"} - {left}
        answered = snapshot(settled(*names), GOOD)
        assert answered.judgement.verdict is Verdict.CANT_TELL
        assert answered.judgement.not_known == (left,)


def test_a_look_at_stickers_settles_nothing_that_a_machine_shows():
    """What runs, how much there is and what is seen to be otherwise stay as they are, whoever settled what."""
    every = settled(*ON_STICKERS, "rate", "capacity", "channels", "modules", "module.differs")
    without_rate = (Moment.FITTED, "A2=8G DDR4-2400; B2=8G DDR4-2400; total 16G; dual; soak clean 60min 95%")
    assert snapshot(every, without_rate).outcome is JobOutcome.CANT_TELL
    other_ranks = (Moment.FITTED, GOOD[1].replace("8G DDR4", "8G 1Rx8 DDR4"))
    assert snapshot(every, other_ranks).outcome is JobOutcome.NOT_READY
    running = "2x8G DDR4-2400; dual; run 2400; 17-17-17-39"
    assert snapshot(every, GOOD, promise=running).outcome is JobOutcome.CANT_TELL
    asked = snapshot(HandBack(), GOOD, promise=running)
    assert to_settle(asked.judgement, HandBack(), asked.promise) == ()
