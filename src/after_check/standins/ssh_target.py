"""An SSH target that shows a simulated machine, on 127.0.0.1 only.

A command that is sent runs in a real shell of this computer, as the person who started the stand-in; so the service
listens on the loopback address alone and lets one user with one password in.
"""

from __future__ import annotations

import asyncio
import secrets
import threading
from pathlib import Path

import asyncssh


class SshTarget:
    """Serves a folder with a `/sys` and `/proc` tree; `start` returns the port."""

    def __init__(self, folder: Path, user: str = "bench", password: str = "") -> None:
        self.folder = folder
        self.user = user
        self.password = password or secrets.token_urlsafe(9)
        self._loop = asyncio.new_event_loop()
        self._server: asyncssh.SSHAcceptor | None = None

    def start(self, port: int = 0) -> int:
        """Serve in a thread of its own and return the port."""
        self._server = self._loop.run_until_complete(self._listen(port))
        threading.Thread(target=self._loop.run_forever, daemon=True).start()
        return int(self._server.get_port())

    def stop(self) -> None:
        """End serving."""
        if self._server is not None:
            self._loop.call_soon_threadsafe(self._server.close)
            self._loop.call_soon_threadsafe(self._loop.stop)

    async def _listen(self, port: int) -> asyncssh.SSHAcceptor:
        return await asyncssh.listen(
            "127.0.0.1",
            port,
            server_host_keys=[asyncssh.generate_private_key("ssh-ed25519")],
            server_factory=lambda: _Door(self.user, self.password),
            process_factory=self._run,
            encoding=None,
        )

    async def _run(self, process: asyncssh.SSHServerProcess[bytes]) -> None:
        command = process.command or "true"
        shell = await asyncio.create_subprocess_exec(
            "/bin/sh", "-c", command, stdin=asyncio.subprocess.PIPE, stdout=asyncio.subprocess.PIPE, cwd=self.folder
        )
        await process.redirect(stdin=shell.stdin, stdout=shell.stdout)
        process.exit(await shell.wait())


class _Door(asyncssh.SSHServer):
    def __init__(self, user: str, password: str) -> None:
        self._user = user
        self._password = password

    def password_auth_supported(self) -> bool:
        """Passwords are the only way in."""
        return True

    def validate_password(self, username: str, password: str) -> bool:
        """Let the one user in."""
        return username == self._user and secrets.compare_digest(password, self._password)
