"""From wrong words to devices, slots and likely kinds of faults."""

from __future__ import annotations

from dataclasses import replace

import pytest

from after_check.domain.facts import Fact, Source
from after_check.domain.messages import message
from after_check.domain.modules import Generation
from after_check.domain.readings import MappedRange
from after_check.domain.soak import During, FaultKind, WrongWord
from after_check.host.pages import PageMap, physical_of
from after_check.soak.locating import devices_behind, devices_of, lanes_of, reading_for_slots, slots_of, suspects_of
from after_check.soak.symptoms import symptoms_of
from after_check.sources.open_source import take_notation
from after_check.texts import say

GIB = 1 << 30
ALL = 2**64 - 1


def error(address, bits=1, physical=None, step="March C- · solid", from_memory=None, expected=ALL, during=During.SWEEP):
    found = expected ^ bits
    return WrongWord(1.0, step, address, physical, expected, found, found, found if from_memory is None else from_memory, during)


@pytest.mark.parametrize(
    ("entry", "virtual", "physical"),
    [
        # Bit 63: present. Bits 0 to 54: the frame. Offset within the page of 4096 bytes is kept.
        (1 << 63 | 0x12345, 0x7F0000000ABC, 0x12345ABC),
        (1 << 63 | 1 << 61 | 0x12345, 0x1008, 0x12345008),
        (1 << 63, 0x1008, None),
        (0x12345, 0x1008, None),
        (1 << 62 | 0x12345, 0x1008, None),
    ],
)
def test_entries_of_the_page_map(entry, virtual, physical):
    assert physical_of(entry, virtual, page_bytes=4096) == physical


def test_the_own_page_map_answers_or_says_nothing():
    pages = PageMap()
    buffer = bytearray(8192)
    found = pages.physical_byte(id(buffer))
    pages.close()
    assert found is None or found % 4096 == id(buffer) % 4096


def test_lanes_and_devices():
    assert lanes_of(1 << 63 | 1 << 37 | 1) == (0, 37, 63)
    assert devices_of(1 << 37, 8) == (4,)  # 37 / 8
    assert devices_of(1 << 37, 4) == (9,)
    assert devices_of(1 << 37, 16) == (2,)
    assert devices_of(1 << 0 | 1 << 63, 8) == (0, 7)
    # DDR5: bit 37 is the second beat of line 5 of a 32-bit subchannel.
    assert devices_of(1 << 37, 8, Generation.DDR5) == (0,)


MAPPED = (MappedRange(0, 8 * GIB - 1, "A2"), MappedRange(8 * GIB, 16 * GIB - 1, "B2"))
BOTH = (MappedRange(0, 16 * GIB - 1, "A2"), MappedRange(0, 16 * GIB - 1, "B2"))


def test_slots_by_mapped_addresses():
    assert slots_of(8 * GIB - 1, MAPPED) == ("A2",)
    assert slots_of(8 * GIB, MAPPED) == ("B2",)
    assert slots_of(20 * GIB, MAPPED) == ()
    assert slots_of(5, BOTH) == ("A2", "B2")


def board(mapped=()):
    return replace(take_notation("A1=-; A2=8G DDR4-3200 1Rx8; B2=8G DDR4-3200 1Rx8").reading, mapped=mapped)


def test_suspects():
    in_b2 = [error(address, physical=9 * GIB + address) for address in (0, 8, 16)]
    assert suspects_of(in_b2, board(MAPPED)) == ("B2",)
    assert suspects_of(in_b2, board(BOTH)) == ("A2", "B2")
    assert suspects_of(in_b2, board()) == ("A2", "B2"), "nothing tells them apart"
    assert suspects_of([error(0)], board(MAPPED)) == ("A2", "B2"), "no physical address is known"
    assert suspects_of([], board(MAPPED)) == ()
    assert suspects_of([error(0)], board(), ("DIMM_B1",)) == ("DIMM_B1",)
    assert suspects_of([error(0)], None) == ()


def test_the_device_in_words():
    assert say(devices_behind(1 << 37, board()).message) == "device 5 of its rank (×8)"
    assert say(devices_behind(1 << 37 | 1, board()).message) == "devices 1 and 5 of their rank (×8)"
    assert devices_behind(1 << 37, take_notation("2x8G DDR4-3200").reading) is None


def kinds(errors):
    return [(symptom.kind, symptom.errors) for symptom in symptoms_of(errors)]


def test_kinds_of_faults():
    assert kinds([error(0x1000, 4), error(0x1000, 4)]) == [(FaultKind.STUCK, 2)]
    assert kinds([error(8 * number, 1 << 37) for number in range(20)]) == [(FaultKind.LANE, 20)]
    assert kinds([error(0x1000, 0xFFFFFF)]) == [(FaultKind.ADDRESSING, 1)]
    assert kinds([error(0x1000, 1, during=During.PAUSES)]) == [(FaultKind.RETENTION, 1)]
    assert kinds([error(0x1000, 1, during=During.ROWS)]) == [(FaultKind.DISTURBED, 1)]
    assert kinds([error(0x1000, 1, from_memory=ALL)]) == [(FaultKind.READ, 1)]
    assert kinds([error(0x1000, 1), error(0x2000, 8)]) == [(FaultKind.SCATTERED, 2)]
    assert kinds([]) == []


def test_the_kind_with_most_errors_comes_first_and_each_error_counts_once():
    errors = [error(0x100, 1, from_memory=ALL), error(0x200, 2), error(0x300, 4)]
    assert kinds(errors) == [(FaultKind.SCATTERED, 2), (FaultKind.READ, 1)]
    assert "right value" in say(message("symptom", **symptoms_of(errors)[1].values))


def test_this_computers_own_tables_name_the_slots_unless_they_are_made_up(monkeypatch):
    from after_check.soak import locating
    from after_check.sources.evidence import Taken

    kept, own = board(), board(MAPPED)
    monkeypatch.setattr(locating, "read_this_machine", lambda: Taken(own))
    assert reading_for_slots(kept) is own
    monkeypatch.setattr(locating, "read_this_machine", lambda: Taken(replace(own, virtual=Fact(True, Source.SYSTEM))))
    assert reading_for_slots(kept) is kept
    monkeypatch.setattr(locating, "read_this_machine", lambda: Taken(take_notation("run 3200").reading))
    assert reading_for_slots(kept) is kept
