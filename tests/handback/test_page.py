"""What is missing for a hand-back, what to consider later, and the words of the sheet."""

from __future__ import annotations

from dataclasses import replace

import pytest

from after_check.casework.answers import JobAnswerKind, JobQuestion, answers_of
from after_check.casework.judging import judge_job
from after_check.casework.promised import promise_of
from after_check.domain.bench import WaitsFor
from after_check.domain.case_files import CaseFile
from after_check.domain.codes import Code
from after_check.domain.findings import finding
from after_check.domain.handback import HandBack, Override
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.standing import JobOutcome, Quantity, Verdict
from after_check.domain.tries import Blame, Suspect, SuspectKind
from after_check.handback.content import content_of
from after_check.handback.missing import Remedy, missing
from after_check.handback.page import Figure, Tone, customer_page_of, promise_in_words, suggestions, tried_words
from after_check.judgement.judge import judge
from after_check.language.short_form import parse_promise
from after_check.sources.card_file import parse_card
from after_check.sources.open_source import take_notation

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
    return shop.jobs.add(JobFacts("1", "desk", "Larkfield S1", "", promise), tuple(readings))


def said_on(kept):
    """The sentences of the customer's page by their headings."""
    return {item.heading: [sentence.text for sentence in item.sentences] for item in customer_page_of(content_of(kept)).sections}


@pytest.mark.parametrize(
    ("promise", "now", "blocks", "beside"),
    [
        (
            "2x8G DDR4-2400; dual",
            "",
            {"the machine was not read after fitting", "not known: capacity", "not known: speed", "not known: channels"},
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
            {"to fix: One module not seen: B2 is empty"},
            {"no memory test was run", "serial numbers of the modules, for the warranty"},
        ),
    ],
)
def test_what_is_missing(shop, promise, now, blocks, beside):
    found = missing(content_of(job(shop, promise, now)))
    assert {item.words for item in found if item.blocks} >= blocks
    assert {item.words for item in found if not item.blocks} >= beside
    assert [item.blocks for item in found] == sorted((item.blocks for item in found), reverse=True) or now == ""


def test_nothing_is_missing_when_everything_is_there(shop):
    kept = job(shop, "1x8G DDR4-2400", "A2=8G DDR4-2400 serial 1; B2=-; run 2400; soak clean 60min 96%")
    kept = shop.signing.keep_hand_back(kept, HandBack("given back"))
    assert [gap.words for gap in missing(content_of(kept))] == ["no speed was measured"]


def test_an_accepted_finding_no_longer_stands_open(shop):
    kept = job(shop, "2x8G DDR4-2400; dual", "A2=8G DDR4-2400; B2=-; run 2400")
    before = said_on(kept)
    codes = ("module.missing", "capacity.short")
    agreed = tuple(Override(code, "the second one follows") for code in codes)
    kept = shop.signing.keep_hand_back(kept, HandBack(overrides=agreed))
    after = said_on(kept)
    assert len(after.get("Still to fix", ())) < len(before["Still to fix"])
    (sentence,) = after["What was agreed with you"]
    assert sentence.endswith("Agreed: the second one follows.")
    assert not any(gap.words.startswith("to fix: One module") for gap in missing(content_of(kept)))


