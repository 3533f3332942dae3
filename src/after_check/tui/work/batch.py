"""The long work of a batch, off the screen's thread: reading, keeping, judging, writing."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from textual.message import Message

from after_check.casework.batch import Batch, Terms, card_by_model, judged_of
from after_check.casework.needs import needs_of_the_shop
from after_check.domain.cards import Card
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.promises import Promise
from after_check.files.errors import SourceError
from after_check.files.whole_files import write_whole
from after_check.local.settings import load_settings
from after_check.shop.batches import KeptBatch
from after_check.shop.errors import ShopError
from after_check.shop.shop import Shop
from after_check.sources.evidence import Taken
from after_check.sources.many import AccessOf, Named, sources_in, take_many
from after_check.sources.open_source import take_promise
from after_check.tui.charts.batch import BatchSnapshot
from after_check.tui.worker_messages import MachineJudged, ReadingBegun


@dataclass(frozen=True, eq=False, slots=True)
class Reader:
    """What the reading of a batch needs: the promise as it was when it began, the way in, the shop's cards, when to stop, whom to tell."""

    promise: str
    access_of: AccessOf
    cards: Callable[[], tuple[Card, ...]]
    stop: threading.Event
    post: Callable[[Message], object]


def read_machines(kept: KeptBatch, again: bool, only: str | None, reader: Reader) -> None:
    """Read machines of a batch, many at once: all again, those not read yet, or `only` one. Each is kept and judged as it comes.

    Raises SourceError and OSError; ShopError at the end, where the cards could not be read and nothing was held against them.
    """
    machines = sources_in(Path(kept.facts.source))
    wanted = kept.begin_reading(machines, again)
    if only is not None:
        wanted = tuple(named for named in wanted if named.name == only)
    reader.post(ReadingBegun(kept.folder, len(machines)))
    promise = take_promise(reader.promise) if reader.promise else None
    before = {name: one.reading for name, one in kept.taken("before").items() if isinstance(one, Taken)}
    terms, no_cards = _terms(promise, reader.cards)
    done = 0
    lock = threading.Lock()

    def took(named: Named, taken: Taken | SourceError) -> None:
        nonlocal done
        if reader.stop.is_set():
            return
        kept.keep(named, taken)
        machine = judged_of(named.name, taken, before.get(named.name), terms)
        with lock:
            done += 1
            reader.post(MachineJudged(kept.folder, machine, taken if isinstance(taken, SourceError) else None, done, len(wanted)))

    take_many(wanted, reader.access_of, took=took, goes_on=lambda: not reader.stop.is_set())
    if no_cards is not None:
        raise no_cards


def judge_kept(kept: KeptBatch, promise: Promise | None, cards: Callable[[], tuple[Card, ...]]) -> tuple[Batch, ShopError | None]:
    """Judge what was kept of a batch, each machine with the shop's card of its model; or without, and why."""
    terms, no_cards = _terms(promise, cards)
    return kept.judged(terms), no_cards


def _terms(promise: Promise | None, cards: Callable[[], tuple[Card, ...]]) -> tuple[Terms, ShopError | None]:
    """Return what the machines are held against; a server that is away does not hold up what stands on this computer."""
    no_cards: ShopError | None = None
    try:
        known = cards()
    except ShopError as error:
        known, no_cards = (), error
    return Terms(promise, card_by_model(known), needs_of_the_shop()), no_cards


def take_before(kept: KeptBatch, source: Path, access_of: AccessOf) -> int:
    """Take the readings on arrival; returns how many belong to machines of the batch. Raises SourceError and OSError."""
    found = take_many(sources_in(source), access_of)
    kept.change(replace(kept.facts, before=str(source)))
    for named, taken in found:
        kept.keep(named, taken, "before")
    return sum(isinstance(taken, Taken) and named.name in kept.facts.machines for named, taken in found)


def make_job(shop: Shop, kept: KeptBatch, name: str) -> str:
    """Keep a machine's readings and promise as a job; returns its number. Raises ShopError."""
    found = [(moment, kept.taken(which).get(name)) for moment, which in ((Moment.ARRIVAL, "before"), (Moment.FITTED, "now"))]
    readings = tuple((moment, taken) for moment, taken in found if isinstance(taken, Taken))
    models = [taken.reading.machine.model.value for _, taken in readings if taken.reading.machine.model is not None]
    facts = JobFacts(shop.jobs.next_number(), name, models[-1] if models else "", "", kept.facts.promise)
    return shop.jobs.add(facts, readings).facts.number


def write_batch(snapshot: BatchSnapshot, path: Path) -> None:
    """Write the summary sheet, and the table beside it. Raises OSError."""
    from after_check.handback.batch_sheet import batch_csv, batch_pdf
    from after_check.handback.content import look_of

    promise = take_promise(snapshot.promise) if snapshot.promise else None
    write_whole(path, batch_pdf(snapshot.batch, promise, look_of(load_settings())))
    write_whole(path.with_suffix(".csv"), batch_csv(snapshot.batch))
