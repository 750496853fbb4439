"""Rigs: the line from the wall to the work as a form over elements, solved while it is changed;
printed, and written as netlist, table and open format.
"""

import csv
import io
import json
import math
from collections.abc import Mapping, Sequence
from typing import Any

from flask import Response, redirect, request, url_for
from msgspec import Struct

from greyfell.core.chain.elements import (
    AHEAD,
    BEHIND,
    BONDS,
    KINDS,
    LOAD,
    MODEL,
    MOST_ELEMENTS,
    SAID,
    SUPPLY,
    ElementFigure,
    ElementKind,
    Rig,
    parse_rig,
)
from greyfell.core.chain.failing import Failed, failed
from greyfell.core.chain.refusing import planned, refuse
from greyfell.core.chain.solving import (
    WORST_REMANENCE,
    Solved,
    exported,
    in_time,
    switched_on,
)
from greyfell.core.chain.wind_up import WindUpStep, wind_up
from greyfell.core.dangers.of_row import spoken
from greyfell.core.dangers.rule import Danger
from greyfell.core.errors import FieldError
from greyfell.core.evidence.stores import Item
from greyfell.core.figures.notation import MEASURES, parse_quantity
from greyfell.core.judgement.outputs import models
from greyfell.core.network.timeline import STEPS
from greyfell.core.never import SAID as WORDS_SAID
from greyfell.web.asking import figure_within, typed_figure
from greyfell.web.drawings.rig import rig_drawing
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.drawings.waves import waves_drawing
from greyfell.web.showing import Page, Shown
from greyfell.web.stores import stores
from greyfell.web.support import enhanced, kept, own_args, own_query, whole

PREFIX = {AHEAD: "a", BEHIND: "b"}
STOCKED = ("lamp", "ballast", "capacitor", "resistor", "variac")
MOST_OFFERED = 12
NEVER = "rig"
"""The field of a refusal by the list of what is never planned."""
PIECE_WORDS = {"bond": BONDS[0], "tag": "", "family": ""}
"""What is said of a rig's piece besides its figures, and what it is where nobody says."""
DRAGGED = 200
"""Steps of a cycle while a figure is dragged; the whole page takes twice as many."""
EXAMPLE: dict[str, Any] = {
    "title": "",
    "supply": {"volts": 230.0, "hertz": 50.0, "ohms": 0.4, "breaker_amps": 16.0},
    "ahead": [{"kind": "lamp", "watts": 100.0, "volts": 230.0}],
    "piece": {
        "volts": 230.0,
        "hertz": 50.0,
        "ratio": 0.1,
        "primary_ohms": 8.0,
        "secondary_ohms": 0.09,
        "leakage_henries": 0.012,
        "idle_amps": 0.12,
        "core_watts": 6.0,
        "rated_volts": 21.0,
        "rated_amps": 6.0,
        "bond": "none",
    },
    "behind": [],
    "load": {"kind": "open"},
}
"""What stands in a rig that nobody has begun."""
USUAL: dict[str, dict[str, Any]] = {
    "lamp": {"watts": 100.0},
    "ballast": {"short_amps": 3.0, "at_volts": 230.0, "at_hertz": 50.0},
    "choke": {"henries": 0.1},
    "reactor": {"henries": 0.1},
    "capacitor": {"farads": 1e-6},
    "resistor": {"ohms": 1000.0},
    "variac": {"fraction": 1.0},
    "rectifier": {"rectifier": "half-wave"},
    "reservoir": {"farads": 1e-5},
    "bleeder": {"ohms": 1e6},
    "arc": {"volts": 100.0},
    "battery": {"volts": 12.0},
    "weld": {"ohms": 1e-3},
}
"""Figures that an element just put in begins with, to be changed."""


class Box(Struct, frozen=True, kw_only=True):
    """One figure of an element in the form."""

    name: str
    figure: ElementFigure
    text: str


class Slot(Struct, frozen=True, kw_only=True):
    """One place of the row in the form: its name, its kind where it has one, kinds that may stand
    there, its boxes.
    """

    name: str
    kind: ElementKind | None
    kinds: tuple[ElementKind, ...]
    title: str
    boxes: tuple[Box, ...]


class Told(Struct, frozen=True, kw_only=True):
    """A rig as an address tells it: the document, what is wrong with it, the rig, its solution."""

    document: Mapping[str, Any]
    error: FieldError | None = None
    rig: Rig | None = None
    solved: Solved | None = None


def edit() -> Any:
    """A rig as it is being made: its form, its drawing, what it says."""
    told = _told(request.args)
    page = RigPage(shown=_shown(told, complete=whole())).render()
    begun = told.rig is not None and "s.volts" not in request.args
    return (page, 200) if told.error is None or begun or enhanced() else (page, 422)


