"""Physical addresses of this program's own pages (Linux: the kernel's admin-guide/mm/pagemap; they need root)."""

from __future__ import annotations

import contextlib
import mmap
import struct
from io import FileIO

import numpy as np

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

    def ranges(self, virtual_byte: int, size_bytes: int) -> list[tuple[int, int]]:
        """Return the physical ranges behind a piece of this program's memory, page after page; nothing where it may not be known.

        Raises OSError.
        """
        if self._file is None:
            return []
        self._file.seek(virtual_byte // mmap.PAGESIZE * 8)
        entries = np.frombuffer(self._file.read(size_bytes // mmap.PAGESIZE * 8), dtype="<u8")
        frames = entries & np.uint64(_FRAME)
        if not frames.size or not frames.all():
            return []
        breaks = np.flatnonzero(np.diff(frames.astype(np.int64)) != 1) + 1
        firsts, ends = frames[np.r_[0, breaks]], frames[np.r_[breaks - 1, frames.size - 1]] + np.uint64(1)
        return [(int(first) * mmap.PAGESIZE, int(end) * mmap.PAGESIZE) for first, end in zip(firsts, ends, strict=True)]

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
