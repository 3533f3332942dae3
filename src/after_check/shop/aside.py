"""What a bench keeps on its own disk while its shop is on a server.

Unfinished texts, and what was read, tested or measured while the server did not answer: each is a job file of its own
with nothing but the addition in it, so that taking it in twice is the same as once. One that the shop refuses stays.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path

from after_check.shop.errors import ShopError
from after_check.shop.log import logger
from after_check.sources.errors import SourceError
from after_check.sources.whole_files import write_whole

_REFUSED = ".refused"
_KNOWN = "known"


class Aside:
    """A folder for one server."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    @property
    def is_known(self) -> bool:
        """Whether this computer has worked with the shop before."""
        return (self.folder / _KNOWN).exists()

    def know(self) -> None:
        """Take note that the shop was open here."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
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

    def put(self, key: str, job_file: bytes) -> None:
        """Keep an addition in the place of an earlier one with the same key. Raises OSError."""
        self.folder.mkdir(parents=True, exist_ok=True)
        name = sha256(key.encode()).hexdigest()[:32]
        here = next(iter(self.folder.glob(f"*-{name}.zip")), self.folder / f"{time.time_ns():020d}-{name}.zip")
        write_whole(here, job_file)

    def send(self, take: Callable[[bytes, str], object]) -> int:
        """Hand everything that waits to the shop, the oldest first, until it cannot take more; returns how much it took."""
        sent = 0
        for path in self.waiting:
            try:
                take(path.read_bytes(), str(path))
            except (ShopError, OSError):
                break  # Away again, full, read-only: none of that is the addition's fault.
            except SourceError as problem:
                logger().error("%s was not taken by the shop: %s", path, problem)
                path.replace(path.with_name(path.name + _REFUSED))
                continue
            path.unlink(missing_ok=True)
            sent += 1
        return sent

    def draft(self, place: str) -> str:
        """Return the text that was left unfinished at a place."""
        try:
            return self._draft_file(place).read_text(encoding="utf-8")
        except (OSError, UnicodeDecodeError):
            return ""

    def keep_draft(self, place: str, text: str) -> None:
        """Keep an unfinished text; an empty one is forgotten. Raises OSError."""
        path = self._draft_file(place)
        if not text:
            path.unlink(missing_ok=True)
            return
        self.folder.mkdir(parents=True, exist_ok=True)
        write_whole(path, text.encode())

    def _draft_file(self, place: str) -> Path:
        return self.folder / f"draft-{sha256(place.encode()).hexdigest()[:32]}.txt"
