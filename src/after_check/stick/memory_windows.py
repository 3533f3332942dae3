"""In which part of the memory the stick's system runs, so that between two starts nearly all of it is tested.

The kernel's start options are those of its admin-guide, kernel-parameters: `mem=` leaves all above it alone, and
`memmap=SIZE$START` keeps a part below from it as well. A kernel that may lie anywhere goes where it is given room.
"""

from __future__ import annotations

from after_check.domain.quantities import GIB, MIB
from after_check.domain.ranges import Ranges, both, merged, size_of, without
from after_check.files.tree import Files
from after_check.host.physical import outside_window
from after_check.sources.firmware_map import firmware_ram, kernel_ram, starts_in_a_window
from after_check.stick.disk_image import FIRST_WINDOW_MIB

_LOW = (0, 1 * MIB)
_BLOCK = 1 * MIB
_WORTH_BYTES = 4 * MIB
"""Less than this is not worth a second start."""
_TABLES_SHARE = 512
"""Of so many bytes under test one goes into the tables that lead to them (eight bytes for each 4 KiB)."""
_ALIGNED = 16 * MIB
_LARGE_ENOUGH = 0.85
_REACH = 4 * GIB
"""A BIOS loads the system below it."""


def window_mib(ram: Ranges) -> int:
    """Return how large a window has to be for the system and for the tables that lead to the rest, in MiB."""
    return FIRST_WINDOW_MIB + -(-size_of(ram) // _TABLES_SHARE // MIB)


def larger_window(files: Files) -> str:
    """Return the start options of a larger first window, or nothing where the present one is large enough."""
    if not starts_in_a_window(files):
        return ""
    ram, own = firmware_ram(files), size_of(kernel_ram(files))
    wanted = window_mib(ram)
    return f"mem={wanted}M" if own and own < wanted * MIB * _LARGE_ENOUGH and size_of(ram) > 2 * wanted * MIB else ""


def untested(files: Files, tested: Ranges) -> Ranges:
    """Return the memory that was not tested and can be reached from this start, with what lies between.

    What the first system held lies in thousands of single pages. In whole blocks it is a few ranges, which can be mapped and kept.
    """
    left = without(firmware_ram(files), (*tested, _LOW))
    blocks = merged((first // _BLOCK * _BLOCK, -(-end // _BLOCK) * _BLOCK) for first, end in left)
    return both(blocks, outside_window(files))


def second_window(files: Files, tested: Ranges) -> str:
    """Return the start options of a window that lies where everything was tested, or nothing where a second start tells nothing more."""
    if not starts_in_a_window(files):
        return ""
    ram = firmware_ram(files)
    left = without(ram, (*tested, _LOW))
    if size_of(left) < _WORTH_BYTES:
        return ""
    wanted = window_mib(ram) * MIB
    for first, end in _below(tested, _REACH):
        begin = -(-first // _ALIGNED) * _ALIGNED
        if begin + wanted <= end:
            return f"memmap={begin // MIB - 1}M$1M mem={(begin + wanted) // MIB}M"
    return ""


def _below(ranges: Ranges, limit: int) -> Ranges:
    """Return ranges as far as they lie below a limit, the largest ones first."""
    cut = merged((first, min(end, limit)) for first, end in ranges)
    return tuple(sorted(cut, key=lambda piece: piece[0] - piece[1]))
