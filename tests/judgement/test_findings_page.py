"""Every finding code has an entry in docs/findings.md and is reached by a worked case."""

from __future__ import annotations

import re
from pathlib import Path

from after_check.domain.codes import Code
from tests.helpers.cases import CASES, judged

ROOT = Path(__file__).parents[2]
CODES = {code.value for code in Code}

NOT_TYPED = {
    "module.unexpected",
    "firmware.changed_notice",
    "source.rights",
    "source.damaged",
    "ecc.uncorrected",
    "channels.node_empty",
    "demand.proven",
    "demand.short",
    "cause.found",
    "cause.open",
    "soak.not_enough",
}
"""Codes whose facts have no notation; they are reached by tests of their own."""


def test_the_page_has_exactly_the_codes():
    page = set(re.findall(r"^### (\S+)$", (ROOT / "docs" / "findings.md").read_text(), re.MULTILINE))
    assert page == CODES


def test_every_code_is_reached_by_a_worked_case():
    reached = {finding.code for case in CASES.values() for finding in judged(case).findings}
    assert CODES - reached <= NOT_TYPED


def test_there_are_enough_cases_and_enough_that_differ_in_one_fact():
    assert len(CASES) >= 80
    assert sum("differs_from" in case for case in CASES.values()) >= 15
