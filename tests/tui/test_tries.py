"""The view of tries, the entry and the watch."""

from __future__ import annotations

import threading
from dataclasses import replace
from datetime import UTC, datetime

import pytest
from textual.widgets import Input

from after_check.casework.job_tries import log_of
from after_check.domain.tries import Arrangement, Elsewhere, Started, Try, TryLog, TryModule
from after_check.shop.errors import ChangedElsewhereError, ShopError
from after_check.shop.shop import Shop
from after_check.tries.advice import steps
from after_check.tries.blame import blame
from after_check.tries.log_json import begun_from_json
from after_check.tries.next_try import next_try
from after_check.tui.charts.numerals import large
from after_check.tui.charts.tries import TriesSnapshot, advice_lines, details_lines, head_line, matrix_lines, next_lines, suspect_lines
from after_check.tui.screens.hand_back import HandBackScreen
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.screens.reading import ReadingScreen
from after_check.tui.screens.start_watch import StartWatchScreen
from after_check.tui.screens.tries import TriesScreen
from after_check.tui.screens.try_entry import TryEntryScreen
from tests.helpers.logs import tried
from tests.helpers.pilot import answer, go, notices, on_paper, open_job, running, shown, until

LOG = TryLog(
    (TryModule("a"), TryModule("b"), TryModule("p", old=True)),
    ("A2", "B2"),
    (tried({"A2": "a", "B2": "b"}, "yes", ("A2",)), tried({"A2": "b"}, "no", signs=("beeps",), note="long")),
)


def plain(lines):
    return "\n".join(line.plain for line in lines)


def test_the_matrix_marks_what_moved_was_unseen_and_failed():
    snapshot = TriesSnapshot(LOG, blame(LOG, None))
    drawn = plain(matrix_lines(snapshot, 60, 14)[1:])
    assert "◌b" in drawn  # not seen in the first try
    assert "→ b" in drawn  # moved to A2 in the second
    start = next(line for line in drawn.splitlines() if line.startswith(" start"))
    assert start.split() == ["start", "✓", "✗"]
    assert "beeps" in plain(details_lines(replace(snapshot, chosen=1), 60, 20))
    both = plain(details_lines(replace(snapshot, chosen=1, against=0), 70, 20))
    assert "TRY 1 ○  AND TRY 2 ●" in both
    assert "not known" in both


@pytest.mark.parametrize(("cells", "rows"), [(38, 10), (62, 17), (100, 40)])
def test_drawings_keep_to_their_room(cells, rows):
    snapshot = TriesSnapshot(LOG, blame(LOG), next_try(LOG), blame(replace(LOG, tries=LOG.tries[:1])), steps(LOG, None), 0)
    for draw in (matrix_lines, suspect_lines, next_lines, advice_lines, details_lines):
        assert len(draw(snapshot, cells, rows)) <= rows
    assert head_line(snapshot, cells).cell_len <= max(cells, 40)
    many = replace(LOG, tries=LOG.tries * 20)
    wide = matrix_lines(TriesSnapshot(many), cells, rows)
    assert all(line.cell_len <= cells for line in wide[1:])
    assert "40" in plain(wide)


def test_a_proposal_that_only_repeats_says_what_to_borrow_in_the_room_there_is():
    with_it, without = tried({"S0": "z", "A1": "a"}, "no"), tried({"S0": "z"}, "yes", ("S0",))
    log = TryLog((TryModule("z", soldered=True), TryModule("a")), ("S0", "A1"), (with_it, without, with_it, without))
    snapshot = TriesSnapshot(log, blame(log), next_try(log))
    assert "Or borrow a module that is known to be good, and fit it in A1" in plain(next_lines(snapshot, 76, 20))
    short = next_lines(snapshot, 76, 8)
    assert short[-1].plain.strip() == "Or fit a borrowed good module in A1, or try a in another machine."
    # How sure an outcome would make it is said also where the suspect's name is cut.
    narrow = [line.plain for line in next_lines(snapshot, 44, 20) if "▸" in line.plain and "%" in line.plain]
    assert len(narrow) == 2
    assert all(line.rstrip().endswith("%") for line in narrow)


async def test_several_starts_are_noted_by_keys_and_by_a_note(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0427")
        await pilot.press("t")
        await until(pilot, lambda: isinstance(app.screen, TriesScreen))
        await pilot.press("n")
        await until(pilot, lambda: isinstance(app.screen, TryEntryScreen) and "7 ○ started 1 time" in shown(app))
        await pilot.press("1", "7", "7", "7", "7", "8", "8")
        await until(pilot, lambda: "7 ● started 5 times" in shown(app) and "8 ● 2 of them failed" in shown(app))
        await pilot.press("2")  # That it does not start is said of one start, until somebody says more.
        await until(pilot, lambda: "7 ○ started 1 time" in shown(app))
        await pilot.press("tab")
        await until(pilot, lambda: app.screen.query_one("#entry-note", Input).has_focus)
        await pilot.press(*"3 of 10 cold starts failed", "enter")
        await until(pilot, lambda: "8 ● 3 of them failed" in shown(app))
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, TriesScreen) and "✗3/10" in shown(app))
    tried = Shop.open(shop_path).jobs.job("0427").tries.log.tries[-1]
    assert (tried.starts, tried.starts_failed) == (10, 3)


