"""Kept plans and rigs: put down, shown with what has changed since, measured against, held side by
side, out as `greyfell.plan/1`.
"""

import json
from collections.abc import Sequence
from typing import Any
from urllib.parse import parse_qsl

from flask import Response, current_app, redirect, request, url_for

from greyfell.core.chain.elements import Rig, parse_rig
from greyfell.core.chain.first_power import STEPS, PowerStep, asked_of, next_step, taken
from greyfell.core.chain.refusing import never_planned, planned
from greyfell.core.dangers.of_row import spoken
from greyfell.core.dangers.rule import Danger
from greyfell.core.errors import FieldError, Missing
from greyfell.core.figures.notation import MEASURES, parse_quantity
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.outputs import models
from greyfell.core.never import Never
from greyfell.core.planner_kit.asking import Known
from greyfell.core.planner_kit.declare import Planner
from greyfell.core.planners.kept_plan import (
    RIG,
    Changed,
    Met,
    changed,
    figures_of,
    met,
    plan_document,
    rig_document,
)
from greyfell.core.planners.registry import PLANNERS, planner_of
from greyfell.records.plans import Plans
from greyfell.records.rows import Kept
from greyfell.web.drawings.rig import rig_drawing
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.plans import given_of
from greyfell.web.rigs import address_of, rig_of
from greyfell.web.showing import Page
from greyfell.web.support import before, kept, key, repository, stored

LONGEST_QUERY, MOST_FIELDS = 8000, 400


def plans() -> Plans:
    """The application's kept plans, over its store."""
    return Plans(current_app.extensions["store"])


def _query() -> dict[str, str]:
    """The address that a plan was worked out at, as its form sends it. Raises FieldError."""
    text = request.form.get("query", "")
    if len(text) > LONGEST_QUERY:
        raise FieldError("query", "This plan's address is too long to keep.")
    try:
        return dict(parse_qsl(text, keep_blank_values=True, max_num_fields=MOST_FIELDS))
    except ValueError:
        raise FieldError("query", f"A plan has {MOST_FIELDS} boxes and no more.") from None


def _piece(tag: str) -> Kept | None:
    """The piece of a tag, where it is still there."""
    return repository().get(tag) if tag else None


def _model(rig: Rig, piece: Kept | None) -> dict[str, Any] | None:
    """What the piece's model is now, for the rig's output: the one of the nearest ratio."""
    if piece is None:
        return None
    found = [m.as_rig() for m in models(piece.ident)]
    if not found:
        return None
    wanted = rig.piece.get("ratio")
    return min(found, key=lambda m: abs(float(m["ratio"]) - wanted))


def keep() -> Any:
    """Keep a plan as it stands."""
    name = request.form.get("planner", "")
    planner = planner_of(name)
    args = _query()
    tag = args.get("piece", "").strip()
    piece = kept(tag) if tag else None
    known = None if piece is None else Known(piece.ident)
    entry = before()
    if entry is None:
        told = given_of(planner, known, args)
        title = request.form.get("title", "")
        of = "" if piece is None else piece.tag
        document = plan_document(planner, told, known=known, tag=of, title=title)
        uid = plans().add(document, key())
    else:
        uid = entry.tag
    stored()
    return redirect(url_for("kept_plans.show", uid=uid))


def keep_rig() -> Any:
    """Keep a rig as it stands."""
    entry = before()
    if entry is None:
        rig = rig_of(_query())
        model = _model(rig, _piece(rig.piece.tag))
        uid = plans().add(rig_document(rig.as_json(), model=model), key())
    else:
        uid = entry.tag
    stored()
    return redirect(url_for("kept_plans.show", uid=uid))


class RigsPage(Page, frozen=True, kw_only=True):
    """Every rig that is kept."""

    template = "rigs.html"
    kept: list[dict[str, Any]]


def rigs() -> Any:
    """Every rig that is kept."""
    return RigsPage(kept=plans().all(planner=RIG)).render(), 200


def show(uid: str) -> Any:
    """One kept plan: what it foretold, what has changed, what was measured."""
    return _page(uid, None), 200


class KeptPage(Page, frozen=True, kw_only=True):
    """One kept plan: what it foretold, what has changed, what was measured."""

    template = "kept.html"
    plan: dict[str, Any]
    uid: str
    planner: Planner | None
    piece: Kept | None
    drawing: Drawing | None
    never: Never | None
    changed: list[Changed]
    figures: list[tuple[str, str, str, Quantity]]
    met: list[Met]
    address: str
    error: FieldError | None
    walked: bool
    steps: Sequence[PowerStep]
    step: PowerStep | None
    done: dict[Any, Any]
    others: list[dict[str, Any]]


