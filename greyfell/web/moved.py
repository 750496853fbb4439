"""What the last stored line changed of a piece: told once, on the page that follows it."""

from flask import g, request, session

from greyfell.core.telling.moved import Side, moved
from greyfell.records.rows import Kept
from greyfell.web.support import repository

SAID = "what changed"
"""Where a session keeps the sentence for the page that a form leads to."""


def look_before() -> None:
    """Keep in mind how a piece stands before a form may change it."""
    tag = (request.view_args or {}).get("tag") if request.method == "POST" else None
    g.stood = repository().get(tag) if tag else None


def look_after(status: int) -> None:
    """Keep what the form changed for the page it leads to."""
    was: Kept | None = g.get("stood")
    if was is None or status not in (302, 303):
        return
    now = repository().get(was.tag)
    said = "" if now is None else _between(was, now)
    if said:
        session[SAID] = said


def what_changed(piece: Kept) -> str:
    """What the form that is answered, or the one before it, changed of a piece; told once."""
    was: Kept | None = g.get("stood")
    here = _between(was, piece) if was is not None else ""
    before = str(session.pop(SAID)) if SAID in session else ""
    return here or before


def _between(was: Kept, now: Kept) -> str:
    if was.record_hash == now.record_hash:
        return ""
    return moved(_side(was), _side(now))


def _side(piece: Kept) -> Side:
    return Side(record=piece.record, ident=piece.ident, gate=piece.gate)
