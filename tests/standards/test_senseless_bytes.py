"""One field of a sound table or image made senseless, for each field that is read: it is not known, and the rest stays as it was.

Which codes are reserved is in the documents: DSP0134 7.17 and 7.18 for the tables; JESD21-C 4.1.2.10 to 4.1.2.12 and JESD400-5
for the images.
"""

from __future__ import annotations

import dataclasses

import pytest

from after_check.domain.facts import Fact
from after_check.domain.modules import Module
from after_check.sources.firmware_table import reading_from_tables
from after_check.standards.spd import decode
from after_check.standins.firmware_tables import structure
from tests.standards import spd_images as images
from tests.standards.test_smbios import DEVICE_3_3, STRINGS

ARRAY = structure(16, 0x40, bytes.fromhex("03 03 06 00000004 FEFF 0200 0000000000000000"), [])
END = structure(127, 1, b"", [])

# Offset in the memory device, the senseless bytes (little-endian), the fields of the module that may not be known then.
DEVICE = (
    (0x08, "0000", "ecc"), (0x08, "FFFF", "ecc"), (0x08, "0100", "ecc"), (0x08, "FF7F", "ecc"),
    (0x0A, "0000", "ecc data_width_bits"), (0x0A, "FFFF", "ecc data_width_bits"), (0x0A, "0300", "ecc data_width_bits"),
    (0x0A, "FEFF", "ecc data_width_bits"),
    (0x0C, "FFFF", "size_bytes"), (0x1C, "00000000", "size_bytes"), (0x1C, "FFFFFF7F", "size_bytes"),
    (0x0E, "00", "form"), (0x0E, "01", "form"), (0x0E, "02", "form"), (0x0E, "EE", "form"),
    (0x12, "00", "generation"), (0x12, "01", "generation"), (0x12, "02", "generation"), (0x12, "EE", "generation"),
    (0x13, "0000", "form"), (0x13, "0060", "form"),  # neither registered nor unbuffered; both
    (0x15, "0000", "rated_mts"), (0x15, "FFFF", "rated_mts"), (0x15, "0100", "rated_mts"), (0x15, "FEFF", "rated_mts"),
    (0x20, "0000", "running_mts"), (0x20, "FFFF", "running_mts"), (0x20, "0100", "running_mts"), (0x20, "FEFF", "running_mts"),
    (0x1B, "00", "ranks"), (0x1B, "0F", "ranks"), (0x1B, "F0", "ranks"),
    (0x26, "0000", "voltage_mv"), (0x26, "FFFF", "voltage_mv"), (0x26, "0100", "voltage_mv"), (0x26, "FEFF", "voltage_mv"),
    (0x17, "00", "maker"), (0x17, "63", "maker"), (0x18, "63", "serial"), (0x1A, "63", "part"),
    (0x10, "63", ""), (0x11, "63", ""), (0x28, "EE", ""), (0x04, "FFFF", ""), (0x06, "0000", ""), (0x0F, "FF", ""), (0x19, "63", ""),
)  # fmt: skip

# Offset in the array, bytes, the fields of the reading that may not be known then.
OF_THE_ARRAY = (
    (0x05, "EE", ""), (0x05, "02", ""), (0x04, "EE", ""),
    (0x06, "00", "ecc_on"), (0x06, "01", "ecc_on"), (0x06, "02", "ecc_on"), (0x06, "EE", "ecc_on"),
    (0x07, "00000000", "array_limit_bytes"), (0x07, "00000080", "array_limit_bytes"),
    (0x0D, "0000", "slot_count"), (0x0D, "FFFF", "slot_count"),
)  # fmt: skip


def facts(holder, names=None):
    found = {one.name: getattr(holder, one.name) for one in dataclasses.fields(holder)}
    return {name: fact.value for name, fact in found.items() if isinstance(fact, Fact) and (names is None or name in names)}


def changed(table: bytes, at: int, hexed: str) -> bytes:
    new = bytes.fromhex(hexed)
    return table[:at] + new + table[at + len(new) :]


def read(array: bytes = ARRAY, device: bytes = DEVICE_3_3 + STRINGS):
    return reading_from_tables(array + device + END, None, "DMI")


@pytest.mark.parametrize(("at", "hexed", "unknown"), DEVICE)
def test_a_senseless_field_of_a_memory_device_is_not_known(at, hexed, unknown):
    whole = facts(read().modules[0])
    assert {"size_bytes", "form", "generation", "rated_mts", "running_mts", "ranks", "voltage_mv", "ecc"} <= whole.keys()
    device = changed(DEVICE_3_3, at, hexed) + STRINGS
    assert facts(read(device=device).modules[0]) == {name: value for name, value in whole.items() if name not in unknown.split()}


@pytest.mark.parametrize(("at", "hexed", "unknown"), OF_THE_ARRAY)
def test_a_senseless_field_of_a_memory_array_is_not_known(at, hexed, unknown):
    whole = facts(read(), ("ecc_on", "array_limit_bytes", "slot_count"))
    assert len(whole) == 3
    reading = read(changed(ARRAY, at, hexed))
    assert [facts(module) for module in reading.modules] == [facts(module) for module in read().modules]
    left = {name: value for name, value in whole.items() if name not in unknown.split()}
    if at == 0x05:  # An array of an unknown use proves nothing of its own; the modules are there all the same.
        left = {}
    assert facts(reading, whole) == left


