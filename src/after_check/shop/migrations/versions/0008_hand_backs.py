"""Hand-backs: what a person adds, signed revisions, the archive, and an identity of a job that travels with it."""

import uuid

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_table(
        "hand_backs",
        sa.Column("job_id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("record", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name="fk_hand_backs_job_id_jobs", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("job_id", name="pk_hand_backs"),
    )
    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("signed_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("signed_by", sa.Text(), nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name="fk_revisions_job_id_jobs", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_revisions"),
        sa.UniqueConstraint("job_id", "number", name="uq_revisions_job_id"),
    )
    op.create_index("ix_revisions_job_id", "revisions", ["job_id"])
    with op.batch_alter_table("jobs") as jobs:
        jobs.add_column(sa.Column("uid", sa.String(36), nullable=False, server_default=""))
        jobs.add_column(sa.Column("frozen", sa.Boolean(), nullable=False, server_default=sa.false()))
        jobs.add_column(sa.Column("archived", sa.Boolean(), nullable=False, server_default=sa.false()))
    jobs_now = sa.table("jobs", sa.column("id", sa.Integer), sa.column("uid", sa.String))
    connection = op.get_bind()
    for row in connection.execute(sa.select(jobs_now.c.id)).all():
        connection.execute(sa.update(jobs_now).where(jobs_now.c.id == row.id).values(uid=str(uuid.uuid4())))
    op.create_index("ix_jobs_uid", "jobs", ["uid"], unique=True)


def downgrade() -> None:
    op.drop_index("ix_jobs_uid", "jobs")
    with op.batch_alter_table("jobs") as jobs:
        for name in ("uid", "frozen", "archived"):
            jobs.drop_column(name)
    op.drop_index("ix_revisions_job_id", "revisions")
    op.drop_table("revisions")
    op.drop_table("hand_backs")
