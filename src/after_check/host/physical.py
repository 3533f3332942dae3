"""Memory that the running kernel left alone, taken by its physical address through /dev/mem (mem(4)).

Only where the stick started the kernel in a window of the memory: elsewhere what a kernel leaves alone belongs to
somebody. Ranges of the firmware's map that the kernel took are never touched; the kernel refuses them as well.
"""

from __future__ import annotations

import contextlib
import mmap
import os
from collections.abc import Iterator

import numpy as np

from after_check.domain.quantities import MIB, size_text
from after_check.domain.ranges import Ranges, merged, size_of, without
from after_check.files.tree import Files
from after_check.host.pages import PageMap
from after_check.host.slices import Slice
from after_check.sources.firmware_map import firmware_ram, kernel_ram, starts_in_a_window

_DEVICE = "/dev/mem"
_LOW = (0, 1 * MIB)
"""Below it lie tables of the firmware, and the page at which other processors start."""
_LEAST_SLICE_BYTES, _LARGEST_SLICE_BYTES = 2 * MIB, 128 * MIB
_SLICES = 200
"""About as many as the field of blocks shows."""
_BLOCK_BYTES = 64 << 10
_MOST_RANGES = 2000


def outside_window(files: Files) -> Ranges:
    """Return the memory outside the kernel's window, in whole blocks of 64 KiB; nothing where it was not started in one."""
    if not starts_in_a_window(files):
        return ()
    own = kernel_ram(files)
    if not own:
        return ()
    left = without(firmware_ram(files), (*own, _LOW))
    return merged((-(-first // _BLOCK_BYTES) * _BLOCK_BYTES, end // _BLOCK_BYTES * _BLOCK_BYTES) for first, end in left)


def take_physical(ranges: Ranges, problems: list[str], device: str = _DEVICE) -> list[Slice]:
    """Map ranges of physical memory; what the system refuses is told in `problems` and left out."""
    try:
        descriptor = os.open(device, os.O_RDWR)
    except OSError as error:
        words = f"the memory outside the system's window may not be tested ({error.strerror}): is secure boot on?"
        problems.append(words)
        return []
    try:
        return list(_mapped(descriptor, ranges, problems))
    finally:
        os.close(descriptor)


def _mapped(descriptor: int, ranges: Ranges, problems: list[str]) -> Iterator[Slice]:
    usual = max(_LEAST_SLICE_BYTES, size_of(ranges) // _SLICES // _LEAST_SLICE_BYTES * _LEAST_SLICE_BYTES)
    for first, end in ranges:
        for at in range(first, end, min(_LARGEST_SLICE_BYTES, usual)):
            size_bytes = min(_LARGEST_SLICE_BYTES, usual, end - at)
            try:
                mapping = mmap.mmap(descriptor, size_bytes, offset=at)
            except (OSError, ValueError) as error:
                problems.append(f"{size_text(size_bytes)} at {at:#x} may not be tested ({getattr(error, 'strerror', None) or error})")
                continue
            words = np.frombuffer(mapping, dtype=np.uint64)
            yield Slice(words, mapping, int(words.ctypes.data), locked=True, physical_byte=at)


def ranges_of(slices: list[Slice], pages: PageMap) -> Ranges:
    """Return the physical ranges of slices, as far as they may be known. Pages that cannot move only: they were locked."""
    found: list[tuple[int, int]] = []
    for piece in slices:
        if piece.given_back:
            continue
        if piece.physical_byte is not None:
            found.append((piece.physical_byte, piece.physical_byte + piece.size_bytes))
        elif piece.locked:
            with contextlib.suppress(OSError):
                found += pages.ranges(piece.address, piece.size_bytes)
    # Of memory in a thousand places the largest pieces; what is left out counts as not known.
    largest = sorted(merged(found), key=lambda piece: piece[0] - piece[1])[:_MOST_RANGES]
    return merged(largest)
