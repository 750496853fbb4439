"""A window in section, to scale: primary and shunts in their places, former, every conductor at its
real overall diameter where the packer put it; what does not go in lies outside.
"""

from greyfell.core.coil_design.window import Packed, Window
from greyfell.web.drawings.shapes import Drawing, circle, line, rect, text

ACROSS, TALLEST = 400.0, 420.0
LEFT, TOP = 40.0, 40.0
BARE = 0.72
"""Copper of a conductor as it is drawn, of its overall diameter, where nothing tells better."""
NUMBERED = 9.0
MOST_DRAWN = 900


def window_drawing(window: Window, packed: Packed | None, title: str, words: str) -> Drawing:
    """Both windows of a shell core, the tongue between them. Pure."""
    wide = 2 * window.tongue_mm + 2 * window.width_mm
    high = window.height_mm + window.tongue_mm
    over = _overhang(window, packed)
    scale = min(ACROSS / (wide + 2 * over), TALLEST / high)
    width = (wide + 2 * over) * scale + 2 * LEFT
    drawing = Drawing(width, high * scale + TOP + 86, title, "Shell core in section, to scale.")
    left = LEFT + over * scale
    drawing.add(rect(left, TOP, wide * scale, high * scale, "core"))
    at = _Section(window=window, scale=scale, left=left)
    for mirrored in (True, False):
        _side(drawing, at, packed, mirrored=mirrored)
    _measures(drawing, at)
    middle = left + wide * scale / 2
    below = TOP + high * scale
    look = "t t-strong" if packed is None or packed.fits else "t t-strong stop"
    drawing.add(text(middle, below + 24, words, look, "middle"))
    drawing.add(text(middle, below + 44, _drawn_of(packed), "t t-small quiet", "middle"))
    return drawing


def _drawn_of(packed: Packed | None) -> str:
    if packed is not None and len(packed.circles) > MOST_DRAWN:
        return f"to scale; {MOST_DRAWN} of {len(packed.circles)} drawn"
    return "to scale; conductors over their insulation"


def _overhang(window: Window, packed: Packed | None) -> float:
    """Millimetres by which what does not go in sticks out of the window, beyond the outer leg."""
    if packed is None or not packed.outside:
        return 0.0
    most = max(x for x, _ in packed.outside) + packed.conductor.overall_mm / 2
    return max(0.0, most - window.width_mm - window.tongue_mm / 2)


class _Section:
    """Where millimetres of the window stand in the drawing."""

    def __init__(self, *, window: Window, scale: float, left: float) -> None:
        self.window, self.scale = window, scale
        self.tongue = left + (window.tongue_mm / 2 + window.width_mm) * scale
        self.foot = TOP + (window.tongue_mm / 2 + window.height_mm) * scale

    def x(self, mm: float, *, mirrored: bool) -> float:
        """From the tongue outwards, to the left or to the right."""
        if mirrored:
            return self.tongue - mm * self.scale
        return self.tongue + (self.window.tongue_mm + mm) * self.scale

    def y(self, mm: float) -> float:
        """From the window's foot up."""
        return self.foot - mm * self.scale


def _side(drawing: Drawing, at: _Section, packed: Packed | None, *, mirrored: bool) -> None:
    """One window with everything in it."""
    window = at.window

    def box(x: float, y: float, wide: float, high: float, look: str) -> None:
        ends = (at.x(x, mirrored=mirrored), at.x(x + wide, mirrored=mirrored))
        top = at.y(y + high)
        drawing.add(rect(min(ends), top, abs(ends[1] - ends[0]), high * at.scale, look))

    box(0, 0, window.width_mm, window.height_mm, "window")
    looks = {"primary": "coil", "shunts": "shunt"}
    for b in window.boxes:
        box(b.x, b.y, b.wide, b.high, looks[b.what])
    free = window.free
    if window.former_mm > 0 and free.high > 0:
        box(
            0,
            free.y - window.former_mm,
            window.former_mm,
            free.high + 2 * window.former_mm,
            "former",
        )
        box(0, free.y - window.former_mm, window.width_mm, window.former_mm, "former")
        box(0, free.y + free.high, window.width_mm, window.former_mm, "former")
    if packed is None:
        return
    if packed.conductor.rolled:
        for x, _ in (*packed.circles, *packed.outside):
            thick = packed.conductor.thick_mm
            box(x - thick / 2, free.y, thick, free.high, "turn-copper")
        return
    _turns(drawing, at, packed, mirrored=mirrored)


def _turns(drawing: Drawing, at: _Section, packed: Packed, *, mirrored: bool) -> None:
    r = packed.conductor.overall_mm / 2 * at.scale
    hands = packed.conductor.in_hand
    for n, (x, y) in enumerate((*packed.circles[:MOST_DRAWN], *packed.outside[:MOST_DRAWN])):
        px, py = at.x(x, mirrored=mirrored), at.y(y)
        out = n >= len(packed.circles[:MOST_DRAWN])
        drawing.add(circle(px, py, r, "turn-out" if out else "turn-skin"))
        drawing.add(circle(px, py, r * BARE, "turn-copper"))
        if r > NUMBERED and n % hands == 0:
            drawing.add(text(px, py + 4.5, str(n // hands + 1), "t t-turn", "middle"))


def _measures(drawing: Drawing, at: _Section) -> None:
    """Width and height of the window, and what stands in it, in words."""
    window = at.window
    centre = at.tongue + window.tongue_mm * at.scale / 2
    drawing.add(text(centre, at.y(window.height_mm / 2) - 6, "tongue", "t on-core", "middle"))
    size = f"{window.tongue_mm:.0f} mm"
    drawing.add(text(centre, at.y(window.height_mm / 2) + 12, size, "t mono on-core", "middle"))
    x = at.x(window.width_mm / 2, mirrored=True)
    said = f"{window.width_mm:.0f} × {window.height_mm:.0f} mm"
    drawing.add(text(x, TOP - 12, said, "t t-small mono", "middle"))
    for b in window.boxes:
        if b.high * at.scale < 14:
            continue
        words = "t t-small on-core" if b.what == "shunts" else "t t-small"
        drawing.add(text(x, at.y(b.y + b.high / 2) + 4, b.what, words, "middle"))
    edge = at.x(0, mirrored=False)
    drawing.add(line(edge, TOP - 6, at.x(window.width_mm, mirrored=False), TOP - 6, "axis"))
