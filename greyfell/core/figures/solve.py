"""Where a figure crosses: one bisection, which says whether the crossing lay between its ends.

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