def test_what_the_customer_agreed_to_goes_back_as_agreed(shop):
    """All that stands against it has to be agreed to; then nobody reads that something is still to fix."""
    kept = job(shop, "2x8G DDR4-2400; dual; run 2400", "A2=8G DDR4-2400; B2=-; total 8G")
    blocking = [gap for gap in missing(content_of(kept)) if gap.blocks]
    assert {gap.words for gap in blocking} >= {"to fix: One module not seen: B2 is empty", "not known: speed"}
    one = shop.signing.keep_hand_back(kept, HandBack(overrides=(Override(blocking[0].code, "agreed on the phone"),)))
    assert content_of(one).snapshot.outcome is JobOutcome.NOT_READY
    agreed = tuple(Override(gap.code, "agreed: the second one follows in June") for gap in blocking)
    kept = shop.signing.keep_hand_back(one, HandBack(overrides=agreed))
    page = customer_page_of(content_of(kept))
    assert (page.outcome, page.outcome_words) == (JobOutcome.AS_AGREED, "Handed back as agreed with you.")
    assert said_on(kept).get("Still to fix") is None
    (sentence,) = said_on(kept)["What was agreed with you"]
    assert sentence.count("greed") == 1
    assert sentence.endswith("Agreed: the second one follows in June.")
    assert "Speed: it was not read." in sentence
    assert (shop.jobs.lines()[0].outcome, shop.jobs.lines()[0].waits_for) == (JobOutcome.AS_AGREED, WaitsFor.CUSTOMER)


def test_a_promised_property_that_nobody_could_read_is_agreed_to_and_said(shop):
    """Ranks, timings and kept-back memory have no track: they too are listed, agreed to one by one, and stand on the sheet."""
    kept = job(shop, "2x16G DDR4-3200 2Rx8; dual; ecc on", "A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; dual; total 32G")
    blocking = [gap for gap in missing(content_of(kept)) if gap.blocks]
    assert [gap.words for gap in blocking] == ["not known: ranks", "not known: device width", "not known: error correction"]
    assert "Ranks: promised, and could not be read." in said_on(kept)["What was not checked"]
    one = shop.signing.keep_hand_back(kept, HandBack(overrides=(Override(blocking[0].code, "does not matter"),)))
    assert content_of(one).snapshot.outcome is JobOutcome.CANT_TELL
    agreed = tuple(Override(gap.code, "the customer asked for the size only") for gap in blocking)
    kept = shop.signing.keep_hand_back(one, HandBack(overrides=agreed))
    assert content_of(kept).snapshot.outcome is JobOutcome.AS_AGREED
    assert "Ranks: it was not read." in said_on(kept)["What was agreed with you"][0]


@pytest.mark.parametrize(
    ("promise", "typed", "worked_out"),
    [("2x16G DDR4-3200; dual", "A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; dual", True), ("32G", "total 32G", False)],
)
def test_figures_worked_out_are_spoken_of_only_where_they_stand(shop, promise, typed, worked_out):
    said = said_on(job(shop, promise, typed))["What was not checked"]
    assert any("are worked out from the settings" in sentence for sentence in said) is worked_out
    assert ("No speed was measured." in said) is not worked_out


def test_a_machine_goes_back_as_it_came(shop):
    kept = job(shop, "2x8G DDR4-2400; dual", "A2=8G DDR4-2400; B2=-; run 2400")
    kept = shop.signing.keep_hand_back(kept, HandBack(as_it_came="The new module does not fit this board."))
    page = customer_page_of(content_of(kept))
    assert page.outcome_words == "Handed back as it came."
    assert said_on(kept)["What was agreed with you"] == ["The new module does not fit this board."]
    assert missing(content_of(kept)) == ()


def test_an_agreement_without_a_fault_changes_nothing(shop):
    kept = job(shop, "2x8G DDR4-2400", "2x8G DDR4-2400; run 2400; total 16G")
    kept = shop.signing.keep_hand_back(kept, HandBack(overrides=(Override("mix.maker", "two makes are fine"),)))
    assert content_of(kept).snapshot.outcome is JobOutcome.NOT_TESTED


@pytest.mark.parametrize(
    ("result", "outcome", "words"),
    [
        ("", JobOutcome.NOT_TESTED, "As promised, not tested"),
        ("; soak clean 60min 98%", JobOutcome.READY, "Ready: what was promised is there."),
        ("; soak clean 60min 10%", JobOutcome.PARTLY_TESTED, "As promised, not fully tested"),
        ("; soak clean 60min 2 passes", JobOutcome.READY, "Ready: what was promised is there."),  # Whole passes, by the technician's word.
        ("; soak clean 60min", JobOutcome.PARTLY_TESTED, "As promised, not fully tested"),  # Nobody said how much of it.
    ],
)
def test_without_a_full_memory_test_it_is_as_promised_and_not_ready(shop, result, outcome, words):
    kept = job(shop, "2x8G DDR4-2400", f"2x8G DDR4-2400; run 2400; total 16G{result}")
    assert judge_job(kept).verdict is Verdict.READY  # The promise is kept; what a shop needs beside it is for its settings.
    content = content_of(kept)
    assert content.snapshot.outcome is outcome
    assert customer_page_of(content).outcome_words.startswith(words)


