"""Whole jobs typed without a pause: every key is done in the order in which it was struck, and lands where the eye is."""

from __future__ import annotations

import asyncio
import time
import unicodedata

import pytest
from textual import events
from textual.widgets import Input

from after_check.tui.screens.before_fitting import BeforeFittingScreen
from after_check.tui.screens.card import CardScreen
from after_check.tui.screens.editor import JobEditorScreen
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.screens.reading import ReadingScreen
from tests.helpers.pilot import open_job, running, until

NAMED = {"tab": "\t", "enter": "\r", "escape": "\x1b", "ctrl+u": "\x15", "f3": None, "shift+tab": None, "ctrl+s": "\x13", "down": None}


def strike(app, *keys):
    """Post keys as a terminal does, all of them before any is looked at; a longer text is struck letter by letter."""
    for part in keys:
        for key in [part] if part in NAMED or len(part) == 1 else part:
            character = NAMED.get(key, key if len(key) == 1 else None)
            name = key
            if len(key) == 1 and not key.isalnum():
                name = {" ": "space"}.get(key, unicodedata.name(key).lower().replace(" ", "_").replace("-", "_"))
            event = events.Key(name, character)
            event.set_sender(app)
            app._driver.send_message(event)


async def value(app, pilot, name):
    await pilot.pause()
    return app.screen.query_one(f"#{name}", Input).value


async def test_three_lines_of_a_new_job_land_in_three_lines(shop_path):
    async with running(shop_path, demo=False) as (app, pilot):
        strike(app, "n", "Tide desk, Larkfield T1, Tide office", "tab", "2x4G DDR4-2400", "tab", "2x16G DDR4-3200; dual")
        await until(
            pilot, lambda: isinstance(app.screen, JobEditorScreen) and app.screen.query_one("#promise", Input).value.endswith("dual")
        )
        assert await value(app, pilot, "names") == "Tide desk, Larkfield T1, Tide office"
        assert await value(app, pilot, "arrival") == "2x4G DDR4-2400"
        assert await value(app, pilot, "promise") == "2x16G DDR4-3200; dual"


async def test_a_whole_job_typed_without_a_pause_is_kept_as_it_was_typed(shop_path):
    async with running(shop_path, demo=False) as (app, pilot):
        strike(app, "n", "Tide desk, Larkfield T1", "tab", "2x4G DDR4-2400", "tab", "2x16G DDR4-3200; dual", "enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and app.screen.snapshot is not None)
        (number,) = app.shop.jobs.numbers()
        facts = app.shop.jobs.job(number).facts
        assert (facts.title, facts.machine, facts.promise) == ("Tide desk", "Larkfield T1", "2x16G DDR4-3200; dual")


async def test_a_line_that_is_emptied_takes_what_is_typed_behind_that(shop_path):
    async with running(shop_path, demo=False) as (app, pilot):
        strike(app, "n", "wrong name", "ctrl+u", "Tide desk", "tab", "1x4G", "ctrl+u", "2x4G")
        await until(pilot, lambda: isinstance(app.screen, JobEditorScreen) and app.screen.query_one("#arrival", Input).value == "2x4G")
        assert await value(app, pilot, "names") == "Tide desk"


async def test_what_is_typed_ahead_of_a_view_lands_in_its_line(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0423")
        strike(app, "r", "2x8G DDR4-2666; run 2666")
        await until(
            pilot, lambda: isinstance(app.screen, ReadingScreen) and app.screen.query_one("#reading-line", Input).value.endswith("2666")
        )
        assert await value(app, pilot, "reading-line") == "2x8G DDR4-2666; run 2666"


@pytest.mark.parametrize("times", [1, 5])
async def test_there_and_back_again_ends_where_the_last_key_leads(shop_path, times):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0423")
        for _ in range(times):
            strike(app, "r", "escape", "r", "escape")
        strike(app, "r", "2x8G")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen) and app.screen.query_one("#reading-line", Input).value == "2x8G")


@pytest.mark.parametrize("key", ["enter", "f"])
async def test_a_key_behind_a_view_that_changed_the_job_sees_what_it_changed(shop_path, key, monkeypatch):
    async with running(shop_path, demo=False) as (app, pilot):
        strike(app, "n", "Tide archive, Cairnbox 3", "tab", "2x4G DDR4-2666", "tab", "2x16G DDR4-2666", "enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and app.screen.snapshot is not None)
        sheet = app.screen
        fetch = app.shop.jobs.job
        monkeypatch.setattr(app.shop.jobs, "job", lambda number: (time.sleep(0.5), fetch(number))[1])
        strike(app, "k")
        await until(pilot, lambda: isinstance(app.screen, CardScreen))
        strike(app, "down", "down", "2", "ctrl+s")
        while app.screen is not sheet:  # Not a moment later: the sheet is back, and the job is not fetched yet.
            await asyncio.sleep(0)
        strike(app, key)
        await until(pilot, lambda: isinstance(app.screen, BeforeFittingScreen))
        assert app.screen.job.card.total_bytes == 16 << 30
