"""A piece held against its sisters: those of the same plate or look, or one that is named."""

from typing import Any

from flask import request

from greyfell.core.belief.found import Winding
from greyfell.core.errors import FieldError
from greyfell.core.judgement.sisters import Difference, compare, matched
from greyfell.records.rows import Kept, folded
from greyfell.web.showing import Page
from greyfell.web.support import kept, repository

MOST_TAG = 24


class SistersPage(Page, frozen=True, kw_only=True):
    """What differs from the sister that is named, or else from the first that may be one."""

    template = "sisters.html"
    piece: Kept
    other: Kept | None
    named: str
    error: FieldError | None
    alike: list[str]
    pairs: list[tuple[Winding, Winding]]
    differences: list[Difference]


def show(tag: str) -> Any:
    """What differs from the sister that is named, or else from the first that may be one."""
    piece = kept(tag)
    alike = repository().sisters_of(piece)
    named = request.args.get("with", "").strip()[:MOST_TAG] or (alike[0] if alike else "")
    other, error = None, None
    if named:
        other = repository().get(named)
        if other is None:
            error = FieldError("with", f"There is no piece tagged {named}.")
        elif folded(other.tag) == folded(tag):
            other, error = None, FieldError("with", "Name another piece than this one.")
    pairs = matched(piece.ident, other.ident) if other else []
    shown = SistersPage(
        piece=piece,
        other=other,
        named=named,
        error=error,
        alike=alike,
        pairs=pairs,
        differences=compare(piece.ident, other.ident) if other else [],
    ).render()
    return shown, 200 if error is None else 422
