"""A piece of long work that runs on another machine and is followed here: a memory test, a benchmark.

It is started there so that it goes on by itself: a line that is cut is taken up again, and so is a bench that was
killed. What it writes down there is read here every second.
"""

from __future__ import annotations

import asyncio
import json
import re
import secrets
import shlex
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import asdict, dataclass, field
from hashlib import sha256
from pathlib import Path

import asyncssh
from platformdirs import user_state_path

from after_check.bringing.wheels import NotBroughtError, wheels_for
from after_check.domain.outside_text import clean
from after_check.files.errors import SourceError
from after_check.files.strict_json import parse_json
from after_check.files.whole_files import make_private_folder, write_whole
from after_check.remote.target import BringNeededError, bring, look_at, may_bring
from after_check.sources.ssh import connected, parse_ssh_address
from after_check.sources.ssh_answers import answer_of
from after_check.sources.trust import Access, PasswordNeededError, TrustBrokenError, TrustNeededError

LOOK_SECONDS = 1.0
LONGEST_CUT_SECONDS = 3600.0
_LONGEST_PAUSE_SECONDS = 30.0
_ANSWER_SECONDS = 20.0
_LARGEST_RECORD_BYTES = 16 << 20
_MOST_NOISE_BYTES = 4 << 20
"""What a login may write before the answer."""
_SAFE_FOLDER = re.compile(r"/[\w./@+-]{1,240}")
_START = r"""
umask 077
mkdir -p {folder} && cd {folder} || exit 3
nohup setsid sh -c '{command} > out.json 2> said.txt < /dev/null & echo $! > pid; wait $!; echo $? > ended.new; mv ended.new ended' \
    > /dev/null 2>&1 < /dev/null &
i=0; while [ ! -s pid ] && [ $i -lt 50 ]; do i=$((i + 1)); sleep 0.1; done
cat pid
"""
_LOOK = r"""
cd {folder} 2>/dev/null || {{ echo "{mark} gone"; exit 0; }}
p=$(cat pid 2>/dev/null)
if [ -e ended ]; then echo "{mark} ended $(cat ended)"
elif [ -n "$p" ] && kill -0 "$p" 2>/dev/null; then echo "{mark} runs"
else echo "{mark} dead"; fi
echo "{mark} record"; head -c 16777216 record.json 2>/dev/null
echo; echo "{mark} out"; head -c 16777216 out.json 2>/dev/null
echo; echo "{mark} said"; tail -c 2000 said.txt 2>/dev/null
"""


class RunGoneError(SourceError):
    """What was started at the other end is not there any more; nothing of it can be fetched."""


@dataclass(frozen=True, slots=True)
class Remembered:
    """A run that was started at an address: what it is, its folder there, and the folder that was brought along, if any."""

    address: str
    what: str
    folder: str
    brought: str = ""


@dataclass(frozen=True, slots=True)
class RunLook:
    """What a look at a run showed: whether it runs, how it ended (None: not yet), its record and what it printed last."""

    runs: bool
    ended: int | None
    record: bytes
    out: bytes
    said: str


def remembered(address: str, what: str, folder: Path | None = None) -> Remembered | None:
    """Return a run that was started at an address and not seen to its end, or None."""
    try:
        found = parse_json(_place(address, what, folder).read_bytes())
        kept = Remembered(**{key: str(found[key]) for key in ("address", "what", "folder", "brought")})
    except (OSError, ValueError, KeyError, TypeError):
        return None
    safe = _SAFE_FOLDER.fullmatch(kept.folder) and (not kept.brought or _SAFE_FOLDER.fullmatch(kept.brought))
    return kept if safe and kept.address == address and kept.what == what else None


def _place(address: str, what: str, folder: Path | None = None) -> Path:
    name = sha256(f"{what} {address}".encode()).hexdigest()[:24]
    return (folder or user_state_path("after-check") / "elsewhere") / f"{name}.json"


@dataclass(frozen=True, slots=True)
class Beginning:
    """How a run elsewhere begins: how to get in, whether After Check may be brought along where it is not, or whether a run
    that was started before is followed. `state_folder` is where it is noted that it runs.
    """

    access: Access = field(default_factory=Access)
    may_bring: bool = False
    go_on: bool = False
    state_folder: Path | None = None


