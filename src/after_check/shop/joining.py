"""Taking in a job that was handed out elsewhere: known again by its identity, nothing lost, nothing doubled."""

from __future__ import annotations

import json
import string
from collections import Counter
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from enum import StrEnum
from hashlib import sha256
from heapq import heapify, heappop, heappush
from itertools import pairwise
from typing import Any, NamedTuple, TypeVar

from sqlalchemy import Connection, Row, Table, delete, insert, select, update

from after_check.domain.handback import HandBack, Override
from after_check.domain.jobs import Job
from after_check.domain.outside_text import clean
from after_check.domain.tries import Try, TryLog, TryModule, noted_by_both
from after_check.files.errors import SourceError
from after_check.files.strict_json import parse_json
from after_check.files.times import read_time
from after_check.shop import tables
from after_check.shop.database import insert_row, put
from after_check.shop.documents import JobDocument, TimedPart, hand_back_from_json, hand_back_to_json
from after_check.shop.errors import BusyError
from after_check.shop.lineages import (
    CONCLUSION,
    FACT_WORDS,
    HAND_BACK_WORDS,
    BothWrote,
    Later,
    Lineage,
    checked_lineages,
    grown,
    joined,
    later_of,
    lineages_of,
    words_of,
)
from after_check.shop.rows import LONGEST_PROMISE, NO_LINE, aware, keep_evidence, load_job
from after_check.sources.card_file import parse_card
from after_check.tries.log_json import log_from_json, log_to_json

Kept = TypeVar("Kept")
_LONG_AGO = datetime.min.replace(tzinfo=UTC)


def merged(
    here: Sequence[Kept], theirs: Sequence[Kept], key: Callable[[Kept], Hashable], at: Callable[[Kept], datetime | None]
) -> list[Kept]:
    """Return both lists as one: what has the same key once (as it is here), each list's own order kept, else by time.

    A list's own order goes before the time: a machine whose settings were cleared may have had a wrong clock.
    """
    kept = {key(row): row for row in (*theirs, *here)}
    following: dict[Hashable, set[Hashable]] = {name: set() for name in kept}
    for names in ([key(row) for row in here], [key(their) for their in theirs]):
        for one, other in pairwise(dict.fromkeys(names)):
            following[one].add(other)
    waiting = Counter(other for others in following.values() for other in others)

    def entry(name: Hashable) -> tuple[datetime, str, Hashable]:
        return (at(kept[name]) or _LONG_AGO, str(name), name)

    free = [entry(name) for name in kept if not waiting[name]]
    heapify(free)
    order: list[Hashable] = []
    while free:
        *_, name = heappop(free)
        order.append(name)
        for other in following[name]:
            waiting[other] -= 1
            if not waiting[other]:
                heappush(free, entry(other))
    # Two lists that contradict each other leave some over; for those only the time is left.
    order += sorted(kept.keys() - set(order), key=entry)
    return [kept[name] for name in order]


def merged_log(here: TryLog, theirs: TryLog) -> TryLog:
    """Return two logs of tries as one. A letter that means another module over there gets a letter that is free here."""
    modules = list(here.modules)
    letters = {module.letter: _letter(module, modules) for module in theirs.modules}
    relabelled = [_relabelled(attempt, letters) for attempt in theirs.tries]
    tries = merged(here.tries, relabelled, _identity, lambda tried: tried.at)
    slots = (*here.slots, *(slot for slot in theirs.slots if slot not in here.slots))
    return TryLog(tuple(modules), slots, tuple(tries), here.conclusion, here.order or theirs.order)


def _letter(module: TryModule, modules: list[TryModule]) -> str:
    """Return the letter of a module among those here; one that is not there yet is added."""
    at = next((index for index, one in enumerate(modules) if one.letter == module.letter), None)
    if at is not None and (not module.words or not modules[at].words or modules[at].words == module.words):
        own = modules[at]
        modules[at] = replace(own if own.words else module, elsewhere=noted_by_both(own.elsewhere, module.elsewhere))
        return module.letter
    known = next((index for index, one in enumerate(modules) if module.serial and one.serial == module.serial), None)
    if known is not None:
        own = modules[known]
        modules[known] = replace(own, elsewhere=noted_by_both(own.elsewhere, module.elsewhere))
        return own.letter
    taken = {module.letter for module in modules}
    letter = module.letter if at is None else next(letter for letter in _letters() if letter not in taken)
    modules.append(replace(module, letter=letter))
    return letter


