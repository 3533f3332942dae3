"""What was typed into a dialog is there again: where the store takes nothing, and after the program was ended."""

from __future__ import annotations

import contextlib
import sqlite3
from contextlib import contextmanager
from dataclasses import replace

import pytest
from textual.widgets import Input, TextArea

from after_check.shop import database
from after_check.shop.errors import BusyError
from after_check.shop.shop import Shop
from after_check.tui.dialogs.ask import AskDialog
from after_check.tui.dialogs.scores import ScoresDialog
from after_check.tui.screens.card import CardScreen
from after_check.tui.screens.hand_back import HandBackScreen
from tests.helpers.pilot import go, notices, open_job, running, shown, until

LINES = {
    "o": ("0423", ("h", "o"), "in a box at the counter", lambda job: job.hand_back.old_modules),
    "as it came": ("0423", ("h", "c"), "they fit another machine", lambda job: job.hand_back.as_it_came),
    "agreed": (
        "0423",
        ("h", "a"),
        "said on the phone",
        lambda job: job.hand_back.overrides[0].reason if job.hand_back.overrides else "",
    ),
    "what it was": ("0427", ("t", "o"), "a bent latch", lambda job: job.tries.log.conclusion),
    "a test that ran": (
        "0423",
        ("s", "r"),
        "clean 2 h 4 passes by stick",
        lambda job: "clean 2 h 4 passes by stick" if job.now.reading.soak is not None and job.now.reading.soak.value.passes == 4 else "",
    ),
}


@contextmanager
def locked(path):
    holder = sqlite3.connect(path, isolation_level=None)
    holder.execute("BEGIN EXCLUSIVE")
    try:
        yield
    finally:
        holder.execute("ROLLBACK")
        holder.close()


async def asked(app, pilot, number, keys):
    await open_job(app, pilot, number)
    view, key = keys
    await pilot.press(view)
    if view == "h":
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "BEFORE IT GOES BACK" in shown(app))
    await until(pilot, lambda: type(app.screen).__name__ in ("HandBackScreen", "TriesScreen", "SoakScreen", "BenchmarkScreen"))
    await pilot.press(key)
    await until(pilot, lambda: isinstance(app.screen, AskDialog))


@pytest.mark.parametrize("name", LINES)
async def test_a_line_that_the_store_does_not_take_is_asked_for_again_as_it_was_typed(shop_path, monkeypatch, name):
    number, keys, words, kept = LINES[name]
    monkeypatch.setattr(database, "WAIT_FOR_LOCK_SECONDS", 0.2)

    async with running(shop_path) as (app, pilot):
        await asked(app, pilot, number, keys)
        before = app.screen
        before.query_one("#answer", Input).value = words
        with locked(shop_path):
            await pilot.press("enter")
            await until(pilot, lambda: isinstance(app.screen, AskDialog) and app.screen is not before)
            assert any("another process is writing" in words for words in notices(app))
            assert app.screen.query_one("#answer", Input).value == words
        await pilot.press("enter")

        def is_kept():
            with contextlib.suppress(BusyError):  # The program may be at it: this look, too, waits only a moment.
                return kept(app.shop.jobs.job(number)) == words

        await until(pilot, is_kept)
        assert not isinstance(app.screen, AskDialog)


@pytest.mark.parametrize("name", [name for name in LINES if name != "a test that ran"])
def test_a_line_that_was_typed_when_the_program_was_ended_is_there_again(shop_path, name):
    number, keys, words, kept = LINES[name]

    async def typed():
        async with running(shop_path) as (app, pilot):
            await asked(app, pilot, number, keys)
            app.screen.query_one("#answer", Input).value = words
            await until(pilot, lambda: app.shop.drafts.text(app.screen.draft_place) == words)

    async def again():
        async with running(shop_path) as (app, pilot):
            await asked(app, pilot, number, keys)
            await until(pilot, lambda: app.screen.query_one("#answer", Input).value == words)
            place = app.screen.draft_place
            await pilot.press("enter")
            await until(pilot, lambda: kept(app.shop.jobs.job(number)) == words)
            await until(pilot, lambda: not app.shop.drafts.text(place))

    go(typed)
    go(again)


async def test_a_line_that_was_left_with_escape_is_not_brought_back(shop_path):
    async with running(shop_path) as (app, pilot):
        await asked(app, pilot, "0423", ("h", "o"))
        place, standing = app.screen.draft_place, app.screen.query_one("#answer", Input).value
        app.screen.query_one("#answer", Input).value = "no"
        await until(pilot, lambda: app.shop.drafts.text(place) == "no")
        await pilot.press("escape")
        await until(pilot, lambda: not app.shop.drafts.text(place))
        await pilot.press("o")
        await until(pilot, lambda: isinstance(app.screen, AskDialog))
        assert app.screen.query_one("#answer", Input).value == standing