def _page(uid: str, error: FieldError | None) -> str:
    document = plans().get(uid)
    piece = _piece(document.get("tag", ""))
    known = None if piece is None else Known(piece.ident)
    rig, drawing, model, walked, never = None, None, None, False, None
    if document["planner"] == RIG:
        rig = parse_rig(document["input"])
        solved, never = _solved(rig), never_planned(rig)
        drawing = rig_drawing(rig, solved)
        walked = solved is not None and asked_of(solved)
        model = _model(rig, piece)
        address = address_of(document["input"])
    else:
        address = url_for("plans.show", name=document["planner"], **_boxes(document))
    return KeptPage(
        plan=document,
        uid=uid,
        planner=PLANNERS.get(document["planner"]),
        piece=piece,
        drawing=drawing,
        never=never,
        changed=changed(document, known, model),
        figures=[] if never else figures_of(document),
        met=met(document),
        address=address,
        error=error,
        walked=walked,
        steps=STEPS,
        step=next_step(document.get("walk", [])),
        done={w.get("step"): w for w in document.get("walk", [])},
        others=[p for p in plans().all(planner=RIG) if p["id"] != uid] if rig else [],
    ).render()


def _boxes(document: dict[str, Any]) -> dict[str, Any]:
    """A plan's input as the boxes of its planner's page, as far as they are plain."""
    plain = {k: v for k, v in document["input"].items() if isinstance(v, int | float | str)}
    piece = {"piece": document["tag"]} if document.get("tag") else {}
    return {**plain, **piece, "sent": "yes"}


def _solved(rig: Rig) -> Any:
    """A kept rig solved; None where it is never planned, or does not settle."""
    try:
        return planned(rig)
    except FieldError:
        return None


def measure(uid: str) -> Any:
    """Set what was measured against a foretold figure."""
    form = request.form
    told = {k: unit for k, _, unit, _ in figures_of(plans().get(uid))}
    try:
        figure = form.get("figure", "")
        if figure not in told:
            raise FieldError("figure", "Choose the figure that was measured.")
        value = parse_quantity(form.get("value", ""), MEASURES[told[figure]], field="Measured")
        if before() is None:
            plans().measure(uid, figure, value, key())
    except Missing:
        raise
    except FieldError as error:
        return _page(uid, error), 422
    stored()
    return redirect(url_for("kept_plans.show", uid=uid))


def walk(uid: str) -> Any:
    """Prove the next step of a rig's first power."""
    form = request.form
    document = plans().get(uid)
    try:
        if document["planner"] != RIG:
            raise FieldError("step", "Only a rig's first power is walked.")
        solved = planned(parse_rig(document["input"]))
        if not asked_of(solved):
            raise FieldError("step", "This rig's direct side needs no walk.")
        step = next_step(document.get("walk", []))
        text = form.get("value", "").strip()
        value = None
        if step is not None and step.asks and text:
            value = parse_quantity(text, MEASURES[step.unit], field=step.asks)
        if before() is None:
            proved = taken(solved, document.get("walk", []), form.get("step", ""), value)
            plans().walk(uid, proved, key())
    except FieldError as error:
        return _page(uid, error), 422
    stored()
    return redirect(url_for("kept_plans.show", uid=uid))


def export(uid: str) -> Response:
    """One plan in its open format."""
    text = json.dumps(plans().get(uid), ensure_ascii=False, indent=1)
    answer = Response(text, mimetype="application/json")
    answer.headers["Content-Disposition"] = f'attachment; filename="plan-{uid}.json"'
    return answer


class ComparePage(Page, frozen=True, kw_only=True):
    """Two kept rigs side by side."""

    template = "compare.html"
    shown: list[tuple[dict[str, Any], Drawing, Any, list[Danger], Never | None]]


def compare() -> Any:
    """Two kept rigs side by side. Raises Missing where one is not kept."""
    shown = []
    for name in ("one", "two"):
        document = plans().get(request.args.get(name, ""))
        if document["planner"] != RIG:
            raise Missing("plan", "Only rigs are held side by side.")
        rig = parse_rig(document["input"])
        solved = _solved(rig)
        said = [] if solved is None else spoken(solved)
        drawing = rig_drawing(rig, solved)
        shown.append((document, drawing, solved, said, never_planned(rig)))
    return ComparePage(shown=shown).render(), 200
