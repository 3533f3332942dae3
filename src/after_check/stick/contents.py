"""What a stick carries: jobs and data sheets on the way out, the same jobs with what was found on the way back.

Everything is in plain files of the data partition. A job is written again under the next number, whole, before the one
before the last is taken away: whatever is pulled out or loses power in the middle, the last whole one is found again.
"""

from __future__ import annotations

import contextlib
import errno
import hashlib
import json
import os
import re
import stat
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from after_check.domain.outside_text import clean
from after_check.files.errors import SourceError
from after_check.files.strict_json import parse_json
from after_check.shop.zip_files import LARGEST_FILE_BYTES, read_job_file
from after_check.stick.disk_image import CARDS, FOLDER, JOBS, RUNNING, SETTINGS, SHOP, SHOP_ENV

_NAMED = re.compile(r"(?P<key>[0-9a-f]{16})\.(?P<count>\d{1,9})\.(?P<kind>zip|json)")
_KEPT = 2
"""How many of the last files of one job stay: the newest may be cut short."""
_LARGEST_SETTINGS_BYTES = 64 << 10
_ENV_HEAD, _ENV_BYTES = b"# GRUB Environment Block\n", 1024


class StickError(SourceError):
    """Something is wrong with a stick: it is not there, it is full, it is another shop's."""


@dataclass(frozen=True, slots=True)
class OnStick:
    """A job that lies on a stick: its file, and its identity in the shops."""

    path: Path
    uid: str


class StickFolder:
    """The folder of this program on a stick's data partition; `root` is where the partition is mounted."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self.folder = root / FOLDER
        self._stay_inside(self.folder)
        if not self.folder.is_dir():
            raise StickError(
                "this is no stick of After Check: it has no folder after-check",
                str(root),
                "name the folder in which the partition AFTERCHECK shows up, or write the stick again",
            )

    def put_job(self, uid: str, data: bytes) -> None:
        """Write a job behind those that are there, whole; the one before the last goes. Raises StickError."""
        self._put(JOBS, uid, "zip", data)

    def jobs(self) -> tuple[tuple[OnStick, ...], tuple[str, ...]]:
        """Return the newest whole file of every job, and in words what is damaged."""
        found: list[OnStick] = []
        problems: list[str] = []
        for key, files in self._numbered(JOBS).items():
            for path in reversed(files):
                try:
                    document, _ = read_job_file(_bytes(path, LARGEST_FILE_BYTES), str(path))
                except (SourceError, OSError) as problem:
                    problems.append(str(problem))
                    continue
                if _key(document.uid) != key:
                    # Its name says another job: it must not stand before that job's own file.
                    problems.append(f"{path}: it holds job {clean(document.number, 40)}, and its name is another job's; it was left out")
                    continue
                found.append(OnStick(path, document.uid))
                break
        return tuple(found), tuple(problems)

    def job_bytes(self, job: OnStick) -> bytes:
        """Return the file of a job. Raises StickError."""
        try:
            return _bytes(job.path, LARGEST_FILE_BYTES)
        except OSError as error:
            raise StickError(f"cannot be read ({error.strerror})", str(job.path)) from None

    def put_running(self, name: str, document: dict[str, Any]) -> None:
        """Write down how far something is, for the next start. Raises StickError."""
        self._put(RUNNING, name, "json", json.dumps(document).encode())

    def running(self, name: str) -> dict[str, Any] | None:
        """Return what was written down last and is whole, or None."""
        for path in reversed(self._numbered(RUNNING).get(_key(name), [])):
            with contextlib.suppress(OSError, ValueError):
                found = parse_json(_bytes(path, _LARGEST_SETTINGS_BYTES))
                if isinstance(found, dict):
                    return found
        return None

    def forget_running(self, name: str) -> None:
        """Forget what was written down: it is done."""
        for path in self._numbered(RUNNING).get(_key(name), []):
            with contextlib.suppress(OSError):
                path.unlink()

    def put_cards(self, texts: dict[str, str]) -> None:
        """Write the shop's data sheets. Raises StickError."""
        for name, text in texts.items():
            self.put_file(f"{CARDS}/{_key(name)}.toml", text.encode())

    def cards(self) -> tuple[tuple[str, str], ...]:
        """Return the data sheets' texts, each with where it is from."""
        found = []
        folder = self.folder / CARDS
        self._stay_inside(folder)
        for path in sorted(folder.glob("*.toml")):
            with contextlib.suppress(OSError, UnicodeDecodeError):
                found.append((_bytes(path, _LARGEST_SETTINGS_BYTES).decode(), str(path)))
        return tuple(found)

    def put_shop(self, shop: str, name: str, settings: bytes) -> None:
        """Write whose stick it is, and what that shop wants of a test. Raises StickError."""
        self.put_file(SHOP, json.dumps({"format": "after-check stick", "version": 1, "shop": shop, "name": name}).encode())
        self.put_file(SETTINGS, settings)

    @property
    def settings_path(self) -> Path:
        """Where the shop's settings for tests lie. Raises StickError where that leads away from the stick."""
        self._stay_inside(self.folder / SETTINGS)
        return self.folder / SETTINGS

    def whose(self) -> tuple[str, str]:
        """Return which shop loaded the stick and its name; empty where none did."""
        try:
            found = parse_json(_bytes(self.folder / SHOP, _LARGEST_SETTINGS_BYTES))
            return clean(str(found["shop"]), 40), clean(str(found["name"]), 80)
        except (OSError, ValueError, KeyError, TypeError):
            return "", ""

    def put_start(self, **values: str) -> None:
        """Write what the next start is to be, where GRUB finds it. Raises StickError."""
        self.put_file(SHOP_ENV, env_block(values))

    def put_file(self, name: str, data: bytes) -> None:
        """Write a file of the folder, whole. Raises StickError."""
        path = self.folder / name
        self._stay_inside(path.parent)
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            new = path.with_name(f"{path.name}.new")
            _write(new, data)
            new.replace(path)
            _sync_folder(path.parent)
        except OSError as error:
            raise self._problem(error) from None

    def _put(self, kind: str, name: str, ending: str, data: bytes) -> None:
        key = _key(name)
        before = self._numbered(kind).get(key, [])
        count = max((int(path.name.split(".")[1]) for path in before), default=0) + 1
        folder = self.folder / kind
        path = folder / f"{key}.{count}.{ending}"
        self._stay_inside(folder)
        try:
            folder.mkdir(parents=True, exist_ok=True)
            try:
                _write(path, data)
            except OSError:
                path.unlink(missing_ok=True)
                raise
            _sync_folder(folder)
            for old in before[: -(_KEPT - 1) or None]:
                old.unlink(missing_ok=True)
        except OSError as error:
            raise self._problem(error) from None

    def _numbered(self, kind: str) -> dict[str, list[Path]]:
        """Return the files of a kind by their key, oldest first."""
        found: dict[str, list[tuple[int, Path]]] = {}
        self._stay_inside(self.folder / kind)
        try:
            paths = list((self.folder / kind).iterdir())
        except OSError:
            return {}
        for path in paths:
            match = _NAMED.fullmatch(path.name)
            if match and not path.is_symlink() and path.is_file():
                found.setdefault(match["key"], []).append((int(match["count"]), path))
        return {key: [path for _, path in sorted(files)] for key, files in sorted(found.items())}

    def _stay_inside(self, path: Path) -> None:
        """See that no part of a path on the stick is a link: it would lead to the files of whoever looks. Raises StickError."""
        part = self.root
        for name in path.relative_to(self.root).parts:
            part = part / name
            if part.is_symlink():
                raise StickError(
                    f"{part.relative_to(self.root)} on the stick is a link, and is not followed",
                    str(self.root),
                    "take it away, or write it again",
                )

    def _problem(self, error: OSError) -> StickError:
        full = error.errno == 28
        words = "the stick is full" if full else f"the stick takes nothing ({error.strerror})"
        return StickError(
            words, str(self.root), "make room on it; what was there before is still there" if full else "is it write-protected?"
        )


