"""A shop on a server behind a line that stalls and cuts: no call waits for ever, and what was kept is there once."""

from __future__ import annotations

import pytest

from after_check.domain.jobs import JobFacts, Moment
from after_check.shop import server_line
from after_check.shop.errors import KeptAsideError, NotAnsweringError
from after_check.shop.opening import send_waiting
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from tests.helpers.bad_line import BadLine
from tests.helpers.needs import needs
from tests.postgres import tools

pytestmark = needs(tools() is not None, "PostgreSQL")
FACTS = JobFacts("0501", "Tide desk", "Larkfield T1", "Tide-gauge office", "2x16G DDR4-3200; dual")
READING = take_notation("A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; total 32G")


@pytest.fixture
def line(server, monkeypatch):
    monkeypatch.setattr(server_line, "ANSWER_SECONDS", 0.8)
    one = BadLine(server.port)
    yield one
    one.stalled = False
    one.close()


@pytest.fixture
def shop(server, line):
    name = f"bad line {line.port}"
    direct = server.fresh_shop(name)
    Shop.open(direct).close()
    shop = Shop.open(f"postgresql://bench@127.0.0.1:{line.port}/{name}")
    yield shop
    line.stalled = False
    shop.close()


MODES = ("stall before", "stall after", "cut before", "cut after")


@pytest.mark.parametrize("mode", MODES)
def test_a_job_whose_commit_is_not_answered_is_there_once(shop, line, mode):
    line.at_commit = mode
    uid = "0" * 35 + "1"
    with pytest.raises(NotAnsweringError, match="keep it again"):
        shop.jobs.add(FACTS, ((Moment.ARRIVAL, READING),), uid)
    assert line.commits == 1
    line.cut()
    line.stalled = False
    shop.jobs.add(FACTS, ((Moment.ARRIVAL, READING),), uid)
    assert [(entry.number, len(shop.jobs.job(entry.number).readings)) for entry in shop.jobs.entries()] == [("0501", 1)]
    assert shop.jobs.job("0501").facts == FACTS


@pytest.mark.parametrize("mode", MODES)
def test_a_reading_whose_commit_is_not_answered_is_there_once(shop, line, mode):
    shop.jobs.add(FACTS)
    line.at_commit = mode
    with pytest.raises(KeptAsideError):
        shop.jobs.add_reading("0501", Moment.FITTED, READING)
    assert line.commits == 1
    line.cut()
    line.stalled = False
    send_waiting(shop)
    assert len(shop.jobs.job("0501").readings) == 1


def test_a_look_at_a_line_that_stalls_ends_and_the_next_one_is_answered(shop, line):
    shop.jobs.add(FACTS)
    line.stalled = True
    with pytest.raises(NotAnsweringError, match="does not answer"):
        shop.jobs.entries()
    line.cut()
    line.stalled = False
    assert [entry.number for entry in shop.jobs.entries()] == ["0501"]


def test_a_line_that_is_slow_is_no_line_that_stalls(shop, line):
    line.delay_seconds = 0.04
    shop.jobs.add(FACTS, ((Moment.ARRIVAL, READING),))
    assert shop.jobs.job("0501").facts == FACTS


def test_what_was_corrected_before_it_was_kept_again_is_what_stays(shop, line):
    uid = "0" * 35 + "2"
    line.at_commit = "cut after"
    with pytest.raises(NotAnsweringError):
        shop.jobs.add(FACTS, ((Moment.ARRIVAL, take_notation("A2=8G")),), uid)
    job = shop.jobs.add(JobFacts("0501", "Tide desk, upstairs"), ((Moment.ARRIVAL, READING),), uid)
    assert [entry.number for entry in shop.jobs.entries()] == ["0501"]
    assert job.facts.title == "Tide desk, upstairs"
    assert [slot.name for slot in job.arrival.reading.slots] == ["A2", "B2"]
