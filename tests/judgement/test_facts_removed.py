"""Unknown is not a pass: leaving facts out never makes a machine ready that is not.

Facts are left out one by one and many at once from every worked case: quantities that were read, slots, and single
values of modules. Two kinds of facts are not among them. A warning (settings cleared, a restart pending, errors, a
virtual machine): that nobody mentioned it is what a reading without it means. And a second opinion that speaks
against a first one (the system's total against the firmware's, a shown channel mode against the slots, what
modules say of their kind against each other): without it the first opinion is alone, as in every reading that
never had a second.
"""

from __future__ import annotations

from dataclasses import fields, replace
from functools import cache
from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from after_check.domain.boards import Filling
from after_check.domain.case_files import CaseFile
from after_check.domain.modules import Module
from after_check.domain.readings import Reading
from after_check.domain.standing import Verdict
from after_check.judgement.judge import judge
from after_check.sources.card_file import read_card_file
from after_check.sources.open_source import take_notation, take_promise
from tests.conftest import SAMPLES
from tests.helpers.cases import CASES, judged

_QUANTITIES = ("running_rate", "profile", "timings", "array_limit_bytes", "voltage_mv", "ecc_on")
_KINDS = {"generation", "form", "ecc", "voltage_mv"}
_MODULE_FIELDS = tuple(field.name for field in fields(Module) if field.name not in _KINDS)
_WARNINGS = ("source.disagree", "firmware.reset", "source.virtual", "cause.outside", "soak.errors", "start.none", "rate.pending_restart")


@cache
def names():
    """Cases without such a warning; asked for by the test alone, as all tests are collected by every process that runs some."""
    return sorted(
        name
        for name, case in CASES.items()
        if "promise" in case and not {finding.code for finding in judged(case).findings} & set(_WARNINGS)
    )


@cache
def whole_of(name):
    """What a case is judged by with nothing left out: its reading, promise and card."""
    case = CASES[name]
    card = read_card_file(SAMPLES / "cards" / f"{case['card']}.toml") if "card" in case else None
    return take_notation(case["after"]).reading, take_promise(case["promise"]), card


def without(reading: Reading, quantities, slots, values) -> Reading:
    """Leave out quantities by name, slots by index, and module values by (slot index, field)."""
    kept = []
    for index, slot in enumerate(reading.slots):
        if index in slots:
            kept.append(replace(slot, filling=Filling.UNKNOWN, module=None))
            continue
        names = {name for at, name in values if at == index}
        kept.append(replace(slot, module=replace(slot.module, **dict.fromkeys(names))) if slot.module is not None else slot)
    return replace(reading, slots=tuple(kept), **dict.fromkeys(quantities))


@settings(max_examples=600)
@given(
    st.deferred(lambda: st.sampled_from(names())),
    st.sets(st.sampled_from(_QUANTITIES)),
    st.sets(st.integers(0, 7), max_size=3),
    st.sets(st.tuples(st.integers(0, 7), st.sampled_from(_MODULE_FIELDS)), max_size=8),
)
def test_leaving_facts_out_never_makes_a_machine_ready(name, quantities, slots, values):
    reading, promise, card = whole_of(name)
    whole = judge(CaseFile(reading, None, promise, card))
    judgement = judge(CaseFile(without(reading, quantities, slots, values), None, promise, card))
    if whole.verdict is not Verdict.READY:
        assert judgement.verdict is not Verdict.READY, [finding.code for finding in whole.findings]


@pytest.mark.parametrize("name", sorted(CASES))
def test_an_empty_reading_is_never_ready(name):
    case = CASES[name]
    promise = take_promise(case["promise"]) if "promise" in case else None
    assert judge(CaseFile(Reading(), None, promise)).verdict is Verdict.CANT_TELL


@pytest.mark.parametrize(
    "name", sorted(name for name, case in CASES.items() if "=" in case.get("promise", "") and case["verdict"] != "ready")
)
def test_whatever_slots_nobody_looked_at_a_promise_of_places_is_not_ready(name):
    """Every set of slots is left out in turn, with the total and the rate still there."""
    reading, promise, card = whole_of(name)
    numbers = range(min(len(reading.slots), 6))
    for count in range(1, len(numbers) + 1):
        for slots in combinations(numbers, count):
            judgement = judge(CaseFile(without(reading, (), slots, ()), None, promise, card))
            assert judgement.verdict is not Verdict.READY, slots