def _letters() -> list[str]:
    return [*string.ascii_lowercase, *(f"{first}{second}" for first in string.ascii_lowercase for second in string.ascii_lowercase)]


def _relabelled(tried: Try, letters: dict[str, str]) -> Try:
    """Return a try with the letters that its modules have here."""
    fitted = tuple((slot, letters.get(letter, letter)) for slot, letter in tried.arrangement.fitted)
    reseated = None if tried.reseated is None else tuple(letters.get(letter, letter) for letter in tried.reseated)
    return replace(tried, arrangement=replace(tried.arrangement, fitted=fitted), reseated=reseated)


def _identity(one: Try) -> Hashable:
    """A try that was begun at one moment with one arrangement is one try, whatever was found out later."""
    return (one.at, one.arrangement) if one.at is not None else one


def merged_hand_back(here: HandBack, theirs: HandBack, words: Mapping[str, str]) -> HandBack:
    """Return what was added to the sheet on two benches: the words as they were decided on, and every agreement of both."""
    more = (override for override in theirs.overrides if not any(_alike(override, other) for other in here.overrides))
    return HandBack(**words, overrides=(*here.overrides, *more))


def _alike(one: Override, other: Override) -> bool:
    return (one.code, one.reason, one.at, one.after) == (other.code, other.reason, other.at, other.after)


class TakenIn(StrEnum):
    """What became of a job that was taken in."""

    NEW = "new"
    SAME = "was here already, and is the same"
    JOINED = "joined with the one that was here"


class _Sides(NamedTuple):
    """Whether the job that came in, and the one that was here, has something that the other had not."""

    from_there: bool
    from_here: bool


class Arrived(NamedTuple):
    """A job's number here, what became of it, and which words both sides wrote: what is here stays until a person chooses."""

    number: str
    became: TakenIn
    both_wrote: tuple[BothWrote, ...] = ()


@dataclass(frozen=True, slots=True)
class _Kept:
    """A row of a table of a job: what it is known again by, when it was, and what it holds."""

    key: str
    at: datetime
    values: Mapping[str, Any]
    evidence: Mapping[str, str] = field(default_factory=dict)
    id: int = 0

    @property
    def changed(self) -> datetime:
        """When it was written last; only a soak is written more than once."""
        changed_at = self.values.get("changed_at", self.at)
        return changed_at if isinstance(changed_at, datetime) else self.at


