"""Which windings the supply would go on, and how sure that is."""

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.figures.quantity import Quantity

SETTLED_PRIMARY = 0.95
"""From this chance a winding counts as the primary for anything live: fed by mistake, another puts
out many times its volts. House rule."""
LIKE_VOLTS = 1.15
"""Windings whose volts differ by no more than this factor may be fed one for the other: mains
wander as much. House rule."""


def fed_by_belief(belief: Belief) -> list[Winding]:
    """The windings that the supply would go on: the primary, or both its halves."""
    best = belief.best
    if best is not None and best.halves is not None:
        return [belief.windings[i] for i in best.halves]
    primary = belief.primary
    return [] if primary is None else [primary]


def how_sure(w: Winding, belief: Belief) -> float:
    """The chance that a winding takes the mains, or that it matters little which of those of its
    volts does.
    """
    return w.mains_chance + sum(x.mains_chance for x in _as_good(w, belief))


def settled_primary(belief: Belief) -> bool:
    """Whether every winding that would be fed is settled as the mains'."""
    fed = fed_by_belief(belief)
    return bool(fed) and all(how_sure(w, belief) >= SETTLED_PRIMARY for w in fed)


def _as_good(w: Winding, belief: Belief) -> list[Winding]:
    """Windings of so nearly the same volts that it matters little which of them is fed, as on a
    one-to-one part.
    """
    if w.volts is None:
        return []
    top = w.volts.value * LIKE_VOLTS
    others = [x for x in belief.windings if x is not w and not x.on_mains and x.volts is not None]
    return [x for x in others if x.volts is not None and _alike(x.volts, w.volts.value, top)]


def _alike(volts: Quantity, least: float, most: float) -> bool:
    return least / LIKE_VOLTS <= volts.low and volts.high <= most
