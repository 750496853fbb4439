"""The pictures of a piece's photos; its marks stand in the record."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "photo",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("piece_id", sa.Integer(), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.Column("picture", sa.LargeBinary(), nullable=False),
        sa.Column("at", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["piece_id"], ["piece.id"], name="fk_photo_piece_id_piece", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_photo"),
        sa.UniqueConstraint("piece_id", "file", name="uq_photo_piece_id"),
    )
