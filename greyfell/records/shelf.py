"""The shelf: one conclusion kept for every piece, counted, sorted and shown a page at a time."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from greyfell.core import CORE_VERSION
from greyfell.core.errors import FieldError
from greyfell.core.guidance.summary import summarise
from greyfell.records.models import ConclusionRow, PieceRow, TallyRow
from greyfell.records.rows import Kept, find, kept_of
from greyfell.records.store import Store

PAGE = 24
BATCH = 20
"""So many pieces are concluded in one go after an upgrade: nobody waits long for the file."""
ORDERS: dict[str, tuple[Any, ...]] = {
    "danger": (sa.text("conclusion.danger DESC"), ConclusionRow.tag),
    "tag": (ConclusionRow.tag,),
    "newest": (ConclusionRow.piece_id.desc(),),
    "family": (ConclusionRow.family, sa.text("conclusion.danger DESC"), ConclusionRow.tag),
}


@dataclass(frozen=True)
class ShelfPage:
    """One page of the shelf: summaries, how many there are in all, counts by family and by verdict,
    and how many still stand as an earlier version of the program left them.
    """

    items: list[dict[str, Any]]
    total: int
    matching: int
    families: dict[str, int]
    verdicts: dict[str, int]
    page: int
    waiting: int = 0

    @property
    def pages(self) -> int:
        """How many pages hold what matches."""
        return max(1, -(-self.matching // PAGE))


def page_of(session: Session, family: str, verdict: str, sort: str, page: int) -> ShelfPage:
    """One page of summaries. Its cost does not grow with readings or pieces."""
    counts = session.execute(sa.select(TallyRow.family, TallyRow.verdict, TallyRow.pieces)).all()
    matching = sum(n for f, v, n in counts if family in ("", f) and verdict in ("", v))
    page = min(max(1, page), max(1, -(-matching // PAGE)))
    query = (
        sa.select(
            ConclusionRow.tag,
            PieceRow.title,
            ConclusionRow.record_hash,
            ConclusionRow.core_version,
            ConclusionRow.summary,
        )
        .join(PieceRow, PieceRow.id == ConclusionRow.piece_id)
        .order_by(*ORDERS.get(sort, ORDERS["tag"]))
        .limit(PAGE)
        .offset((page - 1) * PAGE)
    )
    if family:
        query = query.where(ConclusionRow.family == family)
    if verdict:
        query = query.where(ConclusionRow.verdict == verdict)
    rows = session.execute(query).all()
    families, verdicts, total = _counts(counts)
    return ShelfPage(
        items=[
            {
                **BARE,
                **summary,
                "tag": tag,
                "title": title,
                "key": record_hash,
                "earlier": version != CORE_VERSION,
            }
            for tag, title, record_hash, version, summary in rows
        ],
        total=total,
        matching=matching,
        families=families,
        verdicts=verdicts,
        page=page,
    )


BARE = {
    "family": "unknown",
    "sure": 0.0,
    "danger": 3,
    "headline": "not yet looked at: take it for live",
    "mood": "caution",
    "reached": "salvage",
    "next_step": "open it",
    "sketch": {"shape": "shell", "shunts": False, "windings": [], "loose": []},
}
"""What is shown of a piece of which nothing was concluded yet."""


def _counts(rows: Iterable[Any]) -> tuple[dict[str, int], dict[str, int], int]:
    """Pieces by family, by verdict, and in all."""
    families: dict[str, int] = {}
    verdicts: dict[str, int] = {}
    for family, verdict, n in rows:
        if n:
            families[family] = families.get(family, 0) + n
            verdicts[verdict] = verdicts.get(verdict, 0) + n
    return families, verdicts, sum(families.values())


def wanting(session: Session) -> dict[str, Any] | None:
    """The piece nearest to a screening that still lacks one: its tag, title and next step; None
    where none does.
    """
    query = (
        sa.select(ConclusionRow.tag, PieceRow.title, ConclusionRow.summary)
        .join(PieceRow, PieceRow.id == ConclusionRow.piece_id)
        .where(ConclusionRow.verdict == "unknown")
        .order_by(ConclusionRow.piece_id.desc())
        .limit(1)
    )
    row = session.execute(query).first()
    if row is None:
        return None
    return {"tag": row[0], "title": row[1], "next_step": row[2].get("next_step", "")}


# ------------------------------------------------------------------ keeping conclusions


def concluded(kept: Kept) -> dict[str, Any]:
    """What the shelf keeps of a piece, worked out."""
    summary = summarise(kept.ident, kept.steps)
    return {
        "record_hash": kept.record_hash,
        "core_version": CORE_VERSION,
        "tag": kept.tag,
        "family": summary.family,
        "verdict": kept.ident.verdict,
        "danger": summary.danger,
        "summary": summary.as_json(),
    }


def keep(session: Session, piece_id: int, values: dict[str, Any]) -> None:
    """Keep a conclusion in place of the one before."""
    written = insert(ConclusionRow).values(piece_id=piece_id, **values)
    session.execute(written.on_conflict_do_update(index_elements=["piece_id"], set_=values))


def waiting(session: Session) -> int:
    """How many pieces no conclusion of this version stands for."""
    done = sa.select(sa.func.count()).where(ConclusionRow.core_version == CORE_VERSION)
    all_of_them = sa.select(sa.func.count()).select_from(PieceRow)
    return int(session.scalar(all_of_them) or 0) - int(session.scalar(done) or 0)


def conclude_some(store: Store, most: int = BATCH) -> int:
    """Work out conclusions that are missing or an earlier version's. Returns how many were."""
    with store.reading() as session:
        query = (
            sa.select(PieceRow.id, PieceRow.tag)
            .outerjoin(ConclusionRow, ConclusionRow.piece_id == PieceRow.id)
            .where(sa.func.coalesce(ConclusionRow.core_version, "") != CORE_VERSION)
            .limit(most)
        )
        found = session.execute(query).all()
        told = [(key, _of_row(session, tag)) for key, tag in found]
    with store.writing() as session:
        for key, values in told:
            present = session.get(PieceRow, key)
            if present is not None and present.record_hash == values["record_hash"]:
                keep(session, key, values)
    return len(found)


def _of_row(session: Session, tag: str) -> dict[str, Any]:
    """The conclusion of a stored piece; one that cannot be read at all says so."""
    row = find(session, tag)
    if row is None:
        return {"record_hash": None}
    try:
        return concluded(kept_of(row))
    except FieldError as error:
        summary = {**BARE, "headline": "cannot be read: export it", "next_step": error.sentence}
        return {
            "record_hash": row.record_hash,
            "core_version": CORE_VERSION,
            "tag": row.tag,
            "family": "unknown",
            "verdict": "unknown",
            "danger": 3,
            "summary": summary,
        }
