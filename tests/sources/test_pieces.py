"""What was understood piece by piece, what it might be instead, what is usually said next, and examples for an empty line."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.modules import Generation
from after_check.language.corrections import likely_kinds, likely_rates, likely_sizes, pieces_of, usually_next
from after_check.language.examples import said_after_fitting, said_as_promise, said_on_arrival
from after_check.language.short_form import write
from after_check.language.typed_text import read_line, read_promise, said, with_note
from after_check.sources.card_file import read_card_file
from tests.conftest import SAMPLES

LINES = (
    "two sticks of 8gb ddr4 2400, dual channel, 15.8 GB usable",
    "A2=8G DDR4-2400; B2=-; run 1200; profile off",
    "8x32G DDR4-3200 ecc rdimm; run 3200; channels 8; total 256G; reset",
    "2x16G DDR5-5600 sodimm; 1.1V; CL 40; graphics 512M; profile 1",
    "16gb",
    "total 32G",
)


@pytest.mark.parametrize(
    ("line", "pieces"),
    [
        (LINES[0], ["2 × 8 GiB", "DDR4-2400", "dual channel", "usable 15.8 GiB"]),
        (LINES[1], ["A2: 8 GiB DDR4-2400", "B2: empty", "runs at 1200 MT/s", "profile off"]),
        ("A1=16G; B1=?", ["A1: 16 GiB", "B1: not looked at"]),
        ("8x32G DDR4-3200 ecc rdimm; channels 8", ["8 × 32 GiB", "DDR4-3200", "RDIMM", "with ECC", "8 channels"]),
        ("run 3200; total 256G; reset; 1.2V", ["runs at 3200 MT/s", "total 256 GiB", "voltage 1.2 V", "settings cleared"]),
        ("", []),
    ],
)
def test_each_piece_with_its_meaning(line, pieces):
    assert [piece.words for piece in pieces_of(read_line(line).reading)] == pieces


@pytest.mark.parametrize(
    ("line", "piece", "choice", "becomes"),
    [
        (LINES[0], "2 × 8 GiB", "1 ×", "1x8G DDR4-2400; dual; usable 15.8G"),
        (LINES[0], "2 × 8 GiB", "16 GiB", "2x16G DDR4-2400; dual; usable 15.8G"),
        (LINES[0], "DDR4-2400", "DDR4-2666", "2x8G DDR4-2666; dual; usable 15.8G"),
        (LINES[0], "usable 15.8 GiB", "total", "2x8G DDR4-2400; dual; total 15.8G"),
        (LINES[1], "runs at 1200 MT/s", "2400 MT/s", "A2=8G DDR4-2400; B2=-; run 2400MT/s; profile off"),
        (LINES[1], "A2: 8 GiB DDR4-2400", "empty", "A2=-; B2=-; run 1200; profile off"),
        (LINES[1], "B2: empty", "8 GiB", "A2=8G DDR4-2400; B2=8G; run 1200; profile off"),
        (LINES[2], "settings cleared", "leave it out", "8x32G DDR4-3200 ecc rdimm; run 3200; channels 8; total 256G"),
    ],
)
def test_a_piece_is_changed_by_a_choice(line, piece, choice, becomes):
    found = next(each for each in pieces_of(read_line(line).reading) if each.words == piece)
    assert write(next(each.reading for each in found.choices if each.words == choice)) == becomes


@given(st.sampled_from(LINES), st.data())
def test_every_choice_reads_back_and_is_another_reading(line, data):
    reading = read_line(line).reading
    for piece in pieces_of(reading):
        assert len(piece.choices) <= 9
        for choice in piece.choices:
            text = write(choice.reading)
            assert text != write(reading), (piece.words, choice.words)
            assert not text or not read_line(text).problems, text


@pytest.mark.parametrize(
    ("line", "promise", "asked"),
    [
        ("", False, ("which modules?", "total?")),
        ("2x8gb", False, ("kind, like DDR4?", "runs at?", "channels?", "usable?")),
        ("2x8gb ddr4 2400 runs at 2400 dual", False, ("profile?", "usable?")),
        ("2x8gb ddr3 1600 runs at 1600 dual 15.9 usable", False, ()),
        ("2x8gb ddr4", True, ("sold as, like 3200?", "channels?", "profile?")),
        ("1x8gb ddr4 3200", True, ("profile?",)),
    ],
)
def test_what_is_usually_said_next_is_gone_once_it_is_said(line, promise, asked):
    reading = read_promise(line)[1].reading if promise else read_line(line).reading
    assert usually_next(reading, promise) == asked


def test_examples_come_from_the_machine_and_are_understood():
    card = read_card_file(SAMPLES / "cards" / "larkfield-t1.toml")
    before = read_line("1x8G DDR4-2666").reading
    assert said_on_arrival(card)[0] == "A2=8G DDR4; B2=-; A1=-; B1=-"
    assert said_on_arrival(None, [before])[0] == "1x8G DDR4-2666"
    assert said_as_promise(before)[:2] == ("add another 8gb", "2x16G DDR4-2666; dual")
    promised = read_promise("A2=24G DDR5-6400; B2=24G DDR5-6400; dual")[0]
    # What has to be looked at is left open: the rate is for the person to type.
    assert said_after_fitting(promised, before)[0] == "A2=24G DDR5-6400; B2=24G DDR5-6400; total 48G; run "
    for text in (*said_on_arrival(card, [before]), *said_after_fitting(None, None)):
        assert not read_line(text).problems, text
    for text in said_as_promise(before):
        assert not read_promise(text, before)[1].problems, text


@pytest.mark.parametrize(
    ("text", "answers"),
    [
        ("16x2 ddr4", ["2x16 GB ddr4", "16x2 GB ddr4"]),
        ("2x8gb ddr4 32gb", ["2x8gb ddr4 total 16 GiB"]),
    ],
)
def test_a_question_is_answered_by_one_key(text, answers):
    (problem,) = read_line(text).problems
    assert problem.asked
    assert [answer for _, answer in problem.answers] == answers
    assert all(not read_line(answer).problems for answer in answers)


@pytest.mark.parametrize(
    ("text", "about"),
    [
        ("total 32gb total 16gb", "total_bytes"),
        ("2x8gb, runs at 2400, runs at 2666", "running_rate"),
        ("usable 7.8gb, usable 15.8 gb", "usable_bytes"),
    ],
)
def test_what_is_said_twice_and_not_alike_is_asked_and_not_taken(text, about):
    found = said(text)
    assert [ask.about for ask in found.asks] == [about]
    assert getattr(found.reading, about) is None
    assert not said("2x8gb 2400 MT/s, runs at 2400, 1200 MHz clock").asks  # A clock and its rate say the same.


def test_the_likeliest_module_is_the_one_beside_it_within_what_the_machine_takes():
    beside = read_line("A2=16G DDR4-2666; B2=-").reading.modules
    card = read_card_file(SAMPLES / "cards" / "larkfield-t1.toml")
    sizes = likely_sizes(beside, card, Generation.DDR4)
    assert sizes[0] == 16 << 30
    assert all(size <= card.module_bytes for size in sizes)
    assert likely_kinds(beside, card)[0] is Generation.DDR4
    assert likely_rates(Generation.DDR4, beside, None)[0] == 2666
    # A kind without modules of 24 GiB offers none.
    assert 24 << 30 not in likely_sizes((), None, Generation.DDR4)
    assert 24 << 30 in likely_sizes((), None, Generation.DDR5)


@pytest.mark.parametrize(
    ("text", "kept", "reading"),
    [
        ("two sticks of 8gb ddr4, wobbly lid", 'two sticks of 8gb ddr4; note "wobbly lid"', "2x8G DDR4"),
        ("A2=8G DDR4-2400; purple; dual", 'A2=8G DDR4-2400; dual; note "purple"', None),
        ("8gb ddr4", None, None),
    ],
)
def test_what_is_not_understood_may_be_kept_as_a_note(text, kept, reading):
    assert with_note(read_line(text)) == kept
    if reading is not None:
        found = said(kept)
        assert (found.is_whole, found.notation) == (True, f'{reading}; note "wobbly lid"')
        assert [notice.what for notice in found.reading.notices] == ["wobbly lid"]
