"""A core from its side while a coil comes out: what is cut, driven or drilled, from where, and the
line at which the tool stops. To scale.
"""

from collections.abc import Callable

from greyfell.core.coil_design.removal import CARD_MM, stop_line
from greyfell.core.coil_design.window import Window
from greyfell.web.drawings.shapes import Drawing, line, path, rect, text

ACROSS, TALLEST = 300.0, 220.0
LEFT, TOP = 30.0, 16.0
ARROW, HEAD = 40.0, 6.0
STICKS_OUT = 3.0
"""Millimetres by which shunts stand out of the iron, as it is drawn."""
OFF = ("drive", "drill", "pull")
"""Steps before which the coil is already flush with the iron."""


class _View:
    """Where millimetres stand: x along the stack, y up from the foot of the window."""

    def __init__(self, window: Window) -> None:
        self.window = window
        wide = window.stack_mm + 2 * window.width_mm
        high = window.height_mm + window.tongue_mm
        self.scale = min(ACROSS / wide, TALLEST / high)
        self.wide, self.high = wide * self.scale + 2 * LEFT, high * self.scale
        self.foot = TOP + self.high - window.tongue_mm / 2 * self.scale
        self.coil = window.primary_mm + window.shunts_mm

    def x(self, mm: float) -> float:
        """From the left face of the iron."""
        return LEFT + (self.window.width_mm + mm) * self.scale

    def y(self, mm: float) -> float:
        """Up from the window's foot."""
        return self.foot - mm * self.scale


def _coils(drawing: Drawing, at: _View, *, upper: bool) -> None:
    window = at.window
    for side in (-window.width_mm, window.stack_mm):
        _coil(drawing, at, side, foot=0.0, high=window.primary_mm, look="coil")
        if upper:
            look = "coil coil-unsure"
            _coil(drawing, at, side, foot=at.coil, high=window.height_mm - at.coil, look=look)


def removal_drawing(window: Window, step: str) -> Drawing:
    """One step of taking the upper coil out. Pure."""
    at = _View(window)
    words = stop_line(step, window)
    drawing = Drawing(at.wide, at.high + TOP + 34, "The core from its side", words or "To scale.")
    _coils(drawing, at, upper=step not in OFF)
    left, right = at.x(0), at.x(window.stack_mm)
    top = at.y(window.height_mm + window.tongue_mm / 2)
    drawing.add(rect(left, top, right - left, at.high, "core"))
    _names(drawing, at, step)
    if window.shunts_mm > 0:
        wide = (window.stack_mm + 2 * STICKS_OUT) * at.scale
        high = window.shunts_mm * at.scale
        drawing.add(rect(at.x(-STICKS_OUT), at.y(at.coil), wide, high, "shunt"))
    ACTS.get(step, _nothing)(drawing, at)
    small = words or "to scale"
    drawing.add(text(at.wide / 2, at.high + TOP + 22, small, "t t-small", "middle"))
    return drawing


def _coil(drawing: Drawing, at: _View, side: float, *, foot: float, high: float, look: str) -> None:
    """What of a coil sticks out of the iron on one side."""
    if high <= 0:
        return
    wide = at.window.width_mm * at.scale
    drawing.add(rect(at.x(side), at.y(foot + high), wide, high * at.scale, look))


def _names(drawing: Drawing, at: _View, step: str) -> None:
    middle = at.x(at.window.stack_mm / 2)
    primary = at.y(at.window.primary_mm / 2) + 5
    drawing.add(text(middle, primary, "primary stays", "t t-small on-core", "middle"))
    coil = at.y((at.coil + at.window.height_mm) / 2) + 5
    said = "what is left of it" if step in OFF else "comes out"
    drawing.add(text(middle, coil, said, "t t-small on-core", "middle"))


def _nothing(drawing: Drawing, at: _View) -> None:
    """A step that shows nothing more."""


