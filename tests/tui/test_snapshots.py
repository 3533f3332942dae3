"""What the screens collect before they draw: bench rows, promises in words, sources, reasons."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from after_check.casework.shown_boards import ShownBoard
from after_check.domain.bench import WaitsFor, grouped
from after_check.domain.boards import Filling, Slot
from after_check.domain.facts import Fact, Source
from after_check.domain.findings import Ceiling, CeilingKind
from after_check.domain.modules import Module
from after_check.domain.readings import Reading
from after_check.language.short_form import parse_promise
from after_check.language.short_form.parser import parse
from after_check.shop.stored_lines import first_look, line_from_json, line_to_json
from after_check.sources.open_source import take, take_notation
from after_check.tui.charts.bench import age_text, column_names, group_text, job_text, rows_of, snapshot_of
from after_check.tui.charts.cells import right_aligned
from after_check.tui.charts.modules import identity_lines, module_scale_lines
from after_check.tui.charts.promise import promise_words
from after_check.tui.charts.reason import ceiling_lines
from after_check.tui.charts.sources import source_lines
from tests.conftest import SAMPLES


def test_the_first_look_is_what_the_shop_says(demo_shop, shop_path):
    assert first_look(shop_path) == demo_shop.jobs.bench()
    assert first_look(shop_path.with_name("missing.db")) is None
    text = shop_path.with_name("text.db")
    text.write_text("no database")
    assert first_look(text) is None


def test_lines_come_back_as_they_were(demo_shop):
    for line in demo_shop.jobs.lines():
        assert line_from_json(line_to_json(line)) == line


def test_rows_have_air_where_there_is_batch(demo_shop):
    snapshot = snapshot_of(grouped(demo_shop.jobs.entries()), "")
    jobs = len(snapshot.jobs)
    assert jobs == 13
    assert len(rows_of(snapshot, 100)) == jobs * 3 + 2 * 2
    assert len(rows_of(snapshot, 20)) == jobs * 2 + 2 + 1
    assert [row.job for row in rows_of(snapshot, 20) if row.job is not None][:4] == [0, 0, 1, 1]


@pytest.mark.parametrize(
    ("search", "numbers"),
    [
        ("sonogram", {"0417"}),
        ("observatory ddr5", {"0417", "0426"}),
        ("OS4R-32G32", {"0419"}),
        ("rate.slowest", {"0421"}),
        ("not ready choir", {"0423"}),
        ("nothing of the kind", set()),
    ],
)
def test_search_looks_at_everything(demo_shop, search, numbers):
    assert {entry.number for entry in snapshot_of(grouped(demo_shop.jobs.entries()), search).jobs} == numbers


def test_counts_are_of_all_jobs_whatever_is_searched(demo_shop):
    snapshot = snapshot_of(grouped(demo_shop.jobs.entries()), "sonogram")
    assert (snapshot.waiting[WaitsFor.YOU], snapshot.waiting[WaitsFor.CUSTOMER]) == (10, 3)  # The kiosk has no memory test yet.


@pytest.mark.parametrize("cells", [80, 104, 128, 200])
def test_rows_keep_to_their_width(demo_shop, cells):
    rows = rows_of(snapshot_of(grouped(demo_shop.jobs.entries()), ""), 100)
    assert column_names(cells).cell_len <= cells
    for line in demo_shop.jobs.lines():
        for second in (False, True):
            assert job_text(line, second, cells).cell_len <= cells
    assert all(group_text(row, cells).cell_len <= cells for row in rows if row.group)


@pytest.mark.parametrize(
    ("ago", "text"),
    [
        (timedelta(seconds=5), "now"),
        (timedelta(minutes=7), "7 min"),
        (timedelta(hours=26), "1 d"),
        (timedelta(hours=23), "23 h"),
        (timedelta(seconds=-90), "now"),
    ],
)
def test_ages(ago, text):
    now = datetime(2026, 3, 2, 12, tzinfo=UTC)
    assert age_text(now - ago, now) == text


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("A2=24G DDR5-6400; B2=24G DDR5-6400; dual; profile 1", "2 × 24 GiB DDR5-6400, two channels, profile 1"),
        ("4G DDR4-2400; 16G DDR4-2400; dual", "1 × 4 GiB DDR4-2400 + 1 × 16 GiB DDR4-2400, two channels"),
        ("4x8G; run 2933", "4 × 8 GiB, at 2933"),
        ("total 64G; channels 8; profile off", "64 GiB, 8 channels, no profile"),
    ],
)
def test_promises_in_words(line, words):
    assert promise_words(parse_promise(line)[0]) == words


def test_sources_of_values_with_the_losers():
    lines = [line.plain for line in source_lines(take(str(SAMPLES / "0418" / "fitted")).reading, 90)]
    text = " ".join(" ".join(lines).split())
    table = next(at for at, line in enumerate(lines) if line.startswith("firmware table"))
    system = next(at for at, line in enumerate(lines) if line.startswith("system"))
    assert "type 17, handle 0x1100" in lines[table]
    assert "size 8 GiB" in " ".join(lines[table : table + 4])
    assert "proc/meminfo" in lines[system]
    assert "usable 15.5 GiB" in text


def test_what_sources_say_differently_comes_first():
    rated = Fact(3200, Source.SPD, "eeprom", (Fact(2933, Source.FIRMWARE, "type 17"),))
    reading = Reading(slots=(Slot("A1", Filling.FILLED, Module(rated_mts=rated)),))
    lines = [line.plain for line in source_lines(reading, 100)]
    assert lines[0] == "≠ A1 sold as: 3200 MT/s by SPD, which counts; 2933 MT/s by firmware table"


def test_what_is_equal_of_two_modules_stands_once():
    text = "\n".join(line.plain for line in source_lines(parse("A1=8G DDR4-2400; B1=8G DDR4-2400; A2=4G").reading, 100))
    assert text.count("DDR4") == 1
    assert "A1, B1" in text


def test_sources_stay_in_their_column():
    assert all(line.cell_len <= 60 for line in source_lines(take(str(SAMPLES / "0418" / "fitted")).reading, 60))


def test_ceilings_are_bars_on_one_scale():
    lines = ceiling_lines((Ceiling(CeilingKind.PROMISE, 3200), Ceiling(CeilingKind.STANDARD, 1600, True)), 1600, 70)
    bars = [line.plain.count("▆") for line in lines]
    assert bars[0] == pytest.approx(2 * bars[1], abs=1)
    assert bars[1] == bars[2]
    assert "◂ this is the limit" in lines[1].plain
    assert ceiling_lines((), None, 70) == []


def test_what_the_slowest_module_states_is_one_bar():
    same = (Ceiling(CeilingKind.STANDARD, 2400), Ceiling(CeilingKind.SLOWEST, 2400, True), Ceiling(CeilingKind.PLATFORM, 2933))
    names = [line.plain.split("▆")[0].strip() for line in ceiling_lines(same, 2400, 90)]
    assert names[0] == "slowest module"
    assert "modules, standard" not in names
    # Where they differ they are two causes.
    other = (Ceiling(CeilingKind.STANDARD, 2666), Ceiling(CeilingKind.SLOWEST, 2400, True))
    assert len(ceiling_lines(other, None, 90)) == 2


def test_modules_side_by_side_on_one_scale_in_ns():
    reading = take_notation(
        "A1=8G DDR4-2400 17-17-17-39 maker Tarnhollow date 2021-W11; A2=8G DDR4-3200 16-18-18-38 serial C0FFEE; run 2400"
    ).reading
    board = ShownBoard("now", reading, {"A1": "c"})
    lines = [line.plain for line in module_scale_lines(board, 2400, "It does not matter.", 90)]
    slowest = [line for line in lines if "◂" in line]
    # 17 clocks at 2400 are 14.2 ns, 16 at 3200 are 10 ns = 12 clocks at 2400.
    assert slowest[0].split()[:2] == ["c", "A1"]
    assert "14.2 ns = 17 clocks" in slowest[0]
    assert any("10 ns = 12 clocks" in line for line in lines)
    assert lines[0] == "It does not matter."
    identity = "\n".join(line.plain for line in identity_lines(board, 60))
    assert "2021-W11, 15 Mar to 21 Mar 2021" in identity
    assert "C0FFEE" in identity


def test_modules_that_say_nothing():
    reading = take_notation("2x8G").reading
    assert "No module says its timings" in module_scale_lines(ShownBoard("now", reading), None, "", 90)[0].plain


def test_a_line_with_two_ends():
    from rich.text import Text

    assert right_aligned(Text("left"), Text("right"), 20).plain == "left           right"
