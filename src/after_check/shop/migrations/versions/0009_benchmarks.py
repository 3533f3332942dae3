"""Benchmarks get the name that the trade has for them; the rows stay as they are."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    _moved("gauges", "benchmarks")


def downgrade() -> None:
    _moved("benchmarks", "gauges")


def _moved(old: str, new: str) -> None:
    """Make the table under its new name, with the names of its keys, and bring the rows over."""
    op.create_table(
        new,
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("moment", sa.String(20), nullable=False),
        sa.Column("begun_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("record", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=f"fk_{new}_job_id_jobs", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=f"pk_{new}"),
    )
    op.create_index(f"ix_{new}_job_id", new, ["job_id"])
    columns = "id, job_id, moment, begun_at, record"
    op.execute(f"INSERT INTO {new} ({columns}) SELECT {columns} FROM {old}")
    op.drop_index(f"ix_{old}_job_id", old)
    op.drop_table(old)
    if op.get_bind().dialect.name == "postgresql":
        op.execute(f"SELECT setval(pg_get_serial_sequence('{new}', 'id'), COALESCE((SELECT MAX(id) FROM {new}), 0) + 1, false)")
