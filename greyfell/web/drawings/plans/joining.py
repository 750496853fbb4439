"""Isolation on paper: who touches what as a map of points, and coils joined in every way."""

from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import engineering
from greyfell.core.isolation.body import ZONES
from greyfell.core.planner_kit.declare import Planned
from greyfell.web.drawings.plans.bars import Bar, bars_drawing
from greyfell.web.drawings.shapes import Drawing, circle, line, rect, text

PLACES = {
    "L": (60.0, 90.0),
    "N": (60.0, 330.0),
    "case": (290.0, 90.0),
    "earth": (290.0, 330.0),
    "clip": (390.0, 210.0),
}
LOOKS = {"AC-1": "touch-1", "AC-2": "touch-2", "AC-3": "touch-3", "AC-4": "touch-4"}
RING = 21.0
SHARES = (0.5, 0.35, 0.62, 0.45, 0.28, 0.55, 0.7)
"""Where along its line a figure stands, so that no two lie on each other."""


def touch(planned: Planned, _record: Transformer | None) -> Drawing:
    """The points where they stand; between each two a line, thicker the worse, with its amps."""
    given, found = planned.given, planned.found
    drawing = Drawing(
        430,
        430,
        f"Who touches what: {found.worst_zone} at worst",
        "Every pair of points, its zone.",
    )
    drawing.add(rect(26, 52, 68, 316, "box"))
    drawing.add(text(26, 42, "output", "t t-small quiet"))
    for pair in found.pairs:
        (x1, y1), (x2, y2) = PLACES[pair.from_], PLACES[pair.to]
        drawing.add(line(x1, y1, x2, y2, LOOKS[pair.zone]))
    for n, pair in enumerate(p for p in found.pairs if p.zone != ZONES[0]):
        (x1, y1), (x2, y2) = PLACES[pair.from_], PLACES[pair.to]
        share = SHARES[n % len(SHARES)]
        x, y = x1 + share * (x2 - x1), y1 + share * (y2 - y1)
        said = engineering(pair.body_amps.high, "A", 2)
        drawing.add(rect(x - 4, y - 13, 7.4 * len(said) + 8, 17, "label-ground"))
        drawing.add(text(x, y, said, "t t-small mono"))
    shown = {p for pair in found.pairs for p in (pair.from_, pair.to)}
    for name, (x, y) in PLACES.items():
        if name in shown:
            drawing.add(circle(x, y, RING, "touch-point"))
            drawing.add(text(x, y + 5, name, "t t-strong", "middle"))
    words = "it isolates: only leakage flows to earth" if found.isolates else "it does not isolate"
    drawing.add(text(16, 404, words, "t t-strong" + ("" if found.isolates else " stop"), "start"))
    tie = {"earth": "pin to earth", "float": "pin floats", "neutral": "pin to neutral"}[given.case]
    drawing.add(text(16, 424, f"{tie}; thicker is worse; zones of IEC 60479-1", "t t-small quiet"))
    return drawing


def arrangements(planned: Planned, _record: Transformer | None) -> Drawing:
    """Volts of every way, those that may not be struck."""
    found = planned.found
    bars = [
        Bar(
            words=f"primary {a.primary}, secondary {a.secondary}",
            figure=a.output_volts,
            refused=a.allowed == "no",
        )
        for a in found.arrangements[:6]
    ]
    top = (
        max(a.output_volts.value for a in found.arrangements if a.allowed != "no")
        if found.best
        else 1.0
    )
    title = f"Take {found.best}" if found.best else "No way may be"
    return bars_drawing(bars, limit=top, unit="V", what="output volts", title=title, mark="most")