def env_block(values: dict[str, str]) -> bytes:
    """Return values as GRUB's environment block: lines of `name=value`, filled up with `#` (the GRUB manual, "load_env").

    Raises ValueError where they do not fit.
    """
    lines = [f"{name}={value}".replace("\\", "\\\\").encode("ascii") + b"\n" for name, value in values.items()]
    data = _ENV_HEAD + b"".join(lines)
    if len(data) > _ENV_BYTES:
        raise ValueError("the start options are too long")
    return data.ljust(_ENV_BYTES, b"#")


def _key(name: str) -> str:
    """Return a file name for a name, which is data and never a path."""
    return hashlib.sha256(name.encode()).hexdigest()[:16]


def _bytes(path: Path, most_bytes: int) -> bytes:
    """Return the content of a plain file; a link is not followed, and a pipe not waited for. Raises OSError."""
    with open(path, "rb", opener=_opened_here(os.O_NONBLOCK)) as file:
        if not stat.S_ISREG(os.fstat(file.fileno()).st_mode):
            raise OSError(errno.EINVAL, "is no plain file", str(path))
        return file.read(most_bytes)


def _opened_here(more: int = 0) -> Callable[[str, int], int]:
    return lambda name, flags: os.open(name, flags | os.O_NOFOLLOW | os.O_CLOEXEC | more, 0o644)


def _write(path: Path, data: bytes) -> None:
    with open(path, "wb", opener=_opened_here()) as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())


def _sync_folder(folder: Path) -> None:
    with contextlib.suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)
