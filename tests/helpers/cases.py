"""The worked cases in `tests/cases`, and how one is judged."""

from __future__ import annotations

import tomllib
from pathlib import Path

from after_check.domain.case_files import CaseFile
from after_check.judgement.judge import judge
from after_check.sources.card_file import read_card_file
from after_check.sources.open_source import take_notation, take_promise
from tests.conftest import SAMPLES

CASES = {
    name: case
    for path in sorted((Path(__file__).parent.parent / "cases").glob("*.toml"))
    for name, case in tomllib.loads(path.read_text()).items()
}


def judged(case):
    return judge(
        CaseFile(
            now=take_notation(case["after"]).reading,
            before=take_notation(case["before"]).reading if "before" in case else None,
            promise=take_promise(case["promise"]) if "promise" in case else None,
            card=read_card_file(SAMPLES / "cards" / f"{case['card']}.toml") if "card" in case else None,
        )
    )
