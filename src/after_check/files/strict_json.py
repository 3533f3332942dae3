"""JSON as RFC 8259 has it, with figures that can be reckoned with: the one way in which this program reads JSON.

Python's reader takes more: `NaN` and `Infinity`, which are no JSON (RFC 8259, section 6), 1e999 as infinity, and whole numbers of any
length. None of them is a figure of a machine, and each breaks a sum or a date far from the file that brought it.
"""

from __future__ import annotations

import json
import re
from typing import Any, NoReturn

LARGEST_FIGURE = 2**72
"""Nothing that is read or measured has more than 64 bits; what is a little larger is left to the form, which names its place."""
_MOST_DIGITS = 22
_SUSPECT = re.compile(rb"NaN|Infinity|[0-9]{20}|[0-9.][eE]\+?[0-9]{2}")


def parse_json(text: str | bytes) -> Any:
    """Return the data of a JSON text. Raises ValueError that says what is wrong, also where it is nested too deeply."""
    try:
        return json.loads(text, parse_constant=_no_figure, parse_float=_float, parse_int=_whole)
    except RecursionError:
        raise ValueError("it is nested too deeply") from None


def may_hold_wild_figures(raw: bytes) -> bool:
    """Return whether a text may hold a figure that `parse_json` refuses; it may also be harmless."""
    return _SUSPECT.search(raw) is not None


def _no_figure(name: str) -> NoReturn:
    raise ValueError(f"{name} is no figure")


def _float(text: str) -> float:
    value = float(text)
    if abs(value) > LARGEST_FIGURE:
        raise ValueError(f"the figure {text[:24]} is larger than any that is measured")
    return value


def _whole(text: str) -> int:
    if len(text.removeprefix("-")) > _MOST_DIGITS or abs(value := int(text)) > LARGEST_FIGURE:
        raise ValueError(f"the figure {text[:24]}{'…' if len(text) > 24 else ''} is larger than any that is measured")
    return value
