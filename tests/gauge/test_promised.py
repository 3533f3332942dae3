"""A promise that holds a gauge; a gauge taken up again; the charts."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import UTC, datetime

import pytest
from pypdf import PdfReader

from after_check.domain.findings import Quantity, TrackStatus, Verdict
from after_check.domain.gauge import Conditions, GaugeRecord, GaugeState, Series
from after_check.domain.jobs import JobFacts, Moment
from after_check.gauge.engine import Gauge
from after_check.gauge.plan import GaugePlan
from after_check.gauge.record import promised_figures, stairs_of
from after_check.handback.export import gauge_drawings, write_drawings
from after_check.judgement.judge import judge
from after_check.shop.store import Shop
from after_check.shop.summary import judge_job
from after_check.sources.notation import parse, parse_promise, write
from after_check.sources.take import take_notation

WHEN = datetime(2026, 11, 2, tzinfo=UTC)
TINY = GaugePlan("tiny", 1, 8 << 20, 3, (16 << 10, 64 << 10), 10_000, under_load=False)


def record(copy_gbs=31.0, latency_ns=88.0, state=GaugeState.FINISHED):
    def runs(name, value, unit):
        return Series(name, unit, tuple(value + offset for offset in (-0.5, 0.0, 0.0, 0.5)), unit == "ns")

    return GaugeRecord(
        WHEN,
        state,
        series=(
            runs("copy · 1 thread", copy_gbs / 2, "GB/s"),
            runs("copy · 2 threads", copy_gbs, "GB/s"),
            runs("write past cache · 2 threads", 99.0, "GB/s"),
            runs("latency · 16 KiB", 1.5, "ns"),
            runs("latency · 256 MiB", latency_ns, "ns"),
            runs("latency · 256 MiB · under load", 400.0, "ns"),
        ),
    )


def test_what_a_promise_may_name():
    figures = promised_figures(record())
    assert figures == {"copy_gbs": 31.0, "latency_ns": 88.0}
    assert [step.size_bytes for step in stairs_of(record())] == [16 << 10, 256 << 20]


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
    judgement = judge(reading, None, parse_promise("2x16G DDR4-2933; dual; copy at least 30 GB/s")[0])
    assert (judgement.track(Quantity.COPY).status, judgement.verdict) == (status, verdict)
    assert ("gauge.short" in [one.code for one in judgement.findings]) == (status is TrackStatus.SHORT)


def test_a_kept_gauge_settles_the_promise(tmp_path):
    shop = Shop.open(tmp_path / "shop.db")
    facts = JobFacts("1", promise="2x16G DDR4-2933; dual; copy at least 30 GB/s; latency at most 80 ns")
    shop.add_job(facts, ((Moment.FITTED, take_notation("2x16G DDR4-2933; run 2933; dual; profile off; total 32G")),))
    assert judge_job(shop.job("1")).verdict is Verdict.CANT_TELL
    judgement = judge_job(shop.keep_gauge("1", Moment.FITTED, record()))
    assert judgement.track(Quantity.COPY).status is TrackStatus.KEPT
    latency = judgement.track(Quantity.LATENCY)
    assert (latency.now, latency.status) == (88.0, TrackStatus.SHORT)
    assert judgement.verdict is Verdict.NOT_READY


def test_a_stopped_gauge_is_taken_up_again():
    seen = []

    class Stopping(Gauge):
        def _latency(self, chain, size_bytes, plan):
            seen.append(size_bytes)
            if len(seen) == 7:  # three working sets a round: the seventh is in the round after the warm-up and the first
                self.stop()
            return super()._latency(chain, size_bytes, plan)

    stopped = Stopping(TINY).run()
    assert stopped.state is GaugeState.STOPPED
    assert {len(one.samples) for one in stopped.series} == {1}
    whole = Gauge(TINY, earlier=stopped).run()
    assert whole.state is GaugeState.FINISHED
    for one in whole.series:
        assert len(one.samples) == 3
        assert one.samples[:1] == stopped.named(one.name).samples
    other_plan = replace(stopped, conditions=Conditions(plan="another 9"))
    fresh = Gauge(TINY, earlier=other_plan).run()
    assert all(one.samples[:1] != stopped.named(one.name).samples for one in fresh.series)


def test_charts_carry_both_gauges_and_the_ceilings(tmp_path):
    before, now = record(20.0, 100.0), record(31.0, 88.0)
    written = write_drawings(gauge_drawings(before, now, 23.464, 2), tmp_path, "Job <1>")
    assert sorted(path.name for path in written) == ["flow.pdf", "flow.svg", "latency.pdf", "latency.svg"]
    flow = (tmp_path / "flow.svg").read_text()
    assert "Job &lt;1>: flow" in flow
    for words in ("1 channel: 23.5", "2 channels: 46.9", "copy · 2 threads", "20.0 &gt; 31.0"):
        assert words in flow
    stairs = PdfReader(tmp_path / "latency.pdf").pages[0].extract_text()
    assert "16 KiB" in stairs
    assert "256 MiB" in stairs
    # Powers of two from below the shortest wait (1.0 ns) to above the longest (100.5 ns).
    assert re.search(r"\b128\b", stairs)


def test_charts_of_nothing_say_so(tmp_path):
    written = write_drawings(gauge_drawings(None, None), tmp_path, "none")
    assert all("not measured" in path.read_text() for path in written if path.suffix == ".svg")