def take_in(
    connection: Connection,
    document: JobDocument,
    evidence: Mapping[str, bytes],
    behind: bool = False,
    adds_only: bool = False,
    chosen: Mapping[str, bool] | None = None,
) -> Arrived:
    """Put a job into the tables. Raises SourceError for evidence that is not there.

    A job with the same identity is joined: what was read, tested, measured and tried on either side is there afterwards,
    each side's order kept. A word is taken from the bench that knew the other's; one that both wrote stays as it is here and
    is told, until `chosen` says by its name whether it is taken (True) or stays (False).
    A number that another job has gets a mark. `behind` puts what is new behind what is here, whatever its time: it was
    added to this very job, and only had to wait. `adds_only` takes what was read, tested and measured, and leaves the words of a
    job that is here as they are: a stick carries them out and changes none of them.
    """
    for part in document.readings:
        for name, digest in part.evidence.items():
            data = evidence.get(digest)
            if data is None or sha256(data).hexdigest() != digest:
                raise SourceError(f"the evidence {clean(name, 60)} is missing or damaged", f"job {clean(document.number, 40)}")
    here = connection.execute(select(tables.jobs).where(tables.jobs.c.uid == document.uid)).first()
    if here is None:
        return Arrived(_put_in(connection, document, evidence, behind), TakenIn.NEW)
    ours = load_job(connection, here.number)
    words = _Words.of(ours, document, chosen or {}, adds_only or bool(ours.damaged))
    sides = [*_take_records(connection, here.id, document, evidence, behind), _take_tries(connection, here.id, document, words.stand)]
    signed_there, signed_here = {part.sha256 for part in document.revisions}, {revision.sha256 for revision in ours.revisions}
    changed = any(side.from_there for side in sides) | _take_revisions(connection, here.id, document, evidence)
    if document.card:
        _take_card(connection, document.card)
    if not adds_only and not ours.damaged:
        changed |= _take_hand_back(connection, ours, document, words.stand)
    # Whoever knows the other's signatures says whether the job is open again; what adds something ends a signature.
    frozen = ours.frozen and not (changed or words.taken)
    if not adds_only and signed_here <= signed_there and not (any(side.from_here for side in sides) or words.kept):
        frozen = document.frozen
    changed |= bool(words.taken) or frozen != ours.frozen
    row: dict[str, Any] = {"frozen": frozen, "lineages": json.dumps(words.lineages)}
    if words.taken:
        row |= {name: words.stand[name] for name in FACT_WORDS}
    if changed:
        row |= {"version": tables.jobs.c.version + 1, "changed_at": max(datetime.now(UTC).replace(microsecond=0), aware(here.changed_at))}
    connection.execute(update(tables.jobs).where(tables.jobs.c.id == here.id).values(row))
    return Arrived(here.number, TakenIn.JOINED if changed else TakenIn.SAME, words.asked)


def _put_in(connection: Connection, document: JobDocument, evidence: Mapping[str, bytes], behind: bool) -> str:
    """Put a job in that is not here yet; returns its number."""
    number = _free_number(connection, clean(document.number, 40))
    words = document_words(document)
    row = {"number": number, **{name: words[name] for name in FACT_WORDS}, "uid": document.uid, "version": 0, **NO_LINE}
    row |= {"created_at": document.created_at, "changed_at": document.changed_at, "frozen": document.frozen, "archived": document.archived}
    row |= {"lineages": json.dumps(checked_lineages(document.lineages))}
    job_id = insert_row(connection, tables.jobs, row)
    if job_id is None:
        raise BusyError("another bench takes the same job in just now", "Nothing was changed; try again in a moment")
    _take_records(connection, job_id, document, evidence, behind)
    if document.tries is not None:
        log = log_to_json(log_from_json(json.dumps(document.tries)))
        connection.execute(insert(tables.tries).values(job_id=job_id, version=1, log=log))
    _take_revisions(connection, job_id, document, evidence)
    if document.card:
        _take_card(connection, document.card)
    if document.hand_back:
        put(connection, tables.hand_backs, {"job_id": job_id, "record": hand_back_to_json(_hand_back(document))})
    return number


def document_words(document: JobDocument) -> dict[str, str]:
    """Return the words of a job that came in, by their names, as this shop would keep them."""
    words = {name: clean(getattr(document, name)) for name in FACT_WORDS} | {"promise": clean(document.promise, LONGEST_PROMISE)}
    words |= {name: getattr(_hand_back(document), name) for name in HAND_BACK_WORDS}
    log = log_from_json(json.dumps(document.tries)) if document.tries is not None else TryLog()
    return words | {CONCLUSION: log.conclusion}


def _hand_back(document: JobDocument) -> HandBack:
    return hand_back_from_json(json.dumps(document.hand_back)) if document.hand_back else HandBack()


