"""Keys pressed at random in every view and size: nothing ends the program, and nothing is raised."""

from __future__ import annotations

import asyncio
import random

import pytest

from after_check.soak.soak_run import Wishes
from tests.helpers.pilot import OWN_MACHINE, running

KEYS = (
    *["enter"] * 6,
    *["escape"] * 4,
    *("up", "down", "left", "right", "tab", "shift+tab", "pageup", "pagedown", "home", "end", "space", "backspace", "delete"),
    *("slash", "question_mark", "f1", "f2", "f5", "ctrl+p", "ctrl+t", "ctrl+s", "ctrl+e", "ctrl+a", "ctrl+k"),
    *("plus", "minus", "equals_sign", "full_stop", "exclamation_mark"),
    *"abcdefghijklmnoprstuvwxyz0123456789RWNOCBFPLMTH",
)
SIZES = ((128, 40), (80, 24), (40, 10), (20, 5))
SEEDS = (0, 7, 113)
"""7 and 113 once ended the program, by a page key in a list without a line."""


@pytest.mark.parametrize("seed", SEEDS)
async def test_random_keys_end_nothing(shop_path, seed):
    chance, size = random.Random(seed), {7: SIZES[2], 113: SIZES[3]}.get(seed, SIZES[seed % 4])

    async with running(shop_path, size=size) as (app, pilot):
        app.identity = lambda: OWN_MACHINE
        app.soak_wishes = Wishes(memory_bytes=16 << 20, threads=1)
        pressed = 0
        while pressed < 60 and app.is_running:
            await pilot.press(chance.choice(KEYS))
            pressed += 1
        assert pressed == 60 or app.return_code == 0
        if app.soak_runner is not None:
            await asyncio.to_thread(app.soak_runner.stop_and_wait)


async def test_page_keys_in_a_list_without_a_line(shop_path):
    async with running(shop_path, size=(20, 5)) as (app, pilot):
        await pilot.press("enter")
        for _ in range(3):
            await pilot.press("tab", "pagedown", "pageup", "end", "home", "pagedown")
        assert app.is_running