def _card(drawing: Drawing, at: _View) -> None:
    """Card between both coils, on both sides."""
    w = at.window
    y = at.y(at.coil - CARD_MM / 2)
    drawing.add(line(at.x(-w.width_mm) - 6, y, at.x(0) - 1, y, "fault-cross"))
    drawing.add(line(at.x(w.stack_mm) + 1, y, at.x(w.stack_mm + w.width_mm) + 6, y, "fault-cross"))


def _cut(drawing: Drawing, at: _View) -> None:
    """The blade along both faces of the iron, down to the card."""
    _card(drawing, at)
    _blade(drawing, at, at.x(0) - 2)
    _blade(drawing, at, at.x(at.window.stack_mm) + 2)


def _press(drawing: Drawing, at: _View) -> None:
    """Cut on one side; pressed from it."""
    _blade(drawing, at, at.x(at.window.stack_mm) + 2)
    _arrow(drawing, at.x(at.window.stack_mm) + 46, _middle(at), -ARROW, 0.0)


def _blade(drawing: Drawing, at: _View, x: float) -> None:
    drawing.add(line(x, at.y(at.window.height_mm) - 8, x, at.y(at.coil), "bond"))
    drawing.add(line(x - 9, at.y(at.coil), x + 9, at.y(at.coil), "bond"))


def _middle(at: _View) -> float:
    """Half way up the coil that comes out."""
    return at.y((at.coil + at.window.height_mm) / 2)


def _drive(drawing: Drawing, at: _View) -> None:
    _arrow(drawing, at.x(0) - 44, _middle(at) - 10, ARROW, 0.0)


def _drill(drawing: Drawing, at: _View) -> None:
    """Holes along the copper, as deep as the stack."""
    step = (at.window.height_mm - at.coil) / 4
    for k in (1, 3):
        y = at.y(at.coil + k * step)
        drawing.add(line(at.x(0) - 30, y, at.x(at.window.stack_mm), y, "turn-out"))
        _arrow(drawing, at.x(0) - 44, y, ARROW, 0.0)


def _pull(drawing: Drawing, at: _View) -> None:
    _arrow(drawing, at.x(0) - 4, _middle(at) - 10, -ARROW, 0.0)


def _seam(drawing: Drawing, at: _View) -> None:
    """The welded seam between the two parts of the iron."""
    y = at.y(at.window.height_mm)
    drawing.add(line(at.x(0), y, at.x(at.window.stack_mm), y, "bond"))


def _split(drawing: Drawing, at: _View) -> None:
    _seam(drawing, at)
    _lift(drawing, at)


def _lift(drawing: Drawing, at: _View) -> None:
    y = at.y(at.window.height_mm + at.window.tongue_mm / 4)
    _arrow(drawing, at.x(at.window.stack_mm) + 20, y + 30, 0.0, -ARROW)


def _shunts(drawing: Drawing, at: _View) -> None:
    y = at.y(at.window.primary_mm + at.window.shunts_mm / 2)
    _arrow(drawing, at.x(0) - 50, y, ARROW, 0.0)


def _arrow(drawing: Drawing, x: float, y: float, dx: float, dy: float) -> None:
    """An arrow from a place along one axis."""
    ux, uy = (dx / ARROW, dy / ARROW)
    ex, ey = x + dx, y + dy
    back = (ex - HEAD * ux, ey - HEAD * uy)
    drawing.add(line(x, y, ex, ey, "bond"))
    wing = f"M{back[0] - HEAD * uy:.1f} {back[1] - HEAD * ux:.1f}L{ex:.1f} {ey:.1f}"
    wing += f"L{back[0] + HEAD * uy:.1f} {back[1] + HEAD * ux:.1f}"
    drawing.add(path(wing, "bond"))


ACTS: dict[str, Callable[[Drawing, _View], None]] = {
    "card": _card,
    "cut": _cut,
    "drive": _drive,
    "drill": _drill,
    "pull": _pull,
    "grind": _seam,
    "split": _split,
    "first": _lift,
    "lift": _lift,
    "press": _press,
    "shunts": _shunts,
}
"""What each step adds to the picture."""
