"""Where memory lies by the firmware's own map, and how much of it the running kernel was started with.

Linux: `/sys/firmware/memmap` (kernel ABI document sysfs-firmware-memmap), which no start option changes, and
`/proc/iomem` (proc(5)), which shows what the kernel took. The stick starts the kernel in a window of the memory, so
that the rest can be tested; the start option `aftercheck.window` says so.
"""

from __future__ import annotations

import re

from after_check.domain.ranges import Ranges, merged
from after_check.files.tree import Files, UnreadableError
from after_check.sources.machine_files import FIRMWARE_MAP, START_OPTIONS

_MOST_ENTRIES = 1024
_RAM = b"System RAM"
_WINDOW = re.compile(rb"(?:^|\s)aftercheck\.window(?:=\S*)?(?=\s|$)")


def starts_in_a_window(files: Files) -> bool:
    """Return whether the kernel was started by the stick in a window of the memory."""
    return bool(_WINDOW.search(_read(files, START_OPTIONS)))


def wants_measuring(files: Files) -> bool:
    """Return whether the line of the stick's start menu was chosen that measures the speed as well."""
    return bool(re.search(rb"(?:^|\s)aftercheck\.measure(?=\s|$)", _read(files, START_OPTIONS)))


def firmware_ram(files: Files) -> Ranges:
    """Return where the firmware says that there is memory for systems; nothing where it is not told."""
    found: list[tuple[int, int]] = []
    for name in files.names(FIRMWARE_MAP)[:_MOST_ENTRIES]:
        if _read(files, f"{FIRMWARE_MAP}/{name}/type").strip() == _RAM:
            first, last = (_number(_read(files, f"{FIRMWARE_MAP}/{name}/{which}")) for which in ("start", "end"))
            if first is not None and last is not None:
                found.append((first, last + 1))
    return merged(found)


def map_names(files: Files) -> list[str]:
    """Return the names of the files of the firmware's map that can be read, to be kept as evidence."""
    found = [f"{FIRMWARE_MAP}/{name}/{which}" for name in files.names(FIRMWARE_MAP)[:_MOST_ENTRIES] for which in ("start", "end", "type")]
    return [name for name in found if _read(files, name)]


def kernel_ram(files: Files) -> Ranges:
    """Return the memory that the running kernel took for itself and its programs; nothing without the right to know it."""
    found: list[tuple[int, int]] = []
    for line in _read(files, "proc/iomem").splitlines():
        match = re.match(rb"([0-9a-f]{1,16})-([0-9a-f]{1,16}) : System RAM\s*$", line)
        if match:
            found.append((int(match[1], 16), int(match[2], 16) + 1))
    return merged(found) if any(end > 1 for _, end in found) else ()


def _number(text: bytes) -> int | None:
    match = re.fullmatch(rb"0x([0-9a-f]{1,16})", text.strip())
    return int(match[1], 16) if match else None


def _read(files: Files, name: str) -> bytes:
    try:
        return files.read(name)
    except UnreadableError:
        return b""
