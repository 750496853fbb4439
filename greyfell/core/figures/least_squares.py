"""The likeliest figures by what was read and what was believed before: one fit, which says whether
it settled. Apart from `solve`, which costs no start-up.
"""

from collections.abc import Callable

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

Figures = NDArray[np.float64]
Look = Callable[[Figures], tuple[Figures, Figures]]
"""Of figures (n): how far each of m readings is off, in its own spreads (m), and by how much it
moves with each figure (m, n)."""


class Fitted(Struct, frozen=True):
    """The likeliest figures (n), their covariance (n, n), and whether the last step was a small
    one.
    """

    at: Figures
    covariance: Figures
    settled: bool


def fit(
    look: Look,
    *,
    prior: Figures,
    information: Figures,
    start: Figures | None = None,
    farthest: float,
    arrived: float,
    rounds: int,
) -> Fitted:
    """Gauss–Newton with a normal prior of so much information (n, n), no step of a figure farther
    than `farthest`, until none is more than `arrived`. JCGM 100:2008 for what a covariance is; the
    method is in every textbook of least squares.

    >>> def line(at):
    ...     return np.array([4.0, 6.0]) - at[0], np.ones((2, 1))
    >>> found = fit(line, prior=np.zeros(1), information=np.zeros((1, 1)), farthest=10.0,
    ...             arrived=1e-9, rounds=5)
    >>> round(float(found.at[0]), 6), found.settled
    (5.0, True)
    """
    at = (prior if start is None else start).copy()
    whole = information
    settled = False
    for _ in range(rounds):
        off, slopes = look(at)
        whole = slopes.T @ slopes + information
        step = np.linalg.solve(whole, slopes.T @ off + information @ (prior - at))
        at = at + np.clip(step, -farthest, farthest)
        settled = bool(np.abs(step).max() < arrived)
        if settled:
            break
    return Fitted(at, np.asarray(np.linalg.inv(whole)), settled)
