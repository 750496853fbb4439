"""One conclusion a piece, with what the shelf sorts by; a tally of the shelf; what was entered
once.
"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"

COUNT = """
INSERT INTO tally (family, verdict, pieces) VALUES ({row}.family, {row}.verdict, {by})
ON CONFLICT (family, verdict) DO UPDATE SET pieces = pieces + {by};
"""
EVENTS = {
    "tally_insert": ("INSERT", (("new", 1),)),
    "tally_delete": ("DELETE", (("old", -1),)),
    "tally_update": ("UPDATE OF family, verdict", (("old", -1), ("new", 1))),
}
"""The tally is kept by the database itself: no writer can forget it."""


def upgrade() -> None:
    op.rename_table("conclusion", "conclusion_before")
    op.create_table(
        "conclusion",
        sa.Column("piece_id", sa.Integer(), nullable=False),
        sa.Column("record_hash", sa.String(), nullable=False),
        sa.Column("core_version", sa.String(), nullable=False),
        sa.Column("tag", sa.String(), nullable=False),
        sa.Column("family", sa.String(), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("danger", sa.Integer(), nullable=False),
        sa.Column("summary", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("piece_id", name="pk_conclusion"),
        sa.ForeignKeyConstraint(
            ["piece_id"], ["piece.id"], name="fk_conclusion_piece_id_piece", ondelete="CASCADE"
        ),
    )
    op.create_table(
        "tally",
        sa.Column("family", sa.String(), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("pieces", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("family", "verdict", name="pk_tally"),
    )
    for name, (event, counts) in EVENTS.items():
        body = "".join(COUNT.format(row=row, by=by) for row, by in counts)
        op.execute(f"CREATE TRIGGER {name} AFTER {event} ON conclusion BEGIN {body} END")
    op.execute(
        "INSERT INTO conclusion SELECT p.id, p.record_hash, '', p.tag, coalesce(c.family, ''), "
        "coalesce(c.verdict, 'unknown'), coalesce(c.danger, 3), coalesce(c.summary, '{}') "
        "FROM piece p LEFT JOIN conclusion_before c ON c.record_hash = p.record_hash "
        "GROUP BY p.id"
    )
    op.drop_table("conclusion_before")
    op.create_index("ix_conclusion_danger", "conclusion", [sa.text("danger DESC"), "tag"])
    for first in ("family", "verdict"):
        keys = [first, sa.text("danger DESC"), "tag"]
        op.create_index(f"ix_conclusion_{first}", "conclusion", keys)
    op.create_index("ix_conclusion_core_version", "conclusion", ["core_version"])
    op.create_index("ix_conclusion_tag", "conclusion", ["tag"])
    op.create_index("ix_conclusion_newest", "conclusion", ["verdict", "piece_id"])
    op.create_index("ix_piece_tag", "piece", ["tag"])
    op.create_table(
        "entry",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("tag", sa.String(), nullable=False),
        sa.Column("said", sa.String(), nullable=False),
        sa.Column("at", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("key", name="pk_entry"),
    )
    op.create_index("ix_entry_at", "entry", ["at"])
