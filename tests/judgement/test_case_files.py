"""What is beside a reading in a case file reaches tracks, findings and sheet, and says where it came from."""

from __future__ import annotations

import pytest

from after_check.domain.case_files import CaseFile, Figures
from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Fact, Source
from after_check.domain.readings import BenchmarkOutcome, SoakResult, StartOutcome
from after_check.domain.soak import FaultKind, Symptom, WrongDevices
from after_check.domain.standing import Quantity, TrackStatus, Verdict
from after_check.domain.tries import Arrangement, Blame, NextTry, Suspect, SuspectKind
from after_check.judgement.judge import judge
from after_check.sources.open_source import take_notation, take_promise
from after_check.texts import say, words_of

BOARD = "A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; dual; total 32G"
PROMISE = take_promise("2x16G DDR4-3200; dual")


def findings(**parts):
    file = CaseFile(**{"now": take_notation(BOARD).reading, "promise": PROMISE, **parts})
    return {finding.code: finding for finding in judge(file).findings}


@pytest.mark.parametrize(
    ("kind", "words"),
    [
        (FaultKind.STUCK, "keeps its value"),
        (FaultKind.LANE, "one data line"),
        (FaultKind.ADDRESSING, "reaches another place"),
        (FaultKind.RETENTION, "lose their value in time"),
    ],
)
def test_what_a_soaks_errors_look_like_is_told(kind, words):
    result = SoakResult(3, 10, 95, symptoms=(Symptom(kind, 3, bits=(7,), addresses=1),), wrong_devices=WrongDevices((1,), 8))
    finding = findings(soak=Fact(result, Source.MEASURED, "soak"))[Code.SOAK_ERRORS]
    assert words in words_of(finding).reason
    assert "device 1 of its rank" in words_of(finding).reason
    assert any(dict(evidence.says.values).get("bits") == ("7",) and evidence.source is Source.MEASURED for evidence in finding.evidence)


def test_a_soak_of_this_program_counts_before_one_that_was_typed():
    reading = take_notation(f"{BOARD}; soak errors 5").reading
    clean = Fact(SoakResult(0, 30, 96), Source.MEASURED, "soak")
    assert Code.SOAK_ERRORS in findings(now=reading)
    assert Code.SOAK_ERRORS not in findings(now=reading, soak=clean)


def test_measured_figures_keep_a_promise_that_the_reading_says_nothing_of():
    promise = take_promise("2x16G DDR4-3200; dual; copy at least 30 GB/s")
    unknown = judge(CaseFile(take_notation(BOARD).reading, promise=promise))
    assert unknown.track(Quantity.COPY).status is TrackStatus.UNKNOWN
    assert unknown.verdict is Verdict.CANT_TELL
    figures = Figures(copy_gbs=Fact(31.5, Source.MEASURED, "benchmark"))
    kept = judge(CaseFile(take_notation(BOARD).reading, promise=promise, figures_now=figures))
    track = kept.track(Quantity.COPY)
    assert (track.status, track.now, track.basis) == (TrackStatus.KEPT, 31.5, "measured, benchmark")
    assert kept.verdict is Verdict.READY


def test_benchmark_demand_and_the_latest_start_are_findings():
    found = findings(
        before=take_notation("A2=8G DDR4-3200; run 3200; total 8G").reading,
        benchmark=Fact(BenchmarkOutcome.WORSE, Source.MEASURED, "benchmarks"),
        demand=Fact(21 << 30, Source.MEASURED, "memory in use"),
        start=Fact(StartOutcome.NO, Source.TYPED, "latest try"),
        off_under_load=Fact(True, Source.TYPED, "latest try"),
    )
    assert {Code.BENCHMARK_WORSE, Code.DEMAND_PROVEN, Code.START_NONE, Code.CAUSE_OUTSIDE} <= set(found)
    assert found[Code.START_NONE].severity is Severity.FIX


def test_a_next_try_is_told_where_somebody_asked_for_one():
    tried = Blame((Suspect(SuspectKind.MODULE, "b", 0.6),), says="Most likely module b (60%); not clear yet.", tries=1)
    start = Fact(StartOutcome.NO, Source.TYPED, "latest try")
    without = findings(start=start, tried=tried)[Code.START_NONE]
    proposal = NextTry(Arrangement((("A2", "a"),)), "Try module a alone in A2.", 5.0)
    asked = findings(start=start, tried=tried, next_try=proposal)[Code.START_NONE]
    assert words_of(asked).next == "Try module a alone in A2."
    assert words_of(without).next != words_of(asked).next
    assert words_of(without).next


def test_a_machine_that_was_not_read_after_fitting_is_not_judged():
    judgement = judge(CaseFile(promise=PROMISE, before=take_notation(BOARD).reading))
    assert (judgement.verdict, judgement.findings) == (Verdict.CANT_TELL, ())
    assert "was not read" in say(judgement.why)
