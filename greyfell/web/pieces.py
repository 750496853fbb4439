"""One piece from salvage to record: the iron in sight, the station being worked, the jotter
below.
"""

from typing import Any

from flask import Blueprint, jsonify, redirect, render_template, request, url_for

from greyfell.core.advice import GATE_SENTENCE, next_steps
from greyfell.core.audit import audit
from greyfell.core.bands import bands
from greyfell.core.errors import FieldError
from greyfell.core.explain import why as explain
from greyfell.core.gates import live_gate
from greyfell.core.identify import identify, weigh_evidence
from greyfell.core.jotter import EXAMPLES, read_line
from greyfell.core.metering import meter_rules
from greyfell.core.present import present
from greyfell.core.screening import screening_gaps
from greyfell.web.drawings.bands import band_marks
from greyfell.web.drawings.hookup import hookup
from greyfell.web.drawings.iron import iron
from greyfell.web.drawings.ridge import STATIONS, ridge
from greyfell.web.support import enhanced, kept, optional, repository

bp = Blueprint("pieces", __name__, url_prefix="/pieces/<tag>")

OPEN_STATIONS = ("salvage", "clues", "cold", "low", "power", "record")
SHAPES, SHUNTS, ASSEMBLIES = (
    ("shell", "core", "toroid", "c-core"),
    ("present", "absent", "removed", "unknown"),
    ("welded", "interleaved", "banded", "potted"),
)
CORE_FIGURES = (
    "tongue_mm",
    "stack_mm",
    "window_width_mm",
    "window_height_mm",
    "outer_mm",
    "inner_mm",
    "height_mm",
    "mass_kg",
)


@bp.get("/")
def show(tag: str) -> Any:
    """The piece at one of its stations."""
    return _page(tag, request.args.get("at", "cold"))


@bp.get("/why")
def why(tag: str) -> Any:
    """Every clue with its weight."""
    piece = kept(tag)
    ident = identify(piece.record)
    return render_template(
        "why.html", piece=piece, ident=ident, weights=weigh_evidence(piece.record, ident)
    )


@bp.get("/understand")
def understand(tag: str) -> Any:
    """What the jotter makes of a line, before it is stored."""
    piece = kept(tag)
    try:
        jotted = read_line(
            request.args.get("line", "")[:300],
            [x.id for x in piece.record.leads],
            piece.record.supply.volts,
        )
    except FieldError as error:
        return jsonify(understood=False, words=error.sentence)
    return jsonify(understood=True, words=jotted.words)


@bp.post("/jot")
def jot(tag: str) -> Any:
    """Store what a line says: a reading appended, or one struck out."""
    line, at = request.form.get("line", "")[:300], request.form.get("at", "cold")
    piece = kept(tag)
    try:
        jotted = read_line(line, [x.id for x in piece.record.leads], piece.record.supply.volts)
        if jotted.strike is not None:
            repository().strike(tag, *jotted.strike)
        elif jotted.reading is not None:
            meter = request.form.get("meter") or None
            repository().append(tag, [{**_plain(jotted.reading), "meter": meter}])
    except FieldError as error:
        return _page(tag, at, line=line, problem=error.sentence, status=200 if enhanced() else 422)
    if enhanced():
        return _page(tag, at, stored=jotted.words)
    return redirect(url_for(".show", tag=tag, at=at))


@bp.post("/strike/<reading>")
def strike(tag: str, reading: str) -> Any:
    """Strike a reading out from its row."""
    try:
        repository().strike(tag, reading, request.form.get("reason", ""))
    except FieldError as error:
        return _page(tag, "record", problem=error.sentence, status=422)
    return redirect(url_for(".show", tag=tag, at="record"))


@bp.post("/vouch")
def vouch(tag: str) -> Any:
    """Keep what somebody vouches for."""
    text = request.form.get("text", "").strip()
    if not text:
        return _page(
            tag,
            "salvage",
            problem="Say what was done and measured, in a few words; nothing was given.",
            status=422,
        )
    kind = "done-elsewhere" if request.form.get("kind") == "done-elsewhere" else "salvage-done"
    statement = {
        "kind": kind,
        "concerns": "capacitor",
        "text": text[:4000],
        "by": request.form.get("by", "")[:200],
    }
    repository().append_statement(tag, statement)
    return redirect(url_for(".show", tag=tag, at="salvage"))


@bp.post("/clues")
def clues(tag: str) -> Any:
    """Correct what can be seen: title, supply, leads, core, plate. Corrections are kept."""
    form = request.form
    try:
        version = form.get("version", 0, type=int)
        repository().correct(tag, _seen(kept(tag).document, form), version)
    except FieldError as error:
        return _page(tag, "clues", problem=error.sentence, form=form, status=422)
    return redirect(url_for(".show", tag=tag, at="clues"))


