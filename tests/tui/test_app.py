"""The real application through Textual's pilot."""

from __future__ import annotations

import sqlite3
import threading
from dataclasses import replace

import pytest
from textual.widgets import Input, TextArea

from after_check.domain.jobs import JobFacts, Moment
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from after_check.standins.machines import MACHINES
from after_check.tui.screens.editor import JobEditorScreen
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.theme import THEME_WORDS
from after_check.tui.widgets.card_board import CardDrawing
from after_check.tui.widgets.job_sheet_panes import BoardPane, FindingsList, ReasonPane, TracksPane
from tests.conftest import SAMPLES
from tests.helpers.pilot import go, notices, open_job, running, shown, until
from tests.standards import spd_images


@pytest.mark.parametrize("size", [(128, 40), (80, 24), (200, 60)])
async def test_the_bench_shows_jobs_by_whose_turn_it_is(shop_path, size):
    async with running(shop_path, size=size) as (app, pilot):
        await until(pilot, lambda: "Sonogram" in shown(app))
        text = shown(app)
        assert text.index("waits for you") < text.index("Sonogram desk")
        if size[1] > 24:  # Of a small screen those who wait for you fill all.
            assert text.index("Sonogram desk") < text.index("waits for the customer") < text.index("Ringing-hut laptop")
        assert "━●" in text or "●╌" in text


async def test_search_as_it_is_typed_and_back(shop_path):
    async with running(shop_path) as (app, pilot):
        await until(pilot, lambda: "Sonogram" in shown(app))
        await pilot.press("slash", *"qm5-6400-24")
        await until(pilot, lambda: "Ringing" not in shown(app))
        assert "Sonogram desk" in shown(app)
        await pilot.press("x")
        await until(pilot, lambda: "no job matches" in shown(app))
        await pilot.press("escape")
        await until(pilot, lambda: "Ringing-hut laptop" in shown(app))


@pytest.mark.parametrize("size", [(128, 40), (80, 24)])
async def test_the_job_sheet_explains_the_worst_finding(shop_path, size):
    async with running(shop_path, size=size) as (app, pilot):
        await open_job(app, pilot, "0417")
        await until(pilot, lambda: "profile 1 first" in shown(app))
        text = shown(app)
        for part in ("NOT READY", "1 to fix", "too little", "4800"):
            assert part in text
        if size[0] > 100:
            assert "24 GiB" in text
            await pilot.press("down", "down")  # The second thing that follows from the cleared settings is the rate.
            await until(pilot, lambda: "◂ this is the limit" in shown(app) and "See to that first" in shown(app))
        else:
            await pilot.press("b")
            assert "24 GiB" in shown(app)