async def test_how_a_module_did_in_another_machine_is_noted_and_counts(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0425")
        await pilot.press("t")
        await until(pilot, lambda: isinstance(app.screen, TriesScreen) and "SUSPECTS" in shown(app))
        await pilot.press("a")
        await answer(app, pilot, "a perhaps")
        # The line stays, with what is not understood beneath it.
        await until(pilot, lambda: "does not say whether it works there" in shown(app))
        await answer(app, pilot, "a fails, b clean 40 min")
        await until(pilot, lambda: isinstance(app.screen, TriesScreen) and "a fails in another machine" in shown(app))
        await until(pilot, lambda: "b clean in another machine, 40 min" in shown(app))
        await pilot.press("a")
        await until(pilot, lambda: "Noted so far: a fails in another machine" in shown(app))
        await answer(app, pilot, "a -")
        await until(pilot, lambda: isinstance(app.screen, TriesScreen) and "a fails in another machine" not in shown(app))
    found = {module.letter: module.elsewhere for module in Shop.open(shop_path).jobs.job("0425").tries.log.modules}
    assert (found["a"], found["b"]) == ((), (Elsewhere(False, 40.0),))


def test_numerals_say_the_time():
    lines = large("1:07", 70, 10)
    assert len(lines) == 10
    assert large("1:07", 10, 3) == []
    # A seven has its bar on top and nothing below left.
    assert large("7", 8, 5)[0].strip() == "██████"
    assert large("7", 8, 5)[4].startswith("  ██")


async def test_two_benches_on_one_log_both_keep_theirs(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0425")
        await pilot.press("t")
        await until(pilot, lambda: isinstance(app.screen, TriesScreen) and "3 tries" in shown(app))
        other = Shop.open(shop_path)
        job = other.jobs.job("0425")
        theirs = Try(Arrangement((("A2", "p"),)), Started.YES, at=datetime(2026, 11, 2, 9, tzinfo=UTC))
        other.jobs.keep_tries("0425", replace(job.tries.log, tries=(*job.tries.log.tries, theirs)), job.tries.version)
        with pytest.raises(ChangedElsewhereError):
            other.jobs.keep_tries("0425", job.tries.log, job.tries.version)
        await pilot.press("n")
        await until(pilot, lambda: isinstance(app.screen, TryEntryScreen))
        await pilot.press("2", "enter")
        await until(pilot, lambda: len(app.shop.jobs.job("0425").tries.log.tries) == 5)
    tries = Shop.open(shop_path).jobs.job("0425").tries.log.tries
    assert tries[3] == theirs
    assert tries[4].started is Started.NO


@pytest.mark.parametrize("size", [(80, 24), (200, 60)])
async def test_entry_watch_and_view_at_every_size(shop_path, size):
    async with running(shop_path, size=size) as (app, pilot):
        await open_job(app, pilot, "0427")
        await pilot.press("t")
        await until(pilot, lambda: "It is something outside memory" in shown(app))
        await pilot.press("n")
        await until(pilot, lambda: isinstance(app.screen, TryEntryScreen) and "it does not start" in shown(app))
        await pilot.press("W")
        await until(pilot, lambda: isinstance(app.screen, StartWatchScreen) and "Press space" in shown(app))
        await pilot.press("space")
        await until(pilot, lambda: "◐ WAIT" in shown(app))
        await pilot.press("3", "F", "1")
        await until(pilot, lambda: isinstance(app.screen, TryEntryScreen) and "● fans stay fast" in shown(app))
        await pilot.press("enter")
        await until(pilot, lambda: "4 tries" in shown(app))
        await pilot.press("x")
        await until(pilot, lambda: "3 tries" in shown(app))


async def test_readings_and_soaks_attach_themselves(shop_path):
    async with running(shop_path) as (app, _):
        log = log_of(app.shop.jobs.job("0425"))
        assert log.tries[0].rate_mts == 3200  # from the reading taken after that try began
        assert log.tries[1].rate_mts is None


async def test_a_conclusion_in_ones_own_words_and_a_try_as_a_reading(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0427")
        await pilot.press("t")
        await until(pilot, lambda: isinstance(app.screen, TriesScreen))
        await pilot.press("o")
        await answer(app, pilot, "the fan was not plugged in")
        await until(pilot, lambda: app.shop.jobs.job("0427").tries.log.conclusion == "the fan was not plugged in")
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen) and app.screen.query_one("#reading-line", Input).value)
        line = app.screen.query_one("#reading-line", Input).value
        assert "8G DDR4" in line
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        await pilot.press("h")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "the fan was not plugged in" in on_paper(app))