def sheet() -> Any:
    """A rig on paper: the row, every joint, what it says, every failure, the wind-up steps."""
    told = _told(request.args)
    if told.rig is None or told.solved is None:
        return edit()
    shown = _shown(told, complete=True)
    return RigSheetPage(shown=shown, steps=wind_up(told.rig)).render()


class RigSheetPage(Page, frozen=True, kw_only=True):
    """A rig on paper: the row, every joint, what it says, every failure, the wind-up steps."""

    template = "rig_sheet.html"
    shown: "RigShown"
    steps: list[WindUpStep]


def netlist() -> Response:
    """The rig as a netlist. Raises FieldError where it is none."""
    rig = rig_of(request.args)
    refuse(rig)
    return _file(exported(rig), "rig.cir", "text/plain")


def table() -> Response:
    """Every curve of one cycle as a table."""
    rig = rig_of(request.args)
    refuse(rig)
    solved = in_time(rig)
    run = solved.run
    assert run is not None
    out = io.StringIO()
    writer = csv.writer(out)
    joints = solved.built.joints
    writer.writerow(["s", *(f"V {j.name}" for j in joints), *(f"A {j.name}" for j in joints)])
    volts = [run.volts(j.hot, j.cold) for j in joints]
    amps = [run.amps(j.through) for j in joints]
    for n, t in enumerate(run.times):
        row = (t, *(v[n] for v in volts), *(a[n] for a in amps))
        writer.writerow([f"{x:.6g}" for x in row])
    return _file(out.getvalue(), "rig.csv", "text/csv")


def document() -> Response:
    """The rig in its open format."""
    text = json.dumps(rig_of(request.args).as_json(), ensure_ascii=False, indent=1)
    return _file(text, "rig.json", "application/json")


def _file(text: str, name: str, kind: str) -> Response:
    answer = Response(text, mimetype=kind)
    answer.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


def rig_of(args: Mapping[str, str]) -> Rig:
    """The rig that an address tells. Raises FieldError."""
    return parse_rig(_document(args))


def _told(args: Mapping[str, str]) -> Told:
    """What an address tells, solved where it can be."""
    document: Mapping[str, Any] = EXAMPLE
    try:
        document = _document(args)
        rig = parse_rig(document)
    except FieldError as error:
        return Told(document=document, error=error)
    try:
        steps = DRAGGED if enhanced() else STEPS
        return Told(document=document, rig=rig, solved=planned(rig, steps=steps))
    except FieldError as error:
        return Told(document=document, error=error, rig=rig)


def _document(args: Mapping[str, str]) -> dict[str, Any]:
    """The rig as an address tells it: a form's boxes, or a piece, or an example. Raises
    FieldError.
    """
    if "s.volts" not in args:
        return _begun(args)
    piece = _figures(MODEL, "p", args, "piece")
    return {
        "title": args.get("title", ""),
        "supply": _figures(SUPPLY.figures, "s", args, "supply"),
        AHEAD: _row(AHEAD, args),
        "piece": piece | {key: args.get(f"p.{key}", usual) for key, usual in PIECE_WORDS.items()},
        BEHIND: _row(BEHIND, args),
        "load": _element("l", args.get("l.kind", "open"), args, "load"),
        **_said(args),
    }


def _said(args: Mapping[str, str]) -> dict[str, bool]:
    """What is ticked of the rig as a whole."""
    return {key: True for key in SAID if args.get(f"r.{key}")}


def _begun(args: Mapping[str, str]) -> dict[str, Any]:
    """A rig around a piece of the shelf, or the example."""
    tag = args.get("piece", "")
    if not tag:
        return EXAMPLE
    piece = kept(tag)
    found = models(piece.ident)
    if not found:
        raise FieldError("piece", f"Nothing tells yet what {tag} puts out: no rig can be built.")
    model = next((m for m in found if m.winding.id == args.get("of")), found[0])
    supply = piece.record.supply
    wall: dict[str, Any] = {"volts": supply.volts, "hertz": supply.hertz}
    if supply.breaker_amps:
        wall["breaker_amps"] = supply.breaker_amps
    return {
        "title": f"{tag}, {model.winding.name}",
        "supply": wall,
        AHEAD: [],
        "piece": {**model.as_rig(), "tag": tag, "family": piece.ident.family},
        BEHIND: [],
        "load": {"kind": "open"},
        **_said(args),
    }


def _row(where: str, args: Mapping[str, str]) -> list[dict[str, Any]]:
    """Elements ahead of or behind the piece, those without a kind left out."""
    out: list[dict[str, Any]] = []
    for n in range(1, MOST_ELEMENTS + 1):
        name = f"{PREFIX[where]}{n}"
        kind = args.get(f"{name}.kind", "")
        if kind:
            out.append({**_element(name, kind, args, f"{where}.{len(out)}"), "id": name})
    return out