@dataclass(frozen=True, slots=True)
class _Words:
    """How each word stands after joining, its lineage, which were taken, which of ours the other side lacks, and which are asked."""

    stand: Mapping[str, str]
    lineages: Mapping[str, Lineage]
    taken: tuple[str, ...]
    kept: tuple[str, ...]
    asked: tuple[BothWrote, ...]

    @classmethod
    def of(cls, ours: Job, document: JobDocument, chosen: Mapping[str, bool], adds_only: bool) -> _Words:
        """Work out what becomes of each word."""
        stand, lineages = words_of(ours), lineages_of(ours)
        if adds_only:
            return cls(stand, lineages, (), (), ())
        taken, kept, asked = [], [], []
        told = checked_lineages(document.lineages)
        for name, there in document_words(document).items():
            here, lineage = lineages[name], grown(told.get(name, ()), there)
            later = later_of(here, lineage)
            if later is Later.NEITHER and name in chosen:
                later = Later.THERE if chosen[name] else Later.HERE
            if later is Later.NEITHER:
                asked.append(BothWrote(name, stand[name], there))
            elif later is Later.THERE:
                stand[name], lineages[name] = there, joined(here, lineage)
                taken.append(name)
            else:
                lineages[name] = joined(lineage, here)
            if later in (Later.HERE, Later.NEITHER):
                kept.append(name)
        return cls(stand, lineages, tuple(taken), tuple(kept), tuple(asked))


def _free_number(connection: Connection, wanted: str) -> str:
    taken = set(connection.scalars(select(tables.jobs.c.number)))
    number, at = wanted, 2
    while number in taken:
        number, at = f"{wanted[:34]}-{at}", at + 1
    return number


def _take_records(connection: Connection, job_id: int, document: JobDocument, evidence: Mapping[str, bytes], behind: bool) -> list[_Sides]:
    """Join readings, soaks, benchmarks and demands."""
    theirs = {
        tables.readings: [
            _reading(
                {"moment": reading.moment, "taken_at": reading.taken_at.astimezone(UTC), "reading": json.dumps(reading.reading)},
                reading.evidence,
            )
            for reading in document.readings
        ],
        tables.soaks: [_record({**_begun(part), "changed_at": part.at.astimezone(UTC)}) for part in document.soaks],
        tables.benchmarks: [_record({**_begun(part), "moment": part.moment}) for part in document.gauges],
        tables.demands: [_record(_begun(part)) for part in document.demands],
    }
    return [_join(connection, table, job_id, parts, evidence, behind) for table, parts in theirs.items()]


def _join(
    connection: Connection, table: Table, job_id: int, theirs: Sequence[_Kept], evidence: Mapping[str, bytes], behind: bool
) -> _Sides:
    """Make a table hold what both sides have, in an order that keeps each side's own."""
    rows = connection.execute(select(table).where(table.c.job_id == job_id).order_by(table.c.id)).all()
    here = [_row(connection, table, row) for row in rows]
    ours = _newer(here, theirs)
    known = {row.key for row in here}
    new = [their for their in theirs if their.key not in known]
    whole = [*ours, *new] if behind else merged(ours, theirs, lambda row: row.key, lambda row: row.at)
    alike = 0
    while alike < min(len(here), len(whole)) and here[alike] is whole[alike]:
        alike += 1
    # The order is that of the rows' ids, so whatever comes after the first newcomer is written again behind it.
    for row in whole[alike:]:
        row_id = insert_row(connection, table, {**row.values, "job_id": job_id})
        for name, digest in row.evidence.items():
            keep_evidence(connection, row_id or 0, name, digest, evidence.get(digest))
    # Afterwards, so that no row gets the id of another one that some open screen still knows.
    for old in here[alike:]:
        connection.execute(delete(table).where(table.c.id == old.id))
    return _Sides(len(whole) > alike, not known <= {their.key for their in theirs})


def _newer(here: Sequence[_Kept], theirs: Sequence[_Kept]) -> list[_Kept]:
    """Return the rows here; a soak that went on over there takes the place of what it was when it left."""
    there = {their.key: their for their in theirs}
    return [there[row.key] if row.key in there and there[row.key].changed > row.changed else row for row in here]