def test_a_module_that_was_added_and_a_try_that_was_begun_are_found_again(shop_path):
    async def begun():
        async with running(shop_path) as (app, pilot):
            await open_job(app, pilot, "0427")
            await pilot.press("t", "n")
            await until(pilot, lambda: isinstance(app.screen, TryEntryScreen))
            await pilot.press("plus")
            app.screen.query_one("#entry-note", Input).value = "16 GB DDR4 2400 ecc"
            await pilot.press("enter")
            await until(pilot, lambda: "c on the bench  16 GiB" in shown(app))
            await pilot.press("2", "escape")
            await until(pilot, lambda: isinstance(app.screen, TriesScreen))
            # What is known of the modules is kept although the try is not.
            await until(pilot, lambda: "ecc" in app.shop.jobs.job("0427").tries.log.modules[-1].words)

    async def found_again():
        async with running(shop_path) as (app, pilot):
            await open_job(app, pilot, "0427")
            await pilot.press("t", "n")
            await until(pilot, lambda: isinstance(app.screen, TryEntryScreen) and "● it does not start" in shown(app))
            await pilot.press("enter")
            await until(pilot, lambda: len(app.shop.jobs.job("0427").tries.log.tries) == 4)
            await until(pilot, lambda: not app.shop.drafts.text("try:0427"))

    go(begun)
    go(found_again)


async def test_a_try_that_the_store_refuses_stays_a_draft(shop_path, monkeypatch):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0427")
        await pilot.press("t", "n")
        await until(pilot, lambda: isinstance(app.screen, TryEntryScreen))

        def refused(*_):
            raise ShopError("the disk is full", "Make room")

        monkeypatch.setattr(app.shop.jobs, "keep_tries", refused)
        await pilot.press("2", "enter")
        await until(pilot, lambda: any("the disk is full" in words for words in notices(app)))
        assert begun_from_json(app.shop.drafts.text("try:0427"))[0].started is Started.NO


async def test_a_second_try_is_begun_while_the_first_is_still_on_its_way_to_the_store(shop_path, monkeypatch):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0427")
        before = len(app.shop.jobs.job("0427").tries.log.tries)
        real, may_go_on = app.shop.jobs.keep_tries, threading.Event()

        def slow(*words):
            may_go_on.wait(20)
            return real(*words)

        monkeypatch.setattr(app.shop.jobs, "keep_tries", slow)
        await pilot.press("t")
        for keys in (("plus",), ("3",)):
            await until(pilot, lambda: isinstance(app.screen, TriesScreen))
            await pilot.press("n")
            await until(pilot, lambda: isinstance(app.screen, TryEntryScreen))
            if keys == ("plus",):
                await pilot.press("plus")
                app.screen.query_one("#entry-note", Input).value = "16 GB DDR4 2400 ecc"
                await pilot.press("enter")
                await until(pilot, lambda: "c on the bench  16 GiB" in shown(app))
                keys = ("2",)
            else:
                # Nothing of the first try came back, and the module that it added is known.
                assert "● it does not start" not in shown(app)
                assert "c on the bench  16 GiB" in shown(app)
                assert not any("is back" in words for words in notices(app))
            await pilot.press(*keys, "enter")
        may_go_on.set()
        await until(pilot, lambda: len(app.shop.jobs.job("0427").tries.log.tries) == before + 2)
        log = app.shop.jobs.job("0427").tries.log
        assert [attempt.started for attempt in log.tries[-2:]] == [Started.NO, Started.CYCLES]
        assert "ecc" in log.modules[-1].words
        await until(pilot, lambda: not app.shop.drafts.text("try:0427"))


async def test_enter_behind_a_try_waits_for_what_that_try_says(shop_path, monkeypatch):
    """The proposal of the log before it is not taken for the next one."""

    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0427")
        real, may_go_on = app.shop.jobs.keep_tries, threading.Event()

        def slow(*words):
            may_go_on.wait(20)
            return real(*words)

        await pilot.press("t")
        await until(pilot, lambda: isinstance(app.screen, TriesScreen) and "3 tries" in shown(app))
        view = app.screen
        await pilot.press("x")
        await until(pilot, lambda: "2 tries" in shown(app))
        await pilot.press("x")
        await until(pilot, lambda: "1 try" in shown(app) and "NEXT TRY" in shown(app))
        monkeypatch.setattr(app.shop.jobs, "keep_tries", slow)
        await pilot.press("n")
        await until(pilot, lambda: isinstance(app.screen, TryEntryScreen))
        await pilot.press("2", "enter")
        await until(pilot, lambda: app.screen is view)
        assert "2 tries" not in shown(app), "what is not kept yet is not shown as kept"
        await pilot.press("enter")
        await pilot.pause()
        assert app.screen is view
        may_go_on.set()
        await until(pilot, lambda: isinstance(app.screen, TryEntryScreen))
        log = log_of(app.shop.jobs.job("0427"))
        assert app.screen._tried.arrangement == next_try(log, app.shop.jobs.job("0427").card).arrangement
