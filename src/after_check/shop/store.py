"""The store of jobs: every change is one transaction, on disk before the call returns."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, delete, event, insert, select, update
from sqlalchemy.exc import DBAPIError

from after_check.domain.bench import BenchEntry, JobLine, WaitsFor
from after_check.domain.cards import Card
from after_check.domain.demand import DemandRecord
from after_check.domain.gauge import GaugeRecord
from after_check.domain.jobs import Job, JobFacts, KeptGauge, KeptReading, KeptSoak, KeptTries, Moment
from after_check.domain.modules import MakerId
from after_check.domain.soak import SoakRecord
from after_check.domain.text import clean
from after_check.domain.tries import TryLog
from after_check.gauge.record import demand_from_json, demand_to_json, gauge_from_json, gauge_to_json
from after_check.judgement.version import JUDGEMENT_VERSION
from after_check.shop import tables
from after_check.shop.errors import Absent, Changed, ReadOnly, ShopError, in_words
from after_check.shop.lines import entries_of, line_from_json, line_to_json
from after_check.shop.makers import named, pairs_in
from after_check.shop.schema import bring_up_to_date
from after_check.shop.summary import judge_job, line_of, search_text
from after_check.soak.record import has_died, interrupted, record_from_json, record_to_json
from after_check.sources.card_file import parse_card, write_card
from after_check.sources.saved import reading_from_json, reading_to_json
from after_check.sources.taken import RawEvidence, Taken
from after_check.tries.record import log_from_json, log_to_json

_WAIT_FOR_LOCK_SECONDS = 3
_LONGEST_NUMBER = 40
_NO_LINE = {"line": "", "search": "", "waits_for": "you", "latest": "", "judged_by": JUDGEMENT_VERSION}
"""What stands in a new row until the end of the transaction that makes it."""


SILENT_SECONDS = 20.0
"""A running soak is written every few seconds; after this long without a word its program was killed."""


class Shop:
    """The jobs of a shop, in an embedded database. May be used from several threads."""

    def __init__(self, engine: Engine, where: str) -> None:
        self._engine = engine
        self.where = where

    @classmethod
    def open(cls, path: Path) -> Shop:
        """Open the store in a file, made if need be. Raises ShopError in words for people."""
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise ReadOnly(f"the folder {path.parent} cannot be made ({error.strerror})", "Name another place with --shop") from None
        if path.is_dir():
            raise ShopError(f"{path} is a folder", "Name a file with --shop")
        engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": _WAIT_FOR_LOCK_SECONDS})
        event.listen(engine, "connect", _prepare_connection)
        event.listen(engine, "begin", _begin)
        shop = cls(engine, str(path))
        with shop._transaction() as connection:
            bring_up_to_date(connection, str(path))
        return shop

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()

    def entries(self) -> list[BenchEntry]:
        """Return every job as an entry of the bench, the one read last first."""
        jobs = tables.jobs.c
        columns = select(jobs.number, jobs.waits_for, jobs.search, jobs.line).order_by(jobs.latest.desc(), jobs.number)
        self._judge_anew()
        with self._reading() as connection:
            return entries_of((row.number, row.waits_for, row.search, row.line) for row in connection.execute(columns))

    def lines(self) -> list[JobLine]:
        """Return every job as a line on the bench, the one read last first."""
        return [line_from_json(entry.line) for entry in self.entries()]

    def job(self, number: str) -> Job:
        """Return a whole job. Raises Absent."""
        with self._reading() as connection:
            return _load(connection, number)

    def evidence(self, reading_id: int) -> tuple[RawEvidence, ...]:
        """Return the raw bytes that a reading was decoded from."""
        joined = tables.reading_evidence.join(tables.evidence, tables.reading_evidence.c.sha256 == tables.evidence.c.sha256)
        wanted = (
            select(tables.reading_evidence.c.name, tables.evidence.c.data)
            .select_from(joined)
            .where(tables.reading_evidence.c.reading_id == reading_id)
            .order_by(tables.reading_evidence.c.id)
        )
        with self._reading() as connection:
            return tuple(RawEvidence(row.name, row.data) for row in connection.execute(wanted))

    def add_job(self, facts: JobFacts, readings: tuple[tuple[Moment, Taken], ...] = ()) -> Job:
        """Keep a new job, with readings that belong to it, all or nothing. Raises Absent when the number is taken."""
        facts = _cleaned(facts)
        if not facts.number:
            raise ShopError("a job needs a number")
        now = _now()
        with self._transaction() as connection:
            if connection.execute(select(tables.jobs.c.id).where(tables.jobs.c.number == facts.number)).first():
                raise Absent(f"there is a job {facts.number} already", "Choose another number")
            row = {**_columns(facts), "created_at": now, "changed_at": now, "version": 0, **_NO_LINE}
            job_id = connection.execute(insert(tables.jobs).values(row)).inserted_primary_key
            for moment, taken in readings:
                _insert_reading(connection, int(job_id[0]) if job_id else 0, moment, taken, now)
            return _finish(connection, facts.number, now)

    def add_reading(self, number: str, moment: Moment, taken: Taken) -> Job:
        """Keep another reading of a job, with its evidence. Raises Absent."""
        now = _now()
        with self._transaction() as connection:
            job = _load(connection, number)
            _insert_reading(connection, job.id, moment, taken, now)
            return _finish(connection, number, now)

    def keep_soak(self, number: str, record: SoakRecord, soak_id: int | None = None) -> int:
        """Keep a soak of a job, anew or in the place of its earlier record; return its id. Raises Absent.

        The job's version stays: a running soak is nobody's change, and must not get in the way of one.
        """
        now = _now()
        with self._transaction() as connection:
            found = connection.execute(select(tables.jobs.c.id).where(tables.jobs.c.number == number)).first()
            if found is None:
                raise Absent(f"there is no job {clean(number, 40)}", "after-check shows the jobs on the bench")
            columns = {"changed_at": now, "record": record_to_json(record)}
            kept = tables.soaks.c.id == soak_id
            if soak_id is None or connection.execute(update(tables.soaks).where(kept).values(columns)).rowcount == 0:
                row = {"job_id": found.id, "begun_at": record.begun_at, **columns}
                key = connection.execute(insert(tables.soaks).values(row)).inserted_primary_key
                soak_id = int(key[0]) if key else 0
            _keep_line(connection, _load(connection, number))
        return soak_id

    def keep_gauge(self, number: str, moment: Moment, record: GaugeRecord) -> Job:
        """Keep a gauge or typed scores of a job. Raises Absent."""
        with self._transaction() as connection:
            job = _load(connection, number)
            row = {"job_id": job.id, "moment": moment.value, "begun_at": record.begun_at, "record": gauge_to_json(record)}
            connection.execute(insert(tables.gauges).values(row))
            job = _load(connection, number)
            _keep_line(connection, job)
            return job

    def keep_demand(self, number: str, record: DemandRecord) -> Job:
        """Keep a watch over the memory that a job's work takes. Raises Absent."""
        with self._transaction() as connection:
            job = _load(connection, number)
            row = {"job_id": job.id, "begun_at": record.begun_at, "record": demand_to_json(record)}
            connection.execute(insert(tables.demands).values(row))
            job = _load(connection, number)
            _keep_line(connection, job)
            return job

    def keep_tries(self, number: str, log: TryLog, version: int) -> Job:
        """Keep a job's log of tries in the place of the given version (0: the first one). Raises Absent and Changed."""
        with self._transaction() as connection:
            job = _load(connection, number)
            columns = {"version": version + 1, "log": log_to_json(log)}
            same = update(tables.tries).where(tables.tries.c.job_id == job.id, tables.tries.c.version == version).values(columns)
            if (job.tries.version if job.tries is not None else 0) != version or (job.tries and connection.execute(same).rowcount == 0):
                raise Changed(f"the tries of job {job.facts.number} were changed somewhere else", "Look at them again, then add yours")
            if job.tries is None:
                connection.execute(insert(tables.tries).values(job_id=job.id, **columns))
            job = _load(connection, number)
            _keep_line(connection, job)
            return job

    def makers(self) -> dict[MakerId, str]:
        """Return the names of makers that this shop knows, by their codes."""
        with self._reading() as connection:
            return _makers(connection)

    def name_maker(self, maker: MakerId, name: str) -> None:
        """Keep the name that a technician gives a maker."""
        with self._transaction() as connection:
            _learn(connection, maker, clean(name), replace_known=True)

    def keep_card(self, card: Card) -> None:
        """Keep a card for this shop; one of the same name is replaced, and the jobs of that model are judged anew."""
        with self._transaction() as connection:
            connection.execute(delete(tables.cards).where(tables.cards.c.name == card.name.casefold()))
            connection.execute(insert(tables.cards).values(name=card.name.casefold(), toml=write_card(card)))
            for row in connection.execute(select(tables.jobs.c.number)).all():
                job = _load(connection, row.number)
                if job.card is not None and job.card.name.casefold() == card.name.casefold():
                    _keep_line(connection, job)

    def cards(self) -> tuple[Card, ...]:
        """Return the cards of this shop, by name."""
        with self._reading() as connection:
            rows = connection.execute(select(tables.cards.c.toml).order_by(tables.cards.c.name)).all()
        return tuple(parse_card(row.toml) for row in rows)

    def change_facts(self, job: Job, facts: JobFacts) -> Job:
        """Change what a person says of a job. Raises Changed when the job is no longer the one given."""
        facts = _cleaned(facts)
        now = _now()
        with self._transaction() as connection:
            changed = update(tables.jobs).where(tables.jobs.c.id == job.id, tables.jobs.c.version == job.version).values(_columns(facts))
            if connection.execute(changed).rowcount == 0:
                raise Changed(
                    f"job {job.facts.number} was changed somewhere else in the meantime", "Look at it again, then repeat the change"
                )
            return _finish(connection, facts.number, now)

    def next_number(self) -> str:
        """Return the number after the highest one in use."""
        with self._reading() as connection:
            numbers = [row.number for row in connection.execute(select(tables.jobs.c.number))]
        highest = max((int(number) for number in numbers if number.isascii() and number.isdigit()), default=0)
        return f"{highest + 1:04d}"

    def draft(self, place: str) -> str:
        """Return the text that was left unfinished at a place."""
        with self._reading() as connection:
            found = connection.execute(select(tables.drafts.c.text).where(tables.drafts.c.place == place)).scalar()
        return found or ""

    def keep_draft(self, place: str, text: str) -> None:
        """Keep an unfinished text; an empty one is forgotten."""
        with self._transaction() as connection:
            connection.execute(delete(tables.drafts).where(tables.drafts.c.place == place))
            if text:
                connection.execute(insert(tables.drafts).values(place=place, text=text))

    def _judge_anew(self) -> None:
        """Work out the lines that older rules judged."""
        outdated = select(tables.jobs.c.number).where(tables.jobs.c.judged_by != JUDGEMENT_VERSION)
        with self._reading() as connection:
            numbers = [row.number for row in connection.execute(outdated)]
            watched = select(tables.jobs.c.number).where(tables.jobs.c.waits_for == WaitsFor.SOAK.value)
            # A soak whose program was killed wrote nothing of it; whoever looks next notices.
            numbers += [number for number in connection.scalars(watched) if _load(connection, number).soak_is_over]
        if numbers:
            with self._transaction() as connection:
                for number in numbers:
                    _keep_line(connection, _load(connection, number))

    @contextmanager
    def _reading(self) -> Iterator[Connection]:
        try:
            with self._engine.connect() as connection:
                yield connection
        except DBAPIError as error:
            raise in_words(error, self.where) from None

    @contextmanager
    def _transaction(self) -> Iterator[Connection]:
        try:
            with self._engine.begin() as connection:
                yield connection
        except DBAPIError as error:
            raise in_words(error, self.where) from None


