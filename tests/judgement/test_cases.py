"""Judgement against the worked cases in `tests/cases`."""

from __future__ import annotations

import pytest

from after_check.cli.judge import ceiling_name
from after_check.domain.codes import Severity
from after_check.texts import words_of
from tests.helpers.cases import CASES, judged

_BESIDES = {"soak.none"}
"""Said of every machine that nobody tested; the cases are about other things."""


@pytest.mark.parametrize("name", CASES)
def test_case(name):
    case = CASES[name]
    judgement = judged(case)
    codes = [finding.code for finding in judgement.findings]
    said = "\n".join(f"{finding.severity.value} {finding.code}: {words_of(finding).title}" for finding in judgement.findings)
    assert judgement.verdict.value == case["verdict"], f"{judgement.why}\n{said}"
    assert set(case.get("codes", [])) <= set(codes), said
    assert not set(case.get("absent", [])) & set(codes), said
    if case.get("only"):
        assert sorted(set(codes) - _BESIDES) == sorted(case["codes"]), said
    if "roots" in case:
        fixed = [finding.code for finding in judgement.roots if finding.severity is Severity.FIX]
        assert fixed == case["roots"], said
    if "binding" in case:
        binding = [ceiling_name(ceiling) for ceiling in judgement.ceilings if ceiling.binding]
        assert binding == ([case["binding"]] if case["binding"] else []), judgement.ceilings
    if "differs_from" in case:
        assert judgement.verdict.value != CASES[case["differs_from"]]["verdict"]
    for finding in judgement.findings:
        assert words_of(finding).reason.endswith((".", "?"))
        assert words_of(finding).next.endswith(".")
        assert words_of(finding).customer.endswith(".")
        assert 0 <= finding.sure <= 1


@pytest.mark.parametrize("name", CASES)
def test_at_most_one_reason_for_the_rate(name):
    judgement = judged(CASES[name])
    assert sum(finding.code.startswith("rate.") for finding in judgement.findings) <= 1
    assert sum(ceiling.binding for ceiling in judgement.ceilings) <= 1
