"""What hands do next: the moves from what is fitted to what is tried, in an order in which each can be made."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.casework.hands import HandAct, HandMove, StartsSeen, plan_of, written
from after_check.casework.job_tries import log_of
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.tries import Arrangement, NextTry, SoakSaid, Started, Try, TryLog, TryModule
from after_check.sources.open_source import take_notation

MODULES = tuple(TryModule(letter, "8G") for letter in "abcd")
SLOTS = ("A1", "A2", "B1", "B2")


def arranged(words, profile=""):
    return Arrangement(tuple(tuple(pair.split("=")) for pair in words.split()), profile)


def way(last, chosen, worked=False, **proposed):
    log = TryLog(MODULES, SLOTS, (Try(last, Started.YES if worked else Started.NO),))
    return plan_of(None, log, NextTry(chosen, "why", 10, **proposed))


@pytest.mark.parametrize(
    ("last", "chosen", "moves", "kept"),
    [
        ("A2=a B2=b", "A2=a", [(HandAct.TAKE_OUT, "B2", "b")], "A2=a"),
        ("A2=a", "A2=a B2=b", [(HandAct.PUT_IN, "B2", "b")], "A2=a"),
        # Two modules change places: both have to be out before one can go in.
        (
            "A2=a B2=b",
            "A2=b B2=a",
            [
                (HandAct.TAKE_OUT, "A2", "a"),
                (HandAct.TAKE_OUT, "B2", "b"),
                (HandAct.PUT_IN, "A2", "b"),
                (HandAct.PUT_IN, "B2", "a"),
            ],
            "",
        ),
        # The same again, where it failed: each is seated again.
        ("A2=a B2=b", "A2=a B2=b", [(HandAct.SEAT_AGAIN, "A2", "a"), (HandAct.SEAT_AGAIN, "B2", "b")], ""),
    ],
)
def test_the_moves_from_one_arrangement_to_the_next(last, chosen, moves, kept):
    plan = way(arranged(last), arranged(chosen))
    assert plan.moves == tuple(HandMove(*move) for move in moves)
    assert plan.kept == arranged(kept).fitted


def test_a_profile_is_set_after_the_modules():
    plan = way(arranged("A2=a", "1"), arranged("B2=a", "off"))
    assert plan.moves[-1] == HandMove(HandAct.SET, "profile off")


def test_what_worked_is_started_again_untouched():
    plan = way(arranged("A2=a"), arranged("A2=a"), worked=True, starts=5, with_soak=True, soak_minutes=40)
    assert (plan.moves, plan.starts, plan.soak_minutes) == ((), 5, 40)


fitted = st.permutations(list("abcd")).flatmap(
    lambda letters: st.integers(0, 4).map(lambda count: tuple(zip(SLOTS, letters[:count], strict=False)))
)


@given(fitted, st.permutations(list(SLOTS)), st.integers(1, 4), st.permutations(list("abcd")))
def test_following_the_moves_leads_to_the_arrangement(before, slots, count, letters):
    chosen = Arrangement(tuple(sorted(zip(slots[:count], letters[:count], strict=True))))
    board = dict(before)
    for move in way(Arrangement(before), chosen).moves:
        if move.act is HandAct.TAKE_OUT:
            assert board.pop(move.slot) == move.letter  # It is there to be taken out,
        elif move.act is HandAct.PUT_IN:
            assert move.slot not in board  # the slot is free,
            assert move.letter not in board.values()  # and the module is in the hand.
            board[move.slot] = move.letter
        else:
            assert board[move.slot] == move.letter
    assert board == dict(chosen.fitted)


def test_a_plain_fitting_takes_the_old_modules_out_first(shop):
    arrival = take_notation("A1=-; A2=4G DDR4-2400; B1=-; B2=4G DDR4-2400; total 8G")
    shop.jobs.add(JobFacts("7", promise="A2=16G DDR4-3200; B2=16G DDR4-3200"), [(Moment.ARRIVAL, arrival)])
    job = shop.jobs.job("7")
    plan = plan_of(job, log_of(job), None)
    assert [(move.act, move.slot) for move in plan.moves] == [
        (HandAct.TAKE_OUT, "A2"),
        (HandAct.TAKE_OUT, "B2"),
        (HandAct.PUT_IN, "A2"),
        (HandAct.PUT_IN, "B2"),
    ]
    assert plan.is_fitting


def test_soldered_memory_is_never_taken_out(shop):
    arrival = take_notation("D1=8G DDR4-2666 soldered; S1=4G DDR4-2400 sodimm; total 12G")
    shop.jobs.add(JobFacts("8", promise="D1=8G DDR4-2666 soldered; S1=16G DDR4-2666 sodimm"), [(Moment.ARRIVAL, arrival)])
    job = shop.jobs.job("8")
    log = log_of(job)
    moves = plan_of(job, log, None).moves
    assert [(move.act, move.slot) for move in moves] == [(HandAct.TAKE_OUT, "S1"), (HandAct.PUT_IN, "S1")]
    assert log.by_letter[moves[0].letter].size_bytes == 4 << 30
    assert log.by_letter[moves[1].letter].size_bytes == 16 << 30


def test_answers_become_the_try():
    plan = replace(way(arranged("A2=a"), arranged("B2=a"), starts=3), soak_minutes=20.0)
    failed = StartsSeen().then(True).then(False)
    tried = written(plan, failed, 41.26, None)
    assert (tried.started, tried.starts, tried.starts_failed, tried.seconds, tried.soak) == (Started.NO, 2, 1, 41.3, None)
    clean = written(plan, StartsSeen().then(True), None, SoakSaid.CLEAN)
    assert (clean.started, clean.starts, clean.soak, clean.soak_minutes) == (Started.YES, None, SoakSaid.CLEAN, 20.0)
    assert clean.arrangement == arranged("B2=a")
