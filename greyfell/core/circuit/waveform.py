"""The shape of a no-load current: a straight share and a steep power of flux, found from how its
RMS, or its mean, goes with the volts.
"""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

STRAIGHTS = np.linspace(0.05, 0.95, 19)
POWERS = np.arange(4.0, 17.0, 1.0)
MARKED = math.pi / (2 * math.sqrt(2))
"""1.11: a meter that reads the mean is marked in RMS of a sine. Definition of the form factor."""
ENOUGH = 24
"""So many points lay a shape down."""
_SINE = np.sin((np.arange(64) + 0.5) * (math.pi / 2 / 64))
Figures = NDArray[np.float64]


def current(volts: Figures, straight: float | Figures, power: float) -> Figures:
    """Instants of a current of this shape, one row for each of the volts over those at the top; of
    many straight shares (k, 1, 1), k such tables. REF-M-11.
    """
    x = volts[:, None] * _SINE
    return np.asarray(straight * x + (1 - straight) * x**power)


def rms(instants: Figures) -> Figures:
    """RMS of each row, in the unit of its figures, V or A; shape (rows, instants) to (rows). By
    definition.

    >>> rms(np.array([[3.0, -3.0], [0.0, 2.0]])).round(3)
    array([3.   , 1.414])
    """
    return np.asarray(np.sqrt(np.mean(instants**2, axis=-1)))


def as_averaged(instants: Figures) -> Figures:
    """What an averaging meter shows of each row: the mean, marked in RMS of a sine. Form factor of
    a sine, by definition.

    >>> half = np.sin(np.linspace(0.0, math.pi, 1001))
    >>> as_averaged(np.array([half])).round(2)
    array([0.71])
    """
    return np.asarray(MARKED * np.mean(instants, axis=-1))


def shape_of(
    points: Sequence[tuple[float, float]], *, averaging: bool = False
) -> tuple[float, float]:
    """Straight share and power whose amps follow these (volts, amps), both over those at the top;
    amps by an averaging meter where so said. REF-M-11, fitted by least squares.

    >>> volts = np.array([0.3, 0.5, 0.7, 0.9, 1.0])
    >>> seen = rms(current(volts, 0.4, 9.0))
    >>> straight, power = shape_of(list(zip(volts, seen / seen[-1])))
    >>> round(straight, 2), power
    (0.4, 9.0)
    """
    points = thinned(points)
    volts = np.array([v for v, _ in points])
    told = np.log(np.array([i for _, i in points]))
    shown = as_averaged if averaging else rms
    best, least = (float(STRAIGHTS[0]), float(POWERS[0])), math.inf
    for power in POWERS:
        off = np.log(shown(current(volts, STRAIGHTS[:, None, None], power))) - told
        spreads = np.sum((off - off.mean(axis=-1, keepdims=True)) ** 2, axis=-1)
        n = int(np.argmin(spreads))
        if spreads[n] < least:
            best, least = (float(STRAIGHTS[n]), float(power)), float(spreads[n])
    return best


def thinned(points: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """So many points as lay a shape down, spread evenly over a long sweep, its ends among them.

    >>> len(thinned([(float(n), 1.0) for n in range(1000)])), thinned([(1.0, 2.0)])
    (24, [(1.0, 2.0)])
    """
    if len(points) <= ENOUGH:
        return list(points)
    at = np.linspace(0, len(points) - 1, ENOUGH).astype(int)
    return [points[int(k)] for k in at]


def true_over_averaged(points: Sequence[tuple[float, float]]) -> list[float]:
    """How many times the amps of an averaging meter the true RMS is, at each of its points (volts,
    amps): such currents are read 15 to 35 % low. Definition of the form factor.
    """
    top = max(v for v, _ in points)
    last = max(i for _, i in points)
    scaled = [(v / top, i / last) for v, i in points]
    straight, power = shape_of(scaled, averaging=True)
    instants = current(np.array([v for v, _ in scaled]), straight, power)
    return [float(x) for x in rms(instants) / as_averaged(instants)]
