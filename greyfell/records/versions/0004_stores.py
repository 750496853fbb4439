"""What stands in the stores."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.create_table(
        "item",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("uid", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("searched", sa.String(), nullable=False),
        sa.Column("body", sa.JSON(), nullable=False),
        sa.Column("gone", sa.Boolean(), nullable=False),
        sa.Column("at", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_item"),
        sa.UniqueConstraint("uid", name="uq_item_uid"),
    )
    op.create_index("ix_item_kind", "item", ["kind"])
