"""Channels, tracks and rates against sums done by hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.case_files import CaseFile
from after_check.domain.findings import ChannelPart
from after_check.domain.standing import Quantity, TrackStatus, Verdict
from after_check.judgement.channels import channel_parts
from after_check.judgement.judge import judge
from after_check.judgement.running_rate import settle_running_rate
from after_check.judgement.scales import marks_of
from after_check.language.short_form import parse
from after_check.sources.open_source import take_notation, take_promise

GIB = 1 << 30


@pytest.mark.parametrize(
    ("sizes_gib", "parts"),
    [
        ([4, 12], [(2, 8), (1, 8)]),
        ([4, 16], [(2, 8), (1, 12)]),
        ([8, 8], [(2, 16)]),
        ([8], [(1, 8)]),
        ([4, 8, 16], [(3, 12), (2, 8), (1, 8)]),
        ([], []),
        ([0, 8], [(1, 8)]),
    ],
)
def test_unequal_channels_share_what_they_all_have(sizes_gib, parts):
    assert channel_parts([size * GIB for size in sizes_gib]) == tuple(ChannelPart(ways, size * GIB) for ways, size in parts)


@given(st.lists(st.integers(1, 64), min_size=1, max_size=12))
def test_no_byte_is_lost_or_doubled_between_the_parts(sizes):
    parts = channel_parts(sizes)
    assert sum(part.size_bytes for part in parts) == sum(sizes)
    ways = [part.ways for part in parts]
    assert ways == sorted(set(ways), reverse=True)


def tracks(after, promise="", before=""):
    judgement = judge(
        CaseFile(
            take_notation(after).reading,
            take_notation(before).reading if before else None,
            take_promise(promise) if promise else None,
        )
    )
    return {track.quantity: track for track in judgement.tracks}


def test_peak_and_first_word_are_worked_out():
    found = tracks(
        "A2=24G DDR5-6400 std 4800 prof1 6400@CL32; B2=24G DDR5-6400 std 4800 prof1 6400@CL32; run 4800; CL 40; profile off",
        "A2=24G DDR5-6400 prof1 6400@CL32; B2=24G DDR5-6400 prof1 6400@CL32; dual; profile 1",
        "A2=8G DDR5-4800; run 4800; CL 40",
    )
    peak = found[Quantity.PEAK]
    # 8 bytes x 4800 x 1 = 38.4 GB/s, x 2 = 76.8, and 6400 x 8 x 2 = 102.4.
    assert (peak.before, peak.promised, peak.now, peak.status) == (38.4, 102.4, 76.8, TrackStatus.SHORT)
    first = found[Quantity.FIRST_WORD]
    # 40 clocks x 2000 / 4800 = 16.67 ns; 32 x 2000 / 6400 = 10 ns.
    assert (first.before, first.promised, first.now, first.status) == (16.67, 10.0, 16.67, TrackStatus.SHORT)


@pytest.mark.parametrize(
    ("line", "mts", "doubtful"),
    [
        ("2x8G DDR4-3600; run 1800MHz", 3600, False),
        ("2x8G DDR4-2933; run 1467MHz", 2933, False),
        ("2x8G DDR4-2933; run 1467", 2933, True),
        ("2x8G DDR4-3200; run 3200MHz", 3200, True),
        ("2x8G DDR3-1600; run 800MHz", 1600, False),
        ("2x8G DDR3-1600; run 800", 800, True),
        ("2x8G DDR5-4800; run 2400MHz", 4800, False),
        ("2x8G DDR5-4800; run 4800MHz", 4800, True),
        ("2x8G; run 2667", 2666, False),
        ("run 3466", 3466, False),
    ],
)
def test_clock_and_data_rate_are_told_apart(line, mts, doubtful):
    rate = settle_running_rate(parse(line).reading).settled
    assert rate is not None
    assert (rate.mts, bool(rate.doubt)) == (mts, doubtful)


def test_marks_lie_on_one_scale_from_zero():
    track = tracks("A2=16G DDR4-3200; run 2400", "16G DDR4-3200", "A2=8G DDR4-1600; run 1600")[Quantity.RATE]
    marks = marks_of(track)
    assert marks is not None
    assert marks.before is not None
    assert marks.now / marks.before == pytest.approx(2400 / 1600)
    assert marks.promised / marks.now == pytest.approx(3200 / 2400)
    assert marks.gap == (marks.now, marks.promised)


_FACTS = ["A2=16G DDR4-3200", "B2=16G DDR4-3200", "run 3200", "dual", "profile 1", "total 32G", "usable 31.5G"]


@given(st.sets(st.sampled_from(_FACTS)))
def test_leaving_facts_out_never_makes_a_machine_ready(left_out):
    promise = take_promise("A2=16G DDR4-3200; B2=16G DDR4-3200; dual; profile 1")
    kept = [fact for fact in _FACTS if fact not in left_out]
    verdict = judge(CaseFile(parse("; ".join(kept)).reading, None, promise)).verdict
    needed = {"run 3200", "profile 1"}
    if left_out & needed or ({"A2=16G DDR4-3200", "B2=16G DDR4-3200"} & left_out and not {"total 32G", "usable 31.5G"} - left_out):
        assert verdict is not Verdict.READY
