"""Statistics of before and now, against published tables and against simulated runs where the truth is known."""

from __future__ import annotations

import random
from dataclasses import replace
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.benchmark.before_and_now import compare, compare_series, overall, why_not_comparable
from after_check.benchmark.measurement_names import in_one_sentence
from after_check.benchmark.statistics import critical_count, shift
from after_check.domain.benchmark import BenchmarkRecord, Change, Conditions, Kind, Measurement, Series

# Two-sided 5 per cent points of the Mann-Whitney U, as every table of it prints them.
TABLE = {
    (4, 4): 0,
    (5, 5): 2,
    (6, 6): 5,
    (7, 7): 8,
    (8, 8): 13,
    (9, 9): 17,
    (10, 10): 23,
    (15, 15): 64,
    (20, 20): 127,
    (5, 8): 6,
    (7, 10): 14,
}


@pytest.mark.parametrize(("first", "second"), TABLE)
def test_critical_counts_of_the_published_table(first, second):
    assert critical_count(first, second) == TABLE[(first, second)] == critical_count(second, first)


def test_large_samples_keep_to_the_confidence_that_is_asked_for():
    # 70 and 70: mean 70 x 70 / 2 = 2450, deviation sqrt(70 x 70 x 141 / 12) = 239.95; 1.960 and 2.576 of it, less a half.
    assert critical_count(70, 70) == 1979
    assert critical_count(70, 70, confidence=0.99) == 1831


def test_too_few_samples_decide_nothing():
    assert critical_count(3, 3) == -1
    assert shift([1, 2, 3], [100, 200, 300]) is None


def test_an_interval_worked_out_by_hand():
    # 4 and 4 samples: 16 differences, from -1 to 5 here; nothing is cut off, as the critical count is 0.
    before, now = [1, 2, 3, 4], [3, 4, 5, 6]
    found = shift(before, now)
    assert (found.estimate, found.low, found.high) == (2, -1, 5)
    assert not found.is_a_difference
    assert shift(before, [5, 6, 7, 8]).is_a_difference


def test_one_far_off_run_moves_neither_estimate_nor_interval_far():
    # 7 and 7: the eight smallest and largest of 49 differences are cut off.
    before, now = [100, 101, 102, 103, 104, 105, 106], [110, 111, 112, 113, 114, 115, 9999]
    found = shift(before, now)
    assert 8 <= found.estimate <= 12
    assert found.high < 20


def series(samples, **changes):
    return Series(tuple(samples), "GB/s", **{"measured": Measurement(Kind.READ), **changes})


def test_no_more_than_one_in_twenty_false_differences_and_real_ones_are_found():
    dice = random.Random(7)

    def runs(centre):
        return series(dice.gauss(centre, 1.0) for _ in range(7))

    false = sum(compare_series(runs(50), runs(50)).change is not Change.SAME for _ in range(1000))
    assert false <= 50
    found = sum(compare_series(runs(50), runs(53)).change is Change.BETTER for _ in range(300))
    assert found >= 297, "three spreads are a difference that is seen"


def test_no_more_than_one_in_twenty_false_gains_of_a_whole_benchmark():
    dice = random.Random(11)

    def benchmark():
        found = (Series(tuple(dice.gauss(50, 1) for _ in range(7)), "GB/s", Measurement(Kind.READ, threads)) for threads in range(20))
        return BenchmarkRecord(datetime(2026, 11, 2, tzinfo=UTC), series=tuple(found))

    assert sum(overall(compare(benchmark(), benchmark())) is not Change.SAME for _ in range(200)) <= 10


@given(st.lists(st.floats(1, 1000), min_size=4, max_size=9), st.lists(st.floats(1, 1000), min_size=4, max_size=9))
def test_the_other_way_round_is_the_opposite(before, now):
    there, back = shift(before, now), shift(now, before)
    assert there.low <= there.estimate <= there.high
    assert (back.low, back.estimate, back.high) == (-there.high, -there.estimate, -there.low)


def test_one_per_cent_is_never_a_gain():
    steady = [100.0, 100.01, 100.02, 100.03, 100.04, 100.05, 100.06]
    assert compare_series(series(steady), series([value * 1.009 for value in steady])).change is Change.SAME
    assert compare_series(series(steady), series([value * 1.02 for value in steady])).change is Change.BETTER


