"""Corrections of a card on its drawing."""

from __future__ import annotations

import pytest

from after_check.domain.boards import place_of
from after_check.domain.cards import Card, CardSlot, PlatformRate
from after_check.domain.case_files import CaseFile
from after_check.domain.modules import Form, Generation
from after_check.domain.quantities import GIB
from after_check.domain.standing import Verdict
from after_check.judgement.judge import judge
from after_check.language.short_form import parse, parse_promise
from after_check.sources.card_file import parse_card, write_card
from after_check.tui.charts.card_board import card_board_lines
from after_check.tui.charts.card_edit import added, moved, next_channel, removed, renamed

CARD = Card("T1", slots=(CardSlot("A2", "A"), CardSlot("B2", "B"), CardSlot("A1", "A")))


def slots(card):
    return [(slot.name, slot.channel) for slot in card.slots]


def test_the_order_of_filling():
    assert slots(moved(CARD, 1, -1)) == [("B2", "B"), ("A2", "A"), ("A1", "A")]
    assert slots(moved(CARD, 1, 1)) == [("A2", "A"), ("A1", "A"), ("B2", "B")]
    assert moved(CARD, 0, -1) is CARD
    assert moved(CARD, 2, 1) is CARD


def test_the_channel_goes_through_the_letters_and_around():
    assert slots(next_channel(CARD, 0, 1))[0] == ("A2", "B")
    assert slots(next_channel(CARD, 0, -1))[0] == ("A2", "L")
    assert slots(next_channel(Card("x", slots=(CardSlot("1", "front"),)), 0, 1)) == [("1", "A")]


def test_names_are_unique_and_not_empty():
    assert slots(renamed(CARD, 1, " B1 "))[1] == ("B1", "B")
    assert slots(renamed(CARD, 1, "b2"))[1] == ("b2", "B")
    with pytest.raises(ValueError, match="another slot"):
        renamed(CARD, 1, "a1")
    with pytest.raises(ValueError, match="needs a name"):
        renamed(CARD, 1, "  ")


def test_a_slot_more_or_less():
    assert slots(added(CARD, 1)) == [("A2", "A"), ("B2", "B"), ("slot 1", ""), ("A1", "A")]
    assert slots(added(added(Card("new"), -1), 0)) == [("slot 1", ""), ("slot 2", "")]


def test_a_slot_that_a_key_adds_has_no_channel_until_one_is_said():
    card = added(added(Card("new"), -1), 0)
    assert [card.channel_of(slot.name) for slot in card.slots] == [None, None]
    assert [place_of(slot.name) for slot in card.slots] == [None, None]
    said = next_channel(next_channel(card, 0, 1), 1, 1)
    assert [said.channel_of(slot.name) for slot in said.slots] == ["A", "A"]
    assert [slot.channel for slot in parse_card(write_card(card), "x").slots] == ["", ""]
    seen = parse("slot 1=8G DDR4-2400; slot 2=8G DDR4-2400; run 2400; total 16G").reading
    judged = judge(CaseFile(seen, None, parse_promise("2x8G DDR4-2400; dual; run 2400")[0], card))
    assert judged.verdict is Verdict.CANT_TELL
    # That the channels are not known is said; nothing is made of slots that nobody named.
    told = {finding.code for finding in judged.findings if finding.code.startswith(("channels.", "slots."))}
    assert told == {"channels.unproven"}


def test_a_slot_is_removed():
    assert slots(removed(CARD, 0)) == [("B2", "B"), ("A1", "A")]


def test_the_board_of_a_model_has_its_limits_drawn_on_it():
    card = Card(
        "T1",
        generation=Generation.DDR4,
        forms=(Form.UDIMM,),
        total_bytes=64 * GIB,
        module_bytes=32 * GIB,
        slots=(CardSlot("A2", "A"), CardSlot("B2", "B"), CardSlot("A1", "A"), CardSlot("B1", "B")),
        rates=(PlatformRate(1, 3200), PlatformRate(2, 2933)),
    )
    lines = [line.plain for line in card_board_lines(card, "", 60)]
    text = "\n".join(lines)
    places = [line.split()[:2] for line in lines if "▌" in line]
    assert places == [["1st", "A2"], ["3rd", "A1"], ["2nd", "B2"], ["4th", "B1"]]
    assert text.count("32 GiB at most") == 4
    assert text.count("1 in it: 3200 MT/s · 2 in it: 2933 MT/s") == 2
    # Two modules of 32 GiB are all that 64 GiB allow, though there are four slots.
    assert "64 GiB in all at most, which 2 modules of the largest size make." in " ".join(text.split())
    assert "Only DDR4 UDIMM fits." in text
    assert all(len(line) <= 60 for line in lines)


def test_what_nobody_said_of_a_model_is_not_drawn_as_known():
    card = Card("T1", slots=(CardSlot("A", "A", guessed=True), CardSlot("slot 2", "")))
    text = "\n".join(line.plain for line in card_board_lines(card, "slot 2", 60))
    assert "channel A, a guess" in text
    assert "channel not known" in text
    assert text.count("largest module not known") == 2
    assert "how fast with how many in it is not known" in text