def _row(connection: Connection, table: Table, row: Row[Any]) -> _Kept:
    values = {name: aware(value) if isinstance(value, datetime) else value for name, value in row._mapping.items() if name != "id"}
    if table is not tables.readings:
        return _record(values, row.id)
    named = select(tables.reading_evidence.c.name, tables.reading_evidence.c.sha256)
    order = named.where(tables.reading_evidence.c.reading_id == row.id).order_by(tables.reading_evidence.c.id)
    return _reading(values, {row.name: row.sha256 for row in connection.execute(order)}, row.id)


def _reading(values: Mapping[str, Any], evidence: Mapping[str, str], id: int = 0) -> _Kept:
    """Return a reading; one of the same moment and time that says the same is the same."""
    said = json.dumps(parse_json(values["reading"]), sort_keys=True)
    return _Kept(f"{values['taken_at']} {values['moment']} {said}", values["taken_at"], values, evidence, id)


def _record(values: Mapping[str, Any], id: int = 0) -> _Kept:
    """Return a record. A soak is known again by when it began, as it changes while it runs; the others by all they say."""
    record = parse_json(values["record"])
    said = record.get("plan") if "changed_at" in values else record
    return _Kept(f"{values['begun_at']} {json.dumps(said, sort_keys=True)}", values["begun_at"], values, {}, id)


def _begun(part: TimedPart) -> dict[str, Any]:
    begun = part.record.get("begun_at")
    at = read_time(str(begun)) if begun else part.at
    return {"record": json.dumps(part.record), "begun_at": at.astimezone(UTC)}


def _take_revisions(connection: Connection, job_id: int, document: JobDocument, evidence: Mapping[str, bytes]) -> bool:
    """Keep what was signed over there; two benches that each signed a revision of one number both keep theirs."""
    here = {row.sha256: row.number for row in connection.execute(select(tables.revisions).where(tables.revisions.c.job_id == job_id))}
    new = [revision for revision in document.revisions if revision.sha256 not in here]
    taken = set(here.values())
    for revision in new:
        number = revision.number if revision.number not in taken else max(taken) + 1
        taken.add(number)
        row = {"job_id": job_id, "number": number, "signed_at": revision.signed_at, "signed_by": clean(revision.signed_by)}
        text = evidence.get(revision.sha256, b"").decode("utf-8", "replace")
        connection.execute(insert(tables.revisions).values(sha256=revision.sha256, document=text, **row))
    return bool(new)


def _take_card(connection: Connection, toml: str) -> None:
    """Keep a card that this shop does not have; its own cards are not overwritten."""
    put(connection, tables.cards, {"name": parse_card(toml).name.casefold(), "toml": toml}, replace=False)


def _take_tries(connection: Connection, job_id: int, document: JobDocument, words: Mapping[str, str]) -> _Sides:
    """Join the logs of tries; the conclusion is the one that was decided on."""
    row = connection.execute(select(tables.tries).where(tables.tries.c.job_id == job_id)).first()
    if document.tries is None:
        return _Sides(False, row is not None)
    theirs = log_from_json(json.dumps(document.tries))
    if row is None:
        log = log_to_json(replace(theirs, conclusion=words[CONCLUSION]))
        connection.execute(insert(tables.tries).values(job_id=job_id, version=1, log=log))
        return _Sides(True, False)
    here = log_from_json(row.log)
    whole = replace(merged_log(here, theirs), conclusion=words[CONCLUSION])
    if whole == here:
        return _Sides(False, whole != theirs)
    changed = update(tables.tries).where(tables.tries.c.job_id == job_id)
    connection.execute(changed.values(version=row.version + 1, log=log_to_json(whole)))
    return _Sides(True, whole != theirs)


def _take_hand_back(connection: Connection, ours: Job, document: JobDocument, words: Mapping[str, str]) -> bool:
    """Join what was added to the sheet; returns whether an agreement came in."""
    whole = merged_hand_back(ours.hand_back, _hand_back(document), {name: words[name] for name in HAND_BACK_WORDS})
    if whole == ours.hand_back:
        return False
    put(connection, tables.hand_backs, {"job_id": ours.id, "record": hand_back_to_json(whole)})
    return whole.overrides != ours.hand_back.overrides
