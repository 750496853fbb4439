"""The last verdict of every piece, apart from the cache; pieces for practice are no iron."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"

PRACTISED = "SELECT id FROM piece WHERE title LIKE 'Practice piece%'"
HEADLINE = (
    "CASE WHEN json_valid(summary) THEN coalesce(json_extract(summary, '$.headline'), '') "
    "ELSE '' END"
)


def upgrade() -> None:
    op.create_table(
        "verdict",
        sa.Column("piece_id", sa.Integer(), nullable=False),
        sa.Column("record_hash", sa.String(), nullable=False),
        sa.Column("core_version", sa.String(), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("headline", sa.String(), nullable=False),
        sa.Column("stops", sa.Boolean(), nullable=False),
        sa.Column("news", sa.JSON(), nullable=True),
        sa.PrimaryKeyConstraint("piece_id", name="pk_verdict"),
        sa.ForeignKeyConstraint(
            ["piece_id"], ["piece.id"], name="fk_verdict_piece_id_piece", ondelete="CASCADE"
        ),
    )
    op.create_index(
        "ix_verdict_news", "verdict", ["piece_id"], sqlite_where=sa.text("news IS NOT NULL")
    )
    op.execute(f"UPDATE conclusion SET verdict = 'practice' WHERE piece_id IN ({PRACTISED})")
    op.execute(f"DELETE FROM output WHERE piece_id IN ({PRACTISED})")
    op.execute(
        "INSERT INTO verdict SELECT piece_id, record_hash, core_version, verdict, "
        f"{HEADLINE}, danger = 5, NULL FROM conclusion WHERE core_version != ''"
    )
