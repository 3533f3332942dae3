"""The gauge in the application and on the command line."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import UTC, datetime

import pytest
from textual.widgets import TextArea

from after_check.domain.gauge import GaugeRecord, GaugeState, Series
from after_check.domain.jobs import Moment
from after_check.gauge import engine
from after_check.gauge.plan import GaugePlan, staircase
from after_check.shop.store import Shop
from after_check.tui.drawing.gauge import GaugeSnapshot, comparison_lines, flow_lines, head_lines, stair_lines
from after_check.tui.gauge.screen import GaugeScreen
from after_check.tui.palette import NIGHT
from tests.cli.test_commands import run, run_here
from tests.tui.test_app import go, open_job, running, shown, until

TINY = GaugePlan("tiny", 1, 8 << 20, 4, staircase(64 << 10, 1), 10_000, under_load=False)


def series(name, value, unit="GB/s"):
    return Series(name, unit, tuple(value * (1 + step / 1000) for step in range(7)), lower_is_better=unit == "ns")


BEFORE = GaugeRecord(
    datetime(2026, 11, 2, tzinfo=UTC),
    GaugeState.FINISHED,
    series=(
        *(series(f"{flow} · 4 threads", 20.0) for flow in ("read", "write", "copy")),
        *(series(f"latency · {size}", value, "ns") for size, value in (("16 KiB", 1.6), ("1 MiB", 12.0), ("64 MiB", 95.0))),
    ),
)
NOW = replace(
    BEFORE,
    series=tuple(replace(one, samples=tuple(value * 1.5 for value in one.samples)) if one.unit == "GB/s" else one for one in BEFORE.series),
)


def text(lines):
    return "\n".join(line.plain for line in lines)


def test_drawings_fit_and_say_what_is_known():
    snapshot = GaugeSnapshot(BEFORE, NOW, None, 25.6, 2)
    for cells, rows in ((60, 10), (128, 13), (200, 30)):
        assert len(flow_lines(snapshot, cells, rows, NIGHT)) <= rows
        assert all(line.cell_len <= cells for line in comparison_lines(snapshot, cells, rows, NIGHT))
        assert all(line.cell_len <= cells for line in stair_lines(snapshot, cells, rows, NIGHT))
    assert "✓ BETTER" in text(head_lines(snapshot, 100, NIGHT))
    assert "3 better, 0 worse, 3 without" in text(head_lines(snapshot, 100, NIGHT))
    drawn = text(flow_lines(snapshot, 120, 13, NIGHT))
    assert "◇ 1 ch 25.6" in drawn
    assert drawn.count("○") == drawn.count("●") == 3
    assert "not measured yet" in text(flow_lines(GaugeSnapshot(), 100, 10, NIGHT))
    assert "nothing can be compared" in text(head_lines(GaugeSnapshot(None, NOW), 100, NIGHT))


def test_what_changed_stands_first_and_all_threads_go_before_one():
    alone = tuple(series(f"{flow} · 1 thread", 10.0) for flow in ("read", "write", "copy"))
    snapshot = GaugeSnapshot(replace(BEFORE, series=alone + BEFORE.series), replace(NOW, series=alone + NOW.series))
    drawn = flow_lines(snapshot, 100, 5, NIGHT)
    assert [line.plain.split("━")[0].split("·")[1].strip() for line in drawn[1:]] == ["4 threads"] * 3 + ["1 thread"]
    compared = [line.plain.split()[0:3] for line in comparison_lines(snapshot, 80, 12, NIGHT)[1:]]
    assert [words[2] for words in compared[:3]] == ["4", "4", "4"]
    assert ["latency", "·", "64"] in compared[3:]
    loaded = replace(BEFORE, series=(series("latency · 64 MiB · under load", 200.0, "ns"),))
    assert "latency · 64 MiB loaded" in text(comparison_lines(GaugeSnapshot(loaded, loaded), 80, 5, NIGHT))


def test_a_short_gauge_three_scores_and_the_verdict(shop_path, monkeypatch):
    monkeypatch.setattr(engine, "usual_plan", lambda *_: TINY)

    async def test():
        async with running(shop_path) as (app, pilot):
            app.shop.keep_gauge("0417", Moment.ARRIVAL, BEFORE)
            app.shop.keep_gauge("0417", Moment.FITTED, NOW)
            await open_job(app, pilot, "0417")
            await pilot.press("g")
            await until(pilot, lambda: isinstance(app.screen, GaugeScreen) and "✓ BETTER" in shown(app))
            await pilot.press("i")
            await until(pilot, lambda: len(app.shop.job("0417").gauges) == 3)
            await until(pilot, lambda: "read · 1 thread" in shown(app))
            await pilot.press("t")
            await until(pilot, lambda: "SCORES NOW" in shown(app))
            area = app.screen.query_one(TextArea)
            area.text = "Export 61 s\nnonsense"
            await until(pilot, lambda: "line 2, 'nonsense'" in shown(app))
            area.text = "Export 61 60 62 61 s\nFrames 58 fps graphics\nSorting 1200 points"
            await until(pilot, lambda: "Sorting: 1200 points, higher is better" in shown(app))
            await pilot.press("ctrl+s")
            await until(pilot, lambda: len(app.shop.job("0417").gauges) == 4)
        kept = Shop.open(shop_path).job("0417").gauges[-1]
        assert (kept.moment, [one.name for one in kept.record.series]) == (Moment.FITTED, ["Export", "Frames", "Sorting"])

    go(test)


@pytest.mark.parametrize("size", [(80, 24), (200, 60)])
def test_other_sizes(shop_path, size):
    async def test():
        async with running(shop_path, size=size) as (app, pilot):
            app.shop.keep_gauge("0417", Moment.FITTED, NOW)
            await open_job(app, pilot, "0417")
            await pilot.press("g")
            await until(pilot, lambda: "read · 4 threads" in shown(app) and "FLOW" in shown(app))

    go(test)


def test_the_command_measures_keeps_and_compares(tmp_path, monkeypatch):
    monkeypatch.setattr(engine, "usual_plan", lambda *_: TINY)
    kept = tmp_path / "before.json"
    kept.write_text("{}")
    refused = run("gauge", "--before", str(kept))
    assert refused.returncode == 65
    assert "is no gauge" in refused.stderr
    done = run_here("gauge", "--short", "--out", str(kept), "--json")
    assert done.returncode == 0, done.stderr
    document = json.loads(done.stdout)
    assert document["state"] == "finished"
    assert all(len(one["samples"]) >= TINY.repeats and one["median"] > 0 for one in document["series"])
    assert json.loads(kept.read_text())["series"] == document["series"]
