"""A shop behind a line that stalls: the screen answers, what was typed stays, and the program is left at once."""

from __future__ import annotations

import shutil
import time
from pathlib import Path

import pytest

from after_check.domain.jobs import JobFacts
from after_check.shop.shop import Shop
from tests.helpers.bad_line import BadLine
from tests.helpers.needs import needs
from tests.postgres import tools

pytestmark = [needs(tools() is not None, "PostgreSQL"), needs(shutil.which("tmux") is not None, "tmux")]


@pytest.fixture
def line(server):
    one = BadLine(server.port)
    shop = Shop.open(server.fresh_shop("stalled"))
    shop.jobs.add(JobFacts("0501", "Tide desk", "Larkfield T1", "", "2x16G DDR4-3200; dual"))
    shop.close()
    yield one
    one.stalled = False
    one.close()


def test_it_is_left_while_the_line_still_stalls_and_what_was_typed_is_there_again(terminal, line):
    address = f"postgresql://bench@127.0.0.1:{line.port}/stalled"
    screen = terminal("--shop", address)
    screen.open_job("tide", "PROMISE")
    screen.keys("h")
    screen.wait("BEFORE IT GOES BACK")
    line.stalled = True
    screen.keys("n")
    screen.wait("A NOTE")
    screen.type("Thank you for waiting")
    screen.wait("Thank you for waiting")
    screen.keys("Enter")
    # The call hangs from here on; keys are still answered.
    screen.wait_gone("A NOTE")
    pid = int(screen._tmux("list-panes", "-F", "#{pane_pid}").strip())
    screen.keys("C-q")
    deadline = time.monotonic() + 9
    while _runs(pid) and time.monotonic() < deadline:
        time.sleep(0.1)
    assert not _runs(pid), "it waits for a server that says nothing"
    line.cut()
    line.stalled = False
    again = terminal("--shop", address)
    again.open_job("tide", "PROMISE")
    again.keys("h")
    again.wait("BEFORE IT GOES BACK")
    again.keys("n")
    again.wait("Thank you for waiting")


def _runs(pid):
    """Whether a process runs; one that ended and that nobody has asked after yet does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False