def _element(name: str, kind: str, args: Mapping[str, str], path: str) -> dict[str, Any]:
    known = KINDS.get(kind)
    figures = known.figures if known is not None else ()
    out = {"kind": kind, **_figures(figures, name, args, path)}
    if not any(f"{name}.{f.key}" in args for f in figures):
        out |= USUAL.get(kind, {})
    title = args.get(f"{name}.title", "").strip()
    return out | ({"title": title} if title else {})


def _figures(
    figures: Sequence[ElementFigure], name: str, args: Mapping[str, str], path: str
) -> dict[str, Any]:
    """What stands in the boxes of an element; an empty one is not given. Raises FieldError."""
    out: dict[str, Any] = {}
    for f in figures:
        text = args.get(f"{name}.{f.key}", "").strip()
        if not text:
            continue
        if f.choices:
            out[f.key] = text
            continue
        try:
            out[f.key] = parse_quantity(text, MEASURES[f.unit], field=f.label)
        except FieldError as error:
            raise FieldError(f"{path}.{f.key}", error.sentence) from None
    return out


class RigShown(Shown, frozen=True, kw_only=True):
    """Everything a rig shows, on its page and on paper."""

    told: Told
    said: dict[str, bool]
    said_words: dict[str, str]
    rig: Rig | None
    solved: Solved | None
    error: FieldError | None
    drawing: Drawing | None
    spoken: list[Danger]
    refused: list[Danger]
    failures: list[Failed] | None
    later: bool
    waves: Any
    meters: Solved | None
    supply_slot: Slot
    piece_boxes: list[Box]
    bonds: tuple[str, str, str]
    bond: str
    tag: str
    family: str
    ahead: list[Slot]
    behind: list[Slot]
    load: Slot
    offers: list[tuple[str, str]]
    switching: tuple[float, float]
    args: Mapping[str, str]
    query: str


class RigPage(Page, frozen=True, kw_only=True):
    """A rig as it is laid out."""

    template = "rig.html"
    shown: RigShown


def _shown(told: Told, *, complete: bool = False) -> RigShown:
    """Everything the page shows; single failures, waves and meters follow where it is not to be
    complete: they are solved in time.
    """
    said: list[Danger] = [] if told.solved is None else spoken(told.solved)
    solved = told.solved is not None and not told.error
    complete = complete and solved
    never = told.error is not None and told.error.field == NEVER and "s.volts" in request.args
    drawing = rig_drawing(told.rig, told.solved) if told.rig is not None and not never else None
    timed = _timed(told.rig) if complete and told.rig is not None else None
    piece = told.document.get("piece", {})
    return RigShown(
        told=told,
        said={key: bool(told.document.get(key)) for key in SAID},
        said_words=WORDS_SAID,
        rig=told.rig,
        solved=told.solved,
        error=told.error,
        drawing=drawing,
        spoken=said,
        refused=[s for s in said if s.severity == "stop"],
        failures=_failures(told.solved) if complete and told.solved is not None else None,
        later=solved and not complete,
        waves=None if timed is None else _waves(timed),
        meters=timed,
        supply_slot=_slot("s", SUPPLY, told.document.get("supply", {}), ()),
        piece_boxes=_boxes("p", MODEL, piece),
        bonds=BONDS,
        **{key: piece.get(key, usual) for key, usual in PIECE_WORDS.items()},
        ahead=_slots(AHEAD, told.document),
        behind=_slots(BEHIND, told.document),
        load=_slot("l", *_load(told.document), _kinds(LOAD)),
        offers=_offers(told.document),
        switching=switching(request.args),
        args=own_args(),
        query=own_query(),
    )


def _load(document: Mapping[str, Any]) -> tuple[ElementKind | None, Mapping[str, Any]]:
    given = document.get("load", {"kind": "open"})
    return KINDS.get(given.get("kind", "open")), given


def _kinds(where: str) -> tuple[ElementKind, ...]:
    return tuple(k for k in KINDS.values() if where in k.where)


def _slots(where: str, document: Mapping[str, Any]) -> list[Slot]:
    """Every element of a row, and an empty place behind them."""
    out = []
    for n, given in enumerate(document.get(where, []), 1):
        name = f"{PREFIX[where]}{n}"
        out.append(_slot(name, KINDS.get(given.get("kind", "")), given, _kinds(where)))
    if len(out) < MOST_ELEMENTS:
        name = f"{PREFIX[where]}{len(out) + 1}"
        out.append(_slot(name, None, {}, _kinds(where)))
    return out


