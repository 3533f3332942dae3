"""What can be known before a machine is opened: what stops it, what is to be minded, what goes where, what to buy."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.facts import value_of
from after_check.judgement.before_fitting import Weight, look_before_fitting
from after_check.sources.card_file import parse_card
from after_check.sources.open_source import take_notation, take_promise

T1 = parse_card("""
[card]
name = "T1"
[memory]
generation = "DDR4"
forms = ["UDIMM"]
ecc = "unsupported"
total = "64 GiB"
module = "16 GiB"
profile = "choice"
supported = ["OK-16"]
[[memory.slot]]
name = "A2"
channel = "A"
[[memory.slot]]
name = "B2"
channel = "B"
[[memory.slot]]
name = "A1"
channel = "A"
[[memory.slot]]
name = "B1"
channel = "B"
[[memory.rate]]
per_channel = 1
rate = 3200
[[memory.rate]]
per_channel = 2
rate = 2666
""")
SERVER = parse_card('[card]\nname = "R6"\n[memory]\ngeneration = "DDR4"\nforms = ["RDIMM"]\necc = "required"\nprofile = "none"\n')
ARRIVED = "A2=8G DDR4-3200 udimm; B2=8G DDR4-3200 udimm; A1=-; B1=-; run 3200; dual"


def known(arrival, promise, card=None):
    return look_before_fitting(take_notation(arrival).reading if arrival else None, take_promise(promise) if promise else None, card)


@pytest.mark.parametrize(
    ("arrival", "promise", "card", "weight", "part"),
    [
        (ARRIVED, "2x8G DDR5-4800", T1, Weight.STOP, "T1 takes DDR4, and DDR5 is promised"),
        ("2x4G DDR3-1600", "2x8G DDR4-2400", None, Weight.STOP, "takes DDR3, and DDR4 is promised"),
        (
            "1x8G DDR4-2400 sodimm",
            "2x8G DDR4-2400 udimm",
            None,
            Weight.STOP,
            "takes SODIMM modules, and UDIMM is promised: they do not fit",
        ),
        ("", "2x32G DDR4-3200 udimm", SERVER, Weight.STOP, "R6 takes RDIMM modules, and UDIMM is promised: it does not start"),
        ("", "2x32G DDR4-3200 rdimm noecc", SERVER, Weight.STOP, "starts only with ECC modules, and modules without ECC"),
        ("", "2x32G DDR4-3200 rdimm", SERVER, Weight.MIND, "the promise does not say ECC"),
        ("virtual; total 8G", "2x8G", None, Weight.STOP, "virtual machine"),
        ("A1=8G DDR4-2400; A2=-", "3x8G DDR4-2400", None, Weight.STOP, "3 modules are promised, and there are 2 slots"),
        (ARRIVED, "8x16G DDR4-3200", T1, Weight.MIND, "128 GiB is promised, and 64 GiB is documented as the most"),
        (ARRIVED, "2x32G DDR4-3200", T1, Weight.MIND, "A module of 32 GiB is promised, and 16 GiB is documented as the largest"),
        (ARRIVED, "2x16G DDR4-3200 part NO-16", T1, Weight.MIND, "NO-16 is not on the list"),
        ("1x2G DDR3-1333; bits 32; total 2G", "2x4G DDR3-1333", None, Weight.MIND, "of 8 GiB it will use between 3 and 3.5 GiB"),
        (ARRIVED, "2x8G DDR4-3200; 2x8G DDR4-2400", None, Weight.MIND, "Unequal speeds: 2400 and 3200. All of it runs at 2400"),
        # Two modules in a channel: the sheet says 2666 for them.
        (ARRIVED, "4x8G DDR4-3200; run 3200", T1, Weight.MIND, "T1 runs 2 modules in a channel at 2666 MT/s"),
        ("A1=4G DDR4-2400; B1=-", "A1=4G DDR4-2400; B1=16G DDR4-2400", None, Weight.MIND, "8 GiB on 2 channels, 12 GiB on 1 channel"),
        (
            "A2=8G DDR4-3600 prof1 3600 std 2666; B2=8G DDR4-3600 prof1 3600 std 2666; A1=-; B1=-; run 3600; profile 1",
            "4x8G DDR4-3600; run 3600",
            None,
            Weight.MIND,
            "reach 3600 MT/s only with their memory profile, and 2666 MT/s without it",
        ),
    ],
)
def test_what_stops_it_and_what_is_to_be_minded(arrival, promise, card, weight, part):
    remarks = known(arrival, promise, card).remarks
    assert any(part in remark.words and remark.weight is weight for remark in remarks), remarks


@pytest.mark.parametrize(
    ("arrival", "promise", "card"),
    [
        (ARRIVED, "2x16G DDR4-3200; dual; run 3200", T1),
        ("1x16G DDR5-5600 sodimm", "2x16G DDR5-5600 sodimm; dual", None),
        ("A1=8G DDR4-2400; B1=-; run 2400", "2x8G DDR4-2400; dual; run 2400", None),
        ("", "2x32G DDR4-3200 rdimm ecc", SERVER),
    ],
)
def test_no_false_alarm(arrival, promise, card):
    assert known(arrival, promise, card).remarks == ()


def placed(found):
    return {slot.name: value_of(slot.module.size_bytes) >> 30 for slot in found.plan.slots if slot.module is not None}


def test_what_goes_where():
    """In the order of the sheet; what is there stays while that order allows it; without a sheet the channels are filled evenly."""
    found = known("A2=8G DDR4-3200; B2=-; A1=-; B1=-", "1x8G DDR4-3200; 1x16G DDR4-3200", T1)
    assert (placed(found), found.kept) == ({"A2": 8, "B2": 16}, ("A2",))
    moved = known("A1=8G DDR4-3200; A2=-; B1=-; B2=-", "2x8G DDR4-3200", T1)
    assert placed(moved) == {"A2": 8, "B2": 8}
    even = known("A1=8G DDR4-3200; A2=-; B1=-; B2=-", "2x8G DDR4-3200", None)
    assert placed(even) == {"A1": 8, "B1": 8}
    soldered = known("S0=8G LPDDR4X soldered; S1=-", "1x8G soldered; 1x16G DDR4-3200", None)
    assert placed(soldered) == {"S0": 8, "S1": 16}
    assert soldered.to_buy == ("1 × 16 GiB · DDR4-3200",)


def test_what_to_buy_matches_what_stays():
    (line,) = known("S1=4G DDR3-1600 sodimm 1.35V; S2=-", "2x4G", None).to_buy
    assert line == "1 × 4 GiB · DDR3L-1600 · SODIMM"
    (line,) = known("", "2x32G", SERVER).to_buy
    assert line == "2 × 32 GiB · DDR4 · RDIMM · ECC · registered"


def test_what_is_not_known_is_said():
    found = known("", "", None)
    assert len(found.missing) == 3
    assert found.remarks == ()
    assert not found.stops


@given(st.lists(st.sampled_from(["8G DDR4-3200", "16G DDR4-2400 sodimm", "4G", "32G DDR5-4800 ecc"]), min_size=1, max_size=9))
def test_every_promised_module_is_in_the_plan_once(modules):
    line = "; ".join(f"1x{words}" for words in modules)
    found = known(ARRIVED, line, T1)
    assert len(found.plan.modules) == len(modules)
