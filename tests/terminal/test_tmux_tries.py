"""Four tries written down in a real terminal: the suspects move, the proposal is followed to the end."""

from __future__ import annotations

import shutil
import tomllib

import pytest

from after_check.casework.job_tries import blame_of, log_of
from after_check.domain.jobs import JobFacts, Moment
from after_check.shop.demo import fill
from after_check.shop.shop import Shop
from after_check.sources.open_source import take
from tests.conftest import SAMPLES
from tests.helpers.needs import needs
from tests.helpers.terminal import Terminal

pytestmark = needs(shutil.which("tmux") is not None, "tmux")


@pytest.fixture(scope="module")
def filled(tmp_path_factory):
    """The demo shop, to be looked at only."""
    shop = Shop.open(tmp_path_factory.mktemp("filled") / "shop.db")
    fill(shop)
    yield shop
    shop.close()


@pytest.fixture
def bench(tmp_path):
    path = tmp_path / "shop.db"
    shop = Shop.open(path)
    readings = tuple(
        (moment, take(str(SAMPLES / "0425" / name))) for moment, name in ((Moment.ARRIVAL, "arrival.txt"), (Moment.FITTED, "fitted.txt"))
    )
    promise = "A2=16G DDR4-3200; B2=16G DDR4-3200; dual"
    shop.jobs.add(JobFacts("0425", "Radio desk", "Larkfield T1", "", promise), readings)
    shop.close()
    terminal = Terminal(tmp_path, "--shop", str(path))
    yield terminal, path
    terminal.close()


def test_four_tries_and_the_proposal_to_the_end(bench):
    terminal, path = bench
    terminal.wait("Radio desk")
    terminal.keys("Enter")
    terminal.wait("PROMISE", "AS PROMISED, NOT TESTED")
    terminal.keys("t")
    terminal.wait("Nothing was tried yet")
    # The old modules are a and b, the new ones c and d; they sit in A2 and B2. Try 1: errors in B2.
    terminal.keys("n")
    terminal.wait("DOES IT START?", "16 GiB Ostrel 0B00B2")
    terminal.keys("Down", "Down")
    terminal.keys("1", "=", "!")
    terminal.wait("✗ errors", "Most likely module d")
    terminal.keys("Enter")
    terminal.wait("? NOT CLEAR YET", "NEXT TRY")
    # Try 2 is the proposal: module d elsewhere. Errors go with it.
    terminal.keys("Enter")
    terminal.wait("DOES IT START?", "→ from B2")
    terminal.keys("1", "=", "!")
    terminal.wait("Most likely module d")
    terminal.keys("Enter")
    terminal.wait("2 tries", "module c alone in A2")
    # Try 3 is all but the suspect, before anything is replaced: with a clean soak.
    terminal.keys("Enter")
    terminal.wait("DOES IT START?", "d on the bench")
    terminal.keys("1", "=", "4")
    terminal.wait("Memory test clean", "It is module d")
    terminal.keys("Tab")
    terminal.wait("a note; enter takes it")
    terminal.type("one alone, clean")
    terminal.keys("Enter")
    terminal.wait("one alone, clean")
    terminal.keys("Enter")
    terminal.wait("3 tries")
    # Try 4: the old modules back, as the list of least work has it.
    terminal.keys("4")
    terminal.wait("DOES IT START?", "8 GiB Brackwater")
    terminal.keys("1", "=")
    terminal.wait("all seen")
    terminal.keys("Enter")
    terminal.wait("4 tries", "98% sure")
    terminal.keys("Escape")
    terminal.wait("The tries show", "It is module d")
    log = log_of(Shop.open(path).jobs.job("0425"))
    assert [tried.arrangement.module_in for tried in log.tries] == [
        {"A2": "c", "B2": "d"},
        {"A1": "d", "A2": "c"},
        {"A2": "c"},
        {"A1": "a", "A2": "b"},
    ]
    assert log.tries[2].note == "one alone, clean"


