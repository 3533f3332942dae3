"""How much memory the work takes: from what the system says, and with a rehearsed load."""

from __future__ import annotations

import json
import threading
from dataclasses import replace
from datetime import UTC, datetime

import pytest

from after_check.benchmark.demand import DemandUnknownError, DemandWatch, _thinned, sample, verdict_words
from after_check.casework.judging import judge_job
from after_check.domain.demand import DemandRecord, DemandSample
from after_check.domain.jobs import JobFacts, Moment
from after_check.files.tree import Tree
from after_check.sources.open_source import take_notation
from after_check.tui.charts.demand import DemandSnapshot, demand_lines
from tests.helpers.commands import run
from tests.helpers.pilot import OWN_MACHINE, open_job, running, shown, until

GIB = 1 << 30
MIB = 1 << 20


def say(folder, used_gib, swapped_out=0, swap_used_gib=0.0, total_gib=32):
    """Write what /proc would say of a machine in which so much is in use."""
    (folder / "proc/pressure").mkdir(parents=True, exist_ok=True)
    kib = lambda gib: int(gib * MIB)  # noqa: E731
    (folder / "proc/meminfo").write_text(
        f"MemTotal:       {kib(total_gib)} kB\nMemFree:  1 kB\nMemAvailable:   {kib(total_gib - used_gib)} kB\nCached:  {kib(2)} kB\n"
        f"SwapTotal: {kib(8)} kB\nSwapFree: {kib(8 - swap_used_gib)} kB\n"
    )
    (folder / "proc/vmstat").write_text(f"pgmajfault 500\npswpin 3\npswpout {swapped_out}\n")
    (folder / "proc/pressure/memory").write_text("some avg10=1.25 avg60=0.00 avg300=0.00 total=1\nfull avg10=0.00\n")
    return Tree(folder)


def test_what_is_in_use(tmp_path):
    tree = say(tmp_path, 12, swapped_out=40, swap_used_gib=1.5)
    found, total = sample(tree, 3.0)
    assert total == 32 * GIB
    assert (found.used_bytes, found.swapped_bytes, found.cached_bytes) == (round(13.5 * GIB), round(1.5 * GIB), 2 * GIB)
    assert (found.swapped_out_pages, found.hard_faults, found.pressure_percent) == (40, 500, 1.25)
    later, _ = sample(say(tmp_path, 12, swapped_out=45), 4.0, found)
    assert (later.swapped_out_pages, later.hard_faults) == (5, 0)


@pytest.mark.parametrize("text", ["", "MemTotal: 5 kB\n", "MemAvailable: 5 kB\n"])
def test_a_system_that_does_not_say(tmp_path, text):
    (tmp_path / "proc").mkdir()
    (tmp_path / "proc/meminfo").write_text(text)
    with pytest.raises(DemandUnknownError):
        DemandWatch(files=Tree(tmp_path)).run()


def record(*used_gib, swapped=0):
    samples = tuple(DemandSample(10.0 * at, round(used * GIB), swapped_out_pages=swapped) for at, used in enumerate(used_gib))
    return DemandRecord(datetime(2026, 11, 2, tzinfo=UTC), 32 * GIB, samples)


def test_peak_and_time_above_the_old_total():
    found = record(10, 17, 21, 12, 18, 9)
    assert found.peak_bytes == 21 * GIB
    assert found.seconds_above(16 * GIB) == 30.0  # Three samples above, ten seconds each.
    said = " ".join(verdict_words(found, 16 * GIB))
    assert "would not have fit in 16 GiB: for 30 s" in said
    assert "21 GiB of 32 GiB" in said


def test_work_that_would_have_fit_proves_nothing():
    said = " ".join(verdict_words(record(10, 12), 16 * GIB))
    assert "would have fit in 16 GiB" in said
    assert "swapped out" not in said
    assert "swapped out" in " ".join(verdict_words(record(30, 31, swapped=9), None))


def test_a_watch_over_work_that_grows(tmp_path):
    tree = say(tmp_path, 5)
    watch = DemandWatch(files=tree, every_seconds=0.01)

    def follow(record):
        if len(record.samples) == 3:
            say(tmp_path, 20)
        if len(record.samples) == 6:
            watch.stop()

    watch.tell = follow
    thread = threading.Thread(target=watch.run)
    thread.start()
    thread.join(20)
    assert watch.record.peak_bytes == 20 * GIB
    assert watch.record.rehearsed_bytes is None


