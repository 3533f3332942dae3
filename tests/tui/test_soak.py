"""Soaks in the application: chosen, watched, left alone, stopped, taken up again."""

from __future__ import annotations

import os
import shutil
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from textual.widgets import Input

from after_check.domain.identity import CameBy
from after_check.domain.soak import SoakState
from after_check.shop.shop import Shop
from after_check.soak.soak_run import Wishes
from after_check.standins.appliance_service import ApplianceService
from after_check.tui.charts.soak import SoakSnapshot, clock_words, error_lines, field_lines, head_lines
from after_check.tui.screens.bench import BenchScreen
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.screens.soak import SoakScreen
from after_check.tui.widgets.plan_choice import PlanChoice
from tests.helpers.needs import needs
from tests.helpers.pilot import OWN_MACHINE, go, open_job, running, shown, until
from tests.helpers.sshd import SSHD, Server
from tests.soak.test_record import CLEAN, FAILED

SMALL = Wishes(memory_bytes=32 << 20, threads=1)


async def open_soak(app, pilot, number="0417"):
    app.soak_wishes = SMALL
    app.identity = lambda: OWN_MACHINE
    await open_job(app, pilot, number)
    await pilot.press("s")
    await until(pilot, lambda: isinstance(app.screen, SoakScreen))


async def start_program(app, pilot, text):
    await pilot.press("p")
    await until(pilot, lambda: "WHICH PROGRAM?" in shown(app))
    app.screen.query_one(Input).value = text
    await pilot.press("enter")


async def test_a_program_of_ones_own_runs_and_its_result_reaches_the_job(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_soak(app, pilot)
        assert "WHICH MEMORY TEST?" in shown(app)
        await until(pilot, lambda: "can be tested on this computer now" in shown(app))
        await start_program(app, pilot, "{any(w0); ^(r0,w1); v(r1)}")
        await until(pilot, lambda: "CLEAN ·" in shown(app) or "✓ CLEAN" in shown(app))
        assert "MEMORY UNDER TEST" in shown(app)
        assert "32 MiB under test" in shown(app)
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and has_result(app))
    soak = Shop.open(shop_path).jobs.job("0417").soak.record
    assert (soak.state, soak.errors, soak.steps_done) == (SoakState.FINISHED, 0, 2)


async def test_it_goes_on_while_the_bench_is_shown_and_quitting_asks(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_soak(app, pilot)
        await start_program(app, pilot, "{any(w0); Del 60s; any(r0)}")
        await until(pilot, lambda: "RUNS, CLEAN SO FAR" in shown(app))
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, BenchScreen) and "custom memory test running at" in shown(app))
        assert "a memory test runs" in shown(app)
        await pilot.press("q")
        await until(pilot, lambda: "A SOAK RUNS" in shown(app))
        await pilot.press("n")
        await until(pilot, lambda: isinstance(app.screen, BenchScreen))
        assert app.soak_runner.is_running
        await pilot.press("ctrl+q")
        await until(pilot, lambda: "A SOAK RUNS" in shown(app))
        await pilot.press("y")
        await until(pilot, lambda: not app.soak_runner.is_running)
    assert Shop.open(shop_path).jobs.job("0417").soak.record.state is SoakState.STOPPED


