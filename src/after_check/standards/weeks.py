"""Weeks of manufacture. Document: ISO 8601 (week 1 is the week with the year's first Thursday)."""

from __future__ import annotations

import re
from datetime import date

from after_check.domain.modules import ManufactureWeek

_WRITTEN = re.compile(
    r"(?P<year>\d{4})\s*-?\s*W\s*(?P<week>\d{1,2})\Z|W(?:EEK)?\s*(?P<w2>\d{1,2})\s*(?:OF|/|-)?\s*(?P<y2>\d{4})\Z", re.IGNORECASE
)


def make_week(year: int, week: int) -> ManufactureWeek | None:
    """Return the week, or None where the year has no such ISO week."""
    if not 1990 <= year <= 2099:
        return None
    try:
        date.fromisocalendar(year, week, 1)
    except ValueError:
        return None
    return ManufactureWeek(year, week)


def parse_week(text: str) -> ManufactureWeek | None:
    """Return the week written as `2021-W11`, `2021W11` or `week 11 of 2021`, or None."""
    match = _WRITTEN.match(text.strip())
    if match is None:
        return None
    return make_week(int(match["year"] or match["y2"]), int(match["week"] or match["w2"]))


def week_dates(week: ManufactureWeek) -> tuple[date, date]:
    """Return the Monday and the Sunday of the week."""
    return date.fromisocalendar(week.year, week.week, 1), date.fromisocalendar(week.year, week.week, 7)


def week_words(week: ManufactureWeek) -> str:
    """Return a week with the month, or the two months, that it lies in: `2021-W11 (March 2021)`."""
    monday, sunday = week_dates(week)
    if monday.month == sunday.month:
        return f"{week} ({monday:%B %Y})"
    first = f"{monday:%B}" if monday.year == sunday.year else f"{monday:%B %Y}"
    return f"{week} ({first} or {sunday:%B %Y})"
