"""What differs between two readings."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from after_check.judgement.compare import NOT_KNOWN, Part, differences
from after_check.sources.open_source import take_notation
from tests.helpers.cases import CASES


def said(first, second):
    found = differences(take_notation(first).reading, take_notation(second).reading)
    return {(item.part, item.what): (item.first, item.second) for item in found}


def test_modules_settings_and_pace_are_found():
    found = said(
        "A2=8G DDR4-3600; B2=8G DDR4-3600; run 3600; dual; profile 1; ecc off",
        "A2=16G DDR4-3600; B2=-; run 2400; single; profile off; ecc off; reset",
    )
    assert found[(Part.MODULES, "A2")] == ("8 GiB DDR4-3600", "16 GiB DDR4-3600")
    assert found[(Part.MODULES, "B2")] == ("8 GiB DDR4-3600", "empty")
    assert found[(Part.PACE, "data rate")] == ("3600 MT/s", "2400 MT/s")
    assert found[(Part.PACE, "channels")] == ("2", "1")
    assert found[(Part.SETTINGS, "profile")] == ("1", "off")
    assert found[(Part.SETTINGS, "firmware settings")] == ("as they were", "cleared")
    assert (Part.SETTINGS, "error correction") not in found
    assert (Part.AMOUNT, "fitted") not in found


def test_a_clock_and_its_rate_are_no_difference():
    assert (Part.PACE, "data rate") not in said("2x8G DDR4-2933; run 1467MHz", "2x8G DDR4-2933; run 2933")


def test_what_one_reading_does_not_say_is_not_unchanged():
    found = said("2x8G DDR4-3200; profile 1", "2x8G DDR4-3200")
    assert found == {(Part.SETTINGS, "profile"): ("1", NOT_KNOWN)}


LINES = sorted({case[key] for case in CASES.values() for key in ("before", "after") if key in case})


@given(st.sampled_from(LINES), st.sampled_from(LINES))
def test_the_other_way_round_says_the_same_the_other_way_round(first, second):
    there, back = said(first, second), said(second, first)
    assert {key: (two, one) for key, (one, two) in back.items()} == there
    assert not said(first, first)
