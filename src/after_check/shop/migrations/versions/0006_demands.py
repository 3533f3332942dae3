"""Demands: how much memory the customer's work took."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "demands",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("begun_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("record", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name="fk_demands_job_id_jobs", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_demands"),
    )
    op.create_index("ix_demands_job_id", "demands", ["job_id"])


def downgrade() -> None:
    op.drop_index("ix_demands_job_id", "demands")
    op.drop_table("demands")
