"""Who touches what: leads, core and earth in a ring, a line for every two that a body may join, as
thick as its zone is grave.
"""

import math
from collections.abc import Sequence

from greyfell.core.dangers.contacts import Contact
from greyfell.core.figures.notation import engineering
from greyfell.core.isolation.body import ZONES
from greyfell.web.drawings.shapes import Drawing, circle, line, rect, text

WIDE, HIGH = 460.0, 380.0
RING, NODE = 140.0, 19.0
MOST_LABELLED = 3
LEGEND = ("not felt", "felt", "muscles hold on", "the heart may stop")


def contacts_drawing(found: Sequence[Contact]) -> Drawing:
    """Every contact of a piece. Pure."""
    points = list(dict.fromkeys(x for c in found for x in (c.one, c.two)))
    leads = sorted(p for p in points if p not in ("core", "earth"))
    order = [*leads, *[p for p in ("core", "earth") if p in points]]
    drawing = Drawing(WIDE, HIGH, "Who touches what", f"{len(found)} pairs of points.")
    at = {p: _place(n, len(order)) for n, p in enumerate(order)}
    for c in reversed(found):
        (x1, y1), (x2, y2) = at[c.one], at[c.two]
        drawing.add(line(x1, y1, x2, y2, f"touch-{1 + ZONES.index(c.zone)}"))
    for c in _labelled(found):
        (x1, y1), (x2, y2) = at[c.one], at[c.two]
        words = engineering(c.volts, "V") + ("" if c.known else "?")
        x, y = x1 + 0.42 * (x2 - x1), y1 + 0.42 * (y2 - y1)
        drawing.add(rect(x - 4.2 * len(words), y - 10, 8.4 * len(words), 19, "label-ground"))
        drawing.add(text(x, y + 5, words, "t t-small mono", "middle"))
    for p, (x, y) in at.items():
        drawing.add(circle(x, y, NODE, "touch-point"))
        drawing.add(text(x, y + 5, p, "t t-small", "middle"))
    for n, words in enumerate(LEGEND):
        x, y = 16 + 112.0 * n, HIGH - 22
        drawing.add(line(x, y, x + 96, y, f"touch-{n + 1}"))
        drawing.add(text(x, y + 16, words, "t t-small quiet"))
    return drawing


def _place(n: int, of: int) -> tuple[float, float]:
    angle = math.pi / 2 + math.pi / max(of, 1) + 2 * math.pi * n / max(of, 1)
    return WIDE / 2 + RING * 1.15 * math.cos(angle), (HIGH - 60) / 2 + 6 + RING * math.sin(angle)


def _labelled(found: Sequence[Contact]) -> list[Contact]:
    """The worst pairs, each of other volts."""
    out: list[Contact] = []
    for c in found:
        if all(abs(c.volts - o.volts) > 0.05 * o.volts for o in out):
            out.append(c)
    return out[:MOST_LABELLED]
