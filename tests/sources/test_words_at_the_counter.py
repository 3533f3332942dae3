"""What technicians say of what they see: what is shown by whom, what is filled, what is soldered, what is in a list."""

from __future__ import annotations

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from after_check.domain.readings import Reading
from after_check.language.typed_text import said
from after_check.language.words.vocabulary import terms
from after_check.sources.open_source import take_notation


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        # who shows it: the firmware has the total, the system what of it can be used
        ("bios sees all 32, windows 31.9", "total 32G; usable 31.9G"),
        ("bios says 32 windows says 31.9 usable", "total 32G; usable 31.9G"),
        ("32 in bios, 16 in windows", "total 32G; usable 16G"),
        ("windows 10 shows 15.9", "usable 15.9G"),
        ("16 GB totali, 15,8 utilizzabili", "total 16G; usable 15.8G"),
        ("16gb of 32gb usable", "total 32G; usable 16G"),
        ("system 16gb, bios 16gb", "total 16G"),
        ("bios shows 8gb in slot 1", "1=8G"),
        ("bios shows 2x8 2666", "2x8G 2666"),
        # the number of a system is no number of modules
        ("windows 11, 16gb", "total 16G"),
        ("windows 8.1 with 8gb", "total 8G"),
        ("windows 8 gb", "total 8G"),
        # what runs instead of what was to run
        ("2933 instead of 3200, dual ok", "1x3200; run 2933; dual"),
        ("2x8, running 2133 instead of 3200", "2x8G 3200; run 2133"),
        ("2x8 at 2133 rather than 3200", "2x8G 3200; run 2133"),
        ("2x8 both 2666", "2x8G 2666"),
        ("statt 3200 nur 2133", "1x3200; run 2133"),
        ("instead of 3200 MHz only 2133 MHz, 2x8", "2x8G 3200; run 2133MHz"),
        # what is filled, and one slot of several
        ("only slot 2 populated, 16gb", "2=16G"),
        ("only slot 2 of 2 populated, 16gb", "2=16G; slots 2"),
        ("slot 2 of 4: 8gb", "2=8G; slots 4"),
        ("slots 2 of 4 used, 2x8", "2x8G; slots 4"),
        ("A1 and B1 filled, 2x8", "A1=8G; B1=8G"),
        ("A1 and B1 filled with 8gb each", "A1=8G; B1=8G"),
        ("A2 populated", "A2=module"),
        ("4 Slots, 2 belegt mit 16er", "2x16G; slots 4"),
        ("4 slots, 2 full with 8s", "2x8G; slots 4"),
        ("dimm0 8G dimm1 8G dimm2 - dimm3 -", "dimm0=8G; dimm1=8G; dimm2=-; dimm3=-"),
        ("A1 - B2: 8gb each", "A1=8G; B2=8G"),
        ("3600 c18 4x8 quad slots", "4x8G 3600 CL18"),
        # soldered, before and behind its amount
        ("soldered 8 plus 16 sodimm = 24, 23.7 usable", "1x8G soldered; 1x16G sodimm; total 24G; usable 23.7G"),
        ("onboard: 8GB, sodimm: 16GB", "1x8G soldered; 1x16G sodimm"),
        ("8 on board + 16", "1x8G soldered; 1x16G"),
        ("4 onboard + 8gb sodimm ddr3l, total 12", "1x4G DDR3 1.35V soldered; 1x8G DDR3 1.35V sodimm; total 12G"),
        ("8 GB fest verlötet und 16 GB gesteckt", "1x8G soldered; 1x16G"),
        ("8 Go soudés + 8 Go en slot", "1x8G soldered; 1x8G"),
        ("onboard 8, slot 8gb", "1x8G soldered; 1x8G"),
        # lists and counts
        ("three sticks: 8, 8, 4", "2x8G; 1x4G"),
        ("one 8, one 4", "1x8G; 1x4G"),
        ("ddr4 sodimm 2666 mhz 8 gb 2 pcs", "2x8G DDR4-2666 sodimm"),
        ("two kits of 2x8 3200", "4x8G 3200"),
        ("16gb kit 2x8", "2x8G; total 16G"),
        ("2x16gb rdimm in A1 and B1, ecc", "A1=16G ecc rdimm; B1=16G ecc rdimm"),
        ("1x 32gb rdimm 2933 ecc 2rx4 in A1, same in B1", "A1=32G 2933 2Rx4 ecc rdimm; B1=32G 2933 2Rx4 ecc rdimm"),
        # where it sits, in words and by the names of servers
        ("bottom slot 8gb, top slot empty", "bottom slot=8G; top slot=-"),
        ("upper slot: 4GB lower slot: 8GB", "lower slot=8G; upper slot=4G"),
        ("A1/B1: 8gb each, A2/B2 empty", "A1=8G; A2=-; B1=8G; B2=-"),
        ("P1-DIMMA1 16GB, P2-DIMMA1 16GB", "P1-DIMMA1=16G; P2-DIMMA1=16G"),
        ("CPU0 DIMM A1 32GB CPU1 DIMM A1 32GB", "CPU0 DIMM A1=32G; CPU1 DIMM A1=32G"),
        ("4 slots, 8gb in each slot", "4x8G; slots 4"),
        ("8gb per slot, 4 slots", "4x8G; slots 4"),
        # what is at most possible is not there
        ("board takes max 64gb, 2x8 fitted", "2x8G"),
        ("1x8, max 16 per slot", "1x8G"),
        ("slot no 2: 8gb, slot nr. 4 empty", "2=8G; 4=-"),
        # a test that is only called so, where errors are spoken of
        ("tested overnight no errors", "soak clean"),
        ("2x8, tested 3h, 1 error", "2x8G; soak errors 1 180min"),
        ("getestet 2 Stunden, keine Fehler", "soak clean 120min"),
        ("battery tested ok, 2x8", "2x8G"),
        # what is before an equals sign is not always a slot
        ("2x16GB + 2x8GB = 48GB", "2x16G; 2x8G; total 48G"),
        ("total = 16GB", "total 16G"),
        ("ram=16gb", "total 16G"),
        ("speed = 2400", "run 2400"),
        ("8+8 = 16GB", "2x8G; total 16G"),
        ("top slot=8G", "top slot=8G"),
        ("slots = 4", "slots 4"),
        ("slots: 4, 2x8", "2x8G; slots 4"),
        # kinds by their peak, and with the letters of their timings
        ("12800s 4gb", "1x4G DDR3-1600 sodimm"),
        ("10600 ram 2x2gb", "2x2G DDR3-1333"),
        ("ddr4-3200aa 2x8", "2x8G DDR4-3200"),
        ("ddr4-3200cl16 2x8", "2x8G DDR4-3200 CL16"),
        ("2x8, pagefile 16gb", "2x8G"),
        # slots in brackets, and from one to another
        ("1x8GB (slot A2), 1x8GB (slot B2)", "A2=8G; B2=8G"),
        ("2x8GB (A2/B2) 3200", "A2=8G 3200; B2=8G 3200"),
        ("slots 1-4: 8gb each", "1=8G; 2=8G; 3=8G; 4=8G"),
        ("slots 1 to 2 8gb each, slots 3-4 empty", "1=8G; 2=8G; 3=-; 4=-"),
        ("four slots, 2x8", "2x8G; slots 4"),
        # what is pasted
        ("Slot\tSize\tType\tSpeed\nDIMM 1\t8192 MB\tDDR4\t2400 MT/s\nDIMM 2\tempty", "DIMM 1=8G DDR4-2400; DIMM 2=-"),
        ("DIMM_A1: Not Present\nDIMM_A2: 8192 MB", "A1=-; A2=8G"),
        ("RAM 1: 8GB DDR4 3200\nRAM 2: 8GB DDR4 3200", "2x8G DDR4-3200"),
        ("Module 1: 8GB 2666\nModule 2: 16GB 2666", "1x8G 2666; 1x16G 2666"),
        ("channel mode: single", "single"),
        ("channels used: 1 of 2, 2x8", "2x8G; single"),
        # what is of other parts, of an invoice, or hoped for
        ("16GB RAM, 512GB SSD, i5-8250U 1.6GHz", "total 16G"),
        ("256GB SSD 8GB RAM", "total 8G"),
        ("SSD 512 GB; 2x8 ddr4; cpu 3.2 GHz", "2x8G DDR4"),
        ("RAM 16 GB, disk 1 TB, battery 80%", "total 16G"),
        ("Invoice 2024-118: 2 pcs. 8 GB DDR4 3200 SODIMM, 38,50 EUR each", "2x8G DDR4-3200 sodimm"),
        ("2x8GB kit, old 2x4GB still in, 24GB total expected", "2x8G; 2x4G"),
        ("2x8, should show 16gb", "2x8G"),
        ("ddr4 2.4 GHz 2x8", "2x8G DDR4-2400"),
        # what is said not to be
        ("not dual, single", "single"),
        ("dual, not single", "dual"),
        ("no xmp on this board", "profile off"),
        ("4gb not 8gb", "total 4G"),
        ("16gb not 32", "total 16G"),
        ("runs 2666 not 3200", "1x3200; run 2666"),
        ("2x8 not ddr4", "2x8G"),
        ("no sodimm, udimm 2x8", "2x8G udimm"),
        ("kein ECC 2x8", "2x8G noecc"),
        ("slot 2 not used, 8gb in slot 1", "1=8G; 2=-"),
        # what is said to be missing is not there
        ("2x8, 8gb missing", "2x8G"),
    ],
)
def test_what_is_seen_at_the_bench(text, exact):
    found = said(text)
    assert sorted(found.notation.split("; ")) == sorted(exact.split("; "))
    assert found.asks == ()


