"""What the machine shows beside what is fitted, how many slots hold how much, and what "dual" is said of."""

from __future__ import annotations

import pytest

from after_check.domain.case_files import CaseFile
from after_check.judgement.judge import judge
from after_check.language.typed_text import said
from after_check.sources.open_source import take_notation, take_promise


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        ("only 16 shown", "total 16G"),
        ("2x16 fitted, bios sees 16", "2x16G; total 16G"),
        ("fitted 2x16, sees 16", "2x16G; total 16G"),
        ("2x16 installed, 16 shown", "2x16G; total 16G"),
        ("4x8 installed, 24 recognised", "4x8G; total 24G"),
        ("4x8gb, 24gb detected", "4x8G; total 24G"),
        ("4x8gb shows as 24", "4x8G; total 24G"),
        ("4x8gb, erkannt 24gb", "4x8G; total 24G"),
        ("2x8 -> shows only 8", "2x8G; total 8G"),
        ("2x16 eingebaut, 16 gb erkannt", "2x16G; total 16G"),
        # what is shown in a slot, of a module or of what can be used is no total
        ("shows 16gb in A2", "A2=16G"),
        ("shows 16 gb usable", "usable 16G"),
        ("8gb stick seen", "1x8G"),
        ("2x8 2133 shown", "2x8G; run 2133"),
        # a size that is installed is the total where nothing else is shown
        ("installed memory 16.0 GB (15.8 usable)", "total 16G; usable 15.8G"),
        # how many hold it
        ("8gb sticks in both", "2x8G"),
        ("8gb sticks in all four", "4x8G"),
        ("two 8gb sticks in 2 slots", "2x8G"),
        ("4 slots 32gb total", "total 32G; slots 4"),
        # "dual" of modules, and of channels
        ("dual 8gb sticks", "2x8G"),
        ("8gb dual", "total 8G; dual"),
        ("2x8gb dual 3200", "2x8G 3200; dual"),
        # a rate with its latency behind it, a rate behind other figures
        ("2x8 3200c16", "2x8G 3200 CL16"),
        ("2x16 6000cl30", "2x16G 6000 CL30"),
        ("2x8 3200/cl16", "2x8G 3200 CL16"),
        ("running 1.2v 2133 cl15", "run 2133; CL15; 1.2V"),
        # bare numbers in slots; MB without a unit are no rate
        ("8 in A2 and 8 in B2", "A2=8G; B2=8G"),
        ("2x8 in a1 a2", "A1=8G; A2=8G"),
        ("first slot 8, second slot 4", "1=8G; 2=4G"),
        ("dimm1 8192 dimm2 8192 dimm3 none dimm4 none", "dimm1=8G; dimm2=8G; dimm3=-; dimm4=-"),
        ("8192 2666", "run 2666; total 8G"),
        ("zwei 8er dual", "2x8G; dual"),
        # how it starts, and what it counted
        ("boots fine", "start yes"),
        ("2x8, no post", "2x8G; start no"),
        ("3 corrected errors", "ecc-errors 3"),
        ("no uncorrected errors", "uncorrected 0"),
        ("bios reset to defaults", "reset"),
        # what sits in each of the slots, and what is a sum
        ("8 of 16 slots populated with 32gb rdimms", "8x32G rdimm; slots 16"),
        ("16x16gb = 256gb rdimm 2933 ecc", "16x16G 2933 ecc rdimm; total 256G"),
        # what is empty ends what is said of it
        ("slot 2 free 8gb in slot 1", "1=8G; 2=-"),
        ("A2 free 8gb in A1", "A1=8G; A2=-"),
        ("first slot empty second slot 8gb", "1=-; 2=8G"),
        # modules in bytes, slots from 0, ranks behind their word, what is free
        ("Capacity 8589934592", "total 8G"),
        ("A0 8GB B0 8GB", "A0=8G; B0=8G"),
        ("Rank: 2, Size: 16 GB", "1x16G 2R"),
        ("RAM 15.9 GB (13.4 GB free)", "total 15.9G; available 13.4G"),
        ("8gb, 1 slot free", "total 8G"),
        ("A2, B2: 8gb each", "A2=8G; B2=8G"),
        ("A1, A2 empty, B1 8gb", "A1=-; A2=-; B1=8G"),
        ("8gb in A1, A2 empty", "A1=8G; A2=-"),
        ("camm2 32gb", "1x32G camm"),
        # who shows a rate
        ("bios 2933 windows 2933", "run 2933"),
        ("label 3200 bios 2933", "1x3200; run 2933"),
        # whether errors are corrected, beside what the modules can
        ("2x8 ecc, ecc disabled in bios", "2x8G ecc; ecc off"),
        ("ecc is off", "ecc off"),
        ("ecc enabled 2x32 rdimm", "2x32G rdimm; ecc on"),
        ("2x8 ecc", "2x8G ecc"),
    ],
)
def test_what_is_shown_is_the_total(text, exact):
    found = said(text)
    assert sorted(found.notation.split("; ")) == sorted(exact.split("; "))
    assert found.asks == ()
    assert found.not_understood == ()


