"""Taking in a job that was handed out elsewhere: known again by its identity, nothing lost, nothing doubled."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import UTC, datetime
from enum import StrEnum
from hashlib import sha256
from typing import TYPE_CHECKING, Any

from sqlalchemy import Connection, Table, delete, insert, select, update

from after_check.domain.text import clean
from after_check.judgement.version import JUDGEMENT_VERSION
from after_check.shop import tables
from after_check.shop.loading import aware
from after_check.sources.card_file import parse_card
from after_check.sources.errors import SourceError

if TYPE_CHECKING:
    from after_check.shop.documents import JobDocument, ReadingPart, TimedPart


class TakenIn(StrEnum):
    """What became of a job that was taken in."""

    NEW = "new"
    SAME = "was here already, and is the same"
    JOINED = "joined with the one that was here"


def take_in(connection: Connection, document: JobDocument, evidence: Mapping[str, bytes]) -> tuple[str, TakenIn]:
    """Put a job into the tables; returns its number here and what became of it. Raises SourceError for evidence that is not there.

    A job with the same identity is joined: readings, soaks, gauges and demands that are not there yet are added, and what a
    person wrote is taken over where the incoming job was changed later. A number that another job has gets a mark.
    """
    for part in document.readings:
        for name, digest in part.evidence.items():
            data = evidence.get(digest)
            if data is None or sha256(data).hexdigest() != digest:
                raise SourceError(f"the evidence {clean(name, 60)} is missing or damaged", f"job {clean(document.number, 40)}")
    here = connection.execute(select(tables.jobs).where(tables.jobs.c.uid == document.uid)).first()
    if here is None:
        number = _free_number(connection, clean(document.number, 40))
        row = {**_facts(document, number), "created_at": document.created_at, "changed_at": document.changed_at, "version": 0}
        row |= {"uid": document.uid, "frozen": document.frozen, "archived": document.archived}
        row |= {"line": "", "search": "", "waits_for": "you", "latest": "", "judged_by": JUDGEMENT_VERSION}
        key = connection.execute(insert(tables.jobs).values(row)).inserted_primary_key
        job_id, became, theirs_later = int(key[0]) if key else 0, TakenIn.NEW, True
    else:
        number, job_id, became = here.number, here.id, TakenIn.SAME
        theirs_later = document.changed_at.astimezone(UTC) > aware(here.changed_at)
    added = sum(_take_reading(connection, job_id, part, evidence) for part in document.readings)
    for table, parts in ((tables.soaks, document.soaks), (tables.gauges, document.gauges), (tables.demands, document.demands)):
        added += sum(_take_record(connection, table, job_id, part) for part in parts)
    added += _take_revisions(connection, job_id, document, evidence)
    if document.card:
        _take_card(connection, document.card)
    if theirs_later:
        _take_words(connection, job_id, document)
    if became is TakenIn.SAME and (added or theirs_later):
        became = TakenIn.JOINED
        changed = {"version": tables.jobs.c.version + 1, "changed_at": max(document.changed_at.astimezone(UTC), aware(here.changed_at))}  # type: ignore[union-attr]
        if theirs_later:
            changed |= {**_facts(document, number), "frozen": document.frozen, "archived": document.archived}
        connection.execute(update(tables.jobs).where(tables.jobs.c.id == job_id).values(changed))
    return number, became


def _facts(document: JobDocument, number: str) -> dict[str, Any]:
    words = {name: clean(getattr(document, name)) for name in ("title", "machine", "customer")}
    return {"number": number, **words, "promise": clean(document.promise, 8000)}


def _free_number(connection: Connection, wanted: str) -> str:
    taken = set(connection.scalars(select(tables.jobs.c.number)))
    number, at = wanted, 2
    while number in taken:
        number, at = f"{wanted[:34]}-{at}", at + 1
    return number


def _take_reading(connection: Connection, job_id: int, part: ReadingPart, evidence: Mapping[str, bytes]) -> int:
    wanted = select(tables.readings.c.reading, tables.readings.c.moment, tables.readings.c.taken_at).where(
        tables.readings.c.job_id == job_id
    )
    for row in connection.execute(wanted):
        same_time = aware(row.taken_at) == part.taken_at.astimezone(UTC)
        if same_time and row.moment == part.moment and json.loads(row.reading) == part.reading:
            return 0
    values = {"job_id": job_id, "moment": part.moment, "taken_at": part.taken_at, "reading": json.dumps(part.reading)}
    key = connection.execute(insert(tables.readings).values(values)).inserted_primary_key
    for name, digest in part.evidence.items():
        if not connection.execute(select(tables.evidence.c.sha256).where(tables.evidence.c.sha256 == digest)).first():
            connection.execute(insert(tables.evidence).values(sha256=digest, data=evidence[digest]))
        row_of = {"reading_id": key[0] if key else 0, "name": name, "sha256": digest}
        connection.execute(insert(tables.reading_evidence).values(row_of))
    return 1


def _take_record(connection: Connection, table: Table, job_id: int, part: TimedPart) -> int:
    here = [json.loads(text) for text in connection.scalars(select(table.c.record).where(table.c.job_id == job_id))]
    if part.record in here:
        return 0
    begun = part.record.get("begun_at")
    values: dict[str, Any] = {"job_id": job_id, "record": json.dumps(part.record)}
    values["begun_at"] = datetime.fromisoformat(str(begun)) if begun else part.at
    if "moment" in table.c:
        values["moment"] = part.moment
    if "changed_at" in table.c:
        values["changed_at"] = part.at
    connection.execute(insert(table).values(values))
    return 1


def _take_revisions(connection: Connection, job_id: int, document: JobDocument, evidence: Mapping[str, bytes]) -> int:
    here = set(connection.scalars(select(tables.revisions.c.number).where(tables.revisions.c.job_id == job_id)))
    new = [one for one in document.revisions if one.number not in here]
    for one in new:
        row = {"job_id": job_id, "number": one.number, "signed_at": one.signed_at, "signed_by": clean(one.signed_by)}
        text = evidence.get(one.sha256, b"").decode("utf-8", "replace")
        connection.execute(insert(tables.revisions).values(sha256=one.sha256, document=text, **row))
    return len(new)


def _take_card(connection: Connection, toml: str) -> None:
    """Keep a card that this shop does not have; its own cards are not overwritten."""
    name = parse_card(toml).name.casefold()
    if not connection.execute(select(tables.cards.c.name).where(tables.cards.c.name == name)).first():
        connection.execute(insert(tables.cards).values(name=name, toml=toml))


def _take_words(connection: Connection, job_id: int, document: JobDocument) -> None:
    """Take over what a person wrote: the additions to the sheet, and the tries."""
    if document.hand_back:
        connection.execute(delete(tables.hand_backs).where(tables.hand_backs.c.job_id == job_id))
        connection.execute(insert(tables.hand_backs).values(job_id=job_id, record=json.dumps(document.hand_back)))
    if document.tries is not None:
        version = connection.execute(select(tables.tries.c.version).where(tables.tries.c.job_id == job_id)).scalar() or 0
        connection.execute(delete(tables.tries).where(tables.tries.c.job_id == job_id))
        connection.execute(insert(tables.tries).values(job_id=job_id, version=version + 1, log=json.dumps(document.tries)))
