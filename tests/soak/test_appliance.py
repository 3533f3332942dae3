"""An appliance that tests itself, over the service of the stand-in."""

from __future__ import annotations

import threading
import time

import pytest

from after_check.domain.soak import SoakState
from after_check.soak import appliance
from after_check.soak.appliance import ApplianceSoak, NoService
from after_check.soak.record import result_of
from after_check.standins.appliance_service import ApplianceService


@pytest.fixture(autouse=True)
def impatient(monkeypatch):
    monkeypatch.setattr(appliance, "_ASK_SECONDS", 0.1)


@pytest.fixture
def serve():
    services = []

    def start(**changes):
        services.append(ApplianceService(away_seconds=0.6, test_seconds=1.0, **changes))
        return services[-1], f"http://127.0.0.1:{services[-1].start()}"

    yield start
    for service in services:
        service.stop()


def test_it_goes_away_comes_back_and_says_it_is_clean(serve):
    _, address = serve()
    states = []
    record = ApplianceSoak(address, keep=lambda record: states.append(record.state)).run()
    assert record.state is SoakState.FINISHED
    assert record.errors == 0
    assert record.own_word_of.startswith("Cairnbox 2 (CB2-0422)")
    assert record.fully_swept_bytes == round(0.99 * (16 << 30))
    assert states[0] is SoakState.RUNNING
    result = result_of(record)
    assert result is not None
    assert (result.own_word, result.covered_percent) == (True, 99)


def test_its_errors_are_its_own_word(serve):
    _, address = serve(errors=12)
    record = ApplianceSoak(address).run()
    assert (record.errors, record.kept, record.bytes_done) == (12, (), 0)


def test_one_that_does_not_come_back(serve):
    _, address = serve(dies=True)
    record = ApplianceSoak(address, longest_away_seconds=1.0).run()
    assert record.state is SoakState.FAILED
    assert any("has not answered" in words and "lights" in words for words in record.remarks)
    assert result_of(record) is None, "silence is no pass"


def test_it_can_be_stopped_and_not_paused(serve):
    service, address = serve()
    service.test_seconds = 60.0
    soak = ApplianceSoak(address)
    thread = threading.Thread(target=soak.run)
    thread.start()
    deadline = time.monotonic() + 20
    while soak.record.step_share == 0.0 and time.monotonic() < deadline:
        time.sleep(0.05)
    soak.pause()
    soak.stop()
    thread.join(20)
    assert soak.record.state is SoakState.STOPPED
    assert any("cannot be paused" in words for words in soak.record.remarks)
    assert result_of(soak.record) is None


def test_a_share_that_cannot_be_is_not_believed(serve):
    service, address = serve()
    service.lies_about_percent = True
    record = ApplianceSoak(address).run()
    assert 0 <= record.step_share <= 1
    assert any("cannot be" in words for words in record.remarks)


@pytest.mark.parametrize("address", ["", "ftp://127.0.0.1", "https://x", "127.0.0.1:80", "http://"])
def test_addresses_that_are_none(address):
    with pytest.raises(NoService, match="http://HOST:PORT"):
        ApplianceSoak(address)


def test_nobody_there_and_somebody_else_there(serve):
    assert ApplianceSoak("http://127.0.0.1:9").run().state is SoakState.FAILED
    _, address = serve()
    record = ApplianceSoak(address + "/elsewhere").run()
    assert record.state is SoakState.FAILED
    assert any("status 404" in words for words in record.remarks)