async def test_a_line_that_is_not_understood_stays_with_what_is_wrong_beneath_it(shop_path):
    async with running(shop_path) as (app, pilot):
        await asked(app, pilot, "0423", ("h", "p"))
        dialog = app.screen
        place = dialog.query_one(".dialog").region
        assert abs(2 * place.x + place.width - app.size.width) <= 1, "it is in the middle"
        dialog.query_one("#answer", Input).value = "two of the large ones"
        await pilot.press("enter")
        await until(pilot, lambda: "▲" in shown(app))
        assert app.screen is dialog
        assert dialog.query_one("#answer", Input).value == "two of the large ones"
        dialog.query_one("#answer", Input).value = "2x16G DDR4-3733; dual"
        await pilot.press("enter")
        await until(pilot, lambda: "WHY?" in shown(app))


async def scores_of(app, pilot):
    await open_job(app, pilot, "0423")
    await pilot.press("g")
    await until(pilot, lambda: type(app.screen).__name__ == "BenchmarkScreen")
    await pilot.press("t")
    await until(pilot, lambda: isinstance(app.screen, ScoresDialog))


def test_scores_are_there_again(shop_path, monkeypatch):
    monkeypatch.setattr(database, "WAIT_FOR_LOCK_SECONDS", 0.2)
    words = "Export 61.2 60.8 61.0 s"

    async def begun():
        async with running(shop_path) as (app, pilot):
            await scores_of(app, pilot)
            app.screen.query_one(TextArea).text = words
            await until(pilot, lambda: app.shop.drafts.text(app.screen.draft_place) == words)

    async def again():
        async with running(shop_path) as (app, pilot):
            await scores_of(app, pilot)
            await until(pilot, lambda: app.screen.query_one(TextArea).text == words)
            before = app.screen
            with locked(shop_path):
                await pilot.press("ctrl+s")
                await until(pilot, lambda: isinstance(app.screen, ScoresDialog) and app.screen is not before)
                assert app.screen.query_one(TextArea).text == words
            await pilot.press("ctrl+s")
            await until(pilot, lambda: any(kept.record.series[0].name == "Export" for kept in app.shop.jobs.job("0423").benchmarks))

    go(begun)
    go(again)


def test_a_data_sheet_that_was_begun_is_there_again(shop_path):
    async def begun():
        async with running(shop_path) as (app, pilot):
            await open_job(app, pilot, "0423")
            await pilot.press("k")
            await until(pilot, lambda: isinstance(app.screen, CardScreen))
            text = app.screen.query_one("#card-text", TextArea)
            text.text = text.text + "# the slot beside the fan is loose\n"
            await pilot.press("escape")

    async def again():
        async with running(shop_path) as (app, pilot):
            await open_job(app, pilot, "0423")
            await pilot.press("k")
            await until(pilot, lambda: isinstance(app.screen, CardScreen))
            await until(pilot, lambda: "is loose" in app.screen.query_one("#card-text", TextArea).text)
            place = app.screen.draft_place
            await pilot.press("ctrl+s")
            await until(pilot, lambda: not isinstance(app.screen, CardScreen) and not app.shop.drafts.text(place))

    go(begun)
    go(again)


async def test_what_was_refused_as_the_job_changed_elsewhere_is_kept_at_the_next_attempt(shop_path):
    """A hand-back that was opened before somebody else changed the job: the line is asked for again, and holds then."""

    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        await pilot.press("h")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "BEFORE IT GOES BACK" in shown(app))
        await pilot.press("o")
        await until(pilot, lambda: isinstance(app.screen, AskDialog))
        other = Shop.open(shop_path)
        theirs = other.jobs.job("0417")
        other.signing.keep_hand_back(theirs, replace(theirs.hand_back, note="from the other bench"))
        await pilot.press("enter")
        await until(pilot, lambda: any("somewhere else" in words or "somebody else" in words.casefold() for words in notices(app)))
        await until(pilot, lambda: isinstance(app.screen, AskDialog) and app.screen.query_one("#answer", Input).value != "")
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen))
        await until(pilot, lambda: Shop.open(shop_path).jobs.job("0417").hand_back.old_modules != "")
    kept = Shop.open(shop_path).jobs.job("0417").hand_back
    assert (kept.old_modules, kept.note) == ("given back to you", "from the other bench")