def test_a_rehearsed_load_grows_to_its_size_and_goes_away():
    watch = DemandWatch(rehearse_bytes=160 * MIB)
    found = watch.run()
    assert found.rehearsed_bytes == 160 * MIB
    assert len(found.samples) >= 3
    assert found.remarks == ()


@pytest.mark.parametrize(("used_gib", "swapped_out", "words"), [(31, 0, "must not suffer"), (5, 70, "swapping began")])
def test_a_rehearsed_load_stops_before_the_machine_suffers(tmp_path, used_gib, swapped_out, words):
    tree = say(tmp_path, used_gib)
    watch = DemandWatch(rehearse_bytes=900 * MIB, files=tree, tell=lambda record: say(tmp_path, used_gib, swapped_out))
    found = watch.run()
    assert found.rehearsed_bytes <= 192 * MIB
    assert any(words in remark for remark in found.remarks)


def test_no_peak_is_lost_when_samples_are_thinned():
    many = record(*[5.0] * 50, 30.0, *[5.0] * 50).samples
    thin = _thinned(many)
    assert len(thin) == 51
    assert max(item.used_bytes for item in thin) == 30 * GIB


def test_the_command():
    done = run("demand", "--minutes", "0.03", "--old", "512M", "--json")
    document = json.loads(done.stdout)
    assert done.returncode == 0
    assert document["peak_bytes"] > 0
    assert document["would_have_fit"] == (document["peak_bytes"] <= 512 * MIB)
    assert document["says"][0].startswith("At its peak the work held")
    assert run("demand", "--old", "much").returncode == 65


@pytest.mark.parametrize(
    ("peak_gib", "rehearsed", "code"),
    [(21, None, "demand.proven"), (12, None, None), (31, None, "demand.short"), (21, 5, None)],
)
def test_what_a_job_makes_of_it(shop, peak_gib, rehearsed, code):
    before, now = take_notation("2x8G DDR4-3200; run 3200"), take_notation("A1=16G DDR4-3200; B1=16G DDR4-3200; run 3200")
    shop.jobs.add(JobFacts("7", promise="2x16G"), ((Moment.ARRIVAL, before), (Moment.FITTED, now)))
    watched = record(5, peak_gib, 5)
    job = shop.jobs.keep_demand("7", watched if rehearsed is None else replace(watched, rehearsed_bytes=rehearsed * GIB))
    found = [finding.code for finding in judge_job(job).findings if finding.code.startswith("demand.")]
    assert found == ([code] if code else [])
    assert shop.jobs.job("7").demands[0].peak_bytes == peak_gib * GIB


def test_the_chart_fits_and_marks_both_totals():
    snapshot = DemandSnapshot(record(10, 17, 21, 12, 18, 9), 16 * GIB)
    for cells, rows in ((60, 14), (120, 30)):
        lines = demand_lines(snapshot, cells, rows)
        assert len(lines) <= rows
        assert all(line.cell_len <= cells for line in lines)
        drawn = "\n".join(line.plain for line in lines)
        assert "○ 16 GiB" in drawn
        assert "● 32 GiB" in drawn
    assert "Nothing was watched yet" in demand_lines(DemandSnapshot(), 100, 10)[0].plain


async def test_a_load_is_rehearsed_and_a_watch_is_kept(shop_path):
    async with running(shop_path) as (app, pilot):
        app.identity = lambda: OWN_MACHINE
        await open_job(app, pilot, "0417")
        await pilot.press("d")
        await until(pilot, lambda: "Nothing was watched yet" in shown(app))
        await pilot.press("l")
        await until(pilot, lambda: "HOW LARGE A LOAD?" in shown(app))
        await pilot.press(*"200M", "enter")
        await until(pilot, lambda: "a trial load of 200 MiB" in shown(app) and len(app.shop.jobs.job("0417").demands) == 1)
        await pilot.press("u")
        await until(pilot, lambda: "watching" in shown(app))
        await pilot.press("x")
        await until(pilot, lambda: len(app.shop.jobs.job("0417").demands) == 2)
        assert "At its peak the work held" in shown(app)
