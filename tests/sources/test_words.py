"""What technicians type, read off a screen or paste: what is certain, what is asked, what is pointed at. Written from the trade."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.readings import Reading
from after_check.language.short_form import parse, write
from after_check.language.typed_text import exact_promise, read_line, said
from after_check.language.words import understand
from after_check.language.words.reader import LONGEST_TEXT
from after_check.sources.open_source import NotationError, take_notation
from tests.helpers.cases import CASES
from tests.helpers.commands import run

CERTAIN = [
    # counts and sizes
    ("2x8", "2x8G"),
    ("2x8gb", "2x8G"),
    ("2 x 8 GB", "2x8G"),
    ("2×8 GB", "2x8G"),
    ("8GB x 2", "2x8G"),
    ("8 GB x2 ddr4", "2x8G DDR4"),
    ("16GBx2 DDR5", "2x16G DDR5"),
    ("2 by 8", "2x8G"),
    ("two sticks of 8gb ddr4-2666", "2x8G DDR4-2666"),
    ("two 8gb sticks", "2x8G"),
    ("4 sticks, 8gb each, ddr4", "4x8G DDR4"),
    ("a stick of 16 gig", "1x16G"),
    ("1 stick 16gb ddr5 4800", "1x16G DDR5-4800"),
    ("8gb + 16gb ddr4 2400", "1x8G DDR4-2400; 1x16G DDR4-2400"),
    ("8 + 16", "1x8G; 1x16G"),
    ("2x4gb and 2x8gb ddr3-1600", "2x4G DDR3-1600; 2x8G DDR3-1600"),
    ("8192 MB + 8192 MB", "2x8G"),
    ("memory: 2 x 8192 MB DDR4-2400", "2x8G DDR4-2400"),
    ("8 on board + 16", "1x8G soldered; 1x16G"),
    ("8gb soldered + 16gb sodimm", "1x8G soldered; 1x16G sodimm"),
    ("4gb soldered, 8gb 2666 in the slot", "1x4G soldered; 1x8G 2666"),
    ("4gb on board, slot has 8gb", "1x4G soldered; 1x8G"),
    ("lpddr5 16gb onboard 6400", "1x16G LPDDR5-6400 soldered"),
    ("slot 1 8gb slot 2 8gb", "1=8G; 2=8G"),
    ("slot 1 8gb 2400 slot 2 8gb 2133 slot 3 empty", "1=8G 2400; 2=8G 2133; 3=-"),
    ("dimm1 8gb dimm2 8gb dimm3 empty", "dimm1=8G; dimm2=8G; dimm3=-"),
    ("16gb 2x8 ddr4 3200 cl16 1.35v", "2x8G DDR4-3200 CL16 1.35V; total 16G"),
    ("32GB kit (2x16GB) 6000MHz CL30 DDR5", "2x16G DDR5-6000 CL30; total 32G"),
    ("4 x 8 = 32gb", "4x8G; total 32G"),
    # totals and what is usable
    ("16 GB installed, 15.8 GB usable", "total 16G; usable 15.8G"),
    ("Installed RAM: 16.0 GB (15.9 GB usable)", "total 16G; usable 15.9G"),
    ("Installed 16,0 GB (15,9 GB usable)", "total 16G; usable 15.9G"),
    ("32.0 GB (31.8 GB usable)", "total 32G; usable 31.8G"),
    ("total 32768 MB", "total 32G"),
    ("32.768 MB, 2 of 4 slots", "2xmodule; total 32G; slots 4"),
    ("32 768 MB total", "total 32G"),
    ("graphics 512 MB, total 16 GB", "total 16G; graphics 512M"),
    ("hardware reserved 130 MB, total 8 GB", "total 8G; reserved 130M"),
    ("in use 5.2 GB, available 10.5 GB, installed 16 GB", "total 16G; in use 5.2G; available 10.5G"),
    # kinds and rates
    ("2x8gb ddr4 3200mhz dual channel", "2x8G DDR4-3200; dual"),
    ("3200 mhz ddr4 2x8", "2x8G DDR4-3200"),
    ("DDR43200 2x16GB", "2x16G DDR4-3200"),
    ("ddr5 5600 2x16gb", "2x16G DDR5-5600"),
    ("2x16 5600", "2x16G 5600"),
    ("PC4-25600 2x8gb", "2x8G DDR4-3200"),
    ("2x 8 GB PC3L-12800S", "2x8G DDR3-1600 1.35V sodimm"),
    ("DDR3L 2x4gb 1600", "2x4G DDR3-1600 1.35V"),
    ("2x8gb ddr4 at 2.4 GHz", "2x8G DDR4-2400"),
    ("ddr4 2x8gb 1333 mhz", "2x8G DDR4-2666"),
    ("2x8gb ddr4 1200 mhz", "2x8G DDR4-2400"),
    ("runs at 2133", "run 2133"),
    ("2x8gb ddr4-3000, at 2133 now", "2x8G DDR4-3000; run 2133"),
    ("2x8 ddr4-3200, 2666 now", "2x8G DDR4-3200; run 2666"),
    ("memory clock 1200 MHz, ddr4, 2x4gb", "2x4G DDR4; run 2400MT/s"),
    ("2x8GB DDR4-3200 running at 1600 MHz", "2x8G DDR4-3200; run 1600MHz"),
    # timings, voltage, ranks, form, error correction, names
    ("1.35 V, CL 18-22-22-42, ddr4 3600, 2x16gb", "2x16G DDR4-3600 18-22-22-42 1.35V"),
    ("2x16gb ddr4 3600 c18", "2x16G DDR4-3600 CL18"),
    ("2x8gb ddr4 2Rx8", "2x8G DDR4 2Rx8"),
    ("ecc registered 4x32gb ddr4 2933", "4x32G DDR4-2933 ecc rdimm"),
    ("2x16gb ddr4 non-ecc udimm", "2x16G DDR4 noecc udimm"),
    ("ddr4 so-dimm 2x8 3200", "2x8G DDR4-3200 sodimm"),
    ("part no. TH3200U-16, 16GB UDIMM PC4-25600", "1x16G DDR4-3200 udimm part TH3200U-16"),
    ("s/n 0A1B2C3D, 8gb ddr4", "1x8G DDR4 serial 0A1B2C3D"),
    ("OSTREL 16GB 2Rx8 PC4-2933Y-UB1-11", "1x16G DDR4-2933 21-21-21 2Rx8 1.2V noecc udimm std 2933"),
    # slots
    ("A1: empty; A2: 8GB DDR4-3200; B1: empty; B2: 8GB DDR4-3200", "A1=-; A2=8G DDR4-3200; B1=-; B2=8G DDR4-3200"),
    ("Slot 1: 8 GB\nSlot 2: not fitted", "Slot 1=8G; Slot 2=-"),
    ("4gb stick in slot 1, slot 2 free", "1=4G; 2=-"),
    ("8 gb in the first slot, the second slot is empty", "1=8G; 2=-"),
    ("16 GB in slot A2, rest empty", "A2=16G"),
    ("slot 3 and 4: 8 GB each", "3=8G; 4=8G"),
    ("2 of 4 slots used", "2xmodule; slots 4"),
    ("speed 2666 MHz, slots used 2 of 4, form factor SODIMM", "2xmodule sodimm; run 2666MHz; slots 4"),
    # channels and profile
    ("dual channel", "dual"),
    ("single channel 1x8gb ddr4", "1x8G DDR4; single"),
    ("4 channels, 4x16gb ddr4", "4x16G DDR4; quad"),
    ("2x8gb dual rank ddr4", "2x8G DDR4 2R"),
    ("4 sub-channels, 2x16gb ddr5", "2x16G DDR5; dual"),
    ("profile 2 is on, running 3600", "run 3600; profile 2"),
    ("xmp on", "profile on"),
    ("xmp disabled, runs at 2133", "run 2133; profile off"),
    ("memory profile greyed out", "profile locked"),
    # other languages
    ("zwei Riegel 8 GB DDR4-2666, Dual Channel", "2x8G DDR4-2666; dual"),
    ("ein Riegel 16 GB, XMP an", "1x16G; profile on"),
    ("16 GB insgesamt, 15,8 GB verwendbar", "total 16G; usable 15.8G"),
    ("deux barrettes de 4 Go, fréquence 2400 MHz", "2x4G; run 2400MHz"),
    ("8 Go DDR4 en 2 barrettes de 4 Go", "2x4G DDR4; total 8G"),
    ("2 módulos de 8 GB DDR4 a 3200 MHz, doble canal", "2x8G DDR4-3200; dual"),
    ("due moduli da 8 GB ddr4", "2x8G DDR4"),
    ("ranura 1: 8 GB, ranura 2: vacía", "1=8G; 2=-"),
    ("twee modules van 8 GB ddr4", "2x8G DDR4"),
    # A count in words, sizes as names, figures without units
    ("two 16 gig sticks, 3200, running 2133", "2x16G 3200; run 2133"),
    ("16gb + 16gb ddr4-3200 in A2 and B2", "A2=16G DDR4-3200; B2=16G DDR4-3200"),
    ("zwei 8er riegel ddr3 1333", "2x8G DDR3-1333"),
    ("eine 16er und eine 8er", "1x16G; 1x8G"),
    ("one 4gb and one 8gb, ddr3l, laptop", "1x4G DDR3 1.35V; 1x8G DDR3 1.35V"),
    ("4 módulos de 8 GB DDR4 2666 registrados ecc", "4x8G DDR4-2666 ecc rdimm"),
    ("64 GB RDIMM ECC 2933 x 8", "8x64G 2933 ecc rdimm"),
    ("1x 32GB DDR5 SODIMM 4800, second slot free", "2=-; 1x32G DDR5-4800 sodimm"),
    ("ddr4 2400T 4gb 1Rx8", "1x4G DDR4-2400 1Rx8"),
    ("A1 8 A2 8 B1 empty B2 empty", "A1=8G; A2=8G; B1=-; B2=-"),
    ("3rd slot empty", "3=-"),
    ("zwei Steckplätze belegt, je 4 GB", "2x4G"),
    ("1 barrette de 8 Go, un emplacement libre", "1x8G; slots 2"),
    ("8+8+8+8 = 32 GB", "4x8G; total 32G"),
    ("240-pin 4GB DDR3 PC3-10600U", "1xDDR3-1333; total 4G"),
    ("BANK 0 8589934592 2667\nBANK 1 8589934592 2667", "BANK 0=8G 2666; BANK 1=8G 2666"),
    # two rates, and whose each is
    ("Slot 1 8GB 2400, Slot 2 8GB 2133", "1=8G 2400; 2=8G 2133"),
    ("2x8 2666 + 2x16 3200", "2x8G 2666; 2x16G 3200"),
    ("8 GB 2400 + 8 GB 2666", "1x8G 2400; 1x8G 2666"),
    ("Size: 8 GB\nType: DDR4\nSpeed: 2400 MT/s\nConfigured Memory Speed: 2133 MT/s", "1x8G DDR4-2400; run 2133MT/s"),
    ("1600MHz clock", "run 3200MT/s"),
    ("expo on but only 4800", "run 4800; profile on"),
    # amounts: the word is of the size that it can be of
    ("16 GB verbaut, 15,8 nutzbar", "total 16G; usable 15.8G"),
    ("16 GB usable 15.8 GB", "usable 15.8G; total 16G"),
    ("7.7Gi total", "total 7.7G"),
    ("MemTotal: 16289264 kB", "usable 16289264K"),
    ("2x8 and total 15.8", "2x8G; total 15.8G"),
    ("in use 6.2 GB (1.3 GB compressed), available 9.6 GB, cached 4 GB", "in use 6.2G; available 9.6G"),
    # how it starts
    ("won't start with both sticks", "start no"),
    ("startet nicht", "start no"),
    # slots: named without a sign, filled with, used of
    ("slot1 8 slot2 8", "slot1=8G; slot2=8G"),
    ("A2+B2 16 each", "A2=16G; B2=16G"),
    ("slot 1 and slot 2 8gb each", "1=8G; 2=8G"),
    ("slot 1 8gb and slot 2 16gb", "1=8G; 2=16G"),
    # what a memory test said that was run elsewhere
    ("memory test clean 4 passes", "soak clean 4 passes"),
    ("memory test 2 hours, no errors", "soak clean 120min"),
    ("memory test overnight: 12 errors", "soak errors 12"),
    ("memory test failed, 3 errors after 20 minutes", "soak errors 3 20min"),
    ("speichertest 8 stunden fehlerfrei", "soak clean 480min"),
    ("2x8gb ddr4 3200, memory test 1 pass, 97 %, no errors", "2x8G DDR4-3200; soak clean 97% 1 pass"),
    # what graphics borrow is not what they keep
    ("2x8gb ddr4, shared graphics 7.9 gb", "2x8G DDR4; graphics may borrow 7.9G"),
    ("shared gpu memory 7.9 GB, dedicated gpu 512 MB", "graphics 512M; graphics may borrow 7.9G"),
    # what was said beside one module is of that one
    ("A2 8gb ddr4 maker Brackwater, B2 8gb ddr4 maker Tarnhollow", "A2=8G DDR4 maker Brackwater; B2=8G DDR4 maker Tarnhollow"),
    ("A1 32gb rdimm ecc, A2 32gb rdimm", "A1=32G ecc rdimm; A2=32G rdimm"),
    ("8gb serial 12AB in slot 1, 8gb serial 34CD in slot 2", "1=8G serial 12AB; 2=8G serial 34CD"),
    ("2x8gb ddr4 maker Quillmark, dual", "2x8G DDR4 maker Quillmark; dual"),
    # signs of the machine
    ("2x2gb ddr3 1333, dual, 32 bit system, total 4gb", "2x2G DDR3-1333; dual; total 4G; bits 32"),
    ("virtual machine, total 8gb", "total 8G; virtual"),
    ("settings were cleared, memory has changed, 2x8gb", "2x8G; reset; memory-changed"),
    ("2x16gb ddr4 3733, runs at 2400, no profile choice", "2x16G DDR4-3733; run 2400; profile locked"),
    ("2x8gb, slow first start", "2x8G; start slow"),
    # numbers as words
    ("sixteen gigabytes ddr4", "1xDDR4; total 16G"),
    ("thirty-two gigs total, dual", "dual; total 32G"),
    ("trente-deux Go au total", "total 32G"),
    ("all four slots full with 4gb", "4x4G; slots 4"),
    ("2/4 slots used", "2xmodule; slots 4"),
    ("one slot used of two", "1xmodule; slots 2"),
    ("8gb ddr3 pc, 2 slots, one used", "1x8G DDR3; slots 2"),
    ("16 GB in two sticks", "2xmodule; total 16G"),
    ("part no QM4D16G32 serial 0123AB", "1xpart QM4D16G32 serial 0123AB"),
    ("16 GBytes", "total 16G"),
    ("a1=8 b1=8", "A1=8G; B1=8G"),
    ("DIMM A1 - 16GB", "A1=16G"),
    # counts before a size
    ("Kit of 2 16GB", "2x16G"),
    ("2 pcs 8GB", "2x8G"),
    ("a pair of 16gb", "2x16G"),
    ("2 8gb", "2x8G"),
    ("16384 MB / 2 x 8192", "2x8G; total 16G"),
    # words and sizes that take turns
    ("Installed physical memory 16,384 MB Available physical memory 9,812 MB", "total 16G; available 9812M"),
    ("Memory 15.8 GiB", "total 15.8G"),
    # an optical reader took figures for letters
    ("I6GB DDR4-32OO CL22", "1x16G DDR4-3200 CL22"),
    ("8G8 DDRS 48OO", "1xDDR5-4800; total 8G"),
]


@pytest.mark.parametrize(("text", "exact"), CERTAIN)
def test_what_is_certain_is_taken(text, exact):
    found = said(text)
    wanted = parse(exact)
    assert wanted.problems == () or "other" in exact or exact[0].isdigit(), wanted.problems
    assert sorted(found.notation.split("; ")) == sorted(write(wanted.reading).split("; ")), found
    assert found.asks == ()


@pytest.mark.parametrize(
    ("text", "about"),
    [
        ("2x4 ddr4, shows 1600 MHz", "running_rate"),
        ("2x8gb 1600mhz", "rated_mts"),
        ("DDR4 2?00, 2x8GB", "rated_mts"),
        ("8 GB and 4 GB makes 16", "total_bytes"),
        ("2x8gb, total 32 GB", "total_bytes"),
        ("16gb ddr4 and ddr3", "generation"),
        ("2x15gb", "modules"),
        ("2 TB laptop", "total_bytes"),
        ("8 MB ddr4", "total_bytes"),
        ("70x8gb ddr4", "modules"),
        ("DDR4-99999", "rated_mts"),
        ("ddr3 3200", "rated_mts"),
        ("slots 2 and 4: 8gb ddr4", "modules"),
        ("16x2", "modules"),
        ("4 slots 8gb", "modules"),
        ("DDR5-2400", "rated_mts"),
        ("2666 3200", "running_rate"),
        ("3 sticks 2x8", "modules"),
        ("only 8 of 16 GB seen", "total_bytes"),
        ("3 of 4 dimms detected, 24gb", "modules"),
        ("ran at 3200 with xmp, back to 2666", "running_rate"),
    ],
)
def test_what_may_mean_two_things_is_asked(text, about):
    found = said(text)
    assert about in [ask.about for ask in found.asks]
    assert not found.is_whole
    with pytest.raises(NotationError):
        take_notation(text)


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        ("dual channel, 41.2 GB/s read", "dual"),
        ("2x8, reads 38 GB/s", "2x8G"),
        ("slot 2 dead, sees 8 of 16", "-"),
        ("slots: 2 of 4, 2x8", "2x8G; slots 4"),
        ("16gb total usable 15.4", "total 16G; usable 15.4G"),
        ("usable: 7.6, 8gb", "total 8G; usable 7.6G"),
        ("two 8s and two 4s, ddr3", "2x8G DDR3; 2x4G DDR3"),
        ("a pair of 16s, boots in 8s", "2x16G"),
        ("two 8s and two 4s, 24 total", "2x8G; 2x4G; total 24G"),
        ("4 slots in total, 2x8", "2x8G; slots 4"),
        ("xmp loaded but 2133", "run 2133; profile on"),
        ("2*32GB DDR5 6400 XMP1", "2x32G DDR5-6400; profile 1"),
        ("8gb*4", "4x8G"),
        ("ram speed 1333 (666 mhz)", "run 1333"),
        ("overnight 7 passes 0 errors", "soak clean 7 passes"),
        ("4x8, xmp off, 2133 shown", "4x8G; run 2133; profile off"),
        ("2x8 ddr4-3200, dropped to 2133", "2x8G DDR4-3200; run 2133"),
        ("dual channel? says single, 2x8 in a1 a2", "A1=8G; A2=8G; single"),
        ("dual? 2x8", "2x8G"),
        ("16gb single rank 3200 cl22 sodimm, 1 of 2 slots", "1x16G 3200 CL22 1R sodimm; slots 2"),
        ("slot a2 16, slot b2 16, others empty", "A2=16G; B2=16G"),
        ("2x8, 3 passes 12 errors", "2x8G; soak errors 12 3 passes"),
    ],
)
def test_figures_that_are_of_something_else_are_no_sizes(text, exact):
    assert sorted(said(text).notation.split("; ")) == sorted(exact.strip("-").split("; "))


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        (
            "Slot | Size | Type | Speed\nA1 | 16 GB | DDR4 | 3200\nA2 | - | - | -\nB1 | 16 GB | DDR4 | 3200\nB2 | empty | |\n",
            "A1=16G DDR4-3200; A2=-; B1=16G DDR4-3200; B2=-",
        ),
        ("| slot | size | type |\n|---|---|---|\n| A1 | 8 GB | DDR4-2400 |\n| B1 | 4 GB | DDR4-2400 |", "A1=8G DDR4-2400; B1=4G DDR4-2400"),
        ("Slot\tSize\tSpeed\nA1\t16 GB\t3200\nB1\t8 GB\t2400", "A1=16G 3200; B1=8G 2400"),
        ("2x8 | ddr4 | 3200 | dual", "2x8G DDR4-3200; dual"),
        ("DIMM 1 : 16384 MB\nDIMM 2 : Not Installed", "DIMM 1=16G; DIMM 2=-"),
        ("Slot #1 - Module: 8192 MBytes PC4-19200\nSlot #3 - Module: 8192 MBytes PC4-19200", "1=8G DDR4-2400; 3=8G DDR4-2400"),
        (
            "MemTotal: 16314212 kB\nMemFree: 9123456 kB\nSwapTotal: 2097148 kB\nMemAvailable: 12000000 kB",
            "usable 16314212K; available 12000000K",
        ),
        ("-----------\n2x8gb\n===========", "2x8G"),
    ],
)
def test_what_stands_in_rows_is_of_one_thing(text, exact):
    found = said(text)
    assert sorted(found.notation.split("; ")) == sorted(exact.split("; "))
    assert found.asks == ()


@pytest.mark.parametrize("text", ["x", "8", "....", "gb gb gb", "I have 3 dogs and 16 cats", "x" * 5000, "é" * 100, "()()", "\x00\x1b[31m"])
def test_from_nothing_comes_no_module(text):
    assert said(text).reading == Reading()


def test_a_page_about_other_things_gives_no_fact():
    page = "The quick brown fox jumps over 13 lazy dogs at 2400 Main Street, then sleeps until morning without dreaming of anything. " * 10
    found = said(page)
    assert found.reading == Reading()
    assert found.not_understood == ((0, len(page)),)


def test_control_and_direction_marks_are_blanks():
    assert said("\u202e2x8gb\u200b ddr4").notation == "2x8G DDR4"


def test_what_is_not_understood_is_pointed_at_where_it_stands():
    text = "2x8gb ddr4 blorple"
    (span,) = said(text).not_understood
    assert text[slice(*span)] == "blorple"
    problem = read_line(text).problems[0]
    assert "blorple" in str(problem)
    assert said("y" * (LONGEST_TEXT + 10)).not_understood


BEFORE = take_notation("A2=8G DDR4-2400; B2=-; run 2400; total 8G").reading


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        ("add another 8gb", "2x8G"),
        ("add 16gb", "1x8G; 1x16G"),
        ("keep the 8gb, add a 16gb", "1x8G; 1x16G"),
        ("the same again", "2x8G"),
        ("double it", "total 16G"),
        ("replace the 8gb with 2x16gb", "2x16G"),
        ("swap it for 2x16", "2x16G"),
        ("+16gb", "1x8G; 1x16G"),
        ("two more of the 8gb ones", "3x8G"),
        ("upgrade to 16gb dual channel", "dual; total 16G"),
        ("2x16gb ddr4 3200 dual channel", "2x16G DDR4-3200; dual"),
    ],
)
def test_a_promise_in_words_is_the_end_state(text, exact):
    assert exact_promise(text, BEFORE) == exact


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        ("replace the 4 with a 16", "1x8G; 1x16G"),
        ("16gb instead of the 4gb", "1x8G; 1x16G"),
        ("replace the small one with 16 gb", "1x8G; 1x16G"),
        ("replace both by 2x16", "2x16G"),
        ("add another 8", "1x8G; 1x4G; 1x8G"),
        ("from 12 to 16 GB", "total 16G"),
        ("upgrade to 32", "total 32G"),
        ("12 -> 32", "total 32G"),
        ("add 8gb ddr4-3200", "1x8G; 1x4G; 1x8G DDR4-3200"),
    ],
)
def test_a_promise_names_what_goes_and_what_comes(text, exact):
    two_sizes = take_notation("A1=8G DDR4-2666; B1=4G DDR4-2666").reading
    assert exact_promise(text, two_sizes) == exact


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        ("swap both for 16s", "2x16G"),
        ("swap the 8s for 16s", "2x16G"),
        ("replace the 8gb modules with two 16s", "2x16G"),
        ("replace one 8gb module with a 16", "1x8G; 1x16G"),
        ("replace the 8 with a 16", "1x8G; 1x16G"),
        ("add two 16s", "2x8G; 2x16G"),
    ],
)
def test_a_promise_that_speaks_of_several(text, exact):
    two = take_notation("A1=8G DDR4-2666; B1=8G DDR4-2666").reading
    assert exact_promise(text, two) == exact


@pytest.mark.parametrize("text", ["the same again", "swap 2x4 for 2x16"])
def test_which_one_is_asked_where_two_differ(text):
    two_sizes = take_notation("A1=8G DDR4-2666; B1=4G DDR4-2666").reading
    assert [ask.about for ask in understand(text, True, two_sizes).asks] == ["modules"]


@pytest.mark.parametrize("text", ["cmd rate 2T", "only 8 of 16 GB seen", "slot 3 not detected", "-8gb"])
def test_what_is_odd_gives_no_fact(text):
    assert said(text).reading == Reading()
    assert not said(text).is_whole or said(text).left_aside


def test_to_what_is_asked_where_nothing_is_known():
    assert [ask.about for ask in understand("add 16gb", promise=True).asks] == ["modules"]


@pytest.mark.parametrize("name", CASES)
def test_the_short_form_goes_through_the_same_door_unchanged(name):
    for line in (CASES[name]["after"], CASES[name].get("before", "")):
        assert read_line(line) == parse(line)
        exact = write(parse(line).reading)
        assert parse(said(exact).notation).reading == parse(exact).reading if exact else True


@given(
    st.sampled_from([text for text, _ in CERTAIN]), st.sampled_from(["please", "hello there,", "see the sticker:", "ok;"]), st.booleans()
)
def test_noise_around_an_entry_adds_no_fact(text, noise, behind):
    noisy = f"{text}\n{noise}" if behind else f"{noise}\n{text}"
    assert sorted(understand(noisy).reading.modules, key=repr) == sorted(understand(text).reading.modules, key=repr)
    assert understand(noisy).reading.total_bytes == understand(text).reading.total_bytes


@given(st.text(max_size=300))
def test_any_text_is_read_without_an_error(text):
    found = said(text)
    assert all(0 <= start < end <= len(text) for start, end in found.not_understood)


def test_the_command_answers_on_standard_output():
    done = run("explain", "--json", "-", input="2x4 ddr4, shows 1600 MHz")
    document = json.loads(done.stdout)
    assert set(document) == {"reading", "asks", "not_understood", "left_aside", "notation"}
    assert document["asks"][0]["choices"] == ["run 1600MT/s", "run 3200MT/s"]
    assert len(document["reading"]["loose"]) == 2
    promised = json.loads(
        run("explain", "--json", "--promise", "--before", "A2=8G DDR4-2400; run 2400", "-", input="the same again").stdout
    )
    assert promised["notation"] == "2x8G"


def test_words_are_taken_where_the_short_form_is():
    done = run(
        "judge", "--after", "2x8gb ddr4 3200 running at 3200, 15.9 gb usable, dual channel", "--promise", "2x8gb ddr4-3200 dual channel"
    )
    assert done.returncode == 0, done.stdout
    # The text as it was typed is the evidence.
    assert [part.data for part in take_notation("2 sticks of 8gb ddr4").evidence] == [b"2 sticks of 8gb ddr4"]


@pytest.mark.parametrize(
    ("text", "first", "second"),
    [
        ("2x4 ddr4, shows 1600 MHz", "2x4G DDR4; run 1600MT/s", "2x4G DDR4; run 3200MT/s"),
        ("DDR4 1600 MHz, 2x8gb", "2x8G DDR4-1600", "2x8G DDR4-3200"),
        ("2x8gb 1600mhz", "2x8G 1600", "2x8G 3200"),
    ],
)
def test_a_question_has_answers_that_stand_in_the_line(text, first, second):
    (asked,) = read_line(text).problems
    assert asked.asked
    assert [said(line).notation for _, line in asked.answers] == [first, second]
    assert all(said(line).is_whole for _, line in asked.answers)


def test_what_is_added_names_a_part_of_the_modules():
    """`+ B2 8 GB, total 32 GB`: the amount is that of the whole; alone it would be asked which one is wrong."""
    text = "B2 8gb ddr4 2666, total 32gb"
    assert read_line(text).problems
    added = read_line(text, added=True)
    assert (added.problems, write(added.reading)) == ((), "B2=8G DDR4-2666; total 32G")
    assert read_line("B2 8gb ddr4, total 4gb", added=True).problems


@pytest.mark.parametrize("text", ["16GB 1Rx16 PC3-12800S-11-12-A3", "16gb ddr3 1Rx16", "128GB 1Rx8 DDR4"])
def test_a_size_that_no_such_module_has_is_asked(text):
    """16 GiB of one rank of sixteen-bit devices would need devices of 32 Gbit, and DDR3 ends at 8 (JESD79-3, addressing tables)."""
    found = said(text)
    assert [ask.about for ask in found.asks] == ["modules"]
    assert all(module.size_bytes is None for module in found.reading.modules)


def test_a_size_that_can_be_built_is_taken():
    assert said("8gb 1Rx8 ddr4 3200").notation == "1x8G DDR4-3200 1Rx8"


@pytest.mark.parametrize("letter", ["İ", "ı", "ſ", "\u212a"])
def test_letters_that_are_almost_plain_are_read_as_plain_ones(letter):
    """Where case is ignored they count as I, S and K, and have other small letters: a unit with one is the unit."""
    plain = {"İ": "I", "ı": "i", "ſ": "s", "\u212a": "K"}[letter]
    for words in ("2x8 GIB ddr4", "2 ſticks of 8 gb", "ten sticks", "2 x 8388608 KB", "Slot 1 8gb, mischung, KINGſ"):
        written = words.replace(plain, letter).replace(plain.lower(), letter)
        wanted = words.replace(plain.lower(), plain)
        assert [module.size_bytes for module in read_line(written).reading.modules] == [
            module.size_bytes for module in read_line(wanted).reading.modules
        ]
