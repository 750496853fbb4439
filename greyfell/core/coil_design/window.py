"""A window and what goes into it: primary, shunts, former and paper take their place first; round
conductors are packed square or in each other's hollows, and every circle has its place.

Millimetres; x runs out from the tongue, y along it. A turn passes both windows, so that one window
shows every turn once.
"""

import math
from collections.abc import Callable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.coil_design.conductors import SHEET_TAPE_MM, Conductor, sheet

HOLLOW = math.sqrt(3) / 2
"""A layer that lies in the hollows of the last is so much of a diameter higher. REF-M-16."""
CLOSE = 1e-9
THICKEST_SHEET = 3.0
"""Thicker sheet nobody bends around a tongue, mm. Common practice."""
MOST_CIRCLES = 6000
"""More than this is not drawn circle by circle."""
SQUARE, HOLLOWS, ALONG = "square", "in the hollows", "in the hollows, rows along the tongue"


class Box(Struct, frozen=True, kw_only=True):
    """A rectangle in the window, mm: what it is, its corner nearest tongue and foot, its sides."""

    what: str
    x: float
    y: float
    wide: float
    high: float


class Window(Struct, frozen=True, kw_only=True):
    """A shell core's window: tongue and stack, width and height, and what is in it already: height
    of primary and shunts, the former's wall, paper between the new layers, in mm.
    """

    width_mm: float
    height_mm: float
    tongue_mm: float
    stack_mm: float
    primary_mm: float = 0.0
    shunts_mm: float = 0.0
    former_mm: float = 1.5
    paper_mm: float = 0.0

    @property
    def boxes(self) -> tuple[Box, ...]:
        """What stands in it, from the foot up: primary, shunts, former around what is left."""
        out = []
        if self.primary_mm > 0:
            out.append(Box(what="primary", x=0.0, y=0.0, wide=self.width_mm, high=self.primary_mm))
        if self.shunts_mm > 0:
            out.append(
                Box(
                    what="shunts",
                    x=0.0,
                    y=self.primary_mm,
                    wide=self.width_mm,
                    high=self.shunts_mm,
                )
            )
        return tuple(out)

    @property
    def free(self) -> Box:
        """What is left for the winding, inside the former: a wall at the tongue and at both ends,
        none outside.
        """
        foot = self.primary_mm + self.shunts_mm
        return Box(
            what="free",
            x=self.former_mm,
            y=foot + self.former_mm,
            wide=max(0.0, self.width_mm - self.former_mm),
            high=max(0.0, self.height_mm - foot - 2 * self.former_mm),
        )

    def mean_turn_m(self, build_mm: float) -> float:
        """Metres of a mean turn of so much build. REF-M-14.

        >>> bare = Window(width_mm=22, height_mm=66, tongue_mm=40, stack_mm=50, former_mm=0)
        >>> round(bare.mean_turn_m(10.0), 4)
        0.2114
        """
        c = self.former_mm
        sides = 2 * (self.tongue_mm + 2 * c) + 2 * (self.stack_mm + 2 * c)
        return (sides + math.pi * build_mm) * 1e-3

    def without_shunts(self) -> "Window":
        """The same with its shunts out."""
        return replace(self, shunts_mm=0.0)


class Packed(Struct, frozen=True, kw_only=True):
    """A conductor in a window: circles inside (their middles, mm, in window's measure), those that
    stick out, circles that fit in all, how they lie, layers they take, build in mm.
    """

    conductor: Conductor
    turns: int
    circles: tuple[tuple[float, float], ...]
    outside: tuple[tuple[float, float], ...]
    most: int
    pattern: str
    layers: int
    build_mm: float

    @property
    def fits(self) -> bool:
        """Whether every turn is inside."""
        return not self.outside

    @property
    def turns_that_fit(self) -> int:
        """Whole turns that go in."""
        return self.most // self.conductor.in_hand


def _square(wide: float, high: float, d: float, gap: float) -> list[tuple[float, float]]:
    """Middles in columns from the tongue, `gap` of insulation between layers."""
    columns = math.floor((wide + gap) / (d + gap) + CLOSE)
    rows = math.floor(high / d + CLOSE)
    return [(d / 2 + k * (d + gap), d / 2 + n * d) for k in range(columns) for n in range(rows)]


def _hollows(wide: float, high: float, d: float, gap: float) -> list[tuple[float, float]]:
    """Middles in columns, every second one half a diameter up, in the hollows of the last."""
    if gap > 0 or wide < d - CLOSE or high < d - CLOSE:
        return []
    columns = 1 + math.floor((wide - d) / (HOLLOW * d) + CLOSE)
    out = []
    for k in range(columns):
        shift = 0.5 * d * (k % 2)
        rows = math.floor((high - shift) / d + CLOSE)
        out += [(d / 2 + k * HOLLOW * d, d / 2 + shift + n * d) for n in range(rows)]
    return out


