"""Numbers in words, as they are dictated: `thirty two hundred`, `twenty one thirty three`, `three hundred and eighty four megabytes`."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from after_check.language.words.figures import is_usual_rate

if TYPE_CHECKING:
    from after_check.language.words.tokens import Token

_LARGEST = 200_000


def with_spoken_numbers(found: Iterable[Token]) -> Iterator[Token]:
    """Yield the tokens, number words that stand together replaced by the numbers that they say; a unit word behind one makes it an amount."""
    from after_check.language.words import tokens as lexer

    run: list[Token] = []
    for token in [*found, None]:
        if token is not None and (token.number("number_word") is not None or (run and token.text in ("and", "und", "-") and _hundreds(run[-1]))):
            run.append(token)
            continue
        if run:
            made = list(_numbers(run))
            if token is not None and made and (unit := lexer._SIZE_UNITS.get(token.text)) and len(token.text) > 2 and made[-1].means("number"):
                last = made.pop()
                yield from made
                yield replace(last, kinds=frozenset({"size"}), value=round(last.value * unit), end=token.end, text=f"{last.text} {token.text}", values=None)
                run = []
                continue
            if token is not None and made and (rate := lexer._FREQUENCY_UNITS.get(token.text)) and made[-1].means("number"):
                last = made.pop()
                yield from made
                yield replace(last, kinds=frozenset({"frequency"}), value=(last.value * rate[1], rate[0]), end=token.end, text=last.text, values=None)
                run = []
                continue
            yield from made
            run = []
        if token is not None:
            yield token


def _hundreds(token: Token) -> bool:
    return (token.number("number_word") or 0) >= 100


def _numbers(run: list[Token]) -> Iterator[Token]:
    """Yield the numbers of a run of number words."""
    from after_check.language.words.tokens import number_kinds

    if len(run) == 1:
        (token,) = run
        value = token.number("number_word") or 0
        yield replace(token, kinds=token.kinds | number_kinds(value), value=float(value))
        return
    groups: list[tuple[int, Token, Token, bool]] = []
    joined = False
    for token in run:
        value = token.number("number_word")
        if value is None:
            joined = True
            continue
        if groups:
            total, first, _, closed = groups[-1]
            if value in (100, 1000) and 0 < total < 1000:
                groups[-1] = (total * value, first, token, False)
                joined = False
                continue
            if total >= 100 and total % 100 == 0 and value < 100 and (joined or total % 1000 == 0 or total < 1000) and not closed:
                groups[-1] = (total + value, first, token, value < 20)
                joined = False
                continue
            tens = total % 100
            if not closed and 20 <= tens < 100 and tens % 10 == 0 and 1 <= value <= 9:
                groups[-1] = (total + value, first, token, True)
                joined = False
                continue
        groups.append((value, token, token, False))
        joined = False
    at = 0
    while at < len(groups):
        value, first, last, _ = groups[at]
        if at + 1 < len(groups):
            behind = groups[at + 1]
            pair = value * 100 + behind[0]
            if 10 <= value <= 99 and 10 <= behind[0] <= 99 and is_usual_rate(pair, None):
                value, last, at = pair, behind[2], at + 1
        if value <= _LARGEST:
            plain_kinds = number_kinds(value) | ({"count_word", "number_word"} & (first.kinds if first is last else frozenset()))
            yield replace(first, kinds=frozenset(plain_kinds), value=float(value), end=last.end, text=first.text if first is last else "number", values=None)
        at += 1
