"""The structures that describe memory. Document: DSP0134 sections 7.17 (type 16) to 7.21 (type 20) and 7.38 (type 37)."""

from __future__ import annotations

from dataclasses import dataclass

from after_check.domain.modules import Form, Generation
from after_check.domain.quantities import KIB, LARGEST_SIZE_BYTES, MIB
from after_check.standards.smbios.structures import Structure

SYSTEM_MEMORY_USE = 3
"""Memory array use 03h: system memory (table "Memory Array: Use field")."""

GENERATIONS: dict[int, Generation] = {
    0x12: Generation.DDR,
    0x13: Generation.DDR2,
    0x14: Generation.DDR2,
    0x18: Generation.DDR3,
    0x1A: Generation.DDR4,
    0x1D: Generation.LPDDR3,
    0x1E: Generation.LPDDR4,
    0x22: Generation.DDR5,
    0x23: Generation.LPDDR5,
}
"""Memory type codes of section 7.18.2 that are a generation here; 14h is FB-DIMM, a DDR2 form."""

_DIMM, _SODIMM, _ROW_OF_CHIPS, _CHIP, _DIE = 0x09, 0x0D, 0x0B, 0x05, 0x10
_PERSISTENT = (0x04, 0x05, 0x06, 0x07)
"""Memory technologies of section 7.18.6 that keep their content: NVDIMM-N, -F, -P and persistent memory."""
_REGISTERED, _UNBUFFERED, _LOAD_REDUCED = 1 << 13, 1 << 14, 1 << 15
_UNKNOWN_WORD = 0xFFFF
_SIZE_IS_EXTENDED = 0x7FFF
_SIZE_IN_KIB = 1 << 15


@dataclass(frozen=True, slots=True)
class MemoryArray:
    """Type 16. `ecc` is whether the array corrects or detects errors; None where it does not say."""

    handle: int
    use: int | None
    ecc: bool | None
    limit_bytes: int | None
    device_count: int | None


@dataclass(frozen=True, slots=True)
class MemoryDevice:
    """Type 17: a slot and what is in it. `size_bytes` is 0 for an empty slot and None where unknown; of a module that keeps its
    content it is the volatile part, and `persistent_bytes` the rest."""

    handle: int
    array_handle: int | None
    locator: str | None
    bank: str | None
    size_bytes: int | None
    form: Form | None
    generation: Generation | None
    speed_mts: int | None
    configured_mts: int | None
    maker: str | None
    serial: str | None
    part: str | None
    ranks: int | None
    total_width_bits: int | None
    data_width_bits: int | None
    configured_mv: int | None
    persistent_bytes: int | None = None


@dataclass(frozen=True, slots=True)
class MappedAddress:
    """Types 19 and 20: a range of addresses, both ends included, and the handle of the array or device behind it."""

    handle: int
    target_handle: int | None
    first_byte: int
    last_byte: int
    interleave_position: int | None = None
    interleaved_depth: int | None = None


@dataclass(frozen=True, slots=True)
class MemoryChannel:
    """Type 37: a channel and the handles of its devices."""

    handle: int
    device_handles: tuple[int, ...]


def parse_array(structure: Structure) -> MemoryArray:
    """Decode type 16 (section 7.17)."""
    limit_kib = structure.dword(0x07)
    limit_bytes = None if limit_kib is None else limit_kib * KIB
    if limit_kib == 0x8000_0000:
        limit_bytes = structure.qword(0x0F)
    correction = structure.byte(0x06)
    return MemoryArray(
        handle=structure.handle,
        use=structure.byte(0x05),
        ecc={3: False, 4: True, 5: True, 6: True, 7: True}.get(correction) if correction is not None else None,
        limit_bytes=_plausible_bytes(limit_bytes),
        device_count=structure.word(0x0D),
    )


def parse_device(structure: Structure) -> MemoryDevice:
    """Decode type 17 (section 7.18), of any length from version 2.1 to 3.7."""
    form_code, detail = structure.byte(0x0E), structure.word(0x13) or 0
    attributes = structure.byte(0x1B)
    type_code = structure.byte(0x12)
    return MemoryDevice(
        handle=structure.handle,
        array_handle=structure.word(0x04),
        locator=structure.string(0x10),
        bank=structure.string(0x11),
        size_bytes=_volatile_bytes(structure),
        form=_form(form_code, detail),
        generation=GENERATIONS.get(type_code) if type_code is not None else None,
        speed_mts=_speed_mts(structure, 0x15, 0x54),
        configured_mts=_speed_mts(structure, 0x20, 0x58),
        maker=structure.string(0x17),
        serial=structure.string(0x18),
        part=structure.string(0x1A),
        ranks=(attributes & 0x0F) or None if attributes is not None else None,
        total_width_bits=_known_word(structure.word(0x08)),
        data_width_bits=_known_word(structure.word(0x0A)),
        configured_mv=_known_word(structure.word(0x26)),
        persistent_bytes=_persistent_bytes(structure),
    )


