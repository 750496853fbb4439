"""Everything a data folder holds, in one table: backup, restore, check and archive walk it, and
what joins the folder later joins it here.
"""

import sqlalchemy as sa
from msgspec import Struct
from sqlalchemy.orm import DeclarativeBase, Session

from greyfell.records.models import (
    ConclusionRow,
    DonorRow,
    EntryRow,
    HandRow,
    ItemRow,
    OutputRow,
    PhotoRow,
    PieceRow,
    PlanRow,
    ReadingRow,
    StrikeRow,
    VerdictRow,
)


class Kind(Struct, frozen=True, kw_only=True):
    """One kind of thing that is kept: what it is called, its table, the folder of its files."""

    name: str
    table: type[DeclarativeBase]
    cache: bool = False
    files: str = ""


KINDS = (
    Kind(name="pieces", table=PieceRow),
    Kind(name="readings", table=ReadingRow),
    Kind(name="strikes", table=StrikeRow),
    Kind(name="photos", table=PhotoRow),
    Kind(name="stores", table=ItemRow),
    Kind(name="donors", table=DonorRow),
    Kind(name="plans", table=PlanRow),
    Kind(name="hands", table=HandRow),
    Kind(name="verdicts", table=VerdictRow),
    Kind(name="conclusions", table=ConclusionRow, cache=True),
    Kind(name="outputs", table=OutputRow, cache=True),
    Kind(name="entries", table=EntryRow, cache=True),
)
"""What is evidence, and what is worked out from it."""


def counted(session: Session) -> dict[str, int]:
    """How many of each kind there are."""
    found = {}
    for kind in KINDS:
        query = sa.select(sa.func.count()).select_from(kind.table)
        found[kind.name] = int(session.scalar(query) or 0)
    return found
