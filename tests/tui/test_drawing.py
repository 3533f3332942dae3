"""The drawings in cells, drawn from snapshots alone."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from rich.cells import cell_len

from after_check.domain.bench import MiniTrack
from after_check.domain.boards import Filling, Slot, soldered_apart
from after_check.domain.case_files import CaseFile
from after_check.domain.findings import Track
from after_check.domain.standing import Quantity, TrackStatus
from after_check.judgement.judge import judge
from after_check.language.short_form import parse, parse_promise
from after_check.tui.charts.board import board_lines, snapshot_of_reading
from after_check.tui.charts.cells import fitted, wrapped
from after_check.tui.charts.tracks import MINI_CELLS, mini_track, track_line
from after_check.tui.theme import CONSOLE_THEME, PALETTES


def rate(before, promised, now, status):
    return Track(Quantity.RATE, before, promised, now, "MT/s", status)


@pytest.mark.parametrize(
    ("track", "marks", "word"),
    [
        (rate(2400, 3200, 3200, TrackStatus.KEPT), "○◈", "as promised"),
        (rate(4800, 6400, 4800, TrackStatus.SHORT), "◉◇", "too little"),
        (rate(2400, 3200, 2666, TrackStatus.SHORT), "○●◇", "too little"),
        (rate(None, 3200, None, TrackStatus.UNKNOWN), "◇", "not known"),
        (rate(2400, 2400, 3200, TrackStatus.OVER), "◇●", "more"),
    ],
)
def test_marks_stand_in_the_order_of_their_values(track, marks, word):
    line = track_line(track, 78).plain
    assert "".join(symbol for symbol in line if symbol in "○◇●◈◉") == marks
    assert word in line
    assert cell_len(line) <= 78


def test_a_latency_that_is_longer_is_late():
    track = Track(Quantity.FIRST_WORD, 16.7, 10, 16.7, "ns", TrackStatus.SHORT, lower_is_better=True)
    line = track_line(track, 78).plain
    assert "too long" in line
    assert line.index("◇") < line.index("◉")


@pytest.mark.parametrize(
    ("status", "now", "promised", "plain"),
    [
        (TrackStatus.KEPT, 32, 32, "━━━━━◈"),
        (TrackStatus.UNKNOWN, None, 32, "·····?"),
        (TrackStatus.OVER, 48, 32, "━━━━━●+"),
        (None, 32, None, "–"),
    ],
)
def test_miniatures_differ_in_shape_and_not_only_in_colour(status, now, promised, plain):
    drawn = mini_track(MiniTrack("rate", status, now, promised))
    assert drawn.plain.strip() == plain
    assert drawn.cell_len == MINI_CELLS


def test_a_short_miniature_is_as_long_as_what_is_there():
    half = mini_track(MiniTrack("rate", TrackStatus.SHORT, 1600, 3200)).plain
    most = mini_track(MiniTrack("rate", TrackStatus.SHORT, 3000, 3200)).plain
    assert half.index("●") < most.index("●")
    assert half.rstrip().endswith("◇")


@pytest.mark.parametrize("rows", [30, 16, 12, 8])
def test_a_board_of_eight_slots_fits_where_it_can(rows):
    line = "; ".join(f"{letter}1={'-' if letter == 'D' else '32G DDR4-3200 maker Ostrel'}" for letter in "ABCDEFGH")
    lines = board_lines(snapshot_of_reading(parse(line).reading, (), frozenset({"D1"})), 44, rows)
    text = "\n".join(line.plain for line in lines)
    assert len(lines) <= max(rows, 9)
    assert text.count("32 GiB") == 7
    assert "▲ empty" in text
    assert all(cell_len(line.plain) <= 44 for line in lines)


@given(st.text(max_size=40), st.integers(1, 30))
def test_fitted_text_has_exactly_its_cells(text, cells):
    clean = "".join(character for character in text if character.isprintable())
    assert cell_len(fitted(clean, cells)) == cells


@given(st.lists(st.text("abcdefgh", min_size=1, max_size=30), max_size=12), st.integers(4, 20))
def test_wrapping_loses_nothing(words, cells):
    lines = wrapped(" ".join(words), cells)
    assert all(cell_len(line) <= cells for line in lines)
    assert "".join("".join(lines).split()) == "".join(words)


def _luminance(colour: str) -> float:
    """Relative luminance after WCAG 2.1."""
    parts = [int(colour[index : index + 2], 16) / 255 for index in (1, 3, 5)]
    linear = [part / 12.92 if part <= 0.03928 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(a: str, b: str) -> float:
    high, low = sorted((_luminance(a), _luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


# The console gives its sixteen colours those of the night: its own palette only says which.
@pytest.mark.parametrize(("name", "palette"), [pair for pair in PALETTES.items() if pair[0] != CONSOLE_THEME])
def test_text_can_be_read_in_every_theme(name: str, palette):
    least = 7.0 if name == "skarrow-contrast" else 4.5
    for colour in (palette.text, palette.muted, palette.kept, palette.promised, palette.short):
        assert contrast(colour, palette.background) >= least
        assert contrast(colour, palette.chosen) >= min(least, 4.5) or colour == palette.muted
    for colour in (palette.kept, palette.promised, palette.short):
        assert contrast(palette.on_colour, colour) >= 4.5


@pytest.mark.parametrize(
    ("line", "drawn", "left"),
    [
        ("8x2G soldered LPDDR5-6400", ["8 × 2 GiB  LPDDR5-6400"], []),
        ("A=2G soldered LPDDR4-4266; B=2G soldered LPDDR4-4266", ["2 × 2 GiB  LPDDR4-4266", "A, B"], []),
        ("8G soldered DDR4-3200; SODIMM1=16G DDR4-3200 sodimm", ["soldered to the board", "8 GiB  DDR4-3200"], ["SODIMM1"]),
        ("A=8G soldered DDR4-3200; B=16G DDR4-3200 sodimm", [], ["A", "B"]),
        ("4x2G soldered LPDDR5-6400; 4x4G soldered LPDDR5-6400", ["4 × 2 GiB", "4 × 4 GiB"], []),
    ],
)
def test_devices_that_are_soldered_are_one_block_of_each_kind(line, drawn, left):
    reading = parse(line).reading
    text = "\n".join(part.plain for part in board_lines(snapshot_of_reading(reading), 60, 24))
    assert all(part in text for part in drawn), text
    assert [slot.name for slot in soldered_apart(reading.slots, reading.loose)[1]] == left
    assert "?" not in text


def of_processors(processors, channels, empty):
    """A board of so many processors, each with so many channels of two slots; `empty` slots hold nothing."""
    names = [f"P{number} {letter}{at}" for number in range(processors) for letter in "ABCDEFGH"[:channels] for at in (1, 2)]
    return parse("; ".join(f'"{name}"={"-" if name in empty else "16G DDR4-2933"}' for name in names)).reading


@pytest.mark.parametrize(("processors", "channels"), [(1, 8), (2, 2), (2, 6), (2, 8), (4, 6), (4, 8), (8, 4), (8, 8)])
@pytest.mark.parametrize(("cells", "rows"), [(44, 15), (60, 20), (90, 30)])
def test_which_processor_lacks_what_is_seen_whatever_the_board(processors, channels, cells, rows):
    empty = (f"P{processors - 1} B1", f"P{processors - 1} B2")
    reading = of_processors(processors, channels, empty)
    drawn = board_lines(snapshot_of_reading(reading, pointed_at=frozenset(empty)), cells, rows)
    said = "\n".join(line.plain for line in drawn)
    assert len(drawn) <= rows + processors
    assert all(line.cell_len <= cells for line in drawn)
    assert "▲" in said
    assert said.count("▲ empty") == 2 or f"▲ processor {processors - 1}" in said
    if processors > 1:
        assert f"▲ processor {processors - 1}" in said
        assert f"{2 * channels - 2} of {2 * channels}" in said
        assert "▲ processor 0" not in said


@pytest.mark.parametrize(("processors", "cells", "rows"), [(1, 60, 30), (2, 60, 20), (2, 44, 15), (4, 90, 30)])
def test_persistent_memory_is_drawn_among_the_slots_and_counted_apart(processors, cells, rows):
    reading = of_processors(processors, 2, ())
    kept = tuple(Slot(f"P{number} C1", Filling.PERSISTENT, kept_bytes=128 << 30) for number in range(processors))
    drawn = "\n".join(line.plain for line in board_lines(snapshot_of_reading(replace(reading, persistent=kept)), cells, rows))
    assert drawn.count("persi") >= processors
    if processors > 1:
        assert drawn.count("4 of 4 · 64 GiB") == processors  # And not "4 of 5": nothing is missing.
    else:
        assert "persistent 128 GiB, no working memory" in drawn
        assert drawn.index("P0 B2") < drawn.index("P0 C1")


def test_nothing_is_judged_by_persistent_memory():
    reading = of_processors(2, 2, ())
    kept = (Slot("P0 C1", Filling.PERSISTENT, kept_bytes=128 << 30),)
    promise = parse_promise("8x16G DDR4-2933")[0]
    one, other = (judge(CaseFile(some, None, promise)) for some in (reading, replace(reading, persistent=kept)))
    assert (one.verdict, one.findings, one.tracks) == (other.verdict, other.findings, other.tracks)
