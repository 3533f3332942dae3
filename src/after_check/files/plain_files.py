"""Files that somebody names are opened here: plain ones of a sensible size, and nothing that never ends or never begins."""

from __future__ import annotations

import os
import stat
from pathlib import Path

from after_check.files.errors import SourceError


def read_plain(path: Path, most_bytes: int, what: str) -> bytes:
    """Return the content of a plain file. Raises SourceError for pipes, devices and folders, and for what is larger than any `what`.

    A pipe that nobody writes to would be waited for, and a device may never end.
    """
    try:
        descriptor = os.open(path, os.O_RDONLY | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_BINARY", 0))
        with os.fdopen(descriptor, "rb") as file:
            found = os.fstat(descriptor)
            if not stat.S_ISREG(found.st_mode):
                raise SourceError("is no plain file", str(path))
            # As much as is there and not the most that may be: room for all that is asked for is taken at once.
            data = file.read(min(found.st_size, most_bytes) + 1)
    except (OSError, ValueError) as error:
        raise SourceError(f"cannot be read ({getattr(error, 'strerror', None) or 'its name is none'})", str(path)) from None
    if len(data) > most_bytes:
        raise SourceError(f"is far larger than any {what}", str(path))
    return data
