"""Texts that are laid out: rows with parted cells, and blocks of lines about one slot each.

What is on a screen or in a spreadsheet is pasted as it is. The text keeps its length, so that whatever is pointed at stands
where it stood; what is of one slot comes to stand in one line. What the columns then mean is read in `columns.py`.
"""

from __future__ import annotations

import re
from functools import cache

from after_check.language.plain_words.terms import any_of

_RULES = re.compile(r"[|\t¦]")
_RULE_CHARACTERS, _DRAWN = " |:+=_─━-", re.compile(r"[-=_─━]{3}")
_LEAST_RULES = 2
_CELLS = (",", ";")
_LEAST_LINES = 2
_KEY = re.compile(r"\s*[^\W\d][^:=\n]{0,40}[:=]")
_BRACKETED = re.compile(r"([:=]\s*)\(([^()\d\n]{2,20})\)")
"""`A2: (empty)`."""


@cache
def _column() -> re.Pattern[str]:
    """Return the names of columns by which a table of memory is known."""
    return re.compile("|".join(map(any_of, ("slot", "locator", "size_key", "module"))), re.IGNORECASE)


@cache
def _block() -> re.Pattern[str]:
    """Return what a line is that begins a block about one slot: `Slot 1`, `Locator: A1`, `A1`."""
    slot = f"{any_of('slot')}|dimm"
    return re.compile(
        rf"\s*(?:(?:{any_of('locator')}|{slot})\s*[:=]\s*\S.*|(?:{slot})\s*#?\d{{1,2}}\s*:?|(?:dimm[ _-]?)?[A-H]\d\s*:?)\s*",
        re.IGNORECASE,
    )


@cache
def _size_line() -> re.Pattern[str]:
    return re.compile(rf"\s*(?:{any_of('size_key')})\s*[:=]", re.IGNORECASE)


def laid_out(text: str) -> str:
    """Return a text of the same length in which what is of one slot stands in one line."""
    return _blocks(_rows(_BRACKETED.sub(lambda found: f"{found[1]} {found[2]} ", _without_rules(text))))


def _without_rules(text: str) -> str:
    """Return a text of the same length in which the cells of a table stand beside each other: what is in one row is of one thing."""
    lines = [" " * len(line) if not line.strip(_RULE_CHARACTERS) and _DRAWN.search(line) else line for line in text.split("\n")]
    ruled = [len(_RULES.findall(line)) for line in lines]
    if sum(rules >= _LEAST_RULES for rules in ruled) < _LEAST_RULES:
        return "\n".join(lines)
    return "\n".join(_RULES.sub(" ", line) if is_row else line for line, is_row in zip(lines, ruled, strict=True))


def _rows(text: str) -> str:
    """Part cells by blanks, where a first line names columns and every further line has as many."""
    lines = text.split("\n")
    said = [line for line in lines if line.strip()]
    if len(said) < _LEAST_LINES or any(map(str.isdigit, said[0])):
        return text
    for mark in _CELLS:
        names = [name.strip() for name in said[0].split(mark)]
        if len(names) > 1 and all(names) and any(map(_column().fullmatch, names)) and len({line.count(mark) for line in said}) == 1:
            return "\n".join(line.replace(mark, " ") for line in lines)
    return text


def _blocks(text: str) -> str:
    """Join the lines `key: value` behind a line that names a slot: `Slot 1`, `Locator: A1`."""
    lines = text.split("\n")
    begins = [at for at, line in enumerate(lines) if _block().fullmatch(line)]
    sizes = [at for at, line in enumerate(lines) if _size_line().match(line)]
    if not begins and len(sizes) >= _LEAST_LINES:
        begins = sizes
    inside = [at for at in begins if at + 1 < len(lines) and _KEY.match(lines[at + 1]) and at + 1 not in begins]
    if not inside:
        return text
    joined = lines[0]
    open_block = 0 in inside
    for at, line in enumerate(lines[1:], start=1):
        goes_on = open_block and at not in begins and bool(_KEY.match(line))
        open_block = at in inside or goes_on
        joined += (" " if goes_on else "\n") + line
    return joined
