"""The first tables: pieces, their readings and strikes, cached conclusions."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "piece",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("uid", sa.String(), nullable=False),
        sa.Column("tag", sa.String(), nullable=False),
        sa.Column("tag_folded", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("head", sa.JSON(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("record_hash", sa.String(), nullable=False),
        sa.Column("created_at", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_piece"),
        sa.UniqueConstraint("uid", name="uq_piece_uid"),
        sa.UniqueConstraint("tag_folded", name="uq_piece_tag_folded"),
        sa.CheckConstraint("length(tag) between 1 and 24", name="ck_piece_tag_length"),
    )
    op.create_index("ix_piece_record_hash", "piece", ["record_hash"])
    op.create_table(
        "reading",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("piece_id", sa.Integer(), nullable=False),
        sa.Column("reading_id", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("body", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_reading"),
        sa.ForeignKeyConstraint(
            ["piece_id"], ["piece.id"], name="fk_reading_piece_id_piece", ondelete="CASCADE"
        ),
        sa.UniqueConstraint("piece_id", "reading_id", name="uq_reading_piece_id"),
    )
    op.create_index("ix_reading_piece_id", "reading", ["piece_id"])
    op.create_table(
        "strike",
        sa.Column("reading_pk", sa.Integer(), nullable=False),
        sa.Column("body", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("reading_pk", name="pk_strike"),
        sa.ForeignKeyConstraint(
            ["reading_pk"], ["reading.id"], name="fk_strike_reading_pk_reading", ondelete="CASCADE"
        ),
    )
    op.create_table(
        "conclusion",
        sa.Column("record_hash", sa.String(), nullable=False),
        sa.Column("core_version", sa.String(), nullable=False),
        sa.Column("family", sa.String(), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("danger", sa.Integer(), nullable=False),
        sa.Column("summary", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("record_hash", "core_version", name="pk_conclusion"),
    )