async def test_errors_show_while_it_runs_and_pause_and_stop_work(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_soak(app, pilot)
        await start_program(app, pilot, "{any(w0); Del 2s; any(r0); Del 60s; any(r0)}")
        await until(pilot, lambda: app.soak_runner is not None and app.soak_runner.soak.workers)
        soak = app.soak_runner.soak
        await until(pilot, lambda: len(soak.workers[0].tally.begun) == len(soak.workers[0].slices))
        await pilot.pause(0.5)
        soak.held.slices[2].words[7] ^= np.uint64(1 << 21)
        await until(pilot, lambda: "✗ ERRORS" in shown(app))
        await until(pilot, lambda: shown(app).count("╳") > 1)
        await pilot.press("space")
        await until(pilot, lambda: soak.record.state is SoakState.PAUSED)
        await pilot.press("space")
        await until(pilot, lambda: soak.record.state is SoakState.RUNNING)
        await pilot.press("x")
        await until(pilot, lambda: soak.record.state is SoakState.STOPPED)
        await pilot.press("escape")
        await until(pilot, lambda: "The memory test found" in shown(app))


async def test_the_technician_says_how_many_minutes_there_are(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_soak(app, pilot)
        await pilot.press("m")
        await until(pilot, lambda: "HOW MANY MINUTES HAVE YOU?" in shown(app))
        await pilot.press(*"soon", "enter")
        await until(pilot, lambda: "no time for a test" in shown(app))
        await pilot.press(*["backspace"] * 4, *"0.05", "enter")
        await until(pilot, lambda: "0.05-minute memory test" in shown(app) and "LOOKED FOR SO FAR" in shown(app))
        await until(pilot, lambda: "stuck bits" in shown(app) and "100%" in shown(app))
        await until(pilot, lambda: "CLEAN ·" in shown(app) or "✓ CLEAN" in shown(app))


async def test_a_program_that_is_none_is_told_of(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_soak(app, pilot)
        await start_program(app, pilot, "{any(w0); ^(r1)}")
        await until(pilot, lambda: "r1 expects 1" in shown(app))
        assert app.soak_runner is None


async def test_an_interrupted_soak_is_taken_up_again(shop_path):
    async with running(shop_path) as (app, pilot):
        app.soak_wishes = SMALL
        steps = ("MATS+ · own address", "March C- · solid", "March C- · checkerboard", "March X · random a11", "block moves")
        left = replace(CLEAN, state=SoakState.INTERRUPTED, steps=steps, steps_done=3, passes_done=0, seconds=50.0)
        app.shop.jobs.keep_soak("0417", left)
        await open_soak(app, pilot)
        await until(pilot, lambda: "INTERRUPTED" in shown(app))
        await pilot.press("t")
        await until(pilot, lambda: app.soak_runner is not None and not app.soak_runner.is_running)
        await until(pilot, lambda: "CLEAN ·" in shown(app) or "✓ CLEAN" in shown(app))
    job = Shop.open(shop_path).jobs.job("0417")
    assert len(job.soaks) == 1
    assert (job.soak.record.steps_done, job.soak.record.seconds > 50) == (5, True)


async def test_an_appliances_own_word(shop_path):
    service = ApplianceService(away_seconds=0.5, test_seconds=1.0)
    address = f"http://127.0.0.1:{service.start()}"
    async with running(shop_path) as (app, pilot):
        await open_soak(app, pilot, "0422")
        await pilot.press("a")
        await until(pilot, lambda: "TEST WHICH MACHINE?" in shown(app))
        app.screen.query_one(Input).value = address
        await pilot.press("enter")
        await until(pilot, lambda: "Cairnbox 2 (CB2-0422)" in shown(app))
        await until(pilot, lambda: "CLEAN ·" in shown(app) or "✓ CLEAN" in shown(app))
        assert "in its own words" in shown(app)
    service.stop()


@needs(os.path.exists(SSHD) and os.geteuid() == 0, "sshd, and root to log in as somebody")
def test_a_machine_over_ssh_is_asked_about_and_tested(shop_path, tmp_path, monkeypatch):
    server = Server(tmp_path)
    server.start(f"SetEnv=PATH={Path(sys.executable).parent}:/usr/bin:/bin")
    keys = tmp_path / "home" / ".ssh"
    keys.mkdir(parents=True)
    shutil.copy(server.key, keys / "id_ed25519")

    async def test():
        async with running(shop_path) as (app, pilot):
            await open_soak(app, pilot, "0422")
            await pilot.press("a")
            await until(pilot, lambda: "TEST WHICH MACHINE?" in shown(app))
            app.screen.query_one(Input).value = f"{server.address()} fortnight"
            await pilot.press("enter")
            await until(pilot, lambda: "'fortnight' is no test: short, full, overnight" in shown(app))
            app.screen.query_one(Input).value = f"{server.address()} 0.1 min"
            await pilot.press("enter")
            await until(pilot, lambda: "IS THIS THE MACHINE YOU MEAN?" in shown(app))
            assert server.fingerprint() in shown(app)
            await pilot.press("y")
            await until(pilot, lambda: app.soak_runner is not None and app.soak_runner.soak.record.state is SoakState.FINISHED)
            await until(pilot, lambda: any(kept.record.state is SoakState.FINISHED for kept in app.shop.jobs.job("0422").soaks))
            (kept,) = app.shop.jobs.job("0422").soaks
            assert (kept.record.machine.way, kept.record.errors) == (CameBy.REMOTE, 0)
            assert kept.record.plan == "0.1-minute"
            # Of another machine than the job's: it is kept, and counts for nothing.
            await until(pilot, lambda: "another computer" in shown(app) or "nobody said" in shown(app))

    try:
        go(test)
    finally:
        server.stop()


@pytest.mark.parametrize("size", [(80, 24), (200, 60)])
async def test_the_failing_demo_soak_at_other_sizes(shop_path, size):
    async with running(shop_path, size=size) as (app, pilot):
        await open_soak(app, pilot, "0425")
        await until(pilot, lambda: "✗ ERRORS" in shown(app))
        assert "point at B2" in shown(app)
        assert shown(app).count("╳") > 1, "the legend has one; the field must show where it failed"


def text(lines):
    return "\n".join(line.plain for line in lines)


def test_drawings_fit_their_space_and_say_what_is_known():
    for record in (CLEAN, FAILED, replace(CLEAN, blocks=(0, 1, 2, 3, 4) * 30), replace(CLEAN, state=SoakState.FAILED, steps_done=0)):
        for cells, rows in ((40, 6), (76, 9), (140, 20)):
            lines = field_lines(record, cells, rows)
            assert len(lines) <= rows
            assert len(error_lines(record, cells, rows)) <= rows
    assert "NOTHING FINISHED" in text(head_lines(SoakSnapshot(replace(CLEAN, state=SoakState.STOPPED, steps_done=0)), 100))
    assert "✓ CLEAN" in text(head_lines(SoakSnapshot(CLEAN), 100))
    for share, enough, said in (
        (1, 90, "? CLEAN · 1 % TESTED"),
        (89, 90, "? CLEAN · 89 % TESTED"),
        (95, 90, "✓ CLEAN"),
        (95, 99, "? CLEAN · 95 %"),
    ):
        part = replace(CLEAN, covered=replace(CLEAN.covered, installed_bytes=100 << 30), fully_swept_bytes=share << 30)
        assert said in text(head_lines(SoakSnapshot(part, enough_percent=enough), 100))
    assert "They point at B2." in text(error_lines(FAILED, 80, 20))
    assert [clock_words(seconds) for seconds in (0, 62, 3661)] == ["0:00", "1:02", "1:01 h"]


def test_a_field_of_more_blocks_than_cells_shows_the_worst_of_each_group():
    blocks = [2] * 16_384
    blocks[5000], blocks[9000] = 3, 1
    lines = field_lines(replace(CLEAN, blocks=tuple(blocks)), 80, 10)
    assert len(lines) <= 10
    drawn = text(lines[2:])
    assert (drawn.count("╳"), drawn.count("╍")) == (1, 1)
    assert drawn.count("━") > 400


def test_the_choice_says_how_long_each_plan_takes():
    """MATS+ takes 5 sweeps, March C- 10 on each of two backgrounds, March X 6, moves 6, and a look at what each step left 5.

    That is 42 sweeps, of 20 GB at 10 GB/s 84 s.
    """
    choice = PlanChoice()
    drawn = "\n".join(line.plain for line in choice.lines(120, 40))
    assert "about" not in drawn
    choice.usable_bytes, choice.rate_bytes_per_s = 20_000_000_000, 10e9
    drawn = "\n".join(line.plain for line in choice.lines(120, 40))
    assert "every byte 42 times, about 1 min" in drawn
    choice.usable_bytes *= 100
    drawn = "\n".join(line.plain for line in choice.lines(120, 40))
    assert "every byte 42 times, about 2 h" in drawn


def has_result(app):
    """Whether the job sheet has a result of a memory test."""
    return "FINDINGS" in shown(app) and "No memory test is on record" not in shown(app)
