"""Files of another machine over one SSH connection that stays open, for what is looked at again and again."""

from __future__ import annotations

import shlex
from collections.abc import AsyncIterator
from contextlib import AsyncExitStack, ExitStack, asynccontextmanager, suppress
from types import TracebackType

import anyio
import asyncssh
from anyio.from_thread import BlockingPortal, start_blocking_portal

from after_check.files.errors import SourceError
from after_check.files.tree import LARGEST_FILE_BYTES, UnreadableError
from after_check.sources.ssh import CONNECT_SECONDS, SshAddress, connected
from after_check.sources.ssh_answers import answer_of
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
        self._held = ExitStack()
        self._portal: BlockingPortal | None = None
        self._connection: asyncssh.SSHClientConnection | None = None

    def __enter__(self) -> SshFiles:
        with ExitStack() as stack:
            self._portal = stack.enter_context(start_blocking_portal(name="ssh files"))
            self._connection = stack.enter_context(self._portal.wrap_async_context_manager(self._connected()))
            self._held = stack.pop_all()
        return self

    def __exit__(self, kind: type[BaseException] | None, problem: BaseException | None, trace: TracebackType | None) -> None:
        # A connection that is lost is over already.
        with suppress(SourceError):
            self._held.close()
        self._portal = self._connection = None

    @asynccontextmanager
    async def _connected(self) -> AsyncIterator[asyncssh.SSHClientConnection]:
        async with AsyncExitStack() as stack:
            try:
                with anyio.fail_after(2 * CONNECT_SECONDS):
                    connection = await stack.enter_async_context(connected(self._address, self._access))
            except TimeoutError:
                words = f"no answer within {2 * CONNECT_SECONDS} seconds"
                raise SourceError(words, str(self._address), "see whether the machine is on and the address is right") from None
            yield connection

    def exists(self, name: str) -> bool:
        """Return whether a file of this name can be read."""
        try:
            self.read(name, 1)
        except UnreadableError:
            return False
        return True

    def names(self, folder: str) -> list[str]:
        """Return the names in a folder; none where it is not there."""
        return [name for name in self._run(f"ls -A {self._path(folder)}", 1 << 20, folder).decode("utf-8", "replace").splitlines() if name]

    def read(self, name: str, most_bytes: int = LARGEST_FILE_BYTES) -> bytes:
        """Return at most `most_bytes` of a file. Raises UnreadableError."""
        return self._run(f"head -c {int(most_bytes)} {self._path(name)}", most_bytes, name)

    def _path(self, name: str) -> str:
        return shlex.quote(f"{self._address.root}/{name}")

    def _run(self, command: str, most_bytes: int, name: str) -> bytes:
        try:
            if self._portal is None or self._connection is None:
                raise OSError("not connected")
            status, data = self._portal.call(self._answer, self._connection, command, most_bytes + (64 << 10))
        except (asyncssh.Error, SourceError, OSError, TimeoutError) as error:
            reason = getattr(error, "reason", None) or str(error) or "no answer"
            raise UnreadableError("odd", name, f"cannot be read over the network ({reason[:100]})") from None
        if status != 0:
            raise UnreadableError("missing", name, "is not there or may not be read")
        return data[:most_bytes]

    async def _answer(self, connection: asyncssh.SSHClientConnection, command: str, most_bytes: int) -> tuple[int | None, bytes]:
        done = await answer_of(connection, command, most_bytes=most_bytes, seconds=_ANSWER_SECONDS)
        return done.status, done.out