def _slot(
    name: str, kind: ElementKind | None, given: Mapping[str, Any], kinds: tuple[ElementKind, ...]
) -> Slot:
    boxes = () if kind is None else _boxes(name, kind.figures, given)
    return Slot(
        name=name, kind=kind, kinds=kinds, title=str(given.get("title", "")), boxes=tuple(boxes)
    )


def _boxes(name: str, figures: Sequence[ElementFigure], given: Mapping[str, Any]) -> list[Box]:
    """A box for every figure, with what was typed or what it is."""
    out = []
    for f in figures:
        value = given.get(f.key)
        text = "" if value is None else value if isinstance(value, str) else typed_figure(value)
        typed = request.args.get(f"{name}.{f.key}")
        out.append(Box(name=f"{name}.{f.key}", figure=f, text=text if typed is None else typed))
    return out


def _offers(document: Mapping[str, Any]) -> list[tuple[str, str]]:
    """Entries of the stores that may stand ahead, each with the address that puts it there."""
    place = f"a{len(document.get(AHEAD, [])) + 1}"
    base = own_args() if "s.volts" in request.args else _flat(document)
    out = []
    for item in stores().of(STOCKED)[:MOST_OFFERED]:
        added = {f"{place}.{k}": v for k, v in _of_item(item).items()}
        given: dict[str, Any] = {**base, **added}
        out.append((item.title, url_for("rigs.edit", **given)))
    return out


def _of_item(item: Item) -> dict[str, str]:
    """An entry of the stores as an element's boxes."""
    kind = next(k for k in KINDS.values() if k.store == item.kind.key)
    out = {"kind": kind.key, "title": item.title}
    for f in kind.figures:
        value = item.figures.get(f.key)
        if isinstance(value, int | float):
            out[f.key] = typed_figure(float(value))
    if kind.key == "variac":
        out["fraction"] = "1"
    return out


def _flat(document: Mapping[str, Any]) -> dict[str, str]:
    """A rig's document as the boxes of its form."""
    out = {"title": str(document.get("title", ""))}

    def put(name: str, given: Mapping[str, Any]) -> None:
        for key, value in given.items():
            if key != "id":
                out[f"{name}.{key}"] = value if isinstance(value, str) else typed_figure(value)

    put("s", {k: v for k, v in document.get("supply", {}).items() if k not in ("kind", "title")})
    put("p", document.get("piece", {}))
    put("l", document.get("load", {}))
    out |= {f"r.{key}": "yes" for key in SAID if document.get(key)}
    for where, letter in PREFIX.items():
        for n, given in enumerate(document.get(where, []), 1):
            put(f"{letter}{n}", given)
    return out


def address_of(document: Mapping[str, Any]) -> str:
    """The address that shows a rig."""
    given: dict[str, Any] = {**_flat(document)}
    return url_for("rigs.edit", **given)


def _failures(solved: Solved) -> list[Failed]:
    """Every single failure, the gravest first."""
    return sorted(failed(solved), key=lambda f: not f.grave)


def _timed(rig: Rig) -> Solved | None:
    """The rig in time, as meters see it: iron's amps are no sine, and phasors do not know that.
    None where no steady state is found.
    """
    try:
        return in_time(rig)
    except FieldError:
        return None


def _waves(timed: Solved) -> Any:
    """Waves of one cycle and what happens at switching on; None where that has no end."""
    try:
        angle, remanence = switching(request.args)
        on = switched_on(timed.rig, angle=math.radians(angle), remanence=remanence)
        return waves_drawing(timed, on, told=f"at {angle:.0f}°, iron left at {remanence:.0%}")
    except FieldError:
        return None


def switching(args: Mapping[str, str]) -> tuple[float, float]:
    """Degrees after the zero crossing at which it is switched on, and what its iron was left with,
    as a share of its rated flux; the worst where nothing sensible is said.
    """
    degrees = figure_within(args.get("on.degrees", ""), 0.0, 0.0, 360.0)
    return degrees, figure_within(args.get("on.remanence", ""), WORST_REMANENCE, -1.0, 1.0)


def open_file() -> Any:
    """A rig's file, opened as its address."""
    given = request.files.get("file")
    try:
        text = "" if given is None else given.read(1 << 20).decode("utf-8-sig", "replace")
        found = parse_rig(json.loads(text or "{}"))
    except (json.JSONDecodeError, RecursionError):
        error = FieldError("file", "This is no JSON document of a rig.")
        return RigPage(shown=_shown(Told(document=EXAMPLE, error=error))).render(), 422
    except FieldError as error:
        return RigPage(shown=_shown(Told(document=EXAMPLE, error=error))).render(), 422
    return redirect(address_of(found.as_json()))
