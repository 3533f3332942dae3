"""The boards of a job: a module has one letter wherever it is drawn, and a board says what it does not know of the tries."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import pytest

from after_check.casework.job_tries import log_of
from after_check.casework.promised import promise_of
from after_check.casework.shown_boards import arrival_board, present_board, promised_board
from after_check.domain.jobs import KeptTries, Moment
from after_check.domain.tries import Arrangement, Started, Try
from tests.casework.test_same_machine import job

ARRIVAL = (Moment.ARRIVAL, "A1=8G DDR4-2400 serial 0A1; A2=-; B1=-; B2=-; run 2400; single")
FITTED = (Moment.FITTED, "A1=8G DDR4-2400 serial 0A1; A2=-; B1=16G DDR4-2400; B2=-; run 2400; dual")
PROMISE = "A1=8G DDR4-2400; B1=16G DDR4-2400; dual"


def with_tries(kept, *tries):
    """Return the job with tries; each is hours before (negative) or after its latest reading, and what sits where."""
    at = kept.now.taken_at
    made = tuple(
        Try(Arrangement(tuple(tuple(pair.split("=")) for pair in words.split())), Started.YES, at=at + timedelta(hours=hours))
        for hours, words in tries
    )
    return replace(kept, tries=KeptTries(1, replace(log_of(kept), tries=made)))


def test_the_old_module_and_the_new_one_have_their_letters_on_every_board():
    kept = job(ARRIVAL, FITTED, promise=PROMISE)
    assert arrival_board(kept).letters == {"A1": "a"}
    assert present_board(kept).letters == {"A1": "a", "B1": "b"}
    assert promised_board(kept, promise_of(kept)).letters == {"A1": "a", "B1": "b"}


def test_modules_without_slots_have_letters_too():
    kept = job((Moment.ARRIVAL, "1x4G DDR4-2400"), (Moment.FITTED, "1x4G DDR4-2400; 1x8G DDR4-2400"), promise="1x4G; 1x8G")
    assert present_board(kept).loose_letters == ("a", "b")


def test_a_board_that_was_read_after_a_try_has_its_letters():
    # Two equal modules: only the try tells which is which.
    kept = job((Moment.FITTED, "A1=8G DDR4-2400; A2=-; B1=8G DDR4-2400; B2=-"), promise="2x8G DDR4-2400")
    assert present_board(with_tries(kept, (-1, "A1=b B1=a"))).letters == {"A1": "b", "B1": "a"}


def test_where_modules_may_have_moved_only_a_serial_number_tells_them():
    kept = job(ARRIVAL, FITTED, promise=PROMISE)
    moved = with_tries(kept, (-1, "A2=b"))
    assert present_board(moved).letters == {"A1": "a"}


@pytest.mark.parametrize(("hours", "number"), [((-2, -1), None), ((-1, 1), 2), ((1, 2), 1)])
def test_a_board_older_than_a_try_says_which(hours, number):
    kept = job(ARRIVAL, FITTED, promise=PROMISE)
    board = present_board(with_tries(kept, *((one, "A1=a B1=b") for one in hours)))
    assert board.before_try == number
    assert board.read_at == kept.now.taken_at


def test_a_module_that_is_fitted_and_not_seen_is_not_an_empty_slot():
    kept = job(ARRIVAL, (Moment.FITTED, "A1=8G DDR4-2400 serial 0A1; A2=-; B1=-; B2=-"), promise=PROMISE)
    board = present_board(with_tries(kept, (-1, "A1=a B1=b")))
    assert board.letters == {"A1": "a"}
    assert board.not_seen == {"B1": "b"}
    # A try that came later says nothing of what that reading shows.
    assert present_board(with_tries(kept, (1, "A1=a B1=b"))).not_seen == {}
