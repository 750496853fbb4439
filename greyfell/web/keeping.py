"""What becomes of a piece itself: another tag, put away with its reason, on the shelf again."""

from typing import Any

from flask import redirect, request, url_for

from greyfell.core.errors import FieldError
from greyfell.core.evidence.record import BROUGHT_BACK, RETIRED
from greyfell.web.pieces import refused
from greyfell.web.preferences import whose
from greyfell.web.support import before, kept, key, repository, stored

LONGEST = 1000


def rename(tag: str) -> Any:
    """Give a piece another tag; a printed one with the old tag still finds it."""
    new = request.form.get("tag", "").strip()
    try:
        if before() is None:
            new = repository().rename(tag, new, key()).tag
    except FieldError as error:
        return refused(kept(tag), "record", error)
    stored()
    return redirect(url_for("pieces.show", tag=new, at="record"))


def retire(tag: str) -> Any:
    """Put a piece away: it leaves the shelf, and nothing of it is lost."""
    why = request.form.get("why", "").strip()[:LONGEST]
    if not why:
        error = FieldError("why", "Say why it is put away; nothing was given.")
        return refused(kept(tag), "record", error)
    return _said(tag, RETIRED, why)


def back(tag: str) -> Any:
    """Put a piece on the shelf again."""
    return _said(tag, BROUGHT_BACK, "on the shelf again")


def _said(tag: str, kind: str, text: str) -> Any:
    if before() is None:
        statement = {"kind": kind, "text": text, "by": whose()}
        repository().append_statement(tag, statement, key())
    stored()
    return redirect(url_for("pieces.show", tag=tag, at="record"))
