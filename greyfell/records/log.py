"""The log across pieces: what was read and struck out, the last first, with what was said of those
pieces meanwhile; a page costs the same however much there is.
"""

from collections.abc import Iterable
from typing import Any

import sqlalchemy as sa
from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.errors import FieldError
from greyfell.core.evidence.loading import FORMAT
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.reading_in_words import told
from greyfell.records.models import PieceRow, ReadingRow, StrikeRow
from greyfell.records.store import Store

PAGE = 60
"""So many readings stand on a page."""


class Entry(Struct, frozen=True, kw_only=True):
    """One thing that was done: when, on which piece, what in a line, by whom, with what; why it was
    struck out.
    """

    at: str
    tag: str
    what: str
    by: str = ""
    meter: str = ""
    struck: str = ""
    reading: str = ""


def log_of(store: Store, page: int = 1, tag: str = "") -> tuple[list[Entry], bool]:
    """A page of the log, of one piece or of all, and whether there is an earlier one."""
    query = (
        sa.select(
            ReadingRow.reading_id,
            ReadingRow.body,
            PieceRow.tag,
            PieceRow.id.label("piece"),
            StrikeRow.body.label("strike"),
        )
        .join(PieceRow, PieceRow.id == ReadingRow.piece_id)
        .outerjoin(StrikeRow, StrikeRow.reading_pk == ReadingRow.id)
        .order_by(ReadingRow.id.desc())
        .limit(PAGE + 1)
        .offset((max(1, page) - 1) * PAGE)
    )
    if tag:
        query = query.where(PieceRow.tag_folded == tag.casefold())
    with store.looking() as connection:
        rows = connection.execute(query).all()
        entries = [_read(row) for row in rows[:PAGE]]
        since = min((e.at for e in entries if e.at), default="")
        until = max((e.at for e in entries if e.at), default="") if page > 1 else "9"
        heads = sa.select(PieceRow.tag, PieceRow.head)
        heads = heads.where(PieceRow.id.in_({row.piece for row in rows[:PAGE]}))
        titles: dict[tuple[str, str], str] = {}
        for said_of, head in connection.execute(heads):
            entries += [e for e in _said(said_of, head) if since <= e.at <= until]
            titles |= {(said_of, m["id"]): m.get("title", "") for m in head.get("meters") or []}
    entries = [replace(e, meter=titles.get((e.tag, e.meter)) or e.meter) for e in entries]
    return sorted(entries, key=lambda e: e.at, reverse=True), len(rows) > PAGE


def _read(row: Any) -> Entry:
    """A reading as an entry."""
    body = row.body
    strike = row.strike or {}
    return Entry(
        at=body.get("at") or "",
        tag=row.tag,
        what=_told(body),
        by=body.get("by") or "",
        meter=body.get("meter") or "",
        struck=strike.get("reason", ""),
        reading=row.reading_id,
    )


def _told(body: dict[str, Any]) -> str:
    """A reading in a line; by its kind where it cannot be read."""
    points = {x for v in body.values() if isinstance(v, list) for x in v if isinstance(x, str)}
    leads = [{"id": x} for x in sorted(points - {"core", "earth"})] or [{"id": "A"}]
    try:
        record = parse_record({"format": FORMAT, "tag": "T", "leads": leads, "readings": [body]})
    except FieldError:
        return str(body.get("kind", "a reading")).replace("_", " ")
    return told(record.readings[0])


def _said(tag: str, head: dict[str, Any]) -> Iterable[Entry]:
    """What was done to a piece, vouched for and corrected."""
    for s in head.get("statements") or []:
        words = f"{s.get('kind', '')}: {s.get('text', '')}".replace("-", " ")
        yield Entry(at=s.get("at") or "", tag=tag, what=words, by=s.get("by") or "")
    for c in head.get("changes") or []:
        words = f"changed: {str(c.get('what', '')).replace('-', ' ')}"
        yield Entry(at=c.get("at") or "", tag=tag, what=words)
    for e in head.get("edits") or []:
        yield Entry(at=e.get("at") or "", tag=tag, what=f"corrected: {e.get('path', '')}")
