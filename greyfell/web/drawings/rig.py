"""A rig as one line from the wall to the work: every element by its kind, the volts, amps and watts
at every joint; what is lethal in red.
"""

import math
from collections.abc import Callable, Iterator, Mapping

from greyfell.core.chain.elements import Element, Rig
from greyfell.core.chain.solving import At, Solved
from greyfell.core.figures.limits import MAINS_RISE
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.touch import hazard_class
from greyfell.web.drawings.shapes import Drawing, Shape, circle, line, path, rect, text

STEP, FIRST = 128.0, 74.0
LINE_Y, RETURN_Y, HEIGHT = 118.0, 200.0, 296.0
SMALL = "t t-small"
HOW = {"phasors": ", solved by phasors", "time": ", solved in time"}
HALF = 26.0


def _behind(drawing: Drawing, rig: Rig, x: float, by: Mapping[str, At]) -> float:
    # what stands behind the piece, from x on; where the last of it stands
    for e in rig.behind:
        x += STEP
        if e.kind.key in ("reservoir", "bleeder"):
            _across(drawing, e, x)
        else:
            _series(drawing, e, x)
            _figures(drawing, x + STEP / 2, by.get(e.id))
    return x


def rig_drawing(rig: Rig, solved: Solved | None) -> Drawing:
    """The row. Without a solution its joints stay empty. Pure."""
    count = len(rig.ahead) + len(rig.behind) + 3
    width = FIRST + STEP * count + 10
    title = rig.title or "A rig"
    drawing = Drawing(width, HEIGHT, title, "From the wall to the work; not to scale.")
    by = {} if solved is None else {a.joint.after: a for a in solved.joints}
    x = FIRST
    _supply(drawing, rig, x, by.get("supply"))
    for e in rig.ahead:
        x += STEP
        _series(drawing, e, x)
        _figures(drawing, x + STEP / 2, by.get(e.id))
    x += STEP
    _piece(drawing, rig, x)
    _figures(drawing, x + STEP / 2, by.get("piece"))
    x = _behind(drawing, rig, x, by) + STEP
    drawing.add(line(FIRST, RETURN_Y, x, RETURN_Y, "rig-wire"))
    _load(drawing, rig.load, x)
    how = "" if solved is None else HOW[solved.by]
    said = f"volts, amps and watts at every joint{how}; red is lethal to touch"
    drawing.add(text(16, HEIGHT - 8, said, f"{SMALL} quiet"))
    return drawing


def _wires(drawing: Drawing, x: float, half: float = HALF) -> None:
    """The line on both sides of an element."""
    drawing.add(line(x - STEP / 2, LINE_Y, x - half, LINE_Y, "rig-wire"))
    drawing.add(line(x + half, LINE_Y, x + STEP / 2, LINE_Y, "rig-wire"))


def _figures(drawing: Drawing, x: float, at: At | None) -> None:
    """What stands at a joint: a dot and three figures above it."""
    if at is None:
        return
    volts = max(at.volts, at.peak_volts / math.sqrt(2))
    lethal = hazard_class(MAINS_RISE * volts, None).startswith("lethal")
    drawing.add(circle(x, LINE_Y, 4, "joint joint-lethal" if lethal else "joint"))
    shown = (
        (engineering(at.volts, "V"), "stop" if lethal else ""),
        (engineering(at.amps, "A"), ""),
        (engineering(at.watts, "W"), ""),
    )
    for n, (words, look) in enumerate(shown):
        drawing.add(text(x, 42 + 17 * n, words, f"{SMALL} mono {look}".strip(), "middle"))


def _named(drawing: Drawing, x: float, words: str, below: str, y: float = 226.0) -> None:
    short = words if len(words) <= 15 else words[:14] + "…"
    drawing.add(text(x, y, short, f"{SMALL} t-strong", "middle"))
    drawing.add(text(x, y + 16, below, f"{SMALL} mono quiet", "middle"))


