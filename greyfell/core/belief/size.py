"""One law for copper against size: what the ohms of a primary say of its volt-amperes, and back.

R/V² of a primary is half of what the copper of the whole drops at full load, over the volt-amperes:
small parts drop a third, large ones a twentieth. REF-M-05 with M-T3; its steeper foot below 60 VA
from memory. Common practice.
"""

import math

FACTOR, POWER = 0.0305, 1.05
"""R/V² = FACTOR / VA^POWER above KNEE_VA."""
KNEE_VA, FOOT = 60.0, 0.45
"""Below, small parts have so much thinner wire: (KNEE_VA / VA)^FOOT times as many ohms."""
LAW_SD = 0.48
"""Spread of ln R/V² at so many volt-amperes. From memory."""


def log_size(va: float) -> float:
    """ln(R/V²) of the primary of so many volt-amperes. REF-M-05 with M-T3.

    >>> round(math.exp(log_size(100.0)) * 230**2, 1)
    12.8
    """
    foot = FOOT * math.log(KNEE_VA / va) if va < KNEE_VA else 0.0
    return math.log(FACTOR) - POWER * math.log(va) + foot


def va_of(size: float) -> tuple[float, float]:
    """Volt-amperes that go with ln(R/V²) of a primary, and how far their logarithm falls for each
    step of it. The inverse of `log_size`. From memory: the size law.

    >>> [round(x, 3) for x in va_of(log_size(100.0))]
    [100.0, 0.952]
    >>> round(va_of(log_size(12.0))[0], 3)
    12.0
    """
    above = (math.log(FACTOR) - size) / POWER
    if above >= math.log(KNEE_VA):
        return math.exp(above), 1 / POWER
    steep = POWER + FOOT
    below = (math.log(FACTOR) + FOOT * math.log(KNEE_VA) - size) / steep
    return math.exp(below), 1 / steep
