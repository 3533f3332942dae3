"""The tables of docs/limits.md: each figure is the one in the code, and each such figure of the code is there."""

from __future__ import annotations

import importlib
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
UNITS = {"bytes": 1, "KiB": 1 << 10, "MiB": 1 << 20, "GiB": 1 << 30}
ROW = re.compile(r"\| (?P<what>[^|]+) \| (?P<most>[\d,]+)(?: (?P<unit>\w+))? \| (?P<why>[^|]+) \| `(?P<module>[\w.]+):(?P<name>\w+)` \|")
ROWS = [match for line in (ROOT / "docs" / "limits.md").read_text().splitlines() if (match := ROW.fullmatch(line))]
IN_CODE = re.compile(
    r"^(_?(?:LARGEST_\w*_BYTES|LONGEST_TABLE_BYTES|MOST_PIXELS|MOST_MEMBERS|MOST_VALUES)|LONGEST_TEXT|WHOLE_SECONDS)\b", re.MULTILINE
)
NO_LIMITS = {"LARGEST_SIZE_BYTES", "LARGEST_WORKING_SET_BYTES", "_LARGEST_SLICE_BYTES", "_LARGEST_32_BIT_BYTES"}
"""Amounts of the machine's own memory: no limits of what is read."""


@pytest.mark.parametrize("row", ROWS, ids=lambda row: row["name"])
def test_a_limit_is_the_one_in_the_code_and_has_its_reason(row):
    value = getattr(importlib.import_module(f"after_check.{row['module']}"), row["name"])
    assert value == int(row["most"].replace(",", "")) * UNITS.get(row["unit"] or "bytes", 1)
    assert len(row["why"]) > 8


def test_every_limit_of_the_code_stands_in_the_tables():
    named = {(row["module"], row["name"]) for row in ROWS}
    found = set()
    for path in (ROOT / "src" / "after_check").rglob("*.py"):
        module = ".".join(path.relative_to(ROOT / "src" / "after_check").with_suffix("").parts)
        found |= {(module, name) for name in IN_CODE.findall(path.read_text(encoding="utf-8")) if name not in NO_LIMITS}
    assert len(found) > 20
    assert found <= named, sorted(found - named)
