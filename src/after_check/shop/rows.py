"""Jobs as rows of tables: reading a whole one, and the steps of the transactions that change one."""

from __future__ import annotations

import functools
import json
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any, TypeVar

from sqlalchemy import Connection, Row, Table, func, insert, select, update

from after_check.benchmark.benchmark_json import benchmark_from_json, demand_from_json
from after_check.casework.job_lines import line_of, search_text
from after_check.casework.judging import judge_job, judged_by_now
from after_check.domain.cards import Card
from after_check.domain.handback import HandBack, Revision
from after_check.domain.jobs import Job, JobFacts, KeptBenchmark, KeptReading, KeptSoak, KeptTries, Moment
from after_check.domain.modules import MakerId
from after_check.domain.outside_text import clean
from after_check.domain.quantities import counted
from after_check.domain.tries import TryLog
from after_check.files.strict_json import parse_json
from after_check.host.processes import has_died
from after_check.local.log import logger
from after_check.shop import tables
from after_check.shop.database import insert_row, needs_on, put
from after_check.shop.documents import hand_back_from_json
from after_check.shop.errors import ChangedElsewhereError, NotFoundError, SignedError
from after_check.shop.lineages import checked_lineages, lineages_of
from after_check.shop.makers import named, pairs_in
from after_check.shop.salvage import FAULTS, NO_DATE, Damage, derived
from after_check.shop.stored_lines import line_to_json
from after_check.soak.soak_json import interrupted, record_from_json
from after_check.sources.card_file import parse_card
from after_check.sources.evidence import RawEvidence, Taken
from after_check.sources.saved import reading_from_json, reading_to_json
from after_check.tries.log_json import log_from_json, salvaged

SILENT_SECONDS = 20.0
"""A running soak is written every few seconds; after this long without a word its program was killed."""
LONGEST_NUMBER, LONGEST_PROMISE = 40, 8000
NO_LINE = {"line": "", "search": "", "waits_for": "you", "latest": "", "judged_by": 0}
"""What is in a new row until the end of the transaction that makes it."""

Kept = TypeVar("Kept")


def load_job(connection: Connection, number: str, to_change: bool = False) -> Job:
    """Return a whole job; `to_change` holds its row until the transaction ends, where the store can. Raises NotFoundError."""
    wanted = select(tables.jobs).where(tables.jobs.c.number == number)
    row = connection.execute(wanted.with_for_update() if to_change else wanted).first()
    if row is None:
        raise NotFoundError(f"there is no job {clean(number, LONGEST_NUMBER)}", "after-check shows the jobs on the bench")
    names, damage = load_makers(connection), Damage()
    columns = ("title", "machine", "customer", "promise")
    facts = JobFacts(row.number, *(damage.text(f"the {name}", getattr(row, name)) for name in columns))

    def kept_reading(found: Row[Any]) -> KeptReading:
        try:
            reading = reading_from_json(found.reading)
        except FAULTS:
            again = derived(evidence_of(connection, found.id), aware(found.taken_at))
            if again is None:
                raise
            damage.words.append("a reading is damaged and was decoded again from what it was read from")
            reading = again
        return KeptReading(found.id, Moment(found.moment), aware(found.taken_at), named(reading, names))

    readings = _records(connection, tables.readings, row.id, kept_reading, "a reading", damage)
    tried = connection.execute(select(tables.tries).where(tables.tries.c.job_id == row.id)).first()
    added = connection.execute(select(tables.hand_backs.c.record).where(tables.hand_backs.c.job_id == row.id)).scalar()
    return Job(
        id=row.id,
        facts=facts,
        readings=readings,
        created_at=aware(row.created_at),
        changed_at=aware(row.changed_at),
        version=row.version,
        card=damage.or_none("the machine data sheet", lambda: _card_for(connection, facts, readings)),
        soaks=_records(connection, tables.soaks, row.id, _kept_soak, "a memory test", damage),
        benchmarks=_records(connection, tables.benchmarks, row.id, _kept_benchmark, "a benchmark", damage),
        demands=_records(
            connection, tables.demands, row.id, lambda found: demand_from_json(found.record), "a watch over memory in use", damage
        ),
        tries=_kept_tries(tried, damage) if tried is not None else None,
        uid=row.uid,
        frozen=bool(row.frozen),
        archived=bool(row.archived),
        hand_back=(damage.or_none("what was added for the hand-back", lambda: hand_back_from_json(added)) if added else None) or HandBack(),
        revisions=_records(connection, tables.revisions, row.id, _revision, "a signed sheet", damage),
        damaged=_without_dates(damage, row, readings),
        needs=needs_on(connection),
        # Damaged, nothing is lost that anybody wrote: they grow again, and a word that another bench wrote is asked about.
        lineages=Damage().or_none("the lineages", lambda: checked_lineages(parse_json(row.lineages))) or {},
    )


