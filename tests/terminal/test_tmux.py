"""The program in a real terminal: tmux sends the keys and reads the screen."""

from __future__ import annotations

import shutil

import pytest

from tests.helpers.needs import needs

pytestmark = needs(shutil.which("tmux") is not None, "tmux")


def test_from_the_demo_to_a_turned_verdict_and_the_sheet(terminal, tmp_path):
    screen = terminal("demo", "--shop", str(tmp_path / "demo.db"))
    screen.wait("waits for you", "Sonogram desk", "Ringing-hut laptop")
    text = screen.open_job("sonogram", "NOT READY", "profile 1 first")
    assert "promised 6400 MT/s" in text
    screen.keys("r")
    screen.wait("after fitting", "empty and press enter")
    module = "24G DDR5-6400 std 4800 prof1 6400@CL32/1.40V"
    screen.type(f"A2={module}; B2={module}; run 6400; CL 32; dual; profile 1")
    screen.wait("would be as promised, not tested")
    screen.keys("Enter")
    screen.wait("AS PROMISED, NOT TESTED", "Enter: test the memory")
    screen.keys("h")
    screen.wait("BEFORE IT GOES BACK", "As promised, not tested")
    screen.keys("o")
    screen.wait("YOUR OLD MODULES")
    screen.keys("Enter")
    screen.wait_gone("what became of the old modules")
    screen.keys("s")
    screen.wait("SIGN THE HAND-BACK")
    screen.type("I. Skarrow")
    screen.keys("Enter")
    screen.wait("◆ SIGNED", "I. Skarrow")
    screen.keys("e")
    screen.wait("WRITE THE SHEET TO", "job-0417-Larkfield-T2")
    screen.keys("Enter")
    screen.wait("written:")
    assert (tmp_path / "job-0417-Larkfield-T2.pdf").read_bytes().startswith(b"%PDF")
    assert (tmp_path / "job-0417-Larkfield-T2-drawings" / "tracks.svg").exists()
    screen.keys("Escape")
    screen.wait("FINDINGS")
    screen.keys("Escape")
    screen.wait("the bench")
    screen.keys("Escape")
    screen.wait("4 to hand back", "Ringing-hut laptop")


def test_a_killed_program_finds_its_job_as_it_was(terminal, tmp_path):
    shop = str(tmp_path / "shop.db")
    screen = terminal("--shop", shop)
    screen.wait("no job yet")
    screen.keys("n")
    screen.wait("NEW JOB 0001")
    screen.type("Tide desk, Larkfield T1")
    screen.keys("Enter")
    screen.wait("ON ARRIVAL")
    screen.type("A2=8G DDR4-2400; run 2400")
    screen.wait("8 GiB  DDR4-2400", "runs at 2400 MT/s")
    screen.keys("Enter")
    screen.wait("AS PROMISED")
    screen.type("2x8G DDR4-2400; dual")
    screen.wait("2 channels")
    screen.keys("Enter")
    screen.wait("Fit the memory")
    screen.kill_program()
    again = terminal("--shop", shop)
    again.wait("Tide desk")
    again.keys("Enter")
    again.wait("Larkfield T1", "Fit the memory", "of 16 GiB")


def test_a_first_job_in_plain_words_asked_once(terminal, tmp_path):
    shop = str(tmp_path / "shop.db")
    screen = terminal("--shop", shop)
    screen.wait("no job yet")
    screen.keys("n")
    screen.wait("Name, machine, customer")
    screen.type("Tide desk, Larkfield T1, Tide-gauge office")
    screen.keys("Enter")
    screen.wait("ON ARRIVAL")
    screen.type("one stick of 8gb ddr4 2400, runs at 2400 mhz")
    screen.wait("in the short form: 1x8G DDR4-2400; run 2400MHz")
    screen.keys("Enter")
    screen.wait("AS PROMISED")
    screen.type("add another 8gb, dual channel")
    screen.wait("in the short form: 2x8G; dual")
    screen.keys("Enter")
    screen.wait("Fit the memory")
    screen.keys("r")
    screen.wait("after fitting", "empty: this machine")
    screen.type("2x8gb ddr4, shows 1600 mhz, dual channel")
    screen.wait("? Does the memory run at 1600 MT/s")
    screen.keys("Enter")
    screen.wait("▲ Does the memory run at 1600 MT/s", "F7  run 3200MT/s")  # Nothing is kept before it is answered.
    screen.keys("F7")
    screen.wait("in the short form: 2x8G DDR4; run 3200MT/s; dual", "would be as promised, not tested")
    screen.keys("Enter")
    screen.wait("AS PROMISED, NOT TESTED", "16 of 16 GiB", "2 of 2")


@pytest.mark.parametrize("size", [(80, 24), (200, 60)])
def test_small_and_large_terminals(terminal, tmp_path, size):
    screen = terminal("demo", "--shop", str(tmp_path / "demo.db"), size=size)
    screen.wait("Sonogram desk")
    screen.keys("Enter")
    screen.wait("NOT READY", "too little", "profile 1 first")
    screen.keys("?")
    screen.wait("The job sheet", "take a reading")
    screen.keys("Escape")
    screen.wait("WHY, AND WHAT NEXT")
    screen.keys("q")
    screen.keys("Escape")
    screen.wait("waits for you")


def test_a_dumb_start_without_colour(terminal, tmp_path, monkeypatch):
    monkeypatch.setenv("NO_COLOR", "1")
    screen = terminal("demo", "--shop", str(tmp_path / "demo.db"))
    text = screen.wait("Sonogram desk", "▸ fix it")
    assert "✗ 0417" in text
