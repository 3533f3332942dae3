"""The store of jobs: every change is one transaction, on disk before the call returns."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace
from datetime import datetime
from hashlib import sha256
from pathlib import Path
from typing import TYPE_CHECKING
from uuid import uuid4

from sqlalchemy import Connection, Engine, delete, insert, select, update
from sqlalchemy.exc import DBAPIError

from after_check.domain.bench import BenchEntry, JobLine, WaitsFor
from after_check.domain.cards import Card
from after_check.domain.demand import DemandRecord
from after_check.domain.gauge import GaugeRecord
from after_check.domain.handback import HandBack, Override
from after_check.domain.jobs import Job, JobFacts, KeptGauge, KeptReading, KeptSoak, Moment
from after_check.domain.modules import MakerId
from after_check.domain.soak import SoakRecord
from after_check.domain.text import clean
from after_check.domain.tries import TryLog
from after_check.gauge.record import demand_to_json, gauge_to_json
from after_check.judgement.version import JUDGEMENT_VERSION
from after_check.shop import tables
from after_check.shop.aside import Aside
from after_check.shop.engine import WRITES, is_server, open_engine
from after_check.shop.errors import Absent, Away, Changed, ShopError, Unreachable, Waiting, in_words
from after_check.shop.hand_backs import hand_back_to_json
from after_check.shop.lines import entries_of, line_from_json
from after_check.shop.loading import load_job, load_makers, now
from after_check.shop.places import aside_folder
from after_check.shop.schema import bring_up_to_date
from after_check.shop.taking_in import Arrived, TakenIn, take_in
from after_check.shop.writing import cleaned, facts_columns, finish, insert_reading, keep_line, learn, same_version, to_change
from after_check.soak.record import record_to_json
from after_check.sources.card_file import parse_card, write_card
from after_check.sources.taken import RawEvidence, Taken
from after_check.tries.record import log_to_json

if TYPE_CHECKING:
    from after_check.shop.documents import JobDocument

_MOST_SEEN = 50
_NO_LINE = {"line": "", "search": "", "waits_for": "you", "latest": "", "judged_by": JUDGEMENT_VERSION}
"""What stands in a new row until the end of the transaction that makes it."""


class Shop:
    """The jobs of a shop, in an embedded database. May be used from several threads."""

    def __init__(self, engine: Engine, where: str, aside: Aside | None = None, away_from: str = "") -> None:
        self._engine = engine
        self.where = where
        self.aside = aside
        self.away_from = away_from
        # What is being typed is this computer's own, and stays with the shop whether its server is there or not.
        self._drafts = Aside(aside_folder(away_from)) if away_from else aside
        self._seen: dict[str, Job] = {}

    @classmethod
    def open(cls, where: Path | str, away_from: str = "") -> Shop:
        """Open the store in a file, made if need be, or on a server. Raises ShopError in words for people.

        `away_from` names the shop on a server that a file stands in for, for as long as the server is away.
        """
        engine, name = open_engine(where)
        shop = cls(engine, name, Aside(aside_folder(name)) if is_server(where) else None, away_from)
        try:
            with shop._transaction(writes=False) as connection:  # Nothing is written where nothing is out of date.
                bring_up_to_date(connection, name)
        except Away as away:
            raise Away(away.what, "Try again when it answers, or work in a file of this computer with --shop FILE") from None
        if shop.aside is not None:
            shop.aside.know()
        shop.send_waiting()
        return shop

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()

    def entries(self) -> list[BenchEntry]:
        """Return every job as an entry of the bench, the one read last first."""
        jobs = tables.jobs.c
        columns = select(jobs.number, jobs.waits_for, jobs.search, jobs.line).order_by(jobs.latest.desc(), jobs.number)
        self.send_waiting()
        self._judge_anew()
        with self._reading() as connection:
            return entries_of((row.number, row.waits_for, row.search, row.line) for row in connection.execute(columns))

    def lines(self) -> list[JobLine]:
        """Return every job as a line on the bench, the one read last first."""
        return [line_from_json(entry.line) for entry in self.entries()]

    def job(self, number: str) -> Job:
        """Return a whole job. Raises Absent."""
        with self._reading() as connection:
            job = load_job(connection, number)
        return self._see(job)

    def numbers(self) -> list[str]:
        """Return the numbers of all jobs, archived ones as well."""
        with self._reading() as connection:
            return list(connection.scalars(select(tables.jobs.c.number).order_by(tables.jobs.c.id)))

    def database_problems(self) -> tuple[str, ...]:
        """Return what the database itself finds wrong with its file; a server looks after its own."""
        if self._engine.dialect.name != "sqlite":
            return ()
        try:
            with self._reading() as connection:
                found = [str(row[0]) for row in connection.exec_driver_sql("PRAGMA integrity_check(20)")]
                broken = [f"{row[0]} {row[1]}: its {row[2]} is missing" for row in connection.exec_driver_sql("PRAGMA foreign_key_check")]
        except ShopError as error:
            return (str(error),)
        return tuple(f"the database: {one}" for one in (*found, *broken) if one != "ok")

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
        facts = cleaned(facts)
        if not facts.number:
            raise ShopError("a job needs a number")
        at = now()
        with self._transaction() as connection:
            if connection.execute(select(tables.jobs.c.id).where(tables.jobs.c.number == facts.number)).first():
                raise Absent(f"there is a job {facts.number} already", "Choose another number")
            row = {**facts_columns(facts), "created_at": at, "changed_at": at, "version": 0, "uid": str(uuid4()), **_NO_LINE}
            job_id = connection.execute(insert(tables.jobs).values(row)).inserted_primary_key
            for moment, taken in readings:
                insert_reading(connection, int(job_id[0]) if job_id else 0, moment, taken, at)
            changed = finish(connection, facts.number, at)
        return self._see(changed)

    def add_reading(self, number: str, moment: Moment, taken: Taken) -> Job:
        """Keep another reading of a job, with its evidence. Raises Absent, and Waiting where the server does not answer."""
        at = now()
        kept = KeptReading(0, moment, taken.reading.taken_at or at, taken.reading)
        evidence = {one.sha256: one.data for one in taken.evidence}
        with self._set_aside(number, lambda job: replace(job, readings=(*job.readings, kept)), evidence), self._transaction() as connection:
            job = to_change(connection, number)
            insert_reading(connection, job.id, moment, taken, at)
            changed = finish(connection, number, at)
        return self._see(changed)

    def keep_soak(self, number: str, record: SoakRecord, soak_id: int | None = None) -> int:
        """Keep a soak of a job, anew or in the place of its earlier record; return its id. Raises Absent.

        The job's version stays: a running soak is nobody's change, and must not get in the way of one.
        """
        at = now()
        kept_soak = KeptSoak(0, at, record)
        with self._set_aside(number, lambda job: replace(job, soaks=(*job.soaks, kept_soak))), self._transaction() as connection:
            job = to_change(connection, number)
            columns = {"changed_at": at, "record": record_to_json(record)}
            soak_id = _row_of_soak(connection, job.id, record, soak_id)
            if soak_id is None:
                row = {"job_id": job.id, "begun_at": record.begun_at, **columns}
                key = connection.execute(insert(tables.soaks).values(row)).inserted_primary_key
                soak_id = int(key[0]) if key else 0
            else:
                connection.execute(update(tables.soaks).where(tables.soaks.c.id == soak_id).values(columns))
            keep_line(connection, load_job(connection, number))
        return soak_id

    def keep_gauge(self, number: str, moment: Moment, record: GaugeRecord) -> Job:
        """Keep a gauge or typed scores of a job. Raises Absent, and Waiting where the server does not answer."""
        kept = KeptGauge(0, moment, record)
        with self._set_aside(number, lambda job: replace(job, gauges=(*job.gauges, kept))), self._transaction() as connection:
            job = to_change(connection, number)
            row = {"job_id": job.id, "moment": moment.value, "begun_at": record.begun_at, "record": gauge_to_json(record)}
            connection.execute(insert(tables.gauges).values(row))
            job = load_job(connection, number)
            keep_line(connection, job)
        return self._see(job)

    def keep_demand(self, number: str, record: DemandRecord) -> Job:
        """Keep a watch over the memory that a job's work takes. Raises Absent, and Waiting where the server does not answer."""
        with self._set_aside(number, lambda job: replace(job, demands=(*job.demands, record))), self._transaction() as connection:
            job = to_change(connection, number)
            row = {"job_id": job.id, "begun_at": record.begun_at, "record": demand_to_json(record)}
            connection.execute(insert(tables.demands).values(row))
            job = load_job(connection, number)
            keep_line(connection, job)
        return self._see(job)

    def keep_tries(self, number: str, log: TryLog, version: int) -> Job:
        """Keep a job's log of tries in the place of the given version (0: the first one). Raises Absent and Changed."""
        with self._transaction() as connection:
            job = to_change(connection, number)
            columns = {"version": version + 1, "log": log_to_json(log)}
            same = update(tables.tries).where(tables.tries.c.job_id == job.id, tables.tries.c.version == version).values(columns)
            if (job.tries.version if job.tries is not None else 0) != version or (job.tries and connection.execute(same).rowcount == 0):
                raise Changed(f"the tries of job {job.facts.number} were changed somewhere else", "Look at them again, then add yours")
            if job.tries is None:
                connection.execute(insert(tables.tries).values(job_id=job.id, **columns))
            job = load_job(connection, number)
            keep_line(connection, job)
        return self._see(job)

    def makers(self) -> dict[MakerId, str]:
        """Return the names of makers that this shop knows, by their codes."""
        with self._reading() as connection:
            return load_makers(connection)

    def name_maker(self, maker: MakerId, name: str) -> None:
        """Keep the name that a technician gives a maker."""
        with self._transaction() as connection:
            learn(connection, maker, clean(name), replace_known=True)

    def keep_card(self, card: Card) -> None:
        """Keep a card for this shop; one of the same name is replaced, and the jobs of that model are judged anew."""
        with self._transaction() as connection:
            connection.execute(delete(tables.cards).where(tables.cards.c.name == card.name.casefold()))
            connection.execute(insert(tables.cards).values(name=card.name.casefold(), toml=write_card(card)))
            for row in connection.execute(select(tables.jobs.c.number)).all():
                job = load_job(connection, row.number)
                if job.card is not None and job.card.name.casefold() == card.name.casefold():
                    keep_line(connection, job)

    def cards(self) -> tuple[Card, ...]:
        """Return the cards of this shop, by name."""
        with self._reading() as connection:
            rows = connection.execute(select(tables.cards.c.toml).order_by(tables.cards.c.name)).all()
        return tuple(parse_card(row.toml) for row in rows)

    def change_facts(self, job: Job, facts: JobFacts) -> Job:
        """Change what a person says of a job. Raises Changed when the job is no longer the one given."""
        facts = cleaned(facts)
        at = now()
        with self._transaction() as connection:
            same_version(connection, job)
            connection.execute(update(tables.jobs).where(tables.jobs.c.id == job.id).values(facts_columns(facts)))
            changed = finish(connection, facts.number, at)
        return self._see(changed)

    def keep_hand_back(self, job: Job, added: HandBack) -> Job:
        """Keep what a person adds to the sheet. Raises Changed and Frozen."""
        with self._transaction() as connection:
            same_version(connection, job)
            connection.execute(delete(tables.hand_backs).where(tables.hand_backs.c.job_id == job.id))
            connection.execute(insert(tables.hand_backs).values(job_id=job.id, record=hand_back_to_json(added)))
            changed = finish(connection, job.facts.number, now())
        return self._see(changed)

    def sign(self, job: Job, by: str) -> Job:
        """Sign a job as it is: its state is kept as a revision, and nothing changes until a new one is begun. Raises Changed, Frozen."""
        # Its checks take a moment to build, and only signing and job files need them.
        from after_check.shop.documents import document_text, job_document

        at = now()
        with self._transaction() as connection:
            same_version(connection, job)
            text = document_text(job_document(job))
            number = max((one.number for one in job.revisions), default=0) + 1
            row = {"job_id": job.id, "number": number, "signed_at": at, "signed_by": clean(by), "document": text}
            connection.execute(insert(tables.revisions).values(sha256=sha256(text.encode()).hexdigest(), **row))
            connection.execute(update(tables.jobs).where(tables.jobs.c.id == job.id).values(frozen=True))
            changed = finish(connection, job.facts.number, at)
        return self._see(changed)

    def begin_revision(self, number: str) -> Job:
        """Let a signed job be changed again; what was signed stays as it was. Raises Absent."""
        with self._transaction() as connection:
            connection.execute(update(tables.jobs).where(tables.jobs.c.number == number).values(frozen=False))
            changed = finish(connection, number, now())
        return self._see(changed)

    def signed_document(self, number: str, revision: int) -> str:
        """Return the job's document as it was signed. Raises Absent."""
        joined = tables.revisions.join(tables.jobs, tables.revisions.c.job_id == tables.jobs.c.id)
        wanted = select(tables.revisions.c.document).select_from(joined)
        with self._reading() as connection:
            found = connection.execute(wanted.where(tables.jobs.c.number == number, tables.revisions.c.number == revision)).scalar()
        if found is None:
            raise Absent(f"job {clean(number, 40)} has no revision {revision}")
        return str(found)

    def archive(self, number: str, archived: bool = True) -> Job:
        """Put a job into the archive, or take it out of it. Raises Absent."""
        with self._transaction() as connection:
            connection.execute(update(tables.jobs).where(tables.jobs.c.number == number).values(archived=archived))
            changed = finish(connection, number, now())
        return self._see(changed)

    def take_in(self, document: JobDocument, evidence: Mapping[str, bytes], behind: bool = False) -> Arrived:
        """Take in a job that was handed out elsewhere; returns its number here and what became of it. `behind`: see there."""
        with self._transaction() as connection:
            arrived = take_in(connection, document, evidence, behind)
            if arrived.became is not TakenIn.SAME:
                keep_line(connection, load_job(connection, arrived.number))
        return arrived

    def change_promise(self, job: Job, promise: str, reason: str, by: str = "") -> Job:
        """Change the promise in agreement with the customer; both promises and the reason stay. Raises Changed and Frozen."""
        promise, at = clean(promise, 8000), now()
        agreed = Override("promise", clean(reason), clean(by), at, job.facts.promise, promise)
        with self._transaction() as connection:
            same_version(connection, job)
            added = replace(job.hand_back, overrides=(*job.hand_back.overrides, agreed))
            connection.execute(delete(tables.hand_backs).where(tables.hand_backs.c.job_id == job.id))
            connection.execute(insert(tables.hand_backs).values(job_id=job.id, record=hand_back_to_json(added)))
            connection.execute(update(tables.jobs).where(tables.jobs.c.id == job.id).values(promise=promise))
            changed = finish(connection, job.facts.number, at)
        return self._see(changed)

    def next_number(self) -> str:
        """Return the number after the highest one in use; of this day while the server that gives the others is away."""
        mark = f"M{datetime.now():%m%d}-" if self.away_from else ""
        with self._reading() as connection:
            numbers = [row.number.removeprefix(mark) for row in connection.execute(select(tables.jobs.c.number))]
        highest = max((int(number) for number in numbers if number.isascii() and number.isdigit()), default=0)
        return f"{mark}{highest + 1}" if mark else f"{highest + 1:04d}"

    def draft(self, place: str) -> str:
        """Return the text that was left unfinished at a place, by this bench."""
        if self._drafts is not None:
            return self._drafts.draft(place)
        with self._reading() as connection:
            found = connection.execute(select(tables.drafts.c.text).where(tables.drafts.c.place == place[:80])).scalar()
        return found or ""

    def keep_draft(self, place: str, text: str) -> None:
        """Keep an unfinished text; an empty one is forgotten."""
        if self._drafts is not None:
            try:
                self._drafts.keep_draft(place, text)
            except OSError as error:
                raise ShopError(f"the disk of this computer takes no text ({error.strerror})", "Make room and try again") from None
            return
        place = place[:80]
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
            numbers += [number for number in connection.scalars(watched) if load_job(connection, number).soak_is_over]
        if numbers:
            with self._transaction() as connection:
                for number in numbers:
                    keep_line(connection, load_job(connection, number))

    def send_waiting(self) -> int:
        """Write what waited on this computer for the server; returns how much was written."""
        if self.aside is None or not self.aside.waiting:
            return 0
        from after_check.shop.job_files import read_job_file

        return self.aside.send(lambda data, where: self.take_in(*read_job_file(data, where), behind=True))

    def _see(self, job: Job) -> Job:
        """Remember how a job stands in the shop, for when the server goes away; the latest few are enough for a bench."""
        if self.aside is not None:
            self._seen.pop(job.facts.number, None)
            self._seen[job.facts.number] = job
            if len(self._seen) > _MOST_SEEN:
                del self._seen[next(iter(self._seen))]
        return job

    @contextmanager
    def _set_aside(self, number: str, add: Callable[[Job], Job], evidence: Mapping[str, bytes] | None = None) -> Iterator[None]:
        """Keep an addition on this computer when the server does not answer; raises Waiting then.

        `add` puts the addition into a job; put into an empty one, it is what is kept. That can be taken in twice without
        harm, so it does not matter whether the server wrote it before the connection was lost.
        """
        try:
            yield
        except Unreachable as error:
            job = self._seen.get(number)
            if self.aside is None or job is None:
                raise
            from after_check.shop.documents import job_document
            from after_check.shop.job_files import zipped

            document = job_document(add(Job(0, job.facts, (), job.created_at, job.changed_at, job.version, uid=job.uid)))
            soaks = [part["record"]["begun_at"] for part in document["soaks"]]
            key = f"{job.uid} {soaks}" if soaks else f"{document}"
            try:
                self.aside.put(key, zipped(document, evidence or {}))
            except OSError:
                raise error from None
            what = f"the server of the shop does not answer; this is kept on this computer ({self.where})"
            if not soaks:
                job = self._seen[number] = add(job)
            raise Waiting(what, "It is written to the shop when the server is back", job) from None

    @contextmanager
    def _reading(self) -> Iterator[Connection]:
        try:
            with self._engine.connect() as connection:
                yield connection
        except DBAPIError as error:
            raise in_words(error, self.where) from None

    @contextmanager
    def _transaction(self, writes: bool = True) -> Iterator[Connection]:
        try:
            with self._engine.execution_options(**{WRITES: writes}).begin() as connection:
                yield connection
        except DBAPIError as error:
            raise in_words(error, self.where) from None


def _row_of_soak(connection: Connection, job_id: int, record: SoakRecord, soak_id: int | None) -> int | None:
    """Return the row of a soak that was kept before. A job file that came meanwhile may have moved it, and given its row away."""
    if soak_id is None:
        return None
    same = select(tables.soaks.c.id).where(tables.soaks.c.job_id == job_id, tables.soaks.c.begun_at == record.begun_at)
    rows = list(connection.scalars(same))
    return soak_id if soak_id in rows else rows[-1] if rows else None
