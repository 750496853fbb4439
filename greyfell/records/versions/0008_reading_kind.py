"""Readings found by their kind: reminders ask for insulation tests alone."""

from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_index("ix_reading_kind", "reading", ["kind"])
