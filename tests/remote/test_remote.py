"""Memory tests on another machine over a real sshd on loopback: followed, cut, taken up again, stopped, many at once."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

from after_check.bringing.wheels import TargetKind, own_files
from after_check.domain.identity import CameBy
from after_check.domain.soak import SoakState
from after_check.files.errors import SourceError
from after_check.remote.remote_run import Beginning, remembered
from after_check.remote.remote_soak import RemoteSoak
from after_check.remote.target import _TAKES_IT, BringNeededError, _packed, may_bring, understood
from after_check.sources.trust import Access, lines_of
from tests.helpers.commands import run_here
from tests.helpers.needs import needs
from tests.helpers.sshd import SSHD, Server, free_port

BIN = Path(sys.executable).parent
SMALL = ("--memory", "32M")

pytestmark = pytest.mark.xdist_group("remote")
with_sshd = needs(os.path.exists(SSHD) and os.geteuid() == 0, "sshd, and root to log in as somebody")


@pytest.fixture(scope="module")
def server(tmp_path_factory):
    """A machine with After Check installed."""
    server = Server(tmp_path_factory.mktemp("sshd"))
    server.start(f"SetEnv=PATH={BIN}:/usr/bin:/bin")
    yield server
    server.stop()


@pytest.fixture(autouse=True)
def own_state(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))


def access(server):
    return Access(key_file=str(server.key), accepted_fingerprint=server.fingerprint())


class Line:
    """A line to the server that can be cut and repaired."""

    def __init__(self, port):
        self._target = port
        self.port = free_port()
        self._open = []
        self.repair()

    def repair(self):
        self._listener = socket.create_server(("127.0.0.1", self.port))
        threading.Thread(target=self._accept, args=(self._listener,), daemon=True).start()

    def cut(self):
        self._listener.shutdown(socket.SHUT_RDWR)
        self._listener.close()
        for end in self._open:
            try:
                end.shutdown(socket.SHUT_RDWR)
            except OSError:
                continue

    def _accept(self, listener):
        while True:
            try:
                near, _ = listener.accept()
            except OSError:
                return
            far = socket.create_connection(("127.0.0.1", self._target))
            self._open += [near, far]
            for one, other in ((near, far), (far, near)):
                threading.Thread(target=self._pass, args=(one, other), daemon=True).start()

    @staticmethod
    def _pass(one, other):
        try:
            while data := one.recv(1 << 16):
                other.sendall(data)
            other.shutdown(socket.SHUT_RDWR)
        except OSError:
            return


def until(condition, seconds=60):
    for _ in range(seconds * 20):
        if condition():
            return
        time.sleep(0.05)
    raise AssertionError("it did not come to that")


@with_sshd
def test_the_command_tests_the_other_machine(server):
    words = ("--key", str(server.key), "--accept", server.fingerprint(), "--memory", "32M")
    # Many at once, one of them not there: a line each, and not covered.
    nobody = f"ssh://root@127.0.0.1:{free_port()}"
    many = run_here("soak", "--on", server.address(), "--on", nobody, *words)
    assert many.returncode == 2
    first, second = many.stdout.splitlines()
    assert first.startswith(f"{server.address()}: clean")
    assert second.startswith(f"{nobody}: not covered as asked") or second.startswith(f"{nobody}: not tested")


@with_sshd
def test_a_line_that_is_cut_is_taken_up_again(server):
    line = Line(server.port)
    kept = []
    soak = RemoteSoak(
        f"ssh://root@127.0.0.1:{line.port}", ("--memory", "32M", "--plan", "overnight"), kept.append, Beginning(access(server))
    )
    runner = threading.Thread(target=soak.run)
    runner.start()
    until(lambda: soak.record.steps_done >= 1)
    line.cut()
    until(lambda: "the line is cut" in soak.doing)
    steps = soak.record.steps_done
    line.repair()
    until(lambda: soak.record.steps_done > steps)
    soak.stop()
    runner.join(60)
    record = soak.record
    assert (record.state, record.errors) == (SoakState.STOPPED, 0)
    assert "the line was cut meanwhile; the test went on there" in record.remarks
    assert record.machine.way is CameBy.REMOTE
    assert kept[-1].state is SoakState.STOPPED


@with_sshd
def test_a_bench_that_is_killed_follows_again_and_stops_it(server, tmp_path):
    address = server.address()
    command = [sys.executable, "-m", "after_check", "soak", "--plan", "overnight", "--on", address, *SMALL]
    lines = [*command, "--key", str(server.key), "--accept", server.fingerprint()]
    bench = subprocess.Popen(lines, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    until(lambda: remembered(address, "soak") is not None)
    folder = Path(remembered(address, "soak").folder)
    until(lambda: (folder / "record.json").exists())
    bench.send_signal(signal.SIGKILL)
    bench.wait()
    soak = RemoteSoak(address, beginning=Beginning(access(server), go_on=True))
    runner = threading.Thread(target=soak.run)
    runner.start()
    until(lambda: soak.record.steps_done >= 1)
    soak.pause()
    until(lambda: soak.record.state is SoakState.PAUSED)
    soak.go_on()
    until(lambda: soak.record.state is SoakState.RUNNING)
    soak.stop()
    runner.join(60)
    assert soak.record.state is SoakState.STOPPED
    # Nothing of it is left there, and nothing is remembered.
    assert not folder.exists()
    assert remembered(address, "soak") is None
    gone = RemoteSoak(address, beginning=Beginning(access(server), go_on=True))
    assert gone.run().state is SoakState.FAILED
    assert "no soak was started there from here" in gone.record.remarks[0]


@with_sshd
def test_where_it_is_not_there_it_is_asked_for_and_nothing_is_put_there(tmp_path):
    bare = Server(tmp_path)
    bare.start("SetEnv=PATH=/usr/bin:/bin")
    try:
        with pytest.raises(SourceError) as refused:
            RemoteSoak(bare.address(), beginning=Beginning(access(bare))).run()
        assert isinstance(refused.value, BringNeededError) or "Python" in str(refused.value) or "put there" in str(refused.value)
        assert lines_of("known_hosts")
    finally:
        bare.stop()


GOOD = "python /usr/bin/python3 3 11\nprocessor x86_64\nsystem Linux\nfolder /home/anna yes 9000000 /dev/sda1\n"


def test_what_is_there_is_understood():
    found = understood("program /usr/local/bin/after-check after-check 9.9\n" + GOOD)
    assert (found.program, found.version, found.has_program) == ("/usr/local/bin/after-check", "9.9", False)
    assert may_bring(found, "there") == TargetKind((3, 11), "x86_64")
    assert found.folder == "/home/anna"


@pytest.mark.parametrize(
    ("answer", "words"),
    [
        (GOOD.replace("3 11", "3 9"), "the Python at the other end is 3.9; 3.11 or later is needed"),
        (GOOD.replace("python /usr/bin/python3 3 11\n", ""), "there is no Python"),
        (GOOD.replace("Linux", "Darwin"), "runs Darwin; only Linux will do"),
        (GOOD.replace(" yes ", " no "), "/home/anna starts no programs"),
        (GOOD.replace("9000000", "9000"), "/home/anna has 8.8 MiB free"),
        (GOOD.replace("/dev/sda1", "tmpfs"), "/home/anna lies in memory"),
        (GOOD.replace("/home/anna", "/home/$(reboot)"), "no folder can be written to"),
        ("", "an unknown system"),
    ],
)
def test_what_cannot_be_brought_along_is_said(answer, words):
    with pytest.raises(SourceError) as refused:
        may_bring(understood(answer), "ssh://anna@there")
    assert words in str(refused.value)
    assert "stick" in str(refused.value)


def test_the_program_is_brought_whole():
    names = {name for name, _ in own_files()}
    assert {"after_check/__main__.py", "after_check/stick/files/grub.cfg", "after_check/language/words/amounts.py"} <= names
    assert not any("__pycache__" in name for name in names)


def receiver(folder, sent, room_bytes=None):
    """Run what unpacks the program at the other end, as it runs there, with so much room for a file."""
    limit = f"ulimit -f {room_bytes // 512}; " if room_bytes else ""
    command = ["sh", "-c", f'{limit}exec "$0" -c "$1" "$2"', sys.executable, _TAKES_IT, str(folder)]
    return subprocess.run(command, input=sent, capture_output=True, timeout=60, check=False)


def packed(tmp_path):
    return b"".join(_packed(()))


def test_the_other_end_takes_it_whole(tmp_path):
    folder = tmp_path / "after-check-x"
    done = receiver(folder, packed(tmp_path))
    assert done.returncode == 0, done.stderr
    assert (folder / "site/after_check/__main__.py").exists()
    assert folder.stat().st_mode & 0o777 == 0o700


@pytest.mark.parametrize("share", [0.0, 0.01, 0.5, 1.0])
def test_what_was_cut_on_the_way_leaves_nothing_there(tmp_path, share):
    folder = tmp_path / "after-check-x"
    whole = packed(tmp_path)
    last = whole.index(b".whole")  # The mark behind everything else: without it something may be missing.
    done = receiver(folder, whole[: int(last * share) // 512 * 512])
    assert done.returncode != 0
    assert list(tmp_path.iterdir()) == []


def test_a_full_disk_leaves_nothing_there(tmp_path):
    done = receiver(tmp_path / "after-check-x", packed(tmp_path), room_bytes=4096)
    assert done.returncode != 0
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("sign", [signal.SIGHUP, signal.SIGTERM])
def test_a_line_that_is_cut_leaves_nothing_there(tmp_path, sign):
    folder = tmp_path / "after-check-x"
    whole = packed(tmp_path)
    with subprocess.Popen([sys.executable, "-c", _TAKES_IT, str(folder)], stdin=subprocess.PIPE, stderr=subprocess.DEVNULL) as process:
        process.stdin.write(whole[: len(whole) // 2])
        process.stdin.flush()
        until(folder.exists)
        process.send_signal(sign)
        assert process.wait(20) != 0
    assert list(tmp_path.iterdir()) == []
