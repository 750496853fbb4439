"""A piece as a schematic, for its lid: windings either side of the core, taps, screens, dots of
like polarity, volts and amps, where the core is bonded.
"""

from collections.abc import Iterator, Sequence

from greyfell.core.belief.found import Winding
from greyfell.core.figures.notation import engineering, span
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.identification import Identification
from greyfell.core.telling.labels import Label, labels
from greyfell.core.telling.terminals import Terminals, terminals
from greyfell.core.telling.words import SURE_ENOUGH, role_words
from greyfell.web.drawings.marks import mark_of
from greyfell.web.drawings.shapes import Drawing, Shape, circle, line, path, text

WIDTH = 760.0
MIDDLE = WIDTH / 2
CORE_GAP, COIL_AT, RING_AT = 8.0, 44.0, 150.0
"""From the middle: the core's lines, the coils, the rings of the leads."""
TURN = 13.0
"""How high a drawn turn is; turns are not to count."""
LEAST_TURNS, ROW = 4, 34.0
SMALL = "t t-small quiet"
GAP, TOP, FOOT = 36.0, 48.0, 50.0


def _tall(windings: Sequence[Winding]) -> float:
    return sum(_height(w) + GAP for w in windings)


def schematic(ident: Identification) -> Drawing:
    """The schematic of a piece; a lead of no winding stands below by itself. Pure."""
    marked = terminals(ident)
    told = {label.lead: label for label in labels(ident, marked)}
    left, right = _sides(ident)
    room = max(_tall(left), _tall(right), 90.0)
    loose = _loose(ident)
    below = 30.0 if loose else 0.0
    tall = TOP + room + FOOT + below
    said = f"{len(ident.windings)} windings; turns are not counted. Not to scale."
    drawing = Drawing(WIDTH, tall, f"Schematic of {ident.tag}", said)
    drawing.add(text(16, 26, ident.tag, "t mono t-strong"))
    if marked.scheme != "own":
        drawing.add(text(WIDTH - 16, 26, marked.scheme, SMALL, "end"))
    foot = tall - FOOT - below
    _core(drawing, ident, foot)
    for side, windings in ((-1, left), (1, right)):
        y = TOP + (room - _tall(windings)) / 2
        for w in windings:
            _winding(drawing, ident, w, at=(side, y), marked=marked, told=told)
            y += _height(w) + GAP
    drawing.add(*_loose_rings(loose, tall))
    return drawing


def _loose_rings(loose: Sequence[str], tall: float) -> Iterator[Shape]:
    for k, lead in enumerate(loose):
        yield circle(40 + 44 * k, tall - 30, 13, "ring ring-loose")
        yield text(40 + 44 * k, tall - 25.5, lead, "t-ring", "middle")
    if loose:
        yield text(48 + 44 * len(loose), tall - 26, "belong to no winding yet", SMALL)


def _sides(ident: Identification) -> tuple[list[Winding], list[Winding]]:
    """What takes the mains at the left, the rest at the right from the highest volts down; one
    winding alone stands at the left.
    """
    left = [w for w in ident.windings if w.on_mains]
    right = [w for w in ident.windings if not w.on_mains]
    if not left and len(right) == 1:
        return right, []
    return left, sorted(right, key=lambda w: -(w.volts.value if w.volts is not None else 0.0))


def _points(w: Winding) -> list[tuple[str, float]]:
    """The points of a winding with their share along it, ends and taps; the core end among them."""
    first, last = w.coil.leads
    taps = sorted((t.fraction, t.lead) for t in w.taps)
    inner = [(lead, min(0.9, max(0.1, share))) for share, lead in taps]
    if w.coil.bond == "middle" and "core" not in dict(inner):
        inner.append(("core", 0.5))
    return [(first, 0.0), *sorted(inner, key=lambda x: x[1]), (last, 1.0)]


def _height(w: Winding) -> float:
    return max(LEAST_TURNS * TURN, (len(_points(w)) - 1) * ROW)


def _loose(ident: Identification) -> list[str]:
    wound = {x for w in ident.windings for x in (*w.coil.members, *w.coil.leads)}
    wound |= set(ident.topology.core_leads)
    return [lead.id for lead in ident.record.leads if lead.id not in wound][:12]


