"""The first tables: jobs, readings, their evidence, drafts."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "jobs",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("number", sa.String(40), nullable=False),
        sa.Column("title", sa.Text(), nullable=False),
        sa.Column("machine", sa.Text(), nullable=False),
        sa.Column("customer", sa.Text(), nullable=False),
        sa.Column("promise", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("line", sa.Text(), nullable=False),
        sa.Column("search", sa.Text(), nullable=False),
        sa.Column("waits_for", sa.String(20), nullable=False),
        sa.Column("latest", sa.String(40), nullable=False),
        sa.Column("judged_by", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_jobs"),
        sa.UniqueConstraint("number", name="uq_jobs_number"),
    )
    op.create_table(
        "readings",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("moment", sa.String(20), nullable=False),
        sa.Column("taken_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("reading", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_readings"),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name="fk_readings_job_id_jobs", ondelete="CASCADE"),
    )
    op.create_index("ix_readings_job_id", "readings", ["job_id"])
    op.create_table(
        "evidence",
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.PrimaryKeyConstraint("sha256", name="pk_evidence"),
    )
    op.create_table(
        "reading_evidence",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("reading_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_reading_evidence"),
        sa.UniqueConstraint("reading_id", "name", name="uq_reading_evidence_reading_id"),
        sa.ForeignKeyConstraint(["reading_id"], ["readings.id"], name="fk_reading_evidence_reading_id_readings", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["sha256"], ["evidence.sha256"], name="fk_reading_evidence_sha256_evidence"),
    )
    op.create_index("ix_reading_evidence_reading_id", "reading_evidence", ["reading_id"])
    op.create_table(
        "drafts",
        sa.Column("place", sa.String(80), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("place", name="pk_drafts"),
    )


def downgrade() -> None:
    for table in ("drafts", "reading_evidence", "evidence", "readings", "jobs"):
        op.drop_table(table)
