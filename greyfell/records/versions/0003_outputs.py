"""What every piece gives: volts and amps of its outputs, asked for across the shelf; plates and
titles as sisters are looked for.
"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"

FIGURES = (
    "volts_low",
    "volts_high",
    "ohms",
    "amps_low",
    "amps_high",
    "minute_low",
    "minute_high",
)


def upgrade() -> None:
    op.create_table(
        "output",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("piece_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        *(sa.Column(name, sa.Float(), nullable=False) for name in FIGURES),
        sa.PrimaryKeyConstraint("id", name="pk_output"),
        sa.ForeignKeyConstraint(
            ["piece_id"],
            ["conclusion.piece_id"],
            name="fk_output_piece_id_conclusion",
            ondelete="CASCADE",
        ),
    )
    op.create_index("ix_output_piece_id", "output", ["piece_id"])
    op.create_index("ix_output_volts_high", "output", ["volts_high", "volts_low"])
    op.execute("CREATE INDEX ix_piece_plate ON piece (json_extract(head, '$.nameplate.text'))")
    op.execute("CREATE INDEX ix_piece_title ON piece (title COLLATE NOCASE)")
