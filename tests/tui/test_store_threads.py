"""The screen never waits for the store: no statement is sent from the thread that draws."""

from __future__ import annotations

import threading

from sqlalchemy import Engine, event

from after_check.tui.screens.bench import BenchScreen
from tests.helpers.pilot import answer, go, open_job, running, until

VIEWS = ("f", "r", "e", "s", "g", "d", "t", "m", "c", "v", "k", "h")


def test_no_view_speaks_to_the_store_from_the_screens_thread(shop_path):
    here, seen = threading.get_ident(), {True: 0, False: 0}

    def note(connection, cursor, statement, *_):
        seen[threading.get_ident() == here] += 1
        assert threading.get_ident() != here, statement

    async def test():
        async with running(shop_path) as (app, pilot):
            event.listen(Engine, "before_cursor_execute", note)
            await open_job(app, pilot, "0427")
            sheet = app.screen
            for key in VIEWS:
                await pilot.press(key)
                await until(pilot, lambda: app.screen is not sheet)
                await pilot.press("escape")
                await until(pilot, lambda: app.screen is sheet)
            await pilot.press("h", "o")
            await answer(app, pilot, "in a box")
            await until(pilot, lambda: app.screen.job.hand_back.old_modules == "in a box")
            await pilot.press("escape", "escape")
            await until(pilot, lambda: isinstance(app.screen, BenchScreen))
            await pilot.press("n", *"Desk", "enter", "enter", *"2x8G", "enter")
            await until(pilot, lambda: not isinstance(app.screen, BenchScreen))

    try:
        go(test)
    finally:
        event.remove(Engine, "before_cursor_execute", note)
    assert seen[True] == 0
    assert seen[False] > 20
