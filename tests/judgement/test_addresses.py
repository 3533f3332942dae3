"""Channels by mapped addresses (DSP0134, types 19 and 20), and memory nodes."""

from __future__ import annotations

from dataclasses import replace

from after_check.domain.case_files import CaseFile
from after_check.domain.readings import MappedRange, MemoryNode
from after_check.judgement.channels import look_at_channels
from after_check.judgement.judge import judge
from after_check.sources.open_source import take_notation
from after_check.texts import words_of

GIB = 1 << 30


def mapped(line, *ranges):
    reading = take_notation(line).reading
    return replace(
        reading, mapped=tuple(MappedRange(first * GIB, last * GIB - 1, slot, position) for first, last, slot, position in ranges)
    )


def test_two_positions_in_one_range_are_two_channels_where_names_tell_nothing():
    reading = mapped("DIMM 1=8G DDR4-3200; DIMM 2=8G DDR4-3200", (0, 16, "DIMM 1", 1), (0, 16, "DIMM 2", 2))
    channels = look_at_channels(reading)
    assert (channels.count, channels.basis) == (2, "worked out from the interleaved addresses")
    assert [(part.ways, part.size_bytes) for part in channels.parts] == [(2, 16 * GIB)]


def test_two_rows_of_two_are_two_channels():
    line = "; ".join(f"DIMM {number}=8G DDR4-3200" for number in (1, 2, 3, 4))
    rows = ((0, 16, "DIMM 1", 1), (0, 16, "DIMM 2", 2), (16, 32, "DIMM 3", 1), (16, 32, "DIMM 4", 2))
    assert look_at_channels(mapped(line, *rows)).count == 2


def test_addresses_without_interleave_prove_nothing():
    reading = mapped("DIMM 1=8G DDR4-3200; DIMM 2=8G DDR4-3200", (0, 8, "DIMM 1", 0), (8, 16, "DIMM 2", 0))
    assert look_at_channels(reading).count is None


def test_a_module_without_a_range_leaves_it_open():
    reading = mapped("DIMM 1=8G DDR4-3200; DIMM 2=8G DDR4-3200", (0, 16, "DIMM 1", 1))
    assert look_at_channels(reading).count is None


def test_interleave_over_more_than_the_names_say_is_a_contradiction():
    reading = mapped("A1=8G DDR4-3200; A2=8G DDR4-3200", (0, 16, "A1", 1), (0, 16, "A2", 2))
    channels = look_at_channels(reading)
    assert channels.count is None
    assert "interleaved over 2 modules" in channels.contradiction


def test_a_node_without_memory_is_told():
    reading = replace(take_notation("A1=32G DDR4-3200; B1=32G DDR4-3200").reading, nodes=(MemoryNode(0, 64 * GIB), MemoryNode(1, 0)))
    finding = next(item for item in judge(CaseFile(reading)).findings if item.code == "channels.node_empty")
    assert "node 1" in words_of(finding).title
    evened = replace(reading, nodes=(MemoryNode(0, 32 * GIB), MemoryNode(1, 32 * GIB)))
    assert "channels.node_empty" not in [item.code for item in judge(CaseFile(evened)).findings]
