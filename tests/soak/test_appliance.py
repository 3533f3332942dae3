"""An appliance that tests itself, over the service of the stand-in."""

from __future__ import annotations

import threading
import time

import pytest

from after_check.domain.soak import SoakState
from after_check.soak import appliance
from after_check.soak.appliance import ApplianceSoak, NoServiceError
from after_check.soak.soak_json import result_of
from after_check.standins.appliance_service import ApplianceService


@pytest.fixture(autouse=True)
def impatient(monkeypatch):
    monkeypatch.setattr(appliance, "ASK_SECONDS", 0.1)


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
    with pytest.raises(NoServiceError, match="http://HOST:PORT"):
        ApplianceSoak(address)


def test_nobody_there_and_somebody_else_there(serve):
    assert ApplianceSoak("http://127.0.0.1:9").run().state is SoakState.FAILED
    _, address = serve()
    record = ApplianceSoak(address + "/elsewhere").run()
    assert record.state is SoakState.FAILED
    assert any("status 404" in words for words in record.remarks)


def test_a_result_of_an_earlier_test_is_not_the_result_of_this_one(serve):
    """It comes back from its restart without testing, and still says how its last test ended."""
    service, address = serve()
    service.never_runs = True
    service.says_instead = {"state": "done", "percent": 100, "errors": 0, "coveredPercent": 99, "minutes": 12}
    record = ApplianceSoak(address, longest_away_seconds=1.5).run()
    assert record.state is SoakState.FAILED
    assert (record.steps_done, record.fully_swept_bytes) == (0, 0)
    assert any("never said that it runs" in words for words in record.remarks)
    assert result_of(record) is None


@pytest.mark.parametrize("errors", [None, "0", "none", -1, True, 0.0, [], 1 << 60], ids=str)
def test_errors_that_are_no_count_are_no_pass(serve, errors):
    service, address = serve()
    service.says_instead = {"errors": errors}
    record = ApplianceSoak(address).run()
    assert record.state is SoakState.FAILED
    assert record.steps_done == 0
    assert any("not a result" in words for words in record.remarks)
    assert result_of(record) is None


def test_errors_that_it_told_while_it_ran_stay(serve):
    service, address = serve(errors=400)
    service.test_seconds = 3.0
    soak = ApplianceSoak(address)
    thread = threading.Thread(target=soak.run)
    thread.start()
    deadline = time.monotonic() + 20
    while not soak.record.errors and time.monotonic() < deadline:
        time.sleep(0.02)
    service.says_instead = {"errors": None}
    thread.join(20)
    assert soak.record.errors > 0
    assert soak.record.state is SoakState.FAILED
    result = result_of(soak.record)
    assert result is not None
    assert result.errors == soak.record.errors


def test_one_that_does_not_say_how_much_it_tested_covered_nothing_that_is_known(serve):
    service, address = serve()
    service.says_instead = {"coveredPercent": None}
    record = ApplianceSoak(address).run()
    assert (record.state, record.fully_swept_bytes) == (SoakState.FINISHED, 0)
    assert any("does not say how much" in words for words in record.remarks)
