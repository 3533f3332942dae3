"""A soak in a real terminal: started, watched, paused, killed, and taken up again."""

from __future__ import annotations

import json
import os
import shutil
from pathlib import Path

from after_check.domain.jobs import JobFacts, Moment
from after_check.shop.shop import Shop
from after_check.sources.linux import read_this_machine
from tests.helpers.needs import needs

pytestmark = needs(shutil.which("tmux") is not None, "tmux")


def limit_memory(size):
    """Let a soak take no more than this on the computer of the tests."""
    settings = Path(os.environ["XDG_CONFIG_HOME"]) / "after-check" / "settings.toml"
    settings.parent.mkdir(parents=True)
    settings.write_text(f'soak_memory = "{size}"\n')


def test_from_the_finished_soak_to_the_signed_sheet(terminal, tmp_path):
    limit_memory("64M")
    shop = tmp_path / "demo.db"
    screen = terminal("demo", "--shop", str(shop))
    screen.wait("Visitor kiosk")
    screen.open_job("kiosk", "WHY, AND WHAT NEXT", "AS PROMISED, NOT TESTED")
    screen.keys("h")
    # The line of what is missing leads to the soak.
    screen.wait("no memory test was run", "enter: test the memory")
    screen.keys("Enter")
    # The kiosk is another computer than this one: what a test said that ran on it is typed.
    screen.wait("WHICH MEMORY TEST?", "result")
    screen.keys("r")
    screen.wait("A MEMORY TEST THAT RAN ON IT")
    screen.type("2 h, 3 passes, no errors")
    screen.keys("Enter")
    screen.wait("the result is kept")
    screen.keys("Escape")
    screen.wait("WHY, AND WHAT NEXT")
    screen.keys("h")
    screen.wait("BEFORE IT GOES BACK", "no speed was measured")
    screen.wait_gone("no memory test was run")
    screen.keys("o")
    screen.wait("YOUR OLD MODULES")
    screen.keys("Enter")
    screen.wait_gone("YOUR OLD MODULES")
    screen.wait_gone("what became of the old modules")
    screen.keys("s")
    screen.wait("SIGN THE HAND-BACK")
    screen.type("I. Skarrow")
    screen.keys("Enter")
    screen.wait("SIGNED", "revision 1")
    job = Shop.open(shop).jobs.job("0420")
    assert job.frozen
    assert (job.now.reading.soak.value.errors, job.now.reading.soak.value.minutes) == (0, 120)
    assert job.hand_back.old_modules == "given back to you"
    signed = json.loads(Shop.open(shop).signing.document("0420", 1))
    assert signed["readings"][-1]["reading"]["soak"]["value"]["passes"] == 3
    assert job.revisions[0].signed_by == "I. Skarrow"


def test_start_watch_pause_kill_and_take_up_again(terminal, tmp_path):
    limit_memory("256M")
    shop = tmp_path / "shop.db"
    # A job of this very computer: its test counts, and nothing is asked.
    own = Shop.open(shop)
    own.jobs.add(JobFacts("0417", "Sonogram desk"), ((Moment.FITTED, read_this_machine()),))
    own.close()
    screen = terminal("--shop", str(shop))
    screen.wait("Sonogram desk")
    screen.keys("Enter")
    screen.wait("WHY, AND WHAT NEXT")
    screen.keys("s")
    screen.wait("WHICH MEMORY TEST?", "overnight")
    screen.keys("2")
    screen.wait("▮ MATS+", "GB/s", "left", seconds=60)
    screen.keys("Space")
    screen.wait("PAUSED")
    screen.kill_program()
    again = terminal("--shop", str(shop))
    again.wait("full memory test interrupted at")
    again.open_job("sonogram", "WHY, AND WHAT NEXT")
    again.keys("s")
    again.wait("INTERRUPTED", "take up")
    done = Shop.open(shop).jobs.job("0417").soak.record.steps_done
    again.keys("t")
    again.wait("RUNS, CLEAN SO FAR", seconds=60)
    again.keys("x")
    again.wait("OF A PASS", "new test", seconds=60)
    after = Shop.open(shop).jobs.job("0417").soak.record
    assert after.state.value == "stopped"
    assert after.steps_done >= done >= 1