def _prepare_connection(connection: Any, _record: Any) -> None:
    """Let SQLAlchemy begin transactions itself, so that a migration is all or nothing, and check foreign keys."""
    connection.isolation_level = None
    cursor = connection.cursor()
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.close()


def _begin(connection: Connection) -> None:
    connection.exec_driver_sql("BEGIN")


def _load(connection: Connection, number: str) -> Job:
    row = connection.execute(select(tables.jobs).where(tables.jobs.c.number == number)).first()
    if row is None:
        raise Absent(f"there is no job {clean(number, 40)}", "after-check shows the jobs on the bench")
    names = _makers(connection)
    wanted = select(tables.readings).where(tables.readings.c.job_id == row.id).order_by(tables.readings.c.id)
    readings = tuple(
        KeptReading(one.id, Moment(one.moment), _aware(one.taken_at), named(reading_from_json(one.reading), names))
        for one in connection.execute(wanted)
    )
    facts = JobFacts(row.number, row.title, row.machine, row.customer, row.promise)
    card = _card_for(connection, facts, readings)
    soaks = _soaks(connection, row.id)
    wanted_gauges = select(tables.gauges).where(tables.gauges.c.job_id == row.id).order_by(tables.gauges.c.id)
    gauges = tuple(KeptGauge(one.id, Moment(one.moment), gauge_from_json(one.record)) for one in connection.execute(wanted_gauges))
    wanted_demands = select(tables.demands.c.record).where(tables.demands.c.job_id == row.id).order_by(tables.demands.c.id)
    demands = tuple(demand_from_json(text) for text in connection.scalars(wanted_demands))
    tried = connection.execute(select(tables.tries).where(tables.tries.c.job_id == row.id)).first()
    tries = KeptTries(tried.version, log_from_json(tried.log)) if tried is not None else None
    return Job(row.id, facts, readings, _aware(row.created_at), _aware(row.changed_at), row.version, card, soaks, gauges, demands, tries)


