"""One cause and what follows from it: counted, ordered, told."""

from __future__ import annotations

import json

import pytest

from after_check.domain.case_files import CaseFile, Needs
from after_check.domain.codes import Severity
from after_check.domain.facts import Fact, Source
from after_check.domain.readings import SoakResult
from after_check.domain.standing import Verdict
from after_check.judgement.judge import judge
from after_check.sources.open_source import take_notation, take_promise
from after_check.texts import say, words_of
from tests.helpers.cases import CASES, judged
from tests.helpers.commands import run_here

GOOD = "A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; total 32G"


def test_what_follows_stands_behind_its_cause_and_is_not_counted():
    judgement = judged(CASES["settings-cleared-is-one-thing-to-fix"])
    codes = [finding.code.value for finding in judgement.findings]
    assert codes[:3] == ["firmware.reset", "profile.off", "rate.profile_off"]
    assert judgement.count(Severity.FIX) == 1
    root = judgement.roots[0]
    assert {finding.code.value for finding in judgement.following(root)} == {"profile.off", "rate.profile_off", "timings.slower"}
    assert say(judgement.why) == "1 to fix, 3 follow from it"
    assert "profile 1 first" in words_of(root).next


@pytest.mark.parametrize("name", CASES)
def test_every_cause_is_there_and_weighs_as_much(name):
    judgement = judged(CASES[name])
    order = [Severity.FIX, Severity.TELL, Severity.NOTE]
    places = {(finding.code, finding.slots): index for index, finding in enumerate(judgement.findings)}
    for index, finding in enumerate(judgement.findings):
        if finding.because_of is not None:
            at = places[finding.because_of.code, finding.because_of.slots]
            assert at < index
            assert order.index(judgement.findings[at].severity) <= order.index(finding.severity)
    everything = {id(finding) for root in judgement.roots for finding in (root, *judgement.following(root))}
    assert len(everything) == len(judgement.findings)


@pytest.mark.parametrize("name", CASES)
def test_whoever_is_less_than_sure_says_what_would_show_the_contrary(name):
    for finding in judged(CASES[name]).findings:
        assert bool(words_of(finding).disproof) == (finding.sure < 0.9), finding.code


def test_the_command_gives_the_causes():
    case = CASES["a-module-that-is-not-seen-carries-the-rest"]
    done = run_here("judge", "--after", case["after"], "--promise", case["promise"], "--json")
    found = {finding["code"]: finding["because_of"] for finding in json.loads(done.stdout)["findings"]}
    assert found["module.missing"] is None
    assert found["capacity.short"] == found["channels.single"] == {"code": "module.missing", "slots": ["B2"]}
    text = run_here("judge", "--after", case["after"], "--promise", case["promise"]).stdout
    assert text.startswith("✗ NOT READY: 1 to fix, 2 follow from it")
    assert text.index("One module not seen") < text.index("Follows from it: 16 GiB of 32 GiB promised")


@pytest.mark.parametrize(
    ("needs", "soak", "verdict"),
    [
        (Needs(), None, Verdict.READY),
        (Needs(soak_minutes=60), None, Verdict.CANT_TELL),
        (Needs(soak_minutes=60), SoakResult(0, 59, 95), Verdict.CANT_TELL),
        (Needs(soak_minutes=60), SoakResult(0, 60, 95), Verdict.READY),
        (Needs(soak_percent=90), SoakResult(0, 60, None), Verdict.CANT_TELL),
        (Needs(soak_percent=90), SoakResult(0, 60, 90), Verdict.READY),
        (Needs(soak_passes=4), SoakResult(0, 60, 95), Verdict.CANT_TELL),
        (Needs(soak_passes=4), SoakResult(0, 60, 95, 3), Verdict.CANT_TELL),
        (Needs(soak_passes=4), SoakResult(0, 60, 95, 4), Verdict.READY),
        (Needs(soak_minutes=60), SoakResult(3, 5, 95), Verdict.NOT_READY),
    ],
)
def test_a_shop_may_ask_for_a_memory_test(needs, soak, verdict):
    fact = Fact(soak, Source.MEASURED) if soak is not None else None
    file = CaseFile(take_notation(GOOD).reading, None, take_promise("2x16G DDR4-3200; dual"), soak=fact, needs=needs)
    judgement = judge(file)
    assert judgement.verdict is verdict
    assert ("soak.not_enough" in {finding.code for finding in judgement.findings}) == (verdict is Verdict.CANT_TELL)


def judged_of(after, promise):
    return judge(CaseFile(now=take_notation(after).reading, promise=take_promise(promise)))


@pytest.mark.parametrize(
    ("promise", "first"),
    [("2x8G DDR4-2400; run 2400; dual", "channels.unproven"), ("2x8G DDR4-2400; run 2400", "soak.none")],
)
def test_the_gap_that_keeps_a_verdict_open_comes_first(promise, first):
    judgement = judged_of("2x8G DDR4-2400; run 2400", promise)
    assert judgement.findings[0].code.value == first


@pytest.mark.parametrize(
    ("promise", "why"),
    [
        ("2x8G DDR4-2400; run 2400; dual", "not known: channels (the firmware's page)"),
        ("2x8G DDR4-2400 2Rx8; run 2400", "not known: ranks, device width (the module's sticker)"),
        ("2x8G DDR4-2400 CL17; run 2400; 17-17-17-39", "not known: timings (the firmware's page)"),
        ("2x8G DDR4-2400; read 30 GB/s", "not known: read (a benchmark shows it)"),
        ("2x8G DDR4-2400 2Rx8; run 2400; dual", "not known: channels, ranks, device width"),
    ],
)
def test_what_is_not_known_says_where_it_is_to_be_seen(promise, why):
    """One place where all of it is to be seen at one; else none, as a list with the place of its first would mislead."""
    assert say(judged_of("2x8G DDR4-2400; run 2400", promise).why) == why


def test_the_reason_of_a_test_not_made_claims_nothing_else():
    """The memory may be slow, or its channels unknown: that no test was made says nothing of either."""
    (untested,) = (one for one in judged_of("2x8G DDR4-2400; run 2133", "2x8G DDR4-2400; dual").findings if one.code == "soak.none")
    assert "pace" not in words_of(untested).reason
