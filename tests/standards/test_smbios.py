"""The table decoder, against bytes laid out by hand after DSP0134 and against hostile ones."""

from __future__ import annotations

import struct

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from after_check.domain.boards import Filling
from after_check.domain.modules import Form, Generation
from after_check.sources.firmware_table import reading_from_tables
from after_check.standards.smbios.entry_point import parse_entry_point
from after_check.standards.smbios.memory import (
    parse_array,
    parse_array_mapped,
    parse_channel,
    parse_device,
    parse_device_mapped,
)
from after_check.standards.smbios.structures import LONGEST_TABLE_BYTES, MOST_STRUCTURES, walk
from after_check.standins.firmware_tables import entry_point, entry_point_32, structure

MIB, GIB, TIB = 1 << 20, 1 << 30, 1 << 40

# A type 17 of version 3.3, written out field by field from DSP0134 table "Memory Device".
DEVICE_3_3 = bytes.fromhex(
    "11 5C 4100"  # type 17, length 5Ch, handle 0041h
    "4000 FEFF"  # array handle 0040h, no error information
    "4800 4000"  # total width 72, data width 64
    "FF7F"  # size 7FFFh: see the extended size
    "09 00"  # form factor DIMM, no set
    "01 02"  # locator is string 1, bank is string 2
    "22 8020"  # DDR5; synchronous and registered (bits 7 and 13)
    "C012"  # speed 4800
    "03 04 00 05"  # maker, serial, no asset tag, part
    "02"  # two ranks
    "00000100"  # extended size 10000h MiB = 64 GiB
    "A00F"  # configured speed 4000
    "4C04 4C04 4C04"  # 1100 mV thrice
    "03 0000 00 0000 0000 0000 0000"  # technology DRAM and what is not used here
    "0000000000000000 0000001000000000 0000000000000000 0000000000000000"
    "00000000 00000000"  # extended speeds
)
STRINGS = b"P0 DIMM A1\0P0 CHANNEL A\0Ostrel\0 0A1B2C3D \0OS5R-64\0\0"


def one(data: bytes):
    table = walk(data)
    assert len(table.structures) >= 1
    return table.structures[0]


def test_a_modern_device_field_by_field():
    device = parse_device(one(DEVICE_3_3 + STRINGS))
    assert device.handle == 0x41
    assert device.array_handle == 0x40
    assert device.locator == "P0 DIMM A1"
    assert device.bank == "P0 CHANNEL A"
    assert device.size_bytes == 64 * GIB
    assert device.form is Form.RDIMM
    assert device.generation is Generation.DDR5
    assert (device.speed_mts, device.configured_mts) == (4800, 4000)
    assert (device.maker, device.serial, device.part) == ("Ostrel", "0A1B2C3D", "OS5R-64")
    assert device.ranks == 2
    assert (device.total_width_bits, device.data_width_bits) == (72, 64)
    assert device.configured_mv == 1100


@pytest.mark.parametrize(
    ("length", "known"),
    [
        # Lengths of the versions: 2.1 is 15h, 2.3 is 1Bh, 2.6 is 1Ch, 2.7 is 22h, 2.8 is 28h.
        (0x15, {"size", "generation"}),
        (0x1B, {"size", "generation", "speed", "maker"}),
        (0x1C, {"size", "generation", "speed", "maker", "ranks"}),
        (0x22, {"size", "generation", "speed", "maker", "ranks", "configured"}),
        (0x28, {"size", "generation", "speed", "maker", "ranks", "configured", "voltage"}),
    ],
)
def test_old_lengths_give_what_they_have(length, known):
    full = bytearray(DEVICE_3_3)
    full[0x0C:0x0E] = struct.pack("<H", 8192)  # 8 GiB fits the short field
    full[1] = length
    device = parse_device(one(bytes(full[:length]) + STRINGS))
    found = {
        "size": device.size_bytes == 8 * GIB,
        "generation": device.generation is Generation.DDR5,
        "speed": device.speed_mts == 4800,
        "maker": device.maker == "Ostrel",
        "ranks": device.ranks == 2,
        "configured": device.configured_mts == 4000,
        "voltage": device.configured_mv == 1100,
    }
    assert {name for name, right in found.items() if right} == known


@pytest.mark.parametrize(
    ("size_word", "extended", "expected"),
    [
        (0x0000, 0, 0),  # no module
        (0xFFFF, 0, None),  # not known
        (0x2000, 0, 8 * GIB),
        (0x8200, 0, 512 * 1024),  # bit 15: 512 KiB
        (0x7FFF, 0x0002_0000, 128 * GIB),
        (0x7FFF, 0x8002_0000, 128 * GIB),  # bit 31 is reserved
        (0x7FFF, 0, None),
    ],
)
def test_sizes(size_word, extended, expected):
    raw = bytearray(DEVICE_3_3)
    raw[0x0C:0x0E] = struct.pack("<H", size_word)
    raw[0x1C:0x20] = struct.pack("<I", extended)
    assert parse_device(one(bytes(raw) + STRINGS)).size_bytes == expected


