"""The net under every screen: faults put into keys, drawings, background work and timers end a view and not the program."""

from __future__ import annotations

from pathlib import Path

import pytest

from after_check.local.log import logger
from after_check.local.paths import log_path
from after_check.tui.safety_net import TOO_MANY
from after_check.tui.screens.bench import BenchScreen
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.widgets.job_sheet_panes import BoardPane
from tests.helpers.pilot import notices, open_job, running, shown, until


class FaultError(Exception):
    """Put in by a test."""


def breaks(*_given, **_named):
    raise FaultError("put in by a test")


def breaks_once(original):
    """Return what raises the first time and does its work after that."""
    left = [1]

    def once(*given, **named):
        if left:
            left.pop()
            raise FaultError("put in by a test")
        return original(*given, **named)

    return once


@pytest.mark.parametrize(("name", "key"), [("action_other_board", "o"), ("check_action", "o"), ("action_go", "t"), ("show_job", "o")])
async def test_a_fault_in_a_view_brings_the_bench_back(shop_path, monkeypatch, name, key):
    async with running(shop_path) as (app, pilot):
        app.catches = True
        await open_job(app, pilot, "0417")
        with monkeypatch.context() as patch:
            patch.setattr(JobSheetScreen, name, breaks)
            if name == "show_job":
                app.screen.call_later(app.screen.show_job, app.shop.jobs.job("0417"))
            await pilot.press(key)
            await until(pilot, lambda: isinstance(app.screen, BenchScreen))
        await until(pilot, lambda: any("Something went wrong" in words for words in notices(app)))
        assert "FaultError" in Path(logger().handlers[0].baseFilename).read_text()
        # The program is whole: the job opens, and its keys work.
        await until(pilot, lambda: "Sonogram" in shown(app))
        await open_job(app, pilot, "0417")
        await until(pilot, lambda: "profile 1 first" in shown(app))
        assert not app.failure


async def test_a_fault_in_background_work_is_caught_too(shop_path, monkeypatch):
    async with running(shop_path) as (app, pilot):
        await until(pilot, lambda: "Sonogram" in shown(app))
        app.catches = True
        with monkeypatch.context() as patch:
            patch.setattr(type(app), "bench_entries", breaks_once(type(app).bench_entries))
            app.screen.load()
            await until(pilot, lambda: any("Something went wrong" in words for words in notices(app)))
        await until(pilot, lambda: isinstance(app.screen, BenchScreen) and "Sonogram" in shown(app))
        await pilot.press("slash", *"choir")
        await until(pilot, lambda: "Sonogram" not in shown(app))


async def test_a_part_that_cannot_be_drawn_says_so_and_the_rest_is_there(shop_path, monkeypatch):
    async with running(shop_path) as (app, pilot):
        app.catches = True
        monkeypatch.setattr(BoardPane, "lines", breaks)
        await open_job(app, pilot, "0417")
        await until(pilot, lambda: "This part cannot be drawn" in shown(app))
        assert "Sonogram desk" in shown(app)
        assert "PROMISE" in shown(app)
        assert isinstance(app.screen, JobSheetScreen)


async def test_faults_that_come_again_and_again_end_it_in_words(shop_path, monkeypatch):
    async with running(shop_path) as (app, pilot):
        await until(pilot, lambda: "Sonogram" in shown(app))
        app.catches = True
        monkeypatch.setattr(BenchScreen, "load", breaks)
        monkeypatch.setattr(BenchScreen, "on_mount", breaks)
        app.screen.call_later(app.screen.load)
        await until(pilot, lambda: bool(app.failure))
        assert app.failure == TOO_MANY.format(log_path())
