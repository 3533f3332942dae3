"""Corrections of a card on its drawing."""

from __future__ import annotations

import pytest

from after_check.domain.boards import place_of
from after_check.domain.cards import Card, CardSlot
from after_check.domain.case_files import CaseFile
from after_check.domain.standing import Verdict
from after_check.judgement.judge import judge
from after_check.language.short_form import parse, parse_promise
from after_check.sources.card_file import parse_card, write_card
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
