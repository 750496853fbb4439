"""What pieces and parts came out of."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "donor",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("uid", sa.String(), nullable=False),
        sa.Column("body", sa.JSON(), nullable=False),
        sa.Column("at", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_donor"),
        sa.UniqueConstraint("uid", name="uq_donor_uid"),
    )
    op.create_index("ix_piece_donor", "piece", [sa.text("json_extract(head, '$.donor.id')")])
