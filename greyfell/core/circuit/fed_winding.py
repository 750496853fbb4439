"""What the supply goes on, as one winding: the primary, or the two halves of a dual one."""

from msgspec.structs import replace

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.mains import high_region
from greyfell.core.figures.quantity import Quantity


def halves(belief: Belief) -> tuple[Winding, Winding] | None:
    """The two halves of a dual primary; None where it is one winding."""
    best = belief.best
    if best is None or best.halves is None:
        return None
    one, two = best.halves
    return belief.windings[one], belief.windings[two]


def fed_whole(record: Transformer, belief: Belief) -> Winding | None:
    """The primary; or two halves with their ohms and volts together, in series on mains of the high
    region, else side by side (IEC 60038; common practice). None where no primary is known, or not
    the volts of a half.
    """
    both = halves(belief)
    if both is None:
        return belief.primary
    one, two = both
    if one.volts is None or two.volts is None:
        return None
    if not high_region(record.supply.volts):
        ohms = beside(one.coil.ohms, two.coil.ohms)
        return replace(one, coil=replace(one.coil, ohms=ohms))
    ends = (one.coil.leads[0], two.coil.leads[1])
    coil = replace(one.coil, leads=ends, ohms=added(one.coil.ohms, two.coil.ohms))
    return replace(one, coil=coil, volts=added(one.volts, two.volts))


def added(one: Quantity, two: Quantity) -> Quantity:
    """Two figures in series, in their own unit, Ω or V: their sum, ends to ends.

    >>> from greyfell.core.figures.quantity import exact
    >>> added(exact(4.0), exact(5.0)).value
    9.0
    """
    low, high = one.low + two.low, one.high + two.high
    return Quantity(one.value + two.value, low, high, _together(one, two))


def beside(one: Quantity, two: Quantity) -> Quantity:
    """Two ohms side by side; nought where one of them is. Ohm's and Kirchhoff's laws.

    >>> from greyfell.core.figures.quantity import exact
    >>> beside(exact(4.0), exact(4.0)).value
    2.0
    """
    ends = ((one.value, two.value), (one.low, two.low), (one.high, two.high))
    value, low, high = (a * b / (a + b) if a + b > 0 else 0.0 for a, b in ends)
    return Quantity(value, low, high, _together(one, two))


def _together(one: Quantity, two: Quantity) -> tuple[str, ...]:
    return tuple(dict.fromkeys((*one.basis, *two.basis)))
