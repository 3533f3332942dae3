"""What `explain` says, by sums done by hand and the calendar."""

from __future__ import annotations

import pytest

from after_check.sources.explain import explain
from after_check.sources.open_source import NotationError


@pytest.mark.parametrize(
    ("text", "sentences"),
    [
        ("PC4-21300", ["PC4-21300 is DDR4-2666: 2666 MT/s.", "Peak 21.3 GB/s on one channel, 42.7 GB/s on two."]),
        ("PC3L-12800", ["PC3L-12800 is DDR3-1600: 1600 MT/s.", "L stands for 1.35 V."]),
        ("PC4-2933", ["PC4-2933 is DDR4-2933: 2933 MT/s."]),
        ("PC4-18000", ["PC4-18000 is no module class that DDR4 has."]),
        ("DDR4-3200", ["DDR4-3200 runs at 3200 MT/s.", "As a module class: PC4-25600."]),
        ("DDR4-3466", ["It is no standard rate of DDR4: it needs a memory profile."]),
        ("1800MHz", ["A memory clock of 1800 MHz is a data rate of 3600 MT/s: two transfers a clock."]),
        (
            "3200MHz",
            [
                "3200 MHz is most likely the data rate, 3200 MT/s (DDR4, DDR5): that is how it is sold. Its clock is 1600 MHz.",
                "Where a program shows clocks, it is the clock of 6400 MT/s (DDR5).",
            ],
        ),
        (
            "1600 mhz",
            [
                "1600 MHz is two things: the data rate, 1600 MT/s (DDR3, DDR4), as it is sold, or the clock of 3200 MT/s "
                "(DDR4, DDR5). The kind of the modules tells which."
            ],
        ),
        ("2133.33", ["2133 MT/s is a standard rate of DDR3, DDR4, LPDDR3, LPDDR4, LPDDR4X."]),
        ("week 11 of 2021", ["Week 11 of 2021 is Monday 15 March 2021 to Sunday 21 March 2021 (ISO 8601)."]),
        ("2020-W53", ["Week 53 of 2020 is Monday 28 December 2020 to Sunday 3 January 2021 (ISO 8601)."]),
        (
            '"16GB 1Rx8 PC5-4800B-UA0-1010-XT"',
            ["A module label: 16 GiB DDR5-4800 UDIMM without ECC.", "Bin B: 40-39-39, the first word after 16.67 ns."],
        ),
        ("2x16G DDR4-3200 CL22; run 1600MHz", ["Together 32 GiB in 2 modules.", "Running rate shown as 1600 MHz."]),
    ],
)
def test_sentences(text, sentences):
    said = explain(text)
    for sentence in sentences:
        assert sentence in said


def test_what_is_not_understood_says_what_is():
    with pytest.raises(NotationError, match="a week"):
        explain("hello there")
    with pytest.raises(NotationError):
        explain("5")
