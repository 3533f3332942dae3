"""A promise that holds a benchmark; a benchmark taken up again; the charts."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import UTC, datetime

import pytest
from pypdf import PdfReader

from after_check.benchmark.benchmark_json import promised_figures
from after_check.benchmark.measuring import Benchmark
from after_check.benchmark.plan import BenchmarkPlan
from after_check.casework.judging import judge_job
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState, Conditions, Kind, Measurement, Series
from after_check.domain.case_files import CaseFile
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.standing import Quantity, TrackStatus, Verdict
from after_check.handback.export import benchmark_drawings, write_drawings
from after_check.judgement.judge import judge
from after_check.language.short_form import parse, parse_promise, write
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation

WHEN = datetime(2026, 11, 2, tzinfo=UTC)
TINY = BenchmarkPlan("tiny", 1, 8 << 20, 3, (16 << 10, 64 << 10), 10_000, under_load=False)


def record(copy_gbs=31.0, latency_ns=88.0, state=BenchmarkState.FINISHED):
    def runs(value, kind, threads=1, working_set_bytes=None, under_load=False):
        measured = Measurement(kind, threads, working_set_bytes, under_load=under_load)
        samples = tuple(value + offset for offset in (-0.5, 0.0, 0.0, 0.5))
        return Series(samples, kind.unit, measured, lower_is_better=not kind.is_bandwidth)

    return BenchmarkRecord(
        WHEN,
        state,
        series=(
            runs(copy_gbs / 2, Kind.COPY),
            runs(copy_gbs, Kind.COPY, 2),
            runs(99.0, Kind.WRITE_PAST_CACHE, 2),
            runs(1.5, Kind.LATENCY, 1, 16 << 10),
            runs(latency_ns, Kind.LATENCY, 1, 256 << 20),
            runs(400.0, Kind.LATENCY, 1, 256 << 20, under_load=True),
        ),
    )


def test_what_a_promise_may_name():
    figures = promised_figures(record())
    assert figures == {"copy_gbs": 31.0, "latency_ns": 88.0}
    assert [stair.size_bytes for stair in record().stairs] == [16 << 10, 256 << 20]


@pytest.mark.parametrize(
    ("line", "field", "value"),
    [
        ("copy at least 30 GB/s", "copy_gbs", 30.0),
        ("COPY 30", "copy_gbs", 30.0),
        ("read at least 45.5GB/s", "read_gbs", 45.5),
        ("write 20 GB/s", "write_gbs", 20.0),
        ("latency at most 90 ns", "latency_ns", 90.0),
    ],
)
def test_the_words(line, field, value):
    promise, parsed = parse_promise(line)
    assert not parsed.problems
    assert getattr(promise, field) == value
    again = parse(write(parsed.reading))
    assert not again.problems
    assert getattr(again.reading, field).value == value


@pytest.mark.parametrize("line", ["copy", "copy 0.01 GB/s", "latency 90000 ns", "copy at least"])
def test_words_that_make_no_sense(line):
    assert parse(line).problems


@pytest.mark.parametrize(
    ("now", "status", "verdict"),
    [
        ("copy 30 GB/s", TrackStatus.KEPT, Verdict.READY),
        ("copy 31.5", TrackStatus.KEPT, Verdict.READY),
        ("copy 29.9", TrackStatus.SHORT, Verdict.NOT_READY),
        ("read 80", TrackStatus.UNKNOWN, Verdict.CANT_TELL),
    ],
)
def test_a_promise_is_held_against_what_was_measured(now, status, verdict):
    reading = parse(f"2x16G DDR4-2933; run 2933; dual; profile off; total 32G; {now}").reading
    judgement = judge(CaseFile(reading, None, parse_promise("2x16G DDR4-2933; dual; copy at least 30 GB/s")[0]))
    assert (judgement.track(Quantity.COPY).status, judgement.verdict) == (status, verdict)
    assert ("gauge.short" in [finding.code for finding in judgement.findings]) == (status is TrackStatus.SHORT)


def test_a_kept_benchmark_settles_the_promise(tmp_path):
    shop = Shop.open(tmp_path / "shop.db")
    facts = JobFacts("1", promise="2x16G DDR4-2933; dual; copy at least 30 GB/s; latency at most 80 ns")
    shop.jobs.add(facts, ((Moment.FITTED, take_notation("2x16G DDR4-2933; run 2933; dual; profile off; total 32G")),))
    assert judge_job(shop.jobs.job("1")).verdict is Verdict.CANT_TELL
    judgement = judge_job(shop.jobs.keep_benchmark("1", Moment.FITTED, record()))
    assert judgement.track(Quantity.COPY).status is TrackStatus.KEPT
    latency = judgement.track(Quantity.LATENCY)
    assert (latency.now, latency.status) == (88.0, TrackStatus.SHORT)
    assert judgement.verdict is Verdict.NOT_READY


def test_a_stopped_benchmark_is_taken_up_again():
    seen = []

    class Stopping(Benchmark):
        def latency_ns(self, chain, size_bytes, plan):
            seen.append(size_bytes)
            if len(seen) == 7:  # three working sets a round: the seventh is in the round after the warm-up and the first
                self.stop()
            return super().latency_ns(chain, size_bytes, plan)

    stopped = Stopping(TINY).run()
    assert stopped.state is BenchmarkState.STOPPED
    # Each sample is kept as it ends: what was measured in the round that was stopped has two.
    assert {len(measured.samples) for measured in stopped.series} == {1, 2}
    whole = Benchmark(TINY, earlier=stopped).run()
    assert whole.state is BenchmarkState.FINISHED
    for measured in whole.series:
        assert len(measured.samples) == 3
        assert measured.samples[:1] == stopped.of(measured.key).samples[:1]
    other_plan = replace(stopped, conditions=Conditions(plan="another 9"))
    fresh = Benchmark(TINY, earlier=other_plan).run()
    assert all(measured.samples[:1] != stopped.of(measured.key).samples[:1] for measured in fresh.series)


def test_each_sample_is_kept_as_it_ends():
    """Whoever is killed leaves what was measured up to there, as a benchmark that was stopped; in the warming-up, that."""
    kept = []
    whole = Benchmark(TINY, keep=kept.append).run()
    samples = [sum(len(series.samples) for series in record.series) for record in kept]
    quantities, all_samples = len(whole.series), sum(len(series.samples) for series in whole.series)
    assert samples == [*range(1, quantities + 1), *range(1, all_samples + 1)]
    assert {record.state for record in kept} == {BenchmarkState.STOPPED}


def test_charts_carry_both_benchmarks_and_the_ceilings(tmp_path):
    before, now = record(20.0, 100.0), record(31.0, 88.0)
    written = write_drawings(benchmark_drawings(before, now, 23.464, 2), tmp_path, "Job <1>")
    assert sorted(path.name for path in written) == ["bandwidth.pdf", "bandwidth.svg", "latency.pdf", "latency.svg"]
    bandwidth = (tmp_path / "bandwidth.svg").read_text()
    assert "Job &lt;1>: bandwidth" in bandwidth
    for words in ("1 channel: 23.5", "2 channels: 46.9", "copy · 2 threads", "20.0 &gt; 31.0"):
        assert words in bandwidth
    stairs = PdfReader(tmp_path / "latency.pdf").pages[0].extract_text()
    assert "16 KiB" in stairs
    assert "256 MiB" in stairs
    # Powers of two from below the shortest wait (1.0 ns) to above the longest (100.5 ns).
    assert re.search(r"\b128\b", stairs)


def test_charts_of_nothing_say_so(tmp_path):
    written = write_drawings(benchmark_drawings(None, None), tmp_path, "none")
    assert all("not measured" in path.read_text() for path in written if path.suffix == ".svg")
