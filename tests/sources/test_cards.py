"""Cards: read, refused with the key that is wrong, written back, made from a reading."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.cards import EccSupport, PlatformRate, ProfileChoice
from after_check.domain.modules import Form, Generation
from after_check.files.errors import SourceError
from after_check.language.short_form import parse
from after_check.sources.card_file import card_from_reading, parse_card, read_card_file, write_card
from tests.conftest import SAMPLES

GIB = 1 << 30
CARDS = sorted((SAMPLES / "cards").glob("*.toml"))


def test_the_example_of_the_design():
    card = parse_card(
        '[card]\nname = "Larkfield T1"\nkind = "desktop"\n[memory]\ngeneration = "DDR4"\nforms = ["UDIMM"]\necc = "unsupported"\n'
        'total = "64 GiB"\nmodule = "32 GiB"\nprofile = "choice"\n[[memory.slot]]\nname = "A2"\nchannel = "A"\n'
        "[[memory.rate]]\nper_channel = 1\nrate = 3200\n[[memory.rate]]\nper_channel = 2\nrate = 2933\n"
        '[start]\nusual = "35 s"\nlongest = "6 min"\nsigns = ["one short beep"]\n'
    )
    assert (card.name, card.generation, card.forms, card.ecc) == ("Larkfield T1", Generation.DDR4, (Form.UDIMM,), EccSupport.UNSUPPORTED)
    assert (card.total_bytes, card.module_bytes, card.profile) == (64 * GIB, 32 * GIB, ProfileChoice.CHOICE)
    assert card.rates == (PlatformRate(1, 3200), PlatformRate(2, 2933))
    assert (card.rate_for(1), card.rate_for(2), card.rate_for(3)) == (3200, 2933, None)
    assert (card.at_least_for(1), card.at_least_for(2), card.at_least_for(3)) == (3200, 2933, None)
    # Known for two modules in a channel alone, it is the least that one reaches, and no limit for it.
    two_only = replace(card, rates=card.rates[1:])
    assert (two_only.rate_for(1), two_only.at_least_for(1)) == (None, 2933)
    assert (card.usual_start_seconds, card.longest_start_seconds, card.signs) == (35, 360, ("one short beep",))
    assert card.channel_of("a2") == "A"


@pytest.mark.parametrize("path", CARDS, ids=lambda path: path.stem)
def test_shipped_cards_read_back_as_they_are_written(path):
    card = read_card_file(path)
    assert parse_card(write_card(card)) == card


@pytest.mark.parametrize(
    ("text", "part"),
    [
        ("", "card.name is missing"),
        ("[card", "no TOML"),
        ('[card]\nname = "x"\ncolour = "red"', "card.colour is no key"),
        ('[card]\nname = "x"\n[memory]\ntotal = "lots"', "memory.total is 'lots'"),
        ('[card]\nname = "x"\n[memory]\ngeneration = "DDR9"', "memory.generation is 'DDR9'"),
        ('[card]\nname = "x"\n[memory]\nforms = ["DISK"]', "memory.forms has 'DISK'"),
        ('[card]\nname = "x"\n[[memory.slot]]\nchannel = "A"', "memory.slot 1 needs a name"),
        ('[card]\nname = "x"\n[[memory.rate]]\nper_channel = 0\nrate = 3200', "memory.rate 1 needs"),
        ('[card]\nname = "x"\n[start]\nusual = "soon"', "start.usual is 'soon'"),
        ("[card]\nname = 5", "card.name is no text"),
    ],
)
def test_what_is_wrong_is_named(text, part):
    with pytest.raises(SourceError, match=part.replace("[", r"\[")):
        parse_card(text)


@given(st.text(max_size=200))
def test_any_text_is_a_card_or_a_clear_error(text):
    with suppress(SourceError):
        parse_card(text)


def test_a_card_made_from_a_reading():
    card = card_from_reading(parse("A1=-; A2=16G DDR4-3200 udimm; B1=-; B2=16G DDR4-3200 udimm").reading, "New model")
    assert [(slot.name, slot.channel) for slot in card.slots] == [("A1", "A"), ("A2", "A"), ("B1", "B"), ("B2", "B")]
    assert (card.generation, card.forms) == (Generation.DDR4, (Form.UDIMM,))
    assert parse_card(write_card(card)) == card


def test_a_suggested_channel_is_a_guess_until_somebody_confirms_it():
    from after_check.domain.case_files import CaseFile
    from after_check.domain.standing import Verdict
    from after_check.judgement.judge import judge
    from after_check.sources.card_file import card_from_reading
    from after_check.sources.open_source import take_notation, take_promise
    from after_check.tui.charts.card_edit import added, confirmed, next_channel

    reading = take_notation("slot 1=8G DDR4-2400; slot 2=8G DDR4-2400; run 2400").reading
    card = card_from_reading(reading, "Larkfield S1")
    assert [slot.guessed for slot in card.slots] == [True, True]
    assert parse_card(write_card(card)) == card

    def verdict(of):
        return judge(CaseFile(reading, promise=take_promise("2x8G DDR4-2400; run 2400; dual"), card=of)).verdict

    assert verdict(card) is Verdict.CANT_TELL
    assert verdict(confirmed(card)) is Verdict.READY
    # A channel that somebody chose is no guess; a slot which a key added has none.
    assert [slot.guessed for slot in next_channel(card, 0, 1).slots] == [False, True]
    assert added(confirmed(card), 1).slots[-1].channel == ""
    assert [slot.channel for slot in card_from_reading(take_notation("1=8G; 2=8G; 3=-").reading, "T1").slots] == ["", "", ""]
    own_names = take_notation("; ".join(f"M{number}=8G" for number in range(1, 7))).reading
    assert all(slot.guessed or not slot.channel for slot in card_from_reading(own_names, "T1").slots)
    # Letters of a board's own names, and a list of the firmware, are read.
    assert not any(slot.guessed for slot in card_from_reading(take_notation("A1=8G; A2=-; B1=8G; B2=-").reading, "T1").slots)


@pytest.mark.parametrize(
    "text", ["soak clean 8h on another machine", "2x8G; soak clean 8h on another machine", "soak errors 12 on my other pc"]
)
def test_what_ran_on_another_machine_is_none_of_this_one(text):
    from after_check.language.typed_text import said
    from after_check.language.words.understood import Scope

    found = said(text)
    assert found.reading.soak is None
    assert any(one.because is Scope.ELSEWHERE for one in found.left_aside)
