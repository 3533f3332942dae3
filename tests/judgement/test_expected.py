"""The rate to be expected, with an interval where something is not known."""

from __future__ import annotations

import pytest

from after_check.casework.rate_words import expected_words
from after_check.domain.case_files import CaseFile
from after_check.domain.standing import Quantity
from after_check.judgement.judge import judge
from after_check.sources.card_file import parse_card
from after_check.sources.open_source import take_notation, take_promise
from after_check.texts import words_of

CARD = parse_card('[card]\nname = "T1"\n[[memory.rate]]\nper_channel = 1\nrate = 3200\n[[memory.rate]]\nper_channel = 2\nrate = 2933\n')
WITH_PROFILE = "2x8G DDR4-3600 prof1 3600 std 2400"


@pytest.mark.parametrize(
    ("line", "low", "high", "open_about"),
    [
        ("2x8G DDR4-2666 noprof", 2666, 2666, ""),
        (f"{WITH_PROFILE}; profile 1", 3600, 3600, ""),
        (f"{WITH_PROFILE}; profile off", 2400, 2400, ""),
        (f"{WITH_PROFILE}; profile locked", 2400, 2400, ""),
        (WITH_PROFILE, 2400, 3600, "profile setting"),
        ("8G DDR4-3600 prof1 3600 std 2400; 8G DDR4-2666 noprof", 2400, 2666, "profile setting"),
        # A module sold as 3600 whose standard rate nobody knows: at least the slowest DDR4 (JESD79-4: 1600).
        ("8G DDR4-3600; profile off", 1600, 3600, "profiles"),
        ("A2=8G DDR4-2666 noprof; B2=8G DDR4", 1600, 2666, "the rates of the module in B2"),
        ("A2=8G DDR4-2666 noprof; B2=8G", None, 2666, "the rates of the module in B2"),
        ("2x8G DDR4-3200 noprof; cap 2933", 2933, 2933, ""),
    ],
)
def test_without_a_card(line, low, high, open_about):
    expected = judge(CaseFile(take_notation(line).reading)).expected
    assert expected is not None
    assert (expected.low_mts, expected.high_mts) == (low, high)
    assert open_about in "; ".join(expected.open)
    assert "platform" in "; ".join(expected.open)
    if not open_about:
        assert len(expected.open) == 1


def test_a_card_closes_what_the_platform_leaves_open():
    four = "; ".join(f"{slot}=8G DDR4-3200 noprof" for slot in ("A1", "A2", "B1", "B2"))
    expected = judge(CaseFile(take_notation(f"{four}; total 32G").reading, card=CARD)).expected
    assert expected is not None
    assert (expected.low_mts, expected.high_mts, expected.open) == (2933, 2933, ())
    assert expected_words(expected) == "2933 MT/s"


def test_unequal_channels_carry_a_weighted_peak():
    # 4 and 16 GiB at 2400 MT/s: 8 GiB over two channels at 38.4 GB/s, 12 GiB over one at 19.2; weighted by size 26.88.
    judgement = judge(CaseFile(take_notation("A1=4G DDR4-2400; B1=16G DDR4-2400; run 2400; dual").reading))
    partial = next(finding for finding in judgement.findings if finding.code == "channels.partial")
    assert "carry 38.4 and 19.2 GB/s at most, weighted by their size 26.9" in words_of(partial).reason


def test_modules_without_any_rate_promise_nothing():
    assert judge(CaseFile(take_notation("2x8G; run 2400").reading)).expected is None


def test_the_track_of_the_bandwidth_is_the_weighted_one():
    """The same unequal pair was promised, one to a channel: what it can carry at the most is what was promised."""
    line = "A1=4G DDR4-2400; B1=16G DDR4-2400; dual; run 2400"
    judgement = judge(CaseFile(take_notation(f"{line}; total 20G").reading, promise=take_promise(line)))
    peak = judgement.track(Quantity.PEAK)
    assert (peak.now, peak.promised, peak.status) == (26.88, 26.88, None)  # worked out on both sides: nobody promised it


def test_equal_modules_on_unequal_channels_do_not_differ_in_size():
    judgement = judge(CaseFile(take_notation("A1=8G DDR4-2400; A2=8G DDR4-2400; B1=8G DDR4-2400; B2=-; run 2400").reading))
    partial = next(finding for finding in judgement.findings if finding.code == "channels.partial")
    assert words_of(partial).customer.startswith("The memory channels hold different amounts")
