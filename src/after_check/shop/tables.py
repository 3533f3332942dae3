"""The tables of a shop. Each change of them is a migration in `migrations/versions`."""

from __future__ import annotations

from sqlalchemy import (
    Boolean,
    Column,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    String,
    Table,
    Text,
    UniqueConstraint,
    false,
)

from after_check.shop.salvage import Moments

metadata = MetaData(
    naming_convention={
        "ix": "ix_%(column_0_label)s",
        "uq": "uq_%(table_name)s_%(column_0_name)s",
        "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
        "pk": "pk_%(table_name)s",
    }
)

jobs = Table(
    "jobs",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("number", String(40), nullable=False, unique=True),
    Column("title", Text, nullable=False),
    Column("machine", Text, nullable=False),
    Column("customer", Text, nullable=False),
    Column("promise", Text, nullable=False),
    Column("created_at", Moments, nullable=False),
    Column("changed_at", Moments, nullable=False),
    Column("version", Integer, nullable=False),
    # What the bench shows of the job, worked out when it changes, so that ten thousand jobs need no judging.
    Column("line", Text, nullable=False),
    Column("search", Text, nullable=False),
    Column("waits_for", String(20), nullable=False),
    Column("latest", String(40), nullable=False),
    Column("judged_by", Integer, nullable=False, index=True),
    # The same wherever the job is kept, so that one that travels is known again.
    Column("uid", String(36), nullable=False, server_default="", unique=True, index=True),
    # Signed: nothing changes until a new revision is begun.
    Column("frozen", Boolean, nullable=False, server_default=false()),
    Column("archived", Boolean, nullable=False, server_default=false()),
    # Which change of a line was the last one of this job's: who looks again reads what moved since.
    Column("moved", Integer, nullable=False, server_default="0", index=True),
    # Marks of all that ever stood in each word, as JSON: which of two benches knew what the other wrote.
    Column("lineages", Text, nullable=False, server_default="{}"),
    Index("ix_jobs_waits_for", "waits_for", "latest"),
)

readings = Table(
    "readings",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("job_id", Integer, ForeignKey("jobs.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("moment", String(20), nullable=False),
    Column("taken_at", Moments, nullable=False),
    Column("reading", Text, nullable=False),
)

evidence = Table(
    "evidence",
    metadata,
    Column("sha256", String(64), primary_key=True),
    Column("data", LargeBinary, nullable=False),
)

reading_evidence = Table(
    "reading_evidence",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("reading_id", Integer, ForeignKey("readings.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("name", Text, nullable=False),
    Column("sha256", String(64), ForeignKey("evidence.sha256"), nullable=False),
    UniqueConstraint("reading_id", "name"),
)

makers = Table(
    "makers",
    metadata,
    Column("bank", Integer, primary_key=True, autoincrement=False),
    Column("code", Integer, primary_key=True, autoincrement=False),
    Column("name", Text, nullable=False),
)

cards = Table(
    "cards",
    metadata,
    # The name in small letters, by which a job finds the card of its machine.
    Column("name", String(200), primary_key=True),
    Column("toml", Text, nullable=False),
)

soaks = Table(
    "soaks",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("job_id", Integer, ForeignKey("jobs.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("begun_at", Moments, nullable=False),
    # Written again every few seconds while the soak runs: an old one that says it runs was interrupted.
    Column("changed_at", Moments, nullable=False),
    Column("record", Text, nullable=False),
)

benchmarks = Table(
    "benchmarks",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("job_id", Integer, ForeignKey("jobs.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("moment", String(20), nullable=False),
    Column("begun_at", Moments, nullable=False),
    Column("record", Text, nullable=False),
)

demands = Table(
    "demands",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("job_id", Integer, ForeignKey("jobs.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("begun_at", Moments, nullable=False),
    Column("record", Text, nullable=False),
)

tries = Table(
    "tries",
    metadata,
    Column("job_id", Integer, ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True, autoincrement=False),
    # Rises with every change, so that two benches do not write over each other's tries.
    Column("version", Integer, nullable=False),
    Column("log", Text, nullable=False),
)

hand_backs = Table(
    "hand_backs",
    metadata,
    Column("job_id", Integer, ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True, autoincrement=False),
    Column("record", Text, nullable=False),
)

revisions = Table(
    "revisions",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("job_id", Integer, ForeignKey("jobs.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("number", Integer, nullable=False),
    Column("signed_at", Moments, nullable=False),
    Column("signed_by", Text, nullable=False),
    Column("sha256", String(64), nullable=False),
    # The whole job as it was signed.
    Column("document", Text, nullable=False),
    UniqueConstraint("job_id", "number"),
)

drafts = Table(
    "drafts",
    metadata,
    Column("place", String(80), primary_key=True),
    Column("text", Text, nullable=False),
)
