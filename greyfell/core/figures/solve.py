"""Where a figure crosses: one bisection, and one Newton in a bracket where a slope is known; each
says whether the crossing lay between its ends.

Its own few lines: importing a library of solvers costs more than all of an identification.
"""

from collections.abc import Callable

from msgspec import Struct

HALVINGS = 60
"""Halvings of a range: what is left of it is below the last digit of a number."""


class Crossing(Struct, frozen=True):
    """Where a condition begins to hold; `bracketed` is whether it lay between the ends: where it
    holds at the lower end already `at` is that end, where it holds nowhere the upper one.
    """

    at: float
    bracketed: bool


def crossing(holds: Callable[[float], bool], low: float, high: float) -> Crossing:
    """The last figure of a range before a condition holds, which holds from somewhere on; by
    bisection. Raises ValueError where the range is none.

    >>> found = crossing(lambda x: x * x >= 2.0, 0.0, 2.0)
    >>> round(found.at, 9), found.bracketed
    (1.414213562, True)
    >>> crossing(lambda x: x > 3.0, 0.0, 2.0), crossing(lambda x: x >= 0.0, 0.0, 2.0)
    (Crossing(at=2.0, bracketed=False), Crossing(at=0.0, bracketed=False))
    """
    if not low <= high:
        raise ValueError(f"no range from {low:g} to {high:g}")
    if holds(low):
        return Crossing(low, bracketed=False)
    if not holds(high):
        return Crossing(high, bracketed=False)
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        low, high = (low, middle) if holds(middle) else (middle, high)
    return Crossing(low, bracketed=True)


STEPS = 40
"""Steps of Newton's method in a bracket; a step that leaves it halves the bracket instead."""
FLAT = 4e-7
"""A slope below this sends Newton's method out of any bracket."""


def crossing_by_slope(
    rising: Callable[[float], tuple[float, float]], low: float, high: float, within: float
) -> Crossing:
    """Where a rising figure passes nought, by its value and slope: Newton's method in a bracket,
    until a step moves less than `within`. `bracketed` is whether it settled between the ends.
    Raises ValueError where the range is none.

    >>> found = crossing_by_slope(lambda x: (x * x - 2.0, 2 * x), 0.0, 2.0, 1e-9)
    >>> round(found.at, 9), found.bracketed
    (1.414213562, True)
    >>> crossing_by_slope(lambda x: (x - 3.0, 1.0), 0.0, 2.0, 1e-9).bracketed
    False
    """
    if not low <= high:
        raise ValueError(f"no range from {low:g} to {high:g}")
    first, last = low, high
    x = (low + high) / 2
    for _ in range(STEPS):
        value, slope = rising(x)
        low, high = (x, high) if value < 0 else (low, x)
        new = x - value / slope if slope > FLAT else last
        if not low < new < high:
            new = (low + high) / 2
        if abs(new - x) < within:
            inside = min(new - first, last - new) > within
            return Crossing(new, bracketed=inside)
        x = new
    return Crossing(x, bracketed=False)
