"""What there is at the other end of an SSH line: whether After Check is there, whether it can be brought along, and where to.

The questions are asked in plain `sh`. Whatever comes back is text from outside: it is matched, never trusted as a path
or a command unless it is one of the few forms that are expected.
"""

from __future__ import annotations

import asyncio
import io
import re
import shlex
import tarfile
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import asyncssh

from after_check import __version__
from after_check.bringing.wheels import TargetKind, own_files
from after_check.domain.outside_text import clean
from after_check.domain.quantities import MIB, size_text
from after_check.files.errors import SourceError
from after_check.sources.ssh import WHOLE_SECONDS, connected, parse_ssh_address
from after_check.sources.ssh_answers import answer_of
from after_check.sources.trust import Access, NeedsPersonError

LEAST_PYTHON = (3, 11)
_ROOM_BYTES = 700 * MIB
_PATH = re.compile(r"/[\w./@+-]{1,200}")
_PIECE_BYTES = 256 << 10
_MOST_ANSWER_BYTES = 4 << 20
"""What a login may write before the answer; the answer itself has some lines."""
_BRING_SECONDS = 1800.0
_WHOLE = ".whole"
_TAKES_IT = f"""
import os, shutil, signal, sys, tarfile
folder = sys.argv[1]
def gone(*_):
    raise SystemExit("the line was cut")
for sign in (signal.SIGHUP, signal.SIGTERM, signal.SIGPIPE):
    signal.signal(sign, gone)
os.umask(0o077)
os.mkdir(folder)
try:
    tarfile.open(fileobj=sys.stdin.buffer, mode="r|").extractall(folder + "/site")
    os.remove(folder + "/site/{_WHOLE}")
except BaseException:
    shutil.rmtree(folder, ignore_errors=True)
    raise
"""
"""What unpacks the program at the other end: whole, or nothing of it stays, also where the line is cut or its disk is full."""
_QUESTIONS = r"""
PATH="$PATH:/usr/local/bin:$HOME/.local/bin"
p=$(command -v after-check 2>/dev/null) && echo "program $p $("$p" --version 2>/dev/null)"
y=$(command -v python3 2>/dev/null) && echo "python $y $("$y" -c 'import sys; print(sys.version_info[0], sys.version_info[1])' 2>/dev/null)"
echo "processor $(uname -m)"
echo "system $(uname -s)"
for d in "$XDG_RUNTIME_DIR" /dev/shm "$HOME" /var/tmp /tmp; do
    [ -n "$d" ] && [ -d "$d" ] && [ -w "$d" ] || continue
    f="$d/.after-check-$$"
    (umask 077; printf '#!/bin/sh\nexit 0\n' > "$f") 2>/dev/null || continue
    chmod 700 "$f"; if "$f" 2>/dev/null; then e=yes; else e=no; fi; rm -f "$f"
    set -- $(df -Pk "$d" 2>/dev/null | tail -n 1)
    echo "folder $d $e $4 $1"
done
"""


class BringNeededError(NeedsPersonError):
    """After Check is not there; it can be brought along into a folder that is taken away after. Ask, then say so."""


@dataclass(frozen=True, slots=True)
class Target:
    """What was found at the other end. `folder` is where a program can be put and started, where there is one."""

    program: str = ""
    version: str = ""
    python: str = ""
    python_version: tuple[int, int] | None = None
    processor: str = ""
    system: str = ""
    folder: str = ""
    why_no_folder: str = ""

    @property
    def has_program(self) -> bool:
        """Whether After Check is there in the version that runs here."""
        return bool(self.program) and self.version == __version__


async def look_at(connection: asyncssh.SSHClientConnection, where: str) -> Target:
    """Ask what there is. Raises SourceError where nobody answers as a system does."""
    done = await answer_of(connection, "sh -s", (_QUESTIONS.encode(),), most_bytes=_MOST_ANSWER_BYTES, seconds=30)
    target = understood(done.words)
    if not target.processor:
        raise SourceError("the other end answers, but runs no shell", where, "log in as a user who gets a shell; nothing was changed")
    return target


def understood(answer: str) -> Target:
    """Return what an answer to the questions says."""
    found: dict[str, str] = {}
    folders: list[list[str]] = []
    for line in answer.splitlines():
        name, _, rest = line.strip().partition(" ")
        if name == "folder":
            folders.append(rest.split())
        elif name in ("program", "python", "processor", "system"):
            found.setdefault(name, rest)
    program = re.fullmatch(rf"({_PATH.pattern}) after-check ([\w.+]{{1,40}})", found.get("program", ""))
    python = re.fullmatch(rf"({_PATH.pattern}) (\d{{1,2}}) (\d{{1,3}})", found.get("python", ""))
    processor = found.get("processor", "").strip()
    folder, why = _folder(folders)
    return Target(
        program=program[1] if program else "",
        version=program[2] if program else "",
        python=python[1] if python else "",
        python_version=(int(python[2]), int(python[3])) if python else None,
        processor=processor if re.fullmatch(r"\w{1,20}", processor) else "",
        system=clean(found.get("system", ""), 40),
        folder=folder,
        why_no_folder=why,
    )


