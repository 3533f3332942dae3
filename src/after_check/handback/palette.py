"""Colours and type of what is printed. Every colour has a shape or a word beside it, so that grey paper is enough."""

from __future__ import annotations

import unicodedata
from pathlib import Path

from reportlab.lib.colors import Color, HexColor
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.pdfmetrics import registerFontFamily
from reportlab.pdfbase.ttfonts import TTFont

INK = HexColor("#1c2430")
FAINT = HexColor("#667080")
RULE = HexColor("#c9ced6")
KEPT = HexColor("#1f7a68")
SHORT = HexColor("#b4412d")
PROMISED = HexColor("#9a6a00")
PAPER_TINT = HexColor("#f2f4f2")
WHITE: Color = HexColor("#ffffff")

REGULAR = "DejaVuSansCondensed"
BOLD = "DejaVuSansCondensed-Bold"
_FOLDER = Path(__file__).parent / "fonts"

for _name in (REGULAR, BOLD):
    # A type with Latin, Greek, Cyrillic, Arabic and Hebrew letters; the built-in ones of PDF end at Latin-1.
    pdfmetrics.registerFont(TTFont(_name, str(_FOLDER / f"{_name}.ttf")))
registerFontFamily(REGULAR, normal=REGULAR, bold=BOLD, italic=REGULAR, boldItalic=BOLD)


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
    return ord(character) in pdfmetrics.getFont(REGULAR).face.charToGlyph


def in_grey(colour: object) -> object:
    """Return a colour as the grey of the same lightness, for paper in black and white (ITU-R BT.709 luma)."""
    if not isinstance(colour, Color):
        return colour
    luma = 0.2126 * colour.red + 0.7152 * colour.green + 0.0722 * colour.blue
    return Color(luma, luma, luma, colour.alpha)
