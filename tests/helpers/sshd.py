"""A real sshd of the tests' own on loopback."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import time

from after_check.sources.trust import Access

SSHD = shutil.which("sshd") or "/usr/sbin/sshd"


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class Server:
    """An sshd of its own, with host key, login key and configuration in a folder of its own."""

    def __init__(self, folder):
        self.folder = folder
        self.port = free_port()
        self.key = folder / "login"
        self.process = None
        for name in ("host", "login"):
            subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", str(folder / name)], check=True)
        authorized = folder / "authorized"
        authorized.write_text((folder / "login.pub").read_text())
        authorized.chmod(0o644)
        os.makedirs("/run/sshd", exist_ok=True)

    def start(self, *more):
        options = ["StrictModes=no", "UsePAM=no", "PasswordAuthentication=no", "PermitRootLogin=yes", "PidFile=none", "MaxStartups=200"]
        options += [
            f"HostKey={self.folder / 'host'}",
            f"AuthorizedKeysFile={self.folder / 'authorized'}",
            f"ListenAddress=127.0.0.1:{self.port}",
        ]
        options += more
        arguments = [SSHD, "-D", "-e", "-f", "/dev/null", *(part for option in options for part in ("-o", option))]
        self.process = subprocess.Popen(arguments, stderr=subprocess.DEVNULL)
        for _ in range(100):
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", self.port)) == 0:
                    return
            time.sleep(0.05)
        raise AssertionError("sshd did not start")

    def stop(self):
        if self.process is not None:
            self.process.terminate()
            self.process.wait()

    def address(self, user="root", root=""):
        return f"ssh://{user}@127.0.0.1:{self.port}{root}"

    def fingerprint(self):
        shown = subprocess.run(["ssh-keygen", "-lf", str(self.folder / "host.pub")], capture_output=True, text=True, check=True)
        return shown.stdout.split()[1]

    def access(self, accepted=True):
        return Access(key_file=str(self.key), accepted_fingerprint=self.fingerprint() if accepted else None)