SIZE = "size_bytes"
IMAGES = (
    (images.ddr4, {"b3": 0x00}, "form"), (images.ddr4, {"b3": 0x0F}, "form"),
    (images.ddr4, {"b4": 0x8A}, SIZE), (images.ddr4, {"b4": 0x8F}, SIZE),
    (images.ddr4, {"b11": 0x00}, "voltage_mv"),
    (images.ddr4, {"b12": 0x0C}, f"device_width_bits {SIZE}"), (images.ddr4, {"b12": 0x0F}, f"device_width_bits {SIZE}"),
    (images.ddr4, {"b13": 0x04}, f"data_width_bits {SIZE}"), (images.ddr4, {"b13": 0x07}, f"data_width_bits {SIZE}"),
    (images.ddr4, {"b13": 0x13}, "ecc"), (images.ddr4, {"b13": 0x1B}, "ecc"),
    (images.ddr4, {"b18": 0x00}, "tck_ps standard_mts"),
    (images.ddr4, {"b24": 0x00}, "taa_ps"), (images.ddr4, {"b25": 0x00}, "trcd_ps"), (images.ddr4, {"b26": 0x00}, "trp_ps"),
    (images.ddr4, {"b20": 0, "b21": 0, "b22": 0, "b23": 0}, "cas_latencies"),
    (images.ddr4, {"b27": 0x10, "b28": 0x00}, "tras_ps"), (images.ddr4, {"b27": 0x01, "b29": 0x00}, "trc_ps"),
    (images.ddr4, {"b320": 0x88}, "maker"), (images.ddr4, {"b321": 0x21}, "maker"), (images.ddr4, {"b350": 0x88}, "device_maker"),
    (images.ddr4, {"b323": 0xAA}, "made"), (images.ddr4, {"b324": 0x54}, "made"), (images.ddr4, {"b324": 0x00}, "made"),
    (images.ddr4, {f"b{at}": 0xFF for at in range(325, 329)}, "serial"), (images.ddr4, {f"b{at}": 0 for at in range(329, 349)}, "part"),
    (images.ddr3, {"b3": 0x00}, "form"), (images.ddr3, {"b3": 0x0F}, "form"), (images.ddr3, {"b4": 0x0F}, SIZE),
    (images.ddr3, {"b7": 0x0C}, f"device_width_bits {SIZE}"), (images.ddr3, {"b7": 0x39}, f"ranks {SIZE}"),
    (images.ddr3, {"b8": 0x04}, f"data_width_bits {SIZE}"), (images.ddr3, {"b8": 0x13}, "ecc"), (images.ddr3, {"b8": 0x1B}, "ecc"),
    (images.ddr3, {"b11": 0x00}, "tck_ps standard_mts taa_ps trcd_ps trp_ps tras_ps trc_ps"),
    (images.ddr3, {"b12": 0x00}, "tck_ps standard_mts"), (images.ddr3, {"b14": 0, "b15": 0}, "cas_latencies"),
    (images.ddr3, {"b16": 0x00}, "taa_ps"), (images.ddr3, {"b18": 0x00}, "trcd_ps"), (images.ddr3, {"b20": 0x00}, "trp_ps"),
    (images.ddr5, {"b3": 0x00}, "form"), (images.ddr5, {"b3": 0x0F}, "form"),
    (images.ddr5, {"b4": 0x00}, SIZE), (images.ddr5, {"b4": 0x1F}, SIZE), (images.ddr5, {"b4": 0xC4}, SIZE),
    (images.ddr5, {"b6": 0x80}, f"device_width_bits {SIZE}"), (images.ddr5, {"b6": 0xE0}, f"device_width_bits {SIZE}"),
    (images.ddr5, {"b16": 0xF0}, "voltage_mv"),
    (images.ddr5, {"b235": 0x24}, f"data_width_bits {SIZE}"), (images.ddr5, {"b235": 0x27}, f"data_width_bits {SIZE}"),
    (images.ddr5, {"b235": 0x3A}, "ecc"), (images.ddr5, {"b235": 0x62}, f"data_width_bits {SIZE} subchannels"),
    (images.ddr5, {"b20": 0, "b21": 0}, "tck_ps standard_mts"),
    (images.ddr5, {"b30": 0, "b31": 0}, "taa_ps"), (images.ddr5, {"b32": 0, "b33": 0}, "trcd_ps"),
    (images.ddr5, {"b34": 0, "b35": 0}, "trp_ps"), (images.ddr5, {"b36": 0, "b37": 0}, "tras_ps"),
    (images.ddr5, {f"b{at}": 0 for at in range(24, 29)}, "cas_latencies"),
    (images.ddr5, {"b512": 0x88}, "maker"), (images.ddr5, {"b515": 0xAA}, "made"),
)  # fmt: skip


@pytest.mark.parametrize(("make", "changes", "unknown"), IMAGES)
def test_a_senseless_byte_of_an_image_is_not_known(make, changes, unknown):
    whole, found = decode(bytes(make())), decode(bytes(make(**changes)))
    for field in dataclasses.fields(whole):
        if field.name == "problems":
            continue
        value, told = getattr(whole, field.name), getattr(found, field.name)
        if field.name in unknown.split():
            assert value not in (None, ()), f"{field.name} is not known of the whole image either"
            assert told in (None, (), 1), field.name  # One sub-channel is what every other kind of module has.
        else:
            assert told == value, field.name


def test_every_field_of_a_module_is_made_senseless_once():
    said = {name for *_, unknown in DEVICE for name in unknown.split()}
    told = {one.name for one in dataclasses.fields(Module) if isinstance(getattr(read().modules[0], one.name), Fact)}
    assert told <= said
