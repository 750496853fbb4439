"""The iron: a piece drawn from the front as it lies on the bench, from what is known of it.

Shell cores show tongue and two windows with coils stacked in the order they sit; core-type (UI)
irons have a coil on each leg; toroids are rings; chokes have their gap. What is unknown floats
loose beside it. Not to scale.
"""

import math
from urllib.parse import quote

from greyfell.core.belief.found import Winding
from greyfell.core.evidence.record import Lead
from greyfell.core.families.registry import drawn_shape
from greyfell.core.figures.limits import LIVE_VOLTS
from greyfell.core.figures.notation import engineering, plus_minus, span
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.identification import Identification
from greyfell.core.steps.step import Step
from greyfell.core.telling.words import short_role
from greyfell.web.drawings.marks import colour_class, mark_of
from greyfell.web.drawings.shapes import (
    Drawing,
    Shape,
    circle,
    group,
    line,
    path,
    rect,
    spread,
    text,
)

WIDTH, HEIGHT = 560.0, 500.0
TOP, BOTTOM = 24.0, 436.0
RING = 14.0
PLACES = {
    "lower coil": 0,
    "inner coil": 0,
    "between coils": 1,
    "middle coil": 1,
    "coil": 1,
    "outer coil": 2,
    "outer coils": 2,
    "upper coil": 3,
}
ROLE_ORDER = {
    "primary": 0,
    "primary-half": 0,
    "choke": 0,
    "filament": 1,
    "bias": 1,
    "lv-secondary": 2,
    "hv-secondary": 3,
}
WIRES = {
    "hv-secondary": (17, 1.2),
    "primary": (9, 2.6),
    "primary-half": (9, 2.4),
    "choke": (9, 2.8),
    "filament": (2, 6.0),
    "bias": (11, 1.4),
    "lv-secondary": (5, 4.0),
}


Carries = tuple[tuple[str, float, float], ...]
"""Windings by id, and the volts from and to that they carry while a step drives another."""


def iron(ident: Identification, step: Step | None = None, *, meanwhile: bool = False) -> Drawing:
    """The drawing of one piece, with the next reading's two points marked; `meanwhile` draws the
    volts that stand while the step drives it, those that count as live in red, instead of those on
    the mains.
    """
    shape = (ident.record.core.shape if ident.record.core else None) or drawn_shape(ident.family)
    form = {"toroid": "ring", "core": "two legs", "c-core": "two legs"}.get(shape, "shell")
    words = (
        ", ".join(f"{w.role} {'–'.join(w.coil.leads)}" for w in ident.windings)
        or "no windings known yet"
    )
    drawing = Drawing(
        WIDTH, HEIGHT, f"The iron of {ident.record.tag}", f"{form} core; {words}. Not to scale."
    )
    boxes = {"ring": _ring, "two legs": _legs, "shell": _shell}[form](drawing, ident)
    wanted = {p for pair in step.leads.values() for p in pair} if step else set()
    carries = step.carries if step is not None and meanwhile else ()
    _leads(drawing, ident, boxes, wanted, carries)
    _core_ring(drawing, ident, boxes, "core" in wanted)
    _loose(drawing, ident, wanted)
    return drawing


def stacked(ident: Identification) -> list[Winding]:
    """Windings from the top of the stack to the bottom: by where they were seen, else as such
    pieces are usually built.
    """
    leads = {x.id: x for x in ident.record.leads}

    def height(w: Winding) -> tuple[float, float]:
        seen = [
            PLACES[p] for p in (leads[x].place for x in w.coil.members if x in leads) if p in PLACES
        ]
        return (
            sum(seen) / len(seen) if seen else ROLE_ORDER.get(w.role, 2),
            ROLE_ORDER.get(w.role, 2),
        )

    return sorted(ident.windings, key=height, reverse=True)


Box = tuple[float, float, float, float]


def _shell(drawing: Drawing, ident: Identification) -> dict[str, Box]:
    x, w = 150.0, 250.0
    unknown = not ident.windings
    drawing.add(rect(x, TOP, w, BOTTOM - TOP, "core core-unknown" if unknown else "core"))
    for i in range(3):
        for y in (TOP + 9 + 8 * i, BOTTOM - 9 - 8 * i):
            drawing.add(line(x, y, x + w, y, "lamination"))
    for wx in (x + 46, x + w - 46 - 46):
        drawing.add(rect(wx, TOP + 42, 46, BOTTOM - TOP - 84, "window"))
    return _stack(drawing, ident, stacked(ident), x + 36, w - 72, TOP + 48, BOTTOM - 48)


