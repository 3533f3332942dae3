"""Readings from CIM classes, hardware reports and SPD files."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.case_files import CaseFile
from after_check.domain.facts import Source
from after_check.domain.modules import Form, Generation
from after_check.files.errors import SourceError
from after_check.judgement.case import view
from after_check.judgement.judge import judge
from after_check.sources.cim import reading_from_cim
from after_check.sources.hardware_report import reading_from_report
from after_check.sources.open_source import decode_again, take
from tests.standards import spd_images as images

GIB = 1 << 30

MODULE = {
    **{"Capacity": 17179869184, "Speed": 3200, "ConfiguredClockSpeed": 2667, "ConfiguredVoltage": 1200, "FormFactor": 12},
    **{"SMBIOSMemoryType": 26, "DataWidth": 64, "TotalWidth": 64, "Manufacturer": "Ostrel", "PartNumber": "OS4S-16  "},
    **{"SerialNumber": "00C0FFEE", "DeviceLocator": "ChannelA-DIMM0", "BankLabel": "BANK 0"},
}
SYSTEM = {
    "Win32_PhysicalMemoryArray": {"MaxCapacity": 67108864, "MemoryDevices": 2, "Use": 3, "MemoryErrorCorrection": 3},
    "Win32_ComputerSystem": {"Manufacturer": "Larkfield", "Model": "Larkfield S1", "TotalPhysicalMemory": "34200000000"},
    "Win32_OperatingSystem": {"OSArchitecture": "64-bit", "TotalVisibleMemorySize": "33398437"},
}


def test_cim_classes():
    document = {"Win32_PhysicalMemory": [MODULE, {**MODULE, "DeviceLocator": "ChannelB-DIMM0", "BankLabel": "BANK 2"}], **SYSTEM}
    reading = reading_from_cim(document, "f")
    assert [slot.name for slot in reading.slots] == ["ChannelA-DIMM0", "ChannelB-DIMM0"]
    module = reading.modules[0]
    assert (module.size_bytes.value, module.size_bytes.source) == (16 * GIB, Source.SYSTEM)
    assert (module.generation.value, module.form.value, module.part.value) == (Generation.DDR4, Form.SODIMM, "OS4S-16")
    assert (module.rated_mts.value, module.running_mts.value) == (3200, 2666)
    assert reading.usable_bytes.value == 33398437 * 1024
    assert (reading.slot_count.value, reading.system_bits.value, reading.array_limit_bytes.value) == (2, 64, 64 * GIB)
    assert view(reading).channels.count == 2


def test_either_spelling_of_numbers_and_one_object_or_a_list():
    strings = {key: str(value) for key, value in MODULE.items()}
    one = reading_from_cim(MODULE, "f")
    assert one.slots == reading_from_cim([MODULE], "f").slots
    assert one.slots == reading_from_cim({"Win32_PhysicalMemory": strings}, "f").slots


def test_a_file_in_the_encoding_that_some_shells_write(tmp_path):
    path = tmp_path / "memory.json"
    path.write_bytes(json.dumps([MODULE]).encode("utf-16"))
    taken = take(str(path))
    assert len(taken.reading.modules) == 1
    again = decode_again(taken.evidence, "f")
    assert again is not None
    assert again.reading.slots == taken.reading.slots


def test_a_virtual_machine_by_its_model():
    reading = reading_from_cim({"Win32_PhysicalMemory": MODULE, "Win32_ComputerSystem": {"Model": "Virtual Machine"}}, "f")
    assert reading.virtual is not None


def test_a_hardware_report():
    bank = {
        "_name": "BANK 0/ChannelA-DIMM0",
        **{"dimm_size": "8 GB", "dimm_speed": "2400 MHz", "dimm_type": "DDR4", "dimm_manufacturer": "0x0A21"},
        # The letters QM4-8 in hexadecimal, padded as the report pads them.
        **{"dimm_part_number": "0x514D342D382020", "dimm_serial_number": "0x1B2C3D4E", "dimm_status": "ok"},
    }
    empty = {"_name": "BANK 1/ChannelB-DIMM0", "dimm_size": "empty", "dimm_status": "empty"}
    reading = reading_from_report(
        {"SPMemoryDataType": [{"_items": [bank, empty]}], "SPHardwareDataType": [{"physical_memory": "8 GB", "machine_model": "Merle A1"}]},
        "f",
    )
    assert reading.empty_slots == ("BANK 1/ChannelB-DIMM0",)
    (module,) = reading.modules
    assert (module.size_bytes.value, module.running_mts.value, module.part.value) == (8 * GIB, 2400, "QM4-8")
    assert reading.total_bytes.value == 8 * GIB
    assert reading.machine.model.value == "Merle A1"


def test_a_report_of_soldered_memory():
    reading = reading_from_report(
        {"SPMemoryDataType": [{"SPMemoryDataType": "16 GB", "dimm_type": "LPDDR5", "dimm_manufacturer": "Ostrel"}]}, "f"
    )
    (module,) = reading.modules
    assert (module.form.value, module.generation.value, module.size_bytes.value) == (Form.SOLDERED, Generation.LPDDR5, 16 * GIB)


@pytest.mark.parametrize("content", [b'{"a": 1}', b"[]", b'[{"x": 1}]', b'{"Win32_PhysicalMemory": ', b"{\xff}"])
def test_json_of_something_else(tmp_path, content):
    path = tmp_path / "f.json"
    path.write_bytes(content)
    with pytest.raises(SourceError):
        take(str(path))


_values = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=10),
    lambda inner: (
        st.lists(inner, max_size=3)
        | st.dictionaries(st.sampled_from([*MODULE, *SYSTEM, "_items", "dimm_size", "_name"]), inner, max_size=4)
    ),
    max_leaves=12,
)


@given(_values, _values)
def test_any_values_in_the_right_places_never_crash(first, second):
    for reading in (
        reading_from_cim({"Win32_PhysicalMemory": first, "Win32_ComputerSystem": second}, "f"),
        reading_from_report({"SPMemoryDataType": first, "SPHardwareDataType": second}, "f"),
    ):
        judge(CaseFile(reading))


def test_an_spd_file_is_a_reading_of_one_module(tmp_path):
    path = tmp_path / "module.spd"
    path.write_bytes(images.ddr5_profiles(images.ddr5()))
    taken = take(str(path))
    (module,) = view(taken.reading).reading.modules
    assert (module.size_bytes.value, module.size_bytes.source) == (16 * GIB, Source.SPD)
    assert (module.standard_mts.value, module.rated_mts.value) == (4800, 6400)
    assert str(module.timings.value) == "40-39-39-77"
    again = decode_again(taken.evidence, "f")
    assert again is not None
    assert again.reading.spd[0].module.serial.value == module.serial.value == "0A1B2C3D"


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"\xff" * 512, "all 512 bytes are FF"),
        (bytes(256), "all 256 bytes are 00"),
        (bytes([0x23, 0x11, 0x7E]) + bytes(range(253)) * 2 + bytes(3), "byte 2 (7E) names no kind of memory"),
    ],
)
def test_a_modules_data_that_says_nothing_is_told_as_what_it_is(tmp_path, data, says):
    path = tmp_path / "module.bin"
    path.write_bytes(data)
    with pytest.raises(SourceError, match="a module's data") as refused:
        take(str(path))
    assert says in str(refused.value)
    assert "1,024 bytes (DDR5)" in str(refused.value)


@pytest.mark.parametrize("length", [100, 126, 127, 200, 300, 400, 440, 511])
def test_a_cut_image_gives_what_is_in_front_of_the_cut_and_no_wrong_figure(tmp_path, length):
    whole = bytes(images.ddr4_profiles(images.ddr4()))
    path = tmp_path / "module.bin"
    path.write_bytes(whole)
    (full,) = (entry.module for entry in take(str(path)).reading.spd)
    path.write_bytes(whole[:length])
    reading = take(str(path)).reading
    (module,) = (entry.module for entry in reading.spd)
    assert module.size_bytes == full.size_bytes or length < 128  # Below that the check sum is missing, and said beside the value.
    assert set(module.profiles.value if module.profiles else ()) <= set(full.profiles.value)
    said = " ".join(notice.what for notice in reading.notices)
    assert f"has {length} of 512 bytes" in said
    assert ("cannot be checked" in said) == (length < 128)
    assert "is wrong" not in said


def test_a_byte_order_mark_in_front_of_a_line(tmp_path):
    path = tmp_path / "reading.txt"
    for encoding in ("utf-8-sig", "utf-16"):
        path.write_bytes("2x8G DDR4-2400; run 2400".encode(encoding))
        assert len(take(str(path)).reading.modules) == 2


@pytest.mark.parametrize("encoding", ["utf-16-le", "utf-16-be", "utf-8-sig"])
def test_json_without_a_mark_and_behind_blank_lines(tmp_path, encoding):
    path = tmp_path / "memory.json"
    path.write_bytes(("\r\n\r\n" + json.dumps({"value": [MODULE, MODULE], "Count": 2})).encode(encoding))
    names = [slot.name for slot in take(str(path)).reading.slots]
    assert len(set(names)) == 2