def _folder(folders: list[list[str]]) -> tuple[str, str]:
    """Return the first folder that takes a program and has room, or why none does. One in memory would take away what is to be tested."""
    reasons: list[str] = []
    for words in folders:
        if len(words) < 4 or not _PATH.fullmatch(words[0]) or not words[2].isdigit():
            continue
        name, may_run, free_bytes, device = words[0], words[1] == "yes", int(words[2]) * 1024, words[3]
        if device in ("tmpfs", "ramfs"):
            reasons.append(f"{name} lies in memory")
        elif not may_run:
            reasons.append(f"{name} starts no programs")
        elif free_bytes < _ROOM_BYTES:
            reasons.append(f"{name} has {size_text(free_bytes)} free")
        else:
            return name, ""
    return "", "; ".join(reasons)[:300] or "no folder can be written to"


def may_bring(target: Target, where: str) -> TargetKind:
    """Return for which kind of machine the libraries are needed. Raises SourceError where it cannot be brought along."""
    stick = "start the machine from the stick instead (after-check stick)"
    if target.system != "Linux":
        raise SourceError(f"the other end runs {target.system or 'an unknown system'}; only Linux will do", where, stick)
    if target.python_version is None:
        raise SourceError("there is no Python at the other end", where, stick)
    if target.python_version < LEAST_PYTHON:
        found = ".".join(str(part) for part in target.python_version)
        raise SourceError(f"the Python at the other end is {found}; 3.11 or later is needed", where, stick)
    if not target.folder:
        raise SourceError(f"nothing can be put there: {target.why_no_folder} ({size_text(_ROOM_BYTES)} are needed)", where, stick)
    return TargetKind(target.python_version, target.processor)


async def bring(
    connection: asyncssh.SSHClientConnection, target: Target, folder: str, wheels: tuple[Path, ...], tell: Callable[[float], object]
) -> str:
    """Put After Check and its libraries into a folder at the other end; returns the command that starts it there.

    Raises SourceError where the other end does not take it. The folder is made new, for its owner alone.
    """
    if not _PATH.fullmatch(folder):
        raise SourceError("the folder at the other end has an odd name", clean(folder, 60))
    command = f"{shlex.quote(target.python)} -c {shlex.quote(_TAKES_IT)} {shlex.quote(folder)}"
    whole = max(1, sum(wheel.stat().st_size for wheel in wheels) * 3)

    def pieces() -> Iterator[bytes]:
        sent = 0
        for piece in _packed(wheels):
            yield piece
            sent += len(piece)
            tell(min(0.99, sent / whole))

    done = await answer_of(connection, command, pieces(), most_bytes=_MOST_ANSWER_BYTES, seconds=_BRING_SECONDS)
    if done.status != 0:
        words = clean(done.said.decode("utf-8", "replace").strip().splitlines()[-1] if done.said.strip() else "no reason given", 160)
        raise SourceError(f"the other end does not take the program ({words})", folder)
    tell(1.0)
    return f"env PYTHONPATH={shlex.quote(folder + '/site')} PYTHONDONTWRITEBYTECODE=1 {shlex.quote(target.python)} -m after_check"


def _packed(wheels: tuple[Path, ...]) -> Iterator[bytes]:
    """Yield a tar file of the wheels' content and the program's own files, piece by piece."""
    stream = _Pieces()
    with tarfile.open(fileobj=stream, mode="w|", bufsize=_PIECE_BYTES) as archive:  # type: ignore[call-overload]
        for name, data in _files(wheels):
            info = tarfile.TarInfo(name)
            info.size, info.mode = len(data), 0o644
            archive.addfile(info, io.BytesIO(data))
            yield from stream.taken()
        archive.addfile(tarfile.TarInfo(_WHOLE))
    yield from stream.taken()


def _files(wheels: tuple[Path, ...]) -> Iterator[tuple[str, bytes]]:
    for wheel in wheels:
        with zipfile.ZipFile(wheel) as archive:
            for name in archive.namelist():
                if not name.endswith("/") and not name.startswith("/") and ".." not in name.split("/"):
                    yield name, archive.read(name)
    yield from own_files()


class _Pieces:
    """A file that is only written to, and emptied meanwhile."""

    def __init__(self) -> None:
        self._parts: list[bytes] = []

    def write(self, data: bytes) -> int:
        """Take bytes."""
        self._parts.append(bytes(data))
        return len(data)

    def taken(self) -> Iterator[bytes]:
        """Yield what was written since the last time."""
        parts, self._parts = self._parts, []
        yield from parts


def look_there(address: str, access: Access) -> Target:
    """Connect and ask what there is. Raises SourceError, TrustNeededError, TrustBrokenError or PasswordNeededError."""

    async def asked() -> Target:
        where = parse_ssh_address(address)
        async with asyncio.timeout(WHOLE_SECONDS), connected(where, access) as connection:
            return await look_at(connection, str(where))

    try:
        return asyncio.run(asked())
    except TimeoutError:
        raise SourceError("no answer in time", address, "see whether the machine is on and the address is right") from None
