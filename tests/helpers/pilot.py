"""Driving the real application through Textual's pilot."""

from __future__ import annotations

import asyncio
import time
from contextlib import asynccontextmanager

from textual._context import visible_screen_stack
from textual.widgets import Input, Static

from after_check.domain.identity import MachineIdentity
from after_check.tui.app import AfterCheckApp
from after_check.tui.dialogs.ask import AskDialog
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.widgets.bench_list import BenchList
from tests.helpers.demo import put_demo

SIZE = (128, 40)


@asynccontextmanager
async def running(path, demo=True, size=SIZE):
    if demo and not path.exists():
        put_demo(path)
    app = AfterCheckApp(path, demo=demo)
    async with app.run_test(size=size) as pilot:
        await until(pilot, lambda: app.is_shop_open or app.failure)
        await pilot.pause()
        yield app, pilot


OWN_MACHINE = MachineIdentity(is_the_jobs=True)
"""This computer, of which somebody has said that it is the machine of the job."""


LONGEST_WAIT_SECONDS = 60.0
"""A loaded machine may take this long for what is done in a second."""


async def until(pilot, condition):
    deadline = time.monotonic() + LONGEST_WAIT_SECONDS
    while time.monotonic() < deadline:
        if condition():
            await pilot.pause()
            return
        await asyncio.sleep(0.02)
        await pilot.pause()
    raise AssertionError(f"it did not come to that:\n{shown(pilot.app)}")


def shown(app) -> str:
    """The screen as text."""
    return "\n".join("".join(segment.text for segment in strip) for strip in strips(app))


def strips(app):
    """The lines of the screen as the toolkit draws them, what lies behind a dialog as well."""
    visible_screen_stack.set(app._background_screens)
    return app.screen._compositor.render_strips()


def go(test):
    asyncio.run(test())


async def open_job(app, pilot, number):
    await until(pilot, lambda: app.screen.query(BenchList) and app.screen.query_one(BenchList).chosen)
    bench = app.screen.query_one(BenchList)
    bench.choose(number)
    await pilot.press("enter")
    await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and app.screen.snapshot is not None)


async def answer(app, pilot, text):
    """Type an answer into the dialog that is open, in the place of what is there."""
    await until(pilot, lambda: isinstance(app.screen, AskDialog))
    app.screen.query_one("#answer", Input).value = text
    await pilot.press("enter")


def on_paper(app):
    """What the sheet in the hand-back says, scrolled out of sight or not, as one line."""
    return " ".join(str(app.screen.query_one("#hand-back-sheet", Static).content).split())


def notices(app):
    """Return the texts of the notices that are shown now."""
    return [notice.message for notice in app._notifications]
