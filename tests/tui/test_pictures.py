"""Every view of the demo shop, cell by cell with its colours, against the picture that was looked at and kept.

A change that is meant is kept with `AFTER_CHECK_KEEP_PICTURES=1 ./check tests/tui/test_pictures.py`; look at the difference
before it is committed. Dates and clocks are masked, as the demo's are counted back from now.
"""

from __future__ import annotations

import difflib
import os
import re
from pathlib import Path

import pytest
from textual.widgets import Input, TextArea

from after_check.tui.screens.job_sheet import JobSheetScreen
from tests.helpers.pilot import open_job, running, shown, strips, until

PICTURES = Path(__file__).parent / "pictures"
KEEP = bool(os.environ.get("AFTER_CHECK_KEEP_PICTURES"))

VIEWS = {
    "bench": ("", "", "Choir recording PC"),
    "batch": ("", "r", "press o and name a folder"),
    "new job": ("", "n", "NEW JOB"),
    "job sheet": ("0417", "", "profile 1 first"),
    "read": ("0417", "r", "after fitting"),
    "modules": ("0421", "m", "ns"),
    "ceilings": ("0421", "c", "WHAT LIMITS THE SPEED"),
    "compare": ("0417", "v", "WHAT CHANGED"),
    "soak": ("0425", "s", "GiB"),
    "benchmark": ("0426", "g", "GB/s"),
    "demand": ("0426", "d", "GiB"),
    "tries": ("0425", "t", "3 tries"),
    "hand back": ("0417", "h", "Hand-back"),
    "card": ("0421", "k", "SLOTS"),
    "before fitting": ("0421", "f", "BEFORE YOU OPEN IT"),
}
"""The number of the job, the key that leads there, and what can be read once the view is there."""


def picture(app) -> str:
    """The screen as lines of text; behind each line the cells at which its colours change."""
    lines = []
    for strip in strips(app):
        text, marks, at, before = "", [], 0, None
        for segment in strip:
            style = segment.style
            look = "" if style is None else " ".join(filter(None, (colour(style.color), colour(style.bgcolor), *faces(style))))
            if look != before:
                marks.append(f"{at} {look}")
                before = look
            text += segment.text
            at += segment.cell_length
        lines.append(f"{masked(text).rstrip()}\n\t{'; '.join(marks)}")
    return "\n".join(lines) + "\n"


def colour(found) -> str:
    return found.name if found is not None else "-"


def faces(style) -> list[str]:
    return [name for name in ("bold", "dim", "italic", "underline", "reverse") if getattr(style, name)]


def masked(text: str) -> str:
    text = re.sub(r"\d{4}-\d\d-\d\d", "YYYY-MM-DD", text)
    text = re.sub(r"\b\d\d [A-Z][a-z]{2}\b", "DD Mon", text)
    return re.sub(r"\b\d\d:\d\d\b", "HH:MM", text)


@pytest.mark.parametrize("size", [(128, 40), (80, 24)], ids="{0[0]}x{0[1]}".format)
@pytest.mark.parametrize("view", VIEWS)
async def test_a_view_looks_as_it_was_looked_at(shop_path, view, size):
    number, key, says = VIEWS[view]
    kept = PICTURES / f"{view.replace(' ', '-')}-{size[0]}x{size[1]}.txt"

    async with running(shop_path, size=size) as (app, pilot):
        if number:
            await open_job(app, pilot, number)
        else:
            await until(pilot, lambda: "Choir recording PC" in shown(app))
        if key:
            await pilot.press(key)
            await until(pilot, lambda: not isinstance(app.screen, JobSheetScreen))
        await until(pilot, lambda: says in shown(app))
        for line in (*app.screen.query(Input), *app.screen.query(TextArea)):
            line.cursor_blink = False
        await pilot.pause(0.3)
        seen = picture(app)
        if KEEP:
            kept.parent.mkdir(exist_ok=True)
            kept.write_text(seen, encoding="utf-8")
        wanted = kept.read_text(encoding="utf-8")
        difference = "\n".join(difflib.unified_diff(wanted.splitlines(), seen.splitlines(), "kept", "seen", lineterm="", n=0))
        assert seen == wanted, difference
