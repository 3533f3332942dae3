"""Dialogs and messages of the application through the pilot."""

from __future__ import annotations

import pytest
from textual.widgets import Input

from after_check.domain.jobs import JobFacts, Moment
from after_check.handback.missing import Remedy
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from after_check.tui.dialogs.ask import AskDialog
from after_check.tui.screens.hand_back import HandBackScreen
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.screens.modules import ModulesScreen
from after_check.tui.screens.reading import ReadingScreen
from after_check.tui.screens.soak import SoakScreen
from after_check.tui.screens.tries import TriesScreen
from after_check.tui.widgets.hand_back_panes import MissingList
from tests.helpers.pilot import answer, go, notices, on_paper, open_job, running, shown, until


async def test_the_sheet_is_written_and_a_place_that_takes_nothing_is_said(shop_path, tmp_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await pilot.press("h")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "Ready: what was promised is there" in shown(app))
        await pilot.press("e")
        await answer(app, pilot, str(tmp_path / "missing" / "sheet.pdf"))
        await until(pilot, lambda: any("Nothing was written" in notice for notice in notices(app)))
        await pilot.press("e")
        await answer(app, pilot, str(tmp_path / "sheet.pdf"))
        await until(pilot, lambda: (tmp_path / "sheet-drawings" / "findings.csv").exists())
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF")
    assert (tmp_path / "sheet-drawings" / "board-now.svg").exists()


@pytest.mark.parametrize("size", [(80, 24), (200, 60)])
async def test_from_agreements_to_the_signed_sheet(shop_path, size):
    async with running(shop_path, size=size) as (app, pilot):
        await open_job(app, pilot, "0423")
        await pilot.press("h")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "BEFORE IT GOES BACK" in shown(app))
        await pilot.press("o")
        await answer(app, pilot, "kept at the shop")
        await until(pilot, lambda: app.shop.jobs.job("0423").hand_back.old_modules == "kept at the shop")
        await until(pilot, lambda: "kept at the shop" in on_paper(app))
        chosen = app.screen.query_one(MissingList).chosen
        await pilot.press("a")
        await answer(app, pilot, "agreed on the phone")
        await until(pilot, lambda: len(app.shop.jobs.job("0423").hand_back.overrides) == 1)
        assert app.shop.jobs.job("0423").hand_back.accepted(chosen.finding.code).reason == "agreed on the phone"
        await until(pilot, lambda: "Agreed: on the phone." in on_paper(app))
        await pilot.press("p")
        await answer(app, pilot, "2x16G DDR4-3733; dual; run 2400")
        await until(pilot, lambda: "WHY?" in shown(app))
        await answer(app, pilot, "this machine is locked")
        await until(pilot, lambda: len(app.shop.jobs.job("0423").hand_back.overrides) == 2)
        await until(pilot, lambda: "this machine is locked" in on_paper(app))
        await pilot.press("s")
        await answer(app, pilot, "I. Skarrow")
        await until(pilot, lambda: "SIGNED" in shown(app))
        assert app.shop.jobs.job("0423").frozen
        await pilot.press("r")
        await until(pilot, lambda: not app.shop.jobs.job("0423").frozen and "SIGNED" not in shown(app))
        await pilot.press("z")
        await until(pilot, lambda: app.shop.jobs.job("0423").archived)


@pytest.mark.parametrize(
    ("key", "text", "chip", "paper"),
    [
        ("a", "2400 is fast enough", "≈ AS AGREED", "Handed back as agreed with you."),
        ("c", "the old modules are in again", "= AS IT CAME", "Handed back as it came."),
        ("s", "", "✗ NOT READY", "Not ready yet"),
    ],
)
async def test_signing_with_something_open_asks_how_it_goes_back(shop_path, key, text, chip, paper):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0423")
        await pilot.press("h")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "BEFORE IT GOES BACK" in shown(app))
        await pilot.press("s")
        await until(pilot, lambda: "HOW DOES IT GO BACK?" in shown(app))
        await pilot.press(key)
        if text:
            await answer(app, pilot, text)
        await until(pilot, lambda: "SIGN THE HAND-BACK" in shown(app) and chip in shown(app))
        await answer(app, pilot, "I. Skarrow")
        await until(pilot, lambda: "SIGNED" in shown(app) and chip in shown(app))
        assert paper in on_paper(app)
        assert text in on_paper(app)