def _without_dates(damage: Damage, row: Row[Any], readings: tuple[KeptReading, ...]) -> tuple[str, ...]:
    """Return what is damaged, dates among it, each once."""
    dates = (row.created_at, row.changed_at, *(kept.taken_at for kept in readings))
    words = [*damage.words, *(["a date is damaged"] if NO_DATE in (aware(date) for date in dates) else [])]
    return tuple(dict.fromkeys(words))


def load_makers(connection: Connection) -> dict[MakerId, str]:
    """Return the names of makers by their codes."""
    return {MakerId(row.bank, row.code): row.name for row in connection.execute(select(tables.makers))}


def job_to_change(connection: Connection, number: str) -> Job:
    """Return a job whose row is held until the transaction ends. Raises NotFoundError, and SignedError for a signed one."""
    job = load_job(connection, number, to_change=True)
    if job.frozen:
        raise SignedError(f"job {job.facts.number} is signed", "Begin a new revision in its hand-back (h), then change it")
    return job


def same_version(connection: Connection, job: Job) -> None:
    """Make sure that a job is still the one given, and not signed. Raises ChangedElsewhereError and SignedError."""
    if job_to_change(connection, job.facts.number).version != job.version:
        raise ChangedElsewhereError(f"job {job.facts.number} was changed somewhere else", "Look at it again, then repeat the change")


def finish(connection: Connection, number: str, at: datetime) -> Job:
    """Raise the job's version and work out its line; the last step of every change."""
    mark = update(tables.jobs).where(tables.jobs.c.number == number).values(version=tables.jobs.c.version + 1, changed_at=at)
    connection.execute(mark)
    job = load_job(connection, number)
    keep_line(connection, job)
    return job


def keep_line(connection: Connection, job: Job) -> None:
    """Judge a job and keep what the bench shows of it."""
    judgement = judge_job(job, propose=False)
    line = line_of(job, judgement)
    columns = {
        "line": line_to_json(line),
        "search": search_text(job, judgement),
        "waits_for": line.waits_for.value,
        "latest": line.latest.astimezone(UTC).isoformat(),
        "judged_by": judged_by_now(job.needs),
        "moved": select(func.coalesce(func.max(tables.jobs.c.moved), 0) + 1).scalar_subquery(),
    }
    if not job.damaged:  # A word that cannot be read now was written by nobody.
        columns["lineages"] = json.dumps(lineages_of(job))
    connection.execute(update(tables.jobs).where(tables.jobs.c.id == job.id).values(columns))


def insert_reading(connection: Connection, job_id: int, moment: Moment, taken: Taken, at: datetime) -> None:
    """Put a reading with its evidence into a job, and learn the makers that it names."""
    row = {
        "job_id": job_id,
        "moment": moment.value,
        "taken_at": taken.reading.taken_at or at,
        "reading": reading_to_json(taken.reading),
    }
    reading_id = insert_row(connection, tables.readings, row)
    for maker, name in pairs_in(taken.reading):
        learn(connection, maker, name)
    for part in taken.evidence:
        keep_evidence(connection, reading_id or 0, part.name, part.sha256, part.data)


def keep_evidence(connection: Connection, reading_id: int, name: str, digest: str, data: bytes | None) -> None:
    """Keep a piece of evidence of a reading; equal bytes are kept once for all readings, and `data` is None where they are there."""
    if data is not None:
        put(connection, tables.evidence, {"sha256": digest, "data": data}, replace=False)
    connection.execute(insert(tables.reading_evidence).values(reading_id=reading_id, name=name, sha256=digest))


