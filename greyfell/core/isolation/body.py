"""A body between two points: its impedance by the volts, and the zone of what flows for so long.

Nothing here ever calls anything safe: the curves are known to a quarter, and a path may be worse.
"""

import itertools
import math
from collections.abc import Sequence

IMPEDANCE = (
    (25.0, 1750.0, 3250.0, 6100.0),
    (50.0, 1375.0, 2500.0, 4600.0),
    (100.0, 990.0, 1725.0, 3125.0),
    (200.0, 800.0, 1275.0, 2050.0),
    (225.0, 775.0, 1225.0, 1900.0),
    (500.0, 625.0, 850.0, 1150.0),
    (1000.0, 575.0, 775.0, 1050.0),
)
"""Volts; Ω hand to hand, dry, large, not exceeded by 5, 50 and 95 % of people. IEC 60479-1 table 1;
all but the last row from memory, ± 5 %."""
ZONES = ("AC-1", "AC-2", "AC-3", "AC-4")
FELT = 0.5e-3
"""A: curve a, below it nothing is felt. IEC 60479-1."""
LETS_GO = ((0.01, 0.2), (2.0, 0.005))
"""s, A: curve b, from 200 mA at 10 ms to 5 mA for good. IEC 60479-1."""
FIBRILLATES = ((0.01, 0.5), (0.1, 0.4), (0.5, 0.1), (1.0, 0.05), (3.0, 0.04))
"""s, A: curve c1, left hand to both feet. IEC 60479-1, ± 25 %."""


def _along(points: Sequence[tuple[float, float]], x: float) -> float:
    """Between points in both logarithms; beyond the ends, at them."""
    if x <= points[0][0]:
        return points[0][1]
    for (x1, y1), (x2, y2) in itertools.pairwise(points):
        if x <= x2:
            share = math.log(x / x1) / math.log(x2 / x1)
            return math.exp(math.log(y1) + share * math.log(y2 / y1))
    return points[-1][1]


def body_ohms(volts: float) -> tuple[float, float, float]:
    """Ohms of a body at so many volts: 5 %, 50 % and 95 % not exceeded. IEC 60479-1 table 1.

    >>> body_ohms(225.0)
    (775.0, 1225.0, 1900.0)
    """
    rows = [tuple((v, row[k]) for v, *row in IMPEDANCE) for k in range(3)]
    one, two, three = (round(_along(r, max(volts, 1.0)), 6) for r in rows)
    return one, two, three


def zone(amps: float, seconds: float) -> str:
    """Zone of a current through a body for so long. A, s. IEC 60479-1.

    >>> zone(0.0004, 10.0), zone(0.004, 10.0), zone(0.03, 10.0), zone(0.05, 10.0)
    ('AC-1', 'AC-2', 'AC-3', 'AC-4')
    """
    if amps <= FELT:
        return ZONES[0]
    if amps <= _along(LETS_GO, seconds):
        return ZONES[1]
    if amps <= _along(FIBRILLATES, seconds):
        return ZONES[2]
    return ZONES[3]