def test_a_try_that_was_begun_is_found_again_after_a_kill(bench, tmp_path):
    terminal, path = bench
    terminal.wait("Radio desk")
    terminal.keys("Enter")
    terminal.wait("PROMISE", "AS PROMISED, NOT TESTED")
    terminal.keys("t")
    terminal.wait("Nothing was tried yet")
    terminal.keys("n")
    terminal.wait("DOES IT START?")
    terminal.keys("2", "B")
    terminal.wait("● beeps")
    terminal.keys("W")
    terminal.wait("START WATCH")
    terminal.keys("Space")
    terminal.wait("WAIT")
    terminal.kill_program()
    again = Terminal(tmp_path, "--shop", str(path))
    try:
        again.wait("Radio desk")
        again.keys("Enter")
        again.wait("PROMISE", "AS PROMISED, NOT TESTED")
        again.keys("t")
        again.wait("Nothing was tried yet")
        again.keys("n")
        again.wait("● beeps", "● it does not start")
        again.keys("W")
        again.wait("START WATCH", "WAIT")  # The clock runs on from the moment of power-on.
        again.keys("1")
        again.wait("● it starts, ")
        again.keys("Enter")
        again.wait("1 try")
    finally:
        again.close()
    (one,) = Shop.open(path).jobs.job("0425").tries.log.tries
    assert one.signs == ("beeps",)
    assert one.seconds > 1


@pytest.mark.parametrize(
    ("number", "words"),
    [
        ("0419", "slot D1"),
        ("0422", "without ECC"),
        ("0425", "module b"),
        ("0427", "outside memory"),
        ("0428", "module a"),
        ("0429", "module b, only with the profile on"),
    ],
)
def test_the_demo_logs_end_as_the_scenario_says(filled, number, words):
    said = blame_of(filled.jobs.job(number))
    assert said.settled
    assert words in said.first.words


@pytest.mark.parametrize(
    ("number", "to_the_end"),
    [
        # Soldered a, old b, new c: errors, then the old one back is clean, then c again, twice.
        ("0428", ((("5",), "module c"), (("4",), "module c"), (("5",), "module c"), (("5",), "a + c together"))),
        # New c and d; d gives errors with the profile on, with which the first try is made, as it was read.
        ("0429", ((("5",), "not clear yet"), (("4",), "profile 1"))),
    ],
)
def test_a_soldered_laptop_and_a_profile_that_fails(tmp_path, number, to_the_end):
    folder, path = SAMPLES / number, tmp_path / "shop.db"
    described = tomllib.loads((folder / "job.toml").read_text())
    readings = tuple((Moment(one["moment"]), take(str(folder / one["source"]))) for one in described["reading"])
    shop = Shop.open(path)
    shop.jobs.add(JobFacts(number, described["title"], described["machine"], "", described["promise"]), readings)
    shop.close()
    terminal = Terminal(tmp_path, "--shop", str(path))
    try:
        terminal.wait(described["title"])
        terminal.keys("Enter")
        terminal.wait("PROMISE")
        terminal.keys("t")
        terminal.wait("Nothing was tried yet")
        for count, (keys, words) in enumerate(to_the_end, 1):
            terminal.keys("n" if count == 1 else "Enter")
            terminal.wait("DOES IT START?")
            terminal.keys("1", "=", *keys)
            terminal.wait("Memory test clean" if keys[-1] == "4" else "Memory test errors")
            terminal.keys("Enter")
            terminal.wait(f"{count} tr", words)
    finally:
        terminal.close()
    log = log_of(Shop.open(path).jobs.job(number))
    assert len(log.tries) == len(to_the_end)
    if number == "0428":
        # What is soldered stays, whatever is proposed.
        assert all(tried.arrangement.module_in["ChannelA-DIMM0"] == "a" for tried in log.tries)
        assert blame_of(Shop.open(path).jobs.job(number)).named.letters == ("c",)
    else:
        # The profile is switched off to see whether it is that.
        assert [tried.arrangement.profile for tried in log.tries] == ["1", "off"]


def test_two_benches_on_one_job(bench, tmp_path):
    """Both open the promise; who keeps second is told, and what was typed stays on the screen."""
    terminal, path = bench
    other = Terminal(tmp_path, "--shop", str(path))
    try:
        for one in (terminal, other):
            one.wait("Radio desk")
            one.keys("Enter")
            one.wait("PROMISE", "AS PROMISED, NOT TESTED")
            one.keys("e")
            one.wait("Radio desk", "AS PROMISED", "32 GiB spread over 2 channels")
        for one, promise in ((terminal, "2x16G DDR4-3200"), (other, "2x8G DDR4-3200")):
            one.keys("C-a", "C-k")
            one.wait("What the job is to deliver")
            one.type(promise)
            one.wait(promise)
        terminal.keys("C-s")
        terminal.wait("FINDINGS")
        other.keys("C-s")
        other.wait("changed somewhere else", "2x8G DDR4-3200")
    finally:
        other.close()
    assert Shop.open(path).jobs.job("0425").facts.promise == "2x16G DDR4-3200"