def _soaks(connection: Connection, job_id: int) -> tuple[KeptSoak, ...]:
    """Return a job's soaks, oldest first. One that says it runs and was not written for a while was interrupted."""
    wanted = select(tables.soaks).where(tables.soaks.c.job_id == job_id).order_by(tables.soaks.c.id)
    kept: list[KeptSoak] = []
    for row in connection.execute(wanted):
        record, changed_at = record_from_json(row.record), _aware(row.changed_at)
        silent = (_now() - changed_at).total_seconds() > SILENT_SECONDS or has_died(record.process)
        kept.append(KeptSoak(row.id, changed_at, interrupted(record) if silent else record))
    return tuple(kept)


def _card_for(connection: Connection, facts: JobFacts, readings: tuple[KeptReading, ...]) -> Card | None:
    """Return the card of a job's machine: by the name that a person wrote, else by the model that the machine told."""
    models = [kept.reading.machine.model.value for kept in readings if kept.reading.machine.model is not None]
    for name in (facts.machine, *reversed(models)):
        found = connection.execute(select(tables.cards.c.toml).where(tables.cards.c.name == name.casefold())).scalar() if name else None
        if found is not None:
            return parse_card(found)
    return None


def _finish(connection: Connection, number: str, now: datetime) -> Job:
    """Raise the job's version and work out its line; the last step of every change."""
    mark = update(tables.jobs).where(tables.jobs.c.number == number).values(version=tables.jobs.c.version + 1, changed_at=now)
    connection.execute(mark)
    job = _load(connection, number)
    _keep_line(connection, job)
    return job