def parse_array_mapped(structure: Structure) -> MappedAddress | None:
    """Decode type 19 (section 7.20); None where the range makes no sense."""
    return _mapped(structure, target_at=0x0C, extended_at=0x0F)


def parse_device_mapped(structure: Structure) -> MappedAddress | None:
    """Decode type 20 (section 7.21); None where the range makes no sense."""
    position, depth = structure.byte(0x11), structure.byte(0x12)
    return _mapped(
        structure,
        target_at=0x0C,
        extended_at=0x13,
        position=None if position == 0xFF else position,
        depth=None if depth == 0xFF else depth,
    )


def parse_channel(structure: Structure) -> MemoryChannel:
    """Decode type 37 (section 7.38): a device count, then a load byte and a handle for each device."""
    handles = []
    for number in range(structure.byte(0x06) or 0):
        handle = structure.word(0x08 + 3 * number)
        if handle is None:
            break
        handles.append(handle)
    return MemoryChannel(structure.handle, tuple(handles))


def _persistent_bytes(structure: Structure) -> int | None:
    """Section 7.18.10 and offset 34h: the non-volatile size of a module whose technology (28h) keeps its content."""
    if structure.byte(0x28) not in _PERSISTENT:
        return None
    return _plausible_bytes(structure.qword(0x34))


def _volatile_bytes(structure: Structure) -> int | None:
    """Return the size; of a module that keeps its content only what offset 3Ch gives as volatile, where it is stated."""
    size_bytes = _device_size_bytes(structure)
    if not _persistent_bytes(structure):
        return size_bytes
    volatile = structure.qword(0x3C)
    return volatile if volatile is not None and volatile <= LARGEST_SIZE_BYTES else size_bytes


def _device_size_bytes(structure: Structure) -> int | None:
    """Section 7.18.1 and 7.18.5: 0 is empty, FFFFh unknown, 7FFFh points to the extended size in MiB."""
    size = structure.word(0x0C)
    if size is None or size == _UNKNOWN_WORD:
        return None
    if size == _SIZE_IS_EXTENDED:
        extended_mib = structure.dword(0x1C)
        return None if extended_mib is None else _plausible_bytes((extended_mib & 0x7FFF_FFFF) * MIB)
    return (size & 0x7FFF) * (KIB if size & _SIZE_IN_KIB else MIB)


def _speed_mts(structure: Structure, at: int, extended_at: int) -> int | None:
    """Section 7.18.4 and 7.18.6: 0 is unknown, FFFFh points to the extended speed (from version 3.3)."""
    speed = structure.word(at)
    if speed == _UNKNOWN_WORD:
        extended = structure.dword(extended_at)
        speed = None if extended is None else extended & 0x7FFF_FFFF
    return speed or None


def _form(code: int | None, detail: int) -> Form | None:
    if code in (_ROW_OF_CHIPS, _CHIP, _DIE):
        return Form.SOLDERED
    if code == _SODIMM:
        return Form.SODIMM
    if code != _DIMM:
        return None
    if detail & _UNBUFFERED and detail & (_REGISTERED | _LOAD_REDUCED):
        return None  # It is one of both; a table that says both says neither.
    if detail & _LOAD_REDUCED:
        return Form.LRDIMM
    if detail & _REGISTERED:
        return Form.RDIMM
    return Form.UDIMM if detail & _UNBUFFERED else None


def _mapped(
    structure: Structure, target_at: int, extended_at: int, position: int | None = None, depth: int | None = None
) -> MappedAddress | None:
    first_kib, last_kib = structure.dword(0x04), structure.dword(0x08)
    if first_kib is None or last_kib is None:
        return None
    if first_kib == 0xFFFF_FFFF:
        first, last = structure.qword(extended_at), structure.qword(extended_at + 8)
        if first is None or last is None:
            return None
    else:
        first, last = first_kib * KIB, last_kib * KIB + KIB - 1
    if last <= first or last > LARGEST_SIZE_BYTES:
        return None
    return MappedAddress(structure.handle, structure.word(target_at), first, last, position, depth)


def _known_word(value: int | None) -> int | None:
    return None if value in (None, 0, _UNKNOWN_WORD) else value


def _plausible_bytes(size_bytes: int | None) -> int | None:
    return size_bytes if size_bytes is not None and 0 < size_bytes <= LARGEST_SIZE_BYTES else None
