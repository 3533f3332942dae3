"""The program in a real terminal: tmux sends the keys and reads the screen."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
import uuid

import pytest

pytestmark = pytest.mark.skipif(shutil.which("tmux") is None, reason="tmux is not installed")


class Terminal:
    """A tmux session of its own server, with one program in it."""

    def __init__(self, folder, *arguments, size=(128, 40)):
        self.socket = f"after-check-{uuid.uuid4().hex[:8]}"
        command = " ".join([sys.executable, "-m", "after_check", *arguments])
        environment = {**os.environ, "TERM": "screen-256color", "LANG": "C.UTF-8", "COLUMNS": "", "LINES": ""}
        self._tmux(
            "-f", "/dev/null", "new-session", "-d", "-x", str(size[0]), "-y", str(size[1]), "-c", str(folder), command, env=environment
        )

    def _tmux(self, *arguments, env=None):
        done = subprocess.run(["tmux", "-u", "-L", self.socket, *arguments], capture_output=True, text=True, env=env, check=False)
        return done.stdout

    def keys(self, *names):
        self._tmux("send-keys", *names)

    def type(self, text):
        self._tmux("send-keys", "-l", text)

    def text(self):
        return self._tmux("capture-pane", "-p")

    def wait(self, *parts, seconds=90):
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            text = self.text()
            if all(part in text for part in parts):
                return text
            time.sleep(0.1)
        raise AssertionError(f"{parts} did not appear in:\n{self.text()}")

    def open_job(self, word, *parts):
        """Search the bench and open the only match; returns what the job sheet shows once these parts are there."""
        self.keys("/")
        self.wait("search: a name")
        self.type(word)
        self.wait(f" {word}")
        self.keys("Enter")
        return self.wait(*parts)

    def wait_gone(self, part, seconds=90):
        deadline = time.monotonic() + seconds
        while part in self.text():
            assert time.monotonic() < deadline, f"{part} is still there:\n{self.text()}"
            time.sleep(0.1)

    def kill_program(self):
        pid = self._tmux("list-panes", "-F", "#{pane_pid}").strip()
        os.kill(int(pid), 9)

    def close(self):
        self._tmux("kill-server")


@pytest.fixture
def terminal(tmp_path):
    opened = []

    def start(*arguments, size=(128, 40)):
        opened.append(Terminal(tmp_path, *arguments, size=size))
        return opened[-1]

    yield start
    for one in opened:
        one.close()


def test_from_the_demo_to_a_turned_verdict_and_the_sheet(terminal, tmp_path):
    screen = terminal("demo", "--shop", str(tmp_path / "demo.db"))
    screen.wait("waits for you", "Sonogram desk", "Ringing-hut laptop")
    text = screen.open_job("sonogram", "NOT READY", "Turn profile 1 on in the firmware setup")
    assert "promised 6400 MT/s" in text
    screen.keys("r")
    screen.wait("after fitting", "empty and press enter")
    module = "24G DDR5-6400 std 4800 prof1 6400@CL32/1.40V"
    screen.type(f"A2={module}; B2={module}; run 6400; CL 32; dual; profile 1")
    screen.wait("would be ready")
    screen.keys("Enter")
    screen.wait("✓ READY", "Press h for the sheet")
    screen.keys("h")
    screen.wait("BEFORE IT GOES BACK", "Ready: what was promised is there")
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
    screen.wait("WRITE THE SHEET TO", "job-0417.pdf")
    screen.keys("Enter")
    screen.wait("written: job-0417.pdf")
    assert (tmp_path / "job-0417.pdf").read_bytes().startswith(b"%PDF")
    assert (tmp_path / "job-0417-drawings" / "tracks.svg").exists()
    screen.keys("Escape")
    screen.wait("FINDINGS")
    screen.keys("Escape")
    screen.wait("the bench")
    screen.keys("Escape")
    screen.wait("5 ready", "Ringing-hut laptop")


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


@pytest.mark.parametrize("size", [(80, 24), (200, 60)])
def test_small_and_large_terminals(terminal, tmp_path, size):
    screen = terminal("demo", "--shop", str(tmp_path / "demo.db"), size=size)
    screen.wait("Sonogram desk")
    screen.keys("Enter")
    screen.wait("NOT READY", "too little", "Turn profile 1 on")
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
    text = screen.wait("Sonogram desk", "not ready")
    assert "✗ 0417" in text
