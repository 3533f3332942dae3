"""Scores that other programs gave, as a person types or pastes them: one to a line.

`Sorting test 1234 1240 1228 points`, `Export 61.2 s lower`, `Frames: 58.1, 57.9 fps graphics`. A name, one or more
values, a unit, and words that say more: `lower` or `higher` (is better), and what the score stresses. Also as people
write them: `Render test 2: 1,234 points`, `Export 1 min 20 s`, `Export 1:20`, `Frames 58fps / 57fps`; several separated by semicolons.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from itertools import pairwise

from after_check.domain.benchmark import Series
from after_check.domain.outside_text import clean

STRESSES = ("memory", "processor", "graphics", "storage", "work")
_LOWER_UNITS = frozenset({"s", "sec", "seconds", "ms", "us", "µs", "ns", "min", "h"})
_NUMBER = re.compile(r"[-+]?(?:\d{1,3}(?:,\d{3})+|\d{1,12}(?:[.,]\d{1,6})?)\Z", re.ASCII)
_THOUSANDS = re.compile(r"[-+]?\d{1,3}(?:,\d{3})+\Z", re.ASCII)
_WITH_UNIT = re.compile(
    r"(?P<n>\d{1,12}(?:[.,]\d{1,6})?)(?P<unit>fps|ms|us|µs|ns|s|sec|min|h|pts|points|MB/s|GB/s|%)\Z", re.ASCII | re.IGNORECASE
)
_CLOCK = re.compile(r"(?<![\d:])(?P<minutes>\d{1,4})(?::|m(?:in)?)(?P<seconds>[0-5]?\d(?:\.\d{1,3})?)s?(?![\d:])", re.ASCII)
_LOOKS_PARTED = re.compile(r"\d{1,3} \d{3}\Z", re.ASCII)
"""A blank between three digits and what may stand before them."""
_DID_NOT_RUN = re.compile(
    r"[\s:,]+(?:it\s+)?(?:froze|freezes|frozen|crashed|crashes|failed|fails|hung|hangs|gave up|ran out of memory|out of memory"
    r"|(?:did|does) not (?:run|finish|start|open)|(?:didn't|doesn't) (?:run|finish|start|open))\s*\.?\s*\Z",
    re.IGNORECASE,
)
"""How people say that the work itself froze or gave up."""
_ARROWS = ("->", "=>", "→")
_MOST_SCORES = 200
_LONGEST_NAME = 80


@dataclass(frozen=True, slots=True)
class ScoreProblem:
    """A line that is no score: its number from 1, and why."""

    line: int
    text: str
    why: str

    def __str__(self) -> str:
        return f"line {self.line}, {self.text!r}: {self.why}"


def parse_scores(text: str) -> tuple[tuple[Series, ...], tuple[ScoreProblem, ...]]:
    """Read scores; lines of one name are runs of one score. Nothing is dropped: what is no score is a problem."""
    found: dict[str, Series] = {}
    problems: list[ScoreProblem] = []
    lines = [(number, part) for number, line in enumerate(text.splitlines(), 1) for part in line.split(";")]
    for number, line in lines:
        shown = clean(line, 200)
        if not shown or shown.startswith("#"):
            continue
        try:
            series = _score(shown)
            earlier = found.get(series.name.casefold())
            if earlier is not None and earlier.unit != series.unit:
                raise ValueError(f"{series.name} was given in {earlier.unit or 'no unit'} before")
            if earlier is None and len(found) >= _MOST_SCORES:
                raise ValueError(f"more than {_MOST_SCORES} scores")
        except ValueError as problem:
            problems.append(ScoreProblem(number, shown[:60], str(problem)))
            continue
        if earlier is not None and earlier.did_not_run is not series.did_not_run:
            problems.append(ScoreProblem(number, shown[:60], f"{series.name} ran and did not run: which was it at this moment?"))
            continue
        if earlier is not None:
            series = replace(earlier, samples=earlier.samples + series.samples)
        found[series.name.casefold()] = series
    return tuple(found.values()), tuple(problems)


def _score(line: str) -> Series:
    froze = _DID_NOT_RUN.search(line)
    if froze is not None and line[: froze.start()].strip(" :,"):
        return Series((), "", name=line[: froze.start()].strip(" :,")[:_LONGEST_NAME], typed=True, stress="work", did_not_run=True)
    name, words = _name_and_words(line)
    at = 0
    samples: list[float] = []
    units: list[str] = []
    while at < len(words) and (taken := _value(words, at)) is not None:
        value, unit, at = taken
        samples.append(value)
        units += [unit] if unit else []
    if not samples:
        raise ValueError("a name and then a value are needed, for instance Export 61.2 s")
    said = words[:at]
    if max(samples) > 3 * min(samples) and any(_LOOKS_PARTED.match(f"{one} {two}") for one, two in pairwise(said)):
        raise ValueError(f"{' '.join(said)!r} may be one number or several runs: write {''.join(said)} or {', '.join(said)} runs")
    rest = [word for word in words[at:] if word.lower() not in ("is", "better", "runs", "run")]
    stress = next((word.lower() for word in rest if word.lower() in STRESSES), "work")
    direction = next((word.lower() for word in rest if word.lower() in ("lower", "higher")), "")
    shown = [word for word in rest if word.lower() not in (*STRESSES, "lower", "higher")]
    if any(_NUMBER.match(word) or word in _ARROWS for word in shown):
        raise ValueError("values stand together, before the unit; those before and those now are typed apart")
    if len(set(units)) > 1:
        raise ValueError(f"two units: {' and '.join(dict.fromkeys(units))}")
    unit = " ".join(dict.fromkeys([*units, *shown]))[:20]
    lower = direction == "lower" or (not direction and unit.lower() in _LOWER_UNITS)
    return Series(tuple(samples), unit, name=name, lower_is_better=lower, typed=True, stress=stress)


def _name_and_words(line: str) -> tuple[str, list[str]]:
    """Return a score's name and what is behind it. A colon or an equals sign ends a name that has figures itself."""
    head, sign, tail = next(
        (parts for sign in (": ", "=", ":") if (parts := line.partition(sign))[1] and not _CLOCK.search(line)), (line, "", "")
    )
    words = [word.strip(",") for word in (tail if sign else line).replace("/", " ").replace("|", " ").split()]
    words = [word for word in words if word]
    if sign and head.strip() and words and _value(words, 0) is not None:
        return head.strip()[:_LONGEST_NAME], words
    first = next((at for at, _ in enumerate(words) if at > 0 and _value(words, at) is not None), None)
    if first is None:
        raise ValueError("a name and then a value are needed, for instance Export 61.2 s")
    return " ".join(words[:first]).rstrip(":=")[:_LONGEST_NAME], words[first:]


def _value(words: list[str], at: int) -> tuple[float, str, int] | None:
    """Return a value that begins at a word, the unit that is written with it, and where the next word is.

    Times of more than one part are seconds: `1:23`, `1m23s`, `1 min 23 s`.
    """
    word = words[at]
    if _NUMBER.match(word):
        minutes = at + 3 < len(words) and words[at + 1].lower() in ("min", "m") and words[at + 3].lower() in ("s", "sec")
        if minutes and _NUMBER.match(words[at + 2]):
            return _number(word) * 60 + _number(words[at + 2]), "s", at + 4
        return _number(word), "", at + 1
    clock = _CLOCK.fullmatch(word)
    if clock is not None:
        return int(clock["minutes"]) * 60 + float(clock["seconds"]), "s", at + 1
    with_unit = _WITH_UNIT.match(word)
    return (_number(with_unit["n"]), with_unit["unit"], at + 1) if with_unit is not None else None


def _number(text: str) -> float:
    """Return a number. A comma before three digits parts thousands, as everywhere in this program; else it is a decimal comma."""
    return float(text.replace(",", "") if _THOUSANDS.match(text) else text.replace(",", "."))
