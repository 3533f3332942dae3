"""The usual jobs of a bench in a real terminal, from arrival to the signed sheet: typed in plain words, by enter alone.

A step is what the last line names: `enter` goes there. Presses beside the typed text are counted and printed.
"""

from __future__ import annotations

import io
import re
import shutil
from dataclasses import dataclass

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
    record: str = ""
    lines: int = 0

    def press(self, *names):
        self.presses += len(names)
        self.screen.keys(*names)

    def say(self, text, *then):
        """Give a text, see it, and press enter; every second line is pasted, as from a mail or a page."""
        self.lines += 1
        (self.screen.type if self.lines % 2 else self.screen.paste)(text)
        self.screen.wait(text[-18:], seconds=20)
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
        self.screen.wait_gone("job-0001")
        self.say(str(sheet), "written:")
        pages = pypdf.PdfReader(io.BytesIO(sheet.read_bytes())).pages
        self.record = " ".join(page.extract_text() for page in pages[1:])
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
        "AS PROMISED, NOT TESTED",
    )
    bench.tested("2 hours, 3 passes, no errors")
    sheet = bench.handed_back()
    assert "Ready: what was promised is there." in sheet
    assert "found no errors" in sheet


def test_kept_plus_a_larger_module(bench):
    bench.new_job(
        "Visitor desk, Larkfield S3, Lighthouse museum",
        "slot 1 4gb ddr4 2400 sodimm, slot 2 empty, runs at 2400, single channel",
        "slot 1 4gb ddr4 2400, slot 2 16gb ddr4 2400, dual channel",
    )
    bench.before_and_fitted(
        ("The channels are not filled alike", "1 × 16 GiB"),
        "slot 1 4gb ddr4 2400, slot 2 16gb ddr4 2400, runs at 2400, dual channel, total 20gb",
        "AS PROMISED, NOT TESTED",
    )
    bench.tested("90 min, 2 passes, no errors")
    sheet = bench.handed_back()
    assert "4 → 20 GiB of memory" in sheet
    assert "8 GiB on two channels, 12 GiB on one channel" in sheet


def test_replaced_pair_with_the_notice(bench):
    bench.new_job(
        "Counting desk, Larkfield T3, Skarrow Head Bird Observatory",
        "2x8gb ddr5 4800, runs at 4800, dual channel, profile off",
        "2x24gb ddr5 5600, dual channel, runs at 5600",
    )
    bench.screen.wait("before you open it")
    bench.step("BEFORE YOU OPEN IT", "2 × 24 GiB · DDR5-5600")
    bench.step("the reading after fitting")
    bench.press("F5")
    bench.screen.wait("THE FIRST START")
    bench.press("1", "4", "Enter")
    bench.screen.wait("notice: amount of memory changed")
    bench.say("2x24gb ddr5 5600, runs at 5600, dual channel, total 48gb", "FINDINGS", "AS PROMISED, NOT TESTED")
    bench.tested("overnight, 8 passes, no errors")
    sheet = bench.handed_back()
    assert "16 → 48 GiB of memory · 4800 → 5600 MT/s" in sheet
    assert "takes longer than usual" in sheet


def test_locked_firmware_is_handed_back_as_agreed(bench):
    bench.new_job(
        "Recording PC, Whin K6, Village choir",
        "2x8gb ddr4 2400, runs at 2400, dual channel",
        "2x16gb ddr4 3733, dual channel, runs at 3733",
    )
    bench.before_and_fitted(
        (),
        "2x16gb ddr4 3733, runs at 2400, dual channel, total 32gb, no profile choice",
        "NOT READY",
    )
    bench.screen.wait("fix it")
    sheet = bench.handed_back(agreed="on the phone: 2400 is fast enough", outcome="AS AGREED")
    assert "Handed back as agreed with you." in sheet
    assert "Agreed: on the phone: 2400 is fast enough." in sheet
    assert "Not ready" not in sheet


def test_a_bank_that_is_not_seen(bench):
    bench.new_job(
        "Map tower, Larkfield T4, Tide-gauge office",
        "A1 8gb ddr4 2666, B1 8gb ddr4 2666, A2 empty, B2 empty, runs at 2666, dual",
        "A1 8gb, A2 8gb, B1 8gb, B2 8gb ddr4 2666, dual channel",
    )
    bench.before_and_fitted(
        ("2 × 8 GiB · DDR4-2666",),
        "A1 8gb ddr4 2666, B1 8gb ddr4 2666, A2 8gb ddr4 2666, B2 empty, runs at 2666, total 24gb",
        "NOT READY",
        "One module not seen",
    )
    bench.screen.wait("write down what came of it")
    bench.press("r")
    bench.screen.wait("the reading after fitting")
    bench.say("+ B2 8gb ddr4 2666, total 32gb, dual channel", "FINDINGS", "AS PROMISED, NOT TESTED")
    bench.tested("2 h, 3 passes, no errors")
    assert "16 → 32 GiB of memory" in bench.handed_back()


