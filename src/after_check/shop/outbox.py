"""What this computer keeps for a shop on a server that does not answer, until it does.

One folder a server. Everything in it waits as a file that the shop takes in: a job file with nothing but an addition
(a reading, a test, a measurement), or, of a store that was worked with while the server was away from the start on,
a backup. Taking a file in twice is the same as once. One that the shop refuses stays, for a person to look at.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

from after_check.files.errors import SourceError
from after_check.files.whole_files import make_private_folder, write_whole
from after_check.local.log import logger
from after_check.shop.errors import ShopError

_REFUSED = ".refused"
_KNOWN = "known"


@dataclass(frozen=True, slots=True)
class Sent:
    """How many files the shop took, how many jobs of stores were new or joined there, and what it refused, in words."""

    files: int = 0
    jobs: int = 0
    problems: tuple[str, ...] = ()


class Outbox:
    """The folder of one server."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    @property
    def is_known(self) -> bool:
        """Whether this computer has worked with the shop before."""
        return (self.folder / _KNOWN).exists()

    def know(self) -> None:
        """Take note that the shop was open here."""
        try:
            make_private_folder(self.folder)
            (self.folder / _KNOWN).touch()
        except OSError as error:
            logger().error("%s cannot be written: %s", self.folder, error)

    @property
    def waiting(self) -> tuple[Path, ...]:
        """What waits for the server, the oldest first."""
        return tuple(sorted(self.folder.glob("*.zip")))

    @property
    def refused(self) -> tuple[Path, ...]:
        """What the shop did not take; a person has to look at it."""
        return tuple(sorted(self.folder.glob(f"*.zip{_REFUSED}")))

    def put(self, key: str, data: bytes) -> None:
        """Keep a file in the place of an earlier one with the same key. Raises OSError."""
        make_private_folder(self.folder)
        name = sha256(key.encode()).hexdigest()[:32]
        here = next(iter(self.folder.glob(f"*-{name}.zip")), self.folder / f"{time.time_ns():020d}-{name}.zip")
        write_whole(here, data, private=True)

    def send(self, take: Callable[[bytes, str], tuple[int, tuple[str, ...]]]) -> Sent:
        """Hand everything that waits to the shop, the oldest first, until it cannot take more.

        `take` returns how many jobs came with a file and what of them a person has to look at, and raises SourceError
        for one that it refuses.
        """
        files, jobs = 0, 0
        problems: list[str] = []
        for path in self.waiting:
            try:
                came, told = take(path.read_bytes(), str(path))
                jobs, problems = jobs + came, [*problems, *told]
            except (ShopError, OSError) as problem:
                logger().error("%s still waits: %s", path, problem)
                break  # Not answering again, full, read-only: none of that is the file's fault.
            except SourceError as problem:
                logger().error("%s was not taken by the shop: %s", path, problem)
                problems.append(str(problem))
                path.replace(path.with_name(path.name + _REFUSED))
                continue
            path.unlink(missing_ok=True)
            files += 1
        return Sent(files, jobs, tuple(problems))

    # ---- stores of a time without the server

    def store_for_now(self) -> Path:
        """Return the store to work with while the server is away: the one that it has not got yet, or a new one.

        One that was handed over is not used again: its jobs are the server's now, and others may change them there.
        It stays, as another window may still work with it, and what that adds is handed over as well.
        """
        make_private_folder(self.folder)
        unsent = self.unsent_stores
        return unsent[-1] if unsent else self.folder / f"meanwhile-{time.time_ns():020d}.db"

    @property
    def unsent_stores(self) -> tuple[Path, ...]:
        """The stores that changed since they were handed over, or never were."""
        return tuple(store for store in sorted(self.folder.glob("meanwhile-*.db")) if _handed_over(store) != _changed(store))

    def put_stores(self, backup_of: Callable[[Path], bytes]) -> None:
        """Put what such stores hold into the outbox, each as a backup, unless that was done since its last change.

        Raises OSError and ShopError.
        """
        for store in self.unsent_stores:
            changed = _changed(store)
            self.put(str(store), backup_of(store))
            write_whole(_note(store), changed.encode())


def _note(store: Path) -> Path:
    return store.with_suffix(".written")


def _changed(store: Path) -> str:
    return str(store.stat().st_mtime_ns)


def _handed_over(store: Path) -> str:
    """Return when a store had been changed last as it was handed over; nothing where it never was."""
    try:
        return _note(store).read_text(encoding="ascii", errors="replace")
    except OSError:
        return ""
