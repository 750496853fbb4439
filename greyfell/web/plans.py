"""Plans: every planner by one view and one template, from a piece or from nothing."""

from typing import Any

from flask import render_template, request

from greyfell.core.errors import FieldError
from greyfell.core.planners.asking import Known
from greyfell.core.planners.registry import PLANNERS, planner_of
from greyfell.core.planners.showing import cells
from greyfell.web.asking import boxes, given, missing
from greyfell.web.drawings.plans import drawing_of
from greyfell.web.support import enhanced, repository

MOST_TAGS = 200


def index() -> Any:
    """What can be planned."""
    return render_template("plans.html", planners=PLANNERS.values())


def show(name: str) -> Any:
    """One planner: its form, and its answer recomputed from the address."""
    planner = planner_of(name)
    tag = request.args.get("piece", "").strip()
    piece = repository().get(tag) if tag else None
    known = Known(piece.ident) if piece is not None else None
    found = boxes(planner, known, request.args)
    wanting = missing(found)
    planned, error = None, None
    if tag and piece is None:
        error = FieldError("piece", f"There is no piece tagged {tag[:24]}.")
    elif not wanting:
        try:
            planned = planner.plan(given(planner, found), known)
        except FieldError as problem:
            error = problem
    page = render_template(
        "plan.html",
        planner=planner,
        piece=piece,
        boxes=found,
        missing=wanting,
        planned=planned,
        cells=cells(planned.found) if planned is not None else [],
        drawing=drawing_of(planner, planned, piece.record if piece is not None else None),
        error=error,
        asked_piece=tag,
        tags=repository().tags(most=MOST_TAGS),
    )
    if error is None or enhanced():
        return page, 200
    return page, 404 if error.field == "piece" else 422
