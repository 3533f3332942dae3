"""What is written where nothing is known is nothing, from whatever source; and names of slots that are alike."""

from __future__ import annotations

import pytest

from after_check.domain.case_files import CaseFile
from after_check.files.firmware_text import distinct, said
from after_check.judgement.judge import judge
from after_check.sources.cim import reading_from_cim
from after_check.sources.hardware_report import reading_from_report


@pytest.mark.parametrize(
    "text",
    [
        *("", "  ", "Unknown", "UNKNOWN", "Undefined", "Not Specified", "Not Available", "None", "N/A", "NULL", "Empty", "[Empty]"),
        *("0000", "00000000", "0x00000000", "FFFFFFFF", "0xFFFF", "12345678", "123456789", "To be filled by O.E.M.", "Fill By OEM"),
        *("A1_Manufacturer0", "A1_SerNum0", "A1_AssetTagNum1", "A1_PartNum0", "Array1_PartNumber0", "SerNum01", "Manufacturer00"),
        *("PartNum1", "ModulePartNumber00", "Default string", "System Serial Number", "----", "...", "NO DIMM", "No Module Installed"),
    ],
)
def test_fillers_are_nothing(text):
    assert said(text) is None


@pytest.mark.parametrize(
    "text", ["Quillmark", "QM4-3200-16", "C0FFEE", "0A1B2C3D", "Larkfield T1", "OS4S-16", "1742", "A1", "F00D", "Partridge"]
)
def test_names_are_no_fillers(text):
    assert said(text) == text


def test_fillers_make_no_difference_of_makers():
    module = {"Capacity": 8 << 30, "DeviceLocator": "DIMM0", "BankLabel": "BANK 0", "SMBIOSMemoryType": 26, "PartNumber": "Undefined"}
    document = [
        {**module, "Manufacturer": "Unknown"},
        {**module, "Manufacturer": "A1_Manufacturer1", "DeviceLocator": "DIMM1", "SerialNumber": "00000000"},
    ]
    reading = reading_from_cim(document, "f")
    assert all(slot.module.maker is None and slot.module.serial is None and slot.module.part is None for slot in reading.slots)
    assert "mix.maker" not in {finding.code for finding in judge(CaseFile(reading)).findings}


@pytest.mark.parametrize(
    ("names", "banks", "expected"),
    [
        (["DIMM 0", "DIMM 0"], ["BANK 0", "BANK 1"], ["BANK 0 DIMM 0", "BANK 1 DIMM 0"]),
        (["DIMM 0", "DIMM 0"], ["", ""], ["DIMM 0 (1)", "DIMM 0 (2)"]),
        (["A1", "B1"], ["x", "x"], ["A1", "B1"]),
        (["D", "D", "E"], ["b", "b", "b"], ["b D (1)", "b D (2)", "E"]),
    ],
)
def test_equal_names_are_told_apart_from_the_first_to_the_last(names, banks, expected):
    assert distinct(names, banks) == expected


def test_arrays_of_several_processors_add_up():
    array = {"MaxCapacity": 67108864, "MemoryDevices": 8, "Use": 3}
    document = {"Win32_PhysicalMemory": [], "Win32_PhysicalMemoryArray": {"value": [array, array], "Count": 2}}
    reading = reading_from_cim(document, "f")
    assert reading.slot_count.value == 16
    assert reading.array_limit_bytes.value == 128 << 30


@pytest.mark.parametrize(
    ("codes", "generation", "form"),
    [
        ({"SMBIOSMemoryType": 34, "FormFactor": 8}, "DDR5", "UDIMM"),
        ({"SMBIOSMemoryType": 26, "FormFactor": 12}, "DDR4", "SODIMM"),
        ({"SMBIOSMemoryType": 24, "FormFactor": 8}, "DDR3", "UDIMM"),
        ({"MemoryType": 24, "FormFactor": 8}, "DDR3", "UDIMM"),
        ({"MemoryType": 20, "FormFactor": 8}, "DDR", "UDIMM"),
        ({"SMBIOSMemoryType": 30, "FormFactor": 8}, "LPDDR4", "soldered"),
        ({"SMBIOSMemoryType": 35, "FormFactor": 0}, "LPDDR5", "soldered"),
        ({"SMBIOSMemoryType": 26, "FormFactor": 22}, "DDR4", "soldered"),
    ],
)
def test_codes_of_kind_and_form(codes, generation, form):
    (module,) = reading_from_cim([{"Capacity": 8 << 30, "DeviceLocator": "x", "BankLabel": "", **codes}], "f").modules
    assert (module.generation.value, module.form.value) == (generation, form)


def test_a_virtual_machine_whose_model_does_not_say_so():
    nobodys = {
        "Capacity": 8 << 30,
        "DeviceLocator": "M0001",
        "BankLabel": "None",
        "Manufacturer": "None",
        "PartNumber": "None",
        "Speed": None,
    }
    under = {"Win32_ComputerSystem": {"Model": "Standard PC", "HypervisorPresent": True}}
    assert reading_from_cim({"Win32_PhysicalMemory": [nobodys], **under}, "f").virtual.value is True
    # A system that runs under a hypervisor of its own still sees real modules.
    real = {**nobodys, "PartNumber": "QM4-3200-16", "SerialNumber": "C0FFEE", "Speed": 3200}
    assert reading_from_cim({"Win32_PhysicalMemory": [real], **under}, "f").virtual is None


def test_a_report_with_error_correction_and_one_of_a_total_alone():
    bank = {"_name": "DIMM 1", "dimm_size": "8 GB", "dimm_type": "DDR3 ECC", "dimm_speed": "1866 MHz", "dimm_status": "ok"}
    empty = {"_name": "DIMM 2", "dimm_size": "empty", "dimm_type": "empty", "dimm_status": "empty"}
    reading = reading_from_report({"SPMemoryDataType": [{"_items": [bank, empty], "global_ecc_state": "ecc_enabled"}]}, "f")
    assert (reading.modules[0].generation.value, reading.modules[0].ecc.value, reading.ecc_on.value) == ("DDR3", True, True)
    assert reading.empty_slots == ("DIMM 2",)
    alone = reading_from_report({"SPMemoryDataType": [{"SPMemoryDataType": "16 GB", "dimm_type": "LPDDR5"}]}, "f")
    assert [module.size_bytes.value for module in alone.modules] == [16 << 30]