class RemoteRun:
    """One run at one address. `words` are the command's arguments there; `heard` is given each record as it comes."""

    def __init__(
        self,
        address: str,
        what: str,
        words: tuple[str, ...],
        heard: Callable[[bytes], object],
        beginning: Beginning = Beginning(),
        tell: Callable[[str], object] = lambda words: None,
    ) -> None:
        self.address = parse_ssh_address(address)
        self._what, self._words, self._heard, self._access = what, words, heard, beginning.access
        self._may_bring, self._go_on, self._state_folder = beginning.may_bring, beginning.go_on, beginning.state_folder
        self._tell = tell
        self._stop, self._paused = threading.Event(), threading.Event()
        self._sent_pause = False
        self._sent_stop = False

    def stop(self) -> None:
        """Ask the other end to stop; what it found is fetched."""
        self._stop.set()

    def pause(self) -> None:
        """Ask it to pause."""
        self._paused.set()

    def go_on(self) -> None:
        """Ask it to go on."""
        self._paused.clear()

    def run(self) -> RunLook:
        """Run it and follow it to its end. Raises SourceError; what a person has to decide is one of its kinds."""
        try:
            return asyncio.run(self._run())
        except NotBroughtError as problem:
            raise SourceError(str(problem), str(self.address)) from None

    async def _run(self) -> RunLook:
        kept = remembered(str(self.address), self._what, self._state_folder) if self._go_on else None
        if self._go_on and kept is None:
            raise SourceError(f"no {self._what} was started there from here", str(self.address), "leave --continue out")
        if kept is None:
            async with connected(self.address, self._access) as connection:
                kept = await self._begin(connection)
            self._remember(kept)
        looked = await self._follow(kept)
        await self._take_away(kept)
        return looked

    async def _begin(self, connection: asyncssh.SSHClientConnection) -> Remembered:
        target = await look_at(connection, str(self.address))
        name = f"after-check-{secrets.token_hex(6)}"
        brought = ""
        if target.has_program:
            command = shlex.quote(target.program)
            folder = f"{target.folder or '/tmp'}/{name}"
        else:
            kind = may_bring(target, str(self.address))
            if not self._may_bring:
                there = f"version {target.version} is there, and another one is here" if target.version else "After Check is not there"
                raise BringNeededError(
                    f"{there}; it can be brought along into {target.folder} and is taken away after", str(self.address), "say --bring"
                )
            self._tell(f"fetching what is needed on {kind.words}")
            wheels = await asyncio.to_thread(wheels_for, kind)
            brought = folder = f"{target.folder}/{name}"
            command = await bring(connection, target, folder, wheels, lambda share: self._tell(f"bringing it along: {share:.0%}"))
        start = _START.format(folder=shlex.quote(f"{folder}/run"), command=_within_quotes(f"{command} {shlex.join(self._words)}"))
        try:
            done = await answer_of(connection, "sh -s", (start.encode(),), most_bytes=_MOST_NOISE_BYTES, seconds=_ANSWER_SECONDS)
            started = done.words.strip().splitlines()[-1:]
            if not started or not started[0].strip().isdigit():
                why = clean(done.said.decode("utf-8", "replace").strip(), 160) or "it said nothing"
                raise SourceError(f"it could not be started there ({why})", str(self.address))
        except (SourceError, TimeoutError, asyncssh.Error, OSError) as problem:
            left = "" if await self._cleared(connection, folder) else f"{folder} is left there; take it away"
            raise SourceError(str(problem) or "no answer", str(self.address), left or "what was put there was taken away") from None
        return Remembered(str(self.address), self._what, f"{folder}/run", brought)

    async def _follow(self, kept: Remembered) -> RunLook:
        """Look again and again until it has ended; a line that is cut is taken up again."""
        silent_since: float | None = None
        pause = LOOK_SECONDS
        while True:
            try:
                async with connected(self.address, self._access) as connection:
                    while True:
                        await self._send(connection, kept)
                        looked = await _look(connection, kept, str(self.address))
                        silent_since, pause = None, LOOK_SECONDS
                        if looked.record:
                            self._heard(looked.record)
                        if not looked.runs:
                            return looked
                        await asyncio.sleep(LOOK_SECONDS)
            except (TrustNeededError, TrustBrokenError, PasswordNeededError, RunGoneError):
                raise
            except (SourceError, TimeoutError, asyncssh.Error, OSError) as problem:
                silent_since = silent_since or time.monotonic()
                silent = time.monotonic() - silent_since
                if self._stop.is_set() or silent > LONGEST_CUT_SECONDS:
                    words = f"the line is cut, and the {self._what} goes on there by itself"
                    raise SourceError(words, str(self.address), "follow it again with --continue") from None
                self._tell(f"the line is cut ({clean(str(problem), 80)}); the {self._what} goes on there. Tried again for {silent:.0f} s")
                await asyncio.sleep(pause)
                pause = min(_LONGEST_PAUSE_SECONDS, pause * 2)

    async def _send(self, connection: asyncssh.SSHClientConnection, kept: Remembered) -> None:
        """Tell the other end to stop, to pause or to go on, once for each."""
        signal = ""
        if self._stop.is_set() and not self._sent_stop:
            signal, self._sent_stop = "TERM", True
        elif self._paused.is_set() != self._sent_pause:
            self._sent_pause = self._paused.is_set()
            signal = "USR1" if self._sent_pause else "USR2"
        if signal:
            script = f'kill -{signal} "$(cat {shlex.quote(kept.folder)}/pid)"'
            await answer_of(connection, "sh -s", (script.encode(),), most_bytes=_MOST_NOISE_BYTES, seconds=_ANSWER_SECONDS)

    async def _take_away(self, kept: Remembered) -> None:
        """Take away what was put there, and forget the run; a folder that cannot be reached any more stays."""
        folder = kept.brought or kept.folder.removesuffix("/run")
        with suppress(SourceError, TimeoutError, asyncssh.Error, OSError):
            async with connected(self.address, self._access) as connection:
                await self._cleared(connection, folder)
        with suppress(OSError):
            _place(kept.address, kept.what, self._state_folder).unlink()

    async def _cleared(self, connection: asyncssh.SSHClientConnection, folder: str) -> bool:
        """Take away a folder that was made there; returns whether it is gone."""
        if not _SAFE_FOLDER.fullmatch(folder) or "/after-check-" not in folder:
            return False
        script = f"rm -rf {shlex.quote(folder)}; [ ! -e {shlex.quote(folder)} ]"
        try:
            done = await answer_of(connection, "sh -s", (script.encode(),), most_bytes=_MOST_NOISE_BYTES, seconds=60)
        except (SourceError, TimeoutError, asyncssh.Error, OSError):
            return False
        return done.status == 0

    def _remember(self, kept: Remembered) -> None:
        path = _place(kept.address, kept.what, self._state_folder)
        with suppress(OSError):  # Without it the run can still be followed, until this program ends.
            make_private_folder(path.parent)
            write_whole(path, json.dumps(asdict(kept)).encode(), private=True)


