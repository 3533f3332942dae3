"""Times of day in files that come from elsewhere: within the years in which machines keep them, and with their zone."""

from __future__ import annotations

import dataclasses
from datetime import datetime
from functools import cache
from typing import Any

EARLIEST_YEAR, LATEST_YEAR = 1970, 2900
"""A clock that was never set starts in 1970 or later. At the ends of the calendar a change of zone leaves it."""


def checked_time(at: datetime, needs_zone: bool = False) -> datetime:
    """Return a time that can be reckoned with. Raises ValueError that says what is wrong with it."""
    if not EARLIEST_YEAR <= at.year <= LATEST_YEAR:
        raise ValueError(f"the time {at.isoformat()} lies outside the years {EARLIEST_YEAR} to {LATEST_YEAR}")
    if needs_zone and at.utcoffset() is None:
        raise ValueError(f"the time {at.isoformat()} has no time zone")
    return at


def read_time(text: str) -> datetime:
    """Return a time as it was written (ISO 8601), where it can be reckoned with. Raises ValueError."""
    return checked_time(datetime.fromisoformat(text))


def check_times(value: Any) -> None:
    """Check every time in a frozen value, however deep it stands. Raises ValueError."""
    if isinstance(value, datetime):
        checked_time(value, needs_zone=True)
    elif isinstance(value, (tuple, list)):
        for part in value:
            check_times(part)
    elif dataclasses.is_dataclass(value) and not isinstance(value, type):
        for name in _fields(type(value)):
            check_times(getattr(value, name))


@cache
def _fields(kind: type) -> tuple[str, ...]:
    return tuple(one.name for one in dataclasses.fields(kind))