@pytest.mark.parametrize(
    "text",
    [
        "8gb missing",
        "slot 2: 8gb not detected",
        "error stays with slot 3",
        "8gb fehlt",
        "no dual channel",
        "not registered",
        "slot 2 not empty",
    ],
)
def test_what_is_not_seen_is_no_fact(text):
    found = said(text)
    assert found.reading == Reading()
    assert found.left_aside or not found.is_whole


@pytest.mark.parametrize(
    ("text", "about", "first"),
    [
        ("sees 16 of 32", "total_bytes", "total 16 GiB"),
        ("16 or 32 gb", "modules", "16"),
        ("2x8 or 2x16", "modules", "2x8"),
        ("8gb in each slot", "modules", "2x8 GiB"),
        ("all slots 8gb", "modules", "2x8 GiB"),
        ("two 16gb kits", "modules", "4x8 GiB"),
        ("12 gb (4 onboard)", "modules", "total 12 GiB, 1x8 GiB"),
        ("12 gb, 4 of it onboard", "modules", "total 12 GiB, 1x8 GiB"),
    ],
)
def test_what_may_mean_two_things_is_asked_with_an_answer(text, about, first):
    (ask,) = said(text).asks
    assert ask.about == about
    assert ask.choices[0] == first


@pytest.mark.parametrize(("text", "exact"), [("12 gb (4 onboard)", "1x4G soldered; 1x8G; total 12G"), ("two 16gb kits", "4x8G")])
def test_the_answer_settles_it(text, exact):
    (ask,) = said(text).asks
    start, end = ask.in_place_of
    answered = said(text[:start] + ask.choices[0] + text[end:])
    assert answered.asks == ()
    assert sorted(answered.notation.split("; ")) == sorted(exact.split("; "))


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        ("a second 8gb stick", "2x8G"),
        ("a matching 8gb stick", "2x8G"),
        ("one 16gb in the free slot", "1x8G; 1x16G"),
        ("keep it, 8gb into free slot", "2x8G"),
        ("keep what is there and add 16gb", "1x8G; 1x16G"),
        ("8gb stays, 16gb added", "1x8G; 1x16G"),
        ("fill both slots with 16s", "2x16G"),
        ("16gb in each slot", "2x16G"),
        ("at least 16gb", "total 16G"),
        ("32gb not 16", "total 32G"),
    ],
)
def test_a_promise_of_what_goes_in_beside_what_is_there(text, exact):
    one_of_two = take_notation("A1=8G DDR4-2666; A2=-").reading
    found = said(text, promise=True, before=one_of_two)
    assert sorted(found.notation.split("; ")) == sorted(exact.split("; "))


