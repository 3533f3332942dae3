"""What was promised of the modules beside an amount, in words or in the short form, is held against every module that is fitted."""

from __future__ import annotations

import pytest

from after_check.domain.case_files import CaseFile
from after_check.domain.findings import Verdict
from after_check.judgement.judge import judge
from after_check.sources.open_source import take, take_promise

FITTED = (
    "2x4G DDR3-1600 11-11-11-28 1.5V udimm noecc 1Rx8 maker Orrin part OR-4; run 1600; dual; total 8G; 11-11-11-28; soak clean 60min 95%"
)

KEPT = ["", "ddr3", "udimm", "no ecc", "single rank", "1Rx8", "1.5 v", "maker Orrin", "part OR-4", "ddr3-1600", "cl11"]
BROKEN = [
    "ddr4",
    "sodimm",
    "ecc",
    "with ecc",
    "dual rank",
    "2Rx8",
    "1Rx4",
    "1.35V",
    "1.35 volt",
    "ddr3l",
    "maker Ostrel",
    "part XX-9",
    "cl9",
]
AMOUNTS = ["8gb {}", "8G; {}", "{}, 8 gb", "8 gb in total, {}", "at least 8gb; {}"]


def verdict(promise):
    return judge(CaseFile(now=take(FITTED).reading, promise=take_promise(promise))).verdict


@pytest.mark.parametrize("amount", AMOUNTS)
@pytest.mark.parametrize("word", BROKEN)
def test_another_kind_than_promised_is_never_ready(amount, word):
    assert verdict(amount.format(word).strip()) is not Verdict.READY


@pytest.mark.parametrize("amount", AMOUNTS)
@pytest.mark.parametrize("word", KEPT)
def test_the_promised_kind_is_ready(amount, word):
    assert verdict(amount.format(word).strip(" ,;")) is Verdict.READY
