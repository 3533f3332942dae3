"""One field of a valid document made senseless, for each field of each format: nothing fails, and nothing is made of it.

What is read of the changed document is what was read of the whole one, or not known; a value that was not there before is a silent default.
"""

from __future__ import annotations

import dataclasses
import json

import pytest

from after_check.domain.facts import Fact
from after_check.domain.modules import Module
from after_check.domain.readings import Reading
from after_check.files.errors import SourceError
from after_check.sources.cim import reading_from_cim
from after_check.sources.hardware_report import reading_from_report
from after_check.sources.linux import read_folder
from after_check.sources.redfish import counters_of, slot_of
from tests.helpers.boards import board

SENSELESS = (None, {}, [], [[]], -1, 0.5, -1e300, 1e300, 2**80, True, False, "", "\0", "x" * 5000, "-5", "1e9", "0x", "‮")

CIM = {
    "Win32_PhysicalMemory": [
        {
            **{"Capacity": 8589934592, "Speed": 3200, "ConfiguredClockSpeed": 2933, "ConfiguredVoltage": 1200, "FormFactor": 12},
            **{"SMBIOSMemoryType": 26, "MemoryType": 0, "DataWidth": 64, "TotalWidth": 72, "Manufacturer": "Ostrel"},
            **{"PartNumber": "OS4S-3200-8", "SerialNumber": "5A1B", "DeviceLocator": slot, "BankLabel": "BANK 0"},
        }
        for slot in ("A1", "B1")
    ],
    "Win32_PhysicalMemoryArray": [{"MaxCapacity": 33554432, "MaxCapacityEx": 33554432, "MemoryDevices": 4, "Use": 3}],
    "Win32_ComputerSystem": [
        {"Manufacturer": "Dunlin", "Model": "Dunlin 14", "TotalPhysicalMemory": 17000000000, "HypervisorPresent": False}
    ],
    "Win32_OperatingSystem": [{"OSArchitecture": "64-bit", "TotalVisibleMemorySize": 16500000}],
}

REPORT = {
    "SPMemoryDataType": [
        {
            "global_ecc_state": "ecc_disabled",
            "_items": [
                {
                    **{"_name": f"BANK {at}/DIMM0", "dimm_size": "8 GB", "dimm_type": "DDR4", "dimm_speed": "2400 MHz"},
                    **{"dimm_status": "ok", "dimm_manufacturer": "Ostrel", "dimm_part_number": "OS4S-2400-8", "dimm_serial_number": "5A1B"},
                }
                for at in (0, 1)
            ],
        }
    ],
    "SPHardwareDataType": [{"physical_memory": "16 GB", "machine_model": "Merle A1", "machine_name": "Merle", "serial_number": "ME4-1"}],
}

MEMBER = {
    **{"Id": "1", "DeviceLocator": "A1", "CapacityMiB": 16384, "MemoryDeviceType": "DDR4", "BaseModuleType": "RDIMM"},
    **{
        "OperatingSpeedMhz": 2933,
        "AllowedSpeedsMHz": [2400, 2666, 2933],
        "RankCount": 2,
        "DataWidthBits": 64,
        "ErrorCorrection": "MultiBitECC",
    },
    **{"Manufacturer": "Ostrel", "PartNumber": "OS4R-2933-16", "SerialNumber": "5A1B", "Enabled": True},
    "MemoryLocation": {"Socket": 0, "MemoryController": 0, "Channel": 1, "Slot": 0},
    "Location": {"PartLocation": {"ServiceLabel": "Slot 3"}},
    "Status": {"State": "Enabled", "Health": "OK"},
}
METRICS = {
    "CurrentPeriod": {"CorrectableECCErrorCount": 3, "UncorrectableECCErrorCount": 1},
    "LifeTime": {"CorrectableECCErrorCount": 9, "UncorrectableECCErrorCount": 2},
    "HealthData": {"AlarmTrips": {"UncorrectableECCError": False}},
}


def leaves(node, path=()):
    """The place of every value of a document, and of every part that holds others."""
    parts = node.items() if isinstance(node, dict) else enumerate(node) if isinstance(node, list) else ()
    for key, value in parts:
        yield (*path, key)
        yield from leaves(value, (*path, key))


def with_value(document, path, value):
    copy = json.loads(json.dumps(document))
    node = copy
    for key in path[:-1]:
        node = node[key]
    node[path[-1]] = value
    return copy


def figures(reading: Reading):
    """Every figure of a reading that is no text: by field, and of modules by field without their place."""
    found = set()
    for name in (one.name for one in dataclasses.fields(Reading)):
        fact = getattr(reading, name)
        if isinstance(fact, Fact) and not isinstance(fact.value, str):
            found.add((name, str(fact.value)))
    return found | {pair for module in reading.modules for pair in of_module(module)}


def of_module(module: Module):
    for one in dataclasses.fields(Module):
        fact = getattr(module, one.name)
        if isinstance(fact, Fact) and one.name not in ("maker", "part", "serial", "label"):
            yield f"module.{one.name}", str(fact.value)


def check(read, document, may=()):
    whole = figures(read(document)) | set(may)
    for path in leaves(document):
        for value in SENSELESS:
            try:
                changed = figures(read(with_value(document, path, value)))
            except SourceError:
                continue
            assert changed <= whole, f"{path} = {value!r} makes {sorted(changed - whole)}"


def test_classes_of_another_system():
    # What the array announces falls back to what is listed; and of two amounts the other one is what is left.
    check(lambda document: reading_from_cim(document, "f"), CIM, {("usable_bytes", "17000000000")})


def test_the_hardware_report_of_another_system():
    check(lambda document: reading_from_report(document, "f"), REPORT)


def test_a_resource_of_a_service():
    check(lambda document: Reading(slots=(slot_of(document, "A1"),)), MEMBER)


def test_counters_of_a_service():
    whole = {
        (one.label, one.over_life, name, getattr(one, name)) for one in counters_of(METRICS, "A1") for name in ("corrected", "uncorrected")
    }
    for path in leaves(METRICS):
        for value in SENSELESS:
            for one in counters_of(with_value(METRICS, path, value), "A1"):
                for name in ("corrected", "uncorrected"):
                    count = getattr(one, name)
                    assert count is None or (one.label, one.over_life, name, count) in whole, f"{path} = {value!r} makes {count}"


@pytest.mark.parametrize("data", [b"", b"\0", b"\xff" * 4, b"\xff" * 64, b"x" * 5000, b"\0" * 4, b"\x80\0\0\0", b"\0\0\0\x03"])
def test_properties_of_a_device_tree(tmp_path, data):
    machine = board(tmp_path / "machine")
    whole = figures(read_folder(machine).reading)
    for path in sorted(path for path in machine.rglob("*") if path.is_file() and "devicetree" in str(path)):
        kept = path.read_bytes()
        path.write_bytes(data)
        made = {pair for pair in figures(read_folder(machine).reading) - whole if pair[0] != "module.ranks"}
        # The total of a tree with other cells, and devices of another width, are what such a tree says.
        assert not {pair for pair in made if "cells" not in path.name and path.name not in ("io-width", "density")}, f"{path}: {made}"
        path.write_bytes(kept)
