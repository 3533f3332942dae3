"""The table of marks: one sign, one meaning, everywhere; none that is not in it, and every font has them."""

from __future__ import annotations

import ast
import unicodedata
from pathlib import Path

import pytest
from reportlab.pdfbase.ttfonts import TTFontFile

from after_check.casework.marks import ScreenMark, marks_in

SOURCE = Path(__file__).parent.parent.parent / "src" / "after_check"
KEYS = "⏎↑"
"""Names of keys, as they are printed on keyboards."""
PROGRAMS = "⇑⇓⇕"
"""The orders of addresses of march programs, as the literature writes them."""


def signs_drawn():
    """Every sign that is no letter, no line and no bar in a text of the interface, the commands and the paper, with where it is."""
    for part in ("tui", "casework", "cli", "handback"):
        for path in (SOURCE / part).rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.Constant) and isinstance(node.value, str):
                    for sign in node.value:
                        if unicodedata.category(sign) in ("So", "Sm") and sign > "\u2000" and not "\u2500" <= sign <= "\u259f":
                            yield sign, f"{path.relative_to(SOURCE)}:{node.lineno}"


def test_no_other_mark_is_drawn():
    known = {mark.sign for mark in ScreenMark if len(mark.sign) == 1} | set(KEYS) | set(PROGRAMS) | {"−"}
    assert not [(sign, where) for sign, where in signs_drawn() if sign not in known]


def test_each_sign_and_each_meaning_is_there_once():
    assert len({mark.sign for mark in ScreenMark}) == len({mark.meaning for mark in ScreenMark}) == len(ScreenMark)


@pytest.mark.parametrize("font", sorted((SOURCE / "handback" / "fonts").glob("*.ttf")), ids=lambda path: path.stem)
def test_paper_has_every_mark(font):
    letters = TTFontFile(str(font)).charToGlyph
    assert not [mark.sign for mark in ScreenMark if any(ord(sign) not in letters for sign in mark.sign)]


def test_marks_are_found_in_a_text():
    assert marks_in("✓ as promised  ? · ▲ fix") == (ScreenMark.GOOD, ScreenMark.FIX)
    assert marks_in("▲ settings cleared ─▶ profile off") == (ScreenMark.FIX, ScreenMark.FOLLOWS)
    assert marks_in("▶ A2") == (ScreenMark.CURSOR,)


def test_the_guide_has_the_table():
    guide = (SOURCE.parent.parent / "docs" / "guide.md").read_text(encoding="utf-8")
    assert all(f"| {mark.sign} | {mark.meaning} |" in guide for mark in ScreenMark)
