"""Typing in one's own words: examples on the empty page, chips beneath the line, questions, and the board by hand."""

from __future__ import annotations

import shutil

from textual.events import Paste
from textual.widgets import Input

from after_check.tui.dialogs.help import HelpScreen
from after_check.tui.screens.editor import JobEditorScreen
from after_check.tui.screens.hand_back import HandBackScreen
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.screens.reading import ReadingScreen
from after_check.tui.widgets.entry import Chips, EntryLine
from tests.helpers.needs import needs
from tests.helpers.photos import SYSTEM_PAGE, photo
from tests.helpers.pilot import on_paper, open_job, running, shown, until


async def new_job(app, pilot):
    await until(pilot, lambda: "waits for the customer" in shown(app))
    await pilot.press("n")
    await until(pilot, lambda: isinstance(app.screen, JobEditorScreen) and "NEW JOB 0" in shown(app))
    await pilot.press(*"Till", "enter")
    await until(pilot, lambda: app.focused is not None and app.focused.id == "arrival")


async def test_an_empty_line_shows_what_people_say_and_tab_takes_it_over(shop_path):
    async with running(shop_path) as (app, pilot):
        await new_job(app, pilot)
        await until(pilot, lambda: "People say here" in shown(app))
        line = app.screen.query_one("#arrival", EntryLine)
        seen = []
        for _ in range(4):
            await pilot.press("tab")
            seen.append(line.value)
        assert len(set(seen[:3])) == 3
        assert seen[3] == ""
        await pilot.press("tab")
        assert line.value == seen[0]
        # Something of one's own is not taken away by tab, which goes on to the next line.
        await pilot.press("space", "tab")
        assert app.focused.id == "promise"
        assert line.value == seen[0] + " "


async def test_chips_say_what_was_understood_and_are_changed_by_key(shop_path):
    async with running(shop_path) as (app, pilot):
        await new_job(app, pilot)
        line = app.screen.query_one("#arrival", EntryLine)
        line.value = "two sticks of 8gb ddr4 2400"
        await until(pilot, lambda: "2 × 8 GiB" in shown(app))
        assert "usually said next: runs at?  channels?" in shown(app)
        await pilot.press("down", "right", "enter")
        await until(pilot, lambda: "DDR4-2666" in shown(app))
        choice = next(index for index, each in enumerate(app.focused.pieces[1].choices, 1) if each.words == "DDR4-2666")
        await pilot.press(str(choice))
        await until(pilot, lambda: line.value == "2x8G DDR4-2666")
        await pilot.press("escape")
        assert app.focused is line
        line.value += "; run 2666; dual"
        await until(pilot, lambda: "dual channel" in shown(app) and "channels?" not in shown(app))
        await pilot.press("enter", "enter", "enter", "enter", "enter", "ctrl+s")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        arrival = app.shop.jobs.job(app.shop.jobs.lines()[0].number).arrival
        kept = {part.name: part.data.decode() for part in app.shop.jobs.evidence(arrival.id)}
        # The words as they were typed stay, though a chip wrote the line again.
        assert kept == {"notation": "2x8G DDR4-2666; run 2666; dual", "typed 1": "two sticks of 8gb ddr4 2400"}


async def test_a_chip_names_the_stretch_that_it_came_from(shop_path):
    async with running(shop_path) as (app, pilot):
        await new_job(app, pilot)
        line = app.screen.query_one("#arrival", EntryLine)
        line.value = "two sticks of 8gb each, usable is 15.8"
        await until(pilot, lambda: "2 × 8 GiB" in shown(app))
        await pilot.press("down")
        await until(pilot, lambda: "said: two … 8gb" in shown(app))
        assert underlined(line) == ["two", "8gb"]
        await pilot.press("right")
        await until(pilot, lambda: "said: 15.8" in shown(app))
        assert underlined(line) == ["15.8"]
        await pilot.press("escape")
        await until(pilot, lambda: app.focused is line)
        assert underlined(line) == []


def underlined(line):
    """What of the line is drawn underlined, as the toolkit gives it."""
    return [segment.text.strip() for segment in line.render_line(0) if segment.style and segment.style.underline and segment.text.strip()]


