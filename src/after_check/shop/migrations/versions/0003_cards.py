"""Cards: what a shop knows of machine models."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "cards",
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("toml", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("name", name="pk_cards"),
    )


def downgrade() -> None:
    op.drop_table("cards")
