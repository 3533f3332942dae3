"""What no machine shows and a sticker tells: asked once, at the hand-back, with one key."""

from __future__ import annotations

import pytest

from after_check.domain.jobs import JobFacts, Moment
from after_check.sources.open_source import take_notation
from after_check.tui.dialogs.choose import ChooseDialog
from after_check.tui.screens.hand_back import HandBackScreen
from after_check.tui.screens.reading import ReadingScreen
from tests.helpers.pilot import on_paper, open_job, running, shown, until

FITTED = "A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400; total 16G; dual; soak clean 60min 95%"


def kept(shop):
    readings = ((Moment.ARRIVAL, take_notation("A2=8G DDR4-2400; B2=-; run 2400")), (Moment.FITTED, take_notation(FITTED)))
    shop.jobs.add(JobFacts("0501", "Harbour desk", "Larkfield S3", "", "2x8G 2Rx8 DDR4-2400; dual"), readings)


async def asked(app, pilot):
    await open_job(app, pilot, "0501")
    await until(pilot, lambda: "not known: ranks, device width" in shown(app) and "does the sticker say so?" in shown(app))
    await pilot.press("enter")
    await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "not known: ranks" in shown(app))
    await pilot.press("enter")
    await until(pilot, lambda: isinstance(app.screen, ChooseDialog) and "WHAT DO THE STICKERS SAY?" in shown(app))


@pytest.mark.parametrize(("key", "row"), [("s", "as promised by the modules' stickers"), ("d", "only describes the modules; not checked")])
async def test_one_key_settles_it_and_the_sheet_has_a_row(shop, shop_path, key, row):
    kept(shop)
    async with running(shop_path) as (app, pilot):
        await asked(app, pilot)
        await pilot.press(key)
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "not known" not in shown(app))
        await until(pilot, lambda: "READY" in shown(app) and "Ranks, device width" in on_paper(app) and row in on_paper(app))
    assert set(shop.jobs.job("0501").hand_back.settled) == {"ranks", "device width"}


async def test_another_sticker_is_typed(shop, shop_path):
    kept(shop)
    async with running(shop_path) as (app, pilot):
        await asked(app, pilot)
        await pilot.press("o")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
    assert shop.jobs.job("0501").hand_back.settled == {}