def _supply(drawing: Drawing, rig: Rig, x: float, at: At | None) -> None:
    s = rig.supply
    drawing.add(line(x, LINE_Y, x, 142, "rig-wire"), line(x, 178, x, RETURN_Y, "rig-wire"))
    drawing.add(circle(x, 160, 18, "box"), path(f"M{x - 9} 160q4.5 -12 9 0t9 0", "rig-wire"))
    drawing.add(line(x, LINE_Y, x + STEP / 2, LINE_Y, "rig-wire"))
    _figures(drawing, x + STEP / 2, at)
    breaker = s.get("breaker_amps")
    guard = f"breaker {engineering(breaker, 'A', 2)}" if breaker else "no breaker told"
    said = f"{engineering(s.told('volts'), 'V')} {engineering(s.told('hertz'), 'Hz', 2)}"
    _named(drawing, x, said, guard)


def _lead(e: Element) -> str:
    """The figure that names an element."""
    keys = (
        ("watts", "W"),
        ("short_amps", "A"),
        ("henries", "H"),
        ("farads", "F"),
        ("ohms", "Ω"),
        ("volts", "V"),
    )
    for key, unit in keys:
        value = e.get(key)
        if value is not None and e.kind.figure(key) is not None:
            return engineering(value, unit)
    if e.kind.key == "variac":
        return f"{e.told('fraction'):.0%} of the line"
    return str(e.figures.get("rectifier", ""))


def _series(drawing: Drawing, e: Element, x: float) -> None:
    _wires(drawing, x)
    drawing.add(*SYMBOLS[e.kind.key](x))
    _named(drawing, x, e.name, _lead(e))


def _lamp(x: float) -> list[Shape]:
    cross = f"M{x - 12} {LINE_Y - 12}l24 24m0 -24l-24 24"
    wires = [
        line(x - HALF, LINE_Y, x - 17, LINE_Y, "rig-wire"),
        line(x + 17, LINE_Y, x + HALF, LINE_Y, "rig-wire"),
    ]
    return [circle(x, LINE_Y, 17, "box"), path(cross, "rig-wire"), *wires]


def _coil(x: float) -> list[Shape]:
    return [path(f"M{x - HALF:g} {LINE_Y:g}" + "a6.5 6.5 0 0 1 13 0" * 4, "coil-turns")]


def _ballast(x: float) -> list[Shape]:
    return [*_coil(x), line(x - HALF, LINE_Y - 13, x + HALF, LINE_Y - 13, "lamination")]


def _reactor(x: float) -> list[Shape]:
    return [*_ballast(x), path(f"M{x - 22:g} {LINE_Y + 16:g}l44 -36m-9 1l9 -1l-2 9", "rig-wire")]


def _capacitor(x: float) -> list[Shape]:
    return [
        line(x - HALF, LINE_Y, x - 5, LINE_Y, "rig-wire"),
        line(x + 5, LINE_Y, x + HALF, LINE_Y, "rig-wire"),
        line(x - 5, LINE_Y - 15, x - 5, LINE_Y + 15, "rig-wire"),
        line(x + 5, LINE_Y - 15, x + 5, LINE_Y + 15, "rig-wire"),
    ]


def _resistor(x: float) -> list[Shape]:
    return [rect(x - HALF, LINE_Y - 9, 2 * HALF, 18, "box")]


def _variac(x: float) -> list[Shape]:
    arrow = f"M{x:g} {LINE_Y - 26:g}v18m-5 -7l5 7l5 -7"
    return [*_coil(x), path(arrow, "rig-wire"), line(x, LINE_Y, x, RETURN_Y, "rig-wire rig-faint")]


def _rectifier(x: float) -> list[Shape]:
    body = f"M{x - 13:g} {LINE_Y - 14:g}v28l26 -14z"
    return [
        line(x - HALF, LINE_Y, x - 13, LINE_Y, "rig-wire"),
        path(body, "box"),
        line(x + 13, LINE_Y - 14, x + 13, LINE_Y + 14, "rig-wire"),
        line(x + 13, LINE_Y, x + HALF, LINE_Y, "rig-wire"),
    ]


