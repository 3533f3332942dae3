"""Files of another machine over one SSH connection that stays open, for what is looked at again and again."""

from __future__ import annotations

import asyncio
import shlex
import threading
from types import TracebackType

import asyncssh

from after_check.sources.errors import SourceError
from after_check.sources.ssh import CONNECT_SECONDS, SshAddress, connected
from after_check.sources.tree import LARGEST_FILE_BYTES, Unreadable
from after_check.sources.trust import Access

_ANSWER_SECONDS = 10


class SshFiles:
    """The files of a machine behind an address, as `Files`; its connection runs in a thread of its own.

    Entering raises SourceError, TrustNeeded, TrustBroken or PasswordNeeded. A connection that is lost later makes files
    unreadable, in words.
    """

    def __init__(self, address: SshAddress, access: Access = Access()) -> None:  # noqa: B008 - frozen
        self._address = address
        self._access = access
        self._loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self._loop.run_forever, name="ssh files", daemon=True)
        self._over: asyncio.Event | None = None
        self._connection: asyncssh.SSHClientConnection | None = None
        self._held: asyncio.Task[None] | None = None

    def __enter__(self) -> SshFiles:
        self._thread.start()
        try:
            asyncio.run_coroutine_threadsafe(self._open(), self._loop).result()
        except BaseException:
            self._end()
            raise
        return self

    def __exit__(self, kind: type[BaseException] | None, problem: BaseException | None, trace: TracebackType | None) -> None:
        asyncio.run_coroutine_threadsafe(self._close(), self._loop).result()
        self._end()

    def exists(self, name: str) -> bool:
        """Return whether a file of this name can be read."""
        try:
            self.read(name, 1)
        except Unreadable:
            return False
        return True

    def names(self, folder: str) -> list[str]:
        """Return the names in a folder; none where it is not there."""
        return [name for name in self._run(f"ls -A {self._path(folder)}", 1 << 20, folder).decode("utf-8", "replace").splitlines() if name]

    def read(self, name: str, most_bytes: int = LARGEST_FILE_BYTES) -> bytes:
        """Return at most `most_bytes` of a file. Raises Unreadable."""
        return self._run(f"head -c {int(most_bytes)} {self._path(name)}", most_bytes, name)

    def _path(self, name: str) -> str:
        return shlex.quote(f"{self._address.root}/{name}")

    def _run(self, command: str, most_bytes: int, name: str) -> bytes:
        future = asyncio.run_coroutine_threadsafe(self._answer(command), self._loop)
        try:
            status, data = future.result(_ANSWER_SECONDS + 1)
        except (asyncssh.Error, OSError, TimeoutError) as error:
            reason = getattr(error, "reason", None) or str(error) or "no answer"
            raise Unreadable("odd", name, f"cannot be read over the network ({reason[:100]})") from None
        if status != 0:
            raise Unreadable("missing", name, "is not there or may not be read")
        return data[:most_bytes]

    async def _answer(self, command: str) -> tuple[int | None, bytes]:
        if self._connection is None:
            raise OSError("not connected")
        async with asyncio.timeout(_ANSWER_SECONDS):
            done = await self._connection.run(command, encoding=None, stderr=asyncssh.DEVNULL)
        return done.exit_status, done.stdout if isinstance(done.stdout, bytes) else b""

    async def _open(self) -> None:
        ready: asyncio.Future[None] = self._loop.create_future()
        self._over = asyncio.Event()
        self._held = self._loop.create_task(self._hold(ready, self._over))
        try:
            async with asyncio.timeout(2 * CONNECT_SECONDS):
                await ready
        except TimeoutError:
            self._held.cancel()
            raise SourceError("no answer", str(self._address), "see whether the machine is on and the address is right") from None

    async def _hold(self, ready: asyncio.Future[None], over: asyncio.Event) -> None:
        """Keep the connection open until it is over; what fails on the way in is told to whoever waits."""
        try:
            async with connected(self._address, self._access) as connection:
                self._connection = connection
                ready.set_result(None)
                await over.wait()
        except SourceError as problem:
            if not ready.done():
                ready.set_exception(problem)
        finally:
            self._connection = None

    async def _close(self) -> None:
        if self._over is not None and self._held is not None:
            self._over.set()
            await asyncio.wait([self._held], timeout=_ANSWER_SECONDS)

    def _end(self) -> None:
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(_ANSWER_SECONDS)
        if not self._loop.is_running():
            self._loop.close()
