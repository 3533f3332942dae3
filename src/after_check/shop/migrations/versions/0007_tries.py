"""Tries: which module sat in which slot, and what happened."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.create_table(
        "tries",
        sa.Column("job_id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("log", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name="fk_tries_job_id_jobs", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("job_id", name="pk_tries"),
    )


def downgrade() -> None:
    op.drop_table("tries")
