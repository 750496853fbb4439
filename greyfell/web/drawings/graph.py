"""A graph: two axes to scale, bands behind, curves, and places that are named."""

import math
from collections.abc import Callable, Sequence

from msgspec import Struct, field

from greyfell.core.figures.notation import engineering
from greyfell.web.drawings.shapes import Drawing, circle, line, path, rect, spread, text

WIDTH, HEIGHT = 430.0, 380.0
LEFT, RIGHT, TOP, BOTTOM = 66.0, 414.0, 40.0, 300.0
TICKS = (1.0, 2.0, 5.0)
MOST_TICKS = 6
WORD_GAP, BELOW = 17.0, 14.0
Scale = Callable[[float], float]


class Axis(Struct, frozen=True, kw_only=True):
    """One axis: its words and unit, its ends, whether in the logarithm."""

    words: str
    unit: str
    low: float
    high: float
    log: bool = False

    def share(self, value: float) -> float:
        """Where a value stands, 0 to 1; beyond an end, at it."""
        low, high = self.low, self.high
        if self.log:
            low, high = math.log(low), math.log(high)
            value = math.log(max(value, self.low * 1e-3))
        return min(1.0, max(0.0, (value - low) / max(high - low, 1e-12)))

    @property
    def ticks(self) -> list[float]:
        """Round values on it, a handful."""
        if self.log:
            first = math.floor(math.log10(self.low))
            tens = [10.0**k for k in range(first, math.ceil(math.log10(self.high)) + 1)]
            every = max(1, math.ceil(len(tens) / MOST_TICKS))
            return [t for t in tens[::every] if self.low <= t <= self.high * 1.0001]
        span = self.high - self.low
        if span <= 0:
            return [self.low]
        raw = span / (MOST_TICKS - 1)
        ten = 10 ** math.floor(math.log10(raw))
        step = next((t * ten for t in TICKS if t * ten >= raw), 10 * ten)
        first = math.ceil(self.low / step - 1e-9)
        return [k * step for k in range(first, math.floor(self.high / step + 1e-9) + 1)]


class Band(Struct, frozen=True, kw_only=True):
    """A band across the graph, along x: its ends, its words, how it looks."""

    low: float
    high: float
    words: str
    look: str


class Place(Struct, frozen=True, kw_only=True):
    """A named point; a level, where it has no x."""

    words: str
    y: float
    x: float | None = None
    look: str = "sweep-point"


class Graph(Struct, frozen=True, kw_only=True):
    """What a graph shows."""

    title: str
    desc: str
    x: Axis
    y: Axis
    curves: Sequence[tuple[Sequence[tuple[float, float]], str]]
    bands: Sequence[Band] = ()
    places: Sequence[Place] = ()
    below: str = ""
    named: Sequence[tuple[str, str]] = field(default_factory=list)
    """Words for the curves: the look of each and what it is."""


def draw(graph: Graph) -> Drawing:
    """The graph, to scale. Pure."""
    drawing = Drawing(WIDTH, HEIGHT, graph.title, graph.desc)

    def x(value: float) -> float:
        return LEFT + (RIGHT - LEFT) * graph.x.share(value)

    def y(value: float) -> float:
        return BOTTOM - (BOTTOM - TOP) * graph.y.share(value)

    for k, band in enumerate(graph.bands):
        left, right = x(band.low), x(band.high)
        drawing.add(rect(left, TOP, right - left, BOTTOM - TOP, f"zone zone-{band.look}"))
        if band.words:
            at = min(max((left + right) / 2, LEFT + 30), RIGHT - 30)
            words = f"t t-small zone-text-{band.look}"
            drawing.add(text(at, TOP - 8 - 15 * (k % 2), band.words, words, "middle"))
    for tick in graph.y.ticks:
        drawing.add(line(LEFT, y(tick), RIGHT, y(tick), "axis"))
        words = _short(tick, graph.y.unit)
        drawing.add(text(LEFT - 7, y(tick) + 4, words, "t t-small mono", "end"))
    for tick in graph.x.ticks:
        drawing.add(line(x(tick), BOTTOM, x(tick), BOTTOM + 5, "axis"))
        words = _short(tick, graph.x.unit)
        drawing.add(text(x(tick), BOTTOM + 20, words, "t t-small mono", "middle"))
    drawing.add(line(LEFT, BOTTOM, RIGHT, BOTTOM, "axis"), line(LEFT, TOP, LEFT, BOTTOM, "axis"))
    for points, look in graph.curves:
        places = [f"{x(a):.1f} {y(b):.1f}" for a, b in points]
        if places:
            drawing.add(path("M" + "L".join(places), look))
    _places(drawing, graph, x, y)
    axes = f"{graph.y.words} against {graph.x.words}, to scale"
    drawing.add(text(BELOW, BOTTOM + 40, graph.below or axes, "t t-small quiet"))
    along = BELOW
    for look, words in graph.named:
        drawing.add(line(along, BOTTOM + 56, along + 20, BOTTOM + 56, look))
        drawing.add(text(along + 25, BOTTOM + 60, words, "t t-small"))
        along += 38 + 6.4 * len(words)
    return drawing


def _places(drawing: Drawing, graph: Graph, at_x: Scale, at_y: Scale) -> None:
    """Named places, their words beside them and clear of each other."""
    wanted = sorted(graph.places, key=lambda p: -p.y)
    levels = spread([at_y(p.y) for p in wanted], WORD_GAP, TOP + 6, BOTTOM - 4)
    for p, level in zip(wanted, levels, strict=True):
        py = at_y(p.y)
        if p.x is None:
            drawing.add(line(LEFT, py, RIGHT, py, "decay-safe"))
            drawing.add(text(RIGHT - 4, level - 5, p.words, "t t-small", "end"))
            continue
        px = at_x(p.x)
        drawing.add(circle(px, py, 5, p.look))
        left = px > (LEFT + RIGHT) / 2
        side = px - 10 if left else px + 10
        drawing.add(text(side, level - 4, p.words, "t t-small", "end" if left else "start"))


def _short(value: float, unit: str) -> str:
    """A tick: no more digits than it needs."""
    if not value:
        return "0"
    return engineering(value, unit, 2) if unit not in ("", "mm") else f"{value:g} {unit}".strip()
