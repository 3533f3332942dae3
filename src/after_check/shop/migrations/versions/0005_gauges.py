"""Gauges: benchmarks and typed scores of a job, on arrival and after fitting."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "gauges",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("moment", sa.String(20), nullable=False),
        sa.Column("begun_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("record", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name="fk_gauges_job_id_jobs", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_gauges"),
    )
    op.create_index("ix_gauges_job_id", "gauges", ["job_id"])


def downgrade() -> None:
    op.drop_index("ix_gauges_job_id", "gauges")
    op.drop_table("gauges")
