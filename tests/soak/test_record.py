"""Records of soaks: kept, read again, and what judgement takes of them."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime

import pytest

from after_check.cli.soak import exit_code
from after_check.domain.soak import Covered, SoakRecord, SoakState, Surroundings, WrongWord
from after_check.soak.soak_json import (
    covered_percent,
    interrupted,
    read_record,
    record_from_json,
    record_to_json,
    result_of,
    was_hot,
    write_record,
)

GIB = 1 << 30
CLEAN = SoakRecord(
    plan="short",
    state=SoakState.FINISHED,
    begun_at=datetime(2026, 11, 2, 18, tzinfo=UTC),
    seconds=125.0,
    steps=("one", "two"),
    steps_done=2,
    passes_done=1,
    covered=Covered(15 * GIB, 15 * GIB + GIB // 2, 16 * GIB, GIB // 2, True),
    fully_swept_bytes=15 * GIB,
)
FAILED = replace(CLEAN, errors=1, kept=(WrongWord(1.0, "one", 8, None, 2**64 - 1, 2**63, 0, 1),), suspects=("B2",))


@pytest.mark.parametrize("record", [CLEAN, FAILED])
def test_kept_and_read_again(record, tmp_path):
    assert record_from_json(record_to_json(record)) == record
    write_record(record, tmp_path / "deep" / "soak.json")
    assert read_record(tmp_path / "deep" / "soak.json") == record
    assert [path.name for path in (tmp_path / "deep").iterdir()] == ["soak.json"]


@pytest.mark.parametrize(
    "text", ["", "[]", "{}", '{"format": "other"}', '{"version": 9}', '{"plan": 1}', record_to_json(CLEAN).replace('"short"', "[]")]
)
def test_damaged_records(text):
    with pytest.raises(ValueError, match=r".+"):
        record_from_json(text)


def test_what_judgement_takes():
    result = result_of(CLEAN)
    assert result is not None
    assert (result.errors, result.minutes, result.covered_percent, result.by) == (0, 2, 93, "short soak")
    assert result_of(FAILED).suspects == ("B2",)
    assert result_of(replace(CLEAN, steps_done=0, fully_swept_bytes=0)) is None
    assert covered_percent(replace(CLEAN, covered=Covered())) is None


def test_heat():
    assert not was_hot(CLEAN)
    assert was_hot(replace(CLEAN, surroundings=(Surroundings(1.0, module_celsius=85.1),)))
    assert not was_hot(replace(CLEAN, surroundings=(Surroundings(1.0, module_celsius=85.0, throttled=0),)))
    assert was_hot(replace(CLEAN, surroundings=(Surroundings(1.0, throttled=2),)))


def test_one_that_says_it_runs_and_does_not():
    assert interrupted(replace(CLEAN, state=SoakState.RUNNING, seconds_left=9.0)).state is SoakState.INTERRUPTED
    assert interrupted(CLEAN) is CLEAN


@pytest.mark.parametrize(
    ("changes", "wanted", "code"),
    [
        ({}, None, 0),
        ({"errors": 1}, None, 1),
        ({"fully_swept_bytes": 14 * GIB}, None, 2),
        ({"fully_swept_bytes": 14 * GIB}, 14 * GIB, 0),
        ({"fully_swept_bytes": 14 * GIB}, 16 * GIB, 2),
        # Stopped within the first pass: the steps that were not run say nothing.
        ({"state": SoakState.STOPPED, "steps_done": 1, "passes_done": 0}, None, 2),
        ({"state": SoakState.STOPPED, "steps_done": 4, "passes_done": 1}, None, 0),
        ({"state": SoakState.STOPPED, "steps_done": 0, "fully_swept_bytes": 0}, None, 2),
        ({"state": SoakState.FAILED, "fully_swept_bytes": 0}, None, 2),
        ({"state": SoakState.INTERRUPTED}, None, 2),
        ({"own_word_of": "a box"}, None, 0),
    ],
)
def test_exit_codes(changes, wanted, code):
    assert exit_code(replace(CLEAN, **changes), wanted) == code
