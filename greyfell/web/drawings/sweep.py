"""A sweep: amps against volts, both on log axes, the curve through the steps, the knees, the
supply, and what does not belong.
"""

import math
from collections.abc import Sequence

import numpy as np

from greyfell.core.circuit.sweep import Earlier, Sweep, curve
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity
from greyfell.web.drawings.shapes import Drawing, circle, line, path, rect, text

LEFT, RIGHT, TOP, BOTTOM = 74.0, 600.0, 46.0, 330.0
STEPS = 60


def sweep_drawing(sweep: Sweep, supply_volts: float, earlier: Sequence[Earlier] = ()) -> Drawing:
    """The sweep, to scale in the logarithms of volts and amps; those from before a change faint
    beneath. Pure.
    """
    points = [*sweep.points, *sweep.odd, *(p for e in earlier for p in e.sweep.points)]
    least, most = min(p.volts for p in points), max(*(p.volts for p in points), supply_volts)
    low = 10 ** math.floor(math.log10(min(p.amps for p in points)))
    high = 10 ** math.ceil(math.log10(max(p.amps for p in points)))
    drawing = Drawing(
        640, 380, _title(sweep), "Amps against volts with everything else open, log on log."
    )

    def x(volts: float) -> float:
        share = math.log(volts / least) / max(math.log(most * 1.05 / least), 1e-9)
        return LEFT + (RIGHT - LEFT) * share

    def y(amps: float) -> float:
        share = math.log(amps / low) / max(math.log(high / low), 1e-9)
        return BOTTOM - (BOTTOM - TOP) * share

    for n in range(round(math.log10(high / low)) + 1):
        amps = low * 10.0**n
        drawing.add(line(LEFT, y(amps), RIGHT, y(amps), "axis"))
        words = engineering(amps, "A", 1)
        drawing.add(text(LEFT - 8, y(amps) + 4, words, "t t-small mono", "end"))
    for volts in _ticks(least, most):
        drawing.add(line(x(volts), BOTTOM, x(volts), BOTTOM + 5, "axis"))
        words = f"{volts:g} V"
        drawing.add(text(x(volts), BOTTOM + 20, words, "t t-small mono", "middle"))
    if least < supply_volts:
        at = x(supply_volts)
        drawing.add(line(at, TOP, at, BOTTOM, "decay-safe"))
        drawing.add(text(at - 5, BOTTOM - 8, "supply", "t t-small zone-text-sound", "end"))
    for row, (name, knee) in enumerate((("onset", sweep.onset), ("steep", sweep.steep))):
        if knee is not None:
            _knee(drawing, name, knee, at=(x(knee.low), x(knee.value), x(knee.high)), row=row)
    for found, look in (*((e.sweep, "sweep-before") for e in earlier), (sweep, "decay")):
        along = np.geomspace(found.points[0].volts, found.points[-1].volts, STEPS)
        amps = curve([p.volts for p in found.points], [p.amps for p in found.points])(along)
        places = [f"{x(v):.1f} {y(a):.1f}" for v, a in zip(along, amps, strict=True)]
        drawing.add(path("M" + "L".join(places), look))
    for p in sweep.points:
        drawing.add(circle(x(p.volts), y(p.amps), 5, "sweep-point"))
    for p in sweep.odd:
        px, py = x(p.volts), y(p.amps)
        drawing.add(path(f"M{px - 6:.1f} {py - 6:.1f}l12 12m0 -12l-12 12", "fault-cross"))
        drawing.add(text(px + 12, py + 4, f"{p.reading}: read again", "t t-small stop"))
    drawing.add(text(LEFT, 372, "to scale in log volts and log amps", "t t-small quiet"))
    return drawing


def _title(sweep: Sweep) -> str:
    """What the drawing says in a line."""
    if sweep.onset is None:
        return f"No knee below {engineering(sweep.above, 'V')}"
    return f"Onset of the knee at {engineering(sweep.onset.value, 'V')}"


def _knee(
    drawing: Drawing, name: str, knee: Quantity, *, at: tuple[float, float, float], row: int
) -> None:
    """A knee: its range as a band, its name and volts above."""
    low, middle, high = at
    drawing.add(rect(low, TOP, max(high - low, 1.0), BOTTOM - TOP, "zone zone-caution"))
    drawing.add(line(middle, TOP, middle, BOTTOM, "zone-mark"))
    words = f"{name} {engineering(knee.value, 'V')}"
    drawing.add(text(middle - 6, TOP - 8 - 16 * row, words, "t t-small mono", "end"))


def _ticks(least: float, most: float) -> list[float]:
    """Round volts between two ends."""
    usual = (5, 10, 20, 30, 50, 70, 100, 120, 150, 200, 230, 260, 300, 400, 500)
    return [float(v) for v in usual if least <= v <= most * 1.05]
