"""A PostgreSQL server of the tests' own: Debian's package, in a folder of its own, on loopback, as an ordinary user."""

from __future__ import annotations

import os
import pwd
import resource
import shutil
import socket
import subprocess
import time
from pathlib import Path

import psycopg

_ORDINARY = ("postgres", "nobody")


def tools() -> Path | None:
    """Return the folder of the server's programs; the newest version comes first."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/pg_ctl"), reverse=True)
    named = shutil.which("pg_ctl")
    return found[0].parent if found else Path(named).resolve().parent if named else None


class Server:
    """One server; `start` and `stop` may be called again and again."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.bin = tools()
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        # The server refuses to run as root.
        self._user = next((name for name in _ORDINARY if _is_user(name)), None) if os.geteuid() == 0 else None
        folder.mkdir(parents=True, exist_ok=True)
        if self._user:
            shutil.chown(folder, self._user)
            for parent in (folder, *folder.parents):
                if parent.stat().st_uid == 0 and parent != Path("/"):
                    parent.chmod(parent.stat().st_mode | 0o055)
        self._run("initdb", "-D", str(folder / "data"), "-U", "bench", "-A", "trust", "-E", "UTF8", "--no-sync", "--no-instructions")

    def start(self, largest_file_bytes: int | None = None) -> None:
        """Start; with a limit, the system refuses to let any of the server's files grow beyond it, as a full disk would."""
        options = f"-c listen_addresses=127.0.0.1 -p {self.port} -c unix_socket_directories={self.folder} -c fsync=off"
        self._run(
            "pg_ctl",
            "-D",
            str(self.folder / "data"),
            "-o",
            options,
            "-l",
            str(self.folder / "log"),
            "-w",
            "start",
            limit=largest_file_bytes,
        )

    def stop(self) -> None:
        self._run("pg_ctl", "-D", str(self.folder / "data"), "-m", "immediate", "-w", "stop", check=False)

    def fresh_shop(self, name: str) -> str:
        """Make an empty database and return its address."""
        with psycopg.connect(f"host=127.0.0.1 port={self.port} user=bench dbname=postgres", autocommit=True) as connection:
            connection.execute(f'CREATE DATABASE "{name}"')
        return f"postgresql://bench@127.0.0.1:{self.port}/{name}"

    def _run(self, program: str, *arguments: str, check: bool = True, limit: int | None = None) -> None:
        done = subprocess.run(
            [str(self.bin / program), *arguments],
            user=self._user,
            cwd=self.folder,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            check=False,
            preexec_fn=(lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (limit, limit))) if limit else None,
        )
        if check and done.returncode:
            raise AssertionError(f"{program} failed: {done.stderr.decode()}")


def _is_user(name: str) -> bool:
    try:
        pwd.getpwnam(name)
    except KeyError:
        return False
    return True


def wait_until(true, seconds: float = 20) -> None:
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if true():
            return
        time.sleep(0.1)
    raise AssertionError("it did not come true")