def test_an_old_laptop_with_a_32_bit_system(bench):
    bench.new_job(
        "Lighthouse display, Merle A2, Lighthouse museum",
        "2x2gb ddr3 1333, runs at 1333, dual, 32 bit system, total 4gb",
        "2x4gb ddr3 1333, dual channel",
    )
    bench.before_and_fitted(
        ("The system has 32 bits",),
        "2x4gb ddr3 1333, runs at 1333, dual, 32 bit system, total 8gb, usable 3.2gb",
        "FINDINGS",
    )
    sheet = bench.handed_back(agreed="a 64-bit system follows in June", outcome="AS AGREED")
    assert "a 64-bit system follows in June" in sheet


def test_mixed_makes(bench):
    bench.new_job(
        "Radio desk, Larkfield T5, Tide-gauge office",
        "A2 8gb ddr4 2933 maker Brackwater, B2 8gb ddr4 2933 maker Brackwater, A1 empty, B1 empty, runs at 2933, dual",
        "A2 8gb ddr4 2933, B2 8gb ddr4 2933, A1 8gb ddr4 2933, B1 8gb ddr4 2933, dual channel",
    )
    bench.before_and_fitted(
        ("2 × 8 GiB · DDR4-2933",),
        "A2 8gb ddr4 2933 maker Brackwater, B2 8gb ddr4 2933 maker Brackwater, "
        "A1 8gb ddr4 2933 maker Tarnhollow, B1 8gb ddr4 2933 maker Tarnhollow, runs at 2933, dual, total 32gb",
        "AS PROMISED, NOT TESTED",
        "Different makers",
    )
    bench.tested("3 h, 4 passes, no errors")
    assert "Ready: what was promised is there." in bench.handed_back()


def test_a_slow_first_start(bench):
    bench.new_job(
        "Spectrum laptop, Dunlin 16, Tide-gauge office",
        "one stick of 16gb ddr5 5600 sodimm, runs at 5600, single channel",
        "one more of the same, dual channel",
    )
    bench.screen.wait("before you open it")
    bench.step("BEFORE YOU OPEN IT")
    bench.step("the reading after fitting")
    bench.press("F5")
    bench.screen.wait("THE FIRST START")
    bench.press("1", "2", "5", "Enter")
    bench.screen.wait("notice: amount of memory changed, settings were cleared")
    bench.say("2x16gb ddr5 5600, runs at 5600, dual channel, total 32gb", "FINDINGS", "switched itself off")
    sheet = bench.handed_back(agreed="the settings are set again", outcome="AS AGREED")
    assert "restarted by itself a few times" in sheet


def test_an_appliance_above_its_maximum(bench):
    bench.new_job(
        "Tide archive, Cairnbox 3, Skarrow Head Bird Observatory",
        "2x4gb ddr4 2666 sodimm ecc, total 8gb",
        "2x16gb ddr4 2666 sodimm ecc",
    )
    bench.screen.wait("before you open it")
    bench.press("k")
    bench.screen.wait("THE DATA SHEET OF CAIRNBOX 3")
    bench.press("Down", "Down")
    bench.screen.wait("▶ most in all")
    bench.press("2", "C-s")
    bench.screen.wait("before you open it")
    bench.step("BEFORE YOU OPEN IT", "32 GiB is promised, and 16 GiB is documented as the most")
    bench.step("the reading after fitting")
    bench.say("2x16gb ddr4 2666 sodimm ecc, runs at 2666, total 32gb", "FINDINGS")
    bench.tested("12 h, 6 passes, no errors")
    sheet = bench.handed_back()
    assert "8 → 32 GiB of memory" in sheet


