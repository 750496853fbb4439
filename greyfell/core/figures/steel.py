"""Iron as a planner reckons with it: field by flux density, fringing of a gap, loss, rise."""

import math

from greyfell.core.figures.constants import MU0

FOOT, STEEP, POWER = 110.0, 12.0, 12
"""H = 110·B + 12·B¹² A/m of cold-rolled sheet without grain. REF-M-11, from memory, ± 30 %."""
LOSS_AT_ONE_TESLA, LOSS_BY_FLUX, LOSS_BY_HERTZ = 2.3, 2.0, 1.35
"""W/kg at 1 T 50 Hz of M530-50A, and the powers of flux and hertz. EN 10106, REF-M-18."""
RISE, RISE_POWER = 450.0, 0.826
"""ΔT = 450·ψ^0.826 K, ψ in W/cm² of surface. REF-M-19, McLyman ch. 6."""


def field(tesla: float) -> float:
    """H in A/m at a flux density in T. REF-M-11.

    >>> round(field(1.0)), round(field(1.5))
    (122, 1722)
    """
    return FOOT * tesla + STEEP * tesla**POWER


def fringing(gap_m: float, area_m2: float, window_m: float) -> float:
    """By what the flux of a gap spreads: F = 1 + l_g/√A·ln(2G/l_g). REF-M-07, McLyman ch. 8; the
    gap shorter than a quarter of √A.

    >>> round(fringing(1e-3, 10e-4, 45e-3), 3)
    1.142
    """
    if gap_m <= 0:
        return 1.0
    return 1 + gap_m / math.sqrt(area_m2) * math.log(max(2 * window_m / gap_m, 1.0))


def watts_per_kg(tesla: float, hertz: float) -> float:
    """Loss of common sheet. REF-M-18.

    >>> round(watts_per_kg(1.2, 60.0), 3)
    4.236
    """
    return float(LOSS_AT_ONE_TESLA * tesla**LOSS_BY_FLUX * (hertz / 50) ** LOSS_BY_HERTZ)


def rise_kelvin(watts: float, surface_m2: float) -> float:
    """Rise of a part in still air. REF-M-19.

    >>> round(rise_kelvin(60.0, 600e-4), 2)
    67.18
    """
    return float(RISE * (watts / (surface_m2 * 1e4)) ** RISE_POWER)


def gapped_henries(turns: float, area_m2: float, gap_m: float, path_m: float, mu: float) -> float:
    """L = μ0·N²·A/(l_g + l_m/μr), without fringing. REF-M-06, McLyman ch. 8.

    >>> round(1e3 * gapped_henries(200, 10e-4, 1e-3, 0.2, 4000), 2)
    47.87
    """
    return MU0 * turns**2 * area_m2 / (gap_m + path_m / mu)
