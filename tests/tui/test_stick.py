"""The stick in the application: seen on the bench, and what it shows on the customer's machine."""

from __future__ import annotations

import asyncio
import threading
from dataclasses import replace

import pytest

from after_check.casework.answers import answers_of
from after_check.casework.next_step import next_step_of
from after_check.domain.jobs import JobFacts
from after_check.domain.soak import SoakState
from after_check.shop.exchange import job_file
from after_check.shop.shop import Shop
from after_check.stick.contents import StickFolder
from after_check.stick.run import JobChoice, VisitPhase, VisitState
from after_check.tui import stick_here
from after_check.tui.charts.numerals import large, large_words
from after_check.tui.charts.soak import looked_lines
from after_check.tui.screens.bench import BenchScreen
from after_check.tui.screens.on_machine import OnMachinePane, OnMachineScreen
from after_check.tui.stick_app import OnMachineApp
from tests.helpers.demo import put_demo
from tests.helpers.pilot import go, notices, running, shown, until
from tests.soak.test_record import CLEAN, FAILED


def test_a_stick_is_seen_loaded_and_collected(shop_path, tmp_path, monkeypatch):
    root = tmp_path / "stick"
    (root / "after-check").mkdir(parents=True)
    place = None
    monkeypatch.setattr(stick_here, "stick_here", lambda: place)

    async def test():
        nonlocal place
        async with running(shop_path) as (app, pilot):
            await until(pilot, lambda: isinstance(app.screen, BenchScreen) and "Sonogram desk" in shown(app))
            assert "u stick" not in shown(app)
            place = root
            app.screen.look_for_stick()
            await until(pilot, lambda: "u stick" in shown(app))
            await pilot.press("u")
            await until(pilot, lambda: "THE STICK" in shown(app))
            await pilot.press("l")
            await until(pilot, lambda: any("jobs and" in words for words in notices(app)))
            # A machine that no job knew comes home with it.
            other = Shop.open(tmp_path / "other.db")
            other.jobs.add(JobFacts("S1", "From the stick", "Larkfield T9", "", ""))
            StickFolder(root).put_job(other.jobs.job("S1").uid, job_file(other, "S1"))
            other.close()
            await pilot.press("u")
            await until(pilot, lambda: "THE STICK" in shown(app))
            await pilot.press("c")
            await until(pilot, lambda: any(line.title == "From the stick" for line in app.shop.jobs.lines()))

    go(test)


def test_large_words_take_a_line_each_where_that_makes_them_larger():
    assert large_words("READY", 100, 20, 4) == large("READY", 100, 20, 4)
    lines = large_words("NOT READY", 76, 17, 4)
    assert len(lines) == 5 + 1 + 5 or len(lines) == 5
    assert max(len(line) for line in lines) <= 76
    assert large_words("NOT CHECKED YET", 100, 20, 4)
    assert large_words("READY", 10, 3) == []


class Visit:
    """A visit that says what it is told to say; only its state and its answers are looked at."""

    def __init__(self, state):
        self.state = state
        self.said = []
        self.over = threading.Event()

    def run(self):
        self.over.wait(30)

    def answer(self, number):
        self.said.append(number)

    def stop(self):
        self.said.append("stop")


def visit_shown(state, tmp_path, keys=(), size=(106, 33)):
    """Return what the screen shows for a state of a visit, and what the visit heard."""
    found = []
    visit = Visit(state)

    async def test():
        app = OnMachineApp(visit, tmp_path / "visit.db")
        async with app.run_test(size=size) as pilot:
            await until(pilot, lambda: isinstance(app.screen, OnMachineScreen) and "AFTER CHECK" in shown(app))
            for key in keys:
                await pilot.press(key)
            await asyncio.sleep(0.05)
            found.append(shown(app))
        visit.over.set()

    go(test)
    return found[0], visit.said


@pytest.mark.parametrize("size", [(80, 25), (106, 33), (160, 50)])
def test_a_test_under_way_shows_its_share_and_errors_at_once(tmp_path, size):
    under_way = replace(CLEAN, state=CLEAN.state.RUNNING, steps_done=2, step_share=0.0)
    text, said = visit_shown(VisitState(VisitPhase.TEST, "testing the memory", soak=under_way), tmp_path, ("s",), size)
    assert "◐ test its memory" in text
    assert "█" in text
    assert said == ["stop"]
    wrong = replace(FAILED, state=FAILED.state.RUNNING, blocks=(2,) * 20 + (3,) + (0,) * 3)
    text, _ = visit_shown(VisitState(VisitPhase.TEST, "testing", soak=wrong), tmp_path, (), size)
    assert "✗ ERRORS" in text
    # The memory as a map, where there is room beneath the letters that are read from across the room.
    assert ("MEMORY UNDER TEST" in text and text.count("╳") > 1) is (size[1] >= 30)


def test_a_question_takes_a_digit(tmp_path):
    choices = (JobChoice("0417", "Sonogram desk"), JobChoice("", "a new job"))
    text, said = visit_shown(VisitState(VisitPhase.ASK, "which job is this?", choices=choices, answer_until=1e12), tmp_path, ("2",))
    assert "1 0417 Sonogram desk" in text
    assert said == [""]


def test_a_failure_is_told_in_words(tmp_path):
    text, _ = visit_shown(VisitState(VisitPhase.FAILED, "the stick is full", problems=("make room",)), tmp_path)
    assert "✗ STOPPED" in text
    assert "the stick is full" in text
    assert "o switch off" in text


def test_the_verdict_of_a_job(tmp_path, shop_path):
    from after_check.casework.snapshot import take_snapshot

    shop = Shop.open(put_demo(shop_path))
    snapshot = take_snapshot(shop.jobs.job("0425"))
    text, _ = visit_shown(VisitState(VisitPhase.DONE, "done", snapshot.job, snapshot.job.soaks[-1].record, verdict=snapshot), tmp_path)
    assert "✗ NOT READY" in text
    assert "points at B2" in text
    # The same five answers and the same next step as on the job's own sheet.
    assert all(f"{one.question.value} {one.kind.mark}" in text for one in answers_of(snapshot))
    assert f"▸ {next_step_of(snapshot).words}" in text
    assert "LOOKED FOR" not in text
    sound = replace(CLEAN, looked=(1.0,) * 8 + (0.5,))
    text, _ = visit_shown(VisitState(VisitPhase.DONE, "done", snapshot.job, sound, verdict=snapshot), tmp_path)
    assert "LOOKED FOR  what would have shown" in text
    assert "faults that hide each other" in text
    assert OnMachinePane is not None
    shop.close()


@pytest.mark.parametrize(
    ("looked", "state", "said"),
    [
        ((1.0,) * 8 + (0.5,), SoakState.FINISHED, "Looked for: 8 of 9 kinds wholly; least: faults that hide each other 50%"),
        ((1.0,) * 9, SoakState.FINISHED, "Looked for: 9 of 9 kinds wholly"),
        ((0.0,) * 9, SoakState.RUNNING, "Looked for so far: none of 9 kinds yet"),
        ((0.996,) * 9, SoakState.RUNNING, "Looked for so far: 0 of 9 kinds wholly; least: stuck bits 99%"),
    ],
)
def test_what_was_looked_for_is_counted_where_the_kinds_do_not_fit(looked, state, said):
    """Half a list would say more than is so: the least of them is named."""
    record = replace(CLEAN, looked=looked, state=state)
    lines = [line.plain.strip() for line in looked_lines(record, 80, 4)]
    assert lines == [said]
    assert len(looked_lines(record, 80, 11)) == 11