def test_a_server_that_needs_ecc(bench):
    bench.new_job(
        "Camera-trap server, Holm R7, Skarrow Head Bird Observatory",
        "A1 32gb ddr4 3200 rdimm ecc, B1 32gb ddr4 3200 rdimm ecc, A2 empty, B2 empty, runs at 3200, total 64gb",
        "A1 32gb ddr4 3200 rdimm ecc, B1 32gb ddr4 3200 rdimm ecc, A2 32gb ddr4 3200 rdimm, B2 32gb ddr4 3200 rdimm",
    )
    bench.before_and_fitted(
        ("The old modules have ECC", "Buy ECC modules"),
        "A1 32gb ddr4 3200 rdimm ecc, B1 32gb ddr4 3200 rdimm ecc, A2 32gb ddr4 3200 rdimm ecc, B2 32gb ddr4 3200 rdimm ecc, "
        "runs at 3200, total 128gb",
        "FINDINGS",
    )
    bench.tested("12 h, 3 passes, no errors")
    assert "64 → 128 GiB of memory" in bench.handed_back()


def test_profile_and_slots(bench):
    bench.new_job(
        "Sonogram desk, Larkfield T6, Skarrow Head Bird Observatory",
        "A1 8gb ddr5 4800, B1 8gb ddr5 4800, runs at 4800, dual",
        "2x24gb ddr5 6400, dual channel, profile 1, runs at 6400",
    )
    bench.before_and_fitted(
        (),
        "A1 24gb ddr5 6400, A2 24gb ddr5 6400, B1 empty, B2 empty, runs at 4800, single channel, profile off, total 48gb",
        "NOT READY",
    )
    bench.step("the reading after fitting") if "read it again" in bench.screen.text() else bench.press("r")
    bench.screen.wait("the reading after fitting")
    bench.say(
        "A1 24gb ddr5 6400, B1 24gb ddr5 6400, A2 empty, B2 empty, runs at 6400, dual, profile 1, total 48gb",
        "FINDINGS",
        "AS PROMISED, NOT TESTED",
    )
    bench.tested("4 h, 3 passes, no errors")
    assert "4800 → 6400 MT/s" in bench.handed_back()


def test_a_virtual_machine(bench):
    bench.new_job("Web host, (virtual), Tide-gauge office", "virtual machine, total 8gb", "2x8gb")
    bench.screen.wait("before you open it")
    bench.step("BEFORE YOU OPEN IT", "This is a virtual machine")
    bench.press("Escape")
    bench.screen.wait("PROMISE")
    bench.press("h")
    bench.screen.wait("BEFORE IT GOES BACK")
    bench.press("c")
    bench.screen.wait("BACK AS IT CAME")
    bench.say("a virtual machine gets its memory from its host", "AS IT CAME")


def test_weeks_of_manufacture(bench):
    bench.new_job(
        "Ringing-hut laptop, Dunlin 17, Skarrow Head Bird Observatory",
        "one stick of 8gb ddr4 3200 sodimm, runs at 3200, single channel",
        "one more of the same, dual channel",
    )
    bench.before_and_fitted(
        (),
        "S1=8G DDR4-3200 sodimm serial 12AB date 2021-W11; S2=8G DDR4-3200 sodimm serial 34CD date 2024-W05; run 3200; dual; total 16G",
        "AS PROMISED, NOT TESTED",
    )
    bench.tested("2 h, 3 passes, no errors")
    bench.handed_back()
    record = re.sub(r"\s+", " ", bench.record)
    assert "2021-W11 (March 2021)" in record
    assert "12AB" in record


def test_arrangements_with_a_cooling_fault(bench):
    """It switches off under load with the new modules and with the old ones: it is not the memory."""
    bench.new_job(
        "Ferry-times display, Larkfield S4, Tide-gauge office",
        "S1 8gb ddr4 2400 sodimm, S2 empty, runs at 2400, single channel",
        "2x8gb ddr4 2400, dual channel",
    )
    bench.before_and_fitted(
        ("1 × 8 GiB",),
        "S1 8gb ddr4 2400, S2 8gb ddr4 2400, runs at 2400, dual channel, total 16gb, switches off under load",
        "FINDINGS",
    )
    bench.press("t")
    bench.screen.wait("new try")
    for arrangement in (("a", "Down", "b"), ("a", "Down", "-")):
        bench.press("n")
        bench.screen.wait("DOES IT START?")
        bench.press("Up", "Up", *arrangement, "1", "O")
        bench.screen.wait("● switches off under load")
        bench.press("Enter")
        bench.screen.wait("TRIES")
    bench.screen.wait("It is something outside memory")
    bench.press("Escape")
    bench.screen.wait("FINDINGS")
    sheet = bench.handed_back(agreed="the fan is ordered", outcome="AS AGREED")
    assert "the fan is ordered" in sheet
