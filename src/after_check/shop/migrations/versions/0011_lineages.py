"""Each word of a job has its lineage, so that no clock decides which of two benches wrote it last."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("lineages", sa.Text(), nullable=False, server_default="{}"))


def downgrade() -> None:
    with op.batch_alter_table("jobs") as jobs:
        jobs.drop_column("lineages")
