"""Going anywhere by a part of its name."""

from __future__ import annotations

import pytest

from after_check.tui.ceilings.screen import CeilingsScreen
from after_check.tui.go_to import GoToDialog, Way, matching
from after_check.tui.job_sheet.screen import JobSheetScreen
from after_check.tui.palette import DAY
from after_check.tui.reading.screen import ReadingScreen
from tests.tui.test_app import go, open_job, running, shown, until

WAYS = tuple(
    Way(words, "here", "", lambda: None) for words in ("soak: test the memory", "gauge: flow", "0417 · Sonogram desk", "0425 · Radio desk")
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
def test_to_a_view_to_another_job_and_to_a_theme(shop_path, size):
    async def test():
        async with running(shop_path, size=size) as (app, pilot):
            await open_job(app, pilot, "0417")
            await typed(app, pilot, "ceilings")
            await until(pilot, lambda: isinstance(app.screen, CeilingsScreen))
            await typed(app, pilot, "radio")
            await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and "Radio desk" in shown(app))
            assert len(app.screen_stack) == 3
            await typed(app, pilot, "light theme")
            await until(pilot, lambda: app.palette is DAY)

    go(test)


def test_nobody_is_led_away_from_something_typed(shop_path):
    async def test():
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

    go(test)
