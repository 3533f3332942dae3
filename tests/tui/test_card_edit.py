"""Corrections of a card on its drawing."""

from __future__ import annotations

import pytest

from after_check.domain.cards import Card, CardSlot
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
    assert slots(added(CARD, 1)) == [("A2", "A"), ("B2", "B"), ("B1", "B"), ("A1", "A")]
    assert slots(added(CARD, 0))[1] == ("A3", "A")
    assert slots(added(Card("new"), -1)) == [("A1", "A")]
    assert slots(removed(CARD, 0)) == [("B2", "B"), ("A1", "A")]
