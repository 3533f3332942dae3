"""Processor cores that this program may use, and the size of their caches (Linux: sched(7), sysfs-devices-system-cpu)."""

from __future__ import annotations

import os

from after_check.sources.tree import Files, Unreadable

_USUAL_CACHE_BYTES = 64 << 20


def usable_cores() -> int:
    """Return how many cores this program may run on."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


def stay_on_core(index: int) -> None:
    """Keep this thread on one of the cores that the program may use, counted around, where the system lets it choose."""
    if not hasattr(os, "sched_setaffinity"):
        return
    try:
        allowed = sorted(os.sched_getaffinity(os.getpid()))
        os.sched_setaffinity(0, {allowed[index % len(allowed)]})
    except OSError:
        pass  # The core went offline: the system chooses another.


def cache_bytes(files: Files) -> int:
    """Return the size of the largest cache in bytes (the kernel's sysfs-devices-system-cpu); a generous one where it is not known."""
    largest = 0
    for index in range(8):
        try:
            text = files.read(f"sys/devices/system/cpu/cpu0/cache/index{index}/size", 32).decode("ascii", "replace").strip()
        except Unreadable:
            continue
        if text.endswith("K") and text[:-1].isdigit():
            largest = max(largest, int(text[:-1]) << 10)
    return largest or _USUAL_CACHE_BYTES
