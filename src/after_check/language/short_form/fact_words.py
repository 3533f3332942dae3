"""The facts of a line of notation: everything that is not a module. The rows of the fact table say how each is written.

A fact with a form of its own (a rate with its unit, a memory test) has its reader and its writer here, by its name.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from typing import Any

from after_check.domain import fact_table
from after_check.domain.errors import AfterCheckError
from after_check.domain.fact_table import FactKind, FactRow
from after_check.domain.outside_text import clean
from after_check.domain.quantities import parse_size, size_notation
from after_check.domain.readings import ProfileState, RateUnit, ShownRate, SoakResult, StartOutcome, Via
from after_check.language.short_form.items import quote
from after_check.language.short_form.module_words import TIMINGS_WORD, VOLTS_WORD, millivolts, pattern, timings_of
from after_check.standards.rates import HIGHEST_RATE_MTS

CHANNEL_WORDS = {"single": 1, "dual": 2, "triple": 3, "quad": 4}
_PLAIN_NAME = re.compile(r"[^\s\";=]+\Z")
_OTHER_WORDS = (
    "run",
    *CHANNEL_WORDS,
    "channels",
    "profile",
    "via",
    "cl",
    "soak",
    "start",
    "uncorrected",
    "firmware",
    "no-rights",
    "note",
    "nodes",
)
_OTHER_HINTS = {
    "nodes": "what each memory node has, for instance nodes 32G+0G",
    "firmware": "the version of the firmware, for instance firmware 1.20",
    "via": "firmware, system, label or other",
    "cl": "for instance CL 16",
}
"""What may follow a word of the line that is no fact of the table."""


class UnfitError(AfterCheckError, ValueError):
    """A fact whose value makes no sense; the message says why."""


def _rate(match: re.Match[str]) -> ShownRate:
    number = float(match["number"])
    unit = (match["unit"] or "").upper()
    if unit == "GHZ":
        number, unit = number * 1000, "MHZ"
    if not 50 <= number <= HIGHEST_RATE_MTS:
        raise UnfitError(f"{match['number']} is no data rate; rates are between 100 and 20000 MT/s")
    return ShownRate(number, RateUnit.MHZ if unit == "MHZ" else RateUnit.MTS if unit else RateUnit.NONE)


_SOAK_FIGURE = re.compile(r"(\d+)\s*(min|h|%|pass(?:es)?)", re.IGNORECASE)
_SOAK_UNITS = {"m": "time", "h": "time", "%": "share", "p": "passes"}


def _soak(match: re.Match[str]) -> SoakResult:
    said: dict[str, int] = {}
    for number, unit in _SOAK_FIGURE.findall(match["figures"]):
        kind = _SOAK_UNITS[unit[0].lower()]
        if kind in said:
            raise UnfitError(f"{number} {unit} is a second figure for the {kind} of one memory test")
        said[kind] = int(number) * (60 if unit[0].lower() == "h" else 1)
    percent = said.get("share")
    if percent is not None and percent > 100:
        raise UnfitError(f"{percent} % of the memory cannot be covered")
    errors = int(match["errors"] or 1) if match["result"].lower() == "errors" else 0
    return SoakResult(errors, said.get("time"), percent, said.get("passes"), clean(match["quoted"] or match["by"] or ""))


def _profile(match: re.Match[str]) -> ProfileState:
    """Read the profile setting; a choice that is greyed out, or not there, is none."""
    word = match["state"].lower()
    if word.startswith("auto"):
        return ProfileState.AUTO
    return ProfileState.LOCKED if word[0] in "gn" else ProfileState(word)


def _channels(match: re.Match[str]) -> int:
    count = int(match["count"])
    if not 1 <= count <= 16:
        raise UnfitError(f"{count} channels are not possible; 1 to 16 are")
    return count


def _via(match: re.Match[str]) -> Via:
    return Via(match["via"].lower())


@dataclass(frozen=True, slots=True)
class Written:
    """How a fact is read off a line and written to it."""

    words: re.Pattern[str]
    read: Callable[[re.Match[str]], Any]
    write: Callable[[Any], str]


_VALUES: dict[FactKind, str] = {
    FactKind.SIZE: r"(?P<value>\d{1,19}(?:\.\d{1,6})?\s*(?:[KMGT](?:i?B)?|B))",
    FactKind.COUNT: r"(?P<value>\d{1,12})",
    FactKind.RATE: r"(?P<value>\d{3,5})(?:\s*MT/?s)?",
    FactKind.BANDWIDTH: r"(?P<value>\d{1,5}(?:\.\d{1,3})?)(?:\s*GB/?s)?",
    FactKind.TIME: r"(?P<value>\d{1,5}(?:\.\d{1,3})?)(?:\s*ns)?",
    FactKind.SHARE: r"(?P<value>\d{1,3}(?:\.\d{1,3})?)(?:\s*%)?",
    FactKind.SWITCH: r"(?P<value>on|off)",
}


def _form_of(row: FactRow) -> Written:
    """Return how a row is read and written, from its short forms."""
    value = _VALUES.get(row.kind, "")
    if row.kind is FactKind.CHOICE:
        value = f"(?P<value>{'|'.join(map(re.escape, row.choices))})"
    spelled = "|".join(_spelling(short) for short in row.short)
    # One group for the value, whichever spelling it is in.
    words = spelled if not value else rf"(?:{spelled}){value}" if spelled else value
    return Written(pattern(words), lambda match: _value(row, match), lambda value: row.short[0].replace("{}", _written(row, value)))


def _spelling(short: str) -> str:
    """Return the pattern of a short form: blanks and hyphens may be left out."""
    words = [re.escape(word).replace(r"\-", r"-?\s*") for word in short.replace("{}", " ").split()]
    return r"\s*".join(words) + (r"\s*" if "{}" in short else "")


def _value(row: FactRow, match: re.Match[str]) -> Any:
    """Return the value in a match. Raises UnfitError for one that makes no sense."""
    if row.kind is FactKind.FLAG:
        return True
    text = match["value"].lower()
    if row.kind is FactKind.SWITCH:
        return text == "on"
    if row.kind is FactKind.CHOICE:
        return row.make(text)
    if row.kind is FactKind.SIZE:
        size_bytes = parse_size(match["value"])
        if not size_bytes:
            raise UnfitError(f"{match['value']} is no size of memory")
        return size_bytes
    number = int(text) if row.kind in (FactKind.COUNT, FactKind.RATE) else float(text)
    if not row.low <= number <= row.high:
        raise UnfitError(row.unfit.format(match["value"]))
    return number


def _written(row: FactRow, value: Any) -> str:
    """Return a value as it is in a line, with its unit where one belongs to it."""
    if row.kind is FactKind.SIZE:
        return size_notation(value)
    if row.kind is FactKind.SWITCH:
        return "on" if value else "off"
    units = {FactKind.BANDWIDTH: " GB/s", FactKind.TIME: " ns", FactKind.SHARE: " %"}
    if row.kind in units:
        return f"{round(value, 3):g}{units[row.kind]}"
    return f"{getattr(value, 'value', value)}"


def _write_rate(rate: ShownRate) -> str:
    return f"run {rate.number:g}{'' if rate.unit is RateUnit.NONE else rate.unit.value}"


def write_soak(result: SoakResult) -> str:
    """Return the result of a memory test as it is in a line."""
    words = ["soak", f"errors {result.errors}" if result.errors else "clean"]
    words += [f"{result.minutes}min"] if result.minutes is not None else []
    words += [f"{result.passes} pass{'es' if result.passes != 1 else ''}"] if result.passes is not None else []
    words += [f"{result.covered_percent}%"] if result.covered_percent is not None else []
    words += [f"by {plain_or_quoted(result.by)}"] if result.by else []
    return " ".join(words)


def plain_or_quoted(name: str) -> str:
    """Return a name as it is in a line: in quotes where it has blanks or signs."""
    return name if _PLAIN_NAME.match(name) else quote(name)


def write_volts(voltage_mv: int) -> str:
    """Return a voltage as it is in a line."""
    return f"{voltage_mv / 1000:g}V"


_BY_NUMBER = {count: word for word, count in CHANNEL_WORDS.items()}
_OWN: dict[str, tuple[Written, ...]] = {
    "running_rate": (Written(pattern(r"run\s*(?P<number>\d{1,5}(?:\.\d{1,3})?)\s*(?P<unit>GHz|MHz|MT/?s)?"), _rate, _write_rate),),
    "channels": (
        Written(
            pattern(r"(?P<word>single|dual|triple|quad)"),
            lambda match: CHANNEL_WORDS[match["word"].lower()],
            lambda count: _BY_NUMBER.get(count) or f"channels {count}",
        ),
        Written(pattern(r"channels?\s*(?P<count>\d{1,2})"), _channels, str),
    ),
    "profile": (
        Written(
            pattern(r"profile\s*(?P<state>off|1|2|3|locked|on|auto(?:matic)?|gr[ea]y(?:ed(?:\s+out)?)?|no\s+choice)"),
            _profile,
            lambda state: f"profile {state.value}",
        ),
    ),
    "timings": (Written(TIMINGS_WORD, timings_of, str),),
    "voltage_mv": (Written(VOLTS_WORD, lambda match: millivolts(match["volts"]), write_volts),),
    "soak": (
        Written(
            pattern(
                r"soak\s*(?P<result>clean|errors)(?:\s+(?P<errors>\d{1,12})(?!\d|\s*(?:min|h|%|pass)))?"
                r"(?P<figures>(?:\s+\d{1,5}\s*(?:min|h|%|pass(?:es)?))*)"
                r"(?:\s+by\s+(?:\"(?P<quoted>[^\"]{1,60})\"|(?P<by>[^\s\";=]{1,60})))?"
            ),
            _soak,
            write_soak,
        ),
    ),
    "start": (
        Written(
            pattern(r"start\s*(?P<state>yes|no|slow|cycles)"),
            lambda match: StartOutcome(match["state"].lower()),
            lambda outcome: "not-started" if outcome is StartOutcome.NOT_TRIED else f"start {outcome.value}",
        ),
        Written(pattern(r"not-?\s*started"), lambda match: StartOutcome.NOT_TRIED, str),
    ),
    "via": (
        Written(pattern(r"via\s*(?P<via>firmware|system|label|other)"), _via, lambda via: f"via {via.value}"),
        Written(pattern(r"stickers?(?:\s*only)?"), lambda match: Via.LABEL, str),
    ),
}
"""Facts with a form of their own, and other ways to read them behind it."""


@cache
def _forms(rows: tuple[FactRow, ...]) -> dict[str, tuple[Written, ...]]:
    found = {row.name: _OWN.get(row.name) or (_form_of(row),) for row in rows if row.name in _OWN or row.short}
    return {**found, "via": _OWN["via"]}


def forms() -> dict[str, tuple[Written, ...]]:
    """Return how each fact is read and written, by its name, in the order of the table."""
    return _forms(fact_table.rows())


def hints() -> dict[str, str]:
    """Return what may follow a word that needs more, by the word."""
    found = {_first_word(row): row.hint for row in fact_table.rows() if row.hint}
    return {**found, **_OTHER_HINTS}


def _first_word(row: FactRow) -> str:
    named = {"running_rate": "run"}
    return named.get(row.name) or (row.short[0].split()[0] if row.short else row.name)


def vocabulary() -> tuple[str, ...]:
    """Return the words that a fact may begin with."""
    written = [short.replace("{}", "").strip() for row in fact_table.rows() for short in row.short]
    return tuple(
        dict.fromkeys([*_OTHER_WORDS, *(word for word in written if word), *(w for row in fact_table.rows() for w in row.choices)])
    )


def shown_fact(name: str, value: Any) -> str:
    """Return a fact's value for a message."""
    row = fact_table.row_of(name)
    return row.said(value) if row is not None else str(value)
