"""Going anywhere by a part of its name."""

from __future__ import annotations

from importlib import import_module

import pytest
from textual.screen import Screen
from textual.widgets import Input

from after_check.domain.jobs import JobFacts, Moment
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from after_check.tui.dialogs.go_to import GoToDialog, Way, matching
from after_check.tui.screens.ceilings import CeilingsScreen
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.screens.reading import ReadingScreen
from after_check.tui.views import PLACES, View
from tests.helpers.pilot import open_job, running, shown, until

WAYS = tuple(
    Way(words, "here", "", lambda: None)
    for words in ("soak: test the memory", "benchmark: bandwidth", "0417 · Sonogram desk", "0425 · Radio desk")
)


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("", [way.words for way in WAYS]),
        ("desk", ["0417 · Sonogram desk", "0425 · Radio desk"]),
        ("DESK radio", ["0425 · Radio desk"]),
        ("tst mem", ["soak: test the memory"]),
        ("zzz", []),
    ],
)
def test_what_matches(text, found):
    assert [way.words for way in matching(WAYS, text)] == found


async def typed(app, pilot, text):
    await pilot.press("ctrl+p")
    await until(pilot, lambda: isinstance(app.screen, GoToDialog))
    await pilot.press(*text)
    await until(pilot, lambda: app.screen.query_one("#go-to-line").value == text)
    await pilot.press("enter")


@pytest.mark.parametrize("size", [(80, 24), (128, 40)])
async def test_to_a_view_to_another_job_and_to_a_theme(shop_path, size):
    async with running(shop_path, size=size) as (app, pilot):
        await open_job(app, pilot, "0417")
        await typed(app, pilot, "limits: what")
        await until(pilot, lambda: isinstance(app.screen, CeilingsScreen))
        await typed(app, pilot, "radio")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and "Radio desk" in shown(app))
        assert len(app.screen_stack) == 2
        await typed(app, pilot, "light theme")
        await until(pilot, lambda: app.theme == "skarrow-day")


async def test_nobody_is_led_away_from_something_typed(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        await pilot.press(*"8G")
        await pilot.press("ctrl+p")
        await until(pilot, lambda: isinstance(app.screen, GoToDialog))
        await pilot.press(*"0425")
        await until(pilot, lambda: "nothing of that name" in shown(app))
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen) and "8G" in shown(app))


async def test_a_job_whose_number_is_the_name_of_a_view_opens_no_view(shop_path):
    """The editor gives a number back, the hand-back the name of a view: they are told apart by their kind."""

    shop = Shop.open(shop_path)
    shop.jobs.add(JobFacts("soak", "Sonar desk", promise="2x8G"), ((Moment.FITTED, take_notation("2x8G; run 2400")),))
    shop.close()
    async with running(shop_path, demo=False) as (app, pilot):
        await open_job(app, pilot, "soak")
        await pilot.press("e")
        # Of a job that is there, the editor begins at the promise; enter on that last line keeps the job.
        await until(pilot, lambda: app.screen.query("#promise") and app.screen.query_one("#promise", Input).has_focus)
        app.screen.query_one("#names", Input).value = "Sonar desk at the pier"
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and "at the pier" in shown(app))


def test_every_view_has_a_file_and_a_screen():
    for name, place in PLACES.items():
        module, _, screen = place.partition(":")
        assert issubclass(getattr(import_module(f"after_check.tui.screens.{module}"), screen), Screen), name
    assert set(PLACES) == set(View)
