"""Numbers in words, as they are dictated: `thirty two hundred`, `twenty one thirty three`, `three hundred and eighty four megabytes`."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace

from after_check.language.words.figures import is_usual_rate
from after_check.language.words.token import Token, number_kinds
from after_check.language.words.units import FREQUENCY_UNITS, SIZE_UNITS

_LARGEST = 200_000


def _sized(number: Token, unit: Token, unit_bytes: int) -> Token:
    """Return a number and its unit as one size."""
    return replace(
        number,
        kinds=frozenset({"size"}),
        value=round(number.value * unit_bytes),
        end=unit.end,
        text=f"{number.text} {unit.text}",
        values=None,
    )


def with_spoken_numbers(found: Iterable[Token]) -> Iterator[Token]:
    """Yield the tokens, number words replaced by the numbers that they say together; a unit word behind one makes it an amount."""
    run: list[Token] = []
    held: Token | None = None
    for token in [*_with_points(list(found)), None]:
        if token is not None and (
            token.number("number_word") is not None or (run and token.text in ("and", "und", "-") and _hundreds(run[-1]))
        ):
            run.append(token)
            continue
        if (
            not run
            and token is not None
            and (unit := SIZE_UNITS.get(token.text))
            and len(token.text) > 2
            and held is not None
            and held.means("gib_part")
        ):
            yield _sized(held, token, unit)
            held = None
            continue
        if held is not None:
            yield held
            held = None
        if run:
            made = list(_numbers(run))
            if (
                token is not None
                and made
                and (unit := SIZE_UNITS.get(token.text))
                and (len(token.text) > 2 or token.text in ("gb", "go", "mb", "mo"))
                and made[-1].means("number")
            ):
                last = made.pop()
                yield from made
                yield _sized(last, token, unit)
                run = []
                continue
            if token is not None and made and (rate := FREQUENCY_UNITS.get(token.text)) and made[-1].means("number"):
                last = made.pop()
                yield from made
                yield replace(
                    last, kinds=frozenset({"frequency"}), value=(last.value * rate[1], rate[0]), end=token.end, text=last.text, values=None
                )
                run = []
                continue
            yield from made
            run = []
        if token is not None and token.means("gib_part"):
            held = token
        elif token is not None:
            yield token


def _hundreds(token: Token) -> bool:
    return (token.number("number_word") or 0) >= 100


def _goes_on(thousands: int, current: int, value: int, joined: bool) -> bool:
    """Return whether a number word is a part of the number before it: `three hundred and eighty`, `eighty four`, `two thousand six`."""
    if 20 <= current % 100 < 100 and current % 10 == 0:
        return 1 <= value <= 9
    if current >= 100 and current % 100 == 0:
        return value < 100 and (joined or value >= 10)
    return current == 0 and thousands > 0 and value < 100


def _groups(run: list[Token]) -> Iterator[tuple[int, Token, Token]]:
    """Yield the numbers that number words make, with their first and last word."""
    thousands, current, joined = 0, 0, False
    first: Token | None = None
    last = run[0]
    for token in run:
        value = token.number("number_word")
        if value is None:
            joined = True
            continue
        if first is not None and value == 100 and 0 < current < 100:
            current *= 100
        elif first is not None and value == 1000 and 0 < current < 1000:
            thousands, current = thousands + current * 1000, 0
        elif first is not None and _goes_on(thousands, current, value, joined):
            current += value
        else:
            if first is not None:
                yield thousands + current, first, last
            thousands, current, first = 0, value, token
        last, joined = token, False
    if first is not None:
        yield thousands + current, first, last


def _numbers(run: list[Token]) -> Iterator[Token]:
    """Yield the numbers of a run of number words."""
    if len(run) == 1:
        (token,) = run
        value = token.number("number_word") or 0
        yield replace(token, kinds=token.kinds | number_kinds(value), value=float(value))
        return
    groups = list(_groups(run))
    at = 0
    while at < len(groups):
        value, first, last = groups[at]
        if at + 1 < len(groups):
            behind = groups[at + 1]
            pair = value * 100 + behind[0]
            if 10 <= value <= 99 and 10 <= behind[0] <= 99 and is_usual_rate(pair, None):
                value, last, at = pair, behind[2], at + 1
        if value <= _LARGEST:
            plain_kinds = number_kinds(value) | ({"count_word", "number_word"} & (first.kinds if first is last else frozenset()))
            yield replace(
                first,
                kinds=frozenset(plain_kinds),
                value=float(value),
                end=last.end,
                text=first.text if first is last else "number",
                values=None,
            )
        at += 1


def _with_points(found: list[Token]) -> Iterator[Token]:
    """Yield the tokens, `fifteen point eight` being one number."""
    at = 0
    while at < len(found):
        start = at
        while at < len(found) and found[at].number("number_word") is not None:
            at += 1
        if start < at < len(found) - 1 and found[at].means("point") and (found[at + 1].number("number_word") or 0) in range(10):
            end = at + 1
            digits = ""
            while end < len(found) and (digit := found[end].number("number_word")) is not None and digit < 10:
                digits += str(digit)
                end += 1
            whole = list(_numbers(found[start:at]))
            if digits and whole:
                yield from whole[:-1]
                value = float(f"{int(whole[-1].value)}.{digits}")
                behind = found[end] if end < len(found) else None
                volts = behind is not None and behind.text in ("volts", "volt", "v") and 0.9 <= value <= 2.6
                last = found[end] if volts else found[end - 1]
                kinds = frozenset({"volts"}) if volts else number_kinds(value, False)
                yield replace(
                    whole[-1], kinds=kinds, value=round(value * 1000) if volts else value, end=last.end, text=f"{value:g}", values=None
                )
                at = end + volts
                continue
        if start == at:
            yield found[at]
            at += 1
        else:
            yield from found[start:at]
