"""The volts of a ballasted loop with the load shorted, as phasors to scale: they add at right
angles.
"""

from greyfell.core.ballast import Ballast
from greyfell.core.quantity import engineering
from greyfell.web.drawings.shapes import Drawing, Shape, line, path, text


def phasors(plan: Ballast, supply_volts: float) -> Drawing:
    """Resistive drop along, reactive drops up, the supply across: one scale for all."""
    r, xs, xb = plan.resistance_volts, plan.source_reactance_volts, plan.ballast_reactance_volts
    drawing = Drawing(
        430,
        400,
        "Phasors of the loop, load shorted",
        f"To scale: {engineering(supply_volts, 'V')} is the long side.",
    )
    scale = min(230.0 / max(r, 1e-9), 300.0 / max(xs + xb, 1e-9))
    x0, y0 = 60.0, 350.0
    x1, ys, yb = x0 + r * scale, y0 - xs * scale, y0 - (xs + xb) * scale
    drawing.add(line(x0, y0, x0 + 260, y0, "axis"), line(x0, y0, x0, 30, "axis"))
    drawing.add(*_arrow(x0, y0, x1, yb, "phasor-supply"))
    if r * scale > 2:
        drawing.add(*_arrow(x0, y0, x1, y0, "phasor-r"))
    if xs * scale > 2:
        drawing.add(*_arrow(x1, y0, x1, ys, "phasor-xs"))
    drawing.add(*_arrow(x1, ys, x1, yb, "phasor-xb"))
    drawing.add(
        text(
            max(x1 / 2 + x0 / 2, x0 + 30),
            y0 + 22,
            f"resistance {engineering(r, 'V')}",
            "t phasor-text-r",
            "middle" if r * scale > 60 else "start",
        )
    )
    side = x1 + 14
    if xs * scale > 2:
        drawing.add(
            text(
                side,
                min((y0 + ys) / 2 + 5, y0 - 6),
                f"already there {engineering(xs, 'V')}",
                "t phasor-text-xs",
            )
        )
    drawing.add(
        text(
            side, (ys + yb) / 2 + 5, f"ballast {engineering(xb, 'V')}", "t t-strong phasor-text-xb"
        )
    )
    drawing.add(
        text(
            max(x0 + 6, (x0 + x1) / 2 - 12),
            max((y0 + yb) / 2 - 20, 60),
            f"supply {engineering(supply_volts, 'V')}",
            "t t-strong",
            "end" if x1 - x0 > 120 else "start",
        )
        if x1 - x0 > 120
        else text(side, yb - 4, f"supply {engineering(supply_volts, 'V')}, tip here", "t t-strong")
    )
    drawing.add(text(x0, 390, "to scale; current is along the level line", "t t-small quiet"))
    return drawing


def _arrow(x1: float, y1: float, x2: float, y2: float, look: str) -> list[Shape]:
    length = max(((x2 - x1) ** 2 + (y2 - y1) ** 2) ** 0.5, 1e-6)
    ux, uy = (x2 - x1) / length, (y2 - y1) / length
    bx, by = x2 - 9 * ux, y2 - 9 * uy
    tip = (
        f"M{x2:.1f} {y2:.1f}L{bx - 4.5 * uy:.1f} {by + 4.5 * ux:.1f}L{bx + 4.5 * uy:.1f} "
        f"{by - 4.5 * ux:.1f}Z"
    )
    return [line(x1, y1, bx, by, f"phasor {look}"), path(tip, f"phasor-tip {look}-tip")]
