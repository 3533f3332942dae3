"""What stands in columns and lists: slots by the number at the beginning of a row, a module a line, before beside after."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from after_check.language.plain_words.tokens import Token

_LEAST_LINES = 2
_MOST_SLOTS = 64


def told_in_columns(tokens: Sequence[Token]) -> None:
    """Take what the columns or the first words of rows say for what it is: slots, modules, what was there before."""
    rows = [row for row in _rows_of(tokens) if row]
    _name_first_column(rows)
    _take_sizes_for_modules(rows)
    _leave_out_before(rows)


def _take_sizes_for_modules(rows: Sequence[Sequence[Token]]) -> None:
    """`Size: 8 GB` in several lines: a module each."""
    lines = [row for row in rows if row[0].means("size_key") and not any(token.kind == "slot_name" for token in row)]
    if len(lines) >= _LEAST_LINES:
        for row in lines:
            row[0].used = True
            for token in row:
                if token.kind == "size":
                    token.facts["stick"] = True


def _leave_out_before(rows: Sequence[Sequence[Token]]) -> None:
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


def _name_first_column(rows: Sequence[list[Token]]) -> None:
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
                if token.kind == "size":
                    token.facts["stick"] = True
        else:
            first.kind, first.value = "slot_name", f"{_number(first)}"


def _rows_of(tokens: Sequence[Token]) -> list[list[Token]]:
    rows: list[list[Token]] = [[]]
    for token in tokens:
        if token.kind == "end" and token.value == "\n":
            rows.append([])
        else:
            rows[-1].append(token)
    return rows


def _is_heading(row: Sequence[Token]) -> bool:
    """Return whether a row has words only, the first of which is a slot or a module."""
    words = [token for token in row if token.kind not in ("sign", "end")]
    names = words[:1] and (words[0].means("slot") or words[0].means("module") or words[0].value == "#")
    return len(words) > 1 and bool(names) and all(token.kind == "word" or token.kind == "odd" for token in words)


def _first(row: Sequence[Token]) -> Token | None:
    """Return the number with which a row begins, where something stands behind it."""
    rest = [token for token in row if token.value != "#"]
    if len(rest) < _LEAST_LINES or rest[0].kind != "number" or not 0 <= _number(rest[0]) <= _MOST_SLOTS:
        return None
    return rest[0]


def _number(token: Token) -> int:
    value = token.value
    return int(value) if isinstance(value, float) and value.is_integer() else -1


def _is_listed(row: Sequence[Token]) -> bool:
    """Return whether a row begins with a number of a list: `1:`, `#1`, `1.`, `1)`."""
    return row[0].value == "#" or _parting(row) != ""


def _parting(row: Sequence[Token]) -> str:
    value = row[1].value if len(row) > 1 else ""
    return value if isinstance(value, str) and value in (":", ".", ")") else ""