async def test_what_is_missing_leads_to_the_view_that_mends_it(shop_path):
    """0420 lacks a memory test: the line leads to the soak, and back to the job; words that were written can be taken away."""

    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0420")
        await pilot.press("h")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "no memory test was run" in shown(app))
        for text in ("a year", ""):
            await pilot.press("y")
            await answer(app, pilot, text)
            await until(pilot, lambda text=text: app.shop.jobs.job("0420").hand_back.warranty == text)
        await until(pilot, lambda: "a year" not in on_paper(app))
        assert app.screen.query_one(MissingList).chosen.remedy is Remedy.SOAK
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, SoakScreen))
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))


async def test_a_key_that_comes_before_the_job_waits_for_it(shop_path):
    async with running(shop_path) as (app, pilot):
        await until(pilot, lambda: "0418" in shown(app))
        app.push_screen(JobSheetScreen("0418"))
        app.screen.action_go("modules")
        await until(pilot, lambda: isinstance(app.screen, ModulesScreen))


@pytest.mark.parametrize(
    ("promise", "readings", "says"),
    [
        ("", (), "Take the reading on arrival first"),
        ("", ("8G; run 2400",), "Nothing was promised yet"),
        ("16G; run 2400", ("8G; run 2400",), "Fit the memory, start the machine"),
    ],
)
async def test_a_job_that_is_under_way_says_what_is_next(shop_path, promise, readings, says):
    shop = Shop.open(shop_path)
    taken = tuple((Moment.ARRIVAL, take_notation(line)) for line in readings)
    shop.jobs.add(JobFacts("0001", "Desk", "", "", promise), taken)
    shop.close()

    async with running(shop_path, demo=False) as (app, pilot):
        await open_job(app, pilot, "0001")
        await until(pilot, lambda: says in shown(app))


async def test_a_path_that_is_no_reading_leaves_the_line_as_it_was(shop_path, tmp_path):
    (tmp_path / "letter.bin").write_bytes(b"\xff\xfe\xfd no reading")

    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await pilot.press("r")
        line = app.screen.query_one("#reading-line", Input)
        line.value = str(tmp_path / "letter.bin")
        await pilot.press("enter")
        await until(pilot, lambda: "no firmware table and no saved reading" in shown(app).replace("\n", " ") or "is no text" in shown(app))
        assert isinstance(app.screen, ReadingScreen)
        assert line.value == str(tmp_path / "letter.bin")
    assert len(Shop.open(shop_path).jobs.job("0418").readings) == 2


