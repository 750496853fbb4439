"""Heat of shots and rests in a winding, and a shunt beyond its rating."""

import math

from greyfell.core.figures.constants import COOLING
from greyfell.core.figures.wire import Metal

HEATS = {"copper": 385.0, "aluminium": 897.0}
"""J/kgK of each metal. Tables of physics, from memory."""
SHUNT_SECONDS = (40.0, 120.0, 300.0)
"""Time constant of a shunt on its block, s: least, usual, most. From memory."""


def rise_of_shot(a_per_mm2: float, seconds: float, metal: Metal, celsius: float) -> float:
    """Kelvin that one shot heats a buried conductor by, nothing given away. REF-W-12.

    >>> from greyfell.core.figures.wire import METALS
    >>> round(rise_of_shot(20.0, 60.0, METALS["copper"], 25.0), 1)
    156.2
    """
    power = min(a_per_mm2**2 * seconds / metal.heating**2, 700.0)
    return (metal.beta + celsius) * (math.exp(power) - 1)


def cooling_watts(surface_cm2: float, over_kelvin: float) -> float:
    """Watts that still air takes from a surface so much warmer. Newton's law of cooling;
    coefficient common practice.

    >>> round(cooling_watts(200.0, 50.0), 1)
    14.9
    """
    return COOLING * surface_cm2 * 1e-4 * over_kelvin


def shots_to_limit(
    a_per_mm2: float, seconds: float, metal: Metal, ends: tuple[float, float]
) -> int:
    """Whole shots from one temperature to another with no rest between. REF-W-12."""
    start, limit = ends
    whole = metal.heating**2 / a_per_mm2**2 * math.log((metal.beta + limit) / (metal.beta + start))
    return int(whole / seconds + 1e-9)


def overload_seconds(times_watts: float) -> tuple[float, float, float] | None:
    """Least, usual and most seconds until a shunt at so many times its rated watts is as warm as it
    is made for: t = −τ·ln(1 − 1/k). None where it is not overloaded. Newton's law of cooling.

    >>> [round(t, 1) for t in overload_seconds(9.0)]
    [4.7, 14.1, 35.3]
    """
    if times_watts <= 1.0:
        return None
    least, usual, most = (-tau * math.log(1 - 1 / times_watts) for tau in SHUNT_SECONDS)
    return least, usual, most
