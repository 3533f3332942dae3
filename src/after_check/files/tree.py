"""Reading files of a `/sys` and `/proc` tree, of this machine or copied, without being led astray or held up."""

from __future__ import annotations

import itertools
import os
import stat
from collections.abc import Mapping
from pathlib import Path
from typing import Protocol

from after_check.domain.errors import AfterCheckError

LARGEST_FILE_BYTES = 8 << 20
"""No file that a reading needs is larger; an endless file is cut here."""


_MOST_NAMES = 10_000
"""Of one folder; none that a reading looks into has more."""


class UnreadableError(AfterCheckError):
    """A file could not be read: `missing`, `rights` or `odd` (no plain file, or a link that leaves the tree)."""

    def __init__(self, reason: str, where: str, detail: str = "") -> None:
        super().__init__(detail or reason)
        self.reason = reason
        self.where = where
        self.detail = detail or reason


class Files(Protocol):
    """Files by their names in a `/sys` and `/proc` tree; names have forward slashes and no leading one."""

    def exists(self, name: str) -> bool:
        """Return whether something with this name is there, readable or not."""

    def names(self, folder: str) -> list[str]:
        """Return the names in a folder; none where it is not there or may not be listed."""

    def read(self, name: str, most_bytes: int = LARGEST_FILE_BYTES) -> bytes:
        """Return at most `most_bytes` of a file. Raises UnreadableError."""


class KeptFiles:
    """Files that were fetched from elsewhere or kept from before; `refused` are those that may not be read."""

    def __init__(self, files: Mapping[str, bytes], refused: frozenset[str] = frozenset()) -> None:
        self._files = files
        self._refused = refused

    def exists(self, name: str) -> bool:
        """Return whether a file of this name was kept."""
        return name in self._files or name in self._refused

    def names(self, folder: str) -> list[str]:
        """Return the names in a folder of kept files."""
        # Those that may not be read are there all the same.
        within = [name.removeprefix(f"{folder}/") for name in (*self._files, *self._refused) if name.startswith(f"{folder}/")]
        return sorted({name.split("/", 1)[0] for name in within})

    def read(self, name: str, most_bytes: int = LARGEST_FILE_BYTES) -> bytes:
        """Return at most `most_bytes` of a kept file. Raises UnreadableError."""
        if name in self._refused:
            raise UnreadableError("rights", name, "may not be read with the present rights")
        if name not in self._files:
            raise UnreadableError("missing", name, "was not kept")
        return self._files[name][:most_bytes]


class Tree:
    """The files below a folder of the file system."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self._is_whole_machine = root == Path("/")
        self._resolved = root.resolve()

    def exists(self, name: str) -> bool:
        """Return whether something with this name is there, readable or not."""
        return os.path.lexists(self.root / name)

    def names(self, folder: str) -> list[str]:
        """Return the names in a folder; none where it is not there, may not be listed, or lies outside."""
        path = self.root / folder
        try:
            if not self._is_whole_machine and not path.resolve().is_relative_to(self._resolved):
                return []
            return sorted(entry.name for entry in itertools.islice(os.scandir(path), _MOST_NAMES))
        except (OSError, RuntimeError):
            return []

    def read(self, name: str, most_bytes: int = LARGEST_FILE_BYTES) -> bytes:
        """Return at most `most_bytes` of a file. Raises UnreadableError; never blocks on a pipe or a device."""
        path = self.root / name
        try:
            resolved = path.resolve(strict=True)
        except FileNotFoundError:
            raise UnreadableError("missing", name, "is not there") from None
        except PermissionError:
            raise UnreadableError("rights", name, "may not be read with the present rights") from None
        except (OSError, RuntimeError) as error:
            raise UnreadableError("odd", name, f"cannot be followed ({type(error).__name__})") from None
        if not self._is_whole_machine and not resolved.is_relative_to(self._resolved):
            raise UnreadableError("odd", name, "is a link that leaves the folder; it was not followed")
        return self._read_plain(resolved, name, most_bytes)

    def _read_plain(self, path: Path, name: str, most_bytes: int) -> bytes:
        try:
            # Without O_NONBLOCK, opening a pipe that nobody writes to would wait for ever.
            descriptor = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        except PermissionError:
            raise UnreadableError("rights", name, "may not be read with the present rights") from None
        except OSError as error:
            raise UnreadableError("odd", name, f"cannot be opened ({error.strerror})") from None
        try:
            if not stat.S_ISREG(os.fstat(descriptor).st_mode):
                raise UnreadableError("odd", name, "is no plain file")
            parts: list[bytes] = []
            left = most_bytes
            while left > 0 and (part := os.read(descriptor, min(left, 1 << 20))):
                parts.append(part)
                left -= len(part)
            return b"".join(parts)
        except PermissionError:
            raise UnreadableError("rights", name, "may not be read with the present rights") from None
        except OSError as error:
            raise UnreadableError("odd", name, f"cannot be read ({error.strerror})") from None
        finally:
            os.close(descriptor)