async def _look(connection: asyncssh.SSHClientConnection, kept: Remembered, where: str) -> RunLook:
    mark = f"mark-{secrets.token_hex(8)}"
    script = _LOOK.format(folder=shlex.quote(kept.folder), mark=mark)
    done = await answer_of(
        connection, "sh -s", (script.encode(),), most_bytes=2 * _LARGEST_RECORD_BYTES + _MOST_NOISE_BYTES, seconds=_ANSWER_SECONDS
    )
    data = done.out
    parts: dict[str, bytes] = {}
    for part in data.split(f"{mark} ".encode())[1:]:
        head, _, body = part.partition(b"\n")
        word, _, rest = head.decode("ascii", "replace").partition(" ")
        parts[word] = rest.encode() or body.removesuffix(b"\n")
    if "gone" in parts:
        raise RunGoneError("the run is not there any more: the machine was started again, or somebody took it away", where)
    if not {"ended", "runs", "dead"} & parts.keys():
        raise asyncssh.Error(0, "the answer was cut short")
    code = parts.get("ended", b"").strip()
    ended = int(code) if code.isdigit() else (-1 if "dead" in parts else None)
    said = clean(parts.get("said", b"").decode("utf-8", "replace").strip().splitlines()[-1] if parts.get("said", b"").strip() else "", 240)
    return RunLook(ended is None, ended, parts.get("record", b"").strip(), parts.get("out", b"").strip(), said)


def _within_quotes(command: str) -> str:
    return command.replace("'", "'\\''")
