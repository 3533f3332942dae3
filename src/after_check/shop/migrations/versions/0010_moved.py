"""Lines of the bench are numbered as they change, so that who looks again reads the changed ones only; and found by group."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"

_INDEXES = {"ix_jobs_moved": ["moved"], "ix_jobs_waits_for": ["waits_for", "latest"], "ix_jobs_judged_by": ["judged_by"]}


def upgrade() -> None:
    op.add_column("jobs", sa.Column("moved", sa.Integer(), nullable=False, server_default="0"))
    for name, columns in _INDEXES.items():
        op.create_index(name, "jobs", columns)


def downgrade() -> None:
    for name in _INDEXES:
        op.drop_index(name, "jobs")
    with op.batch_alter_table("jobs") as jobs:
        jobs.drop_column("moved")