def _core(drawing: Drawing, ident: Identification, foot: float) -> None:
    """The core as two lines, its earth below, core leads at it."""
    for x in (MIDDLE - CORE_GAP, MIDDLE, MIDDLE + CORE_GAP):
        drawing.add(line(x, TOP - 8, x, foot, "schematic-core"))
    drawing.add(line(MIDDLE, foot, MIDDLE, foot + 12, "schematic-wire"))
    drawing.add(circle(MIDDLE, foot + 25, 13, "ring ring-core"))
    drawing.add(text(MIDDLE, foot + 29.5, "Fe", "t-ring on-copper", "middle"))
    leads = ident.topology.core_leads
    if leads:
        drawing.add(text(MIDDLE + 20, foot + 30, f"= {', '.join(leads)}", "t mono"))


def _winding(
    drawing: Drawing,
    ident: Identification,
    w: Winding,
    *,
    at: tuple[int, float],
    marked: Terminals,
    told: dict[str, Label],
) -> None:
    """One winding: its turns, its points, what it is and gives."""
    side, y = at
    tall = _height(w)
    coil, rings = MIDDLE + side * COIL_AT, MIDDLE + side * RING_AT
    look = "schematic-hv" if w.role == "hv-secondary" else "schematic-wire"
    if w.role == "screen":
        look = "schematic-screen"
    drawing.add(_turns(coil, y, tall, side, look))
    for point, share in _points(w):
        level = y + share * tall
        if point == "core":
            inward = MIDDLE + side * CORE_GAP
            drawing.add(line(coil, level, inward, level, "bond"))
            drawing.add(circle(inward, level, 4, "bond-dot"))
            continue
        drawing.add(line(coil, level, rings - side * 13, level, look))
        drawing.add(circle(rings, level, 13, "ring"))
        drawing.add(text(rings, level + 4.5, point, "t-ring", "middle"))
        mark = marked.marks.get(point, point)
        if mark != point:
            drawing.add(
                text(rings - side * 20, level - 4, mark, "t mono", "start" if side < 0 else "end")
            )
        if told.get(point) is not None and told[point].known == "guessed":
            drawing.add(text(rings, level - 16, "?", SMALL, "middle"))
    dotted = next((x for x, _ in _points(w) if x in marked.alike), None)
    if dotted is not None:
        share = dict(_points(w))[dotted]
        drawing.add(
            circle(
                coil + side * 14, y + share * tall + (8 if share < 0.5 else -8), 4, "schematic-dot"
            )
        )
    if w.coil.broken:
        middle = y + tall / 2
        drawing.add(path(f"M{coil - 9} {middle - 9}l18 18m0 -18l-18 18", "fault-cross"))
    _told(drawing, ident, w, at=(side, y + tall / 2), rings=rings)


def _turns(x: float, y: float, tall: float, side: int, look: str) -> Shape:
    """A row of half turns that bulge towards the core."""
    if look == "schematic-screen":
        return path(f"M{x} {y}v{tall}", look)
    n = max(LEAST_TURNS, round(tall / TURN))
    each = tall / n
    sweep = 1 if side < 0 else 0
    arcs = "".join(f"a{each / 2:.2f} {each / 2:.2f} 0 0 {sweep} 0 {each:.2f}" for _ in range(n))
    return path(f"M{x} {y}{arcs}", look)


def _volts_lines(volts: Quantity | None) -> Iterator[tuple[str, str]]:
    if volts is None:
        yield "volts not known", SMALL
        return
    mark = {"measured": "", "worked": "≈ ", "assumed": "assumed "}[mark_of(volts)]
    yield f"{mark}{engineering(volts.value, 'V')}", "t mono"
    if volts.low != volts.high:
        yield span(volts.low, volts.high, "V"), SMALL


def _told(
    drawing: Drawing, ident: Identification, w: Winding, *, at: tuple[int, float], rings: float
) -> None:
    """What a winding is, its volts with their range, its amps, its ohms."""
    side, middle = at
    x, anchor = rings + side * 22, "end" if side < 0 else "start"
    words = role_words(w.role, ident.family, ident.record.supply.volts)
    words = words if w.sure >= SURE_ENOUGH else f"perhaps {words}"
    rating = ident.belief.ratings.get(w.id)
    lines = [(words, "t t-strong"), *_volts_lines(w.volts)]
    if rating is not None:
        amps = rating.continuous
        lines.append((f"{span(amps.low, amps.high, 'A')} for good", SMALL))
    top = middle - (len(lines) - 1) * 8.5 + 4
    for k, (line_of_it, look) in enumerate(lines):
        drawing.add(text(x, top + 17 * k, line_of_it, look, anchor))