def test_lower_is_better_where_it_is():
    before, now = [10.0, 10.1, 10.2, 10.3], [8.0, 8.1, 8.2, 8.3]
    assert compare_series(series(before, lower_is_better=True), series(now, lower_is_better=True)).change is Change.BETTER
    assert compare_series(series(before), series(now)).change is Change.WORSE


def test_scores_given_once_prove_nothing():
    found = compare_series(series([50], typed=True), series([60], typed=True))
    assert (found.change, found.single, found.low) == (Change.NOT_COMPARABLE, True, None)
    assert found.why == "one run each: proves nothing"
    assert found.share == pytest.approx(0.2)
    assert overall([found]) is None, "a single score decides nothing"
    assert compare_series(series([50]), series([60])).change is Change.NOT_COMPARABLE


ALIKE = Conditions(plan="usual 1", threads=4, buffer_bytes=1 << 28, governor="performance", power="mains", load=0.1, processor_celsius=50)


@pytest.mark.parametrize(
    ("changes", "word"),
    [
        ({"threads": 8}, "threads"),
        ({"plan": "usual 2"}, "plan"),
        ({"power": "battery"}, "power source"),
        ({"governor": "powersave"}, "speed setting"),
        ({"load": 1.5}, "other programs were at work now"),
        ({"processor_celsius": 80.0}, "temperature"),
        ({"throttled": 3}, "slowed itself down"),
        ({"stolen": 0.2}, "a hypervisor took 20%"),
    ],
)
def test_other_conditions_prove_nothing(changes, word):
    (why,) = why_not_comparable(ALIKE, replace(ALIKE, **changes))
    assert word in why
    before, now = series([10, 10.1, 10.2, 10.3]), series([20, 20.1, 20.2, 20.3])
    assert compare_series(before, now, [why]).change is Change.NOT_COMPARABLE
    assert why_not_comparable(ALIKE, ALIKE) == ()
    assert why_not_comparable(ALIKE, Conditions()) == ()


def test_all_together():
    def of(*changes):
        return overall([replace(compare_series(series([1, 2, 3, 4]), series([1, 2, 3, 4])), change=change) for change in changes])

    better, worse, same, unlike = Change.BETTER, Change.WORSE, Change.SAME, Change.NOT_COMPARABLE
    assert of(better) is better
    assert of(better, same, same) is same
    assert of(better, better, same) is better
    assert of(better, worse, worse, worse) is worse
    assert of(unlike, unlike) is unlike
    assert of() is None
    assert of(*[same] * 18, better, better) is same


@pytest.mark.parametrize(
    ("times", "words"),
    [
        (1.1, "10% faster"),
        (1.85, "nearly twice as fast"),
        (2.0, "twice as fast"),
        (3.0, "3.0 times as fast"),
        (0.8, "20% slower"),
        (1.0, "the same"),
    ],
)
def test_a_whole_benchmark_in_one_sentence(times, words):
    flow = Measurement(Kind.READ, 8)
    before = BenchmarkRecord(datetime(2026, 11, 2, tzinfo=UTC), series=(Series(tuple(50 + step / 100 for step in range(7)), "GB/s", flow),))
    after = replace(before, series=(replace(before.series[0], samples=tuple(one * times for one in before.series[0].samples)),))
    assert in_one_sentence(compare(before, after)) == f"The whole machine {words}."


def test_what_lies_within_the_spread_of_the_runs_is_no_difference():
    # Nine runs from 40 to 60 each, three later ones two higher in the middle: no one could draw them apart.
    before = series([40, 44, 48, 49, 50, 51, 52, 56, 60])
    assert compare_series(before, series([43, 47, 51, 52, 53, 54, 55, 59, 60])).change is Change.SAME
    assert compare_series(series([50, 50.1, 50.2, 50.3]), series([50.5, 50.6, 50.7, 50.8])).change is Change.SAME  # One per cent.
    assert compare_series(series([50, 50.1, 50.2, 50.3]), series([52.5, 52.6, 52.7, 52.8])).change is Change.BETTER
