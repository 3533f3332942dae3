"""Simulated benches with a hidden fault: following the proposals names it, in few tries, and seldom the wrong one."""

from __future__ import annotations

import statistics

import pytest
from benchmarks.tries import by_weighing, is_right

from after_check.standins.faulty_bench import FaultyBench, HiddenFault, faulty_bench

BENCHES = 50


def test_the_culprit_is_named():
    right, tries = 0, []
    for seed in range(1000, 1000 + BENCHES):
        bench = faulty_bench(seed)
        kind, name = by_weighing(bench)
        right += bool(kind) and is_right(bench, kind, name)
        tries.append(bench.tries)
    # Over 500 benches 93 of 100 are right in a median of 4 tries; so few as here may scatter by a few.
    assert right >= 0.85 * BENCHES
    assert statistics.median(tries) <= 5
    assert sorted(tries)[int(0.9 * BENCHES)] <= 15


@pytest.mark.parametrize(
    ("fault", "named"),
    [
        (HiddenFault("module", ("b",), "weak"), ("module", "b")),
        (HiddenFault("module", ("a",), "dead"), ("module", "a")),
        (HiddenFault("slot", ("B1",), "absent"), ("slot", "B1")),
        (HiddenFault("machine", (), "dead"), ("machine", "machine")),
        (HiddenFault("outside", (), "hot"), ("outside", "heat, power or another part")),
    ],
)
def test_plain_faults_are_named_within_six_tries(fault, named):
    import random

    bench = FaultyBench(("A1", "B1"), ("a", "b", "p"), fault, random.Random(4), ("p",), dict.fromkeys("abp", True))
    assert by_weighing(bench) == named
    assert bench.tries <= 6


def test_benches_are_what_they_say():
    for seed in range(200):
        bench, again = faulty_bench(seed), faulty_bench(seed)
        assert bench.fault == again.fault
        first = dict(zip(bench.slots, bench.modules, strict=False))
        assert bench.try_out(first, "1") == again.try_out(first, "1")
        if bench.fault.shows == 1.0 and bench.fault.kind not in ("outside",):
            said = faulty_bench(seed).try_out(first, "1")
            sound = said["start"] != "no" and len(said["seen"]) == len(first) and said.get("soak") == "clean"
            assert not sound or bench.fault.symptom == "weak"  # A soak misses a weak cell now and then.