def _along(wide: float, high: float, d: float, gap: float) -> list[tuple[float, float]]:
    """The same with rows along the other side, laid from the tongue on."""
    if gap > 0:
        return []
    turned = [(y, x) for x, y in _hollows(high, wide, d, 0.0)]
    return sorted(turned, key=lambda p: (round(p[0] / d), p[1]))


PATTERNS: dict[str, Callable[[float, float, float, float], list[tuple[float, float]]]] = {
    SQUARE: _square,
    HOLLOWS: _hollows,
    ALONG: _along,
}
"""Ways to lay round conductors. REF-M-16; both orientations are tried."""


def places(
    window: Window, overall_mm: float, gap_mm: float = 0.0, pattern: str = ""
) -> tuple[str, list[tuple[float, float]]]:
    """The pattern that takes most (or the one that is named), and its places in the free window,
    the tongue's first.

    >>> w = Window(width_mm=22, height_mm=66, tongue_mm=40, stack_mm=50, former_mm=0)
    >>> {p: len(places(w, 4.0, pattern=p)[1]) for p in (SQUARE, HOLLOWS)}
    {'square': 80, 'in the hollows': 96}
    """
    free = window.free
    if overall_mm <= 0:
        return SQUARE, []
    ways = [pattern] if pattern else list(PATTERNS)
    laid = {w: PATTERNS[w](free.wide, free.high, overall_mm, gap_mm) for w in ways}
    best = max(ways, key=lambda w: len(laid[w]))
    return best, [(free.x + x, free.y + y) for x, y in laid[best]]


def pack(
    window: Window, conductor: Conductor, turns: int, gap_mm: float = 0.0, pattern: str = ""
) -> Packed:
    """So many turns of a conductor in a window; what does not go in lies outside of it, beside the
    window. REF-M-16; geometry.
    """
    if conductor.rolled:
        return _sheets(window, conductor, turns)
    wanted = turns * conductor.in_hand
    d = conductor.overall_mm
    how, found = places(window, d, max(gap_mm, window.paper_mm), pattern)
    inside = found[:wanted]
    build = max((x for x, _ in inside), default=window.free.x) + d / 2 - window.free.x
    columns = {round(x / d, 3) for x, _ in inside}
    return Packed(
        conductor=conductor,
        turns=turns,
        circles=tuple(inside),
        outside=tuple(_beside(window, d, wanted - len(inside))),
        most=len(found),
        pattern=how,
        layers=len(columns),
        build_mm=max(0.0, build),
    )


def _beside(window: Window, d: float, count: int) -> Iterator[tuple[float, float]]:
    """Places outside of the window, for what does not go in: columns as high as the window."""
    rows = max(1, math.floor(window.height_mm / d))
    for n in range(min(count, MOST_CIRCLES)):
        yield window.width_mm + d * (0.5 + n // rows), d * (0.5 + n % rows)


def _sheets(window: Window, conductor: Conductor, turns: int) -> Packed:
    """A sheet turn upon turn: each a strip as high as the free window, its middle its place."""
    free = window.free
    step = conductor.overall_mm
    most = math.floor(free.wide / step + CLOSE) if step > 0 else 0
    inside = min(turns, most)
    y = free.y + free.high / 2
    return Packed(
        conductor=conductor,
        turns=turns,
        circles=tuple((free.x + step * (k + 0.5), y) for k in range(inside)),
        outside=tuple((window.width_mm + step * (k + 0.5), y) for k in range(turns - inside)),
        most=most,
        pattern="turn upon turn",
        layers=inside,
        build_mm=inside * step,
    )


def thickest_sheet(window: Window, turns: int, material: str = "copper") -> Conductor | None:
    """The sheet of which so many turns just go in; None where there is no room for one."""
    free = window.free
    thick = free.wide / turns - SHEET_TAPE_MM
    if thick <= 0.05 or free.high <= 0:
        return None
    return sheet(min(THICKEST_SHEET, math.floor(thick * 20 + CLOSE) / 20), free.high, material)


def capacity(window: Window, overall_mm: float) -> int:
    """How many round conductors of so much overall go in, however they are laid. REF-M-16."""
    free = window.free
    wide, high = free.wide, free.high
    d = overall_mm
    if d <= 0 or wide < d - CLOSE or high < d - CLOSE:
        return 0
    paper = window.paper_mm
    square = math.floor((wide + paper) / (d + paper) + CLOSE) * math.floor(high / d + CLOSE)
    if paper > 0:
        return square
    return max(square, _in_hollows(wide, high, d), _in_hollows(high, wide, d))


def _in_hollows(wide: float, high: float, d: float) -> int:
    """Columns that lie in each other's hollows."""
    columns = 1 + math.floor((wide - d) / (HOLLOW * d) + CLOSE)
    odd = math.floor(high / d + CLOSE)
    even = max(0, math.floor((high - d / 2) / d + CLOSE))
    return (columns + 1) // 2 * odd + columns // 2 * even
