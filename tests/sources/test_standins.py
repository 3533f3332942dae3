"""The stand-ins: what is changed on a simulated machine shows after a restart, and only on loopback."""

from __future__ import annotations

import socket
import subprocess
import sys

import pytest

from after_check.domain.case_files import CaseFile
from after_check.judgement.judge import judge
from after_check.sources.linux import read_folder
from after_check.sources.open_source import take_promise
from after_check.sources.ssh import read_over_ssh
from after_check.sources.trust import Access, PasswordNeededError, TrustNeededError
from after_check.standins.machines import ADDED, MACHINES
from after_check.standins.ssh_target import SshTarget


def seen(bench, folder):
    bench.write_tree(folder)
    return read_folder(folder).reading


def test_a_change_shows_after_a_restart(tmp_path):
    bench = MACHINES["0418"]()
    assert len(seen(bench, tmp_path).modules) == 1
    bench.put_in("ChannelB-DIMM0", ADDED)
    assert len(seen(bench, tmp_path).modules) == 1
    bench.restart()
    assert len(seen(bench, tmp_path).modules) == 2
    bench.half_modules.add(ADDED.serial)
    bench.restart()
    judgement = judge(CaseFile(seen(bench, tmp_path), None, take_promise("ChannelA-DIMM0=8G; ChannelB-DIMM0=8G")))
    assert "module.short" in {finding.code for finding in judgement.findings}
    with pytest.raises(KeyError):
        bench.put_in("Z9", ADDED)


def test_the_server_of_the_scenario_misses_one_module(tmp_path):
    judgement = judge(CaseFile(seen(MACHINES["0419"](), tmp_path), None, take_promise("8x32G DDR4-3200; channels 8")))
    (missing,) = [finding for finding in judgement.findings if finding.code == "module.missing"]
    assert missing.slots == ("D1",)


def test_the_ssh_target_lets_its_user_in_and_nobody_else(tmp_path, monkeypatch):
    monkeypatch.setenv("AFTER_CHECK_TRUST", str(tmp_path / "trust"))
    MACHINES["0417"]().write_tree(tmp_path / "t2")
    target = SshTarget(tmp_path / "t2", password="right")
    address = f"ssh://bench@127.0.0.1:{target.start()}{tmp_path / 't2'}"
    with pytest.raises(TrustNeededError) as caught:
        read_over_ssh(address)
    accepted = caught.value.fingerprint
    with pytest.raises(PasswordNeededError):
        read_over_ssh(address, Access(password="wrong", accepted_fingerprint=accepted))
    reading = read_over_ssh(address, Access(password="right", accepted_fingerprint=accepted)).reading
    assert reading.machine.model.value == "Larkfield T2"
    assert len(reading.modules) == 2
    target.stop()


def test_serving_from_the_command_line(tmp_path):
    serving = subprocess.Popen(
        [sys.executable, "-m", "after_check", "stand-in", "serve", "0419", "--password", "pw"],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )
    assert serving.stdin is not None
    assert serving.stdout is not None
    assert "Holm R6" in serving.stdout.readline()
    address = serving.stdout.readline().strip()
    assert address.startswith("redfish+https://bench@127.0.0.1:")
    with socket.create_connection(("127.0.0.1", int(address.rsplit(":", 1)[1])), timeout=5):
        pass
    said, _ = serving.communicate("dead D1\nrestart\nslots\nnonsense\nquit\n", timeout=20)
    assert "it shows after a restart" in said
    assert "started again" in said
    assert "D1=32G" in said
    assert serving.returncode == 0
