"""The wiring of an isolated outlet in one position, from the piece's own leads: feed, core to
earth, windings with their first ends marked, the poles that open, the outlet.
"""

from greyfell.core.figures.notation import engineering
from greyfell.core.telling.outlet_wiring import Position, Wiring
from greyfell.web.drawings.shapes import Drawing, Shape, circle, line, path, rect, text

WIDE, HIGH = 620.0, 250.0
FEED, CORE, COIL, BREAKER, OUTLET = 30.0, 200.0, 300.0, 440.0, 540.0
TOP, BOTTOM = 70.0, 180.0


def joined_drawing(wiring: Wiring, position: Position) -> Drawing:
    """One position. Pure."""
    title = f"Wired {position.name}: {engineering(position.volts, 'V')}"
    drawing = Drawing(WIDE, HIGH, title, position.truth)
    _feed(drawing, wiring)
    _windings(drawing, position)
    _out(drawing, wiring, position)
    drawing.add(text(WIDE / 2, HIGH - 8, position.truth, "t t-small", "middle"))
    return drawing


def _feed(drawing: Drawing, wiring: Wiring) -> None:
    """Plug, fuse, two-pole switch, primary; the core to earth."""
    for y, name in ((TOP, "L"), (BOTTOM, "N")):
        drawing.add(line(FEED, y, CORE - 30, y, "rig-wire"))
        drawing.add(text(FEED - 14, y + 5, name, "t t-small"))
        drawing.add(*_pole(FEED + 84, y))
    drawing.add(rect(FEED + 26, TOP - 8, 34, 16, "bench-box"))
    drawing.add(text(FEED + 43, TOP - 14, "fuse", "t t-small", "middle"))
    drawing.add(text(FEED + 92, TOP - 24, "two poles", "t t-small", "middle"))
    _coil(drawing, CORE - 30, TOP, BOTTOM)
    for lead, y in zip(wiring.feed[:2], (TOP, BOTTOM), strict=False):
        drawing.add(text(CORE - 46, y - 6, lead, "t t-strong", "middle"))
    _earthed_core(drawing)


def _pole(x: float, y: float) -> tuple[Shape, Shape]:
    # one blade of a two-pole switch or breaker, open
    return line(x, y - 12, x + 16, y, "bond"), circle(x, y, 3, "joint")


def _earthed_core(drawing: Drawing) -> None:
    for x in (CORE + 8, CORE + 26):
        drawing.add(rect(x, TOP - 14, 12, BOTTOM - TOP + 28, "core"))
    drawing.add(line(CORE + 23, BOTTOM + 14, CORE + 23, BOTTOM + 32, "bench-earth"))
    drawing.add(text(CORE + 23, BOTTOM + 46, "core to earth", "t t-small", "middle"))


def _coil(drawing: Drawing, x: float, top: float, bottom: float) -> None:
    """A winding as bows."""
    step = (bottom - top) / 4
    bows = "".join(f"A{step / 2} {step / 2} 0 0 1 {x} {top + step * (k + 1)}" for k in range(4))
    drawing.add(path(f"M{x} {top}{bows}", "coil-turns"))


def _windings(drawing: Drawing, position: Position) -> None:
    """One winding, or two, each with its first end dotted."""
    middle = (TOP + BOTTOM) / 2
    if not position.joined:
        _secondary(drawing, (position.line[0], position.neutral[0]), TOP, BOTTOM)
        return
    if len(position.joined) == 1:
        (one, two) = position.joined[0]
        _secondary(drawing, (position.line[0], one), TOP, middle - 8)
        _secondary(drawing, (two, position.neutral[0]), middle + 8, BOTTOM)
        drawing.add(line(COIL, middle - 8, COIL, middle + 8, "bond"))
        return
    _secondary(drawing, (position.line[0], position.neutral[0]), TOP, BOTTOM)
    _secondary(drawing, (position.line[1], position.neutral[1]), TOP, BOTTOM, COIL + 56)
    for y in (TOP, BOTTOM):
        drawing.add(line(COIL, y, COIL + 56, y, "bond"))


def _secondary(
    drawing: Drawing, ends: tuple[str, str], top: float, bottom: float, x: float = COIL
) -> None:
    """One winding of the output side with its leads."""
    _coil(drawing, x, top, bottom)
    drawing.add(circle(x - 8, top + 8, 3.5, "joint"))
    drawing.add(text(x - 24, top + 9, ends[0], "t t-strong", "middle"))
    drawing.add(text(x - 24, bottom + 1, ends[1], "t t-strong", "middle"))


def _indicator(drawing: Drawing, x: float) -> None:
    middle = (TOP + BOTTOM) / 2
    drawing.add(circle(x, middle, 9, "bench-box"))
    drawing.add(line(x, TOP, x, middle - 9, "rig-wire"))
    drawing.add(line(x, middle + 9, x, BOTTOM, "rig-wire"))


def _out(drawing: Drawing, wiring: Wiring, position: Position) -> None:
    """Breaker of two poles, indicator, the outlet."""
    start = COIL + (56 if len(position.joined) == 2 else 0)
    for y in (TOP, BOTTOM):
        drawing.add(line(start, y, OUTLET, y, "rig-wire"))
        drawing.add(*_pole(BREAKER, y))
    said = "two poles" if wiring.breaker is None else f"two poles, {wiring.breaker:g} A"
    drawing.add(text(BREAKER + 8, TOP - 22, said, "t t-small", "middle"))
    _indicator(drawing, BREAKER + 60)
    drawing.add(rect(OUTLET, TOP - 18, 56, BOTTOM - TOP + 36, "bench-box"))
    drawing.add(text(OUTLET + 28, TOP + 5, "L", "t t-strong", "middle"))
    drawing.add(text(OUTLET + 28, BOTTOM + 5, "N", "t t-strong", "middle"))
    volts = engineering(position.volts, "V")
    drawing.add(text(OUTLET + 28, (TOP + BOTTOM) / 2 + 5, volts, "t mono", "middle"))
