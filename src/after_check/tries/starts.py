"""Several starts in one try: a fault that comes and goes is told by starting again with nothing touched, in a minute each.

Each start is weighed as a try of its own: 2 of 5 that failed are two tries that failed and three that worked, with
nothing handled between them. How many failed has to be said; where it is not, a try that failed counts once.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from after_check.domain.tries import Started, Try

STARTS = 5
"""As often as a proposal asks for."""
ONE_IN_THREE_SHOWS = 1 - (1 - 0.35) ** STARTS
"""How often what fails one start in three shows in so many."""
MOST_STARTS = 100
"""More are not weighed one by one: they would tell nothing new."""

_NUMBERS = {
    "once": 1,
    "twice": 2,
    "one": 1,
    "two": 2,
    "three": 3,
    "four": 4,
    "five": 5,
    "six": 6,
    "seven": 7,
    "eight": 8,
    "nine": 9,
    "ten": 10,
}
_NUMBER = rf"(\d{{1,3}}|{'|'.join(_NUMBERS)})"
_START = r"(?:(?:cold|warm|re|power)[ -]?)?(?:starts|boots|cycles)"
_AFTER_SHARE = r"(?=\s*(?:$|[,.;:]|fail|ok|fine|good|black|dead|hung|hang|were|was|came|did))"
_SHARE = re.compile(
    rf"\b{_NUMBER}\s*(?:times\s*)?(?:(?:out )?of|in|/)\s*{_NUMBER}\b(?:\s+(?:{_START}|times|attempts)\b|{_AFTER_SHARE})", re.IGNORECASE
)
_TIMES = rf"(?:{_NUMBER}\s*(?:times|x)\b|(once|twice)\b)"
_COUNT = re.compile(
    rf"\b(?:(?:re)?start|(?:re)?boot|power[ -]cycle)(?:s|ed|d|ing)?\b[a-z\s]{{0,12}}?\b{_TIMES}|\b{_NUMBER}\s*(?:x|times)?\s*{_START}\b",
    re.IGNORECASE,
)
_ABOUT_STARTS = re.compile(r"\b(?:cold|warm|re)?-?(?:start|boot|power[ -]cycle)", re.IGNORECASE)
_BAD = re.compile(r"\b(?:fail|dead|hang|hung|black|no (?:start|boot|picture|display)|(?:not|n't) (?:start|boot|come))", re.IGNORECASE)
_WELL = r"(?:fine|good|ok|okay|worked|clean)"
_FAILED = r"(?:fail\w*|dead|hung|hang\w*|black(?: screen)?|no (?:start|boot|picture|display)s?)"
_NONE_BAD = re.compile(
    r"\b(?:none|no|not one|0|without|never)\b[\w\s]{0,14}\b(?:fail|problem|trouble|issue|hitch|error)"
    rf"|\ball\b[\w\s]{{0,14}}\b{_WELL}\b",
    re.IGNORECASE,
)
_GOOD = re.compile(r"\b(?:fine|good|ok|okay|worked|works|came up|clean)\b", re.IGNORECASE)
_SOME_BAD = re.compile(rf"\b{_NUMBER}\s+(?:of (?:them|these)\s+)?{_FAILED}|\b{_FAILED}\s+{_NUMBER}\b", re.IGNORECASE)
_IN_TURN = re.compile(r"\b(ok|good|fine|yes)\b|\b(fail(?:ed|s)?|bad|dead|black|no|hung|hang)\b", re.IGNORECASE)
_FIRST_BAD = re.compile(
    rf"\bfirst (?:(?:cold|warm) )?(?:start|boot)\s+{_FAILED}\b.*?\b(?:then|next|other)\s+{_NUMBER}\b[\w\s]{{0,14}}?\b{_WELL}\b",
    re.IGNORECASE,
)
_LAST_BAD = re.compile(rf"\b{_NUMBER}\s*{_START}\s+{_WELL}\b\W{{0,3}}(?:and )?then\s+{_NUMBER}\s+{_FAILED}", re.IGNORECASE)
_HALF = re.compile(rf"\bhalf of (?:the )?{_NUMBER}\s+{_START}\b", re.IGNORECASE)


def one_by_one(tries: Sequence[Try]) -> tuple[tuple[Try, ...], tuple[int, ...]]:
    """Return every start as a try of its own, and for each the index of the try that it belongs to."""
    found = [(start, at) for at, tried in enumerate(tries) for start in _starts_of(tried)]
    return tuple(start for start, _ in found), tuple(at for _, at in found)


def _starts_of(tried: Try) -> list[Try]:
    count, bad = tried.starts or 1, tried.starts_failed
    tried = replace(tried, starts=None, starts_failed=None)
    shown = tried.started is Started.NO or bool(tried.unseen) or tried.fell_back
    if bad is None:
        bad = 1 if shown else 0
        count = 1 if shown else count  # Nobody said how many of them failed.
    if count > MOST_STARTS:  # As many of a hundred as of all of them.
        count, bad = MOST_STARTS, max(min(bad, 1), round(bad * MOST_STARTS / count))
    good = max(0, count - bad)
    failing = [tried if shown else replace(tried, started=Started.NO, seen=None, soak=None, errors_in=(), off_under_load=None)] * min(
        bad, count
    )
    everything = tuple(slot for slot, _ in tried.arrangement.fitted)
    seen = everything if tried.seen is not None else None
    plain = replace(tried, started=Started.YES, seen=seen, soak=None, errors_in=(), off_under_load=None, settings_reset=None, celsius=None)
    working = [plain] * good
    if working and not shown:
        working[-1] = tried  # The memory test came after the last of them.
    starts = [*failing, *working]
    return starts[:1] + [replace(start, reseated=(), seconds=None) for start in starts[1:]]


def starts_told(text: str) -> tuple[int | None, int | None]:
    """Return how often a machine was started and how often of that it failed, as a note says it: `2 of 5 starts failed`."""
    if not _ABOUT_STARTS.search(text):
        return None, None
    if share := _SHARE.search(text):
        part, whole = _number(share[1]), _number(share[2])
        if part <= whole and _BAD.search(text):
            return whole, part
        return (whole, whole - part) if part <= whole and _GOOD.search(text) else (None, None)
    if first := _FIRST_BAD.search(text):
        return _number(first[1]) + 1, 1
    if last := _LAST_BAD.search(text):
        return _number(last[1]) + _number(last[2]), _number(last[2])
    if (half := _HALF.search(text)) and _number(half[1]) % 2 == 0 and _BAD.search(text):
        return _number(half[1]), _number(half[1]) // 2
    found = _COUNT.search(text)
    if found is None:
        return None, None
    count = _number(found[1] or found[2] or found[3])
    in_turn = _IN_TURN.findall(text[found.end() :])
    if len(in_turn) == count > 1:  # "five starts: ok ok fail ok ok"
        return count, sum(bool(bad) for _, bad in in_turn)
    if _NONE_BAD.search(text):
        return count, 0
    some = _SOME_BAD.search(text)
    if some is not None and (bad := _number(some[1] or some[2])) <= count:
        return count, bad
    return count, (0 if _GOOD.search(text) and not _BAD.search(text) else None)


def _number(word: str) -> int:
    return _NUMBERS.get(word.casefold()) or int(word)