@pytest.mark.parametrize(("word", "extended", "expected"), [(0, 0, None), (0xFFFF, 0, None), (0xFFFF, 70000, 70000), (3200, 0, 3200)])
def test_speeds(word, extended, expected):
    raw = bytearray(DEVICE_3_3)
    raw[0x15:0x17] = struct.pack("<H", word)
    raw[0x54:0x58] = struct.pack("<I", extended)
    assert parse_device(one(bytes(raw) + STRINGS)).speed_mts == expected


@pytest.mark.parametrize(
    ("form", "detail", "expected"),
    [
        (0x09, 1 << 14, Form.UDIMM),
        (0x09, 1 << 13, Form.RDIMM),
        (0x09, 1 << 15, Form.LRDIMM),
        (0x0D, 1 << 14, Form.SODIMM),
        (0x0B, 0, Form.SOLDERED),
        (0x09, 0, None),
        (0x02, 0, None),
    ],
)
def test_forms(form, detail, expected):
    raw = bytearray(DEVICE_3_3)
    raw[0x0E] = form
    raw[0x13:0x15] = struct.pack("<H", detail)
    assert parse_device(one(bytes(raw) + STRINGS)).form is expected


def test_array_with_short_and_with_extended_limit():
    short = structure(16, 0x40, struct.pack("<BBBIHH", 3, 3, 5, 64 * 1024 * 1024, 0xFFFE, 4), [])
    array = parse_array(one(short))
    assert (array.use, array.ecc, array.limit_bytes, array.device_count) == (3, True, 64 * GIB, 4)
    extended = structure(16, 0x40, struct.pack("<BBBIHHQ", 3, 3, 3, 0x8000_0000, 0xFFFE, 32, 6 * TIB), [])
    array = parse_array(one(extended))
    assert (array.ecc, array.limit_bytes) == (False, 6 * TIB)


def test_mapped_addresses_short_and_extended():
    short = structure(19, 0x50, struct.pack("<IIHB", 0, 16 * 1024 * 1024 - 1, 0x40, 2), [])
    mapped = parse_array_mapped(one(short))
    assert mapped is not None
    assert (mapped.first_byte, mapped.last_byte, mapped.target_handle) == (0, 16 * GIB - 1, 0x40)
    extended = structure(20, 0x51, struct.pack("<IIHHBBBQQ", 0xFFFF_FFFF, 0xFFFF_FFFF, 0x41, 0x50, 1, 2, 0xFF, 4 * TIB, 5 * TIB - 1), [])
    device = parse_device_mapped(one(extended))
    assert device is not None
    assert (device.first_byte, device.last_byte, device.target_handle) == (4 * TIB, 5 * TIB - 1, 0x41)
    assert (device.interleave_position, device.interleaved_depth) == (2, None)


def test_a_range_that_ends_before_it_begins_is_none():
    assert parse_array_mapped(one(structure(19, 0x50, struct.pack("<IIHB", 100, 10, 0x40, 2), []))) is None


def test_channel_lists_its_devices_and_stops_where_the_bytes_do():
    body = struct.pack("<BBBBHBH", 1, 2, 2, 0, 0x41, 0, 0x42)
    assert parse_channel(one(structure(37, 0x60, body, []))).device_handles == (0x41, 0x42)
    lying = struct.pack("<BBBBH", 1, 2, 200, 0, 0x41)
    assert parse_channel(one(structure(37, 0x60, lying, []))).device_handles == (0x41,)


def test_both_entry_points():
    table = structure(127, 0xFEFF, b"", [])
    modern = parse_entry_point(entry_point(table))
    assert modern is not None
    assert (modern.version, modern.table_length_bytes, modern.checksum_right) == ("3.4", len(table), True)
    old = parse_entry_point(entry_point_32(table, 1))
    assert old is not None
    assert (old.version, old.table_length_bytes, old.structure_count, old.checksum_right) == ("2.8", len(table), 1, True)
    broken = bytearray(entry_point(table))
    broken[7] ^= 1
    damaged = parse_entry_point(bytes(broken))
    assert damaged is not None
    assert damaged.checksum_right is False


@pytest.mark.parametrize("data", [b"", b"_SM3_", b"_SM_" + b"\0" * 40, b"_DMI_" * 10])
def test_what_is_no_entry_point(data):
    assert parse_entry_point(data) is None


