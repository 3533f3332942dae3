"""Colours and type of what is printed. Every colour has a shape or a word beside it, so that grey paper is enough."""

from __future__ import annotations

import unicodedata

from reportlab.lib.colors import Color, HexColor

INK = HexColor("#1c2430")
FAINT = HexColor("#667080")
RULE = HexColor("#c9ced6")
KEPT = HexColor("#1f7a68")
SHORT = HexColor("#b4412d")
PROMISED = HexColor("#9a6a00")
PAPER_TINT = HexColor("#f2f4f2")
WHITE: Color = HexColor("#ffffff")

REGULAR = "Helvetica"
BOLD = "Helvetica-Bold"


def printable(text: str) -> str:
    """Return text in characters that the sheet's type has; a letter with a mark loses the mark before it is lost."""
    out: list[str] = []
    for character in text:
        if _has(character):
            out.append(character)
            continue
        plain = "".join(part for part in unicodedata.normalize("NFKD", character) if _has(part))
        out.append(plain or "?")
    return "".join(out)


def _has(character: str) -> bool:
    try:
        character.encode("cp1252")
    except UnicodeEncodeError:
        return False
    return True
