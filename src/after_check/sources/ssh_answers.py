"""Asking another machine one thing over SSH, within a limit of time and of bytes; closing has a limit, too.

A shell that is stopped never ends, and the library waits for its end when a process is left: here nothing is waited for without a limit.
"""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import AsyncIterator, Iterable
from dataclasses import dataclass

import asyncssh

from after_check.files.errors import SourceError

CLOSE_SECONDS = 3.0
_PIECE_BYTES = 1 << 16
_MOST_SAID_BYTES = 64 << 10


@dataclass(frozen=True, slots=True)
class Answer:
    """What a command at the other end wrote, and how it ended (None: by a signal)."""

    status: int | None
    out: bytes
    said: bytes

    @property
    def words(self) -> str:
        """What it wrote, as text."""
        return self.out.decode("utf-8", "replace")


async def answer_of(
    connection: asyncssh.SSHClientConnection, command: str, sent: Iterable[bytes] = (), *, most_bytes: int, seconds: float
) -> Answer:
    """Return what a command answers to what it is sent. Raises TimeoutError, asyncssh.Error, and SourceError where it writes too much."""
    async with asyncio.timeout(seconds):
        process = await connection.create_process(command, encoding=None)
        try:
            out, said, _ = await asyncio.gather(_read(process.stdout, most_bytes), _tail(process.stderr), _send(process, sent))
            await process.wait_closed()
            return Answer(process.exit_status, out, said)
        finally:
            process.close()  # Whether the other end has heard of it is not waited for.


async def _send(process: asyncssh.SSHClientProcess[bytes], sent: Iterable[bytes]) -> None:
    with contextlib.suppress(BrokenPipeError, ConnectionError):  # It ended before it had everything: its status says why.
        for piece in sent:
            process.stdin.write(piece)
            await process.stdin.drain()
        process.stdin.write_eof()


async def _read(stream: asyncssh.SSHReader[bytes], most_bytes: int) -> bytes:
    parts: list[bytes] = []
    size = 0
    while part := await stream.read(_PIECE_BYTES):
        parts.append(part)
        size += len(part)
        if size > most_bytes:
            raise SourceError(f"the other end writes without end (more than {most_bytes >> 20} MB)", "", "see what its login writes")
    return b"".join(parts)


async def _tail(stream: asyncssh.SSHReader[bytes]) -> bytes:
    """Return the last of what is said beside the answer; nothing else of it is kept."""
    last = b""
    while part := await stream.read(_PIECE_BYTES):
        last = (last + part)[-_MOST_SAID_BYTES:]
    return last


@contextlib.asynccontextmanager
async def closing(connection: asyncssh.SSHClientConnection) -> AsyncIterator[asyncssh.SSHClientConnection]:
    """Close a connection in the end, and cut it where the other end does not follow."""
    try:
        yield connection
    finally:
        connection.close()
        try:
            async with asyncio.timeout(CLOSE_SECONDS):
                await connection.wait_closed()
        except TimeoutError:
            connection.abort()
