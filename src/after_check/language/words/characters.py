"""The characters of a text as they are meant: signs of one kind made one sign, misread figures and letters put right, all in place.

The text that is returned has the length of the one that was given, so that places in it stay true.
"""

from __future__ import annotations

import re
import unicodedata
from functools import cache

from after_check.language.words.vocabulary import meaning

_SAME_AS = {
    **dict.fromkeys("\u2010\u2011\u2012\u2212\ufe63\uff0d", "-"),
    **dict.fromkeys("\u2013\u2014\u2015", "–"),
    **dict.fromkeys("×✕✖⨯", "x"),
    **dict.fromkeys("\u00a0\u2007\u2009\u202f\u2002\u2003\u2008\u200a\u3000\r\x0b\x0c", " "),
    **dict.fromkeys("\u2018\u2019\u201b\u02bc`´", "'"),
    **dict.fromkeys("\u201c\u201d\u201e\u00ab\u00bb", '"'),
    **dict.fromkeys("│┃║╎┆┊|", "|"),
    **dict.fromkeys("→⇒➔➜⟶", "→"),
    **dict.fromkeys("\u2028\u2029\x85⏎", "\n"),  # The last one stands for a line break in a line of entry.
    **dict.fromkeys("•·▪●◦‣", "•"),
    **{"İ": "I", "ı": "i", "ſ": "s", "\u212a": "K", "：": ":", "，": ",", "；": ";"},
}


def as_meant(text: str) -> str:
    """Return a text of the same length: no control characters, one sign for all of a kind, figures and letters as they were meant."""
    shown = "".join(map(_sign, text))
    return _CHUNK.sub(_put_right, shown)


@cache
def _sign(character: str) -> str:
    if character in "\n\t":
        return character
    if character in _SAME_AS:
        return _SAME_AS[character]
    category = unicodedata.category(character)
    if category[0] == "C" or "\u2500" <= character <= "\u257f":
        return " "
    if category == "Nd":
        return str(unicodedata.digit(character))
    return character


_CHUNK = re.compile(
    # No figure of the trade is behind more letters than these: a word without end is looked at once and not from every place.
    r"\b(?:LP)?DDRS\b|[^\s;,()|:=+*/\"]{0,40}[0-9?][^\s;,()|:=+*/\"]*+"
    r"|[A-Za-z|]{0,16}[OolI|][A-Za-z|]{0,16}(?=[\dOol]|\s?(?:GB|MB|Rx|of|von)\b)"
)
"""A word with a figure in it, in which one may stand for the other."""
_FIGURES = str.maketrans("OoQlI|ZzSB", "0001112258")
_LETTERS = (str.maketrans("015|", "olsl"), str.maketrans("015|", "oisi"), str.maketrans("0158", "olsb"))
_DIGITS = r"[\dOoQlI|]"
_KNOWN_PREFIX = re.compile(
    r"(?P<kept>(?:LP)?DDR[2345]X?-?|PC[2345]L?-|CL-?|C(?=[\dlO]{2}\b))(?P<n>[\dOolI]{1,5})(?P<rest>[A-Za-z]{0,3}(?:-.*)?)\Z", re.IGNORECASE
)
_AMOUNT = re.compile(
    rf"(?P<n>{_DIGITS}{{1,6}}(?:[.,]{_DIGITS}{{1,3}})?)(?P<unit>G[B8]|M[B8]|Gi[B8]|Mi[B8]|GO|MO|Gi|MH[zZ2]|GH[zZ2]|MT/?[sS5]|V|[Rr][xX]\d{{1,2}}|)\Z",
    re.ASCII,
)
_TIMES = re.compile(rf"(?P<a>{_DIGITS}{{1,2}})(?P<x>[xX])(?P<n>{_DIGITS}{{1,3}})(?P<unit>G[B8]?|M[B8]|)\Z")
_FORM_AND_RATE = re.compile(r"(?P<form>(?:LR|R|U|SO|SO-)DIMM)-(?P<n>\d{3,5})", re.IGNORECASE)
_PLAIN_FIGURE = re.compile(r"[\d.,]+")
_GLUED_GENERATION = re.compile(r"(?:LP)?DDR[S5]\Z", re.IGNORECASE)


def _put_right(found: re.Match[str]) -> str:
    chunk = found[0]
    body = chunk.rstrip(".?!")
    tail = chunk[len(body) :]
    return (_right(body) if body else "") + tail if len(body) > 1 else chunk


@cache
def _right(chunk: str) -> str:
    if _PLAIN_FIGURE.fullmatch(chunk) or len(chunk) > 40:
        return chunk
    if joined := _FORM_AND_RATE.fullmatch(chunk):
        return f"{joined['form']} {joined['n']}"
    if chunk.upper() in ("DDRS", "LPDDRS"):
        return chunk[:-1] + "5"
    if (known := _KNOWN_PREFIX.match(chunk)) and not known["n"].isdigit() and any(map(str.isdigit, known["n"])):
        return known["kept"] + known["n"].translate(_FIGURES) + known["rest"]
    if known and known["n"].isdigit():
        return chunk
    if meaning(chunk) is not None:
        return chunk
    if (times := _TIMES.match(chunk)) and any(map(str.isdigit, chunk)):
        return times["a"].translate(_FIGURES) + times["x"] + times["n"].translate(_FIGURES) + times["unit"].replace("8", "B")
    amount = _AMOUNT.match(chunk)
    if amount is not None:
        number, unit = amount["n"].translate(_FIGURES), amount["unit"]
        sure = any(map(str.isdigit, amount["n"])) or unit[:1] in ("R", "r")
        misread = number != amount["n"] or "8" in unit or "2" in unit
        if misread and sure and (unit or len(number) > 1) and not re.fullmatch(r"\d[lI]", amount["n"]):
            fixed = unit if unit[:1] in "Rr" else unit.replace("8", "B").replace("2", "z").replace("5", "s")
            return number + fixed
    if any(map(str.isalpha, chunk)) and (len(chunk) > 3 or chunk[:1] in "0oO") and sum(map(str.isdigit, chunk)) * 2 <= len(chunk) + 1:
        for table in _LETTERS:
            word = chunk.translate(table)
            if word != chunk and word.isalpha() and meaning(word) is not None:
                return word
    return chunk


LONE_UNIT = re.compile(r"(?<=\d )(G8|M8|MH2|GH2)(?!\w)")
"""A unit apart from its figure that an optical reader took for one: `8 G8`, `2666 MH2`."""


def units_put_right(text: str) -> str:
    """Return a text in which units that stand apart are units again."""
    return LONE_UNIT.sub(lambda match: match[1].replace("8", "B").replace("2", "z"), text)
