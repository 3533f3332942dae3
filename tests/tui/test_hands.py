"""The view for hands that hold a module, by its keys."""

from __future__ import annotations

import pytest

from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.tries import Arrangement, Started, Try, TryLog, TryModule
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from after_check.tui.screens.hands import HandsFace, HandsScreen
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.screens.reading import ReadingScreen
from tests.helpers.pilot import open_job, running, shown, until

ARRIVAL = "A1=-; A2=8G DDR4-2400; B1=-; B2=8G DDR4-2400; total 16G"
MODULES = tuple(TryModule(letter, "16G DDR4-3200") for letter in "ab")
FAILED = Try(Arrangement((("A2", "a"), ("B2", "b"))), Started.NO)
LOG = TryLog(MODULES, ("A1", "A2", "B1", "B2"), (FAILED,))


@pytest.fixture
def open_case(shop_path):
    shop = Shop.open(shop_path)
    shop.jobs.add(JobFacts("7", "Desk", promise="A2=16G DDR4-3200; B2=16G DDR4-3200"), [(Moment.ARRIVAL, take_notation(ARRIVAL))])
    shop.jobs.keep_tries("7", LOG, 0)
    shop.jobs.add(JobFacts("8", "Shelf", promise="A2=16G DDR4-3200; B2=16G DDR4-3200"), [(Moment.ARRIVAL, take_notation(ARRIVAL))])
    shop.close()
    return shop_path


def hands(app):
    return app.screen.query_one(HandsFace).hands


async def ready(app, pilot):
    await until(pilot, lambda: isinstance(app.screen, HandsScreen) and not hands(app).waiting)


@pytest.mark.parametrize("size", [(80, 24), (128, 40)])
async def test_moves_one_by_one_then_the_start_is_written_down_and_the_next_try_follows(open_case, size):
    async with running(open_case, demo=False, size=size) as (app, pilot):
        await open_job(app, pilot, "7")
        await pilot.press("f6")
        await ready(app, pilot)
        plan = hands(app).plan
        assert plan.moves
        assert "MOVE 1 OF" in shown(app)
        assert "██████" in shown(app)  # In large letters, also where the screen is small.
        for _ in plan.moves:
            await pilot.press("enter")
        await until(pilot, lambda: "SWITCH IT ON" in shown(app))
        await pilot.press("space")
        await until(pilot, lambda: hands(app).seconds is not None)
        await pilot.press("n")
        await until(pilot, lambda: len(app.shop.jobs.job("7").tries.log.tries) == 2)
        tried = app.shop.jobs.job("7").tries.log.tries[-1]
        assert tried.arrangement == plan.begun.arrangement
        assert (tried.started, tried.seconds is not None) == (Started.NO, True)
        await ready(app, pilot)
        assert hands(app).plan is None or hands(app).plan.begun.arrangement != plan.begun.arrangement or hands(app).plan.begun.reseated
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))


async def test_a_plain_fitting_leads_to_the_reading_and_writes_no_try(open_case):
    async with running(open_case, demo=False) as (app, pilot):
        await open_job(app, pilot, "8")
        await pilot.press("f6")
        await ready(app, pilot)
        assert [f"{move.act.value} {move.slot}" for move in hands(app).plan.moves] == [
            "take out A2",
            "take out B2",
            "put in A2",
            "put in B2",
        ]
        await pilot.press("enter", "enter", "left")
        assert hands(app).at == 1
        await pilot.press("ctrl+t")  # Another theme begins nothing again.
        await pilot.pause()
        assert hands(app).at == 1
        await pilot.press("enter", "enter", "enter")
        await until(pilot, lambda: "SWITCH IT ON" in shown(app))
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        assert app.shop.jobs.job("8").tries is None


async def test_where_the_cause_is_clear_it_says_what_stays(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0419")
        await pilot.press("f6")
        await ready(app, pilot)
        assert "It is slot D1" in shown(app)
        assert "STAYS FITTED" in shown(app)
        assert ("D1", "b") not in hands(app).stays
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))


async def test_it_is_one_key_away_from_every_view_of_a_job(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0419")
        for key, name in (("t", "TriesScreen"), ("m", "ModulesScreen"), ("h", "HandBackScreen")):
            await pilot.press(key)
            await until(pilot, lambda name=name: type(app.screen).__name__ == name)
            await pilot.press("f6")
            await ready(app, pilot)
            await pilot.press("f6")
            await until(pilot, lambda name=name: type(app.screen).__name__ == name)
            await pilot.press("escape")
            await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        await pilot.press("t")
        await until(pilot, lambda: type(app.screen).__name__ == "TriesScreen")
        await pilot.press("escape", "f6")
        await ready(app, pilot)
        await pilot.press("enter")  # The cause is clear: on to the tries.
        await until(pilot, lambda: type(app.screen).__name__ == "TriesScreen")
