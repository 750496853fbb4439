"""For each number of turns the thickest conductor that a window takes: cable, several in hand,
bundle of strands, sheet.
"""

from collections.abc import Sequence
from functools import lru_cache

from greyfell.core.coil_design.conductors import Conductor, bend_fits, catalogue, strands
from greyfell.core.coil_design.window import Window, capacity, thickest_sheet
from greyfell.core.figures.solve import crossing

MOST_IN_HAND = {"enamelled": 12, "aluminium wire": 12, "cable": 4, "welding cable": 2}
"""More in hand than this nobody winds by hand. Common practice."""
SHEET_TURNS = 12
"""Sheet is wound for a few turns, where its end can still be brought out. Common practice."""


def ways(
    window: Window, turns: int, at_hand: Sequence[Conductor] = (), made: Sequence[str] = ()
) -> list[Conductor]:
    """The thickest of each kind that goes in with so many turns, most metal first; conductors at
    hand instead of the catalogue where they are given. Geometry, REF-M-16.
    """
    best: dict[str, Conductor] = {}
    for c in at_hand or CATALOGUE:
        if not bend_fits(c, window.tongue_mm, window.stack_mm):
            continue
        hands = min(capacity(window, c.overall_mm) // turns, MOST_IN_HAND.get(c.made, 1))
        if hands < 1:
            continue
        held = c.several(hands)
        if c.made not in best or held.whole_mm2 > best[c.made].whole_mm2:
            best[c.made] = held
    if not at_hand:
        _made_up(window, turns, best)
    found = [c for c in best.values() if not made or c.made in made]
    return sorted(found, key=lambda c: -c.whole_mm2 * c.metal.derating)


ROLLED = (("sheet", "copper"), ("aluminium sheet", "aluminium"))
CATALOGUE = tuple(catalogue())
"""Standard conductors."""


def _made_up(window: Window, turns: int, best: dict[str, Conductor]) -> None:
    """A bundle of strands as thick as goes in, and a sheet."""
    room = min(window.free.wide, window.free.high)
    thick = crossing(lambda mm: mm > 0 and capacity(window, mm) < turns, 0.0, room).at
    if thick > 1.0:
        best["strands"] = strands(thick)
    for made, metal in ROLLED if turns <= SHEET_TURNS else ():
        rolled = thickest_sheet(window, turns, metal)
        if rolled is not None:
            best[made] = rolled


def thickest(
    window: Window, turns: int, at_hand: Sequence[Conductor] = (), made: Sequence[str] = ()
) -> Conductor | None:
    """The thickest of all; None where nothing goes in."""
    if at_hand:
        return next(iter(ways(window, turns, at_hand, made)), None)
    return _standard(window, turns, tuple(made))


@lru_cache(maxsize=4096)
def _standard(window: Window, turns: int, made: tuple[str, ...]) -> Conductor | None:
    """The same of the catalogue, kept in mind: a page asks for it many times."""
    return next(iter(ways(window, turns, made=made)), None)


def enough(window: Window, turns: int, mm2: float, made: Sequence[str] = ()) -> Conductor | None:
    """The thinnest single conductor of at least so many mm² of which so many turns go in; where
    none does, the thickest that goes in.
    """
    for c in CATALOGUE:
        allowed = not made or c.made in made
        if allowed and c.mm2 * c.metal.derating >= mm2 and capacity(window, c.overall_mm) >= turns:
            return c
    return thickest(window, turns, made=made)