SYMBOLS: dict[str, Callable[[float], list[Shape]]] = {
    "lamp": _lamp,
    "ballast": _ballast,
    "choke": _ballast,
    "reactor": _reactor,
    "capacitor": _capacitor,
    "resistor": _resistor,
    "variac": _variac,
    "rectifier": _rectifier,
}
"""The symbol of each kind in the row."""


def _piece(drawing: Drawing, rig: Rig, x: float) -> None:
    m = rig.piece
    drawing.add(line(x - STEP / 2, LINE_Y, x - 20, LINE_Y, "rig-wire"))
    drawing.add(line(x + 20, LINE_Y, x + STEP / 2, LINE_Y, "rig-wire"))
    for side in (-20.0, 20.0):
        turn = "a8 8 0 0 1 0 16" if side < 0 else "a8 8 0 0 0 0 16"
        drawing.add(path(f"M{x + side:g} {LINE_Y:g}" + turn * 5, "coil-turns"))
        drawing.add(line(x + side, LINE_Y + 80, x + side, RETURN_Y, "rig-wire"))
    for dx in (-4.0, 4.0):
        drawing.add(line(x + dx, LINE_Y - 4, x + dx, LINE_Y + 84, "lamination"))
    bond = {"none": "floats", "middle": "middle on core", "end": "end on core"}[m.bond]
    ratio = engineering(m.get("ratio"), "", 3).strip()
    _named(drawing, x, m.tag or "the piece", f"1 : {ratio}")
    drawing.add(text(x, 258, bond, f"{SMALL} quiet", "middle"))


def _across(drawing: Drawing, e: Element, x: float) -> None:
    drawing.add(line(x - STEP / 2, LINE_Y, x + STEP / 2, LINE_Y, "rig-wire"))
    if e.kind.key == "reservoir":
        drawing.add(line(x, LINE_Y, x, 153, "rig-wire"), line(x, 163, x, RETURN_Y, "rig-wire"))
        drawing.add(
            line(x - 15, 153, x + 15, 153, "rig-wire"), line(x - 15, 163, x + 15, 163, "rig-wire")
        )
    else:
        drawing.add(line(x, LINE_Y, x, 138, "rig-wire"), line(x, 182, x, RETURN_Y, "rig-wire"))
        drawing.add(rect(x - 9, 138, 18, 44, "box"))
    _named(drawing, x, e.name, _lead(e))


def _load(drawing: Drawing, e: Element, x: float) -> None:
    drawing.add(line(x - STEP / 2, LINE_Y, x, LINE_Y, "rig-wire"))
    kind = e.kind.key
    if kind == "short":
        drawing.add(line(x, LINE_Y, x, RETURN_Y, "rig-wire"))
    elif kind == "open":
        drawing.add(circle(x, LINE_Y, 5, "box"), circle(x, RETURN_Y, 5, "box"))
    else:
        drawing.add(line(x, LINE_Y, x, 138, "rig-wire"), line(x, 182, x, RETURN_Y, "rig-wire"))
        drawing.add(*_work(kind, x))
    _named(drawing, x, e.name, _lead(e))


def _work(kind: str, x: float) -> Iterator[Shape]:
    if kind == "arc":
        yield path(f"M{x - 6:g} 138l10 16h-9l11 28", "rig-wire")
    elif kind == "lamp":
        yield circle(x, 160, 20, "box")
        yield path(f"M{x - 14:g} 146l28 28m0 -28l-28 28", "rig-wire")
    elif kind == "battery":
        yield line(x - 16, 154, x + 16, 154, "rig-wire")
        yield line(x - 8, 166, x + 8, 166, "rig-wire")
        yield line(x, 138, x, 154, "rig-wire")
        yield line(x, 166, x, 182, "rig-wire")
    else:
        yield rect(x - 9, 138, 18, 44, "box")
