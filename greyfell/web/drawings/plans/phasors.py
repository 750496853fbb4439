"""The volts of a ballasted loop with the load shorted, as phasors to scale: they add at right
angles.
"""

from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import engineering
from greyfell.core.planner_kit.declare import Planned
from greyfell.web.drawings.shapes import Drawing, Shape, line, path, text

X0, Y0 = 60.0, 350.0
"""Where the current's line begins."""
WIDEST, TALLEST = 230.0, 300.0
LEAST = 2.0
"""A phasor shorter than this is not drawn."""


def phasors(planned: Planned, _record: Transformer | None) -> Drawing:
    """Resistive drop along, reactive drops up, the supply across: one scale for all."""
    given, amps = planned.given, planned.found.shorted_amps.value
    supply = given.supply_volts.value
    r = amps * (given.source_resistance_ohms.value + given.ballast_resistance_ohms.value)
    xs = amps * given.source_reactance_ohms.value
    xb = amps * planned.found.reactance_ohms.value
    long_side = f"To scale: {engineering(supply, 'V')} is the long side."
    drawing = Drawing(430, 400, "Phasors of the loop, load shorted", long_side)
    scale = min(WIDEST / max(r, 1e-9), TALLEST / max(xs + xb, 1e-9))
    x1, ys, yb = X0 + r * scale, Y0 - xs * scale, Y0 - (xs + xb) * scale
    drawing.add(line(X0, Y0, X0 + 260, Y0, "axis"), line(X0, Y0, X0, 30, "axis"))
    drawing.add(*_arrow(X0, Y0, x1, yb, "phasor-supply"))
    if x1 - X0 > LEAST:
        drawing.add(*_arrow(X0, Y0, x1, Y0, "phasor-r"))
    if Y0 - ys > LEAST:
        drawing.add(*_arrow(x1, Y0, x1, ys, "phasor-xs"))
    drawing.add(*_arrow(x1, ys, x1, yb, "phasor-xb"))
    _resistance(drawing, x1, engineering(r, "V"))
    side = x1 + 14
    if Y0 - ys > LEAST:
        at = min((Y0 + ys) / 2 + 5, Y0 - 6)
        drawing.add(text(side, at, f"already there {engineering(xs, 'V')}", "t phasor-text-xs"))
    ballast = f"ballast {engineering(xb, 'V')}"
    drawing.add(text(side, (ys + yb) / 2 + 5, ballast, "t t-strong phasor-text-xb"))
    drawing.add(_supply(x1, yb, side, f"supply {engineering(supply, 'V')}"))
    drawing.add(text(X0, 390, "to scale; current is along the level line", "t t-small quiet"))
    return drawing


def _resistance(drawing: Drawing, x1: float, volts: str) -> None:
    """The word below the resistive drop."""
    anchor = "middle" if x1 - X0 > 60 else "start"
    at = max(x1 / 2 + X0 / 2, X0 + 30)
    drawing.add(text(at, Y0 + 22, f"resistance {volts}", "t phasor-text-r", anchor))


def _supply(x1: float, yb: float, side: float, words: str) -> Shape:
    """The word at the supply's phasor: beside it, or at its tip where it stands steep."""
    if x1 - X0 > 120:
        x, y = max(X0 + 6, (X0 + x1) / 2 - 12), max((Y0 + yb) / 2 - 20, 60)
        return text(x, y, words, "t t-strong", "end")
    return text(side, yb - 4, f"{words}, tip here", "t t-strong")


def _arrow(x1: float, y1: float, x2: float, y2: float, look: str) -> list[Shape]:
    length = max(((x2 - x1) ** 2 + (y2 - y1) ** 2) ** 0.5, 1e-6)
    ux, uy = (x2 - x1) / length, (y2 - y1) / length
    bx, by = x2 - 9 * ux, y2 - 9 * uy
    left = f"{bx - 4.5 * uy:.1f} {by + 4.5 * ux:.1f}"
    right = f"{bx + 4.5 * uy:.1f} {by - 4.5 * ux:.1f}"
    tip = f"M{x2:.1f} {y2:.1f}L{left}L{right}Z"
    return [line(x1, y1, bx, by, f"phasor {look}"), path(tip, f"phasor-tip {look}-tip")]
