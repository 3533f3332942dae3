"""Writing files whole or not at all."""

from __future__ import annotations

import errno
import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from after_check.domain.errors import AfterCheckError

_SHARED = 0o666


class NotReplacedError(AfterCheckError, OSError):
    """What is at a path is no plain file, and is left alone."""


def write_whole(path: Path, data: bytes, private: bool = False) -> None:
    """Write a file whole or not at all, as `replacing` does. Raises OSError, NotReplacedError among it."""
    with replacing(path, private) as stream:
        stream.write(data)


@contextmanager
def replacing(path: Path, private: bool = False) -> Iterator[IO[bytes]]:
    """Give a stream whose content takes a path's place when the block ends well.

    A reader, or a kill in the middle, sees the old content or the new, never a part. Only a plain file is replaced: a
    device, a pipe or a folder raises NotReplaced, and of a link neither it nor what it points to is touched. A new file
    has the rights that the umask leaves, one that was there keeps its own; a `private` one is for its owner alone.
    Raises OSError.
    """
    standing = _plain_file(path)
    handle, name = tempfile.mkstemp(prefix=f".{path.name[:80]}.", dir=path.parent)
    try:
        with os.fdopen(handle, "w+b") as stream:
            yield stream
            stream.flush()
            os.fsync(stream.fileno())
        if not private:
            os.chmod(name, standing.st_mode & 0o777 if standing is not None else _SHARED & ~_UMASK)
        os.replace(name, path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise


def check_place(path: Path) -> None:
    """See whether a file can be written at a path, before long work whose result goes there. Raises OSError, NotReplacedError among it."""
    _plain_file(path)
    if not path.parent.is_dir():
        raise FileNotFoundError(errno.ENOENT, "this folder does not exist", str(path.parent))
    if not os.access(path.parent, os.W_OK):
        raise PermissionError(errno.EACCES, "nothing may be written here", str(path.parent))


def make_private_folder(path: Path) -> None:
    """Make a folder, and those above it that are missing, for its owner alone; one that is there keeps its rights. Raises OSError."""
    missing = [folder for folder in (path, *path.parents) if not folder.exists()]
    for folder in reversed(missing):
        folder.mkdir(mode=0o700, exist_ok=True)


def _plain_file(path: Path) -> os.stat_result | None:
    """Return what is at a path, None where nothing does. Raises NotReplacedError where it is no plain file."""
    try:
        standing = path.lstat()
    except FileNotFoundError:
        return None
    kind = standing.st_mode & 0o170000
    if kind == 0o100000:
        return standing
    said = {0o120000: "a link", 0o040000: "a folder", 0o010000: "a pipe", 0o140000: "a socket"}.get(kind, "a device")
    raise NotReplacedError(errno.EEXIST, f"this is {said} and is not replaced; name a plain file, or one that is not there yet", str(path))


def _read_umask() -> int:
    mask = os.umask(0o077)
    os.umask(mask)
    return mask


_UMASK = _read_umask()
"""A umask can only be read by setting it, so it is read once, before there are other threads."""
