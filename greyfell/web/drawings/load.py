"""An output's load line: volts against amps from open to short, its band, the points read, and the
straight line that people draw beside it.
"""

import numpy as np

from greyfell.core.figures.notation import engineering
from greyfell.core.steps.load_test import LoadedOutput
from greyfell.web.drawings.shapes import Drawing, circle, line, path, text

LEFT, RIGHT, TOP, BOTTOM = 74.0, 600.0, 30.0, 270.0
STEPS = 40


def load_drawing(out: LoadedOutput) -> Drawing:
    """The load line, to scale. Pure."""
    source = out.line
    volts, amps = source.open_volts, source.amps(0.0)
    top_v, top_a = volts.high * 1.04, max(amps.value * 1.6, min(amps.high, 3 * amps.value))
    drawing = Drawing(640, 322, f"{out.winding.name} under load", "Volts against amps, to scale.")

    def at(v: float, a: float) -> str:
        x = LEFT + (RIGHT - LEFT) * a / top_a
        y = BOTTOM - (BOTTOM - TOP) * v / top_v
        return f"{x:.1f} {y:.1f}"

    drawing.add(line(LEFT, BOTTOM, RIGHT, BOTTOM, "axis"), line(LEFT, TOP, LEFT, BOTTOM, "axis"))
    loads = np.geomspace(1e-2, 1e3, STEPS) * source.match_ohms.value
    found = [(source.volts(float(r)), float(r)) for r in loads]
    upper = [at(v.high, min(v.high / r, top_a)) for v, r in found]
    lower = [at(v.low, min(v.low / r, top_a)) for v, r in reversed(found)]
    drawing.add(path("M" + "L".join([*upper, *lower]) + "Z", "zone zone-sound"))
    drawing.add(path("M" + "L".join(at(v.value, v.value / r) for v, r in found), "decay"))
    drawing.add(path(f"M{at(volts.value, 0.0)}L{at(0.0, amps.value)}", "load-straight"))
    for a in out.points:
        x, y = at(a.point.volts, a.point.volts / a.point.ohms).split()
        drawing.add(circle(float(x), float(y), 5, "sweep-point"))
    drawing.add(
        text(LEFT - 8, TOP + 6, engineering(top_v, "V", 2), "t t-small mono", "end"),
        text(RIGHT, BOTTOM + 20, engineering(top_a, "A", 2), "t t-small mono", "end"),
        text(LEFT, BOTTOM + 20, "open", "t t-small mono"),
        text(LEFT, 312, "the straight line understates a reactive source", "t t-small quiet"),
    )
    return drawing
