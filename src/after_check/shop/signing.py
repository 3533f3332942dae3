"""The hand-back in the store: what a person adds to the sheet, agreements, and signed revisions."""

from __future__ import annotations

from dataclasses import replace
from hashlib import sha256

from sqlalchemy import insert, select, update

from after_check.domain.handback import HandBack, Override
from after_check.domain.jobs import Job
from after_check.domain.outside_text import clean
from after_check.shop import tables
from after_check.shop.database import Database, put
from after_check.shop.documents import document_text, hand_back_to_json, job_document
from after_check.shop.errors import NotFoundError
from after_check.shop.jobs import JobStore
from after_check.shop.rows import finish, now, same_version


class SigningStore:
    """Hand-backs and signatures of the jobs of a shop."""

    def __init__(self, database: Database, jobs: JobStore) -> None:
        self._database = database
        self._jobs = jobs

    def keep_hand_back(self, job: Job, added: HandBack) -> Job:
        """Keep what a person adds to the sheet. Raises ChangedElsewhereError and SignedError."""
        with self._database.writing() as connection:
            same_version(connection, job)
            put(connection, tables.hand_backs, {"job_id": job.id, "record": hand_back_to_json(added)})
            changed = finish(connection, job.facts.number, now())
        return self._jobs.seen(changed)

    def change_promise(self, job: Job, promise: str, reason: str, by: str = "") -> Job:
        """Change the promise as agreed; both promises and the reason stay. Raises ChangedElsewhereError, SignedError."""
        promise, at = clean(promise, 8000), now()
        agreed = Override("promise", clean(reason), clean(by), at, job.facts.promise, promise)
        with self._database.writing() as connection:
            same_version(connection, job)
            added = replace(job.hand_back, overrides=(*job.hand_back.overrides, agreed))
            put(connection, tables.hand_backs, {"job_id": job.id, "record": hand_back_to_json(added)})
            connection.execute(update(tables.jobs).where(tables.jobs.c.id == job.id).values(promise=promise))
            changed = finish(connection, job.facts.number, at)
        return self._jobs.seen(changed)

    def sign(self, job: Job, by: str) -> Job:
        """Sign a job as it is: its state is kept as a revision, and nothing changes until a new one is begun.

        Raises ChangedElsewhereError and SignedError.
        """
        at = now()
        with self._database.writing() as connection:
            same_version(connection, job)
            document = document_text(job_document(job))
            number = max((revision.number for revision in job.revisions), default=0) + 1
            row = {"job_id": job.id, "number": number, "signed_at": at, "signed_by": clean(by), "document": document}
            connection.execute(insert(tables.revisions).values(sha256=sha256(document.encode()).hexdigest(), **row))
            connection.execute(update(tables.jobs).where(tables.jobs.c.id == job.id).values(frozen=True))
            changed = finish(connection, job.facts.number, at)
        return self._jobs.seen(changed)

    def begin_revision(self, number: str) -> Job:
        """Let a signed job be changed again; what was signed stays as it was. Raises NotFoundError."""
        with self._database.writing() as connection:
            connection.execute(update(tables.jobs).where(tables.jobs.c.number == number).values(frozen=False))
            changed = finish(connection, number, now())
        return self._jobs.seen(changed)

    def document(self, number: str, revision: int) -> str:
        """Return the job's document as it was signed. Raises NotFoundError."""
        joined = tables.revisions.join(tables.jobs, tables.revisions.c.job_id == tables.jobs.c.id)
        wanted = select(tables.revisions.c.document).select_from(joined)
        with self._database.reading() as connection:
            found = connection.execute(wanted.where(tables.jobs.c.number == number, tables.revisions.c.number == revision)).scalar()
        if found is None:
            raise NotFoundError(f"job {clean(number, 40)} has no revision {revision}")
        return str(found)
