"""Labels against the JEDEC label descriptions; weeks against the calendar of ISO 8601."""

from __future__ import annotations

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.modules import Form, Generation, ManufactureWeek
from after_check.standards.labels import parse_label
from after_check.standards.weeks import make_week, parse_week, week_dates, week_words

GIB = 1 << 30


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        (
            "16GB 2Rx8 PC4-3200AA-SE1-11",
            (Generation.DDR4, 3200, 16 * GIB, 2, 8, Form.SODIMM, False, "22-22-22", 1200),
        ),
        ("16GB 2Rx8 PC4-2933Y-UB1-11", (Generation.DDR4, 2933, 16 * GIB, 2, 8, Form.UDIMM, False, "21-21-21", 1200)),
        ("32GB 2Rx4 PC4-2400T-RB1-11", (Generation.DDR4, 2400, 32 * GIB, 2, 4, Form.RDIMM, True, "17-17-17", 1200)),
        ("128GB 2S4Rx4 PC4-2666V-LD2-12", (Generation.DDR4, 2666, 128 * GIB, 8, 4, Form.LRDIMM, True, "19-19-19", 1200)),
        ("64GB 4DRx4 PC4-2666V-LD2-12", (Generation.DDR4, 2666, 64 * GIB, 4, 4, Form.LRDIMM, True, "19-19-19", 1200)),
        ("8GB 1Rx8 PC4-2666V-ED1-11", (Generation.DDR4, 2666, 8 * GIB, 1, 8, Form.UDIMM, True, "19-19-19", 1200)),
        ("16GB 1Rx8 PC5-4800B-UA0-1010-XT", (Generation.DDR5, 4800, 16 * GIB, 1, 8, Form.UDIMM, False, "40-39-39", 1100)),
        ("4GB 2Rx8 PC3L-12800S-11-12-F3", (Generation.DDR3, 1600, 4 * GIB, 2, 8, Form.SODIMM, False, "CL11", 1350)),
        ("2GB 1Rx8 PC3-10600U-9-10-A0", (Generation.DDR3, 1333, 2 * GIB, 1, 8, Form.UDIMM, False, "CL9", 1500)),
        ("2GB 2Rx8 PC2-6400S-666-12-E3", (Generation.DDR2, 800, 2 * GIB, 2, 8, Form.SODIMM, False, "6-6-6", 1800)),
        ("512MB 1Rx16 PC2-4200U-444-11-C0", (Generation.DDR2, 533, GIB // 2, 1, 16, Form.UDIMM, False, "4-4-4", 1800)),
    ],
)
def test_label(text, expected):
    label = parse_label(text)
    assert label is not None
    timings = str(label.timings) if label.timings else None
    found = (label.generation, label.rate_mts, label.size_bytes, label.ranks, label.device_width_bits, label.form, label.ecc, timings)
    assert (*found, label.voltage_mv) == expected


@pytest.mark.parametrize(
    "text",
    [
        "",
        "16GB",
        "hello",
        "16GB 2Rx8 PC9-3200AA",
        "PC4-99999",
        "16GB 2Rx8 PC4-",
        "LP4-3200",
        "16GB 1Rx16 PC3-12800U-11-12-A0",
        "8GB 3Rx5 PC4-2400T-UA2-11",
        "64GB 1Rx8 PC4-3200AA-UA2-11",
    ],
)
def test_what_is_no_label_is_refused(text):
    assert parse_label(text) is None


def test_case_and_blanks_of_a_label_do_not_matter():
    assert parse_label("  16gb  2rX8   pc4-3200aa-se1-11 ") == parse_label("16GB 2Rx8 PC4-3200AA-SE1-11")


def test_letters_whose_bin_is_not_known_give_no_timings():
    label = parse_label("16GB 2Rx8 PC4-3200QQ-SE1-11")
    assert label is not None
    assert label.timings is None


@given(st.text(max_size=60))
def test_any_text_is_a_label_or_none(text):
    parse_label(text)


def test_week_eleven_of_2021_lies_in_march():
    assert week_dates(ManufactureWeek(2021, 11)) == (date(2021, 3, 15), date(2021, 3, 21))


@pytest.mark.parametrize(
    ("text", "week"),
    [("2021-W11", (2021, 11)), ("2021w11", (2021, 11)), ("week 7 of 2026", (2026, 7)), ("2020-W53", (2020, 53)), ("W5/2019", (2019, 5))],
)
def test_written_weeks(text, week):
    assert parse_week(text) == ManufactureWeek(*week)


@pytest.mark.parametrize("text", ["2021-W00", "2021-W53", "2021-11", "W11", "1889-W10", ""])
def test_weeks_that_are_none(text):
    # 2021 has 52 ISO weeks: its first of January is a Friday.
    assert parse_week(text) is None
    assert make_week(2021, 53) is None


@pytest.mark.parametrize(
    ("text", "form", "ecc", "unknown"),
    [
        ("64GB 2Rx4 PC5-4800B-RA0-1010-XT", Form.RDIMM, True, ""),
        ("2GB 2Rx4 PC2-5300P-555-12", Form.RDIMM, True, ""),
        ("2GB 2Rx4 PC2-5300F-555-11", None, True, ""),
        ("16GB 1Rx8 PC5-6400B-ZA0-1010-XT", None, None, "Z"),
    ],
)
def test_letters_of_the_module_type(text, form, ecc, unknown):
    label = parse_label(text)
    assert label is not None
    assert (label.form, label.ecc, label.unknown_letter) == (form, ecc, unknown)


@pytest.mark.parametrize(
    ("week", "words"),
    [
        # 15 to 21 March 2021; 29 March to 4 April 2021; 28 December 2020 to 3 January 2021 (ISO 8601).
        ((2021, 11), "2021-W11 (March 2021)"),
        ((2021, 13), "2021-W13 (March or April 2021)"),
        ((2020, 53), "2020-W53 (December 2020 or January 2021)"),
    ],
)
def test_a_week_stands_with_its_month(week, words):
    assert week_words(make_week(*week)) == words
