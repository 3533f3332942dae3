"""The application on a shop whose server goes away and comes back: nothing typed or read is lost, and everything is said."""

from __future__ import annotations

from textual.widgets import Input

from after_check.domain.jobs import JobFacts, Moment
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from after_check.tui.dialogs.ask import AskDialog
from after_check.tui.screens.bench import BenchScreen
from after_check.tui.screens.editor import JobEditorScreen
from after_check.tui.screens.hand_back import HandBackScreen
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.screens.reading import ReadingScreen
from tests.helpers.needs import needs
from tests.helpers.pilot import answer, go, notices, on_paper, open_job, running, shown, until
from tests.postgres import tools

pytestmark = needs(tools() is not None, "PostgreSQL")
LINE = "A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; total 32G"


async def test_a_reading_waits_here_and_words_wait_on_the_screen(server):
    address = server.fresh_shop("away")
    shop = Shop.open(address)
    shop.jobs.add(JobFacts("0001", "Desk", "", "", "2x16G DDR4-3200; dual"), ((Moment.ARRIVAL, take_notation("A2=8G; run 2400")),))
    shop.close()

    async with running(address, demo=False) as (app, pilot):
        await open_job(app, pilot, "0001")
        server.stop()
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        app.screen.query_one("#reading-line", Input).value = LINE
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        await until(pilot, lambda: any("kept on this computer" in notice for notice in notices(app)))
        # Work goes on with the reading that the server does not have yet.
        await until(pilot, lambda: "AS PROMISED, NOT TESTED" in shown(app))
        await pilot.press("h")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "BEFORE IT GOES BACK" in shown(app))
        await pilot.press("n")
        await answer(app, pilot, "Thank you for waiting")
        # Words are not kept aside, as somebody else may be changing them: that is said, and they are there to keep again.
        await until(pilot, lambda: any("does not answer" in notice for notice in notices(app)))
        await until(pilot, lambda: isinstance(app.screen, AskDialog))
        assert app.screen.query_one("#answer", Input).value == "Thank you for waiting"
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen))
        assert "Thank you" not in on_paper(app)
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, BenchScreen))
        await until(pilot, lambda: "1 kept here until the server is back" in shown(app))
        server.start()
        app.screen.load()
        await until(pilot, lambda: "kept here" not in shown(app) and "test the memory" in shown(app))
        await open_job(app, pilot, "0001")
        await until(pilot, lambda: "AS PROMISED, NOT TESTED" in shown(app))
    kept = Shop.open(address).jobs.job("0001")
    assert len(kept.readings) == 2
    assert kept.hand_back.note == ""


def test_a_program_that_is_started_without_the_server_goes_on_and_hands_over(server):
    address = server.fresh_shop("meanwhile")
    shop = Shop.open(address)
    shop.jobs.add(JobFacts("0001", "Desk"))
    shop.close()
    server.stop()

    async def alone():
        async with running(address, demo=False) as (app, pilot):
            await until(pilot, lambda: "without the server" in shown(app))
            assert "Desk" not in shown(app)
            await pilot.press("n")
            await until(pilot, lambda: isinstance(app.screen, JobEditorScreen))
            await pilot.press(*"Hut, Dunlin 14", "enter", *LINE, "enter", *"2x16G DDR4-3200; dual", "enter")
            await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and " M" in shown(app) and "Hut" in shown(app))
            server.start()
            # Nobody is led away from the job that is open; with the bench, the server's jobs come back.
            await pilot.press("escape")
            await until(pilot, lambda: isinstance(app.screen, BenchScreen))
            app.screen.look_for_the_server()
            await until(pilot, lambda: "Desk" in shown(app) and "Hut" in shown(app) and "without the server" not in shown(app))
            assert any("1 job of the time without the server" in notice for notice in notices(app))

    async def together():
        async with running(address, demo=False) as (app, pilot):
            await until(pilot, lambda: "Desk" in shown(app) and "Hut" in shown(app))
            desk, hut = app.shop.jobs.numbers()
            assert (desk, hut[0]) == ("0001", "M")
            assert len(app.shop.jobs.job(hut).readings) == 1

    go(alone)
    go(together)
