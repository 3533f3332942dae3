"""From wrong words to where they lie: bit lanes, devices of a rank, slots, and the modules that errors may come from.

Bits of a 64-bit word are data lines, and lines belong to devices of 4, 8 or 16 bits (JEDEC's module standards); the
slots behind an address are told by the firmware's mapped addresses (SMBIOS, DMTF DSP0134, types 19 and 20).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from after_check.domain.facts import value_of
from after_check.domain.modules import Generation
from after_check.domain.readings import MappedRange, Reading
from after_check.domain.soak import WrongDevices, WrongWord
from after_check.files.errors import SourceError
from after_check.sources.linux import read_this_machine


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
    return tuple(
        dict.fromkeys(stretch.slot for stretch in mapped if stretch.slot and stretch.first_byte <= physical_byte <= stretch.last_byte)
    )


def suspects_of(errors: Sequence[WrongWord], reading: Reading | None, counted: Sequence[str] = ()) -> tuple[str, ...]:
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


def devices_behind(bits: int, reading: Reading | None) -> WrongDevices | None:
    """Return the devices of a rank that the bits point at, from the modules' device width; None where it is not known."""
    widths = {value_of(module.device_width_bits) for module in reading.modules} if reading else set()
    generations = {value_of(module.generation) for module in reading.modules} if reading else set()
    width = widths.pop() if len(widths) == 1 else None
    if not width or not bits:
        return None
    devices = devices_of(bits, width, generations.pop() if len(generations) == 1 else None)
    return WrongDevices(tuple(device + 1 for device in devices), width)


def reading_for_slots(kept: Reading | None = None) -> Reading | None:
    """Return this computer's own reading where it lists modules and is no virtual one, else the kept reading.

    A soak tests this computer, so its own tables name the slots; without the right to read them, the job's do.
    """
    try:
        own = read_this_machine().reading
    except (SourceError, OSError):
        return kept
    return own if own.modules and not value_of(own.virtual) else kept
