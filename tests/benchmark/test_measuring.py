"""Benchmarks of this machine, small ones; scores as they are typed; what a job makes of them."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.benchmark import kernels
from after_check.benchmark.before_and_now import compare, overall
from after_check.benchmark.benchmark_json import benchmark_document, benchmark_from_json, benchmark_to_json, merged, promised_figures
from after_check.benchmark.conditions import look_around
from after_check.benchmark.measurement_names import conclusion_words, plain_number
from after_check.benchmark.measuring import BANDWIDTHS, Benchmark, Buffers
from after_check.benchmark.plan import BenchmarkPlan, staircase, usual_plan
from after_check.benchmark.scores import parse_scores
from after_check.casework.judging import benchmarks_of, case_file_of, judge_job
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState, Change, Kind, Measurement, Series
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.standing import Verdict
from after_check.files.tree import Tree
from after_check.judgement.channels import proven_channels
from after_check.sources.open_source import take_notation

MIB = 1 << 20
TINY = BenchmarkPlan("tiny", 2, 8 * MIB, 4, staircase(256 << 10, 1), 20_000)
THEN = datetime(2026, 11, 2, tzinfo=UTC)


def test_the_loops_do_what_they_say():
    buffers = Buffers.take(2 * MIB)
    one, other, third = buffers.words
    words = one.size
    kernels.write(one, 0, words, np.uint64(7))
    assert [int(one[at]) for at in (0, 1, words - 1)] == [7, 6, 7 ^ (words - 1)]
    kernels.write_past_cache(other, 0, words, np.uint64(7))
    assert (one == other).all()
    assert int(kernels.read(one, 0, 8)) == sum(7 ^ at for at in range(8))
    kernels.copy(third, one, 8, 16, np.uint64(5))
    assert (third[8:16] == one[8:16] ^ np.uint64(5)).all()
    numbers = [buffer.view(np.float64) for buffer in buffers.words]
    numbers[1][:], numbers[2][:] = 2.0, 5.0
    kernels.scaled_sum(*numbers, 0, words, 3.0)
    assert (numbers[0] == 17.0).all()


@pytest.mark.parametrize("lines", [2, 3, 100, 4096])
def test_the_chain_is_one_ring_through_every_line(lines):
    chain = np.zeros(lines * 8, dtype=np.uint64)
    kernels.lay_chain(chain, lines, np.uint64(1))
    seen, at = set(), 0
    for _ in range(lines):
        seen.add(at)
        at = int(chain[at])
    assert at == 0
    assert seen == set(range(0, lines * 8, 8))
    assert int(kernels.chase(chain, np.uint64(0), lines)) == 0


def test_working_sets_go_up_evenly():
    assert staircase(128 << 10, 1) == (16384, 32768, 65536, 131072)
    assert staircase(40 << 10, 2) == (16384, 23168, 32768)  # 16 KiB times the root of two, in whole lines.
    plan = usual_plan(4, cache_bytes=33 * MIB, available_bytes=16 << 30)
    assert plan.buffer_bytes == 256 * MIB
    assert plan.repeats >= 7
    assert usual_plan(1, 1 * MIB, 64 * MIB).buffer_bytes == 8 * MIB


def test_a_whole_benchmark():
    record = Benchmark(TINY).run()
    assert record.state is BenchmarkState.FINISHED
    measured = [series.measured for series in record.series]
    assert measured[: len(BANDWIDTHS)] == [Measurement(kind, 1) for kind, _ in BANDWIDTHS]
    wanted = {
        Measurement(Kind.LATENCY, 1, 16 << 10),
        Measurement(Kind.LATENCY, 1, 256 << 10, usual_pages=True),
        Measurement(Kind.LATENCY, 1, 256 << 10, under_load=True),
    }
    assert wanted <= set(measured)
    assert all(len(measured.samples) == 4 and min(measured.samples) > 0 for measured in record.series)
    assert record.best_bandwidth_gbs == max(measured.median for measured in record.series if measured.unit == "GB/s")
    assert record.conditions.threads == 2
    assert benchmark_from_json(benchmark_to_json(record)) == record
    assert benchmark_from_json(json.dumps(benchmark_document(record))) == record


def test_a_stopped_benchmark_keeps_what_it_has():
    benchmark = Benchmark(replace(TINY, repeats=1000))
    change = benchmark._change

    def stop_after_two_rounds(**changes):
        change(**changes)
        if benchmark.record.series and len(benchmark.record.series[0].samples) == 2:
            benchmark.stop()

    benchmark._change = stop_after_two_rounds
    record = benchmark.run()
    assert record.state is BenchmarkState.STOPPED
    assert len(record.series[0].samples) >= 2


def test_no_memory_for_buffers_is_a_failure_that_says_so():
    record = Benchmark(replace(TINY, buffer_bytes=1 << 52)).run()
    assert record.state is BenchmarkState.FAILED
    assert "is not available" in record.remarks[0]


def test_conditions_are_read(tmp_path):
    for name, text in {
        "sys/devices/system/cpu/cpu0/cpufreq/scaling_governor": "powersave\n",
        "sys/devices/system/cpu/cpu1/online": "1\n",
        "sys/class/power_supply/AC/online": "0\n",
        "proc/loadavg": "1.50 1.00 0.50 1/100 42\n",
    }.items():
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_text(text)
    found = look_around(Tree(tmp_path), TINY, True)
    assert (found.governor, found.power, found.load, found.plan) == ("powersave", "battery", 0.75, "tiny 1")


SCORES = """
# pasted from a sheet
Sorting test 1234 1240 1228 points processor
Export: 61.2, 60.8 s
export 61,0 s
Frames 58.1 fps graphics higher
"""


def test_scores_as_they_are_pasted():
    found, problems = parse_scores(SCORES)
    assert problems == ()
    assert [(item.name, item.unit, item.samples, item.lower_is_better, item.stress) for item in found] == [
        ("Sorting test", "points", (1234, 1240, 1228), False, "processor"),
        ("Export", "s", (61.2, 60.8, 61.0), True, "work"),
        ("Frames", "fps", (58.1,), False, "graphics"),
    ]


@pytest.mark.parametrize(
    ("line", "name", "samples", "unit"),
    [
        ("Render test 2: 1,234 points", "Render test 2", (1234,), "points"),
        ("Score = 12,345", "Score", (12345,), ""),
        ("Export 1 min 20 s", "Export", (80,), "s"),
        ("Export 1:20 1:22.5", "Export", (80, 82.5), "s"),
        ("Boot 1m23s", "Boot", (83,), "s"),
        ("Frames 58fps / 57fps", "Frames", (58, 57), "fps"),
        ("Frames 98 100 102 fps higher is better", "Frames", (98, 100, 102), "fps"),
        ("Zip: 1 min 20 s 1 min 22 s", "Zip", (80, 82), "s"),
    ],
)
def test_scores_as_people_write_them(line, name, samples, unit):
    (found,), problems = parse_scores(line)
    assert problems == ()
    assert (found.name, found.samples, found.unit) == (name, samples, unit)


@pytest.mark.parametrize(
    ("line", "why"),
    [
        ("Export", "a name and then a value"),
        ("61 s", "a name and then a value"),
        ("Export 61 s 60", "values stand together"),
        ("Export 61 -> 48 s", "those before and those now are typed apart"),
        ("Sorting 1 234 points", "may be one number or several runs"),
        ("Sorting 1s 2ms", "two units"),
    ],
)
def test_what_is_no_score_is_named(line, why):
    found, (problem,) = parse_scores(f"Frames 58 fps\n{line}")
    assert len(found) == 1
    assert (problem.line, why in str(problem)) == (2, True)
    assert "before" in str(parse_scores("a 1 s\na 2 ms")[1][0])


@given(st.text(max_size=200))
def test_any_text_is_scores_or_problems(text):
    found, problems = parse_scores(text)
    assert all(item.samples and item.name for item in found)
    assert all(problem.why for problem in problems)


@pytest.mark.parametrize(("gbs", "channels"), [(10.0, 1), (25.6, 1), (25.7, 2), (51.2, 2), (52.0, 3)])
def test_bandwidth_beyond_one_channel_proves_another(gbs, channels):
    # One channel of DDR4-3200 carries 3200 × 8 / 1000 = 25.6 GB/s.
    assert proven_channels(gbs, 3200) == channels


def record(gbs, hours=0):
    samples = tuple(gbs + step / 100 for step in range(7))
    return BenchmarkRecord(THEN.replace(hour=hours), BenchmarkState.FINISHED, series=(Series(samples, "GB/s", Measurement(Kind.READ, 4)),))


def codes(job):
    return [finding.code for finding in judge_job(job).findings]


def test_a_benchmark_settles_the_channels_and_says_whether_it_helped(shop):
    taken = take_notation("2x8G DDR4-3200; run 3200; total 16G")
    shop.jobs.add(JobFacts("7", promise="2x8G DDR4-3200; dual"), ((Moment.ARRIVAL, taken), (Moment.FITTED, taken)))
    assert "channels.unproven" in codes(shop.jobs.job("7"))
    job = shop.jobs.keep_benchmark("7", Moment.FITTED, record(20))
    assert "channels.unproven" in codes(job), "below one channel's bandwidth nothing is proven"
    job = shop.jobs.keep_benchmark("7", Moment.FITTED, record(40, hours=1))
    assert "channels.unproven" not in codes(job)
    assert judge_job(job).verdict is Verdict.READY
    assert not [code for code in codes(job) if code.startswith("gauge.")]
    job = shop.jobs.keep_benchmark("7", Moment.ARRIVAL, record(45))
    assert "gauge.worse" in codes(job)
    assert case_file_of(job).figures_now.bandwidth_gbs.value == pytest.approx(40.03)
    before, now = benchmarks_of(shop.jobs.job("7"))
    assert (before.series[0].median, now.series[0].median) == (pytest.approx(45.03), pytest.approx(40.03))


def test_more_bandwidth_than_the_slots_allow_is_a_contradiction(shop):
    shop.jobs.add(JobFacts("8", promise="2x8G; dual"), ((Moment.FITTED, take_notation("A1=8G DDR4-3200; A2=8G DDR4-3200; run 3200")),))
    job = shop.jobs.keep_benchmark("8", Moment.FITTED, record(40))
    assert "source.disagree" in codes(job)
    assert judge_job(job).verdict is not Verdict.READY


def test_several_benchmarks_of_one_moment_are_one():
    typed = BenchmarkRecord(
        THEN.replace(hour=3), BenchmarkState.FINISHED, series=(Series((61.0,), "s", name="Export", lower_is_better=True, typed=True),)
    )
    whole = merged([typed, record(20, hours=1), record(40, hours=2)])
    assert [(part.key, round(part.median)) for part in whole.series] == [(Measurement(Kind.READ, 4), 40), ("export", 61)]
    assert merged([]) is None


@pytest.mark.parametrize("text", ["", "[]", '{"format": "other"}', '{"version": 7}', '{"begun_at": 1, "series": 5}', '{"series": [3]}'])
def test_damaged_benchmarks(text):
    with pytest.raises(ValueError, match=r".+"):
        benchmark_from_json(text)


def test_every_working_set_survives_the_way_through_a_file():
    """As it is written now, and from files that had its size in the name alone, rounded for people."""
    sizes = staircase(1 << 30, steps_an_octave=2)
    series = tuple(Series((9.0,), "ns", Measurement(Kind.LATENCY, 1, size), lower_is_better=True) for size in sizes)
    record = BenchmarkRecord(THEN, BenchmarkState.FINISHED, series=series)
    assert benchmark_from_json(benchmark_to_json(record)) == record
    old = json.loads(benchmark_to_json(record))
    for part in old["series"]:
        del part["measured"]
    assert [stair.size_bytes for stair in benchmark_from_json(json.dumps(old)).stairs] == list(sizes)


@pytest.mark.parametrize(
    ("name", "measured"),
    [
        ("read · 1 thread", Measurement(Kind.READ, 1)),
        ("write past cache · 16 threads", Measurement(Kind.WRITE_PAST_CACHE, 16)),
        ("latency · 22.6 KiB", Measurement(Kind.LATENCY, 1, 23168)),  # 16 KiB times the root of two is 23170.5: 362 lines of 64 bytes.
        ("latency · 256 MiB · small pages", Measurement(Kind.LATENCY, 1, 256 << 20, usual_pages=True)),
        ("latency · 256 MiB · under load", Measurement(Kind.LATENCY, 1, 256 << 20, under_load=True)),
        ("sorting · 2 threads", None),
        ("read · many threads", None),
    ],
)
def test_names_in_old_files(name, measured):
    text = json.dumps({"begun_at": "2026-11-02T00:00:00Z", "series": [{"name": name, "unit": "GB/s", "samples": [1.0]}]})
    (series,) = benchmark_from_json(text).series
    assert (series.measured, series.name) == (measured, name if measured is None else "")


def test_rewording_what_is_measured_changes_nothing_but_words(monkeypatch):
    """No figure, comparison or file hangs on what a screen calls a quantity."""
    import after_check.benchmark.measurement_names as words

    record = BenchmarkRecord(
        THEN, BenchmarkState.FINISHED, series=(Series((80.0, 81.0), "ns", Measurement(Kind.LATENCY, 1, 1 << 26), "", True),)
    )
    before = (benchmark_to_json(record), promised_figures(record), record.stairs)
    monkeypatch.setattr(words, "measurement_words", lambda measured, narrow=False: "in quite other words")
    assert words.series_words(record.series[0]) == "in quite other words"
    assert (benchmark_to_json(record), promised_figures(record), record.stairs) == before
    assert benchmark_from_json(before[0]) == record


def test_work_that_froze_before_and_runs_now_says_more_than_a_score():
    before, _ = parse_scores("Export froze\nSorting 1200 1210 1190 points")
    now, _ = parse_scores("Export 61 s\nSorting 1150 1140 1160 points")
    assert [(item.name, item.did_not_run) for item in before] == [("Export", True), ("Sorting", False)]
    records = [BenchmarkRecord(THEN, BenchmarkState.FINISHED, series=series) for series in (before, now)]
    found = compare(*records)
    assert found[0].change is Change.BETTER
    assert overall(found) is Change.BETTER
    assert overall(compare(*reversed(records))) is Change.WORSE
    assert "did not run before, and runs now" in conclusion_words(found)
    again = benchmark_from_json(benchmark_to_json(records[0]))
    assert again.series == before


@pytest.mark.parametrize("line", ["Export did not finish", "Export crashed", "Export: ran out of memory", "Export doesn't start."])
def test_how_people_say_that_it_did_not_run(line):
    (found,), problems = parse_scores(line)
    assert (found.name, found.did_not_run, problems) == ("Export", True, ())


@pytest.mark.parametrize(
    ("value", "words"), [(48200.4, "48,200"), (61.24, "61.2"), (1234567, "1,234,567"), (60, "60"), (0.123456, "0.123"), (9.5, "9.5")]
)
def test_numbers_are_plain(value, words):
    assert plain_number(value) == words
