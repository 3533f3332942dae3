"""Texts that are laid out: rows with parted cells, blocks of lines about one slot each, lists whose lines begin with a number.

What is on a screen or in a spreadsheet is pasted as it is. The text keeps its length, so that whatever is pointed at stands
where it stood; lines that are of one slot become one clause.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from functools import cache
from itertools import pairwise
from typing import Protocol

from after_check.sources.words.terms import any_of


class PlacedToken(Protocol):
    """A token, as far as its place in a table is concerned."""

    kind: str
    value: object
    start: int
    used: bool
    facts: dict[str, object]

    def means(self, kind: str) -> bool:
        """Return whether it is of a kind, or may mean it."""


_CELLS = (",", ";")
_LEAST_LINES = 2
_KEY = re.compile(r"\s*[^\W\d][^:=\n]{0,40}[:=]")
_BRACKETED = re.compile(r"([:=]\s*)\(([^()\d\n]{2,20})\)")
"""`A2: (empty)`."""
_MOST_SLOTS = 64


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
    return _blocks(_rows(_BRACKETED.sub(lambda found: f"{found[1]} {found[2]} ", text)))


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


def told_in_columns(tokens: Sequence[PlacedToken], text: str, is_size: Callable[[PlacedToken], bool]) -> None:
    """Take what the columns or the first words of rows say for what it is: slots, modules, what was there before."""
    rows = [row for row in _lines_of(tokens, text) if row]
    _name_first_column(rows, is_size)
    _take_sizes_for_modules(rows, is_size)
    _leave_out_before(rows)


def _take_sizes_for_modules(rows: Sequence[Sequence[PlacedToken]], is_size: Callable[[PlacedToken], bool]) -> None:
    """`Size: 8 GB` in several lines: a module each."""
    lines = [row for row in rows if row[0].means("size_key") and not any(token.kind == "slot_name" for token in row)]
    if len(lines) >= _LEAST_LINES:
        for row in lines:
            row[0].used = True
            for token in row:
                if is_size(token):
                    token.facts["stick"] = True


def _leave_out_before(rows: Sequence[Sequence[PlacedToken]]) -> None:
    """Take no notice of the column beneath `before`, where one beneath `after` stands beside it."""
    for at, row in enumerate(rows):
        names = [token for token in row if token.kind not in ("sign", "end")]
        if (
            len(names) == 2
            and {name.means("then") for name in names} == {True, False}
            and any(name.means("later") or name.means("now") for name in names)
        ):
            before = 0 if names[0].means("then") else 1
            for name in names:
                name.used = True
            for further in rows[at + 1 :]:
                figures = [token for token in further if token.kind in ("size", "number", "rate", "size_times", "generation")]
                if len(figures) == 2:
                    figures[before].used = True
            return


def _name_first_column(rows: Sequence[list[PlacedToken]], is_size: Callable[[PlacedToken], bool]) -> None:
    """Take the number at the beginning of each row for a slot, under a heading that says so or in a list of numbers.

    Under a heading of modules, and in a list `1.`, `2.` in which nothing is empty, each row is a module.
    """
    heading = next((at for at, row in enumerate(rows) if _is_heading(row)), None)
    body = rows[heading + 1 :] if heading is not None else rows
    firsts = [_first(row) for row in body]
    numbered = [(row, first) for row, first in zip(body, firsts, strict=True) if first is not None]
    numbers = [_number(first) for _, first in numbered]
    in_order = len(numbers) >= _LEAST_LINES and all(second - first == 1 for first, second in pairwise(numbers))
    counting = any(token.means("module") for row, _ in numbered for token in row)  # "2 sticks": how many, and not which.
    if not in_order or counting or (heading is None and not all(_is_listed(row) for row, _ in numbered)):
        return
    of_modules = rows[heading][0].means("module") if heading is not None else all(_parting(row) in (".", ")") for row, _ in numbered)
    empty = any(token.means("empty") for row, _ in numbered for token in row)
    for row, first in numbered:
        for token in row[: row.index(first)] + row[row.index(first) + 1 : row.index(first) + 2]:
            if token.value in ("#", ":", ".", ")", "#:"):
                token.kind, token.used = "sign", True
        if of_modules and not empty:
            first.used = True
            for token in row:
                if is_size(token):
                    token.facts["stick"] = True
        else:
            first.kind, first.value = "slot_name", f"{_number(first)}"


def _lines_of(tokens: Sequence[PlacedToken], text: str) -> list[list[PlacedToken]]:
    lines: list[list[PlacedToken]] = [[] for _ in range(text.count("\n") + 1)]
    for token in tokens:
        if text[token.start] != "\n":
            lines[text.count("\n", 0, token.start)].append(token)
    return lines


def _is_heading(row: Sequence[PlacedToken]) -> bool:
    """Return whether a row has words only, the first of which is a slot or a module."""
    words = [token for token in row if token.kind not in ("sign", "end")]
    names = words[:1] and (words[0].means("slot") or words[0].means("module") or words[0].value == "#")
    return len(words) > 1 and bool(names) and all(token.kind == "word" or token.kind == "odd" for token in words)


def _first(row: Sequence[PlacedToken]) -> PlacedToken | None:
    """Return the number with which a row begins, where something stands behind it."""
    rest = [token for token in row if token.value != "#"]
    if len(rest) < _LEAST_LINES or rest[0].kind != "number" or not 0 <= _number(rest[0]) <= _MOST_SLOTS:
        return None
    return rest[0]


def _number(token: PlacedToken) -> int:
    value = token.value
    return int(value) if isinstance(value, float) and value.is_integer() else -1


def _is_listed(row: Sequence[PlacedToken]) -> bool:
    """Return whether a row begins with a number of a list: `1:`, `#1`, `1.`, `1)`."""
    return row[0].value == "#" or _parting(row) != ""


def _parting(row: Sequence[PlacedToken]) -> str:
    value = row[1].value if len(row) > 1 else ""
    return value if isinstance(value, str) and value in (":", ".", ")") else ""
