"""The application, killed at a moment: `python -m tests.helpers.killed SHOP FLOW SECONDS`, after the key that keeps what was typed."""

from __future__ import annotations

import asyncio
import os
import signal
import sys
import threading
from dataclasses import dataclass
from pathlib import Path

from textual.widgets import Input, TextArea

from after_check.tui.screens.bench import BenchScreen
from tests.helpers.pilot import open_job, running, until

WORDS = "kept before the lights went out"
READING = "A1=16G DDR4-3733; B1=16G DDR4-3733; run 2400; total 32G"


@dataclass(frozen=True)
class Flow:
    """How to get to where something is typed, what is typed, and the key that keeps it. `place` begins the place of its draft."""

    number: str
    keys: tuple[str, ...]
    text: str
    confirm: str
    widget: str = "#answer"
    tried: bool = False


FLOWS = {
    "a new job": Flow("", ("n",), f"{WORDS}, Larkfield T1", "ctrl+s", "#names"),
    "a reading": Flow("0423", ("r",), READING, "enter", "#reading-line"),
    "old modules": Flow("0423", ("h", "o"), WORDS, "enter"),
    "what it was": Flow("0427", ("t", "o"), WORDS, "enter"),
    "scores": Flow("0423", ("g", "t"), "Export 61.2 60.8 61.0 s", "ctrl+s", "#scores-text"),
    "a data sheet": Flow("0426", ("k",), "", "ctrl+s", "#card-text"),
    "a try": Flow("0427", ("t", "n"), "", "enter", tried=True),
}


async def _until_typed(flow, app, pilot):
    if flow.number:
        await open_job(app, pilot, flow.number)
    else:
        await until(pilot, lambda: isinstance(app.screen, BenchScreen) and app.screen.is_open)
    for key in flow.keys:
        before = app.screen
        await pilot.press(key)
        await until(pilot, lambda before=before: app.screen is not before)
    if flow.tried:
        await pilot.press("2")
    else:
        await until(pilot, lambda: app.screen.query(flow.widget))
        widget = app.screen.query_one(flow.widget)
        if isinstance(widget, TextArea):
            widget.text = f"{widget.text}{flow.text or '# ' + WORDS}"
        else:
            assert isinstance(widget, Input)
            widget.value = flow.text
    await until(pilot, lambda: app.shop.drafts.text(app.screen.draft_place))


async def main(path, name, seconds):
    flow = FLOWS[name]
    async with running(path) as (app, pilot):
        await _until_typed(flow, app, pilot)
        print(app.screen.draft_place, flush=True)
        threading.Timer(seconds, os.kill, (os.getpid(), signal.SIGKILL)).start()
        await pilot.press(flow.confirm)
        await asyncio.sleep(60)


if __name__ == "__main__":
    asyncio.run(main(Path(sys.argv[1]), sys.argv[2], float(sys.argv[3])))
