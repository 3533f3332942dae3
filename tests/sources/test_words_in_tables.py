"""Tables, lists and blocks of lines, as they are pasted off screens, out of spreadsheets and mails."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.language.typed_text import said
from after_check.language.words.layout import laid_out

TWO = "A1=8G 2666; B1=8G 2666"


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        # columns separated by commas, semicolons, tabs, rules or blanks
        ("Slot,Size,Speed\nA1,8GB,2666\nB1,8GB,2666\n", TWO),
        ("slot;size;rate\nA1;8;2666\nA2;0;\nB1;8;2666\n", "A1=8G 2666; A2=-; B1=8G 2666"),
        ("Slot\tSize\tType\tSpeed\nDIMM1\t8192 MB\tDDR4\t2666 MT/s\nDIMM2\tEmpty\t\t\n", "DIMM1=8G DDR4-2666; DIMM2=-"),
        ("| Slot | Size | Speed |\n|---|---|---|\n| A1 | 8 GB | 2666 |\n| B1 | 8 GB | 2666 |\n", TWO),
        ("Slot  Size  Type  Speed\nA1    8 GB  DDR4  2666\nA2    -     -     -\n", "A1=8G DDR4-2666; A2=-"),
        # slots by their number
        ("Bank   Size    Rate\n0      8 GB    2666\n1      8 GB    2666\n", "0=8G 2666; 1=8G 2666"),
        ("Slot  Größe\n1  8 GB\n2  frei\n", "1=8G; 2=-"),
        ("1: 8GB DDR4-2666\n2: empty\n3: 8GB DDR4-2666\n4: empty\n", "1=8G DDR4-2666; 2=-; 3=8G DDR4-2666; 4=-"),
        ("#1 8GB 2666\n#2 8GB 2666\n#3 empty\n", "1=8G 2666; 2=8G 2666; 3=-"),
        # a list of modules, and a total beneath it
        ("1. 8GB DDR4 2666\n2. 8GB DDR4 2666\nTotal 16GB\n", "2x8G DDR4-2666; total 16G"),
        ("1) 8gb\n2) 4gb\n", "1x8G; 1x4G"),
        # blocks of lines, each about one slot
        ("Slot 1\n  Size: 8 GB\n  Speed: 2666 MT/s\nSlot 2\n  Size: No Module\n", "Slot 1=8G 2666; Slot 2=-"),
        (
            "Locator: DIMM A1\nSize: 16 GB\nConfigured speed: 2933 MT/s\nLocator: DIMM B1\nSize: 16 GB\nConfigured speed: 2933 MT/s\n",
            "A1=16G; B1=16G; run 2933MT/s",
        ),
        ("DIMM_A1 = 8GB\nDIMM_B1 = 8GB\nSpeed = 2666\nMode = dual\n", "A1=8G; B1=8G; run 2666; dual"),
        ("BANK 0: 8 GB\nBANK 1: (empty)\n", "BANK 0=8G; BANK 1=-"),
        # lines about one module each
        ("Size: 16 GB\nType: DDR4\nPart: QM4D-16G32\n\nSize: 16 GB\nType: DDR4\nPart: QM4D-16G32\n", "2x16G DDR4 part QM4D-16G32"),
        ("Device 1: 8GB 2666\nDevice 2: 8GB 2666\n", "2x8G 2666"),
        # what was there before
        ("         before   after\nsize     8 GB     16 GB\nspeed    2400     3200\n", "run 3200; total 16G"),
        ("after | before\n16 GB | 8 GB\n", "total 16G"),
        # other parts of the machine
        ("CPU: Brackwater B7 3.2 GHz\nRAM: 2x8 GB DDR4 2666\nSSD: 512 GB\n", "2x8G DDR4-2666"),
        # nothing in a slot
        ("DIMM 0: 8192MB DIMM 1: 0", "DIMM 0=8G; DIMM 1=-"),
        ("A1 8 GB\nA2 0 MB\n", "A1=8G; A2=-"),
        # figures at the beginning of lines that count
        ("2 sticks\n4 slots\n", "2xmodule; slots 4"),
        ("modules fitted today\n2 sticks 8gb\n", "2x8G"),
        ("slots filled with\n1 8gb stick\n2 4gb sticks\n", "1x8G; 2x4G"),
        ("2x8gb\n3200\ndual\n", "2x8G 3200; dual"),
    ],
)
def test_what_is_in_one_row_is_of_one_slot(text, exact):
    found = said(text)
    assert sorted(found.notation.split("; ")) == sorted(exact.split("; "))
    assert found.asks == ()


@given(st.text(alphabet="A18 ,;|\n:GBSlot=#.", max_size=120))
def test_everything_stays_where_it_stood(text):
    records, rest = laid_out(text)
    assert len(rest) == len(text)
    assert all(one in (" ", "\n", other) for one, other in zip(rest, text, strict=True))
    assert all(0 <= record.start <= record.end <= len(text) for record in records)
    found = said(text)
    assert all(0 <= start < end <= len(text) for start, end in found.not_understood)


@pytest.mark.parametrize("row_end", ["\n", " ⏎ ", " ; "])
def test_a_table_may_stand_in_one_line(row_end):
    rows = ("slot | size | type | speed", "A1 | 24 GB | DDR5 | 6400", "B1 | 24 GB | DDR5 | 6400", "A2 | - | - | -")
    assert said(row_end.join(rows)).notation == "A1=24G DDR5-6400; A2=-; B1=24G DDR5-6400"
