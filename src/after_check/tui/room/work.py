"""The long work of a room, off the screen's thread: reading, keeping, judging, writing."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from textual.message import Message

from after_check.domain.jobs import JobFacts, Moment
from after_check.judgement.room import judged
from after_check.shop.rooms import KeptRoom
from after_check.shop.store import Shop
from after_check.sources.errors import SourceError
from after_check.sources.many import Named, sources_in, take_many
from after_check.sources.take import take_promise
from after_check.sources.taken import Taken
from after_check.sources.trust import Access
from after_check.tui.drawing.room import RoomSnapshot
from after_check.tui.room.messages import MachineJudged, ReadingBegun


def read_machines(kept: KeptRoom, anew: bool, access: Access, stop: threading.Event, post: Callable[[Message], object]) -> None:
    """Read the machines of a room, many at once; each is kept and judged as it comes. Raises SourceError and OSError."""
    machines = sources_in(Path(kept.facts.source))
    wanted = kept.begin_reading(machines, anew)
    post(ReadingBegun(kept.folder, len(machines)))
    promise = take_promise(kept.facts.promise) if kept.facts.promise else None
    before = {name: one.reading for name, one in kept.taken("before").items() if isinstance(one, Taken)}
    done = len(machines) - len(wanted)
    lock = threading.Lock()

    def took(named: Named, taken: Taken | SourceError) -> None:
        nonlocal done
        if stop.is_set():
            return
        kept.keep(named, taken)
        reading, why = (taken.reading, "") if isinstance(taken, Taken) else (None, taken.what.splitlines()[0])
        machine = judged(named.name, reading, why, before.get(named.name), promise)
        with lock:
            done += 1
            post(MachineJudged(kept.folder, machine, done, len(machines)))

    take_many(wanted, access, took=took, goes_on=lambda: not stop.is_set())


def take_before(kept: KeptRoom, source: Path, access: Access) -> int:
    """Take the readings on arrival; returns how many belong to machines of the room. Raises SourceError and OSError."""
    found = take_many(sources_in(source), access)
    kept.change(replace(kept.facts, before=str(source)))
    for named, taken in found:
        kept.keep(named, taken, "before")
    return sum(isinstance(taken, Taken) and named.name in kept.facts.machines for named, taken in found)


def make_job(shop: Shop, kept: KeptRoom, name: str) -> str:
    """Keep a machine's readings and promise as a job; returns its number. Raises ShopError."""
    found = [(moment, kept.taken(which).get(name)) for moment, which in ((Moment.ARRIVAL, "before"), (Moment.FITTED, "now"))]
    readings = tuple((moment, taken) for moment, taken in found if isinstance(taken, Taken))
    models = [taken.reading.machine.model.value for _, taken in readings if taken.reading.machine.model is not None]
    facts = JobFacts(shop.next_number(), name, models[-1] if models else "", "", kept.facts.promise)
    return shop.add_job(facts, readings).facts.number


def write_room(snapshot: RoomSnapshot, path: Path) -> None:
    """Write the summary sheet, and the table beside it. Raises OSError."""
    from after_check.handback.content import look_of
    from after_check.handback.room_sheet import room_csv, room_pdf
    from after_check.shop.settings import load_settings
    from after_check.sources.whole_files import write_whole

    promise = take_promise(snapshot.promise) if snapshot.promise else None
    write_whole(path, room_pdf(snapshot.room, promise, look_of(load_settings())))
    write_whole(path.with_suffix(".csv"), room_csv(snapshot.room))
