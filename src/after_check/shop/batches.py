"""Batches of machines as a bench keeps them: what was asked for, and every reading as soon as it came.

A batch is a folder of its own on this computer. A program that was killed finds it as it was, and reads on.
"""

from __future__ import annotations

import json
import time
from dataclasses import asdict, dataclass, replace
from datetime import UTC, datetime
from hashlib import sha256
from pathlib import Path

from after_check.casework.batch import Batch, Terms, batch_of
from after_check.domain.outside_text import clean
from after_check.files.errors import SourceError
from after_check.files.strict_json import parse_json
from after_check.files.times import read_time
from after_check.files.whole_files import write_whole
from after_check.local.paths import data_folder
from after_check.sources import saved
from after_check.sources.evidence import Taken
from after_check.sources.many import Named

_FORMAT = "after-check room"
_LONGEST_PROBLEM = 300


@dataclass(frozen=True, slots=True)
class BatchFacts:
    """Where the readings after fitting come from, the promise for each machine, and where those on arrival come from.

    `machines` are their names; what each is read from may hold a password and is looked up in the source every time.
    """

    source: str
    promise: str = ""
    before: str = ""
    machines: tuple[str, ...] = ()
    read_at: datetime | None = None


class KeptBatch:
    """A batch in its folder."""

    def __init__(self, folder: Path, facts: BatchFacts) -> None:
        self.folder = folder
        self.facts = facts

    @classmethod
    def begin(cls, source: str) -> KeptBatch:
        """Return the batch of a source; one that was opened before comes back with what was kept of it. Raises OSError."""
        folder = _batches() / sha256(source.encode()).hexdigest()[:24]
        batch = _opened(folder)
        if batch is None:
            batch = cls(folder, BatchFacts(source))
            batch.change(batch.facts)
        return batch

    def change(self, facts: BatchFacts) -> None:
        """Keep other facts. Raises OSError."""
        (self.folder / "now").mkdir(parents=True, exist_ok=True)
        (self.folder / "before").mkdir(exist_ok=True)
        document = {"format": _FORMAT, "version": 1, **asdict(facts)}
        document["read_at"] = facts.read_at.isoformat() if facts.read_at else None
        write_whole(self.folder / "room.json", json.dumps(document, indent=1).encode())
        self.facts = facts

    def begin_reading(self, machines: tuple[Named, ...], again: bool) -> tuple[Named, ...]:
        """Take note of the machines of the source; returns those to read: all again, or those that were not read yet."""
        now = datetime.now(UTC).replace(microsecond=0)
        self.change(replace(self.facts, machines=tuple(machine.name for machine in machines), read_at=now))
        if again:
            # What was read before is no longer the state now, and is still a measurement: it stays in a folder beside.
            (self.folder / "now").rename(self.folder / f"until-{time.time_ns()}")
            (self.folder / "now").mkdir()
        return tuple(machine for machine in machines if not self._file("now", machine.name, ".json").exists())

    def keep(self, named: Named, taken: Taken | SourceError, which: str = "now") -> None:
        """Keep a reading (`which`: now or before), or why there is none. Raises OSError."""
        reading, problem = self._file(which, named.name, ".json"), self._file(which, named.name, ".txt")
        if isinstance(taken, Taken):
            write_whole(reading, json.dumps(saved.dump(taken)).encode())
            problem.unlink(missing_ok=True)
        else:
            write_whole(problem, clean(taken.what.splitlines()[0], _LONGEST_PROBLEM).encode())

    def taken(self, which: str = "now") -> dict[str, Taken | SourceError]:
        """Return what was read, and what could not be, by the machines' names."""
        found: dict[str, Taken | SourceError] = {}
        for name in self.facts.machines:
            reading, problem = self._file(which, name, ".json"), self._file(which, name, ".txt")
            try:
                if reading.exists():
                    found[name] = saved.load(reading.read_bytes(), name)
                elif problem.exists():
                    found[name] = SourceError(problem.read_text(encoding="utf-8"), name)
            except SourceError as error:
                found[name] = error
        return found

    def judged(self, terms: Terms) -> Batch:
        """Judge every machine that was looked at so far."""
        found = self.taken()
        earlier = {name: one.reading for name, one in self.taken("before").items() if isinstance(one, Taken)}
        return batch_of(((name, found[name]) for name in self.facts.machines if name in found), earlier, terms)

    def _file(self, which: str, name: str, suffix: str) -> Path:
        """Return the file of a machine; its name is data and no path."""
        return self.folder / which / (sha256(name.encode()).hexdigest()[:24] + suffix)


def latest_batch() -> KeptBatch | None:
    """Return the batch that was changed last, if there is any."""
    try:
        folders = sorted(_batches().iterdir(), key=lambda folder: (folder / "room.json").stat().st_mtime, reverse=True)
    except OSError:
        return None
    return next((batch for batch in map(_opened, folders) if batch is not None), None)


def _opened(folder: Path) -> KeptBatch | None:
    try:
        found = parse_json((folder / "room.json").read_bytes())
        if found["format"] != _FORMAT or found["version"] != 1:
            return None
        machines = tuple(str(name) for name in found["machines"])
        read_at = read_time(found["read_at"]) if found["read_at"] else None
        return KeptBatch(folder, BatchFacts(str(found["source"]), str(found["promise"]), str(found["before"]), machines, read_at))
    except (OSError, ValueError, KeyError, TypeError):
        return None


def _batches() -> Path:
    return data_folder() / "rooms"