@pytest.mark.parametrize(("promise", "now"), [("run 3200", "run 3200"), ("profile 1", "profile 1"), ("run 3200; dual", "run 3200; dual")])
def test_a_setting_that_is_kept_alone_is_no_test_of_the_memory(shop, promise, now):
    assert content_of(job(shop, promise, now, before="")).snapshot.outcome is not JobOutcome.READY


def test_a_memory_test_that_the_customer_does_without_is_agreed_to_by_name_and_reason(shop):
    kept = job(shop, "2x8G DDR4-2400", "2x8G DDR4-2400; run 2400; total 16G")
    kept = shop.signing.keep_hand_back(kept, HandBack(overrides=(Override("soak.none", "no time before the ferry", "I. Skarrow"),)))
    content = content_of(kept)
    assert content.snapshot.outcome is JobOutcome.AS_AGREED
    trusted = next(one for one in answers_of(content.snapshot) if one.question is JobQuestion.TRUSTED)
    assert (trusted.kind, trusted.why) == (JobAnswerKind.WAIVED, "no time before the ferry")
    assert any("no time before the ferry" in words for words in said_on(kept)["What was agreed with you"])


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
    said = suggestions(reading, promised, judge(CaseFile(reading, None, promised, card)), card)
    assert any(part in sentence for sentence in said) if part else said == ()
    assert suggestions(None, None, judge(CaseFile(reading)), None) == ()


@pytest.mark.parametrize(
    ("kind", "name", "part"),
    [
        (SuspectKind.MODULE, "b", "one module (marked b) is faulty"),
        (SuspectKind.SLOT, "D1", "the slot D1 does not work"),
        (SuspectKind.KIND, "without ECC", "does not accept modules without ECC"),
        (SuspectKind.CONTACT, "b in B2", "a module made poor contact"),
        (SuspectKind.MACHINE, "machine", "the fault is in the machine"),
        (SuspectKind.OUTSIDE, "heat", "the fault is not in the memory"),
        (SuspectKind.MIX, "a + b", "do not work together"),
        (SuspectKind.TOTAL, "64 GiB or more", "does not take that much"),
        (SuspectKind.PROFILE, "profile 1", "more than the machine holds"),
        (SuspectKind.MARGINAL, "b", "one module (marked b) fails at the speed of its memory profile"),
        (SuspectKind.ORDER, "A2", "the slot A2 has to be filled first"),
        (SuspectKind.CHANNEL, "A", "the memory channel A does not work"),
        (SuspectKind.NOTHING, "came once", "it came once, and not again"),
    ],
)
def test_what_was_tried_in_the_customers_words(kind, name, part):
    settled = Blame((Suspect(kind, name, 0.97),), True, tries=3)
    assert part in tried_words(settled)
    assert tried_words(settled).startswith("3 arrangements of the modules were tried")
    assert tried_words(Blame((Suspect(kind, name, 0.5),), tries=1)) == "1 arrangement of the modules was tried."
    assert tried_words(None) == ""


def test_a_promise_with_measured_figures_in_words():
    said = promise_in_words(parse_promise("2x16G DDR4-3200; dual; copy at least 30 GB/s; profile 1")[0])
    assert "32 GiB of memory in 2 modules" in said
    assert "copying at least 30 GB/s" in said
    assert "memory profile (the setting for full speed) on" in said
    assert promise_in_words(None) == "Nothing was written down as promised."


