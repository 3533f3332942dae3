"""What the bench shows, read whole once and then only where it changed.

Each change of a line gives it the next number (`moved`). Two benches may write at the same time, and what has the lower
number may come later: so a look begins some numbers back. A store of a hundred thousand jobs is looked at again as fast
as one of ten.
"""

from __future__ import annotations

import threading
from collections.abc import Iterable

from sqlalchemy import Connection, func, select

from after_check.domain.bench import BenchEntry, Groups, WaitsFor, grouped
from after_check.shop import tables
from after_check.shop.stored_lines import entries_of

_BACK = 200
"""More changes than can be on their way at once."""
_JOBS = tables.jobs.c
_COLUMNS = (_JOBS.number, _JOBS.waits_for, _JOBS.search, _JOBS.line, _JOBS.latest)


class BenchEntries:
    """The entries of one store, each group with the job that was read last first. May be asked from several threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._known: dict[str, BenchEntry] = {}
        self._groups: Groups = grouped(())
        self._moved = 0

    def look(self, connection: Connection) -> Groups:
        """Return the entries as they are now."""
        with self._lock:
            moved, count = connection.execute(select(func.coalesce(func.max(_JOBS.moved), 0), func.count(_JOBS.id))).one()
            changed: list[BenchEntry] = []
            if self._known:
                rows = connection.execute(select(*_COLUMNS).where(_JOBS.moved > self._moved - _BACK, _JOBS.moved > 0))
                changed = [entry for entry in entries_of(rows) if self._known.get(entry.number) != entry]
                self._known |= {entry.number: entry for entry in changed}
            if len(self._known) != count:
                # The first look; or jobs went away or got another number, which nothing of theirs tells.
                order = select(*_COLUMNS).order_by(_JOBS.latest.desc(), _JOBS.number)
                entries = entries_of(connection.execute(order))
                self._known = {entry.number: entry for entry in entries}
                self._groups = grouped(entries)
            elif changed:
                self._groups = _with(self._groups, changed)
            self._moved = moved
            return self._groups


def _with(groups: Groups, changed: Iterable[BenchEntry]) -> Groups:
    """Return the groups with other entries in the places of those with their numbers."""
    numbers = {entry.number for entry in changed}
    lists = {group: [entry for entry in entries if entry.number not in numbers] for group, entries in groups.items()}
    for entry in changed:
        _put(lists[entry.waits_for], entry)
    return {group: tuple(entries) for group, entries in lists.items()}


def _put(entries: list[BenchEntry], new: BenchEntry) -> None:
    """Put an entry where it belongs: what changes was mostly read just now, and stands near the top."""
    at = next((at for at, one in enumerate(entries) if (one.latest, new.number) < (new.latest, one.number)), len(entries))
    entries.insert(at, new)


def all_of(groups: Groups) -> list[BenchEntry]:
    """Return the entries of all groups, the one read last first."""
    entries = [entry for group in WaitsFor for entry in groups[group]]
    entries.sort(key=lambda entry: entry.number)
    entries.sort(key=lambda entry: entry.latest, reverse=True)
    return entries
