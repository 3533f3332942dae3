"""The usual jobs of a bench in a real terminal, from arrival to the signed sheet: typed in plain words, by enter alone.

A step is what the last line names: `enter` goes there. Presses beside the typed text are counted and printed.
"""

from __future__ import annotations

import io
import re
import shutil
from dataclasses import dataclass, field

import pypdf
import pytest

from tests.helpers.needs import needs

pytestmark = needs(shutil.which("tmux") is not None, "tmux")

MOST_PRESSES = 60


@dataclass
class Bench:
    """One job at the screen, with the keys that it took."""

    screen: object
    folder: object
    presses: int = 0
    said: list[str] = field(default_factory=list)

    def press(self, *names):
        self.presses += len(names)
        self.screen.keys(*names)

    def say(self, text, *then):
        """Type a text, see it, and press enter."""
        self.screen.type(text)
        self.screen.wait(text[-18:])
        self.press("Enter")
        if then:
            self.screen.wait(*then)

    def step(self, *seen):
        """Do what is to be done next."""
        self.press("Enter")
        self.screen.wait(*seen)

    def new_job(self, head, arrival, promise, *seen):
        self.screen.wait("no job yet")
        self.press("n")
        self.screen.wait("NEW JOB 0001")
        self.say(head)
        self.say(arrival)
        self.say(promise, "PROMISE", *seen)

    def before_and_fitted(self, before, fitted, *seen):
        """Look at what is known before it is opened, then read it after fitting."""
        self.screen.wait("before you open it")
        self.step("BEFORE YOU OPEN IT", *before)
        self.step("the reading after fitting")
        self.say(fitted, "FINDINGS", *seen)

    def tested(self, result):
        self.screen.wait("test the memory")
        self.step("WHICH MEMORY TEST?", "result")
        self.press("r")
        self.screen.wait("A MEMORY TEST THAT RAN ON IT")
        self.say(result, "the result is kept")
        self.press("Escape")
        self.screen.wait("FINDINGS")

    def handed_back(self, *seen, agreed="", outcome="READY"):
        """Hand it back; returns the text of the sheet as it was printed."""
        self.press("h")
        self.screen.wait("BEFORE IT GOES BACK", *seen)
        self.press("o")
        self.screen.wait("YOUR OLD MODULES")
        self.press("Enter")
        self.screen.wait_gone("YOUR OLD MODULES")
        self.press("s")
        if agreed:
            self.screen.wait("HOW DOES IT GO BACK?")
            self.press("a")
            self.screen.wait("AGREED")
            self.say(agreed)
        self.screen.wait("SIGN THE HAND-BACK", outcome)
        self.say("I. Skarrow", "SIGNED")
        sheet = self.folder / "sheet.pdf"
        self.press("e")
        self.screen.wait("WRITE THE SHEET TO")
        self.press("C-u")
        self.screen.wait_gone("job-0001.pdf")
        self.say(str(sheet), "written: sheet.pdf")
        pages = pypdf.PdfReader(io.BytesIO(sheet.read_bytes())).pages
        return re.sub(r"\s+", " ", pages[0].extract_text())


@pytest.fixture
def bench(terminal, tmp_path):
    made = Bench(terminal("--shop", str(tmp_path / "shop.db")), tmp_path)
    yield made
    print(f"{made.presses} presses")
    assert made.presses <= MOST_PRESSES


def test_single_to_dual_laptop(bench):
    bench.new_job(
        "Field laptop, Dunlin 15, Tide-gauge office",
        "one stick of 8gb ddr4 2666 sodimm in slot 1, slot 2 empty, runs at 2666, single channel",
        "one more of the same, dual channel",
        "NOT CHECKED YET",
    )
    bench.before_and_fitted(
        ("Nothing that is known speaks against it", "1 × 8 GiB · DDR4-2666 · SODIMM"),
        "slot 1 8gb ddr4 2666, slot 2 8gb ddr4 2666, runs at 2666, dual channel, total 16gb",
        "READY",
    )
    bench.tested("2 hours, 3 passes, no errors")
    sheet = bench.handed_back()
    assert "Ready: what was promised is there." in sheet
    assert "found no errors" in sheet
