"""A true fact beside what is known adds no contradiction and takes no verdict back."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

from hypothesis import given, settings
from hypothesis import strategies as st

from after_check.domain.case_files import CaseFile
from after_check.domain.facts import typed, value_of
from after_check.domain.quantities import MIB
from after_check.domain.readings import StartOutcome
from after_check.domain.standing import Verdict
from after_check.judgement.case import view
from after_check.judgement.judge import judge
from after_check.sources.card_file import read_card_file
from after_check.sources.open_source import take_notation, take_promise
from tests.conftest import SAMPLES
from tests.helpers.cases import CASES, judged


@cache
def ready():
    """Cases that are ready; asked for by the test alone, as all tests are collected by every process that runs some."""
    return sorted(name for name, case in CASES.items() if "promise" in case and judged(case).verdict is Verdict.READY)


def true_facts(reading, card):
    """What a look at the same machine would show besides: worked out here from sizes and slots, by sums."""
    found = {"start": typed(StartOutcome.YES)}
    sizes = [value_of(module.size_bytes) for module in reading.modules]
    if sizes and None not in sizes and reading.redundancy is None and not any(slot.filling.value == "unknown" for slot in reading.slots):
        found["total_bytes"] = typed(sum(sizes))
        as_counted = reading.total_bytes is None or reading.total_bytes.value == sum(sizes)
        if reading.graphics_bytes is None and reading.reserved_bytes is None and as_counted:
            found["usable_bytes"] = typed(sum(sizes) - 150 * MIB)
    channels = view(reading, card).channels.count
    if channels is not None:
        found["channels"] = typed(channels)
    if reading.system_bits is None:
        found["system_bits"] = typed(64)
    return {name: fact for name, fact in found.items() if getattr(reading, name) is None}


@settings(max_examples=300)
@given(
    st.deferred(lambda: st.sampled_from(ready())),
    st.sets(st.sampled_from(["start", "total_bytes", "usable_bytes", "channels", "system_bits"]), min_size=1),
)
def test_a_true_fact_adds_no_contradiction(name, wanted):
    case = CASES[name]
    card = read_card_file(SAMPLES / "cards" / f"{case['card']}.toml") if "card" in case else None
    reading = take_notation(case["after"]).reading
    before = take_notation(case["before"]).reading if "before" in case else None
    more = replace(reading, **{key: fact for key, fact in true_facts(reading, card).items() if key in wanted})
    judgement = judge(CaseFile(more, before, take_promise(case["promise"]), card))
    said = {finding.code for finding in judged(case).findings}
    assert "source.disagree" not in {finding.code for finding in judgement.findings} - said
    assert judgement.verdict is Verdict.READY, judgement.why
