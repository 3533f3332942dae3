"""Pieces of memory under test: mapped, on large pages where there are any, locked so that no page moves.

Linux: mlock(2), madvise(2). Elsewhere the memory is taken without being locked, and that is said.
"""

from __future__ import annotations

import contextlib
import ctypes
import mmap
import os
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Words = NDArray[np.uint64]
"""Memory as words of 64 bits."""


@dataclass
class Slice:
    """A piece of memory under test. `given_back` pieces are no longer touched.

    `physical_byte` is where it begins, for memory that the system left alone: giving that back helps nobody. `node` is the
    memory node that it was taken from, where there are several.
    """

    words: Words
    mapping: mmap.mmap
    address: int
    locked: bool
    given_back: bool = False
    wanted_back: bool = False
    physical_byte: int | None = None
    node: int | None = None

    @property
    def size_bytes(self) -> int:
        """Bytes of the slice."""
        return self.words.size * 8

    def give_back(self) -> None:
        """Hand the memory back to the system. The words must not be used any more."""
        self.given_back = True
        self.words = np.zeros(0, dtype=np.uint64)
        try:
            self.mapping.close()
        except BufferError:
            # Somebody still looks at it, so the mapping stays until they are done; its pages go now.
            if self.locked and self.physical_byte is None:
                Locker().unlock(self.address, len(self.mapping))
            with contextlib.suppress(OSError):
                self.mapping.madvise(mmap.MADV_DONTNEED)


class Locker:
    """Locks pages with mlock(2), until the system refuses; then says why."""

    def __init__(self) -> None:
        self.problem = ""
        self._library = ctypes.CDLL(None, use_errno=True) if os.name == "posix" else None
        if self._library is None:
            self.problem = "memory cannot be locked on this system: a page may move while it is under test"

    def lock(self, address: int, size_bytes: int) -> bool:
        """Keep pages where they are; returns whether the system did, and remembers the first reason why not."""
        if self._library is None or self.problem:
            return False
        if self._library.mlock(ctypes.c_void_p(address), ctypes.c_size_t(size_bytes)) == 0:
            return True
        reason = os.strerror(ctypes.get_errno())
        self.problem = (
            f"memory may not be locked ({reason}; the limit is shown by ulimit -l): a page may move or be swapped while it is under test; "
            "run as root to lock it"
        )
        return False

    def unlock(self, address: int, size_bytes: int) -> None:
        """Let pages go again."""
        if self._library is not None:
            self._library.munlock(ctypes.c_void_p(address), ctypes.c_size_t(size_bytes))


def take_slice(size_bytes: int, locker: Locker) -> Slice:
    """Map a slice, ask for large pages, lock it, and touch every page of it."""
    mapping = mmap.mmap(-1, size_bytes, flags=mmap.MAP_PRIVATE | mmap.MAP_ANONYMOUS)
    if hasattr(mmap, "MADV_HUGEPAGE"):
        with contextlib.suppress(OSError):  # A kernel without large pages; ordinary ones do.
            mapping.madvise(mmap.MADV_HUGEPAGE)
    words = np.frombuffer(mapping, dtype=np.uint64)
    address = int(words.ctypes.data)
    words[:: mmap.PAGESIZE // 8] = 0  # Before locking, which would bring the pages one slice at a time.
    locked = locker.lock(address, size_bytes)
    return Slice(words, mapping, address, locked)
