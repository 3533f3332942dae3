"""From a wrong word to what it points at: its physical address, its bit lanes, the device, the slot.

Physical addresses: /proc/self/pagemap (the kernel's admin-guide/mm/pagemap). Slots: the addresses that the firmware
maps to memory devices (SMBIOS, DSP0134, types 19 and 20). Lanes: a 64-bit channel carries a word's bits side by
side; a DDR5 module has two subchannels of 32 bits (JESD79-5), so bits 0 and 32 of a word travel over the same line.
"""

from __future__ import annotations

import contextlib
import mmap
import struct
from collections.abc import Iterable, Sequence
from io import FileIO

from after_check.domain.facts import value_of
from after_check.domain.modules import Generation
from after_check.domain.readings import MappedRange, Reading
from after_check.domain.soak import SoakError

_PRESENT = 1 << 63
_FRAME = (1 << 55) - 1


class PageMap:
    """Tells physical addresses of this program's own pages, where it has the right to know them."""

    def __init__(self) -> None:
        self._file: FileIO | None = None
        with contextlib.suppress(OSError):
            self._file = open("/proc/self/pagemap", "rb", buffering=0)  # noqa: SIM115 - kept open for the whole soak

    def physical_byte(self, virtual_byte: int) -> int | None:
        """Return the physical address behind a virtual one; None where it may not be known."""
        if self._file is None:
            return None
        try:
            self._file.seek(virtual_byte // mmap.PAGESIZE * 8)
            entry = struct.unpack("<Q", self._file.read(8))[0]
        except (OSError, struct.error):
            return None
        return physical_of(entry, virtual_byte)

    def close(self) -> None:
        """Close the file."""
        if self._file is not None:
            self._file.close()


def physical_of(entry: int, virtual_byte: int, page_bytes: int = mmap.PAGESIZE) -> int | None:
    """Return the physical address that a pagemap entry gives; without rights the frame number reads as 0."""
    frame = entry & _FRAME
    if not entry & _PRESENT or frame == 0:
        return None
    return frame * page_bytes + virtual_byte % page_bytes


def lanes_of(bits: int) -> tuple[int, ...]:
    """Return the numbers of the bits that are set, lowest first."""
    return tuple(lane for lane in range(64) if bits >> lane & 1)


def devices_of(bits: int, device_width_bits: int, generation: Generation | None = None) -> tuple[int, ...]:
    """Return which devices of a rank carry the bits, counted from 0 in the order of the data lines.

    On DDR5 bits 32 to 63 are the second half of the same lines of 32.
    """
    lines = 32 if generation is Generation.DDR5 else 64
    return tuple(sorted({lane % lines // device_width_bits for lane in lanes_of(bits)}))


def slots_of(physical_byte: int, mapped: Iterable[MappedRange]) -> tuple[str, ...]:
    """Return the slots whose mapped addresses hold a physical one: one name, several where they are interleaved, or none."""
    return tuple(dict.fromkeys(one.slot for one in mapped if one.slot and one.first_byte <= physical_byte <= one.last_byte))


def suspects_of(errors: Sequence[SoakError], reading: Reading | None, counted: Sequence[str] = ()) -> tuple[str, ...]:
    """Return the slots that errors may come from, likeliest first; `counted` are labels whose error counters rose meanwhile.

    All filled slots where nothing tells them apart: a candidate set is said as one.
    """
    if not errors or reading is None:
        return tuple(counted)
    weights: dict[str, float] = {}
    for error in errors:
        if error.physical_byte is not None:
            candidates = slots_of(error.physical_byte, reading.mapped)
            for slot in candidates:
                weights[slot] = weights.get(slot, 0.0) + 1 / len(candidates)
    for label in counted:
        weights[label] = weights.get(label, 0.0) + len(errors)
    if weights:
        most = max(weights.values())
        return tuple(sorted((slot for slot, weight in weights.items() if weight >= most / 2), key=lambda slot: -weights[slot]))
    return tuple(slot.name for slot in reading.slots if slot.module is not None)


def device_words(bits: int, reading: Reading | None) -> str:
    """Return the devices that the bits point at in words, from the modules' device width; empty where it is not known."""
    widths = {value_of(module.device_width_bits) for module in reading.modules} if reading else set()
    generations = {value_of(module.generation) for module in reading.modules} if reading else set()
    if len(widths) != 1 or not bits:
        return ""
    width = widths.pop()
    if not width:
        return ""
    devices = devices_of(bits, width, generations.pop() if len(generations) == 1 else None)
    numbers = ", ".join(str(device + 1) for device in devices)
    return f"device {numbers} of its rank (×{width})" if len(devices) == 1 else f"devices {numbers} of their rank (×{width})"
