"""Crossings by bisection: to the last digit, and whether one lay between the ends at all."""

import math

import pytest
from scipy.optimize import brentq

from greyfell.core.figures.solve import crossing


@pytest.mark.parametrize(
    ("curve", "low", "high"),
    [
        (lambda x: x * x - 2.0, 0.0, 2.0),
        (lambda x: math.exp(x) - 1e6, 0.0, 100.0),
        (lambda x: math.cos(x) - x, 0.0, 1.0),
        (lambda x: x**3 - 1e-9, -1.0, 1.0),
    ],
)
def test_a_crossing_is_where_a_general_library_finds_it(curve, low, high):
    """Against brentq of scipy."""
    rises = curve(high) > curve(low)
    found = crossing(lambda x: (curve(x) >= 0) == rises, low, high)

    assert found.bracketed
    assert found.at == pytest.approx(brentq(curve, low, high, xtol=1e-15), rel=1e-9, abs=1e-12)


@pytest.mark.parametrize(
    ("least", "at"),
    [(-1.0, 0.0), (0.0, 0.0), (2.0, 2.0), (2.1, 2.0)],
)
def test_a_crossing_outside_says_so_at_its_end(least, at):
    """Held at the lower end already, or nowhere below the upper one."""
    found = crossing(lambda x: x >= least, 0.0, 2.0)

    assert found.at == pytest.approx(at)
    assert found.bracketed is (0.0 < least <= 2.0)


def test_no_range_is_refused():
    with pytest.raises(ValueError, match="no range from 2 to 1"):
        crossing(lambda x: True, 2.0, 1.0)
