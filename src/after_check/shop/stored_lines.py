"""Lines of the bench as the store keeps them, and the first look at them.

The first look reads an up-to-date embedded store with the standard library alone: importing the database toolkit
takes longer than everything else at a start, and is done while the bench is on screen already.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from after_check.domain.bench import NOT_READ_YET, BenchEntry, Groups, JobLine, MiniTrack, WaitsFor
from after_check.domain.codes import Severity
from after_check.domain.standing import JobOutcome, TrackStatus
from after_check.files.strict_json import parse_json
from after_check.files.times import read_time
from after_check.judgement.version import judged_by
from after_check.local.settings import load_settings
from after_check.shop.revision import REVISION

_NO_DATE = datetime(1970, 1, 1, tzinfo=UTC)
_FIRST_SCREENFUL = 60
_FIRST_LOOK = (
    f"SELECT number, waits_for, search, line, latest FROM jobs WHERE waits_for = ? ORDER BY latest DESC, number LIMIT {_FIRST_SCREENFUL}"
)
_ALL = "SELECT count(*) FROM jobs"
_OF_A_GROUP = "SELECT count(*) FROM jobs WHERE waits_for = ?"
_IN_THE_MIDDLE = "SELECT waits_for FROM jobs WHERE id >= (SELECT max(id) / 2 FROM jobs) ORDER BY id LIMIT 1"
_OTHER_RULES = "SELECT EXISTS (SELECT 1 FROM jobs WHERE judged_by < ?) OR EXISTS (SELECT 1 FROM jobs WHERE judged_by > ?)"


def line_to_json(line: JobLine) -> str:
    """Return a line as JSON text."""
    tracks = [track._asdict() for track in line.tracks]
    return json.dumps({**line._asdict(), "tracks": tracks, "since": line.since.isoformat(), "latest": line.latest.isoformat()})


def line_from_json(text: str) -> JobLine:
    """Return the line of `line_to_json`. Raises ValueError, KeyError or TypeError."""
    data: dict[str, Any] = parse_json(text)
    tracks = tuple(
        MiniTrack(track["quantity"], TrackStatus(track["status"]) if track["status"] else None, track["now"], track["promised"])
        for track in data["tracks"]
    )
    return JobLine(
        number=data["number"],
        title=data["title"],
        machine=data["machine"],
        customer=data["customer"],
        since=read_time(data["since"]),
        latest=read_time(data["latest"]),
        outcome=JobOutcome(data["outcome"] if "outcome" in data else data["verdict"]),
        why=data["why"],
        waits_for=WaitsFor(data["waits_for"]),
        worst_severity=Severity(data["worst_severity"]) if data["worst_severity"] else None,
        worst_title=data["worst_title"],
        tracks=tracks,
        soak=data.get("soak", ""),
        answers=data.get("answers", ""),
        next_step=data.get("next_step", ""),
    )


LINE_BEGINS = '{"number": '


def line_of_entry(number: str, text: str) -> JobLine:
    """Return the line of an entry; one that is damaged says so, until it is worked out again."""
    try:
        return line_from_json(text)
    except (ValueError, KeyError, TypeError, AttributeError):
        return JobLine(
            number=number,
            title="this line is damaged",
            machine="",
            customer="",
            since=_NO_DATE,
            latest=_NO_DATE,
            outcome=JobOutcome.CANT_TELL,
            why="open the job: what can be worked out again is",
            waits_for=WaitsFor.YOU,
            worst_severity=None,
            worst_title="",
            tracks=(),
        )


def entries_of(rows: Iterable[Sequence[str]]) -> list[BenchEntry]:
    """Return entries for rows of number, waits_for, search, line and latest."""
    groups = {group.value: group for group in WaitsFor}
    return [
        BenchEntry(number, groups.get(waits_for, WaitsFor.YOU), str(search), str(line), str(latest))
        for number, waits_for, search, line, latest in rows
    ]


def first_look(path: Path | str) -> Groups | None:
    """Return what an embedded store has for the first screen, or None where only the whole machinery can tell it.

    The first entries of each group are whole; of the others it is known that they are there (NOT_READ_YET).
    """
    try:
        if not isinstance(path, Path) or not path.is_file():
            return None
        connection = sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True, timeout=0.2)
        try:
            found = connection.execute("SELECT version_num FROM alembic_version").fetchone()
            rules = judged_by(*load_settings().ready)
            if found != (REVISION,) or connection.execute(_OTHER_RULES, (rules, rules)).fetchone() != (0,):
                return None
            counts = _counts(connection)
            return {group: _first_of(connection, group, counts[group]) for group in WaitsFor}
        finally:
            connection.close()
    except (OSError, sqlite3.Error, ValueError):
        return None


def _counts(connection: sqlite3.Connection) -> dict[WaitsFor, int]:
    """Return how many jobs wait for whom. Raises ValueError where the store has a group that nobody knows.

    Counting takes a moment for each job, and to know how many there are in all takes none: the largest group, as likely as
    not that of a job in the middle of the store, is what the others leave of them.
    """
    (whole,) = connection.execute(_ALL).fetchone()
    middle = connection.execute(_IN_THE_MIDDLE).fetchone()
    largest = WaitsFor(middle[0]) if middle is not None else WaitsFor.YOU
    counts = {group: connection.execute(_OF_A_GROUP, (group.value,)).fetchone()[0] for group in WaitsFor if group is not largest}
    return {**counts, largest: whole - sum(counts.values())}


def _first_of(connection: sqlite3.Connection, group: WaitsFor, count: int) -> tuple[BenchEntry, ...]:
    entries = entries_of(connection.execute(_FIRST_LOOK, (group.value,)).fetchall()) if count else []
    return (*entries, *((BenchEntry(NOT_READ_YET, group, "", ""),) * (count - len(entries))))