async def test_the_first_reading_of_a_job_is_its_arrival_and_f2_changes_that(shop_path):
    shop = Shop.open(shop_path)
    shop.jobs.add(JobFacts("0001", "Desk"))
    shop.close()

    async with running(shop_path, demo=False) as (app, pilot):
        await open_job(app, pilot, "0001")
        await pilot.press("r")
        await until(pilot, lambda: "the reading on arrival" in shown(app))
        await pilot.press("f2")
        await until(pilot, lambda: "the reading after fitting" in shown(app))
        await pilot.press("f2", *"8G DDR4-2400", "enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
    job = Shop.open(shop_path).jobs.job("0001")
    assert job.arrival is not None
    assert job.now is None


async def test_the_last_reading_comes_back_as_a_line(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0424")
        await pilot.press("r", "ctrl+l")
        line = app.screen.query_one("#reading-line", Input)
        await until(pilot, lambda: line.value.startswith('A1="4GB 2Rx8 PC3L-12800S-11-12-F3"'))
        assert "usable 3.2G" in line.value
        assert "bits 32" in line.value


async def test_an_address_is_not_taken_for_notation_and_a_refused_connection_is_said(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await pilot.press("r")
        app.screen.query_one("#reading-line", Input).value = "ssh://root@127.0.0.1:1"
        await until(pilot, lambda: "AN ADDRESS" in shown(app))
        await pilot.press("enter")
        await until(pilot, lambda: "the connection failed" in shown(app))


async def test_keys_of_each_screen_are_explained(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        for key, word in (("m", "The modules"), ("c", "What limits the speed")):
            await pilot.press(key, "question_mark")
            await until(pilot, lambda word=word: word in shown(app) and "esc closes this" in shown(app))
            await pilot.press("escape", "escape")
            await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))


async def test_two_windows_on_one_job_do_not_overwrite_each_other(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await pilot.press("e")
        await until(pilot, lambda: app.screen.query("#promise"))
        other = Shop.open(shop_path)
        other.jobs.change_facts(other.jobs.job("0418"), JobFacts("0418", "Changed elsewhere", "Dunlin 14", "", "2x8G"))
        app.screen.query_one("#names", Input).value = "Mine"
        await pilot.press("enter", "enter")
        await until(pilot, lambda: any("changed somewhere else" in notice for notice in notices(app)))
        assert app.screen.query_one("#names", Input).value == "Mine"
    assert Shop.open(shop_path).jobs.job("0418").facts.title == "Changed elsewhere"


def test_a_line_that_is_being_typed_is_there_again_after_a_kill(shop_path):
    """The line of a reading is kept while it is typed, for its job alone, and forgotten once it is a reading."""

    async def first():
        async with running(shop_path) as (app, pilot):
            await open_job(app, pilot, "0418")
            await pilot.press("r")
            await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
            await pilot.press(*"2x8G DDR4")
            await until(pilot, lambda: app.shop.drafts.text(app.screen.draft_place) == "2x8G DDR4")

    async def second():
        async with running(shop_path) as (app, pilot):
            await open_job(app, pilot, "0418")
            await pilot.press("r")
            await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
            line = app.screen.query_one("#reading-line", Input)
            await until(pilot, lambda: line.value == "2x8G DDR4")
            await pilot.press("enter")
            await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and len(app.shop.jobs.job("0418").readings) == 3)
            await pilot.press("r")
            await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
            await pilot.press(*"ssh://root:hush@h")
            await pilot.pause(0.6)
            assert app.screen.query_one("#reading-line", Input).value == "ssh://root:hush@h"
            assert app.shop.drafts.text(app.screen.draft_place) == ""

    go(first)
    go(second)


async def test_a_path_that_was_read_is_offered_again(shop_path, tmp_path):
    source = tmp_path / "reading.txt"
    source.write_text("2x8G DDR4-3200; run 3200")

    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        app.screen.query_one("#reading-line", Input).value = str(source)
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        line = app.screen.query_one("#reading-line", Input)
        await pilot.press("/")
        await until(pilot, lambda: str(source) in shown(app))
        await pilot.press("right")
        await until(pilot, lambda: line.value == str(source))
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        await pilot.press("h")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "BEFORE IT GOES BACK" in shown(app))
        await pilot.press("f")
        await answer(app, pilot, str(tmp_path / "one.zip"))
        await until(pilot, lambda: (tmp_path / "one.zip").exists())
        await pilot.press("e")
        await until(pilot, lambda: isinstance(app.screen, AskDialog))
        assert app.screen.query_one("#answer", Input).value == str(tmp_path / "job-0418-Dunlin-14.pdf")


@pytest.mark.parametrize(("number", "view"), [("0423", ReadingScreen), ("0425", TriesScreen)])
async def test_enter_on_a_fault_goes_and_fixes_it(shop_path, number, view):
    """To agree on a fault is a second key: the first one fixes it, by a setting and a reading or by trying."""
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, number)
        await pilot.press("h")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "BEFORE IT GOES BACK" in shown(app))
        await until(pilot, lambda: app.screen.query_one(MissingList).chosen is not None)
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, view))
        assert not app.shop.jobs.job(number).hand_back.overrides
