"""Soaks in a shop: kept while they run, found again, and judged."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import update

from after_check.casework.judging import judge_job, soak_of
from after_check.domain.bench import WaitsFor
from after_check.domain.facts import Source
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.soak import SoakState, Surroundings
from after_check.domain.standing import Verdict
from after_check.shop import tables
from after_check.shop.errors import NotFoundError
from after_check.sources.open_source import take_notation
from tests.soak.test_record import CLEAN, FAILED

RUNNING = replace(CLEAN, state=SoakState.RUNNING, steps_done=1, step_share=0.5, seconds_left=90.0)


@pytest.fixture
def job(shop):
    line = "A2=8G DDR4-3200; B2=8G DDR4-3200; run 3200; dual"
    taken = take_notation(line)
    shop.jobs.add(JobFacts("7", "Tide desk", promise="2x8G DDR4-3200; dual"), ((Moment.FITTED, taken),))
    return shop.jobs.job("7")


def codes(job):
    return [finding.code for finding in judge_job(job).findings]


def line(shop):
    return next(line for line in shop.jobs.lines() if line.number == "7")


def test_a_running_soak_shows_on_the_bench_and_leaves_the_jobs_version(shop, job):
    first = shop.jobs.keep_soak("7", RUNNING)
    assert shop.jobs.keep_soak("7", replace(RUNNING, step_share=0.6), first) == first
    assert shop.jobs.job("7").version == job.version
    assert len(shop.jobs.job("7").soaks) == 1
    assert line(shop).waits_for is WaitsFor.SOAK
    assert line(shop).soak == "short memory test running at 80%, no errors, 2 min left"


def test_a_clean_soak_takes_the_remark_away(shop, job):
    assert "soak.none" in codes(job)
    shop.jobs.keep_soak("7", CLEAN)
    after = shop.jobs.job("7")
    assert not [code for code in codes(after) if code.startswith("soak")]
    assert judge_job(after).verdict is Verdict.READY
    fact = soak_of(after)
    assert (fact.source, fact.value.covered_percent) == (Source.MEASURED, 93)


def test_errors_make_it_not_ready_and_point_at_the_slot(shop, job):
    shop.jobs.keep_soak("7", FAILED)
    judgement = judge_job(shop.jobs.job("7"))
    finding = next(item for item in judgement.findings if item.code == "soak.errors")
    assert judgement.verdict is Verdict.NOT_READY
    assert finding.slots == ("B2",)
    assert "point at B2" in line(shop).worst_title


def test_errors_in_the_heat_are_not_the_memorys_alone(shop, job):
    hot = replace(FAILED, surroundings=(Surroundings(5.0, throttled=3),))
    shop.jobs.keep_soak("7", hot)
    assert {"soak.errors", "cause.outside"} <= set(codes(shop.jobs.job("7")))


def test_a_small_part_covered_is_told(shop, job):
    shop.jobs.keep_soak("7", replace(CLEAN, fully_swept_bytes=CLEAN.fully_swept_bytes // 5))
    assert "soak.partial" in codes(shop.jobs.job("7"))


def test_nothing_finished_is_no_result(shop, job):
    shop.jobs.keep_soak("7", replace(CLEAN, state=SoakState.STOPPED, steps_done=0, fully_swept_bytes=0))
    assert "soak.none" in codes(shop.jobs.job("7"))


def test_a_soak_from_before_the_fitting_says_nothing_of_the_new_modules(shop, job):
    shop.jobs.keep_soak("7", CLEAN)
    shop.jobs.add_reading("7", Moment.FITTED, take_notation("2x8G DDR4-3200"))
    with shop.database.writing() as connection:
        long_ago = datetime.now(UTC) - timedelta(days=30)
        connection.execute(update(tables.soaks).values(changed_at=long_ago))
    assert "soak.none" in codes(shop.jobs.job("7"))


def test_a_killed_program_leaves_an_interrupted_soak(shop, job):
    shop.jobs.keep_soak("7", RUNNING)
    assert shop.jobs.job("7").soak.record.state is SoakState.RUNNING
    with shop.database.writing() as connection:
        connection.execute(update(tables.soaks).values(changed_at=datetime.now(UTC) - timedelta(minutes=1)))
    found = shop.jobs.job("7").soak.record
    assert found.state is SoakState.INTERRUPTED
    assert found.seconds_left is None
    assert found.steps_done == 1


def test_no_such_job(shop):
    with pytest.raises(NotFoundError, match="no job 99"):
        shop.jobs.keep_soak("99", CLEAN)
