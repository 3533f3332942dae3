"""A disk image with two FAT partitions that starts by BIOS and by UEFI.

The table of partitions is that of the UEFI specification 2.10, section 5.2 (legacy MBR). By BIOS the first block
loads GRUB from the blocks before the first partition; by UEFI the firmware finds the second one by its type.
"""

from __future__ import annotations

import os
import shutil
import struct
import subprocess
from dataclasses import dataclass
from pathlib import Path

from after_check.domain.quantities import MIB

DATA_LABEL, SYSTEM_LABEL = "AFTERCHECK", "AFTERBOOT"
"""Names of the partitions (FAT: eleven capital letters at the most)."""
FOLDER = "after-check"
"""The folder on the data partition in which everything of this program lies."""
JOBS, CARDS, RUNNING = "jobs", "data-sheets", "running"
SETTINGS, SHOP, SHOP_ENV = "settings.toml", "shop.json", "start.env"
FIRST_WINDOW_MIB = 384
"""How much of the memory the booted system is given. The rest is tested as a whole."""
FIRST_WINDOW = f"mem={FIRST_WINDOW_MIB}M"


BLOCK_BYTES = 512
_START_BYTES = 1 * MIB
_FAT, _EFI = 0x0C, 0xEF
_BOOT_CODE_BYTES = 440
_NO_CHS = b"\xfe\xff\xff"


@dataclass(frozen=True, slots=True)
class DiskPart:
    """A partition: its type, its size in bytes, whether a BIOS starts from it."""

    kind: int
    size_bytes: int
    starts: bool = False


@dataclass(frozen=True, slots=True)
class PartPlace:
    """Where a partition lies in the image, in bytes."""

    first_byte: int
    size_bytes: int


def partitions(data_bytes: int, system_bytes: int) -> tuple[DiskPart, DiskPart]:
    """Return the two partitions of a stick."""
    return DiskPart(_FAT, data_bytes), DiskPart(_EFI, system_bytes, starts=True)


def placed(parts: tuple[DiskPart, ...]) -> tuple[PartPlace, ...]:
    """Return where partitions lie, one behind the other, each on a whole MiB."""
    found: list[PartPlace] = []
    at = _START_BYTES
    for part in parts:
        size = -(-part.size_bytes // MIB) * MIB
        found.append(PartPlace(at, size))
        at += size
    return tuple(found)


def first_block(parts: tuple[DiskPart, ...], boot_code: bytes, disk_number: int) -> bytes:
    """Return the first block of the disk: boot code, the disk's number and the table of partitions."""
    table = b""
    for part, place in zip(parts, placed(parts), strict=True):
        first, count = place.first_byte // BLOCK_BYTES, place.size_bytes // BLOCK_BYTES
        table += struct.pack("<B3sB3sII", 0x80 if part.starts else 0, _NO_CHS, part.kind, _NO_CHS, first, count)
    return (
        boot_code[:_BOOT_CODE_BYTES].ljust(_BOOT_CODE_BYTES, b"\0")
        + struct.pack("<IH", disk_number, 0)
        + table.ljust(64, b"\0")
        + b"\x55\xaa"
    )


def write_image(path: Path, parts: tuple[DiskPart, ...], filled: tuple[Path, ...], boot_code: bytes, core: bytes, disk_number: int) -> None:
    """Write the image: the first block, GRUB's core behind it, and each partition from its file. Raises OSError, ValueError."""
    places = placed(parts)
    if BLOCK_BYTES + len(core) > places[0].first_byte:
        raise ValueError(f"the starting program takes {len(core)} bytes and does not fit before the first partition")
    with path.open("wb") as image:
        image.write(first_block(parts, boot_code, disk_number))
        image.write(core)
        for place, file in zip(places, filled, strict=True):
            image.seek(place.first_byte)
            with file.open("rb") as content:
                shutil.copyfileobj(content, image, MIB)
        image.truncate(places[-1].first_byte + places[-1].size_bytes)
        image.flush()
        os.fsync(image.fileno())


def fat_file(path: Path, size_bytes: int, label: str, number: int, content: Path) -> None:
    """Make a file with a FAT file system of a folder's content. Raises CalledProcessError with what the programs said."""
    with path.open("wb") as file:
        file.truncate(-(-size_bytes // MIB) * MIB)
    _run("mkfs.vfat", "-F", "32", "-n", label, "-i", f"{number:08x}", str(path))
    names = sorted(str(entry) for entry in content.iterdir())
    if names:
        _run("mcopy", "-s", "-Q", "-i", str(path), *names, "::")


def number_text(number: int) -> str:
    """Return a FAT file system's number as Linux and GRUB write it: `1A2B-3C4D`."""
    return f"{number >> 16:04X}-{number & 0xFFFF:04X}"


def _run(*command: str) -> None:
    subprocess.run(command, check=True, capture_output=True, text=True, env={**os.environ, "MTOOLS_SKIP_CHECK": "1"})
