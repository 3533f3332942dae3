"""A room of machines in the application: opened, read, left, found again, a job made of one that differs."""

from __future__ import annotations

import csv
import threading

import pytest
from textual.widgets import OptionList

from after_check.sources import many
from after_check.tui.ask import AskDialog
from after_check.tui.job_sheet.screen import JobSheetScreen
from after_check.tui.room.screen import RoomScreen
from tests.tui.test_app import go, running, shown, until
from tests.tui.test_dialogs import answer

GOOD = "A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; total 32G"


@pytest.fixture
def folder(tmp_path):
    room = tmp_path / "readings"
    room.mkdir()
    for number in range(1, 31):
        (room / f"desk-{number:02d}.txt").write_text(GOOD)
    (room / "desk-07.txt").write_text("A1=16G DDR4-3200; A2=16G DDR4-3200; B1=-; B2=-; run 3200; total 32G")
    (room / "desk-13.txt").write_text("A2=16G DDR4-3200; B2=-; run 3200; total 16G")
    (room / "desk-21.txt").write_text("nothing of the kind")
    return room


async def open_room(app, pilot, folder):
    await until(pilot, lambda: app.screen._open)
    await pilot.press("r")
    await until(pilot, lambda: isinstance(app.screen, RoomScreen) and app.screen.is_current)
    await pilot.press("o")
    await answer(app, pilot, str(folder))


@pytest.mark.parametrize("size", [(80, 24), (128, 40)])
def test_the_three_that_differ_and_a_job_of_one(shop_path, folder, tmp_path, size):
    async def test():
        async with running(shop_path, size=size) as (app, pilot):
            await open_room(app, pilot, folder)
            await until(pilot, lambda: isinstance(app.screen, AskDialog) and "PROMISED FOR EACH MACHINE" in shown(app))
            await answer(app, pilot, "2x16G DDR4-3200; dual")
            await until(pilot, lambda: "27 are alike" in shown(app) and "3 differ from the rest" in shown(app))
            assert "27 ready" in shown(app)
            assert "2 not ready" in shown(app)
            assert "1 can't tell" in shown(app)
            await pilot.press("e")
            await answer(app, pilot, str(tmp_path / "room.pdf"))
            await until(pilot, lambda: (tmp_path / "room.csv").exists())
            rows = list(csv.reader((tmp_path / "room.csv").read_text(encoding="utf-8-sig").splitlines()))
            assert {row[0]: row[1] for row in rows[1:] if row[1] != "ready"} == {
                "desk-07": "not ready",
                "desk-13": "not ready",
                "desk-21": "can't tell yet",
            }
            machines = app.screen.query_one("#room-machines", OptionList)
            await until(pilot, lambda: app.screen._chosen is not None and app.screen._chosen.name == "desk-07")
            await pilot.press("down")
            await until(pilot, lambda: app.screen._chosen.name == "desk-13")
            assert machines.has_focus
            await pilot.press("j")
            await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
            await until(pilot, lambda: "desk-13" in shown(app) and "NOT READY" in shown(app))
            numbers = app.shop.numbers()
            made = app.shop.job(numbers[-1])
            assert (made.facts.title, made.facts.promise) == ("desk-13", "2x16G DDR4-3200; dual")

    go(test)


def test_a_room_that_was_left_is_found_again_and_goes_on(shop_path, folder):
    """A program that was left finds the room; a source that was mended meanwhile is read, the others are not."""

    async def first():
        async with running(shop_path) as (app, pilot):
            await open_room(app, pilot, folder)
            await until(pilot, lambda: isinstance(app.screen, AskDialog))
            await answer(app, pilot, "2x16G DDR4-3200; dual")
            await until(pilot, lambda: "27 ready" in shown(app))

    async def second():
        async with running(shop_path) as (app, pilot):
            await until(pilot, lambda: app.screen._open)
            await pilot.press("r")
            await until(pilot, lambda: "3 differ from the rest" in shown(app))
            await pilot.press("g")
            await until(pilot, lambda: "2 differ from the rest" in shown(app) and "28 ready" in shown(app))
            assert "1 can't tell" not in shown(app)

    go(first)
    (folder / "desk-21.txt").write_text(GOOD)
    (folder / "desk-01.txt").write_text("spoilt, and not read again")
    go(second)


def test_another_room_is_opened_while_one_is_read(shop_path, folder, tmp_path, monkeypatch):
    """The first room's readings are held up; what comes of them later does not show in the second."""
    other = tmp_path / "other"
    other.mkdir()
    for name in ("north", "south"):
        (other / f"{name}.txt").write_text(GOOD)
    go_on = threading.Event()
    really_take = many.take

    def held_up(source, access):
        if "desk" in source:
            go_on.wait()
        return really_take(source, access)

    monkeypatch.setattr(many, "take", held_up)

    async def test():
        async with running(shop_path) as (app, pilot):
            try:
                await open_room(app, pilot, folder)
                await until(pilot, lambda: isinstance(app.screen, AskDialog))
                await answer(app, pilot, "2x16G DDR4-3200; dual")
                await until(pilot, lambda: "0 of 30 read" in shown(app))
                await pilot.press("o")
                await answer(app, pilot, str(other))
                await until(pilot, lambda: isinstance(app.screen, AskDialog) and "PROMISED" in shown(app))
                await answer(app, pilot, "2x16G DDR4-3200; dual")
                await until(pilot, lambda: "2 are alike" in shown(app))
            finally:
                go_on.set()
            await pilot.pause(0.5)
            assert "desk-" not in shown(app)
            assert "2 machines" in shown(app)

    go(test)


@pytest.mark.parametrize(("source", "says"), [("missing", "cannot be read"), ("empty", "names no machine")])
def test_a_source_that_is_none_is_told(shop_path, tmp_path, source, says):
    (tmp_path / "empty").mkdir()

    async def test():
        async with running(shop_path) as (app, pilot):
            await open_room(app, pilot, tmp_path / source)
            await until(pilot, lambda: any(says in notice.message for notice in app._notifications))
            assert "press o and name a folder" in " ".join(shown(app).split())

    go(test)