def _frame(drawing: Drawing, x: float, w: float, *, known: bool) -> None:
    drawing.add(rect(x, TOP, w, BOTTOM - TOP, "core" if known else "core core-unknown"))
    for i in range(3):
        for y in (TOP + 9 + 8 * i, BOTTOM - 9 - 8 * i):
            drawing.add(line(x, y, x + w, y, "lamination"))
    drawing.add(rect(x + 52, TOP + 42, w - 104, BOTTOM - TOP - 84, "window"))


def _legs(drawing: Drawing, ident: Identification) -> dict[str, Box]:
    x, w = 150.0, 250.0
    _frame(drawing, x, w, known=bool(ident.windings))
    order = stacked(ident)
    high = [v for v in order if v.role == "hv-secondary"] or order[: len(order) // 2]
    rest = [v for v in order if v not in high]
    boxes = _stack(drawing, ident, high, x - 16, 128, TOP + 60, BOTTOM - 60, shunts=False)
    boxes |= _stack(drawing, ident, rest, x + w - 112, 128, TOP + 60, BOTTOM - 60, shunts=False)
    if ident.record.core and ident.record.core.shunts == "present":
        y = (TOP + BOTTOM) / 2
        drawing.add(
            rect(x + 116, y - 13, 18, 26, "shunt"),
            text(x + w / 2, BOTTOM - 46, "shunt between", "t t-small on-window", "middle"),
        )
    return boxes


def _stack(
    drawing: Drawing,
    ident: Identification,
    order: list[Winding],
    x: float,
    w: float,
    top: float,
    bottom: float,
    *,
    shunts: bool = True,
) -> dict[str, Box]:
    """Coils in a column, heights by the logarithm of their ohms; shunts between them where they
    were seen.
    """
    boxes: dict[str, Box] = {}
    if not order:
        return boxes
    seen = ident.record.core.shunts if ident.record.core else None
    slot = 40.0 if shunts and seen in ("present", "removed") and len(order) > 1 else 0.0
    room = bottom - top - slot - 10.0 * (len(order) - 1)
    weight = [
        1.0 + 0.42 * math.log10(1 + max(v.coil.ohms.value, 0.02) / 0.02)
        if not v.coil.broken
        else 1.6
        for v in order
    ]
    weight = [0.75 + 0.25 * q if len(order) > 4 else q for q in weight]
    y = top
    for i, v in enumerate(order):
        h = room * weight[i] / sum(weight)
        _coil(drawing, ident, v, x, y, w, h)
        boxes[v.id] = (x, y, w, h)
        y += h + 10.0
        if slot and i == len(order) - 2:
            drawing.add(
                rect(x + 10, y - 4, 40, slot - 8, "shunt" if seen == "present" else "shunt-out")
            )
            drawing.add(
                rect(x + w - 50, y - 4, 40, slot - 8, "shunt" if seen == "present" else "shunt-out")
            )
            drawing.add(
                text(
                    x + w / 2,
                    y + slot / 2 - 4,
                    "shunts in" if seen == "present" else "shunts out",
                    "t t-small on-core",
                    "middle",
                )
            )
            y += slot
    return boxes


def _coil(
    drawing: Drawing,
    ident: Identification,
    v: Winding,
    x: float,
    y: float,
    w: float,
    h: float,
) -> None:
    sure = v.sure > 0.6
    drawing.add(rect(x, y, w, h, "coil" if sure else "coil coil-unsure"))
    n, thick = WIRES.get(v.role, (6, 2.0))
    n = max(2, min(n, int(h / (thick + 2))))
    for i in range(n):
        at = y + h * (i + 0.5) / n
        drawing.add(line(x + 3, at, x + w - 3, at, "wire", **{"stroke-width": thick}))
    _label(drawing, ident, v, x + w / 2, y + h / 2, w, h)
    stops = [f for f in ident.faults if f.severity == "stop" and set(v.coil.members) & set(f.leads)]
    if stops:
        c = x + w - 22
        drawing.add(path(f"M{c - 9} {y + 6}l18 18m0 -18l-18 18", "fault-cross"))


def _label(
    drawing: Drawing,
    ident: Identification,
    v: Winding,
    cx: float,
    cy: float,
    w: float,
    h: float,
) -> None:
    name = short_role(v, ident.family)
    ohms = (
        "open"
        if v.coil.broken
        else (
            plus_minus(v.coil.ohms, "Ω")
            if v.coil.resolved
            else f"under {engineering(v.coil.ohms.high, 'Ω', 2)}"
        )
    )
    two = h >= 40
    width = min(w - 12, 8.0 + 7.6 * max(len(name), len(ohms) if two else len(name)))
    drawing.add(rect(cx - width / 2, cy - (19 if two else 10), width, 38 if two else 20, "plate"))
    look = "t t-strong" if v.sure > 0.6 else "t t-assumed"
    drawing.add(text(cx, cy - (3 if two else -5), name, look, "middle"))
    if two:
        drawing.add(text(cx, cy + 13, ohms, "t mono", "middle"))


# ------------------------------------------------------------------ leads and their rings


def _side(v: Winding, boxes: dict[str, Box]) -> str:
    x, _, w, _ = boxes[v.id]
    middle = x + w / 2
    if middle < 220:
        return "left"
    if middle > 330:
        return "right"
    return "left" if v.role == "hv-secondary" else "right"


def _leads(
    drawing: Drawing,
    ident: Identification,
    boxes: dict[str, Box],
    wanted: set[str],
    carries: Carries,
) -> None:
    leads = {x.id: x for x in ident.record.leads}
    left: list[tuple[float, str, Winding]] = []
    right: list[tuple[float, str, Winding]] = []
    for v in ident.windings:
        _, y, _, h = boxes[v.id]
        along = [
            (0.0, v.coil.leads[0]),
            *((t.fraction, t.lead) for t in v.taps),
            (1.0, v.coil.leads[1]),
        ]
        names = [
            p for _, p in sorted(along) if p in leads and p not in ident.topology.core_leads
        ] or [p for _, p in along if p in leads]
        for i, name in enumerate(names):
            at = y + h * (i + 0.5) / len(names)
            (left if _side(v, boxes) == "left" else right).append((at, name, v))
    total_left, total_right = len(left), len(right)
    for side, items in (("left", left), ("right", right)):
        items.sort(key=lambda t: t[0])
        count = total_left if side == "left" else total_right
        places = spread([t[0] for t in items], 36.0 if count > 8 else 46.0, TOP + 14, BOTTOM - 8)
        for (at, name, v), y in zip(items, places, strict=True):
            _lead(drawing, leads[name], boxes[v.id], at, y, side, name in wanted)
    _volts(drawing, ident, left, right, carries)


def _lead(
    drawing: Drawing, lead: Lead, box: Box, at: float, y: float, side: str, wanted: bool
) -> None:
    x, _, w, _ = box
    start = x if side == "left" else x + w
    end = 66.0 if side == "left" else 452.0
    thick = 2.2 if lead.wire_mm is None else min(6.5, 1.6 + 1.8 * lead.wire_mm)
    middle = (start + end) / 2
    d = f"M{start:.1f} {at:.1f}C{middle:.1f} {at:.1f} {middle:.1f} {y:.1f} {end:.1f} {y:.1f}"
    drawing.add(path(d, "lead-edge", **{"stroke-width": thick + 1.6}))
    drawing.add(path(d, f"lead {colour_class(lead.colour)}", **{"stroke-width": thick}))
    if lead.stripe:
        drawing.add(
            path(
                d,
                f"lead lead-stripe {colour_class(lead.stripe)}",
                **{"stroke-width": max(1.0, thick * 0.35)},
            )
        )
    drawing.add(_ring_shape(end, y, lead, wanted))


def _ring_shape(x: float, y: float, lead: Lead, wanted: bool) -> Shape:
    seen = ", ".join(
        s
        for s in (
            lead.colour,
            f"stripe {lead.stripe}" if lead.stripe else None,
            lead.end,
            f"{lead.wire_mm:g} mm" if lead.wire_mm else None,
        )
        if s
    )
    parts = [
        circle(x, y, RING, "ring ring-wanted" if wanted else "ring"),
        text(
            x,
            y + 4.5,
            lead.id,
            "t t-ring" if len(lead.id) < 3 else "t t-ring t-ring-long",
            "middle",
        ),
    ]
    return group(
        "pick",
        *parts,
        link=f"?pick={quote(lead.id)}",
        label=f"{lead.id}, lead{', ' + seen if seen else ''}",
        lead=lead.id,
    )


def _heights(items: list[tuple[float, str, Winding]]) -> dict[str, list[float]]:
    # where the rings of each winding stand on one side
    apart = 36.0 if len(items) > 8 else 46.0
    places = spread([t[0] for t in items], apart, TOP + 14, BOTTOM - 8)
    by: dict[str, list[float]] = {}
    for (_, _, v), y in zip(items, places, strict=True):
        by.setdefault(v.id, []).append(y)
    return by


def _volts(
    drawing: Drawing,
    ident: Identification,
    left: list[tuple[float, str, Winding]],
    right: list[tuple[float, str, Winding]],
    carries: Carries,
) -> None:
    """Volts beside the rings of each winding, with their evidence mark and range; or what it
    carries while a step drives another.
    """
    meanwhile = {name: (low, high) for name, low, high in carries}
    for side, items in (("left", left), ("right", right)):
        by = _heights(items)
        for v in ident.windings:
            ys = by.get(v.id)
            if ys is None or v.volts is None:
                continue
            x = 474.0 if side == "right" else 4.0
            y = (min(ys) + max(ys)) / 2 - 4 if side == "right" else min(ys) - RING - 24
            if v.id in meanwhile:
                _meanwhile_text(drawing, *meanwhile[v.id], (x, max(y, 18.0)))
            elif not meanwhile:
                _volts_text(drawing, v.volts, x, max(y, 18.0))
            if side == "right" and len(ys) > 1:
                drawing.add(path(f"M{x - 6} {min(ys)}h4v{max(ys) - min(ys)}h-4", "bracket"))


def _meanwhile_text(drawing: Drawing, low: float, high: float, at: tuple[float, float]) -> None:
    """Volts of a winding that is not driven, live ones in red."""
    live = high > LIVE_VOLTS
    look = "t t-small stop" if live else "t t-small quiet"
    drawing.add(text(*at, span(low, high, "V"), look))
    drawing.add(text(at[0], at[1] + 17, "live" if live else "meanwhile", look))


def _volts_text(drawing: Drawing, volts: Quantity, x: float, y: float) -> None:
    mark = mark_of(volts)
    shown = engineering(volts.value, "V")
    drawing.add(text(x, y, shown, f"t mono volts volts-{mark}"))
    drawing.add(line(x, y + 5, x + 8.2 * len(shown), y + 5, f"underline underline-{mark}"))
    if volts.low != volts.high:
        drawing.add(text(x, y + 19, span(volts.low, volts.high, "V"), "t t-small quiet"))


def _core_ring(
    drawing: Drawing,
    ident: Identification,
    boxes: dict[str, Box],
    wanted: bool,
) -> None:
    for v in ident.windings:
        if v.coil.bond is None:
            continue
        x, y, w, h = boxes[v.id]
        at = y + h * (0.5 if v.coil.bond == "middle" else 0.82)
        fault = any(
            f.code == "shorted-to-core" and set(v.coil.members) & set(f.leads) for f in ident.faults
        )
        near = x if x + w / 2 < 330 else x + w
        out = near - 20 if near == x else near + 20
        drawing.add(
            path(f"M{near} {at - 12}C{out} {at - 12} {out} {at} {out} {at + 6}", "bond"),
            circle(out, at + 8, 5, "bond-dot"),
        )
        words = (
            "short to core" if fault else ("bonded mid" if v.coil.bond == "middle" else "bonded")
        )
        anchor, tx = ("end", min(out - 10, 140)) if near == x else ("start", max(out + 10, 410))
        drawing.add(
            text(tx, at + 8, words, "t t-small stop", anchor),
            text(tx, at + 23, "to the core" if not fault else "stop", "t t-small stop", anchor),
        )
    _shorts(drawing, ident, boxes)
    names = ", ".join(ident.topology.core_leads)
    parts = [
        circle(150, BOTTOM, RING + 1, "ring ring-core ring-wanted" if wanted else "ring ring-core"),
        text(150, BOTTOM + 4.5, "Fe", "t t-ring on-copper", "middle"),
    ]
    drawing.add(group("pick", *parts, link="?pick=core", label="Fe, the core", lead="core"))
    if names:
        drawing.add(text(172, BOTTOM + 18, f"= {names}", "t t-small"))


def _shorts(drawing: Drawing, ident: Identification, boxes: dict[str, Box]) -> None:
    """A winding that touches the core where it should not: a red jag from its coil to the iron."""
    for v in ident.windings:
        short = any(
            f.code in ("shorted-to-core", "insulation-low")
            and "core" in f.leads
            and set(v.coil.members) & set(f.leads)
            for f in ident.faults
        )
        if not short or v.coil.bond is not None:
            continue
        x, y, w, h = boxes[v.id]
        right = x + w / 2 > 330
        edge = x
        at = y + h - 14
        drawing.add(path(f"M{edge + 16} {at}l{-8} -8l{-6} 12l{-8} -10l{-8} 8", "fault-cross"))
        drawing.add(
            text(
                408 if right else 144,
                at + 5,
                "to the core",
                "t t-small stop",
                "start" if right else "end",
            )
        )


def _loose(drawing: Drawing, ident: Identification, wanted: set[str]) -> None:
    """Leads not yet placed float under the iron; leads that are the core stand by its ring."""
    placed = {x for v in ident.windings for x in v.coil.members}
    floating = [
        x
        for x in ident.record.leads
        if x.id not in placed and x.id not in ident.topology.core_leads
    ]
    for i, lead in enumerate(floating[:11]):
        x = 200.0 + 31.0 * i
        drawing.add(
            path(
                f"M{x} {BOTTOM + 30}v-12",
                f"lead {colour_class(lead.colour)}",
                **{"stroke-width": 3},
            )
        )
        drawing.add(_ring_shape(x, BOTTOM + 42, lead, lead.id in wanted))
    if floating:
        loose = set(ident.topology.loose)
        words = "conduct to nothing" if all(x.id in loose for x in floating) else "not yet placed"
        drawing.add(text(178, BOTTOM + 47, words, "t t-small t-assumed", "end"))


# ------------------------------------------------------------------ the ring


def _ring(drawing: Drawing, ident: Identification) -> dict[str, Box]:
    """A toroid: a sector of the ring per winding; boxes stand where its leads come out."""
    cx, cy, outer, inner = 268.0, 228.0, 128.0, 56.0
    drawing.add(
        circle(cx, cy, outer + 14, "core core-unknown" if not ident.windings else "core"),
        circle(cx, cy, inner - 10, "window"),
    )
    boxes: dict[str, Box] = {}
    order = stacked(ident)
    n = max(1, len(order))
    for i, v in enumerate(order):
        start, end = 2 * math.pi * i / n - math.pi / 2, 2 * math.pi * (i + 1) / n - math.pi / 2
        if n == 1:
            start, end = -math.pi / 2 + 0.12, 1.5 * math.pi - 0.12
        drawing.add(
            path(
                _sector(cx, cy, inner, outer, start + 0.03, end - 0.03),
                "coil" if v.sure > 0.6 else "coil coil-unsure",
            )
        )
        turns, thick = WIRES.get(v.role, (6, 2.0))
        count = max(6, int(turns * 4.5 / n))
        for k in range(count):
            a = start + 0.06 + (end - start - 0.12) * (k + 0.5) / count
            drawing.add(
                line(
                    cx + inner * math.cos(a),
                    cy + inner * math.sin(a),
                    cx + outer * math.cos(a),
                    cy + outer * math.sin(a),
                    "wire",
                    **{"stroke-width": thick},
                )
            )
        a = (start + end) / 2 if n > 1 else 0.0
        lx, ly = cx + (inner + outer) / 2 * math.cos(a), cy + (inner + outer) / 2 * math.sin(a)
        if n == 1:
            lx, ly = cx, cy
        _label(drawing, ident, v, lx, ly, 118, 44)
        right = math.cos(a) >= -1e-9
        ey = (
            ly - 36 if math.sin(a) < -0.1 else ly + 8 if math.sin(a) > 0.6 else ly + 36
        )  # clear of the label
        ex = math.sqrt(max(0.0, outer**2 - (ey - cy) ** 2))
        boxes[v.id] = (
            (cx, ey - 18, max(ex, 34.0), 36) if right else (cx - max(ex, 34.0), ey - 18, 40, 36)
        )
        if n == 1:
            boxes[v.id] = (cx, cy - 100, outer - 6, 200)
        if any(f.severity == "stop" and set(v.coil.members) & set(f.leads) for f in ident.faults):
            drawing.add(path(f"M{lx + 46} {ly - 30}l18 18m0 -18l-18 18", "fault-cross"))
    return boxes


def _sector(cx: float, cy: float, inner: float, outer: float, start: float, end: float) -> str:
    """A sector of a ring as a path."""
    large = 1 if end - start > math.pi else 0

    def at(r: float, a: float) -> str:
        return f"{cx + r * math.cos(a):.1f} {cy + r * math.sin(a):.1f}"

    return (
        f"M{at(outer, start)}A{outer} {outer} 0 {large} 1 "
        f"{at(outer, end)}L{at(inner, end)}A{inner} {inner} 0 {large} 0 {at(inner, start)}Z"
    )
