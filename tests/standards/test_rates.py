"""Rates and module classes, against the speed bin tables of the JEDEC standards and sums done by hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.modules import Generation
from after_check.standards.rates import (
    STANDARD_RATES_MTS,
    class_to_rate_mts,
    pc_number_to_rate_mts,
    same_rate,
    snap_rate,
)


@pytest.mark.parametrize(
    ("class_mbs", "generation", "rate_mts"),
    [
        # The customary class names of each generation, as printed on labels.
        (1600, Generation.DDR, 200),
        (2100, Generation.DDR, 266),
        (2700, Generation.DDR, 333),
        (3200, Generation.DDR, 400),
        (3200, Generation.DDR2, 400),
        (4200, Generation.DDR2, 533),
        (5300, Generation.DDR2, 667),
        (6400, Generation.DDR2, 800),
        (8500, Generation.DDR2, 1066),
        (6400, Generation.DDR3, 800),
        (8500, Generation.DDR3, 1066),
        (10600, Generation.DDR3, 1333),
        (12800, Generation.DDR3, 1600),
        (14900, Generation.DDR3, 1866),
        (17000, Generation.DDR3, 2133),
        (17000, Generation.DDR4, 2133),
        (19200, Generation.DDR4, 2400),
        (21300, Generation.DDR4, 2666),
        (23400, Generation.DDR4, 2933),
        (25600, Generation.DDR4, 3200),
        (27700, Generation.DDR4, 3466),
        (28800, Generation.DDR4, 3600),
        (38400, Generation.DDR5, 4800),
        (44800, Generation.DDR5, 5600),
        (51200, Generation.DDR5, 6400),
    ],
)
def test_module_class_names_its_rate(class_mbs, generation, rate_mts):
    assert class_to_rate_mts(class_mbs, generation) == rate_mts
    assert pc_number_to_rate_mts(class_mbs, generation) == rate_mts


@pytest.mark.parametrize(
    ("number", "generation", "rate_mts"),
    [(2933, Generation.DDR4, 2933), (3200, Generation.DDR4, 3200), (4800, Generation.DDR5, 4800), (2667, Generation.DDR4, 2666)],
)
def test_a_small_pc_number_is_the_rate_itself(number, generation, rate_mts):
    assert pc_number_to_rate_mts(number, generation) == rate_mts


def test_a_number_that_is_neither_is_refused():
    assert class_to_rate_mts(18000, Generation.DDR4) is None
    assert pc_number_to_rate_mts(5900, Generation.DDR4) is None


@pytest.mark.parametrize(
    ("shown", "generation", "rate_mts"),
    [
        (2133.33, None, 2133),
        (2134, Generation.DDR4, 2133),
        (2666.67, None, 2666),
        (2667, Generation.DDR4, 2666),
        (2934, Generation.DDR4, 2933),
        (1333.3, Generation.DDR3, 1333),
        (3733, Generation.DDR4, 3733),
        (3000, Generation.DDR4, 3000),
        (2950, Generation.DDR4, 2933),
        (2951, Generation.DDR4, 2951),
    ],
)
def test_roundings_of_one_rate_are_one_rate(shown, generation, rate_mts):
    assert snap_rate(shown, generation) == rate_mts


def test_the_rates_of_the_modules_win_over_standard_ones():
    assert snap_rate(2940, Generation.DDR4, also=[2950]) == 2950


@pytest.mark.parametrize(
    ("a", "b", "same"), [(2933, 2934, True), (1000, 1006, True), (1000, 1007, False), (2666, 2933, False), (0.5, 0.5, True)]
)
def test_tolerance_is_six_tenths_of_a_per_cent(a, b, same):
    assert same_rate(a, b) is same
    assert same_rate(b, a) is same


@given(st.sampled_from([(g, r) for g, rates in STANDARD_RATES_MTS.items() for r in rates]), st.floats(-0.0059, 0.0059))
def test_every_standard_rate_attracts_what_lies_within_the_tolerance(known, off):
    generation, rate_mts = known
    assert snap_rate(rate_mts * (1 + off), generation) == rate_mts
