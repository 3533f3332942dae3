"""Steps of the transactions that change a job."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import Connection, delete, insert, select, update

from after_check.domain.jobs import Job, JobFacts, Moment
from after_check.domain.modules import MakerId
from after_check.domain.text import clean
from after_check.judgement.version import JUDGEMENT_VERSION
from after_check.shop import tables
from after_check.shop.errors import Changed, Frozen
from after_check.shop.lines import line_to_json
from after_check.shop.loading import load_job, load_makers
from after_check.shop.makers import pairs_in
from after_check.shop.summary import judge_job, line_of, search_text
from after_check.sources.saved import reading_to_json
from after_check.sources.taken import Taken

_LONGEST_NUMBER = 40


def to_change(connection: Connection, number: str) -> Job:
    """Return a job whose row is held until the transaction ends. Raises Absent, and Frozen for a signed one."""
    job = load_job(connection, number, to_change=True)
    if job.frozen:
        raise Frozen(f"job {job.facts.number} is signed", "Begin a new revision in its hand-back (h), then change it")
    return job


def same_version(connection: Connection, job: Job) -> None:
    """Make sure that a job is still the one given, and not signed. Raises Changed and Frozen."""
    if to_change(connection, job.facts.number).version != job.version:
        raise Changed(f"job {job.facts.number} was changed somewhere else in the meantime", "Look at it again, then repeat the change")


def finish(connection: Connection, number: str, now: datetime) -> Job:
    """Raise the job's version and work out its line; the last step of every change."""
    mark = update(tables.jobs).where(tables.jobs.c.number == number).values(version=tables.jobs.c.version + 1, changed_at=now)
    connection.execute(mark)
    job = load_job(connection, number)
    keep_line(connection, job)
    return job


def keep_line(connection: Connection, job: Job) -> None:
    """Judge a job and keep what the bench shows of it."""
    judgement = judge_job(job)
    line = line_of(job, judgement)
    columns = {
        "line": line_to_json(line),
        "search": search_text(job, judgement),
        "waits_for": line.waits_for.value,
        "latest": line.latest.astimezone(UTC).isoformat(),
        "judged_by": JUDGEMENT_VERSION,
    }
    connection.execute(update(tables.jobs).where(tables.jobs.c.id == job.id).values(columns))


def insert_reading(connection: Connection, job_id: int, moment: Moment, taken: Taken, now: datetime) -> None:
    """Put a reading with its evidence into a job, and learn the makers that it names."""
    row = {
        "job_id": job_id,
        "moment": moment.value,
        "taken_at": taken.reading.taken_at or now,
        "reading": reading_to_json(taken.reading),
    }
    key = connection.execute(insert(tables.readings).values(row)).inserted_primary_key
    for maker, name in pairs_in(taken.reading):
        learn(connection, maker, name)
    for one in taken.evidence:
        if not connection.execute(select(tables.evidence.c.sha256).where(tables.evidence.c.sha256 == one.sha256)).first():
            connection.execute(insert(tables.evidence).values(sha256=one.sha256, data=one.data))
        connection.execute(insert(tables.reading_evidence).values(reading_id=key[0] if key else 0, name=one.name, sha256=one.sha256))


def learn(connection: Connection, maker: MakerId, name: str, replace_known: bool = False) -> None:
    """Keep a maker's name; what a technician said is not overwritten by what a module says."""
    known = load_makers(connection).get(maker)
    if known is not None and not replace_known:
        return
    connection.execute(delete(tables.makers).where(tables.makers.c.bank == maker.bank, tables.makers.c.code == maker.code))
    connection.execute(insert(tables.makers).values(bank=maker.bank, code=maker.code, name=name))


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
        clean(facts.number, _LONGEST_NUMBER), clean(facts.title), clean(facts.machine), clean(facts.customer), clean(facts.promise, 8000)
    )