def test_a_promise_of_one_or_the_other_is_asked():
    found = said("from 8gb to 16 or 32", promise=True)
    assert [ask.choices for ask in found.asks] == [("16", "32")]
    assert found.reading == Reading()


FIGURES = (
    *("2x8", "8gb", "16", "4", "1,3", "3200", "2666 MHz", "ddr4", "A1", "A1/B1", "slots 1-4", "slot 2 of 4", "2 of 4", "8s", "15.9"),
    *("+", "-", "=", ":", "(", ")", ",", ";", "->", "/", "12800s", "cl16", "2Rx8", "P1-DIMMA1", "windows 11", "512GB SSD", "#"),
)


@given(st.lists(st.one_of(st.sampled_from(FIGURES), st.sampled_from(sorted(terms().longer))), max_size=12), st.booleans(), st.booleans())
@example(["+", "12800s"], True, True)
@example(["slot 1 8gb, slot 2 empty"], False, False)
@example(["dual rank 8gb"], False, False)
@example(["maker", "24 x2"], False, False)
def test_words_of_the_trade_in_any_order_are_read_without_an_error(words, promise, with_arrival):
    text = " ".join(words)
    before = take_notation("A1=8G DDR4-2666; A2=-").reading if with_arrival else None
    found = said(text, promise, before)
    assert all(0 <= start < end <= len(text) for start, end in found.not_understood)
    assert all(module.size_bytes is None or module.size_bytes.value > 0 for module in found.reading.modules)
    if not promise:  # What is shown in the short form says the same when it is typed; a promise takes less.
        again = said(found.notation)
        assert (again.reading, again.asks) == (found.reading, ())
