"""Writing files whole or not at all."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path


def write_whole(path: Path, data: bytes) -> None:
    """Write a file so that a reader, or a kill in the middle, sees the old content or the new, never a part."""
    handle, name = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        os.chmod(name, 0o644)
        os.replace(name, path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise
