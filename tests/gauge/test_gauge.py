"""Gauges of this machine, small ones; scores as they are typed; what a job makes of them."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.findings import Verdict
from after_check.domain.gauge import GaugeRecord, GaugeState, Series
from after_check.domain.jobs import JobFacts, Moment
from after_check.gauge import kernels
from after_check.gauge.conditions import look_around
from after_check.gauge.engine import FLOWS, Buffers, Gauge
from after_check.gauge.plan import GaugePlan, staircase, usual_plan
from after_check.gauge.record import gauge_document, gauge_from_json, gauge_to_json, merged
from after_check.gauge.scores import parse_scores
from after_check.judgement.channels import proven_channels
from after_check.shop.summary import gauges_of, judge_job, reading_now
from after_check.sources.take import take_notation
from after_check.sources.tree import Tree

MIB = 1 << 20
TINY = GaugePlan("tiny", 2, 8 * MIB, 4, staircase(256 << 10, 1), 20_000)
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


def test_a_whole_gauge():
    record = Gauge(TINY).run()
    assert record.state is GaugeState.FINISHED
    names = [one.name for one in record.series]
    assert names[: len(FLOWS)] == [f"{flow} · 1 thread" for flow, _ in FLOWS]
    assert {"latency · 16 KiB", "latency · 256 KiB · small pages", "latency · 256 KiB · under load"} <= set(names)
    assert all(len(one.samples) == 4 and min(one.samples) > 0 for one in record.series)
    assert record.best_bandwidth_gbs == max(one.median for one in record.series if one.unit == "GB/s")
    assert record.conditions.threads == 2
    assert gauge_from_json(gauge_to_json(record)) == record
    assert gauge_from_json(json.dumps(gauge_document(record))) == record


def test_a_stopped_gauge_keeps_what_it_has():
    gauge = Gauge(replace(TINY, repeats=1000))
    change = gauge._change

    def stop_after_two_rounds(**changes):
        change(**changes)
        if gauge.record.series and len(gauge.record.series[0].samples) == 2:
            gauge.stop()

    gauge._change = stop_after_two_rounds
    record = gauge.run()
    assert record.state is GaugeState.STOPPED
    assert len(record.series[0].samples) >= 2


def test_no_memory_for_buffers_is_a_failure_that_says_so():
    record = Gauge(replace(TINY, buffer_bytes=1 << 52)).run()
    assert record.state is GaugeState.FAILED
    assert "cannot be had" in record.remarks[0]


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
    assert [(one.name, one.unit, one.samples, one.lower_is_better, one.stress) for one in found] == [
        ("Sorting test", "points", (1234, 1240, 1228), False, "processor"),
        ("Export", "s", (61.2, 60.8, 61.0), True, "work"),
        ("Frames", "fps", (58.1,), False, "graphics"),
    ]


@pytest.mark.parametrize(
    ("line", "why"),
    [("Export", "a name and then a value"), ("61 s", "a name and then a value"), ("Export 61 s 60", "values stand together")],
)
def test_what_is_no_score_is_named(line, why):
    found, (problem,) = parse_scores(f"Frames 58 fps\n{line}")
    assert len(found) == 1
    assert (problem.line, why in str(problem)) == (2, True)
    assert "before" in str(parse_scores("a 1 s\na 2 ms")[1][0])


@given(st.text(max_size=200))
def test_any_text_is_scores_or_problems(text):
    found, problems = parse_scores(text)
    assert all(one.samples and one.name for one in found)
    assert all(problem.why for problem in problems)


@pytest.mark.parametrize(("gbs", "channels"), [(10.0, 1), (25.6, 1), (25.7, 2), (51.2, 2), (52.0, 3)])
def test_flow_beyond_one_channel_proves_another(gbs, channels):
    # One channel of DDR4-3200 carries 3200 × 8 / 1000 = 25.6 GB/s.
    assert proven_channels(gbs, 3200) == channels


def record(gbs, hours=0):
    samples = tuple(gbs + step / 100 for step in range(7))
    return GaugeRecord(THEN.replace(hour=hours), GaugeState.FINISHED, series=(Series("read · 4 threads", "GB/s", samples),))


def codes(job):
    return [finding.code for finding in judge_job(job).findings]


def test_a_gauge_settles_the_channels_and_says_whether_it_helped(shop):
    taken = take_notation("2x8G DDR4-3200; run 3200; dual")
    shop.add_job(JobFacts("7", promise="2x8G DDR4-3200; dual"), ((Moment.ARRIVAL, taken), (Moment.FITTED, taken)))
    assert "channels.unproven" in codes(shop.job("7"))
    job = shop.keep_gauge("7", Moment.FITTED, record(20))
    assert "channels.unproven" in codes(job), "below one channel's flow nothing is proven"
    job = shop.keep_gauge("7", Moment.FITTED, record(40, hours=1))
    assert "channels.unproven" not in codes(job)
    assert judge_job(job).verdict is Verdict.READY
    assert not [code for code in codes(job) if code.startswith("gauge.")]
    job = shop.keep_gauge("7", Moment.ARRIVAL, record(45))
    assert "gauge.worse" in codes(job)
    assert reading_now(job).bandwidth_gbs.value == pytest.approx(40.03)
    before, now = gauges_of(shop.job("7"))
    assert (before.series[0].median, now.series[0].median) == (pytest.approx(45.03), pytest.approx(40.03))


def test_more_flow_than_the_slots_allow_is_a_contradiction(shop):
    shop.add_job(JobFacts("8", promise="2x8G; dual"), ((Moment.FITTED, take_notation("A1=8G DDR4-3200; A2=8G DDR4-3200; run 3200")),))
    job = shop.keep_gauge("8", Moment.FITTED, record(40))
    assert "source.disagree" in codes(job)
    assert judge_job(job).verdict is not Verdict.READY


def test_several_gauges_of_one_moment_are_one():
    typed = GaugeRecord(THEN.replace(hour=3), GaugeState.FINISHED, series=(Series("Export", "s", (61.0,), True, True),))
    whole = merged([typed, record(20, hours=1), record(40, hours=2)])
    assert [(one.name, round(one.median)) for one in whole.series] == [("read · 4 threads", 40), ("Export", 61)]
    assert merged([]) is None


@pytest.mark.parametrize("text", ["", "[]", '{"format": "other"}', '{"version": 7}', '{"begun_at": 1, "series": 5}', '{"series": [3]}'])
def test_damaged_gauges(text):
    with pytest.raises(ValueError, match=r".+"):
        gauge_from_json(text)
