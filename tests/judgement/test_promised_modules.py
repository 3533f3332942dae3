"""Modules promised by number and size against every set of modules that may be fitted: ready only where each promised one is there.

The rule is worked out here by itself: laid side by side from the largest down, no promised module may be larger than the fitted one.
A single size in a promise is most often meant as the amount, and may come in any number of modules.
"""

from __future__ import annotations

from itertools import combinations_with_replacement

import pytest

from after_check.domain.case_files import CaseFile
from after_check.domain.findings import Verdict
from after_check.judgement.judge import judge
from after_check.language.short_form.parser import parse
from after_check.language.short_form.promise import parse_promise

SLOTS = ("A2", "B2", "A1")
SETS = [sizes for number in (1, 2, 3) for sizes in combinations_with_replacement((4, 8, 16), number)]


def line(sizes, in_slots, kind=""):
    return "; ".join(f"{SLOTS[at]}={size}G{kind}" if in_slots else f"1x{size}G{kind}" for at, size in enumerate(sizes))


def is_kept(promised, fitted):
    pairs = zip(sorted(promised, reverse=True), sorted(fitted, reverse=True), strict=False)
    return len(fitted) >= len(promised) and all(have >= wanted for wanted, have in pairs)


@pytest.mark.parametrize("promise_in_slots", [True, False])
@pytest.mark.parametrize("fitted_in_slots", [True, False])
@pytest.mark.parametrize("promised", SETS, ids=str)
def test_ready_only_where_each_promised_module_is_there(promised, promise_in_slots, fitted_in_slots):
    promise, _ = parse_promise(line(promised, promise_in_slots))
    for fitted in SETS:
        now = parse(f"{line(fitted, fitted_in_slots, ' DDR4-3200')}; run 3200; total {sum(fitted)}G; soak clean 60min 95%").reading
        verdict = judge(CaseFile(now=now, promise=promise)).verdict
        if verdict is Verdict.READY:
            assert is_kept(promised, fitted) or (len(promised) == 1 and sum(fitted) >= promised[0]), (promised, fitted)
        elif promised == fitted:
            pytest.fail(f"{fitted} is what was promised, and the verdict is {verdict}")
