"""The jobs of a shop: what the bench lists, whole jobs, and every change of one."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import replace
from datetime import datetime
from itertools import islice
from uuid import uuid4

from sqlalchemy import Connection, delete, func, insert, select, update

from after_check.benchmark.benchmark_json import benchmark_to_json, demand_to_json
from after_check.casework.judging import judged_by_now
from after_check.domain.bench import BenchEntry, Groups, JobLine, WaitsFor
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState
from after_check.domain.cards import Card
from after_check.domain.demand import DemandRecord
from after_check.domain.jobs import Job, JobFacts, KeptBenchmark, KeptReading, KeptSoak, Moment
from after_check.domain.soak import SoakRecord
from after_check.domain.tries import TryLog
from after_check.shop import tables
from after_check.shop.bench_entries import BenchEntries, all_of
from after_check.shop.database import Database, insert_row, needs_on
from after_check.shop.documents import JobDocument, document_text, job_document
from after_check.shop.errors import AlreadyExistsError, ChangedElsewhereError, KeptAsideError, ShopError, UnreachableError
from after_check.shop.joining import Arrived, TakenIn, take_in
from after_check.shop.outbox import Outbox
from after_check.shop.rows import (
    NO_LINE,
    cleaned,
    evidence_of,
    facts_columns,
    finish,
    insert_reading,
    job_to_change,
    keep_line,
    load_job,
    now,
    same_version,
)
from after_check.shop.stored_lines import LINE_BEGINS, line_of_entry
from after_check.shop.zip_files import zipped
from after_check.soak.soak_json import record_to_json
from after_check.sources.evidence import RawEvidence, Taken
from after_check.tries.log_json import log_to_json

_MOST_SEEN = 50
_JUDGED_AT_ONCE = 50
"""Jobs that one transaction judges again: nobody else waits longer than for these."""


class JobStore:
    """Jobs in a database. What cannot be written while a server is away goes into the outbox."""

    def __init__(self, database: Database, outbox: Outbox | None = None, number_mark: str = "") -> None:
        self._database = database
        self._outbox = outbox
        self._number_mark = number_mark
        self._seen: dict[str, Job] = {}
        self._bench = BenchEntries()
        self._looked_at_lines = False

    # ---- looking

    def entries(self) -> list[BenchEntry]:
        """Return every job as an entry of the bench, the one read last first. Lines of older rules are as those judged."""
        return all_of(self.bench())

    def bench(self) -> Groups:
        """Return every job as an entry of the bench by whose turn it is; the whole store is read the first time only."""
        with self._database.reading() as connection:
            return self._bench.look(connection)

    def latest(self, most: int) -> list[Job]:
        """Return the jobs that were read last."""
        with self._database.reading() as connection:
            numbers = connection.scalars(select(tables.jobs.c.number).order_by(tables.jobs.c.latest.desc()).limit(most)).all()
            return [load_job(connection, number) for number in numbers]

    def lines(self) -> list[JobLine]:
        """Return every job as a line on the bench, the one read last first."""
        return [line_of_entry(entry.number, entry.line) for entry in self.entries()]

    def job(self, number: str) -> Job:
        """Return a whole job. Raises NotFoundError."""
        with self._database.reading() as connection:
            job = load_job(connection, number)
        return self.seen(job)

    def others_of_model(self, job: Job, most: int = 3) -> tuple[Job, ...]:
        """Return the last other jobs with the same machine model, as it was typed; none where no model was."""
        if not job.facts.machine:
            return ()
        jobs = tables.jobs.c
        same = (func.lower(jobs.machine) == job.facts.machine.lower()) & (jobs.number != job.facts.number)
        with self._database.reading() as connection:
            rows = connection.execute(select(jobs.number).where(same).order_by(jobs.latest.desc()).limit(most)).all()
            return tuple(load_job(connection, row.number) for row in rows)

    def numbers(self) -> list[str]:
        """Return the numbers of all jobs, archived ones as well."""
        with self._database.reading() as connection:
            return list(connection.scalars(select(tables.jobs.c.number).order_by(tables.jobs.c.id)))

    def next_number(self) -> str:
        """Return the number after the highest one in use; of this day while the server that gives the others is away."""
        mark = f"{self._number_mark}{datetime.now():%m%d}-" if self._number_mark else ""
        numbers = [number.removeprefix(mark) for number in self.numbers()]
        highest = max((int(number) for number in numbers if number.isascii() and number.isdigit()), default=0)
        return f"{mark}{highest + 1}" if mark else f"{highest + 1:04d}"

    def evidence(self, reading_id: int) -> tuple[RawEvidence, ...]:
        """Return the raw bytes that a reading was decoded from."""
        with self._database.reading() as connection:
            return evidence_of(connection, reading_id)

    # ---- changing

    def add(self, facts: JobFacts, readings: tuple[tuple[Moment, Taken], ...] = (), uid: str = "") -> Job:
        """Keep a new job, with readings that belong to it, all or nothing. Raises AlreadyExistsError when the number is taken.

        `uid` is its identity where it was made before: what was kept already, and its answer got lost, is kept once.
        """
        facts = cleaned(facts)
        if not facts.number:
            raise ShopError("a job needs a number")
        at = now()
        with self._database.writing() as connection:
            here = (
                connection.execute(select(tables.jobs.c.id, tables.jobs.c.number).where(tables.jobs.c.uid == uid)).first() if uid else None
            )
            if here is not None:
                # What is kept now counts: it may have been corrected since.
                facts = replace(facts, number=here.number)
                connection.execute(update(tables.jobs).where(tables.jobs.c.id == here.id).values(facts_columns(facts)))
                moments = [moment.value for moment, _ in readings]
                old = (tables.readings.c.job_id == here.id) & tables.readings.c.moment.in_(moments)
                connection.execute(delete(tables.readings).where(old))
                job_id = here.id
            else:
                row = {**facts_columns(facts), "created_at": at, "changed_at": at, "version": 0, "uid": uid or str(uuid4()), **NO_LINE}
                job_id = insert_row(connection, tables.jobs, row)
            if job_id is None:
                raise AlreadyExistsError(f"there is a job {facts.number} already", "Choose another number")
            for moment, taken in readings:
                insert_reading(connection, job_id, moment, taken, at)
            changed = finish(connection, facts.number, at)
        return self.seen(changed)

    def change_facts(self, job: Job, facts: JobFacts) -> Job:
        """Change what a person says of a job. Raises ChangedElsewhereError when the job is no longer the one given."""
        facts = cleaned(facts)
        at = now()
        with self._database.writing() as connection:
            same_version(connection, job)
            connection.execute(update(tables.jobs).where(tables.jobs.c.id == job.id).values(facts_columns(facts)))
            changed = finish(connection, facts.number, at)
        return self.seen(changed)

    def archive(self, number: str, archived: bool = True) -> Job:
        """Put a job into the archive, or take it out of it. Raises NotFoundError."""
        with self._database.writing() as connection:
            connection.execute(update(tables.jobs).where(tables.jobs.c.number == number).values(archived=archived))
            changed = finish(connection, number, now())
        return self.seen(changed)

    def add_reading(self, number: str, moment: Moment, taken: Taken) -> Job:
        """Keep another reading of a job, with its evidence. Raises NotFoundError, and KeptAsideError where the server does not answer."""
        at = now()
        kept = KeptReading(0, moment, taken.reading.taken_at or at, taken.reading)
        evidence = {part.sha256: part.data for part in taken.evidence}
        with (
            self._or_aside(number, lambda job: replace(job, readings=(*job.readings, kept)), evidence),
            self._database.writing() as connection,
        ):
            job = job_to_change(connection, number)
            insert_reading(connection, job.id, moment, taken, at)
            changed = finish(connection, number, at)
        return self.seen(changed)

    def keep_soak(self, number: str, record: SoakRecord, soak_id: int | None = None) -> int:
        """Keep a soak of a job, as a new one or in the place of its earlier record; return its id. Raises NotFoundError.

        The job's version stays: a running soak is nobody's change, and must not get in the way of one.
        """
        at = now()
        kept = KeptSoak(0, at, record)
        with self._or_aside(number, lambda job: replace(job, soaks=(*job.soaks, kept))), self._database.writing() as connection:
            job = job_to_change(connection, number)
            columns = {"changed_at": at, "record": record_to_json(record)}
            soak_id = _row_of_soak(connection, job.id, record, soak_id)
            if soak_id is None:
                soak_id = insert_row(connection, tables.soaks, {"job_id": job.id, "begun_at": record.begun_at, **columns}) or 0
            else:
                connection.execute(update(tables.soaks).where(tables.soaks.c.id == soak_id).values(columns))
            keep_line(connection, load_job(connection, number))
        return soak_id

    def keep_benchmark(self, number: str, moment: Moment, record: BenchmarkRecord) -> Job:
        """Keep a benchmark or typed scores of a job; one that goes on takes the place of what was kept of it before.

        Raises NotFoundError, and KeptAsideError where the server does not answer.
        """
        kept = KeptBenchmark(0, moment, record)

        def with_it(job: Job) -> Job:
            return replace(job, benchmarks=(*(one for one in job.benchmarks if not _is_begun_of(one, kept)), kept))

        with self._or_aside(number, with_it), self._database.writing() as connection:
            job = job_to_change(connection, number)
            row = {"job_id": job.id, "moment": moment.value, "begun_at": record.begun_at, "record": benchmark_to_json(record)}
            begun = next((one.id for one in job.benchmarks if _is_begun_of(one, kept)), None)
            table = tables.benchmarks
            connection.execute(insert(table).values(row) if begun is None else update(table).where(table.c.id == begun).values(row))
            job = load_job(connection, number)
            keep_line(connection, job)
        return self.seen(job)

    def keep_demand(self, number: str, record: DemandRecord) -> Job:
        """Keep a watch over memory in use. Raises NotFoundError, and KeptAsideError where the server does not answer."""
        with self._or_aside(number, lambda job: replace(job, demands=(*job.demands, record))), self._database.writing() as connection:
            job = job_to_change(connection, number)
            row = {"job_id": job.id, "begun_at": record.begun_at, "record": demand_to_json(record)}
            connection.execute(insert(tables.demands).values(row))
            job = load_job(connection, number)
            keep_line(connection, job)
        return self.seen(job)

    def keep_tries(self, number: str, log: TryLog, version: int) -> Job:
        """Keep a job's log of tries in place of the given version (0: the first). Raises NotFoundError, ChangedElsewhereError."""
        with self._database.writing() as connection:
            job = job_to_change(connection, number)
            columns = {"version": version + 1, "log": log_to_json(log)}
            standing = job.tries.version if job.tries is not None else 0
            if standing != version:
                raise ChangedElsewhereError(
                    f"the tries of job {job.facts.number} were changed somewhere else", "Look again, then add yours"
                )
            if job.tries is None:
                connection.execute(insert(tables.tries).values(job_id=job.id, **columns))
            else:
                connection.execute(update(tables.tries).where(tables.tries.c.job_id == job.id).values(columns))
            job = load_job(connection, number)
            keep_line(connection, job)
        return self.seen(job)

    def take_in(
        self,
        document: JobDocument,
        evidence: Mapping[str, bytes],
        behind: bool = False,
        adds_only: bool = False,
        chosen: Mapping[str, bool] | None = None,
    ) -> Arrived:
        """Take in a job that was handed out elsewhere; returns its number here and what became of it. For the rest see `joining`."""
        with self._database.writing() as connection:
            arrived = take_in(connection, document, evidence, behind, adds_only, chosen)
            if arrived.became is not TakenIn.SAME:
                keep_line(connection, load_job(connection, arrived.number))
        return arrived

    # ---- judging again

    def judge_outdated(self) -> int:
        """Work out the lines that older rules judged, and those of soaks whose program was killed; returns how many."""
        jobs = tables.jobs.c
        with self._database.reading() as connection:
            # A line that is damaged is worked out again as well.
            known = jobs.waits_for.in_([group.value for group in WaitsFor]) & jobs.line.startswith(LINE_BEGINS, autoescape=True)
            rules = judged_by_now(needs_on(connection))
            older = (jobs.judged_by < rules) | (jobs.judged_by > rules)  # Both can be looked up in the index; "other than" cannot.
            # All lines are looked at once; later on that is left to who opens the store next.
            wanted = older if self._looked_at_lines else older | ~known
            self._looked_at_lines = True
            numbers = list(connection.scalars(select(jobs.number).where(wanted)))
            # A soak whose program was killed wrote nothing of it; whoever looks next notices.
            watched = connection.scalars(select(jobs.number).where(jobs.waits_for == WaitsFor.SOAK.value)).all()
            numbers += [number for number in watched if load_job(connection, number).soak_is_over]
        return self._judge_again(numbers, lambda job: True)

    def judge_those_of(self, card: Card) -> int:
        """Judge the jobs of a model again, whose card has changed; returns how many."""
        name = card.name.casefold()
        return self._judge_again(self.numbers(), lambda job: job.card is not None and job.card.name.casefold() == name)

    def _judge_again(self, numbers: Sequence[str], wanted: Callable[[Job], bool]) -> int:
        judged, waiting = 0, iter(numbers)
        while some := tuple(islice(waiting, _JUDGED_AT_ONCE)):
            with self._database.writing() as connection:
                for job in (load_job(connection, number) for number in some):
                    if wanted(job):
                        keep_line(connection, job)
                        judged += 1
        return judged

    # ---- when the server is away

    def seen(self, job: Job) -> Job:
        """Remember how a job stands in the shop, for when the server goes away; the latest few are enough for a bench."""
        if self._outbox is not None:
            self._seen.pop(job.facts.number, None)
            self._seen[job.facts.number] = job
            if len(self._seen) > _MOST_SEEN:
                del self._seen[next(iter(self._seen))]
        return job

    @contextmanager
    def _or_aside(self, number: str, add: Callable[[Job], Job], evidence: Mapping[str, bytes] | None = None) -> Iterator[None]:
        """Keep an addition on this computer when the server does not answer; raises KeptAside then.

        `add` puts the addition into a job; put into an empty one, it is what is kept. That can be taken in twice without
        harm, so it does not matter whether the server wrote it before the connection was lost.
        """
        try:
            yield
        except UnreachableError as error:
            job = self._seen.get(number)
            if self._outbox is None or job is None:
                raise
            document = job_document(add(Job(0, job.facts, (), job.created_at, job.changed_at, job.version, uid=job.uid)))
            soaks = [part["record"]["begun_at"] for part in document["soaks"]]
            # What goes on is kept again and again: the latest takes the place of what waits already.
            going_on = soaks or [part["record"]["begun_at"] for part in document["gauges"] if part["record"].get("machine")]
            key = f"{job.uid} {going_on}" if going_on else document_text(document)
            try:
                self._outbox.put(key, zipped(document, evidence or {}))
            except OSError:
                raise error from None
            what = f"the server of the shop does not answer; this is kept on this computer ({self._database.where})"
            if not soaks:
                job = self._seen[number] = add(job)
            raise KeptAsideError(what, "It is written to the shop when the server is back", job) from None


def _is_begun_of(one: KeptBenchmark, other: KeptBenchmark) -> bool:
    """Return whether one is what was kept of the other while it went on."""
    record = one.record
    same = (one.moment, record.begun_at, record.machine) == (other.moment, other.record.begun_at, other.record.machine)
    return same and record.state is BenchmarkState.STOPPED and any(series.measured is not None for series in record.series)


def _row_of_soak(connection: Connection, job_id: int, record: SoakRecord, soak_id: int | None) -> int | None:
    """Return the row of a soak that was kept before. A job file that came in between may have moved it, and given its row away."""
    if soak_id is None:
        return None
    same = select(tables.soaks.c.id).where(tables.soaks.c.job_id == job_id, tables.soaks.c.begun_at == record.begun_at)
    rows = list(connection.scalars(same))
    return soak_id if soak_id in rows else rows[-1] if rows else None
