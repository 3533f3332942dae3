"""Readings over the network taken from the job sheet, in a real terminal."""

from __future__ import annotations

import shutil
import socket

import pytest

from after_check.shop.shop import Shop
from after_check.standins.machines import MACHINES
from after_check.standins.redfish_service import RedfishService
from after_check.standins.ssh_target import SshTarget
from tests.helpers.needs import needs
from tests.helpers.terminal import Terminal

pytestmark = needs(shutil.which("tmux") is not None, "tmux")


@pytest.fixture
def sheet(tmp_path, monkeypatch):
    """A terminal on the job sheet of 0419, ready to take a reading."""
    monkeypatch.setenv("AFTER_CHECK_TRUST", str(tmp_path / "trust"))
    screen = Terminal(tmp_path, "demo", "--shop", str(tmp_path / "demo.db"))
    screen.wait("Camera-trap server")
    screen.open_job("camera", "BOARD", "FINDINGS", "One module not seen")
    screen.keys("r")
    screen.wait("after fitting", "redfish+https")
    yield screen
    screen.close()


def count_readings(tmp_path) -> int:
    return len(Shop.open(tmp_path / "demo.db").jobs.job("0419").readings)


def test_over_ssh_an_unknown_key_is_refused_and_then_accepted(sheet, tmp_path):
    bench = MACHINES["0419"]()
    bench.dead_slots.clear()
    bench.restart()
    bench.write_tree(tmp_path / "far")
    target = SshTarget(tmp_path / "far", password="letmein")
    port = target.start()
    sheet.type(f"ssh://bench@127.0.0.1:{port}{tmp_path / 'far'}")
    sheet.wait("Press enter to read it")
    sheet.keys("Enter")
    sheet.wait("IS THIS THE MACHINE YOU MEAN?", "SHA256:")
    sheet.keys("n")
    sheet.wait("not accepted; nothing was read")
    assert count_readings(tmp_path) == 2
    sheet.keys("Enter")
    sheet.wait("IS THIS THE MACHINE YOU MEAN?")
    sheet.keys("y")
    sheet.wait("refused the login", "password; enter tries it")
    sheet.type("letmein")
    sheet.keys("Enter")
    sheet.wait("AS PROMISED, NOT TESTED", "256 of 256 GiB")
    assert count_readings(tmp_path) == 3
    # Neither the store nor the trust folder holds the password.
    assert b"letmein" not in (tmp_path / "demo.db").read_bytes()
    assert "letmein" not in (tmp_path / "trust" / "known_hosts").read_text()
    target.stop()


def test_over_redfish_with_a_certificate_that_nobody_vouches_for(sheet, tmp_path):
    service = RedfishService(MACHINES["0419"]().machine, tmp_path / "service", password="open")
    port = service.start()
    sheet.type(f"redfish+https://bench@127.0.0.1:{port}")
    sheet.wait("Press enter to read it")
    sheet.keys("Enter")
    sheet.wait("IS THIS THE MACHINE YOU MEAN?", "certificate")
    sheet.keys("y")
    sheet.wait("wants a user and a password")
    sheet.type("open")
    sheet.keys("Enter")
    sheet.wait("NOT READY", "One module not seen")
    assert count_readings(tmp_path) == 3
    service.stop()


def test_a_reading_that_is_stopped_leaves_the_job_as_it_was(sheet, tmp_path):
    with socket.socket() as silent:
        silent.bind(("127.0.0.1", 0))
        silent.listen()
        sheet.type(f"ssh://root@127.0.0.1:{silent.getsockname()[1]}")
        sheet.wait("Press enter to read it")
        sheet.keys("Enter")
        sheet.wait("esc stops it")
        sheet.keys("Escape")
        sheet.wait("stopped; the job is as it was")
    sheet.keys("Escape")
    sheet.wait("FINDINGS", "One module not seen")
    assert count_readings(tmp_path) == 2