def test_strings_are_cleaned_and_wrong_numbers_give_none():
    structure_bytes = structure(1, 1, bytes([1, 2, 9, 0]), ["\x1b[31mEvil\x07 [bold]maker[/bold]", "  padded   name  "])
    found = one(structure_bytes)
    assert found.string(4) == "[31mEvil [bold]maker[/bold]"
    assert found.string(5) == "padded name"
    assert found.string(6) is None
    assert found.string(7) is None
    assert found.string(400) is None


def test_a_length_shorter_than_the_header_stops_the_walk_and_says_where():
    good = structure(16, 0x40, b"\x03\x03\x03", [])
    table = walk(good + bytes([17, 2, 0x41, 0]) + b"\0" * 20)
    assert len(table.structures) == 1
    assert f"at byte {len(good)}" in table.problems[0]
    assert "2 bytes" in table.problems[0]


def test_a_length_beyond_the_table_is_reported_and_what_is_there_is_used():
    table = walk(bytes([17, 0x5C, 0x41, 0]) + DEVICE_3_3[4:20])
    assert table.structures[0].dword(0x1C) is None
    assert table.structures[0].word(0x08) == 72
    assert table.problems


def test_a_missing_terminator_is_reported():
    table = walk(structure(16, 0x40, b"\x03\x03\x03", [])[:-1] + b"x")
    assert "no end mark" in table.problems[0]


def test_the_walk_ends_at_type_127():
    table = walk(structure(127, 0xFE, b"", []) + DEVICE_3_3 + STRINGS)
    assert len(table.structures) == 1
    assert table.ended
    assert table.problems == ()


@settings(max_examples=300)
@given(st.binary(max_size=4096))
@example(b"\x11\x04" * 2000)
@example(b"\0" * 4096)
def test_any_bytes_are_walked(data):
    table = walk(data)
    assert sum(len(structure.formatted) for structure in table.structures) <= len(data)
    for found in table.structures:
        parse_device(found)
        parse_array(found)
        parse_array_mapped(found)
        parse_device_mapped(found)
        parse_channel(found)


def test_the_longest_and_densest_table_is_cut():
    # Structures of the least length without strings: as many as there can be in the bytes that are read.
    data = (bytes([17, 4, 1, 0]) + b"\0\0") * (LONGEST_TABLE_BYTES // 6 + 100)
    table = walk(data)
    assert len(table.structures) == MOST_STRUCTURES
    assert any("structures" in problem for problem in table.problems)


def device_of(technology: int, persistent: int, volatile: int) -> bytes:
    """The device above with another technology (28h), non-volatile size (34h) and volatile size (3Ch), in bytes."""
    data = bytearray(DEVICE_3_3)
    data[0x28] = technology
    data[0x34:0x3C] = persistent.to_bytes(8, "little")
    data[0x3C:0x44] = volatile.to_bytes(8, "little")
    return bytes(data) + STRINGS


@pytest.mark.parametrize(
    ("technology", "persistent", "volatile", "size", "kept"),
    [
        (0x03, 0, 64 * GIB, 64 * GIB, None),  # DRAM
        (0x07, 128 * GIB, 0, 0, 128 * GIB),  # persistent memory: none of it is working memory
        (0x06, 64 * GIB, 32 * GIB, 32 * GIB, 64 * GIB),  # a part of each
        (0x04, 2**64 - 1, 64 * GIB, 64 * GIB, None),  # a size that is not known
    ],
)
def test_memory_that_keeps_its_content_counts_with_its_volatile_part(technology, persistent, volatile, size, kept):
    device = parse_device(one(device_of(technology, persistent, volatile)))
    assert (device.size_bytes, device.persistent_bytes) == (size, kept)


def test_a_slot_of_persistent_memory_is_no_module_and_is_said():
    array = structure(16, 0x40, bytes.fromhex("03 03 06 00000080 FEFF 0200 0000004000000000"), ())
    reading = reading_from_tables(array + device_of(0x07, 128 * GIB, 0) + structure(127, 1, b"", ()), None, "DMI")
    assert reading.modules == ()
    assert [slot.kept_bytes for slot in reading.persistent] == [128 * GIB]
    assert any("persistent memory" in notice.what for notice in reading.notices)


def test_a_device_whose_array_is_missing_counts_and_a_size_unknown_with_fillers_is_no_module():
    alone = reading_from_tables(DEVICE_3_3 + STRINGS + structure(127, 1, b"", ()), None, "DMI")
    assert [slot.name for slot in alone.slots] == ["P0 DIMM A1"]
    unknown = bytearray(DEVICE_3_3)
    unknown[0x0C:0x0E] = b"\xff\xff"
    unknown[0x12] = 2
    fillers = b"P0 DIMM A1\0P0 CHANNEL A\0Unknown\0 00000000\0Not Specified\0\0"
    (slot,) = reading_from_tables(bytes(unknown) + fillers + structure(127, 1, b"", ()), None, "DMI").slots
    assert slot.filling is Filling.UNKNOWN
