"""A kill at a random moment behind the key that keeps: what was typed is in the store, or is a draft. It is never in neither."""

from __future__ import annotations

import random
import subprocess
import sys
from pathlib import Path

import pytest

from after_check.domain.tries import Started
from after_check.shop.shop import Shop
from tests.helpers.demo import filled_demo
from tests.helpers.killed import FLOWS, READING, WORDS

KEPT = {
    "a new job": lambda shop: any(line.title == WORDS for line in shop.jobs.lines()),
    "a reading": lambda shop: len(shop.jobs.job("0423").readings) > 2,
    "old modules": lambda shop: shop.jobs.job("0423").hand_back.old_modules == WORDS,
    "what it was": lambda shop: shop.jobs.job("0427").tries.log.conclusion == WORDS,
    "scores": lambda shop: any(kept.record.series[0].name == "Export" for kept in shop.jobs.job("0423").benchmarks),
    "a data sheet": lambda shop: shop.jobs.job("0426").card is not None,
    "a try": lambda shop: (
        shop.jobs.job("0427").tries.log.tries[-1].started is Started.NO and len(shop.jobs.job("0427").tries.log.tries) == 4
    ),
}
DRAFTED = {"a reading": READING, "scores": "Export 61.2", "a try": '"no"'}


@pytest.mark.parametrize("name", FLOWS)
def test_what_was_confirmed_or_typed_is_somewhere(shop_path, name):
    shop_path.parent.mkdir(parents=True)
    shop_path.write_bytes(filled_demo())
    before = Shop.open(shop_path)
    assert not KEPT[name](before), "it is there from the beginning: that would prove nothing"
    before.close()
    seconds = random.Random(name).uniform(0.0, 0.35)
    command = [sys.executable, "-m", "tests.helpers.killed", str(shop_path), name, str(seconds)]
    done = subprocess.run(command, cwd=Path(__file__).parents[2], capture_output=True, text=True, check=False, timeout=120)
    assert done.returncode == -9, done.stderr[-2000:]
    shop = Shop.open(shop_path)
    place = done.stdout.strip()
    kept, draft = KEPT[name](shop), shop.drafts.text(place)
    assert kept or DRAFTED.get(name, WORDS) in draft, f"neither kept nor a draft after {seconds:.3f} s: {draft!r}"
    shop.close()
