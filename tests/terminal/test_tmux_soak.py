"""A soak in a real terminal: started, watched, paused, killed, and taken up again."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import pytest

from after_check.shop.store import Shop
from tests.terminal.test_tmux import terminal  # noqa: F401 - the fixture

pytestmark = pytest.mark.skipif(shutil.which("tmux") is None, reason="tmux is not installed")


def test_start_watch_pause_kill_and_take_up_again(terminal, tmp_path):  # noqa: F811
    settings = Path(os.environ["XDG_CONFIG_HOME"]) / "after-check" / "settings.toml"
    settings.parent.mkdir(parents=True)
    settings.write_text('soak_memory = "256M"\n')
    shop = tmp_path / "demo.db"
    screen = terminal("demo", "--shop", str(shop))
    screen.wait("Sonogram desk")
    screen.keys("Enter")
    screen.wait("WHY, AND WHAT NEXT")
    screen.keys("s")
    screen.wait("WHICH SOAK?", "overnight")
    screen.keys("2")
    screen.wait("✓ MATS+", "GB/s", "left", seconds=60)
    screen.keys("Space")
    screen.wait("PAUSED")
    screen.kill_program()
    again = terminal("demo", "--shop", str(shop))
    again.wait("full soak interrupted at")
    again.keys("/")
    again.type("sonogram")
    again.wait("sonogram")
    again.keys("Enter")
    again.wait("WHY, AND WHAT NEXT")
    again.keys("s")
    again.wait("INTERRUPTED", "take up")
    done = Shop.open(shop).job("0417").soak.record.steps_done
    again.keys("t")
    again.wait("RUNS, CLEAN SO FAR", seconds=60)
    again.keys("x")
    again.wait("✓ CLEAN", "new soak", seconds=60)
    after = Shop.open(shop).job("0417").soak.record
    assert after.state.value == "stopped"
    assert after.steps_done >= done >= 1
