"""Tests, measurements and readings of this computer, for jobs whose machine it is, is not, or may be."""

from __future__ import annotations

from textual.widgets import Input

from after_check.domain.identity import MachineIdentity
from after_check.shop.shop import Shop
from after_check.soak.soak_run import Wishes
from after_check.tui.screens.benchmark import BenchmarkScreen
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.screens.reading import ReadingScreen
from after_check.tui.screens.soak import SoakScreen
from tests.helpers.pilot import answer, notices, open_job, running, shown, until

GIB = 1 << 30
OTHER = MachineIdentity(usable_bytes=5 * GIB)
"""Job 0417 has 48 GiB."""
MAY_BE = MachineIdentity(usable_bytes=47 * GIB)


async def soak_of(app, pilot, here):
    app.identity, app.soak_wishes = lambda: here, Wishes(memory_bytes=32 << 20, threads=1)
    await open_job(app, pilot, "0417")
    await pilot.press("s")
    await until(pilot, lambda: isinstance(app.screen, SoakScreen))


async def program(app, pilot):
    await pilot.press("p")
    await answer(app, pilot, "{any(w0); ^(r0,w1); v(r1)}")


async def test_a_test_of_another_computer_is_warned_of_and_does_not_count(shop_path):
    async with running(shop_path) as (app, pilot):
        await soak_of(app, pilot, OTHER)
        await until(pilot, lambda: "This computer is not the machine of this job: it has 5 GiB" in shown(app))
        await program(app, pilot)
        said = "it has 5 GiB of memory, the job's machine 48 GiB"
        await until(pilot, lambda: "ANOTHER COMPUTER" in shown(app) and said in shown(app))
        await pilot.press("h")
        await until(pilot, lambda: "? DOES NOT COUNT" in shown(app))
        assert "of another computer" in shown(app)
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        await until(pilot, lambda: "No memory test is on record" in shown(app))
    job = Shop.open(shop_path).jobs.job("0417")
    assert job.soak.record.machine.is_the_jobs is False


async def test_the_result_of_a_test_that_ran_elsewhere_is_typed(shop_path):
    async with running(shop_path) as (app, pilot):
        await soak_of(app, pilot, OTHER)
        await pilot.press("r")
        await answer(app, pilot, "it was fine")
        await until(pilot, lambda: "no result of a memory test is in this" in shown(app))
        await until(pilot, lambda: app.screen.query(Input) and app.screen.query_one("#answer", Input).value == "it was fine")
        await answer(app, pilot, "2 hours, 4 passes, no errors")
        await until(pilot, lambda: any("the result is kept" in words for words in notices(app)))
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and has_result(app))
    now = Shop.open(shop_path).jobs.job("0417").now.reading
    assert (now.soak.value.errors, now.soak.value.minutes, now.soak.value.passes) == (0, 120, 4)
    assert len(now.modules) == 2


async def test_where_nothing_tells_it_is_asked(shop_path):
    async with running(shop_path) as (app, pilot):
        await soak_of(app, pilot, MAY_BE)
        await program(app, pilot)
        await until(pilot, lambda: "IS THIS THE MACHINE?" in shown(app) and "a computer" not in shown(app))
        await pilot.press("y")
        await until(pilot, lambda: "CLEAN ·" in shown(app) or "✓ CLEAN" in shown(app))
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and has_result(app))
        # A no brings what else can be done, and nothing runs.
        await pilot.press("g")
        await until(pilot, lambda: isinstance(app.screen, BenchmarkScreen))
        await pilot.press("i")
        await until(pilot, lambda: "IS THIS THE MACHINE?" in shown(app))
        await pilot.press("n")
        await until(pilot, lambda: "ANOTHER COMPUTER" in shown(app) and "type scores" in shown(app))
        await pilot.press("escape")
        assert not app.screen.is_under_way
    assert Shop.open(shop_path).jobs.job("0417").benchmarks == ()


async def test_reading_this_computer_asks_whether_it_is_the_machine(shop_path):
    async with running(shop_path) as (app, pilot):
        app.identity = lambda: OTHER
        await open_job(app, pilot, "0417")
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        count = len(app.shop.jobs.job("0417").readings)
        await pilot.press("enter")
        await until(pilot, lambda: "ANOTHER COMPUTER" in shown(app))
        await pilot.press("c")
        await until(pilot, lambda: "after-check collector --for sh" in shown(app))
        assert len(app.shop.jobs.job("0417").readings) == count


def has_result(app):
    """Whether the job sheet has a result of a memory test."""
    return "FINDINGS" in shown(app) and "No memory test is on record" not in shown(app)