@pytest.mark.parametrize(
    ("text", "exact", "first"),
    [
        ("installed 32, only 16 shows up in bios", "total 16G", "2x16 GiB"),
        ("installed 32gb but only 16gb detected", "total 16G", "2x16 GiB"),
        ("installed memory 32gb, detected 16gb", "total 16G", "2x16 GiB"),
        ("fitted 16, shows 12", "total 12G", "2x8 GiB"),
        ("32 installed, 16 seen", "total 16G", "2x16 GiB"),
        ("all four slots 8gb", "slots 4", "4x8 GiB"),
        ("4 slots 8gb", "slots 4", "4x8 GiB"),
        ("8gb in 2 slots", "", "2x8 GiB"),
        ("4 slots, 8gb each", "slots 4", "4x8 GiB"),
        ("8gb sticks in all", "", "2x8 GiB"),
        ("dual 8gb", "total 8G", "2x8gb"),
        ("quad 8gb", "total 8G", "4x8gb"),
    ],
)
def test_which_modules_these_are_is_asked(text, exact, first):
    found = said(text)
    assert found.notation == exact
    assert [(ask.about, ask.choices[0]) for ask in found.asks] == [("modules", first)]


@pytest.mark.parametrize(
    "text", ["chan A: 16, chan B: 0", "channel A: 2x8, channel B: empty", "channel 0: 8gb, channel 1: 8gb", "chan a 8, chan b 8"]
)
def test_a_channel_that_is_named_is_no_count_of_channels(text):
    assert "channels" not in said(text).notation
    assert said(text).notation in ("", "2x8G")


@pytest.mark.parametrize(
    "text", ["boots", "boots with one stick", "starts only with one", "errors at 0x12345", "slot 3 2", "no post, but boots fine"]
)
def test_what_may_be_so_in_some_cases_is_no_fact(text):
    assert said(text).notation in ("", "1xmodule")
    assert said(text).not_understood != () or said(text).left_aside != ()


@pytest.mark.parametrize("text", ["16 GB 2667 MHz LPDDR3", "2x8 ddr3 3200 mhz"])
def test_a_rate_that_no_module_has_is_asked(text):
    assert [ask.about for ask in said(text).asks] == ["rated_mts"]


@pytest.mark.parametrize(
    ("text", "exact", "modules"),
    [
        ("16gb", "total 16G", 0),
        ("16G", "total 16G", 0),
        ("1x16G", "1x16G", 1),
        ("16G DDR4-3200", "16G DDR4-3200", 0),
        ("32gb ddr4 3200 dual channel", "1xDDR4-3200; dual; total 32G", 0),
        ("2x8gb", "2x8G", 2),
    ],
)
def test_an_amount_that_is_promised_is_in_however_many_modules(text, exact, modules):
    assert said(text, promise=True).notation == exact
    assert len(take_promise(text).modules) == modules


def test_two_modules_that_make_up_a_promised_amount_are_what_was_promised():
    found = judge(CaseFile(take_notation("2x8G; total 16G").reading, None, take_promise("16gb")))
    assert "module.unexpected" not in {finding.code for finding in found.findings}


def test_half_of_what_is_fitted_is_missing():
    """Half of it is not counted: capacity is short, and what was said is no contradiction."""
    after = take_notation(said("2x16 fitted, bios sees 16").notation).reading
    found = judge(CaseFile(after, None, take_promise("2x16G")))
    assert "capacity.short" in {finding.code for finding in found.findings}
    assert "source.disagree" not in {finding.code for finding in found.findings}
