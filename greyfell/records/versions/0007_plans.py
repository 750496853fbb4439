"""Kept plans and rigs."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.create_table(
        "plan",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("uid", sa.String(), nullable=False),
        sa.Column("planner", sa.String(), nullable=False),
        sa.Column("tag", sa.String(), nullable=False),
        sa.Column("body", sa.JSON(), nullable=False),
        sa.Column("at", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_plan"),
        sa.UniqueConstraint("uid", name="uq_plan_uid"),
    )
    op.create_index("ix_plan_planner", "plan", ["planner"])
    op.create_index("ix_plan_tag", "plan", ["tag"])
