"""Plans: rewind and ballast, from a piece or from nothing. Every figure comes from the planner in
core.
"""

from collections.abc import Mapping
from typing import Any

from flask import Blueprint, render_template, request

from greyfell.core.equivalent import short_circuit_impedance
from greyfell.core.errors import FieldError
from greyfell.core.identify import identify
from greyfell.core.planners import PLANNERS, BallastInput, ballast_of
from greyfell.core.quantity import Quantity, parse_quantity, parse_uncertain
from greyfell.core.record import Transformer
from greyfell.web.drawings.phasors import phasors
from greyfell.web.drawings.window import window
from greyfell.web.support import kept, repository

bp = Blueprint("plans", __name__, url_prefix="/plans")

BALLAST = {
    "supply_volts": "volt",
    "supply_hertz": "hertz",
    "limit_amps": "ampere",
    "source_resistance_ohms": "ohm",
    "source_reactance_ohms": "ohm",
    "ballast_resistance_ohms": "ohm",
}


@bp.get("/")
def index() -> Any:
    """What can be planned."""
    return render_template("plans.html", planners=PLANNERS.values())


@bp.get("/rewind")
def rewind() -> Any:
    """Whole turns for the volts wanted; recomputed from the address."""
    record, defaults, source = _rewind_start(request.args.get("piece", ""))
    form = {**defaults, **{k: v for k, v in request.args.items() if v.strip()}}
    plan, error, drawing = None, None, None
    if not form["volts_per_turn"].strip():
        return _rewind_page(form, None, None, None, record, source), 200
    try:
        given: dict[str, Any] = {
            "target_volts": parse_quantity(form["target_volts"], "volt", field="target_volts")
        }
        given |= {
            name: _ranged(form[name], "volt", name) for name in ("supply_volts", "volts_per_turn")
        }
        plan = PLANNERS["rewind"](given)
        drawing = window(record.core if record else None, plan["turns"])
    except FieldError as problem:
        error = problem
    return _rewind_page(
        form, plan, error, drawing, record, source
    ), 200 if error is None or _part() else 422


def _rewind_page(form: Any, plan: Any, error: Any, drawing: Any, record: Any, source: Any) -> str:
    tags = repository().tags()[:200]
    return render_template(
        "rewind.html",
        form=form,
        plan=plan,
        error=error,
        drawing=drawing,
        record=record,
        source=source,
        tags=tags,
    )


@bp.get("/ballast")
def ballast() -> Any:
    """A series reactance that limits the current; recomputed from the address."""
    tag = request.args.get("piece", "")
    record = kept(tag).record if tag else None
    defaults = {
        "supply_volts": f"{record.supply.volts:g} ±2 %" if record else "230 ±2 %",
        "supply_hertz": f"{record.supply.hertz:g}" if record else "50",
        "limit_amps": "5",
        "source_resistance_ohms": "0",
        "source_reactance_ohms": "0",
        "ballast_resistance_ohms": "0",
    }
    note = ""
    if record is not None:
        defaults, note = _piece_impedance(record, defaults)
    form = {**defaults, **{k: v for k, v in request.args.items() if v.strip()}}
    plan, error, drawing = None, None, None
    try:
        given = {
            name: _ranged(form[name], unit, name)
            for name, unit in BALLAST.items()
            if name != "supply_hertz"
        }
        given["supply_hertz"] = parse_quantity(form["supply_hertz"], "hertz", field="supply_hertz")
        checked: BallastInput = PLANNERS["ballast"].check(given)
        plan, drawing = (
            PLANNERS["ballast"].run(checked),
            phasors(ballast_of(checked), given["supply_volts"]["value"]),
        )
    except FieldError as problem:
        error = problem
    status = 200 if error is None or _part() else 422
    return render_template(
        "ballast.html",
        form=form,
        plan=plan,
        error=error,
        drawing=drawing,
        record=record,
        note=note,
        tags=repository().tags()[:200],
    ), status


def _part() -> bool:
    return request.headers.get("X-Greyfell") == "part"


def _ranged(text: str, unit: str, field: str) -> dict[str, float]:
    """A figure with its limits, as the planners take it."""
    q = parse_uncertain(text, unit, field=field)
    return {"value": q.value, "low": q.low, "high": q.high}


def _rewind_start(tag: str) -> tuple[Transformer | None, Mapping[str, str], Quantity | None]:
    """Where the form starts: from a piece, its volts per turn with their range; from nothing, a
    round example.
    """
    if not tag:
        return (
            None,
            {"supply_volts": "230", "volts_per_turn": "0.86 ±0.02", "target_volts": "2.5"},
            None,
        )
    record = kept(tag).record
    source = identify(record).volts_per_turn
    volts = f"{source.value:.3g} ±{source.halfwidth:.2g}" if source else ""
    return (
        record,
        {"supply_volts": f"{record.supply.volts:g}", "volts_per_turn": volts, "target_volts": "12"},
        source,
    )


def _piece_impedance(record: Transformer, defaults: dict[str, str]) -> tuple[dict[str, str], str]:
    """The piece's own impedance from its last short-circuit test on record, else its primary's
    copper. REF-T-02.
    """
    for r in reversed(record.standing):
        if r.kind == "short_circuit":
            own = short_circuit_impedance(r.volts, r.amps, r.watts)
            told = (
                ""
                if own.measured
                else " (no watts were read: a quarter of it is taken for resistance, an assumption)"
            )
            spread = "±5 %" if own.measured else "±25 %"
            found = {
                "source_resistance_ohms": f"{own.ohms:.3g} {spread}",
                "source_reactance_ohms": f"{own.reactance_ohms:.3g} {spread}",
            }
            return {**defaults, **found}, f"From short-circuit test {r.id}{told}."
    ident = identify(record)
    primary = next((w for w in ident.windings if w.role == "primary" and not w.coil.broken), None)
    if primary is None:
        return defaults, "The piece's own impedance is not on record."
    ohms = primary.coil.ohms
    return {**defaults, "source_resistance_ohms": f"{ohms.value:.3g} ±{ohms.halfwidth:.2g}"}, (
        f"Only the primary's copper ({'–'.join(primary.coil.leads)}) is known. Its leakage "
        "reactance is not: a short-circuit test would give it. "
        "Left at zero, the ballast comes out larger than needed."
    )
