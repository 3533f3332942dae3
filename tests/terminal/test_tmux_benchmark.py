"""A short benchmark, three typed scores and the verdict, in a real terminal."""

from __future__ import annotations

import shutil
from datetime import UTC, datetime

from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState, Series
from after_check.domain.jobs import JobFacts, Moment
from after_check.shop.shop import Shop
from after_check.sources.linux import read_this_machine
from tests.helpers.needs import needs
from tests.helpers.terminal import Terminal

pytestmark = needs(shutil.which("tmux") is not None, "tmux")


def scores(*runs):
    return tuple(
        Series(tuple(value + run for run in (0.0, 0.2, 0.1, 0.3)), "s", name="Export", lower_is_better=True, typed=True) for value in runs
    )


def test_benchmark_scores_and_verdict(tmp_path):
    path = tmp_path / "shop.db"
    shop = Shop.open(path)
    shop.jobs.add(JobFacts("1", "sonogram desk"), ((Moment.FITTED, read_this_machine()),))
    shop.jobs.keep_benchmark(
        "1", Moment.ARRIVAL, BenchmarkRecord(datetime(2026, 11, 2, tzinfo=UTC), BenchmarkState.FINISHED, series=scores(82.0))
    )
    shop.close()
    terminal = Terminal(tmp_path, "--shop", str(path))
    try:
        terminal.wait("sonogram desk")
        terminal.keys("Enter")
        terminal.wait("PROMISE")
        terminal.keys("g")
        terminal.wait("BANDWIDTH IN GB/s")
        terminal.keys("i")
        terminal.wait("MEASURING")
        terminal.wait("round 2 of 7", seconds=90)
        terminal.keys("x")
        terminal.wait("stopped early", seconds=60)
        terminal.keys("t")
        terminal.wait("SCORES NOW")
        for text in ("Export 61 60.4 61.2 60.8 s", "Frames 58 fps graphics", "Sorting 1200 points"):
            terminal.type(text)
            terminal.keys("Enter")
        terminal.wait("Sorting: 1,200 points")
        terminal.keys("C-s")
        terminal.wait("✓ BETTER", seconds=20)
        terminal.keys("Escape")
        terminal.wait("PROMISE")
    finally:
        terminal.close()
    kept = [item.record for item in Shop.open(path).jobs.job("1").benchmarks]
    assert [item.name for item in kept[-1].series] == ["Export", "Frames", "Sorting"]
    assert kept[1].state is BenchmarkState.STOPPED
    assert {len(item.samples) for item in kept[1].series} <= {1, 2}
