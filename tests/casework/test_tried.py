"""A try that follows the hand: begun from what was promised, made a reading, and concluded in the technician's own words."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from after_check.casework.job_tries import as_reading, first_try, log_of, staying
from after_check.domain.identity import MachineIdentity
from after_check.domain.jobs import KeptSoak, KeptTries, Moment
from after_check.domain.soak import SoakRecord, SoakState, Surroundings
from after_check.domain.tries import Arrangement, Elsewhere, SoakSaid, Started, Try, TryModule
from after_check.handback.content import content_of
from after_check.handback.page import customer_page_of
from after_check.tries.notes import noted
from after_check.tui.charts.try_keys import beside_words, lettered, with_corrections
from tests.casework.test_same_machine import job

ARRIVAL = (Moment.ARRIVAL, "A1=8G DDR4-2400; A2=-; B1=-; B2=-; run 2400; single")
PROMISE = "A1=8G DDR4-2400; B1=16G DDR4-2400; dual"


def test_a_first_try_begins_from_the_promise():
    begun = first_try(job(ARRIVAL, promise=PROMISE))
    assert begun.arrangement == Arrangement((("A1", "a"), ("B1", "b")))
    assert (begun.seen, begun.started) == (None, None)


def test_what_was_not_seen_already_is_not_seen_in_it():
    fitted = (Moment.FITTED, "A1=8G DDR4-2400; A2=-; B1=-; B2=-; run 2400; single")
    begun = first_try(job(ARRIVAL, fitted, promise=PROMISE))
    assert begun.unseen == ("B1",)
    assert begun.started is Started.YES


def test_an_arrangement_becomes_a_reading():
    log = log_of(job(ARRIVAL, promise=PROMISE))
    tried = Try(Arrangement((("A1", "a"), ("B1", "b"))), Started.YES, rate_mts=2400, channels=2, soak=SoakSaid.CLEAN, soak_minutes=90.0)
    assert as_reading(log, tried) == "A1=8G DDR4-2400; A2=-; B1=16G DDR4-2400; B2=-; run 2400MT/s; dual; soak clean 90min"


def test_a_memory_test_that_ran_meanwhile_tells_its_bits_and_how_hot_it_was():
    kept = job(ARRIVAL, promise=PROMISE)
    at = datetime(2026, 11, 2, 9, tzinfo=UTC)
    lanes = [(0, 0)] * 64
    lanes[5], lanes[37] = (3, 0), (0, 1)
    around = (Surroundings(5.0, module_celsius=71.5), Surroundings(10.0, module_celsius=88.0), Surroundings(15.0))
    here = MachineIdentity(is_the_jobs=True)
    found = SoakRecord("short", SoakState.STOPPED, at, 600.0, steps_done=1, errors=4, lanes=tuple(lanes), surroundings=around, machine=here)
    log = replace(log_of(kept), tries=(Try(Arrangement((("A1", "a"), ("B1", "b"))), Started.YES, at=at),))
    tested = replace(kept, tries=KeptTries(1, log), soaks=(KeptSoak(1, at, found),))
    (tried,) = log_of(tested).tries
    assert (tried.soak, tried.soak_minutes, tried.wrong_bits, tried.celsius) == (SoakSaid.ERRORS, 10.0, (5, 37), 88.0)
    # Errors all over a word are of no one place, and what the technician wrote himself stands.
    everywhere = replace(found, lanes=((1, 0),) * 64)
    own = replace(log, tries=(replace(log.tries[0], errors_at=("device 3",), celsius=60.0),))
    (tried,) = log_of(replace(tested, soaks=(KeptSoak(1, at, everywhere),))).tries
    assert tried.wrong_bits == ()
    (tried,) = log_of(replace(tested, tries=KeptTries(1, own))).tries
    assert (tried.errors_at, tried.wrong_bits, tried.celsius) == (("device 3",), (), 60.0)


def test_what_the_technician_concludes_is_printed():
    kept = job(ARRIVAL, promise=PROMISE)
    log = replace(log_of(kept), tries=(Try(Arrangement((("A1", "a"),)), Started.NO),), conclusion="the fan was not plugged in.")
    kept = replace(kept, tries=KeptTries(1, log))
    page = customer_page_of(content_of(kept))
    said = [sentence.text for section in page.sections for sentence in section.sentences]
    assert "1 arrangement of the modules was tried to find the cause: the fan was not plugged in." in said


def test_what_a_note_says_of_the_machine_is_noted_as_such():
    begun = Try(Arrangement((("A1", "a"),)), Started.YES)
    found = noted(begun, "runs at 2400, total 16gb, dual channel")
    assert (found.rate_mts, found.total_bytes, found.channels) == (2400, 16 << 30, 2)
    plain = noted(begun, "the fan was loud")
    assert (plain.note, plain.rate_mts, plain.total_bytes) == ("the fan was loud", None, None)


def test_a_note_tells_bits_and_heat_and_a_later_one_does_not_take_them_back():
    begun = Try(Arrangement((("A1", "a"),)), Started.YES, soak=SoakSaid.ERRORS)
    found = noted(begun, "bit 17, 91 °C")
    assert (found.errors_at, found.celsius) == (("bit 17",), 91.0)
    again = noted(found, "the fan was loud")
    assert (again.errors_at, again.celsius) == (("bit 17",), 91.0)
    assert beside_words(again) == ["where: bit 17", "91 °C at most", "“the fan was loud”"]


@pytest.mark.parametrize(
    ("words", "expected"),
    [
        ("known good", [("c", True, None)]),
        ("borrowed, some sort of thing", None),
        ("8 GB DDR4 2400 known-good", [("c", True, 8)]),
        ("borrowed: 2 x 8 GB DDR4", [("c", True, 8), ("d", True, 8)]),
        ("8 GB DDR4 2400", [("c", False, 8)]),
    ],
)
def test_a_module_on_the_bench_is_borrowed_where_its_words_say_so(words, expected):
    modules, left_over, problems = lettered(words, {"a", "b"})
    assert left_over == 0
    if expected is None:  # It is asked again, and nothing is lost.
        assert problems
        assert not modules
    else:
        assert not problems
        assert [(m.letter, m.known_good, m.size_bytes >> 30 if m.size_bytes else None) for m in modules] == expected


def test_what_is_known_of_modules_from_two_sides():
    fails, works = Elsewhere(True), Elsewhere(False, 40.0)
    here = (TryModule("a", "8G", elsewhere=(fails,)), TryModule("b"))
    there = (TryModule("a", "16G", elsewhere=(works,)), TryModule("c"))
    assert with_corrections(here, there) == (TryModule("a", "16G", elsewhere=(works, fails)), TryModule("b"), TryModule("c"))


def test_there_are_no_letters_beyond_z():
    everything = set("abcdefghijklmnopqrstuvwxyz")
    assert lettered("known good", everything) == ((), 1, ())
    assert lettered("2 x 8 GB DDR4", everything - {"q"})[1] == 1


def test_an_arrangement_with_a_borrowed_module_does_not_go_back():
    kept = job(ARRIVAL, promise=PROMISE)
    log = log_of(kept)
    log = replace(log, modules=(*log.modules, TryModule("k", known_good=True)))
    worked = Try(Arrangement((("A1", "k"),)), Started.YES, at=datetime(2026, 11, 2, 9, tzinfo=UTC))
    assert staying(replace(kept, tries=KeptTries(1, replace(log, tries=(worked,))))) is None


def test_the_arrangement_that_goes_back_is_told():
    kept = job(ARRIVAL, promise=PROMISE)
    at = datetime(2026, 11, 2, 9, tzinfo=UTC)
    both, one = Arrangement((("A1", "a"), ("B1", "b"))), Arrangement((("B1", "b"),))
    worked, failed = Try(both, Started.YES, at=at), Try(one, Started.NO, at=at)

    def with_tries(*tries):
        return replace(kept, tries=KeptTries(1, replace(log_of(kept), tries=tries)))

    assert staying(kept) is None
    assert staying(with_tries(failed, worked)) == 1
    assert staying(with_tries(worked, failed)) is None
    # A later reading shows both slots filled again: the first arrangement stays, although another was tried last.
    reading = replace(job((Moment.FITTED, "A1=8G; A2=-; B1=16G; B2=-")).readings[0], taken_at=at + timedelta(hours=1))
    later = with_tries(worked, Try(one, Started.YES, at=at))
    assert staying(replace(later, readings=(*later.readings, reading))) == 0
    assert staying(later) == 1
