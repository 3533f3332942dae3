"""Writing an image to a stick: only to a removable device that nobody uses, and read back to see that it is right.

Linux: `/sys/block` (kernel ABI documents sysfs-block), `/proc/mounts` and `/proc/swaps` (proc(5)).
"""

from __future__ import annotations

import hashlib
import os
import stat
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from after_check.domain.errors import AfterCheckError
from after_check.domain.outside_text import clean
from after_check.domain.quantities import MIB, size_text

_SECTOR_BYTES = 512
_PIECE_BYTES = 4 * MIB
_IMAGE_SIGN = b"\x55\xaa"
Tell = Callable[[str, float], object]


class NotWrittenError(AfterCheckError):
    """The stick is not written; the message says why, and whether anything on it was changed."""


@dataclass(frozen=True, slots=True)
class Removable:
    """A removable device: where, what it calls itself, how large it is in bytes."""

    device: Path
    name: str
    size_bytes: int
    number: str = ""
    """Major and minor number, as the kernel knows it: a name can be given to anything."""
    holds: str = ""

    @property
    def size(self) -> str:
        """Its size as sticks are sold, in whole GB."""
        return f"{max(1, round(self.size_bytes / 1e9))} GB"

    @property
    def to_type(self) -> str:
        """What a person types back to show that it is the right one."""
        return f"{self.device.name} {self.size}"

    @property
    def words(self) -> str:
        """It, in words."""
        return f"{self.device}: {self.name or 'a device without a name'}, {self.size}; on it: {self.holds or 'no parts'}"


def checked(device: Path, image: Path, root: Path = Path("/")) -> Removable:
    """Return a device that may be written to. Raises NotWrittenError for one that is no removable stick, is used, or too small."""
    if not image.is_file():
        raise NotWrittenError(f"{image} is no image: make one with after-check stick make --image F")
    size_bytes = image.stat().st_size
    with image.open("rb") as file:
        if file.read(_SECTOR_BYTES)[-2:] != _IMAGE_SIGN:
            raise NotWrittenError(f"{image} is no image of a stick")
    if device.is_symlink():
        raise NotWrittenError(f"{device} is a link to {clean(os.path.realpath(device), 80)}: name the device itself")
    block = root / "sys/block" / device.name
    if not block.is_dir():
        part = next((folder for folder in (root / "sys/block").glob(f"*/{device.name}")), None)
        if part is not None:
            raise NotWrittenError(f"{device} is a part of {part.parent.name}: name the whole device, /dev/{part.parent.name}")
        raise NotWrittenError(f"{device} is no disk of this computer")
    if _text(block / "removable") != "1":
        raise NotWrittenError(f"{device} is not removable: a stick is written, a disk of this computer never is")
    name = clean(f"{_text(block / 'device/vendor')} {_text(block / 'device/model')}".strip(), 60)
    found = Removable(device, name, _size(block), _text(block / "dev"), _parts(block, root))
    if device.exists() and found.number and _number(os.stat(device)) != found.number:
        raise NotWrittenError(f"{device} is not the disk {device.name} of this computer, only called so; nothing was written")
    used = _used(device.name, root)
    if used:
        raise NotWrittenError(f"{device} is in use ({used}): take it out of the file manager first, and leave it plugged in")
    if found.size_bytes < size_bytes:
        raise NotWrittenError(f"{device} has {size_text(found.size_bytes)}, the image {size_text(size_bytes)}")
    return found


def _number(found: os.stat_result) -> str:
    """Return a device's number; empty for what is no block device."""
    return f"{os.major(found.st_rdev)}:{os.minor(found.st_rdev)}" if stat.S_ISBLK(found.st_mode) else ""


def _parts(block: Path, root: Path) -> str:
    """Return the parts of a disk with their sizes, and their names where the system keeps a list of them."""
    labels = {os.path.basename(os.readlink(link)): link.name for link in (root / "dev/disk/by-label").glob("*") if link.is_symlink()}
    parts = sorted(part for part in block.glob(f"{block.name}*") if part.is_dir())
    named = (f"{part.name} {size_text(_size(part))} {clean(labels.get(part.name, ''), 40)}".strip() for part in parts)
    return ", ".join(named)


def _size(block: Path) -> int:
    text = _text(block / "size")
    return int(text) * _SECTOR_BYTES if text.isdigit() else 0


def _text(path: Path) -> str:
    try:
        return path.read_text(encoding="ascii", errors="replace").strip()
    except OSError:
        return ""


def _used(name: str, root: Path) -> str:
    """Return how a device or a part of it is used, or nothing."""
    for file in ("proc/mounts", "proc/swaps"):
        for line in _text(root / file).splitlines():
            first = line.split()[0] if line.split() else ""
            if Path(first).name == name or (Path(first).name.startswith(name) and Path(first).name[len(name) :].lstrip("p").isdigit()):
                return "swap" if file.endswith("swaps") else f"mounted at {line.split()[1]}"
    return "held by another device" if any((root / "sys/block" / name).glob("**/holders/*")) else ""


def write_stick(found: Removable, image: Path, tell: Tell = lambda words, share: None, is_device: bool = True) -> None:
    """Write the image and read it back. Raises NotWrittenError; what was on the stick is gone from the first byte on."""
    size_bytes = image.stat().st_size
    try:
        flags = os.O_RDWR | os.O_NOFOLLOW | (os.O_EXCL if is_device else 0)
        descriptor = os.open(found.device, flags)
    except OSError as error:
        raise NotWrittenError(f"{found.device} cannot be opened ({error.strerror}); nothing was written. Run it as root") from None
    try:
        if is_device and not stat.S_ISBLK(os.fstat(descriptor).st_mode):
            raise NotWrittenError(f"{found.device} is no device; nothing was written")
        if is_device and _number(os.fstat(descriptor)) != found.number:
            raise NotWrittenError(f"{found.device} is another device than it was a moment ago; nothing was written")
        wanted = _copied(descriptor, image, size_bytes, tell)
        os.fsync(descriptor)
        if hasattr(os, "posix_fadvise"):
            os.posix_fadvise(descriptor, 0, 0, os.POSIX_FADV_DONTNEED)  # So that the stick is read, and not what is still in memory.
        if _read_back(descriptor, size_bytes, tell) != wanted:
            raise NotWrittenError("what was read back is not what was written: the stick is worn out, or smaller than it says")
    except OSError as error:
        raise NotWrittenError(f"the stick failed ({error.strerror}): what was on it is gone; try another one") from None
    finally:
        os.close(descriptor)


def _copied(descriptor: int, image: Path, size_bytes: int, tell: Tell) -> str:
    digest, done = hashlib.sha256(), 0
    with image.open("rb") as file:
        while piece := file.read(_PIECE_BYTES):
            digest.update(piece)
            view = memoryview(piece)
            while view:
                view = view[os.write(descriptor, view) :]
            done += len(piece)
            tell("writing", done / size_bytes / 2)
    return digest.hexdigest()


def _read_back(descriptor: int, size_bytes: int, tell: Tell) -> str:
    digest, done = hashlib.sha256(), 0
    os.lseek(descriptor, 0, os.SEEK_SET)
    while done < size_bytes:
        piece = os.read(descriptor, min(_PIECE_BYTES, size_bytes - done))
        if not piece:
            break
        digest.update(piece)
        done += len(piece)
        tell("reading it back", 0.5 + done / size_bytes / 2)
    return digest.hexdigest()