def test_the_page_in_its_order(shop):
    kept = job(shop, "2x8G DDR4-2400; dual", "A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400; soak clean 60min 96%")
    page = customer_page_of(content_of(kept))
    headings = [section.heading for section in page.sections]
    assert headings[0] == "What was promised"
    assert headings.index("What was tested") < headings.index("What was not checked")
    assert [section.figure for section in page.sections if section.figure] == [Figure.TRACKS, Figure.BOARDS]
    assert page.title == "desk"
    assert page.outcome_words.startswith("Ready")
    assert page.handed_back_by == "Handed back by, on"
    assert "typed from a screen or a sticker" in page.provenance
    assert promise_of(kept) is not None


def test_a_long_list_says_how_many_more_there_are(shop):
    """Eleven sentences to repair, one of them said twice: eight are shown, two are counted."""
    content = content_of(job(shop, "2x8G DDR4-2400; dual", "A2=8G DDR4-2400; B2=-; run 2400"))
    sizes = [(number + 1) << 30 for number in (*range(10), 3)]
    many = tuple(finding(Code.MODULE_SHORT, 0.9, why="less", slot=None, seen_bytes=size, whole_bytes=32 << 30) for size in sizes)
    page = customer_page_of(replace(content, snapshot=replace(content.snapshot, judgement=replace(content.judgement, findings=many))))
    repair = next(section for section in page.sections if section.heading == "Still to fix")
    assert [sentence.text for sentence in repair.sentences[:8]] == [
        f"One module shows {number + 1} GiB instead of 32 GiB." for number in range(8)
    ]
    assert repair.sentences[8].text == "And 2 more; the record lists them."
    assert {sentence.tone for sentence in repair.sentences} == {Tone.ALARM}


def test_each_missing_thing_names_its_remedy(shop):
    found = {gap.words: gap for gap in missing(content_of(job(shop, "2x8G DDR4-2400; dual", "A2=8G DDR4-2400; B2=-; run 2400")))}
    assert found["to fix: One module not seen: B2 is empty"].remedy is Remedy.FIX
    assert found["to fix: One module not seen: B2 is empty"].finding.code == "module.missing"
    assert found["no memory test was run"].remedy is Remedy.SOAK
    assert found["no speed was measured"].remedy is Remedy.BENCHMARK
    assert found["what became of the old modules"].remedy is Remedy.OLD_MODULES
    assert found["serial numbers of the modules, for the warranty"].remedy is Remedy.READ


def test_the_spectrum_laptop_was_measured_before_and_after(demo_shop):
    """Its samples hold 39.6 GB/s on one channel and 74.3 on two, far beyond what they scatter; one channel carries 44.8."""
    kept = demo_shop.jobs.job("0426")
    before, now = content_of(kept).benchmarks
    assert before.best_bandwidth_gbs == pytest.approx(39.6, rel=0.01)
    assert now.best_bandwidth_gbs == pytest.approx(74.3, rel=0.01)
    assert "Measured before and after, the memory is faster than it was." in said_on(kept)["What was tested"]
    assert not any("No speed" in words for words in said_on(kept).get("What was not checked", []))
    track = content_of(kept).judgement.track(Quantity.CHANNELS)
    assert track.now == 2


def test_the_page_tells_the_story_in_numbers(shop):
    kept = job(shop, "2x8G DDR4-3200; dual", "A2=8G DDR4-3200; B2=8G DDR4-3200; run 3200; dual; total 16G; soak clean 2h 4 passes by stick")
    page = customer_page_of(content_of(kept))
    assert page.story == "8 → 16 GiB of memory · 2400 → 3200 MT/s · single → dual memory channels"
    (tested,) = said_on(kept)["What was tested"]
    assert tested == (
        "The memory was tested for 2 hours in 4 whole passes; the test found no errors. "
        "How much of the memory it covered is not known. Tested by: stick."
    )
    assert not any("covered" in sentence for sentence in said_on(kept).get("Good to know", ()))
