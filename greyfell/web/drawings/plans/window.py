"""A new winding's turns through the windows of a shell core: every whole turn passes both."""

from collections.abc import Iterator

from msgspec import Struct

from greyfell.core.evidence.record import Transformer
from greyfell.core.planner_kit.declare import Planned
from greyfell.core.planners.rewind import Found, Given, packed, window_of
from greyfell.web.drawings.fill import window_drawing
from greyfell.web.drawings.shapes import Drawing, Shape, circle, line, rect, text

MOST_DRAWN = 24
USUAL_MM = (38.0, 19.0, 57.0)
"""Tongue, window width and height of a middling shell core, where none was measured."""


class _Iron(Struct, frozen=True):
    """Where the core stands in the drawing: corner, tongue, window width and height."""

    x: float
    y: float
    tongue: float
    wide: float
    high: float

    @property
    def width(self) -> float:
        return 2 * self.tongue + 2 * self.wide

    @property
    def height(self) -> float:
        return self.high + self.tongue

    @property
    def top(self) -> float:
        return self.y + self.tongue / 2

    @property
    def windows(self) -> tuple[float, float]:
        """Left edges of the two windows."""
        left = self.x + self.tongue / 2
        return left, left + self.wide + self.tongue


def window(planned: Planned, record: Transformer | None) -> Drawing:
    """Cross-section with the turns in both windows; to scale in the iron where its window was
    measured. Turns beyond those that fit are not drawn as if they did.
    """
    given, found = planned.given, planned.found
    window, laid = window_of(given), packed(given, found.turns)
    if window is not None and laid is not None and _measured(given):
        return window_drawing(window, laid, _title(found), _fit_words(found))
    measured = _measured(given)
    iron = _placed(measured or USUAL_MM)
    told = "iron to scale, turns not" if measured else "not to scale: the window is not measured"
    drawing = Drawing(
        iron.width + 80,
        iron.height + 100,
        _title(found),
        f"Shell core in section, {told}.",
    )
    _core(drawing, iron)
    drawn = _drawn(found)
    _turns(drawing, iron, drawn)
    middle = iron.x + iron.width / 2
    _named(drawing, iron, f"{measured[0]:g} mm" if measured else "")
    below = iron.y + iron.height
    drawing.add(text(middle, below + 22, _words(found), "t", "middle"))
    small = told if drawn == found.turns else f"the first {drawn} drawn; {told}"
    drawing.add(text(middle, below + 40, small, "t t-small quiet", "middle"))
    _fit(drawing, found, middle, below + 58)
    return drawing


def _title(found: Found) -> str:
    return f"{found.turns} turns through both windows"


def _measured(given: Given) -> tuple[float, float, float] | None:
    """Tongue, window width and height in mm, where all are known."""
    sizes = (given.tongue_mm, given.window_width_mm, given.window_height_mm)
    return None if None in sizes else (sizes[0] or 0.0, sizes[1] or 0.0, sizes[2] or 0.0)


def _placed(sizes: tuple[float, float, float]) -> _Iron:
    tongue, wide, high = sizes
    scale = min(320.0 / (2 * tongue + 2 * wide), 420.0 / (high + tongue))
    return _Iron(x=40.0, y=34.0, tongue=tongue * scale, wide=wide * scale, high=high * scale)


def _core(drawing: Drawing, iron: _Iron) -> None:
    drawing.add(rect(iron.x, iron.y, iron.width, iron.height, "core"))
    right, bottom = iron.x + iron.width, iron.y + iron.height
    for i in range(2):
        above, below = iron.y + 8 + 8 * i, bottom - 8 - 8 * i
        drawing.add(
            line(iron.x, above, right, above, "lamination"),
            line(iron.x, below, right, below, "lamination"),
        )
    for x in iron.windows:
        drawing.add(rect(x, iron.top, iron.wide, iron.high, "window"))


def _drawn(found: Found) -> int:
    """How many turns are drawn: no more than fit, and no more than can be told apart."""
    fit = found.turns if found.turns_that_fit is None else min(found.turns, found.turns_that_fit)
    return min(fit, MOST_DRAWN)


def _named(drawing: Drawing, iron: _Iron, size: str) -> None:
    middle, centre = iron.x + iron.width / 2, iron.top + iron.high / 2
    drawing.add(text(middle, centre - 6, "tongue", "t on-core", "middle"))
    if size:
        drawing.add(text(middle, centre + 12, size, "t mono on-core", "middle"))
    for x, words in zip(iron.windows, ("one side", "the other"), strict=True):
        drawing.add(text(x + iron.wide / 2, iron.y - 10, words, "t t-small quiet", "middle"))


def _turn(x: float, y: float, r: float, number: int) -> Iterator[Shape]:
    yield circle(x, y, r, "turn-skin")
    yield circle(x, y, r * 0.68, "turn-copper")
    if r > 9:
        yield text(x, y + 4.5, str(number), "t t-turn", "middle")


def _turns(drawing: Drawing, iron: _Iron, drawn: int) -> None:
    """The turns in both windows, filled from the tongue and the bottom."""
    columns = 1 if drawn <= 6 else 2 if drawn <= 12 else 4
    rows = -(-drawn // columns)
    across = (iron.wide - 12 - 2 * (columns - 1)) / (2 * columns)
    r = min(across, 0.42 * iron.high / max(rows, 3), 22.0)
    left, right = iron.windows
    for k in range(drawn):
        column, row = k % columns, k // columns
        y = iron.top + iron.high - 6 - r - row * (2 * r + 2)
        offset = r + 6 + column * (2 * r + 2)
        for cx in (left + iron.wide - offset, right + offset):
            drawing.add(*_turn(cx, y, r, k + 1))
        if k == 0:
            drawing.add(line(left + iron.wide + 2, y, right - 2, y, "turn-join"))


def _words(found: Found) -> str:
    turns = "turn" if found.turns == 1 else "turns"
    return f"{found.turns} whole {turns}: in one window, back through the other"


def _fit(drawing: Drawing, found: Found, x: float, y: float) -> None:
    """Whether they fit, in words; nothing where it is not known."""
    if found.fits is None or found.turns_that_fit is None:
        return
    words = _fit_words(found)
    drawing.add(text(x, y, words, "t t-strong" if found.fits else "t t-strong stop", "middle"))


def _fit_words(found: Found) -> str:
    """Whether the window takes them."""
    if found.fits:
        return f"the window takes {found.turns_that_fit}: they fit"
    return f"they do not fit: the window takes {found.turns_that_fit}"
