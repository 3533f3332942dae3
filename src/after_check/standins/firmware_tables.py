"""Writes the firmware tables of a simulated machine. Document: DMTF DSP0134, version 3.4 layouts."""

from __future__ import annotations

import struct
from dataclasses import dataclass, field

MIB = 1 << 20
_TYPE_CODES = {"DDR3": 0x18, "DDR4": 0x1A, "DDR5": 0x22, "LPDDR4": 0x1E, "LPDDR5": 0x23}
_FORM_CODES = {"UDIMM": (0x09, 0x4080), "SODIMM": (0x0D, 0x4080), "RDIMM": (0x09, 0x2080), "soldered": (0x0B, 0x0080)}
_TABLE_ADDRESS = 0x000E_B000


@dataclass(frozen=True)
class SimulatedModule:
    """A module as the firmware of a simulated machine describes it; rates in MT/s."""

    size_mib: int
    generation: str
    form: str
    speed_mts: int
    configured_mts: int
    maker: str = ""
    part: str = ""
    serial: str = ""
    ranks: int = 1
    ecc: bool = False
    configured_mv: int = 1200


@dataclass(frozen=True)
class SimulatedMachine:
    """A simulated machine: names, and its slots in order, each with a module or None."""

    maker: str
    model: str
    firmware_version: str
    slots: dict[str, SimulatedModule | None]
    limit_mib: int
    banks: dict[str, str] = field(default_factory=dict)
    serial: str = ""
    board: str = ""
    processor: str = "Simulated processor"
    firmware_date: str = "03/02/2026"
    is_virtual: bool = False


def structure(kind: int, handle: int, body: bytes, strings: list[str]) -> bytes:
    """Return one structure: header, body, strings and the double zero at its end."""
    text = b"".join(string.encode() + b"\0" for string in strings) or b"\0"
    return struct.pack("<BBH", kind, 4 + len(body), handle) + body + text + b"\0"


def tables(machine: SimulatedMachine) -> bytes:
    """Return the machine's tables, with types 0, 1, 2, 4, 16, 17, 19 and the end of the table."""
    parts = [
        _firmware(machine),
        structure(
            1,
            0x0001,
            struct.pack("<BBBB16sBBB", 1, 2, 0, 3, b"\x11" * 16, 6, 0, 0),
            [machine.maker, machine.model, machine.serial or "none"],
        ),
        structure(2, 0x0002, struct.pack("<BBBBB", 1, 2, 0, 0, 0), [machine.maker, machine.board or machine.model]),
        structure(4, 0x0004, _processor_body(), ["Socket 1", "Simulated", machine.processor]),
        structure(16, 0x1000, _array_body(machine), []),
    ]
    for index, (name, module) in enumerate(machine.slots.items()):
        parts.append(_device(0x1100 + index, name, machine.banks.get(name, ""), module))
    fitted_kib = sum(module.size_mib for module in machine.slots.values() if module) * 1024
    if 0 < fitted_kib < 0xFFFF_FFFF:
        parts.append(structure(19, 0x1900, struct.pack("<IIHBQQ", 0, fitted_kib - 1, 0x1000, len(machine.slots), 0, 0), []))
    parts.append(structure(127, 0x7F00, b"", []))
    return b"".join(parts)


def entry_point(table: bytes) -> bytes:
    """Return the 64-bit entry point (section 5.2.2) for a table."""
    body = struct.pack("<5sBBBBBBBIQ", b"_SM3_", 0, 0x18, 3, 4, 0, 1, 0, len(table), _TABLE_ADDRESS)
    checksum = -sum(body) % 256
    return body[:5] + bytes([checksum]) + body[6:]


def entry_point_32(table: bytes, count: int) -> bytes:
    """Return the 32-bit entry point (section 5.2.1) for a table of `count` structures."""
    tail = struct.pack("<5sBHIHB", b"_DMI_", 0, len(table), _TABLE_ADDRESS, count, 0x28)
    tail = tail[:5] + bytes([-sum(tail) % 256]) + tail[6:]
    head = struct.pack("<4sBBBBHB5s", b"_SM_", 0, 0x1F, 2, 8, 256, 0, b"\0" * 5)
    whole = head + tail
    return whole[:4] + bytes([-sum(whole) % 256]) + whole[5:]


def _firmware(machine: SimulatedMachine) -> bytes:
    second_extension = 0x10 if machine.is_virtual else 0x00
    body = struct.pack("<BBHBBQBB", 1, 2, 0xE000, 3, 0xFF, 1 << 19, 0x01, second_extension)
    return structure(0, 0x0000, body, [machine.maker + " firmware", machine.firmware_version, machine.firmware_date])


def _processor_body() -> bytes:
    return struct.pack("<BBBBQBBHHHBB", 1, 3, 2, 2, 0, 3, 0x80, 100, 5000, 3000, 0x41, 1)


def _array_body(machine: SimulatedMachine) -> bytes:
    modules = [module for module in machine.slots.values() if module]
    correction = 0x05 if any(module.ecc for module in modules) else 0x03
    return struct.pack("<BBBIHHQ", 0x03, 0x03, correction, machine.limit_mib * 1024, 0xFFFE, len(machine.slots), 0)


def _device(handle: int, name: str, bank: str, module: SimulatedModule | None) -> bytes:
    strings = [name]
    bank_number = 0
    if bank:
        strings.append(bank)
        bank_number = 2
    if module is None:
        body = struct.pack("<HHHHHBBBBBHHBBBBB", 0x1000, 0xFFFE, 0, 0, 0, 0x02, 0, 1, bank_number, 0x02, 0, 0, 0, 0, 0, 0, 0)
        return structure(17, handle, body + struct.pack("<IHHHH", 0, 0, 0, 0, 0), strings)
    numbers = []
    for text in (module.maker, module.serial, module.part):
        if text:
            strings.append(text)
        numbers.append(len(strings) if text else 0)
    form, detail = _FORM_CODES[module.form]
    size = module.size_mib if module.size_mib < 0x7FFF else 0x7FFF
    body = struct.pack(
        "<HHHHHBBBBBHHBBBBB",
        *(0x1000, 0xFFFE, 72 if module.ecc else 64, 64, size, form, 0, 1, bank_number),
        *(_TYPE_CODES[module.generation], detail, _word(module.speed_mts), numbers[0], numbers[1], 0, numbers[2], module.ranks),
    )
    extended = module.size_mib if size == 0x7FFF else 0
    body += struct.pack("<IHHHH", extended, _word(module.configured_mts), module.configured_mv, module.configured_mv, module.configured_mv)
    return structure(17, handle, body, strings)


def _word(speed_mts: int) -> int:
    return min(speed_mts, 0xFFFF)