async def test_a_chip_says_under_the_mouse_what_it_might_be(shop_path):
    async with running(shop_path) as (app, pilot):
        await new_job(app, pilot)
        app.screen.query_one("#arrival", EntryLine).value = "two sticks of 8gb ddr4 2400"
        await until(pilot, lambda: "2 × 8 GiB" in shown(app))
        chips = app.screen.query_one("#arrival-chips", Chips)
        await pilot.hover(chips, offset=(16, 0))
        await until(pilot, lambda: "Understood: DDR4-2400. Instead: DDR4-1600" in str(chips.tooltip))
        await pilot.hover(chips, offset=(2, 1))
        await until(pilot, lambda: chips.tooltip is None)


async def test_the_chips_of_the_promise_belong_to_the_promise(shop_path):
    async with running(shop_path) as (app, pilot):
        await new_job(app, pilot)
        app.screen.query_one("#arrival", Input).value = "1x8gb ddr4 2400"
        await pilot.press("enter")
        promise = app.screen.query_one("#promise", EntryLine)
        assert app.focused is promise
        promise.value = "add another 8gb"
        await until(pilot, lambda: app.screen.query_one("#promise-chips", Chips).display)
        assert not app.screen.query_one("#arrival-chips", Chips).display
        await pilot.press("down", "enter")
        await until(pilot, lambda: "1 ×" in shown(app))
        await pilot.press("escape", "escape")
        assert app.focused is promise


