"""A whole job from the rows of its tables."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any, TypeVar

from sqlalchemy import Connection, Row, Table, select

from after_check.domain.cards import Card
from after_check.domain.handback import HandBack, Revision
from after_check.domain.jobs import Job, JobFacts, KeptGauge, KeptReading, KeptSoak, KeptTries, Moment
from after_check.domain.modules import MakerId
from after_check.domain.text import clean
from after_check.gauge.record import demand_from_json, gauge_from_json
from after_check.shop import tables
from after_check.shop.errors import Absent
from after_check.shop.hand_backs import hand_back_from_json
from after_check.shop.makers import named
from after_check.soak.record import has_died, interrupted, record_from_json
from after_check.sources.card_file import parse_card
from after_check.sources.saved import reading_from_json
from after_check.tries.record import log_from_json

SILENT_SECONDS = 20.0
"""A running soak is written every few seconds; after this long without a word its program was killed."""

Kept = TypeVar("Kept")


def load_job(connection: Connection, number: str, to_change: bool = False) -> Job:
    """Return a whole job; `to_change` holds its row until the transaction ends, where the store can. Raises Absent."""
    wanted = select(tables.jobs).where(tables.jobs.c.number == number)
    row = connection.execute(wanted.with_for_update() if to_change else wanted).first()
    if row is None:
        raise Absent(f"there is no job {clean(number, 40)}", "after-check shows the jobs on the bench")
    names = load_makers(connection)
    facts = JobFacts(row.number, row.title, row.machine, row.customer, row.promise)
    readings = tuple(
        KeptReading(one.id, Moment(one.moment), aware(one.taken_at), named(reading_from_json(one.reading), names))
        for one in connection.execute(select(tables.readings).where(tables.readings.c.job_id == row.id).order_by(tables.readings.c.id))
    )
    tried = connection.execute(select(tables.tries).where(tables.tries.c.job_id == row.id)).first()
    added = connection.execute(select(tables.hand_backs.c.record).where(tables.hand_backs.c.job_id == row.id)).scalar()
    return Job(
        id=row.id,
        facts=facts,
        readings=readings,
        created_at=aware(row.created_at),
        changed_at=aware(row.changed_at),
        version=row.version,
        card=_card_for(connection, facts, readings),
        soaks=_soaks(connection, row.id),
        gauges=_records(connection, tables.gauges, row.id, lambda one: KeptGauge(one.id, Moment(one.moment), gauge_from_json(one.record))),
        demands=_records(connection, tables.demands, row.id, lambda one: demand_from_json(one.record)),
        tries=KeptTries(tried.version, log_from_json(tried.log)) if tried is not None else None,
        uid=row.uid,
        frozen=bool(row.frozen),
        archived=bool(row.archived),
        hand_back=hand_back_from_json(added) if added else HandBack(),
        revisions=_records(
            connection, tables.revisions, row.id, lambda one: Revision(one.number, aware(one.signed_at), one.signed_by, one.sha256)
        ),
    )


def load_makers(connection: Connection) -> dict[MakerId, str]:
    """Return the names of makers by their codes."""
    return {MakerId(row.bank, row.code): row.name for row in connection.execute(select(tables.makers))}


def _records(connection: Connection, table: Table, job_id: int, kept: Callable[..., Kept]) -> tuple[Kept, ...]:
    wanted = select(table).where(table.c.job_id == job_id).order_by(table.c.id)
    return tuple(kept(row) for row in connection.execute(wanted))


def _soaks(connection: Connection, job_id: int) -> tuple[KeptSoak, ...]:
    """Return a job's soaks, oldest first. One that says it runs and was not written for a while was interrupted."""

    def kept(row: Row[Any]) -> KeptSoak:
        record, changed_at = record_from_json(row.record), aware(row.changed_at)
        silent = (now() - changed_at).total_seconds() > SILENT_SECONDS or has_died(record.process)
        return KeptSoak(row.id, changed_at, interrupted(record) if silent else record)

    return _records(connection, tables.soaks, job_id, kept)


def _card_for(connection: Connection, facts: JobFacts, readings: tuple[KeptReading, ...]) -> Card | None:
    """Return the card of a job's machine: by the name that a person wrote, else by the model that the machine told."""
    models = [kept.reading.machine.model.value for kept in readings if kept.reading.machine.model is not None]
    for name in (facts.machine, *reversed(models)):
        found = connection.execute(select(tables.cards.c.toml).where(tables.cards.c.name == name.casefold())).scalar() if name else None
        if found is not None:
            return parse_card(found)
    return None


def now() -> datetime:
    """Return this moment, to the second."""
    return datetime.now(UTC).replace(microsecond=0)


def aware(moment: datetime) -> datetime:
    """Return a moment with its zone: SQLite keeps none, a server gives its own; what was stored is UTC."""
    return moment.astimezone(UTC) if moment.tzinfo else moment.replace(tzinfo=UTC)