async def test_the_finding_points_at_its_slot(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0419")
        await until(pilot, lambda: "▲ ◌ f, not seen" in shown(app))
        assert app.screen.query_one(BoardPane).pointed_at == {"D1"}
        await pilot.press("down", "down")
        await until(pilot, lambda: app.screen.query_one(BoardPane).pointed_at == frozenset())


async def test_other_boards_and_sources_of_values(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await until(pilot, lambda: "ChannelB-DIMM0" in shown(app))
        assert shown(app).count("8 GiB  DDR4-3200") == 2
        await pilot.press("o")
        await until(pilot, lambda: shown(app).count("8 GiB  DDR4-3200") == 1)
        await pilot.press("w")
        await until(pilot, lambda: "from: firmware table" in shown(app))
        assert app.screen.query_one(TracksPane).with_sources


async def test_a_typed_reading_turns_the_verdict(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        await pilot.press("r")
        line = "A2=24G DDR5-6400 std 4800 prof1 6400@CL32; B2=24G DDR5-6400 std 4800 prof1 6400@CL32; run 6400; dual; profile 1"
        app.screen.query_one(Input).value = line
        await until(pilot, lambda: "would be as promised, not tested" in shown(app))
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and "? AS PROMISED, NOT TESTED" in shown(app))
        await pilot.press("escape")
        await until(pilot, lambda: "3 to hand back" in shown(app))
    assert len(Shop.open(shop_path).jobs.job("0417").readings) == 3


async def test_a_reading_that_is_not_understood_changes_nothing(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        await pilot.press("r", *"2x24G; wobble", "enter")
        await until(pilot, lambda: "'wobble' is not understood" in shown(app))
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
    assert len(Shop.open(shop_path).jobs.job("0417").readings) == 2


async def test_a_folder_and_this_machine_are_read_from_the_job_sheet(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0419")
        await pilot.press("r")
        app.screen.query_one(Input).value = str(SAMPLES / "0419" / "arrival")
        await until(pilot, lambda: "Press enter to read it" in shown(app))
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
        await pilot.press("r", "enter")
        # The server is another computer than this one; here somebody says that it is the machine all the same.
        await until(pilot, lambda: "ANOTHER COMPUTER" in shown(app))
        await pilot.press("h")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and len(app.screen.snapshot.job.readings) == 4)
    origins = [kept.reading.origin for kept in Shop.open(shop_path).jobs.job("0419").readings]
    assert origins[2].endswith("0419/arrival")
    assert origins[3] == "this machine"


async def test_a_new_job_draws_itself_and_is_kept(shop_path):
    async with running(shop_path, demo=False) as (app, pilot):
        await until(pilot, lambda: "no job yet" in shown(app))
        await pilot.press("n", *"Tide desk, Larkfield T1, Tide-gauge office", "enter")
        await pilot.press(*"A2=8G DDR4-2400; B2=-; run 2400")
        await until(pilot, lambda: "8 GiB  DDR4-2400" in shown(app) and "empty" in shown(app))
        await pilot.press("enter", *"2x8G DDR4-2400; dual", "enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and "Tide desk" in shown(app))
        await until(pilot, lambda: "Fit the memory" in shown(app))
    shop = Shop.open(shop_path)
    job = shop.jobs.job("0001")
    assert job.facts == JobFacts("0001", "Tide desk", "Larkfield T1", "Tide-gauge office", "2x8G DDR4-2400; dual")
    assert job.arrival is not None
    assert shop.drafts.text("new job") == ""


def test_an_unfinished_job_is_brought_back_after_a_kill(shop_path):
    async def type_it():
        async with running(shop_path, demo=False) as (app, pilot):
            await until(pilot, lambda: "no job yet" in shown(app))
            await pilot.press("n", *"Half a desk")
            await until(pilot, lambda: "Half a desk" in Shop.open(shop_path).drafts.text("new job"))
            # No leaving of any kind: the program is simply gone.

    async def look():
        async with running(shop_path, demo=False) as (app, pilot):
            await until(pilot, lambda: "no job yet" in shown(app))
            await pilot.press("n")
            await until(pilot, lambda: "Half a desk" in shown(app))

    go(type_it)
    go(look)


async def test_a_promise_that_is_kept_by_two_presses_in_a_hurry_is_one_change(shop_path, monkeypatch):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        await pilot.press("e")
        await until(pilot, lambda: isinstance(app.screen, JobEditorScreen))
        editor = app.screen
        editor.query_one("#names", Input).value = "Kept twice"
        change, has_written, answers = app.shop.jobs.change_facts, threading.Event(), threading.Event()

        def slowly(job, facts):
            """A store that has written, and whose answer is on its way."""
            changed = change(job, facts)
            has_written.set()
            answers.wait(20)
            return changed

        monkeypatch.setattr(app.shop.jobs, "change_facts", slowly)
        await pilot.press("ctrl+s")
        await until(pilot, has_written.is_set)
        await pilot.press("ctrl+s")
        await pilot.pause()
        answers.set()
        await until(pilot, lambda: not isinstance(app.screen, JobEditorScreen))
        assert not any("changed somewhere else" in words for words in notices(app))
    assert Shop.open(shop_path).jobs.job("0417").facts.title == "Kept twice"


async def test_a_promise_that_contradicts_itself_is_not_kept(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await pilot.press("e")
        await until(pilot, lambda: app.screen.query("#promise"))
        app.screen.query_one("#promise", Input).value = "2x8G; total 64G"
        await pilot.press("enter")
        await until(pilot, lambda: "add up to 16 GiB" in shown(app))
        app.screen.query_one("#promise", Input).value = "2x16G; dual"
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and "NOT READY" in shown(app))


async def test_themes_and_keys(shop_path):
    async with running(shop_path) as (app, pilot):
        await until(pilot, lambda: "Sonogram" in shown(app))
        seen = [app.theme]
        for _ in range(2):
            await pilot.press("ctrl+t")
            seen.append(app.theme)
        assert sorted(seen) == sorted(THEME_WORDS)
        await pilot.press("question_mark")
        await until(pilot, lambda: "search as you type" in shown(app))
        await pilot.press("escape")
        remembered = app.theme
    async with running(shop_path) as (app, _):
        assert app.theme == remembered


async def test_outside_text_is_never_markup(shop_path):
    shop = Shop.open(shop_path)
    evil = 'A2=16G DDR4-3200 maker "[bold red]Evil[/]" part "\x1b[31m"; run 3200'
    facts = JobFacts("0666", "[reverse]Title[/reverse]", "[link=x]T1", "c", "16G DDR4-3200")
    shop.jobs.add(facts, ((Moment.FITTED, take_notation(evil)),))

    async with running(shop_path, demo=False) as (app, pilot):
        await until(pilot, lambda: "[reverse]Title[/reverse]" in shown(app))
        await open_job(app, pilot, "0666")
        # Where the bar has no room for the maker, the view of the modules has it.
        await pilot.press("m")
        await until(pilot, lambda: "[bold red]Evil[/]" in shown(app))


async def test_a_store_that_cannot_be_used_ends_with_a_sentence(tmp_path):
    path = tmp_path / "foreign.db"
    with sqlite3.connect(path) as connection:
        connection.execute("CREATE TABLE t (id INTEGER)")

    async with running(path, demo=False) as (app, _):
        assert "not After Check's" in app.failure


async def test_a_store_that_is_locked_says_so_and_keeps_what_was_typed(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        await pilot.press("r", *"2x24G DDR5-6400; run 6400")
        holder = sqlite3.connect(shop_path, isolation_level=None)
        holder.execute("BEGIN EXCLUSIVE")
        await pilot.press("enter")
        # The draft may be told to have failed before the reading is.
        await until(pilot, lambda: "another process is writing" in shown(app) and not app.screen.is_busy)
        assert app.screen.query_one(Input).value == "2x24G DDR5-6400; run 6400"
        holder.execute("ROLLBACK")
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))


async def test_ten_thousand_jobs_are_drawn_and_searched(shop_path):
    shop = Shop.open(shop_path)
    shop.jobs.add(JobFacts("1", "Template"))
    shop.close()
    with sqlite3.connect(shop_path) as connection:
        connection.execute(
            "WITH RECURSIVE n(i) AS (SELECT 2 UNION ALL SELECT i + 1 FROM n WHERE i < 10000) "
            "INSERT INTO jobs (number, title, machine, customer, promise, created_at, changed_at, version, line, search, "
            "waits_for, latest, judged_by, uid) "
            "SELECT i, 'Job ' || i, '', '', '', created_at, changed_at, 1, "
            "replace(line, 'Template', 'Job ' || i), "
            "'job ' || i, waits_for, latest, judged_by, printf('%036d', i) FROM n, jobs WHERE jobs.number = '1'"
        )

    async with running(shop_path, demo=False) as (app, pilot):
        await until(pilot, lambda: "10000" in shown(app).replace(",", ""))
        await pilot.press("end")
        await pilot.press("slash", *"job 7777")
        await until(pilot, lambda: "Job 7777" in shown(app))


async def test_reasons_and_findings_are_there_for_each_severity(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0426")
        await until(pilot, lambda: "subchannels" in shown(app))
        findings = app.screen.query_one(FindingsList)
        assert findings.option_count == 2
        findings.highlighted = 1
        await until(pilot, lambda: "source.unit" in shown(app))
        assert app.screen.query_one(ReasonPane)


async def test_a_board_is_corrected_on_its_drawing(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await pilot.press("r")
        line = app.screen.query_one("#reading-line", Input)
        line.value = "A1=16G DDR4-3200; A2=-; B1=-; B2=-; run 3200"
        await pilot.press("f4", "m", "down", "m")
        await until(pilot, lambda: line.value == "A1=-; A2=16G DDR4-3200; B1=-; B2=-; run 3200")
        await pilot.press("c", "down", "down", "v")
        await until(pilot, lambda: line.value.endswith("B2=16G DDR4-3200; run 3200"))
        await pilot.press("enter")
        await until(pilot, lambda: "WHAT IS IN B2" in shown(app))
        await pilot.press("w")
        words = app.screen.query_one("#reading-words", Input)
        await until(pilot, lambda: words.has_focus and words.value == "16G DDR4-3200")
        words.value = "8G DDR4-3200"
        await pilot.press("enter")
        await until(pilot, lambda: line.value.endswith("B2=8G DDR4-3200; run 3200"))
        await pilot.press("delete")
        await until(pilot, lambda: line.value.endswith("B2=-; run 3200"))
        await pilot.press("escape")
        assert line.has_focus


async def test_a_line_with_a_plus_is_added_to_the_last_reading(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0418")
        await pilot.press("r", *"+ profile off; reset")
        await until(pilot, lambda: "THE LAST READING WITH THIS ADDED" in shown(app) and "would not be ready" in shown(app))
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and "were cleared" in shown(app))
    job = Shop.open(shop_path).jobs.job("0418")
    assert job.now is not None
    assert len(job.now.reading.modules) == 2
    assert job.now.reading.profile is not None
    assert len(job.now.reading.evidence) > len(job.readings[1].reading.evidence)


async def test_a_maker_is_named_once_and_losing_values_stay_visible(shop_path, tmp_path):
    bench = MACHINES["0417"]()
    bench.machine = replace(bench.machine, slots={slot: one and replace(one, maker="") for slot, one in bench.machine.slots.items()})
    bench.write_tree(tmp_path / "tree")
    eeprom = tmp_path / "tree/sys/bus/i2c/drivers/spd5118/0-0050"
    eeprom.mkdir(parents=True)
    image = spd_images.ddr5_profiles(spd_images.ddr5())
    image[517:521] = bytes.fromhex("30A1F204")
    (eeprom / "eeprom").write_bytes(image)

    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        await pilot.press("r")
        app.screen.query_one("#reading-line", Input).value = str(tmp_path / "tree")
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and "3 to fix" in shown(app))
        await pilot.press("w")
        await until(pilot, lambda: "by SPD, which counts" in shown(app))
        await pilot.press("w", "n")
        await until(pilot, lambda: "bank 10, code 0x21" in shown(app))
        await pilot.press(*"Quillmark", "enter")
        await until(pilot, lambda: "Quillmark" in shown(app))


@pytest.mark.parametrize("size", [(128, 40), (80, 24)])
async def test_modules_and_ceilings(shop_path, size):
    async with running(shop_path, size=size) as (app, pilot):
        await open_job(app, pilot, "0421")
        await pilot.press("m")
        # CL17 at 2400 is 14.17 ns, CL16 at 2933 is 10.91 ns.
        await until(pilot, lambda: "first word (CL)" in shown(app) and "14.2 ns" in shown(app) and "10.9 ns" in shown(app))
        assert "◂" in shown(app)
        assert "TH4-2400-8" in shown(app)
        await pilot.press("escape", "c")
        await until(pilot, lambda: "WHAT LIMITS THE SPEED" in shown(app) and "machine, 2 a channel" in shown(app))
        assert "this is the limit" in shown(app)
        await pilot.press("escape")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))


async def test_a_card_is_made_from_the_reading_and_changes_the_judgement(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0426")
        await pilot.press("k")
        await until(pilot, lambda: "made from the reading" in shown(app) and "DDR5 LAPTOP" in shown(app))
        area = app.screen.query_one(TextArea)
        area.text = '[card]\nname = "DDR5 laptop"\n[memory]\ntotal = "lots"'
        await until(pilot, lambda: "memory.total is 'lots'" in shown(app))
        await pilot.press("ctrl+s")
        area.text = '[card]\nname = "DDR5 laptop"\n[memory]\ntotal = "16 GiB"'
        await until(pilot, lambda: "most in all            16 GiB" in shown(app))
        await pilot.press("ctrl+s")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and "32 GiB fitted, 16 GiB documented" in shown(app))
    shop = Shop.open(shop_path)
    assert shop.jobs.job("0426").card is not None
    assert "documented as the most" in {line.number: line for line in shop.jobs.lines()}["0426"].worst_title


async def test_a_card_is_filled_in_by_key(shop_path):
    """Without a line of TOML: down to a limit, one key for its value, the next, one in words; a gap says what it is good for."""

    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0426")
        await pilot.press("k")
        await until(pilot, lambda: "warns when more is fitted" in shown(app))
        assert not app.screen.query_one(TextArea).display
        slots = len(app.screen.query_one(CardDrawing).card.slots)
        await pilot.press(*["down"] * (slots + 2))
        await until(pilot, lambda: "▶ most in all" in shown(app) and "4 64 GiB" in shown(app))
        await pilot.press("4")
        await until(pilot, lambda: "most in all            64 GiB" in shown(app) and "▶ largest module" in shown(app))
        await pilot.press("enter")
        await until(pilot, lambda: "LARGEST MODULE" in shown(app))
        await pilot.press(*"lots", "enter")
        await until(pilot, lambda: "'lots' is no size" in shown(app))
        await pilot.press(*["backspace"] * 4, *"32", "enter")
        await until(pilot, lambda: "largest module         32 GiB" in shown(app))
        await pilot.press("down", "down", "down", "4")
        await pilot.press("ctrl+s")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
    card = Shop.open(shop_path).jobs.job("0426").card
    assert (card.total_bytes, card.module_bytes) == (64 << 30, 32 << 30)
    assert [(rate.per_channel, rate.rate_mts) for rate in card.rates] == [(1, 5600)]


async def test_a_card_is_corrected_on_its_drawing(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        await pilot.press("k")
        await until(pilot, lambda: "in which they are filled" in shown(app))
        before = [slot.name for slot in app.shop.jobs.job("0417").card.slots]
        await pilot.press("down", "minus", "enter")
        await until(pilot, lambda: "THE NAME OF THIS SLOT" in shown(app))
        app.screen.query_one(Input).value = "B9"
        await pilot.press("enter")
        await until(pilot, lambda: 'name = "B9"' in app.screen.query_one(TextArea).text)
        await pilot.press("ctrl+s")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen))
    assert before[:2] == ["A2", "B2"]
    assert [slot.name for slot in Shop.open(shop_path).jobs.job("0417").card.slots][:2] == ["B9", "A2"]


async def test_any_two_readings_are_compared(shop_path):
    async with running(shop_path) as (app, pilot):
        await open_job(app, pilot, "0417")
        await pilot.press("v")
        await until(pilot, lambda: "WHAT CHANGED" in shown(app) and "QM5-6400-24" in shown(app))
        assert "cleared" in shown(app)
        await pilot.press("x")
        await until(pilot, lambda: "−32" in shown(app))
        await pilot.press("up", "f")
        await until(pilot, lambda: "same reading" in shown(app))