def _plain(reading: dict[str, Any]) -> dict[str, Any]:
    return {k: list(v) if isinstance(v, tuple) else v for k, v in reading.items()}


def _seen(document: dict[str, Any], form: Any) -> dict[str, Any]:
    """What the clues form says, as changes to the record. Unknown keys of the record stay. Raises
    FieldError.
    """
    changes: dict[str, Any] = {
        "title": form.get("title", "").strip(),
        "declared_family": form.get("declared_family") or None,
    }
    supply = {**(document.get("supply") or {})}
    for name, unit in (("volts", "volt"), ("hertz", "hertz")):
        value = optional(form, f"supply_{name}", unit)
        if value is not None:
            supply[name] = value
    changes["supply"] = supply
    leads = []
    for lead in document["leads"]:
        ident = lead["id"]
        new = {**lead}
        for name in ("colour", "stripe", "end", "place", "twisted_with"):
            given = form.get(f"lead_{ident}_{name}")
            if given is not None:
                new[name] = given.strip() or None
        wire = optional(form, f"lead_{ident}_wire_mm", "millimetre")
        if f"lead_{ident}_wire_mm" in form:
            new["wire_mm"] = wire
        leads.append({k: v for k, v in new.items() if v is not None or k in lead})
    extra = [x for x in form.get("more_leads", "").replace(",", " ").split() if x]
    changes["leads"] = leads + [{"id": x} for x in extra]
    core = {**(document.get("core") or {})}
    for name, choices in (("shape", SHAPES), ("shunts", SHUNTS), ("assembly", ASSEMBLIES)):
        given = form.get(f"core_{name}", "")
        core[name] = given if given in choices else None
    for name in CORE_FIGURES:
        if f"core_{name}" in form:
            core[name] = (
                optional(form, f"core_{name}", "millimetre")
                if name != "mass_kg"
                else _kilograms(form)
            )
    changes["core"] = {k: v for k, v in core.items() if v is not None} or None
    plate = {**(document.get("nameplate") or {})}
    for name, field, unit in (
        ("primary_volts", "plate_primary_volts", "volt"),
        ("secondary_volts", "plate_secondary_volts", "volt"),
        ("va", "plate_va", "watt"),
    ):
        if field in form:
            plate[name] = optional(form, field, unit)
    plate = {k: v for k, v in plate.items() if v is not None}
    if plate or document.get("nameplate"):
        changes["nameplate"] = plate or None
    return {k: v for k, v in changes.items() if not (v is None and document.get(k) is None)}


def _kilograms(form: Any) -> float | None:
    text = (form.get("core_mass_kg") or "").strip().removesuffix("kg").strip().replace(",", ".")
    if not text:
        return None
    try:
        return float(text)
    except ValueError:
        raise FieldError(
            "core mass", f"Mass must be a number of kilograms; “{text[:40]}” was given."
        ) from None


def _page(
    tag: str,
    at: str,
    *,
    line: str = "",
    problem: str = "",
    stored: str = "",
    form: Any = None,
    status: int = 200,
) -> Any:
    piece = kept(tag)
    record = piece.record
    ident = identify(record)
    now = present(record)
    at = at if at in OPEN_STATIONS else "cold"
    steps = next_steps(now, ident)
    picked = [
        p
        for p in request.args.get("pick", "").split("-")
        if p in {*(x.id for x in record.leads), "core"}
    ][:2]
    if picked and not line:
        line = "-".join(picked) + (" " if len(picked) == 2 else "-")
    found = bands(now, ident)
    page = render_template(
        "piece.html",
        piece=piece,
        record=record,
        ident=ident,
        at=at,
        stations=STATIONS,
        open_stations=OPEN_STATIONS,
        ridge=ridge(record, ident, at, gate_open=live_gate(now, ident).open),
        iron=iron(record, ident, steps[0]),
        steps=steps,
        hookup=hookup(steps[0]),
        bands=[(b, band_marks(b)) for b in found],
        meters=meter_rules(now, ident),
        gate=live_gate(now, ident),
        gate_sentence=GATE_SENTENCE,
        findings=audit(record, ident),
        whys={w.id: explain(now, ident, ["winding", w.id, "volts"]) for w in ident.windings},
        per_turn=explain(now, ident, ["volts-per-turn"]),
        gaps=screening_gaps(now, ident.topology, ident.windings),
        line=line,
        problem=problem,
        stored=stored,
        picked=picked,
        examples=EXAMPLES,
        form=form,
        core_figures=CORE_FIGURES,
        shapes=SHAPES,
        shunts=SHUNTS,
        assemblies=ASSEMBLIES,
    )
    return page, status