def _keep_line(connection: Connection, job: Job) -> None:
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


def _insert_reading(connection: Connection, job_id: int, moment: Moment, taken: Taken, now: datetime) -> None:
    row = {
        "job_id": job_id,
        "moment": moment.value,
        "taken_at": taken.reading.taken_at or now,
        "reading": reading_to_json(taken.reading),
    }
    key = connection.execute(insert(tables.readings).values(row)).inserted_primary_key
    for maker, name in pairs_in(taken.reading):
        _learn(connection, maker, name)
    for one in taken.evidence:
        if not connection.execute(select(tables.evidence.c.sha256).where(tables.evidence.c.sha256 == one.sha256)).first():
            connection.execute(insert(tables.evidence).values(sha256=one.sha256, data=one.data))
        connection.execute(insert(tables.reading_evidence).values(reading_id=key[0] if key else 0, name=one.name, sha256=one.sha256))


def _makers(connection: Connection) -> dict[MakerId, str]:
    return {MakerId(row.bank, row.code): row.name for row in connection.execute(select(tables.makers))}


def _learn(connection: Connection, maker: MakerId, name: str, replace_known: bool = False) -> None:
    """Keep a maker's name; what a technician said is not overwritten by what a module says."""
    known = _makers(connection).get(maker)
    if known is not None and not replace_known:
        return
    connection.execute(delete(tables.makers).where(tables.makers.c.bank == maker.bank, tables.makers.c.code == maker.code))
    connection.execute(insert(tables.makers).values(bank=maker.bank, code=maker.code, name=name))


def _columns(facts: JobFacts) -> dict[str, str]:
    return {
        "number": facts.number,
        "title": facts.title,
        "machine": facts.machine,
        "customer": facts.customer,
        "promise": facts.promise,
    }


def _cleaned(facts: JobFacts) -> JobFacts:
    return JobFacts(
        clean(facts.number, _LONGEST_NUMBER), clean(facts.title), clean(facts.machine), clean(facts.customer), clean(facts.promise, 8000)
    )


def _now() -> datetime:
    return datetime.now(UTC).replace(microsecond=0)


def _aware(moment: datetime) -> datetime:
    """SQLite keeps no time zone; what was stored is UTC."""
    return moment if moment.tzinfo else moment.replace(tzinfo=UTC)
