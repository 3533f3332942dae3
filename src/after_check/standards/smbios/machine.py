"""The structures that describe the machine. Document: DSP0134 sections 7.1 (type 0), 7.2 (1), 7.3 (2) and 7.5 (4)."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from after_check.standards.smbios.structures import Structure

_IS_VIRTUAL = 1 << 4
"""Firmware characteristics extension byte 2, bit 4: the tables describe a virtual machine (section 7.1.2.2)."""


_FEWEST_DIFFERENT_BYTES = 5
"""A number that somebody counted up by hand, or repeated, is none: many boards would share it."""


@dataclass(frozen=True, slots=True)
class Firmware:
    """Type 0. `virtual` is None where the table is too old to say."""

    maker: str | None
    version: str | None
    released: str | None
    virtual: bool | None


@dataclass(frozen=True, slots=True)
class NamedPart:
    """Types 1 and 2: the system or its board."""

    maker: str | None
    product: str | None
    version: str | None
    serial: str | None


def parse_firmware(structure: Structure) -> Firmware:
    """Decode type 0."""
    extension = structure.byte(0x13)
    return Firmware(
        maker=structure.string(0x04),
        version=structure.string(0x05),
        released=structure.string(0x08),
        virtual=None if extension is None else bool(extension & _IS_VIRTUAL),
    )


def parse_named(structure: Structure) -> NamedPart:
    """Decode type 1 or type 2; both begin with the same four strings."""
    return NamedPart(structure.string(0x04), structure.string(0x05), structure.string(0x06), structure.string(0x07))


def parse_uuid(structure: Structure) -> str | None:
    """Return the machine's number of type 1 as it is usually written; None where it is not there or not set (section 7.2.1).

    Since version 2.6 the first three fields are little-endian; a number is compared, never looked up, so older ones are
    written in the same way.
    """
    fields = [structure.byte(0x08 + at) for at in range(16)]
    data = bytes(field for field in fields if field is not None)
    if len(data) < len(fields) or data in (bytes(16), b"\xff" * 16) or len(set(data)) < _FEWEST_DIFFERENT_BYTES:
        return None
    return str(UUID(bytes_le=data))


def parse_processor(structure: Structure) -> str | None:
    """Return the processor's name of type 4 (its version string)."""
    return structure.string(0x10)
