"""What is missing for a hand-back, what to consider later, and the words of the sheet."""

from __future__ import annotations

import pytest

from after_check.domain.handback import HandBack, Override
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.tries import Blame, Suspect, SuspectKind
from after_check.handback.content import content_of
from after_check.handback.later import suggestions
from after_check.handback.outline import missing, outline_of
from after_check.handback.wording import promise_in_words, tried_words
from after_check.judgement.judge import judge
from after_check.shop.summary import promise_of
from after_check.sources.card_file import parse_card
from after_check.sources.notation import parse_promise
from after_check.sources.take import take_notation

CARD = """
[card]
name = "Larkfield S1"
[memory]
total = "32 GiB"
profile = "locked"
[[memory.rate]]
per_channel = 1
rate = 3200
"""


def job(shop, promise, now, before="A2=8G DDR4-2400; B2=-; run 2400"):
    readings = [(Moment.ARRIVAL, take_notation(before))] if before else []
    readings += [(Moment.FITTED, take_notation(now))] if now else []
    return shop.add_job(JobFacts("1", "desk", "Larkfield S1", "", promise), tuple(readings))


@pytest.mark.parametrize(
    ("promise", "now", "blocks", "beside"),
    [
        (
            "2x8G DDR4-2400; dual",
            "",
            {"the machine was not read after fitting", "not known: capacity", "not known: data rate", "not known: channels"},
            set(),
        ),
        (
            "2x8G DDR4-2400; dual",
            "A2=8G DDR4-2400 serial 1; B2=8G DDR4-2400 serial 2; run 2400; soak clean 60min 96%",
            set(),
            {"no speed was measured", "what became of the old modules"},
        ),
        (
            "2x8G DDR4-2400; dual",
            "A2=8G DDR4-2400; B2=-; run 2400",
            {"to fix: One module not seen: B2 is empty", "to fix: 8 GiB of 16 GiB promised"},
            {"no memory test was run", "serial numbers of the modules, for the warranty"},
        ),
    ],
)
def test_what_is_missing(shop, promise, now, blocks, beside):
    found = missing(content_of(job(shop, promise, now)))
    assert {one.words for one in found if one.blocks} >= blocks
    assert {one.words for one in found if not one.blocks} >= beside
    assert [one.blocks for one in found] == sorted((one.blocks for one in found), reverse=True) or now == ""


def test_nothing_is_missing_when_everything_is_there(shop):
    kept = job(shop, "1x8G DDR4-2400", "A2=8G DDR4-2400 serial 1; B2=-; run 2400; soak clean 60min 96%")
    kept = shop.keep_hand_back(kept, HandBack("given back"))
    assert [one.words for one in missing(content_of(kept))] == ["no speed was measured"]


def test_an_accepted_finding_no_longer_stands_open(shop):
    kept = job(shop, "2x8G DDR4-2400; dual", "A2=8G DDR4-2400; B2=-; run 2400")
    before = {section.heading: section.sentences for section in outline_of(content_of(kept))}
    codes = ("module.missing", "capacity.short")
    agreed = tuple(Override(code, "the second one follows") for code in codes)
    kept = shop.keep_hand_back(kept, HandBack(overrides=agreed))
    after = {section.heading: section.sentences for section in outline_of(content_of(kept))}
    assert len(after.get("Still to be mended", ())) < len(before["Still to be mended"])
    assert any("Agreed: the second one follows." in sentence for sentence in after["Good to know"])
    assert not any(one.words.startswith("to fix: One module") for one in missing(content_of(kept)))


@pytest.mark.parametrize(
    ("line", "promise", "part"),
    [
        ("A2=8G DDR4-2400; B2=-; run 2400", "1x8G DDR4-2400", "A second, matching module of 8 GiB"),
        ("A2=8G DDR4-3733; B2=8G DDR4-3733; run 2400", "2x8G DDR4-3733; dual", "own standard pace is 3200 MT/s"),
        ("A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400", "2x8G DDR4-2400", "takes up to 32 GiB, 16 GiB more"),
        ("A2=16G DDR4-2400; B2=16G DDR4-2400; run 2400", "2x16G DDR4-2400", ""),
    ],
)
def test_what_to_consider_later(line, promise, part):
    reading, promised, card = take_notation(line).reading, parse_promise(promise)[0], parse_card(CARD)
    said = suggestions(reading, promised, judge(reading, None, promised, card), card)
    assert any(part in one for one in said) if part else said == ()
    assert suggestions(None, None, judge(reading), None) == ()


@pytest.mark.parametrize(
    ("kind", "name", "part"),
    [
        (SuspectKind.MODULE, "b", "one module (marked b) is faulty"),
        (SuspectKind.SLOT, "D1", "the slot D1 does not work"),
        (SuspectKind.KIND, "without ECC", "does not accept modules without ECC"),
        (SuspectKind.SEAT, "b in B2", "a module made bad contact"),
        (SuspectKind.MACHINE, "machine", "the fault is in the machine"),
        (SuspectKind.OUTSIDE, "heat", "the fault is not in the memory"),
        (SuspectKind.MIX, "a + b", "do not work together"),
        (SuspectKind.TOTAL, "64 GiB or more", "does not take that much"),
        (SuspectKind.PROFILE, "profile 1", "more than the machine holds"),
    ],
)
def test_what_was_tried_in_the_customers_words(kind, name, part):
    settled = Blame((Suspect(kind, name, 0.97),), None, True, tries=3)
    assert part in tried_words(settled)
    assert tried_words(settled).startswith("3 arrangements of the modules were tried")
    assert tried_words(Blame((Suspect(kind, name, 0.5),), tries=1)) == "1 arrangement of the modules was tried."
    assert tried_words(None) == ""


def test_a_promise_with_measured_figures_in_words():
    said = promise_in_words(parse_promise("2x16G DDR4-3200; dual; copy at least 30 GB/s; profile 1")[0])
    assert "32 GiB of memory in 2 modules" in said
    assert "copying at least 30 GB/s" in said
    assert "full-speed setting switched on" in said
    assert promise_in_words(None) == "Nothing was written down as promised."


def test_the_outline_follows_the_sheet(shop):
    kept = job(shop, "2x8G DDR4-2400; dual", "A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400; soak clean 60min 96%")
    headings = [section.heading for section in outline_of(content_of(kept))]
    assert headings[:2] == ["", "What was promised"]
    assert "What was tested" in headings
    assert promise_of(kept) is not None
