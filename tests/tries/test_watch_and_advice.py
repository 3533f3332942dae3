"""The clock of a start, looking over the network, and the steps in the order of least work."""

from __future__ import annotations

import socket

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.cards import Card, CardSlot
from after_check.domain.modules import Generation
from after_check.domain.tries import TryLog, TryModule
from after_check.files.errors import SourceError
from after_check.sources.reachability import Alive, look, parse_watch_address
from after_check.tries.advice import steps
from after_check.tries.watch import Phase, StartTimes, advise, clock, start_times
from tests.helpers.logs import tried

TIMES = StartTimes(35, 90, 360, "card")


@pytest.mark.parametrize(
    ("elapsed", "changed", "cycles", "phase", "words"),
    [
        (0, True, 0, Phase.USUAL, "until 0:35"),
        (34.9, False, 0, Phase.USUAL, "until 0:35"),
        (35, True, 0, Phase.TRAINING, "normal until 1:30"),
        (35, False, 0, Phase.LONG, "wait until 6:00"),
        (90, True, 2, Phase.LONG, "2 times: some machines do so"),
        (359, True, 0, Phase.LONG, "wait until 6:00"),
        (360, True, 0, Phase.ENOUGH, "power off"),
        (10, True, 5, Phase.ENOUGH, "off and on 5 times: power off"),
    ],
)
def test_what_to_do_at_each_moment(elapsed, changed, cycles, phase, words):
    advice = advise(TIMES, elapsed, changed, cycles)
    assert advice.phase is phase
    assert words in advice.words


def test_the_card_comes_before_rules_of_thumb():
    card = Card("Larkfield T1", "desktop", usual_start_seconds=35, longest_start_seconds=360)
    times = start_times(card, Generation.DDR4, 32 << 30)
    # 35 s and what training of DDR4 adds: 20 s and half a second for each of 32 GiB.
    assert (times.usual, times.training, times.longest) == (35, 71, 360)
    assert times.basis == "card of Larkfield T1"
    bare = start_times(None)
    assert "rule of thumb" in bare.basis
    assert bare.usual < bare.training < bare.longest


@given(st.sampled_from([None, *Generation]), st.integers(0, 1 << 42), st.integers(1, 2000), st.integers(1, 4000))
def test_the_three_times_are_in_order(generation, total_bytes, usual, longest):
    times = start_times(Card("x", usual_start_seconds=usual, longest_start_seconds=longest), generation, total_bytes)
    assert times.usual <= times.longest
    assert times.training <= times.longest


def test_the_clock():
    assert [clock(seconds) for seconds in (0, 59.9, 60, 360, 3725)] == ["0:00", "0:59", "1:00", "6:00", "62:05"]


def test_a_machine_on_the_network_is_seen():
    with socket.socket() as server:
        server.bind(("127.0.0.1", 0))
        server.listen()
        port = server.getsockname()[1]
        address = parse_watch_address(f"127.0.0.1:{port}")
        assert look(address) == Alive(port=port)
        assert look(address).is_up
    assert not look(address).is_up
    assert parse_watch_address("box.local").ports == (22, 80, 443, 445, 3389)
    for bad in ("", "box:0", "box:99999", "a b", "http://box/"):
        with pytest.raises(SourceError):
            parse_watch_address(bad)


def test_steps_are_ticked_as_tries_do_them():
    card = Card("Larkfield T1", slots=(CardSlot("A2", "A"), CardSlot("B2", "B"), CardSlot("A1", "A"), CardSlot("B1", "B")))
    modules = (TryModule("a"), TryModule("b"), TryModule("p", old=True))
    slots = ("A1", "A2", "B1", "B2")
    one = tried({"A2": "a", "B2": "b"}, "yes", ("A2",), profile="1")
    names = {step.name: step for step in steps(TryLog(modules, slots, (one,)), card)}
    assert list(names) == ["seat", "slots", "settings", "alone", "crossed", "control"]
    assert {name for name, step in names.items() if step.done} == {"slots"}
    assert names["crossed"].arrangement.module_in == {"A2": "b", "B2": "a"}
    assert names["alone"].arrangement.fitted == (("A2", "b"),)
    assert names["control"].arrangement.slot_of.keys() == {"p"}
    assert names["settings"].arrangement.profile == "off"
    later = (one, tried({"A2": "b"}, "no"), tried({"A1": "p"}, "yes", ("A1",)), tried({"A2": "b", "B2": "a"}, "yes", ("B2",)))
    done = {step.name for step in steps(TryLog(modules, slots, later), card) if step.done}
    assert {"alone", "control", "crossed"} <= done
    assert steps(TryLog(), card) == ()


def test_soldered_memory_stays_in_every_step():
    card = Card("Dunlin 14", slots=(CardSlot("S0", "A"), CardSlot("A1", "B"), CardSlot("B1", "B")))
    modules = (TryModule("z", soldered=True), TryModule("a"), TryModule("b"), TryModule("p", old=True))
    one = tried({"S0": "z", "A1": "a", "B1": "b"}, "no")
    found = {step.name: step for step in steps(TryLog(modules, ("S0", "A1", "B1"), (one,)), card)}
    assert list(found) == ["seat", "slots", "alone", "crossed", "control"]
    assert all(step.arrangement.module_in["S0"] == "z" for step in found.values())
    assert found["crossed"].arrangement.module_in == {"S0": "z", "A1": "b", "B1": "a"}
    assert "S0" not in found["slots"].words
    control = tried({"S0": "z", "A1": "p"}, "yes", ("S0", "A1"))
    assert {step.name for step in steps(TryLog(modules, ("S0", "A1", "B1"), (one, control)), card) if step.done} == {"slots", "control"}


def test_one_slot_beside_soldered_memory_leaves_little_to_try():
    card = Card("Dunlin 14", slots=(CardSlot("S0", "A"), CardSlot("A1", "B")))
    modules = (TryModule("z", soldered=True), TryModule("a"), TryModule("p", old=True))
    log = TryLog(modules, ("S0", "A1"), (tried({"S0": "z", "A1": "a"}, "yes", ("S0",)),))
    assert [step.name for step in steps(log, card)] == ["seat", "control"]
    alone = TryLog((TryModule("z", soldered=True),), ("S0",), (tried({"S0": "z"}, "no"),))
    assert steps(alone, card) == ()
