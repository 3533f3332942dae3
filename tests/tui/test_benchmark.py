"""The benchmark in the application and on the command line."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import UTC, datetime

import pytest
from textual.widgets import TextArea

from after_check.benchmark import measuring as engine
from after_check.benchmark.plan import BenchmarkPlan, staircase
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState, Kind, Measurement, Series
from after_check.domain.jobs import Moment
from after_check.shop.shop import Shop
from after_check.tui.charts.benchmark import BenchmarkSnapshot, bandwidth_lines, comparison_lines, head_lines, stair_lines
from after_check.tui.screens.benchmark import BenchmarkScreen
from tests.helpers.commands import run, run_here
from tests.helpers.pilot import OWN_MACHINE, open_job, running, shown, until

TINY = BenchmarkPlan("tiny", 1, 8 << 20, 4, staircase(64 << 10, 1), 10_000, under_load=False)


def series(value, kind, threads=1, working_set_bytes=None):
    samples = tuple(value * (1 + step / 1000) for step in range(7))
    return Series(samples, kind.unit, Measurement(kind, threads, working_set_bytes), lower_is_better=not kind.is_bandwidth)


BEFORE = BenchmarkRecord(
    datetime(2026, 11, 2, tzinfo=UTC),
    BenchmarkState.FINISHED,
    series=(
        *(series(20.0, kind, 4) for kind in (Kind.READ, Kind.WRITE, Kind.COPY)),
        *(series(value, Kind.LATENCY, 1, size) for size, value in ((16 << 10, 1.6), (1 << 20, 12.0), (64 << 20, 95.0))),
    ),
)
NOW = replace(
    BEFORE,
    series=tuple(
        replace(measured, samples=tuple(value * 1.5 for value in measured.samples)) if measured.unit == "GB/s" else measured
        for measured in BEFORE.series
    ),
)


def text(lines):
    return "\n".join(line.plain for line in lines)


def test_drawings_fit_and_say_what_is_known():
    snapshot = BenchmarkSnapshot(BEFORE, NOW, None, 25.6, 2)
    for cells, rows in ((60, 10), (128, 13), (200, 30)):
        assert len(bandwidth_lines(snapshot, cells, rows)) <= rows
        assert all(line.cell_len <= cells for line in comparison_lines(snapshot, cells, rows))
        assert all(line.cell_len <= cells for line in stair_lines(snapshot, cells, rows))
    assert "✓ BETTER" in text(head_lines(snapshot, 100))
    assert "The whole machine 50% faster; the wait for a word the same." in text(head_lines(snapshot, 100))
    drawn = text(bandwidth_lines(snapshot, 120, 13))
    assert "┊ 1 ch 25.6" in drawn
    assert drawn.count("○") == drawn.count("●") == 3
    assert "read, one program" in text(bandwidth_lines(BenchmarkSnapshot(), 100, 12))  # In outline, what will stand there.
    assert "nothing can be compared" in text(head_lines(BenchmarkSnapshot(None, NOW), 100))


def test_what_changed_stands_first_and_all_threads_go_before_one():
    alone = tuple(series(10.0, kind) for kind in (Kind.READ, Kind.WRITE, Kind.COPY))
    snapshot = BenchmarkSnapshot(replace(BEFORE, series=alone + BEFORE.series), replace(NOW, series=alone + NOW.series))
    drawn = bandwidth_lines(snapshot, 100, 5)
    assert [line.plain.split("━")[0].split(", ")[1].strip() for line in drawn[1:]] == ["all 4 threads"] * 3 + ["one program"]
    compared = [line.plain.split()[0:3] for line in comparison_lines(snapshot, 80, 12)[1:]]
    assert [words[2] for words in compared[:3]] == ["4", "4", "4"]
    assert ["latency", "·", "64"] in compared[3:]
    waits = Series((200.0, 201.0), "ns", Measurement(Kind.LATENCY, 1, 64 << 20, under_load=True), lower_is_better=True)
    loaded = replace(BEFORE, series=(waits,))
    assert "latency · 64 MiB loaded" in text(comparison_lines(BenchmarkSnapshot(loaded, loaded), 80, 5))


async def test_a_short_benchmark_three_scores_and_the_verdict(shop_path, monkeypatch):
    monkeypatch.setattr(engine, "usual_plan", lambda *_: TINY)

    async with running(shop_path) as (app, pilot):
        app.shop.jobs.keep_benchmark("0417", Moment.ARRIVAL, BEFORE)
        app.shop.jobs.keep_benchmark("0417", Moment.FITTED, NOW)
        await open_job(app, pilot, "0417")
        await pilot.press("g")
        await until(pilot, lambda: isinstance(app.screen, BenchmarkScreen) and "✓ BETTER" in shown(app))
        app.identity = lambda: OWN_MACHINE
        await pilot.press("i")
        await until(pilot, lambda: not app.screen.is_under_way and len(app.shop.jobs.job("0417").benchmarks) == 3)
        assert app.shop.jobs.job("0417").benchmarks[-1].record.state is BenchmarkState.FINISHED
        await until(pilot, lambda: "read, one program" in shown(app))
        await pilot.press("t")
        await until(pilot, lambda: "SCORES NOW" in shown(app))
        area = app.screen.query_one(TextArea)
        area.text = "Export 61 s\nnonsense"
        await until(pilot, lambda: "line 2, 'nonsense'" in shown(app))
        area.text = "Export 61 60 62 61 s\nFrames 58 fps graphics\nSorting 1200 points"
        await until(pilot, lambda: "Sorting: 1,200 points, higher is better" in shown(app))
        await pilot.press("ctrl+s")
        await until(pilot, lambda: len(app.shop.jobs.job("0417").benchmarks) == 4)
    kept = Shop.open(shop_path).jobs.job("0417").benchmarks[-1]
    assert (kept.moment, [measured.name for measured in kept.record.series]) == (Moment.FITTED, ["Export", "Frames", "Sorting"])


@pytest.mark.parametrize("size", [(80, 24), (200, 60)])
async def test_other_sizes(shop_path, size):
    async with running(shop_path, size=size) as (app, pilot):
        app.shop.jobs.keep_benchmark("0417", Moment.FITTED, NOW)
        await open_job(app, pilot, "0417")
        await pilot.press("g")
        await until(pilot, lambda: "read, all 4 threads" in shown(app) and "BANDWIDTH" in shown(app))


def test_the_command_measures_keeps_and_compares(tmp_path, monkeypatch):
    monkeypatch.setattr(engine, "usual_plan", lambda *_: TINY)
    kept = tmp_path / "before.json"
    kept.write_text("{}")
    refused = run("benchmark", "--before", str(kept))
    assert refused.returncode == 65
    assert "is no benchmark" in refused.stderr
    done = run_here("benchmark", "--short", "--out", str(kept), "--json")
    assert done.returncode == 0, done.stderr
    document = json.loads(done.stdout)
    assert document["state"] == "finished"
    assert all(len(item["samples"]) >= TINY.repeats and item["median"] > 0 for item in document["series"])
    assert json.loads(kept.read_text())["series"] == document["series"]
