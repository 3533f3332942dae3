"""Names of module makers, learned from modules that show both a name and a JEDEC code."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "makers",
        sa.Column("bank", sa.Integer(), nullable=False),
        sa.Column("code", sa.Integer(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("bank", "code", name="pk_makers"),
    )


def downgrade() -> None:
    op.drop_table("makers")
