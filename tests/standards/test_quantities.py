"""Sizes, rates and times, by the definitions."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.outside_text import clean, clean_bytes
from after_check.domain.quantities import first_word_ns, number_text, parse_size, peak_bandwidth_gbs, size_notation, size_text


@pytest.mark.parametrize(
    ("text", "size_bytes"),
    [
        ("16G", 16 * 2**30),
        ("16 GiB", 16 * 2**30),
        ("24576 MB", 24 * 2**30),
        ("512m", 512 * 2**20),
        ("1T", 2**40),
        ("31.8G", 34144990003),
        ("640K", 640 * 2**10),
        ("5B", 5),
    ],
)
def test_sizes_are_binary(text, size_bytes):
    assert parse_size(text) == size_bytes


@pytest.mark.parametrize("text", ["", "G", "16", "16X", "-1G", "1e3G", "9999999999999T"])
def test_what_is_no_size(text):
    assert parse_size(text) is None


@given(st.integers(1, 1 << 50))
def test_written_sizes_read_back_exactly(size_bytes):
    assert parse_size(size_notation(size_bytes)) == size_bytes


@pytest.mark.parametrize(
    ("size_bytes", "text"),
    [(48 << 30, "48 GiB"), (int(31.8 * 2**30), "31.8 GiB"), (512 << 20, "512 MiB"), (640 << 10, "640 KiB"), (0, "0 GiB")],
)
def test_sizes_as_people_read_them(size_bytes, text):
    assert size_text(size_bytes) == text


def test_formulas_of_the_trade():
    # 3200 MT/s x 8 bytes x 2 channels; CL18 at 3600 is 10.0 ns; CL36 at 4800 is 15.0 ns.
    assert peak_bandwidth_gbs(3200, 2) == pytest.approx(51.2)
    assert first_word_ns(18, 3600) == pytest.approx(10.0)
    assert first_word_ns(36, 4800) == pytest.approx(15.0)
    assert [number_text(number) for number in (48.0, 102.4, 0.25)] == ["48", "102.4", "0.2"]


def test_outside_text_loses_what_could_act():
    assert clean("a\x1b[2J\tb\r\nc\u202e\u200bd\x9b") == "a[2J b cd"
    assert clean("x" * 500) == "x" * 200
    assert clean_bytes(b"caf\xe9") == "café"
    assert clean_bytes("café".encode()) == "café"


@given(st.text())
def test_clean_text_is_printable_and_stays_as_it_is(text):
    cleaned = clean(text)
    assert cleaned.isprintable()
    assert clean(cleaned) == cleaned
