"""The collector for systems with a PowerShell: that a parser of that language takes its file, and what its answers are read as."""

from __future__ import annotations

import hashlib
import json
import re

import pytest
import tree_sitter_powershell
from tree_sitter import Language, Parser

from after_check.domain.readings import NoticeKind
from after_check.sources.collection import collector
from after_check.sources.open_source import take

PARSER = Parser(Language(tree_sitter_powershell.language()))


def faults(script):
    """Where the parser of the language finds what its grammar does not have, or misses something."""
    nodes = [PARSER.parse(script.encode()).root_node]
    found = []
    while nodes:
        node = nodes.pop()
        if node.is_error or node.is_missing:
            found.append(node.start_point)
        nodes += node.children if node.has_error else ()
    return found


def test_the_script_is_of_the_language():
    assert faults(collector("powershell")) == []


def test_a_script_that_lost_one_of_its_braces_is_found_out():
    script = collector("powershell")
    places = [match.start() for match in re.finditer(r"(?<!\$)[{}]", script)]  # Without its brace "${name}" is a name, too.
    assert len(places) > 15
    for at in places:
        assert faults(script[:at] + script[at + 1 :]), f"{script[at]} at {at}: {script[at - 20 : at + 20]!r}"


@pytest.mark.parametrize("script", ["$a = 'x", "if ($a) { 1 ", "foreach ($a) { }", "$a = @{ b = ", "$a = (1 + ) * 2"])
def test_a_script_with_a_fault_is_found_out(script):
    assert faults(script)


def answer(found, refused=(), newline="\r\n"):
    """What the script writes: refused classes first, one JSON document, a check sum over all of it."""
    lines = ["after-check collection 1", *(f"@rights {name}" for name in refused), "@json cim"]
    lines += [*json.dumps(found, indent=4, ensure_ascii=False).split("\n"), "@end"]
    text = "\n".join(lines) + "\n"
    return (text + f"@sha256 {hashlib.sha256(text.encode()).hexdigest()}\n").replace("\n", newline if newline == "\n" else "\n").encode()


def module(slot, **more):
    return {
        "Capacity": 8589934592,
        "Speed": 3200,
        "ConfiguredClockSpeed": 2933,
        "FormFactor": 12,
        "SMBIOSMemoryType": 26,
        "Manufacturer": "Ostrel",
        "PartNumber": "OS4S-3200-8",
        "SerialNumber": "5A1",
        "DeviceLocator": slot,
        "BankLabel": "",
        **more,
    }


ARRAY = {"MaxCapacity": 33554432, "MemoryDevices": 2, "Use": 3, "MemoryErrorCorrection": 3}
COMPUTER = {"Manufacturer": "Dunlin", "Model": "Dunlin 14", "TotalPhysicalMemory": 17000000000, "HypervisorPresent": False}
SYSTEM = {"OSArchitecture": "64-bit", "TotalVisibleMemorySize": 16500000}


def found(modules, system=SYSTEM):
    return {
        "Win32_PhysicalMemory": modules,
        "Win32_PhysicalMemoryArray": [ARRAY],
        "Win32_ComputerSystem": [COMPUTER],
        "Win32_OperatingSystem": [system],
    }


@pytest.mark.parametrize("shape", ["one object", "list of one", "wrapped"])
def test_one_module_in_each_shape_that_the_shell_writes(tmp_path, shape):
    one = module("DIMM 0")
    shapes = {"one object": one, "list of one": [one], "wrapped": {"value": [one], "Count": 1}}
    path = tmp_path / "a.txt"
    path.write_bytes(answer(found(shapes[shape])))
    reading = take(str(path)).reading
    assert [slot.name for slot in reading.slots] == ["DIMM 0"]
    assert reading.modules[0].size_bytes.value == 8 << 30
    assert reading.slot_count.value == 2


def test_many_modules_and_none(tmp_path):
    path = tmp_path / "a.txt"
    path.write_bytes(answer(found([module(f"DIMM {at}") for at in range(4)])))
    reading = take(str(path)).reading
    assert len(reading.modules) == 4
    # The array announces two: the list is what there is.
    assert reading.slot_count.value == 4
    path.write_bytes(answer(found([])))
    empty = take(str(path)).reading
    assert empty.modules == ()
    assert empty.usable_bytes is not None


def test_without_rights_what_is_missing_is_told(tmp_path):
    path = tmp_path / "a.txt"
    some = {"Win32_ComputerSystem": [COMPUTER], "Win32_OperatingSystem": [SYSTEM]}
    path.write_bytes(answer(some, refused=("Win32_PhysicalMemory", "Win32_PhysicalMemoryArray")))
    reading = take(str(path)).reading
    told = [notice for notice in reading.notices if notice.kind is NoticeKind.RIGHTS]
    assert [notice.what.split()[0] for notice in told] == ["Win32_PhysicalMemory", "Win32_PhysicalMemoryArray"]
    assert reading.machine.model.value == "Dunlin 14"
    path.write_bytes(answer({}, refused=tuple(found([]))))
    nothing = take(str(path)).reading
    assert len([notice for notice in nothing.notices if notice.kind is NoticeKind.RIGHTS]) == 4
    assert nothing.modules == ()


@pytest.mark.parametrize("architecture", ["64-bit", "64-Bit", "64 bits", "64-разрядная", "６４ ビット", "64 位"])
def test_a_localised_system_says_its_bits(tmp_path, architecture):
    path = tmp_path / "a.txt"
    path.write_bytes(answer(found([module("DIMM 0")], {**SYSTEM, "OSArchitecture": architecture})))
    reading = take(str(path)).reading
    assert reading.system_bits is None or reading.system_bits.value == 64
    assert (reading.system_bits is not None) == architecture[0].isascii()