def learn(connection: Connection, maker: MakerId, name: str, replace: bool = False) -> None:
    """Keep a maker's name; what a technician said (`replace`) is not overwritten by what a module says."""
    put(connection, tables.makers, {"bank": maker.bank, "code": maker.code, "name": name}, replace)


def facts_columns(facts: JobFacts) -> dict[str, str]:
    """Return facts as the columns of a job's row."""
    return {
        "number": facts.number,
        "title": facts.title,
        "machine": facts.machine,
        "customer": facts.customer,
        "promise": facts.promise,
    }


def cleaned(facts: JobFacts) -> JobFacts:
    """Return what a person wrote without control characters, no longer than its column."""
    return JobFacts(
        number=clean(facts.number, LONGEST_NUMBER),
        title=clean(facts.title),
        machine=clean(facts.machine),
        customer=clean(facts.customer),
        promise=clean(facts.promise, LONGEST_PROMISE),
    )


def now() -> datetime:
    """Return this moment, to the second."""
    return datetime.now(UTC).replace(microsecond=0)


def aware(moment: datetime) -> datetime:
    """Return a moment with its zone: SQLite keeps none, a server gives its own; what was stored is UTC."""
    return moment.astimezone(UTC) if moment.tzinfo else moment.replace(tzinfo=UTC)


def _records(
    connection: Connection, table: Table, job_id: int, kept: Callable[[Row[Any]], Kept], what: str, damage: Damage
) -> tuple[Kept, ...]:
    """Return the rows of a job in a table, in the order in which they were kept; those that are damaged are noted and left out."""
    wanted = select(table).where(table.c.job_id == job_id).order_by(table.c.id)
    found = (damage.or_none(what, functools.partial(kept, row)) for row in connection.execute(wanted))
    return tuple(record for record in found if record is not None)


def evidence_of(connection: Connection, reading_id: int) -> tuple[RawEvidence, ...]:
    """Return the raw bytes that a reading was decoded from."""
    joined = tables.reading_evidence.join(tables.evidence, tables.reading_evidence.c.sha256 == tables.evidence.c.sha256)
    wanted = (
        select(tables.reading_evidence.c.name, tables.evidence.c.data)
        .select_from(joined)
        .where(tables.reading_evidence.c.reading_id == reading_id)
        .order_by(tables.reading_evidence.c.id)
    )
    return tuple(RawEvidence(row.name, row.data) for row in connection.execute(wanted))


def _kept_tries(row: Row[Any], damage: Damage) -> KeptTries:
    """Return the tries; of a damaged log what can still be read, under the same version, so that one may go on with it."""
    try:
        return KeptTries(row.version, log_from_json(row.log))
    except FAULTS:
        logger().error("a log of tries is damaged: %s", clean(str(row.log), 1_000_000))
    try:
        log, lost = salvaged(row.log)
    except (*FAULTS, RecursionError):
        damage.words.append("the log of tries is damaged and left out")
        return KeptTries(row.version, TryLog())
    damage.words.append(f"the log of tries is damaged: {counted(len(log.tries), 'try', 'tries')} could be read, {lost} could not")
    return KeptTries(row.version, log)


def _kept_soak(row: Row[Any]) -> KeptSoak:
    """Return a soak. One that says it runs and was not written for a while was interrupted."""
    record, changed_at = record_from_json(row.record), aware(row.changed_at)
    silent = (now() - changed_at).total_seconds() > SILENT_SECONDS or has_died(record.process)
    return KeptSoak(row.id, changed_at, interrupted(record) if silent else record)


def _kept_benchmark(row: Row[Any]) -> KeptBenchmark:
    return KeptBenchmark(row.id, Moment(row.moment), benchmark_from_json(row.record))


def _revision(row: Row[Any]) -> Revision:
    return Revision(row.number, aware(row.signed_at), row.signed_by, row.sha256)


def _card_for(connection: Connection, facts: JobFacts, readings: tuple[KeptReading, ...]) -> Card | None:
    """Return the card of a job's machine: by the name that a person wrote, else by the model that the machine told."""
    models = [kept.reading.machine.model.value for kept in readings if kept.reading.machine.model is not None]
    for name in (facts.machine, *reversed(models)):
        found = connection.execute(select(tables.cards.c.toml).where(tables.cards.c.name == name.casefold())).scalar() if name else None
        if found is not None:
            return parse_card(found)
    return None
