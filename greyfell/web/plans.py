"""Plans: every planner by one view and one template, from a piece or from nothing."""

from collections.abc import Mapping
from typing import Any

from flask import Response, current_app, request, url_for
from msgspec import Struct, field
from msgspec.structs import replace

from greyfell.core.errors import FieldError, Missing
from greyfell.core.evidence.stores import Item, short_list
from greyfell.core.planner_kit.asking import Known, OnHand, slots
from greyfell.core.planner_kit.declare import Planned, Planner
from greyfell.core.planner_kit.hangs import Hang, hangs
from greyfell.core.planner_kit.showing import Cell, cells
from greyfell.core.planners.registry import PLANNERS, by_part, planner_of
from greyfell.records.plans import Plans
from greyfell.records.rows import Kept
from greyfell.web.asking import AskBox, boxes, examples, missing, told
from greyfell.web.drawings.alone import alone
from greyfell.web.drawings.plans import drawing_of
from greyfell.web.drawings.shapes import Drawing, captioned
from greyfell.web.showing import Page
from greyfell.web.stores import stores
from greyfell.web.support import enhanced, own_args, own_query, repository, whole

MOST_TAGS = 200
MOST_OFFERED, MOST_KEPT = 8, 100


class Offered(Struct, frozen=True):
    """What the stores hold of a kind that a planner draws on: in a few words, and each entry with
    the address that fills it in.
    """

    words: str
    entries: tuple[tuple[str, str], ...]


def _on_hand(planner: Planner) -> list[Offered]:
    """Every kind a planner may draw on that is on hand."""
    items = stores().of(planner.draws) if planner.draws else []
    found = []
    for kind, fills in planner.draws.items():
        words = short_list(items, kind)
        mine = [i for i in items if i.kind.key == kind]
        entries = tuple((i.title, _filled(planner, i, fills)) for i in mine[:MOST_OFFERED])
        if words:
            found.append(Offered(words, entries))
    return found


def _stock(planner: Planner) -> list[Item]:
    """Everything on hand, where a planner asks for the stores whole."""
    wanted = planner.draws or any(s.kind is OnHand or s.ask.stock for s in slots(planner.given))
    return list(stores().items()) if wanted else []


def _filled(planner: Planner, item: Item, fills: Mapping[str, str]) -> str:
    """The planner's address with an entry's figures in their boxes, all else as it stands."""
    known = {key: item.figures[name] for key, name in fills.items() if name in item.figures}
    shown = {key: f"{v:g}" if isinstance(v, float) else str(v) for key, v in known.items()}
    given: dict[str, Any] = {**request.args.to_dict(), "sent": "yes", **shown}
    return url_for(".show", name=planner.name, **given)


class PlansPage(Page, frozen=True, kw_only=True):
    """What can be planned."""

    template = "plans.html"
    parts: dict[str, tuple[Planner, ...]]
    kept: list[dict[str, Any]]


def index() -> Any:
    """What can be planned."""
    kept = [p for p in Plans(current_app.extensions["store"]).all() if p["planner"] in PLANNERS]
    return PlansPage(parts=by_part(), kept=kept[:MOST_KEPT]).render()


class Worked(Struct, frozen=True, kw_only=True):
    """A planner as an address asks for it: the piece, the boxes, the plan or what is wrong with it,
    the drawing.
    """

    planner: Planner
    tag: str
    piece: Kept | None
    boxes: list[AskBox]
    planned: Planned | None = None
    told: Mapping[str, Any] = field(default_factory=dict)
    error: FieldError | None = None

    @property
    def drawing(self) -> Drawing | None:
        """The drawing of the plan; None where there is none."""
        record = None if self.piece is None else self.piece.record
        drawn = drawing_of(self.planner, self.planned, record)
        made_up = examples(self.boxes)
        if drawn is None or not made_up:
            return drawn
        whose = "of no piece" if self.piece is None else f"and not of {self.tag}"
        return captioned(drawn, f"an example, {whose}: {', '.join(made_up)}")


def _worked(name: str) -> Worked:
    """What an address asks of a planner, worked out."""
    planner = planner_of(name)
    tag = request.args.get("piece", "").strip()
    piece = repository().get(tag) if tag else None
    known = Known(piece.ident) if piece is not None else None
    stock = _stock(planner)
    found = boxes(planner, known, request.args, stock)
    asked = Worked(planner=planner, tag=tag, piece=piece, boxes=found)
    if tag and piece is None:
        error = FieldError("piece", f"There is no piece tagged {tag[:24]}.")
        return replace(asked, error=error)
    if missing(found):
        return asked
    try:
        typed = told(planner, found, stock)
        planned = planner.plan(planner.read(typed), known)
        return replace(asked, planned=planned, told=typed)
    except FieldError as problem:
        return replace(asked, error=problem)


def given_of(planner: Planner, known: Known | None, args: Mapping[str, str]) -> dict[str, Any]:
    """A planner's input as an address tells it, as JSON has it. Raises FieldError."""
    stock = _stock(planner)
    found = boxes(planner, known, args, stock)
    return told(planner, found, stock)


class PlanPage(Page, frozen=True, kw_only=True):
    """One planner: its form, and its answer recomputed from the address."""

    template = "plan.html"
    planner: Planner
    piece: Kept | None
    boxes: list[AskBox]
    missing: list[str]
    planned: Planned | None
    cells: list[Cell]
    drawing: Drawing | None
    error: FieldError | None
    asked_piece: str
    tags: list[str]
    on_hand: list[Offered]
    hanging: list[Hang]
    later: bool
    args: Mapping[str, str]
    query: str


def show(name: str) -> Any:
    """One planner: its form, and its answer recomputed from the address."""
    worked = _worked(name)
    planned, error = worked.planned, worked.error
    hanging = _hanging(worked)
    page = PlanPage(
        planner=worked.planner,
        piece=worked.piece,
        boxes=worked.boxes,
        missing=missing(worked.boxes),
        planned=planned,
        cells=cells(planned.found) if planned is not None else [],
        drawing=worked.drawing,
        error=error,
        asked_piece=worked.tag,
        tags=repository().tags(most=MOST_TAGS),
        on_hand=_on_hand(worked.planner),
        hanging=hanging or [],
        later=hanging is None,
        args=own_args(),
        query=own_query(),
    ).render()
    begun = "sent" not in request.args and worked.piece is not None
    if error is None or begun or enhanced():
        return page, 200
    return page, 404 if error.field == "piece" else 422


def _hanging(worked: Worked) -> list[Hang] | None:
    """On what it hangs; None while it is dragged, and of a plan that solves a circuit for it over
    and over: that follows.
    """
    if worked.planned is None or worked.error is not None:
        return []
    if not whole() and (enhanced() or worked.planner.heavy):
        return None
    known = Known(worked.piece.ident) if worked.piece is not None else None
    return hangs(worked.planner, worked.told, known)


def drawing(name: str) -> Response:
    """The drawing of a plan as a file of its own. Raises Missing where it has none."""
    made = _worked(name).drawing
    if made is None:
        raise Missing("name", "There is no drawing of this plan.")
    answer = Response(alone(made), mimetype="image/svg+xml")
    answer.headers["Content-Disposition"] = f'attachment; filename="{name}.svg"'
    return answer
