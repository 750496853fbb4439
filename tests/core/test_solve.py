"""Crossings by bisection, to the last digit, and whether one lay between the ends at all; the one
fit, and whether it settled.
"""

import math

import numpy as np
import pytest
from scipy.optimize import brentq, least_squares

from greyfell.core.figures.least_squares import fit
from greyfell.core.figures.solve import crossing, crossing_by_slope


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
    with pytest.raises(ValueError, match="no range from 2 to 1"):
        crossing_by_slope(lambda x: (x, 1.0), 2.0, 1.0, 1e-9)


@pytest.mark.parametrize(
    ("curve", "slope", "low", "high"),
    [
        (lambda x: x * x - 2.0, lambda x: 2 * x, 0.0, 2.0),
        (lambda x: x - math.cos(x), lambda x: 1 + math.sin(x), 0.0, 1.0),
        (lambda x: math.atan(20 * x - 9.0), lambda x: 20 / (1 + (20 * x - 9.0) ** 2), -5.0, 5.0),
        (lambda x: x**3 - 1e-3, lambda x: 3 * x * x, -1.0, 1.0),
    ],
)
def test_newton_in_a_bracket_finds_what_a_general_library_does(curve, slope, low, high):
    """Also where Newton's method alone would leave the bracket, or meets a flat place."""
    found = crossing_by_slope(lambda x: (curve(x), slope(x)), low, high, 1e-10)

    assert found.bracketed
    assert found.at == pytest.approx(brentq(curve, low, high, xtol=1e-14), abs=1e-8)


@pytest.mark.parametrize("at", [-0.5, 2.5])
def test_what_passes_nought_outside_says_so(at):
    """It ends at the nearer end of its range."""
    found = crossing_by_slope(lambda x: (x - at, 1.0), 0.0, 2.0, 1e-9)

    assert not found.bracketed
    assert found.at == pytest.approx(min(max(at, 0.0), 2.0), abs=1e-6)


# ------------------------------------------------------------------ the one fit


def decaying(times, seen):
    """Readings of a decay: how far each is off two figures' logarithms, and how it moves."""

    def look(at):
        size, rate = np.exp(at)
        shown = size * np.exp(-rate * times)
        slopes = np.array([shown, -rate * times * shown]).T
        return seen - shown, slopes

    return look


@pytest.mark.parametrize(("size", "rate"), [(3.0, 0.5), (0.7, 2.0), (12.0, 0.05)])
def test_a_fit_is_where_a_general_library_finds_it(size, rate):
    """Against least_squares of scipy, on readings a little off."""
    times = np.linspace(0.0, 4.0, 9)
    seen = size * np.exp(-rate * times) + 0.01 * np.cos(7 * times)
    look = decaying(times, seen)
    found = fit(
        look,
        prior=np.zeros(2),
        information=np.zeros((2, 2)),
        start=np.log([size * 1.5, rate * 0.7]),
        farthest=1.0,
        arrived=1e-9,
        rounds=60,
    )
    theirs = least_squares(lambda at: look(at)[0], np.log([size, rate]), xtol=1e-14, ftol=1e-14)

    assert found.settled
    assert found.at == pytest.approx(theirs.x, abs=1e-6)
    assert found.covariance == pytest.approx(np.linalg.inv(theirs.jac.T @ theirs.jac), rel=1e-4)


@pytest.mark.parametrize(("rounds", "settled"), [(1, False), (60, True), (0, False)])
def test_a_fit_that_was_cut_short_says_so(rounds, settled):
    """A step still far from a small one."""
    times = np.linspace(0.0, 4.0, 9)
    found = fit(
        decaying(times, 3.0 * np.exp(-0.5 * times)),
        prior=np.zeros(2),
        information=np.eye(2) * 1e-6,
        farthest=1.0,
        arrived=1e-6,
        rounds=rounds,
    )

    assert found.settled is settled


def test_without_readings_a_fit_is_its_prior():
    """Nothing moves it, and its covariance is that of what was believed."""
    prior, information = np.array([1.0, -2.0]), np.diag([4.0, 25.0])
    found = fit(
        lambda at: (np.zeros(0), np.zeros((0, 2))),
        prior=prior,
        information=information,
        farthest=1.0,
        arrived=1e-9,
        rounds=5,
    )

    assert found.at == pytest.approx(prior)
    assert found.covariance == pytest.approx(np.diag([0.25, 0.04]))
    assert found.settled


@pytest.mark.parametrize("farthest", [0.1, 0.5])
def test_no_step_of_a_fit_is_farther_than_it_may_be(farthest):
    """One round from far off moves each figure by no more."""
    found = fit(
        lambda at: (np.array([100.0]) - at[0], np.ones((1, 1))),
        prior=np.zeros(1),
        information=np.zeros((1, 1)),
        farthest=farthest,
        arrived=1e-9,
        rounds=1,
    )

    assert found.at[0] == pytest.approx(farthest)
