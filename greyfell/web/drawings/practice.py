"""The practice bench: a covered piece with its posts, the source and the instrument, and the wires
between them as they are connected.
"""

from collections.abc import Sequence

from greyfell.core.figures.notation import engineering
from greyfell.core.lessons.hookup import INSTRUMENTS, SOURCES, Hookup, Mishap
from greyfell.web.drawings.shapes import Drawing, circle, group, line, path, rect, text

WIDE, HIGH = 560.0, 330.0
BOX, POST, WIDE_POST = 150.0, 16.0, 22.0


METER_GONE = ("meter-on-hv", "meter-powered", "fuse-blown", "dead-on-dc", "leak-on-hv")
PIECE_GONE = ("burnt", "wrong-pair", "shorted-line")
BETWEEN = ("by-hand", "core-live", "bare-ends")
"""Where each thing that would have gone wrong is drawn."""


def practice_drawing(
    points: Sequence[str], hookup: Hookup, wrong: Sequence[Mishap] = (), *, covered: bool
) -> Drawing:
    """A piece under its cloth, or one's own as a box, connected; what would have gone wrong is
    crossed out where it stands. Pure.
    """
    drawing = Drawing(WIDE, HIGH, "The practice bench", _words(hookup))
    left, right = 185.0, 375.0
    if covered:
        fold = (
            f"M{left} 250C{left + 10} 120 {left + 30} 96 {left + 66} 92"
            f"C{left + 110} 76 {right - 60} 84 {right - 34} 100"
            f"C{right - 8} 120 {right} 170 {right} 250Z"
        )
        drawing.add(path(fold, "cloth"))
        drawing.add(
            path(f"M{left + 60} 96C{left + 56} 150 {left + 74} 200 {left + 60} 250", "fold")
        )
        drawing.add(
            path(f"M{right - 50} 94C{right - 60} 150 {right - 40} 200 {right - 56} 250", "fold")
        )
        drawing.add(text((left + right) / 2, 180, "under its cloth", "t t-small quiet", "middle"))
    else:
        drawing.add(rect(left, 92, right - left, 158, "core"))
        drawing.add(text((left + right) / 2, 180, "its model", "t t-small on-core", "middle"))
    places = _places(points, left, right)
    for p, (x, y) in places.items():
        r = WIDE_POST if p in ("core", "earth") else POST
        dot = circle(x, y, r, "touch-point")
        drawing.add(group("post", dot, text(x, y + 5, p, "t t-small", "middle"), lead=p))
    _box(drawing, 14, 20, SOURCES.get(hookup.source, ""), _volts(hookup))
    _box(drawing, WIDE - BOX - 14, 20, INSTRUMENTS.get(hookup.instrument, ""), hookup.held)
    if hookup.powered and hookup.driven is not None:
        _wires(drawing, (14 + BOX / 2, 76.0), hookup.driven, places, "hook-red")
    if hookup.points is not None and hookup.instrument != "none":
        _wires(drawing, (WIDE - 14 - BOX / 2, 76.0), hookup.points, places, "hook-black")
    if hookup.shorted is not None and set(hookup.shorted) <= set(places):
        (x1, y1), (x2, y2) = (places[p] for p in hookup.shorted)
        drawing.add(line(x1, y1, x2, y2, "bond"))
    _crossed(drawing, {m.code for m in wrong}, hookup, places)
    return drawing


def _crossed(
    drawing: Drawing, codes: set[str], hookup: Hookup, places: dict[str, tuple[float, float]]
) -> None:
    """A cross over what would be gone, a heavy line where a body would have been."""
    if codes & set(METER_GONE):
        _cross(drawing, WIDE - 14 - BOX / 2, 48.0)
    if codes & set(PIECE_GONE):
        _cross(drawing, 280.0, 150.0)
    if codes & set(BETWEEN) and hookup.points is not None and set(hookup.points) <= set(places):
        (x1, y1), (x2, y2) = (places[p] for p in hookup.points)
        drawing.add(line(x1, y1, x2, y2, "touch-4"))


def _cross(drawing: Drawing, x: float, y: float) -> None:
    drawing.add(line(x - 22, y - 22, x + 22, y + 22, "fault-cross"))
    drawing.add(line(x - 22, y + 22, x + 22, y - 22, "fault-cross"))


def _words(hookup: Hookup) -> str:
    source = SOURCES.get(hookup.source, "")
    return f"{source}; {INSTRUMENTS.get(hookup.instrument, '')}."


def _volts(hookup: Hookup) -> str:
    return engineering(hookup.volts, "V") if hookup.powered else "plug out"


def _box(drawing: Drawing, x: float, y: float, words: str, below: str) -> None:
    """A box of the bench with its words."""
    drawing.add(rect(x, y, BOX, 56, "bench-box"))
    drawing.add(text(x + BOX / 2, y + 24, words, "t t-small", "middle"))
    drawing.add(text(x + BOX / 2, y + 44, below, "t t-small mono", "middle"))


def _places(points: Sequence[str], left: float, right: float) -> dict[str, tuple[float, float]]:
    """Posts on both sides of the piece, the core and earth below."""
    leads = [p for p in points if p not in ("core", "earth")]
    half = (len(leads) + 1) // 2
    out: dict[str, tuple[float, float]] = {}
    for n, p in enumerate(leads):
        x = left - 34 if n < half else right + 34
        count = half if n < half else max(1, len(leads) - half)
        k = n if n < half else n - half
        out[p] = (x, 112 + 128.0 * (k + 0.5) / count)
    out["core"] = ((left + right) / 2 - 34, 286)
    out["earth"] = ((left + right) / 2 + 40, 286)
    return out


def _wires(
    drawing: Drawing,
    start: tuple[float, float],
    pair: tuple[str, str],
    places: dict[str, tuple[float, float]],
    look: str,
) -> None:
    """Two wires from a box to its posts."""
    for n, p in enumerate(pair):
        if p not in places:
            continue
        x, y = places[p]
        sx = start[0] + (14 if n else -14)
        drawing.add(path(f"M{sx} {start[1]}C{sx} {y} {x} {start[1] + 20} {x} {y - POST}", look))
