"""Plans: every planner by one view and one template, from a piece or from nothing."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from flask import render_template, request, url_for

from greyfell.core.errors import FieldError
from greyfell.core.evidence.stores import Item, short_list
from greyfell.core.planners.asking import Known
from greyfell.core.planners.declare import Planner
from greyfell.core.planners.registry import PLANNERS, planner_of
from greyfell.core.planners.showing import cells
from greyfell.web.asking import boxes, given, missing
from greyfell.web.drawings.plans import drawing_of
from greyfell.web.stores import stores
from greyfell.web.support import enhanced, repository

MOST_TAGS = 200
MOST_OFFERED = 8


@dataclass(frozen=True)
class OnHand:
    """What the stores hold of a kind that a planner draws on: in a few words, and each entry with
    the address that fills it in.
    """

    words: str
    entries: tuple[tuple[str, str], ...]


def _on_hand(planner: Planner) -> list[OnHand]:
    """Every kind a planner may draw on that is on hand."""
    items = stores().of(planner.draws) if planner.draws else []
    found = []
    for kind, fills in planner.draws.items():
        words = short_list(items, kind)
        mine = [i for i in items if i.kind.key == kind]
        entries = tuple((i.title, _filled(planner, i, fills)) for i in mine[:MOST_OFFERED])
        if words:
            found.append(OnHand(words, entries))
    return found


def _filled(planner: Planner, item: Item, fills: Mapping[str, str]) -> str:
    """The planner's address with an entry's figures in their boxes, all else as it stands."""
    known = {key: item.figures[name] for key, name in fills.items() if name in item.figures}
    shown = {key: f"{v:g}" if isinstance(v, float) else str(v) for key, v in known.items()}
    return url_for(".show", name=planner.name, **{**request.args.to_dict(), "sent": "yes", **shown})


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
        on_hand=_on_hand(planner),
    )
    if error is None or enhanced():
        return page, 200
    return page, 404 if error.field == "piece" else 422
