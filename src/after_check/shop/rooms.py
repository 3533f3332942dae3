"""Rooms of machines as a bench keeps them: what was asked for, and every reading as soon as it came.

A room is a folder of its own on this computer. A program that was killed finds it as it was, and reads on.
"""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, dataclass, replace
from datetime import UTC, datetime
from hashlib import sha256
from pathlib import Path

from after_check.domain.cards import Card
from after_check.domain.promises import Promise
from after_check.domain.readings import Reading
from after_check.domain.text import clean
from after_check.judgement.room import JudgedMachine, Room, judged
from after_check.shop.places import data_folder
from after_check.sources import saved
from after_check.sources.errors import SourceError
from after_check.sources.many import Named
from after_check.sources.taken import Taken
from after_check.sources.whole_files import write_whole

CardOf = Callable[[Reading], Card | None]
"""The card of a machine, from what it told."""

_FORMAT = "after-check room"
_LONGEST_PROBLEM = 300


@dataclass(frozen=True, slots=True)
class RoomFacts:
    """Where the readings after fitting come from, the promise for each machine, and where those on arrival come from.

    `machines` are their names; what each is read from may hold a password and is looked up in the source every time.
    """

    source: str
    promise: str = ""
    before: str = ""
    machines: tuple[str, ...] = ()
    read_at: datetime | None = None


class KeptRoom:
    """A room in its folder."""

    def __init__(self, folder: Path, facts: RoomFacts) -> None:
        self.folder = folder
        self.facts = facts

    @classmethod
    def begin(cls, source: str) -> KeptRoom:
        """Return the room of a source; one that was opened before comes back with what was kept of it. Raises OSError."""
        folder = _rooms() / sha256(source.encode()).hexdigest()[:24]
        room = _opened(folder)
        if room is None:
            room = cls(folder, RoomFacts(source))
            room.change(room.facts)
        return room

    def change(self, facts: RoomFacts) -> None:
        """Keep other facts. Raises OSError."""
        (self.folder / "now").mkdir(parents=True, exist_ok=True)
        (self.folder / "before").mkdir(exist_ok=True)
        document = {"format": _FORMAT, "version": 1, **asdict(facts)}
        document["read_at"] = facts.read_at.isoformat() if facts.read_at else None
        write_whole(self.folder / "room.json", json.dumps(document, indent=1).encode())
        self.facts = facts

    def begin_reading(self, machines: tuple[Named, ...], anew: bool) -> tuple[Named, ...]:
        """Take note of the machines of the source; returns those to read: all anew, or those that were not read yet."""
        now = datetime.now(UTC).replace(microsecond=0)
        self.change(replace(self.facts, machines=tuple(one.name for one in machines), read_at=now))
        if anew:
            # What was read before is no longer the state now, and is still a measurement: it stays in a folder beside.
            (self.folder / "now").rename(self.folder / f"until-{time.time_ns()}")
            (self.folder / "now").mkdir()
        return tuple(one for one in machines if not self._file("now", one.name, ".json").exists())

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

    def judged(self, promise: Promise | None, card_of: CardOf = lambda reading: None) -> Room:
        """Judge every machine that was looked at so far."""
        found = self.taken()
        earlier = {name: one.reading for name, one in self.taken("before").items() if isinstance(one, Taken)}
        return room_of(((name, found[name]) for name in self.facts.machines if name in found), earlier, promise, card_of)

    def _file(self, which: str, name: str, suffix: str) -> Path:
        """Return the file of a machine; its name is data and no path."""
        return self.folder / which / (sha256(name.encode()).hexdigest()[:24] + suffix)


def room_of(
    taken: Iterable[tuple[str, Taken | SourceError]], earlier: Mapping[str, Reading], promise: Promise | None, card_of: CardOf
) -> Room:
    """Judge readings of many machines against one promise; `earlier` are those on arrival by the machines' names."""
    return Room(tuple(judged_of(name, one, earlier.get(name), promise, card_of) for name, one in taken))


def judged_of(name: str, taken: Taken | SourceError, before: Reading | None, promise: Promise | None, card_of: CardOf) -> JudgedMachine:
    """Judge one machine of a room, or say why it was not read."""
    if isinstance(taken, SourceError):
        return judged(name, None, taken.what.splitlines()[0])
    return judged(name, taken.reading, "", before, promise, card_of(taken.reading))


def card_by_model(cards: Iterable[Card]) -> CardOf:
    """Return what finds the card of a machine by the model that the machine tells."""
    known = {card.name.casefold(): card for card in cards}

    def of(reading: Reading) -> Card | None:
        model = reading.machine.model
        return known.get(model.value.casefold()) if model is not None else None

    return of


def latest_room() -> KeptRoom | None:
    """Return the room that was changed last, if there is any."""
    try:
        folders = sorted(_rooms().iterdir(), key=lambda folder: (folder / "room.json").stat().st_mtime, reverse=True)
    except OSError:
        return None
    return next((room for room in map(_opened, folders) if room is not None), None)


def _opened(folder: Path) -> KeptRoom | None:
    try:
        found = json.loads((folder / "room.json").read_bytes())
        if found["format"] != _FORMAT or found["version"] != 1:
            return None
        machines = tuple(str(name) for name in found["machines"])
        read_at = datetime.fromisoformat(found["read_at"]) if found["read_at"] else None
        return KeptRoom(folder, RoomFacts(str(found["source"]), str(found["promise"]), str(found["before"]), machines, read_at))
    except (OSError, ValueError, KeyError, TypeError):
        return None


def _rooms() -> Path:
    return data_folder() / "rooms"