async def test_a_question_mark_in_an_empty_line_shows_the_keys_and_is_text_elsewhere(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        await pilot.press("question_mark")
        await until(pilot, lambda: isinstance(app.screen, HelpScreen))
        await pilot.press("escape")
        line = app.screen.query_one("#reading-line", EntryLine)
        line.focus()
        await pilot.press(*"A1", "equals_sign", "question_mark")
        assert line.value == "A1=?"


async def test_a_board_is_filled_by_hand_without_a_line(shop_path):
    async with running(shop_path) as (app, pilot):
        await new_job(app, pilot)
        line = app.screen.query_one("#arrival", EntryLine)
        await pilot.press("f4")
        await until(pilot, lambda: line.value == "slot 1=?; slot 2=?; slot 3=?; slot 4=?")
        await pilot.press("down", "enter")
        await until(pilot, lambda: "WHAT IS IN slot 2" in shown(app) and "1 8 GiB" in shown(app))
        await pilot.press("1")
        await until(pilot, lambda: "1 DDR4" in shown(app))
        await pilot.press("1")
        await until(pilot, lambda: "1 3200 MT/s" in shown(app))
        await pilot.press("1")
        await until(pilot, lambda: line.value == "slot 1=?; slot 2=8G DDR4-3200; slot 3=?; slot 4=?")
        # Beside it, the same is the likeliest: three times the first key.
        await pilot.press("down", "down", "enter")
        await until(pilot, lambda: "WHAT IS IN slot 4" in shown(app))
        await pilot.press("1", "1", "1")
        await until(pilot, lambda: line.value.endswith("slot 4=8G DDR4-3200"))
        await pilot.press("enter")
        await until(pilot, lambda: "WHAT IS IN slot 4" in shown(app))
        await pilot.press("e")
        await until(pilot, lambda: line.value.endswith("slot 4=-"))
        await pilot.press("escape")
        assert app.focused is line


async def test_escape_takes_back_slots_that_were_only_filled_in(shop_path):
    async with running(shop_path) as (app, pilot):
        await new_job(app, pilot)
        line = app.screen.query_one("#arrival", EntryLine)
        line.value = "2x8G DDR4-2400; run 2400"
        await until(pilot, lambda: "2 × 8 GiB" in shown(app))
        await pilot.press("f4")
        # As many slots as modules, whose names tell no channel.
        await until(pilot, lambda: line.value == "slot 1=8G DDR4-2400; slot 2=8G DDR4-2400; run 2400")
        await pilot.press("escape")
        await until(pilot, lambda: line.value == "2x8G DDR4-2400; run 2400" and app.focused is line)
        await pilot.press("f4", "delete", "escape")
        await until(pilot, lambda: line.value == "slot 1=-; slot 2=8G DDR4-2400; run 2400")


async def test_firmware_page_and_system_are_two_lines_of_one_reading(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        app.screen.query_one("#reading-line", EntryLine).value = "A=8G DDR4-3200; B=8G DDR4-3200; run 3200; total 16G; dual"
        await pilot.press("f3")
        system = app.screen.query_one("#reading-system", EntryLine)
        await until(pilot, lambda: system.has_focus)
        system.value = "15.8 GB usable, something odd"
        await pilot.press("enter")
        await until(pilot, lambda: "what the system shows" in shown(app))
        system.value = "15.8 GB"
        await until(pilot, lambda: "usable 15.8 GiB" in shown(app))
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        await until(pilot, lambda: app.screen.snapshot is not None and app.screen.snapshot.job.now is not None)
        job = app.screen.snapshot.job
        now = job.now.reading
        assert (now.total_bytes.value, round(now.usable_bytes.value / 2**30, 1)) == (16 << 30, 15.8)
        assert now.usable_bytes.where == "system"
        assert [part.data.decode() for part in app.shop.jobs.evidence(job.now.id)][-1] == "15.8 GB"


async def test_what_is_not_understood_is_kept_as_a_note_by_key(shop_path):
    async with running(shop_path) as (app, pilot):
        await new_job(app, pilot)
        line = app.screen.query_one("#arrival", EntryLine)
        line.value = "two sticks of 8gb ddr4, wobbly lid"
        await until(pilot, lambda: "keeps it as a note" in shown(app))
        await pilot.press("f8")
        await until(pilot, lambda: line.value == 'two sticks of 8gb ddr4; note "wobbly lid"')
        await until(pilot, lambda: "keeps it as a note" not in shown(app) and "2 × 8 GiB" in shown(app))


@needs(shutil.which("tesseract") is not None, "tesseract")
async def test_a_photo_is_looked_at_before_anything_is_kept(shop_path, tmp_path):
    page = tmp_path / "page.jpg"
    page.write_bytes(photo(SYSTEM_PAGE))

    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        readings = len(app.screen.snapshot.job.readings)
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        line = app.screen.query_one("#reading-line", EntryLine)
        line.value = str(page)
        await pilot.press("enter")
        await until(pilot, lambda: "compare the line with the picture" in shown(app))
        assert "Slots used: 2 of 4" in line.value
        assert len(app.shop.jobs.job("0418").readings) == readings
        line.value = line.value.replace("2667", "2666")
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        await until(pilot, lambda: len(app.shop.jobs.job("0418").readings) == readings + 1)
        kept = app.shop.jobs.evidence(app.shop.jobs.job("0418").readings[-1].id)
        assert [part.name for part in kept] == ["notation", "photo", "photo, recognised"]
        assert kept[1].data == page.read_bytes()


async def test_the_first_start_is_noted_with_a_key_each(shop_path):
    """The notice and cleared settings are two things; both and how it started are kept with the reading, whatever it was read from."""

    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        await pilot.press("f5")
        await until(pilot, lambda: "THE FIRST START" in shown(app))
        await pilot.press("1", "2", "2", "4", "enter")
        await until(pilot, lambda: "notice: amount of memory changed, it started slowly" in shown(app))
        app.screen.query_one("#reading-line", EntryLine).value = "2x8G DDR4-3200; run 3200; dual; total 16G"
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and "The start took long" in shown(app))
        now = app.shop.jobs.job("0418").now.reading
        assert (now.memory_changed.value, now.settings_reset, now.start.value) == (True, None, "slow")
        await pilot.press("h")
        await until(pilot, lambda: isinstance(app.screen, HandBackScreen) and "takes longer than usual" in on_paper(app))


async def test_what_is_left_aside_is_told_with_its_reason_and_a_question_is_answered_by_key(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        line = app.screen.query_one(EntryLine)
        line.value = "was 8gb, now 2 sticks of 24gb ddr5 3200mhz dual"
        await until(pilot, lambda: "left aside: “8gb”: it was so before" in shown(app))
        struck = line.highlighter.aside
        assert [line.value[start:end] for start, end, _ in struck] == ["8gb"]
        assert "Is 3200 MHz the rate, or the clock of 6400?" in shown(app)
        assert "or something else: type it" in shown(app)
        await pilot.press("f7")
        await until(pilot, lambda: "DDR5-6400" in line.value)
        assert "Is 3200 MHz" not in shown(app)


async def test_a_table_that_is_pasted_is_taken_with_all_its_lines(shop_path):
    table = "Slot\tSize\tType\tSpeed\nA1\t24 GB\tDDR5\t6400\nB1\t24 GB\tDDR5\t6400\nA2\t-\t-\t-\n"
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        line = app.screen.query_one(EntryLine)
        line.post_message(Paste(table))
        await until(pilot, lambda: "A1: 24 GiB DDR5-6400 A2: empty B1: 24 GiB DDR5-6400" in " ".join(shown(app).split()))
