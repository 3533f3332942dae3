"""Which arrangements are offered, what they cost, and that proposals lead to an end."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from after_check.domain.cards import Card, CardSlot
from after_check.domain.facts import typed
from after_check.domain.modules import Form, Generation, Module
from after_check.domain.tries import Arrangement, SoakSaid, Started, SuspectKind, Try, TryLog, TryModule, sureness
from after_check.tries.arrangements import MOST, candidates, fill_order, fits
from after_check.tries.blame import blame, says_with
from after_check.tries.next_try import cost_minutes, moves, next_try
from tests.helpers.logs import A, B, tried

AB = Arrangement((("A2", "a"), ("B2", "b")))


@pytest.mark.parametrize(
    ("chosen", "count", "minutes"),
    [
        # A look of 2 minutes and a start of 1 always; 1.5 for each module handled, 1 for a setting.
        ((("A2", "a"),), 1, 2 + 1 + 1.5),
        ((("A2", "b"), ("B2", "a")), 2, 2 + 1 + 3.0),
        ((("A2", "a"), ("B2", "c")), 2, 2 + 1 + 3.0),
        ((("A2", "a"), ("B2", "b")), 0, 2 + 1 + 3.0),
    ],
)
def test_what_a_try_costs(chosen, count, minutes):
    arrangement = Arrangement(chosen)
    assert moves(AB, arrangement) == count
    assert cost_minutes(AB, arrangement) == pytest.approx(minutes)


def test_nothing_touched_and_a_setting_alone_are_cheap():
    assert cost_minutes(AB, AB, untouched=True) == pytest.approx(3.0)
    assert cost_minutes(Arrangement(AB.fitted, "1"), Arrangement(AB.fitted, "off")) == pytest.approx(4.0)
    slow = Card("x", usual_start_seconds=240)
    assert cost_minutes(AB, AB, slow, untouched=True) == pytest.approx(6.0)


def test_slots_are_filled_in_the_cards_order():
    card = Card("T1", slots=(CardSlot("a2", "A"), CardSlot("B2", "B"), CardSlot("Z9", "Z")))
    log = TryLog((A, B), ("A1", "A2", "B1", "B2"))
    assert fill_order(log, card) == ("A2", "B2", "A1", "B1")
    assert fill_order(log, None) == ("A1", "A2", "B1", "B2")


def module(letter, generation=Generation.DDR4, form=Form.UDIMM):
    return TryModule(letter, module=Module(generation=typed(generation), form=typed(form)))


def test_kinds_that_exclude_each_other_are_not_fitted_together():
    log = TryLog((module("a"), module("b", Generation.DDR5), module("c", form=Form.RDIMM), module("d")), ("A1", "B1"))
    assert fits({"A1": "a", "B1": "d"}, log, None)
    assert not fits({"A1": "a", "B1": "b"}, log, None)
    assert not fits({"A1": "a", "B1": "c"}, log, None)
    assert not fits({"A1": "a", "B1": "a"}, log, None)


@settings(max_examples=25, deadline=None)
@given(st.integers(1, 8), st.integers(1, 8), st.integers(0, 3), st.randoms(use_true_random=False))
def test_candidates_are_possible_different_and_bounded(modules, slots, old, chance):
    letters, places = "abcdefgh"[:modules], [f"S{number}" for number in range(slots)]
    known = tuple(TryModule(letter, old=at < old) for at, letter in enumerate(letters))
    fitted = dict(zip(places, chance.sample(letters, min(modules, slots)), strict=False))
    log = TryLog(known, tuple(places), (tried(fitted, "no", profile="1"),))
    found = candidates(log, None, list(letters), places)
    assert 0 < len(found) <= MOST + 1
    assert len({(item.fitted, item.profile) for item in found}) == len(found)
    for item in found:
        assert len(set(item.slot_of)) == len(item.fitted) <= min(modules, slots)
        assert set(item.module_in) <= set(places)


def simulate(culprit, kind):
    """Follow the proposals for a fault that always shows; return what was named and after how many tries."""
    letters, slots = ("a", "b", "c", "d"), ("A1", "A2", "B1", "B2")
    log = TryLog(tuple(TryModule(letter) for letter in letters), slots)
    arrangement, with_soak = Arrangement(tuple(zip(slots, letters, strict=True))), True
    for count in range(1, 12):
        where = [slot for slot, letter in arrangement.fitted if culprit in (slot, letter)]
        every = tuple(slot for slot, _ in arrangement.fitted)
        if kind == "dead" and where:
            one = Try(arrangement, Started.NO)
        elif kind == "absent":
            one = Try(arrangement, Started.YES, tuple(slot for slot in every if slot not in where))
        elif kind == "weak" and where:
            one = Try(arrangement, Started.YES, every, SoakSaid.ERRORS, tuple(where))
        else:
            one = Try(arrangement, Started.YES, every, SoakSaid.CLEAN if with_soak else None)
        log = TryLog(log.modules, slots, (*log.tries, one))
        said = blame(log)
        if said.settled:
            return said.first.kind, said.first.name, count
        proposal = next_try(log)
        arrangement, with_soak = proposal.arrangement, proposal.with_soak
    return None, "", count


@pytest.mark.parametrize("kind", ["dead", "absent", "weak"])
@pytest.mark.parametrize("culprit", ["a", "d", "A1", "B2"])
def test_every_plain_fault_of_four_by_four_is_named(culprit, kind):
    found, name, count = simulate(culprit, kind)
    assert name == culprit
    assert found is (SuspectKind.MODULE if culprit.islower() else SuspectKind.SLOT)
    assert count <= 9


def test_nothing_found_by_trying_is_certain():
    assert sureness(0.9999) == "over 99%"
    assert sureness(0.5) == "50%"


def test_a_log_that_no_arrangement_separates_says_so():
    """One module, one slot, always dead: module, slot, machine cannot be told apart with these parts."""
    log = TryLog((A,), ("A2",), tuple(tried({"A2": "a"}, "no") for _ in range(4)))
    said = blame(log)
    assert (said.settled, next_try(log)) == (False, None)
    assert "No arrangement of these modules separates what is left" in says_with(said, found_next=False)


def test_a_large_board_is_halved_and_not_tried_as_it_is():
    """By hand: of 32 modules equally likely a half tells a whole bit, and the same 32 again next to nothing."""
    slots = tuple(f"DIMM{number}" for number in range(32))
    letters = [f"m{number}" for number in range(32)]
    log = TryLog(tuple(TryModule(letter) for letter in letters), slots, (tried(dict(zip(slots, letters, strict=True)), "no"),))
    proposal = next_try(log)
    assert set(proposal.arrangement.slot_of) in (set(letters[:16]), set(letters[16:]))
