"""Errors of a memory test stay until a run that covers at least as much clears them, after something was changed."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from after_check.casework.judging import judge_job, soak_of
from after_check.domain.identity import MachineIdentity
from after_check.domain.jobs import Job, JobFacts, KeptReading, KeptSoak, Moment
from after_check.domain.soak import Covered, SoakRecord, SoakState
from after_check.domain.standing import Verdict
from after_check.sources.open_source import take_notation

GIB = 1 << 30
BOARD = "A2=8G DDR4-2400 serial A1; B2=8G DDR4-2400 serial {}; run 2400; total 16G"
NOON = datetime.now(UTC).replace(microsecond=0) + timedelta(minutes=1)


def run(after_minutes, minutes, errors=0, percent=95):
    covered = Covered(16 * GIB, 16 * GIB, 16 * GIB, 0)
    return SoakRecord(
        "short",
        SoakState.FINISHED,
        NOON + timedelta(minutes=after_minutes),
        minutes * 60.0,
        steps_done=4,
        passes_done=1,
        errors=errors,
        covered=covered,
        fully_swept_bytes=16 * GIB * percent // 100,
        machine=MachineIdentity(is_the_jobs=True),
    )


def job(*steps):
    """A job with readings (a line) and memory tests in the order in which they were made, an hour apart."""
    readings, soaks = [KeptReading(1, Moment.FITTED, NOON - timedelta(hours=1), take_notation(BOARD.format("B1")).reading)], []
    for number, step in enumerate(steps):
        at = NOON + timedelta(hours=number)
        if isinstance(step, str):
            readings.append(KeptReading(number + 2, Moment.FITTED, at, take_notation(step).reading))
        else:
            soaks.append(KeptSoak(number + 1, at, step))
    facts = JobFacts("1", promise="2x8G DDR4-2400; run 2400")
    return Job(1, facts, tuple(readings), NOON, NOON, 1, soaks=tuple(soaks))


def test_a_shorter_clean_run_does_not_clear_errors():
    done = job(run(0, 60, errors=12), run(70, 5))
    assert soak_of(done).value.errors == 12
    assert judge_job(done).verdict is Verdict.NOT_READY


def test_a_clean_run_over_less_of_the_memory_does_not_clear_errors():
    assert soak_of(job(run(0, 60, errors=3), run(70, 90, percent=40))).value.errors == 3


def test_a_long_clean_run_with_nothing_changed_does_not_clear_errors():
    assert soak_of(job(run(0, 10, errors=3), run(20, 90))).value.errors == 3


def test_a_clean_run_that_covers_as_much_after_a_module_was_changed_clears_errors():
    done = job(run(0, 10, errors=3), BOARD.format("C1"), run(20, 90))
    assert soak_of(done).value.errors == 0
    assert judge_job(done).verdict is Verdict.READY


def test_a_short_run_after_a_long_clean_one_takes_nothing_from_it():
    found = soak_of(job(run(0, 480), run(500, 5, percent=30)))
    assert (found.value.errors, found.value.minutes, found.value.covered_percent) == (0, 480, 95)


@pytest.mark.parametrize(
    ("line", "errors"),
    [
        ("soak errors 12; soak clean 5min", 12),
        ("soak errors 12; soak clean 60min 95%", 0),
        ("soak clean 8h; soak errors 2", 2),
        ("soak clean 8h; soak clean 5min", 0),
    ],
)
def test_typed_results_in_their_order(line, errors):
    from after_check.domain.case_files import CaseFile
    from after_check.judgement.case import make_case

    case = make_case(CaseFile(take_notation(f"2x8G DDR4-2400; run 2400; {line}").reading))
    assert case.soak.value.errors == errors
