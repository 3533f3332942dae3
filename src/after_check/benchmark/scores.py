"""Scores that other programs gave, as a person types or pastes them: one to a line.

`Sorting test 1234 1240 1228 points`, `Export 61.2 s lower`, `Frames: 58.1, 57.9 fps graphics`. A name, one or more
values, a unit, and words that say more: `lower` or `higher` (is better), and what the score stresses.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from after_check.domain.benchmark import Series
from after_check.domain.text import clean

STRESSES = ("memory", "processor", "graphics", "storage", "work")
_LOWER_UNITS = frozenset({"s", "sec", "seconds", "ms", "us", "µs", "ns", "min", "h"})
_NUMBER = re.compile(r"[-+]?\d{1,12}(?:[.,]\d{1,6})?\Z")
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
    for number, line in enumerate(text.splitlines(), 1):
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
        if earlier is not None:
            series = replace(earlier, samples=earlier.samples + series.samples)
        found[series.name.casefold()] = series
    return tuple(found.values()), tuple(problems)


def _score(line: str) -> Series:
    words = line.replace(";", " ").replace(":", " ").split()
    words = [word.rstrip(",") for word in words if word.strip(",")]
    first = next((at for at, word in enumerate(words) if at > 0 and _NUMBER.match(word)), None)
    if first is None:
        raise ValueError("a name and then a value are needed, for instance Export 61.2 s")
    name = " ".join(words[:first])[:_LONGEST_NAME]
    at = first
    samples: list[float] = []
    while at < len(words) and _NUMBER.match(words[at]):
        samples.append(float(words[at].replace(",", ".")))
        at += 1
    rest = words[at:]
    stress = next((word.lower() for word in rest if word.lower() in STRESSES), "work")
    direction = next((word.lower() for word in rest if word.lower() in ("lower", "higher")), "")
    unit = " ".join(word for word in rest if word.lower() not in (*STRESSES, "lower", "higher"))[:20]
    if any(_NUMBER.match(word) for word in unit.split()):
        raise ValueError("values stand together, before the unit")
    lower = direction == "lower" or (not direction and unit.lower() in _LOWER_UNITS)
    return Series(tuple(samples), unit, name=name, lower_is_better=lower, typed=True, stress=stress)
