"""Processor cores that this program may use, and the size of their caches (Linux: sched(7), sysfs-devices-system-cpu)."""

from __future__ import annotations

import os
from collections.abc import Iterable
from contextlib import suppress

from after_check.files.tree import Files, UnreadableError

_USUAL_CACHE_BYTES = 64 << 20


def usable_cores() -> int:
    """Return how many cores this program may run on."""
    return len(core_numbers()) or os.cpu_count() or 1


def core_numbers() -> tuple[int, ...]:
    """Return the numbers of the cores that this program may run on; none where the system does not say."""
    return tuple(sorted(os.sched_getaffinity(os.getpid()))) if hasattr(os, "sched_getaffinity") else ()


def stay_on(cores: Iterable[int]) -> None:
    """Keep this thread on some cores, where the system lets it choose."""
    if hasattr(os, "sched_setaffinity"):
        with suppress(OSError, ValueError):  # A core went offline: the system chooses another.
            os.sched_setaffinity(0, cores)


def stay_on_core(index: int) -> None:
    """Keep this thread on one of the cores that the program may use, counted around, where the system lets it choose."""
    allowed = core_numbers()
    if allowed:
        stay_on({allowed[index % len(allowed)]})


def cache_bytes(files: Files) -> int:
    """Return the size of the largest cache in bytes (the kernel's sysfs-devices-system-cpu); a generous one where it is not known."""
    largest = 0
    for index in range(8):
        try:
            text = files.read(f"sys/devices/system/cpu/cpu0/cache/index{index}/size", 32).decode("ascii", "replace").strip()
        except UnreadableError:
            continue
        if text.endswith("K") and text[:-1].isdigit():
            largest = max(largest, int(text[:-1]) << 10)
    return largest or _USUAL_CACHE_BYTES
