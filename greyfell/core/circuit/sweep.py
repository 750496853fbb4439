"""A winding wound up on a variac with everything else open: from volts, amps and watts the knee,
what it draws and wastes at any volts between, and points that do not belong.
"""

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from greyfell.core.belief.found import Belief
from greyfell.core.errors import FieldError
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.quantity import Quantity

STEP = 1.1
ONSET, STEEP = 1.5, 2.0
"""A tenth more volts gives half as much amps again at the onset, IEC 61869-2 (made for current
transformers), and twice the amps where it is steep. The reference on the bench's knee."""
LEAST_POINTS = 4
"""So many points say where a curve bends. House rule."""
VOLTS_LIMIT = 0.01
"""A usual meter's limit on AC volts, as a share. From memory."""
BEND_LIMIT = 0.006
"""What the curve between points and the scatter of single readings add, as a share of the knee's
volts: of simulated sweeps in steps of 20 V 95 % lie inside. From the forward model."""
USUAL_GAP, BEND_POWER = 0.15, 4
"""Steps wider than this share of the volts leave the bend between them open: the limit grows by
this power of theirs, as the error of a cubic does. From the forward model."""
AMPS_LIMIT, WATTS_LIMIT = 0.03, 0.03
"""Limits of what is read off between the points. From memory."""
ODD = 2.0
"""A point that lies so many times off the curve of its neighbours does not belong. House rule."""
Figures = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class Point:
    """One step: volts at the winding, amps, watts where they were read, the reading it is."""

    volts: float
    amps: float
    watts: float | None = None
    reading: str = ""


@dataclass(frozen=True, kw_only=True)
class Sweep:
    """A sweep: its points in order of volts, those that do not belong, both knees (None where the
    last step has not passed them), and the ohms whose heat is taken off the watts.
    """

    points: tuple[Point, ...]
    odd: tuple[Point, ...]
    onset: Quantity | None
    steep: Quantity | None
    ohms: float

    @property
    def last(self) -> float:
        """The highest volts it was wound up to."""
        return self.points[-1].volts

    @property
    def above(self) -> float:
        """The volts below which neither knee can lie, where the last step has passed none."""
        return self.last / STEP

    def amps_at(self, volts: float) -> Quantity | None:
        """Amps at volts between the first and the last step; None beyond."""
        return self._between(volts, [p.amps for p in self.points], AMPS_LIMIT, "amps")

    def watts_at(self, volts: float) -> Quantity | None:
        """Watts at volts between the steps that have them; None beyond."""
        with_watts = [p for p in self.points if p.watts]
        if len(with_watts) < LEAST_POINTS:
            return None
        watts = [p.watts or 0.0 for p in with_watts]
        return self._between(volts, watts, WATTS_LIMIT, "watts", with_watts)

    def core_watts_at(self, volts: float) -> Quantity | None:
        """Watts without the heat of the winding's own ohms."""
        watts, amps = self.watts_at(volts), self.amps_at(volts)
        if watts is None or amps is None:
            return None
        copper = [x**2 * self.ohms for x in (amps.low, amps.value, amps.high)]
        basis = (*watts.basis, "less I²·R")
        low, high = max(0.0, watts.low - copper[2]), max(0.0, watts.high - copper[0])
        value = min(max(watts.value - copper[1], low), high)
        return Quantity(value, low, high, basis)

    def _between(
        self,
        volts: float,
        values: Sequence[float],
        limit: float,
        name: str,
        points: Sequence[Point] | None = None,
    ) -> Quantity | None:
        at = [p.volts for p in (points or self.points)]
        if not at[0] <= volts <= at[-1]:
            return None
        value = float(curve(at, values)(np.array([volts]))[0])
        return Quantity(value, value * (1 - limit), value * (1 + limit), (f"{name} of the sweep",))


def sweep_of(points: Sequence[Point], ohms: float = 0.0) -> Sweep:
    """A sweep from its steps, in any order. V, A, W, Ω. The curve is a monotone cubic in the
    logarithms (Fritsch and Carlson, SIAM J. Numer. Anal. 17, 1980); the knees by IEC 61869-2.

    Raises FieldError where fewer than four steps at different volts are left.

    >>> steps = [Point(volts=v, amps=1e-3 * v + (v / 200) ** 12) for v in range(40, 280, 20)]
    >>> found = sweep_of(steps)
    >>> round(found.onset.value), round(found.steep.value)
    (152, 170)
    """
    ordered = sorted(
        {p.volts: p for p in points if p.volts > 0 and p.amps > 0}.values(), key=_volts
    )
    odd = [p for n, p in enumerate(ordered) if _odd(ordered, n)]
    kept = [p for p in ordered if p not in odd]
    if len(kept) < LEAST_POINTS:
        raise FieldError(
            "points", f"A sweep needs {LEAST_POINTS} steps at different volts; {len(kept)} stand."
        )
    along = curve([p.volts for p in kept], [p.amps for p in kept])
    return Sweep(
        points=tuple(kept),
        odd=tuple(odd),
        onset=_knee(kept, along, ONSET),
        steep=_knee(kept, along, STEEP),
        ohms=ohms,
    )


def _volts(point: Point) -> float:
    return point.volts


def _odd(points: Sequence[Point], n: int) -> bool:
    """Whether a point lies far off the curve of all others, and its neighbours do not."""
    others = [p for k, p in enumerate(points) if k != n]
    if len(others) < LEAST_POINTS or n in (0, len(points) - 1):
        return _odd_end(points, n)
    along = curve([p.volts for p in others], [p.amps for p in others])
    off = abs(math.log(points[n].amps / float(along(np.array([points[n].volts]))[0])))
    beside = points[n - 1].amps <= points[n + 1].amps
    return off > math.log(ODD) and beside


def _odd_end(points: Sequence[Point], n: int) -> bool:
    """Whether an end of a sweep draws less than a step below it, or more than one above."""
    if len(points) < LEAST_POINTS + 1:
        return False
    if n == 0:
        return points[0].amps > ODD * points[1].amps
    if n == len(points) - 1:
        return points[-1].amps * ODD < points[-2].amps
    return False


def _knee(
    points: Sequence[Point], along: Callable[[Figures], Figures], ratio: float
) -> Quantity | None:
    """The lowest volts from which on a tenth more always gives so many times the amps; None where
    the last step has not passed it.
    """
    at = np.linspace(points[0].volts, points[-1].volts / STEP, 800)
    rises = along(STEP * at) / along(at)
    passed = np.nonzero((rises[:-1] < ratio) & (rises[1:] >= ratio))[0]
    if len(passed) == 0 or rises[-1] < ratio:
        return None
    k = int(passed[-1])
    share = (ratio - rises[k]) / (rises[k + 1] - rises[k])
    volts = float(at[k] + share * (at[k + 1] - at[k]))
    bend = BEND_LIMIT * max(1.0, _gap(points, volts) / USUAL_GAP) ** BEND_POWER
    limit = math.hypot(VOLTS_LIMIT, bend)
    about = _about(points, volts)
    low = max(volts * (1 - limit), about[0][0] / STEP)
    high = min(volts * (1 + limit), about[-1][1])
    return Quantity(volts, low, high, ("sweep",))


def _about(points: Sequence[Point], volts: float) -> list[tuple[float, float]]:
    """The steps that a knee and a tenth above it lie in, each by its ends."""
    return [
        (low.volts, high.volts)
        for low, high in itertools.pairwise(points)
        if low.volts <= STEP * volts and high.volts >= volts
    ]


def _gap(points: Sequence[Point], volts: float) -> float:
    """The widest step about a knee, as a share of its lower volts."""
    return max((high - low) / low for low, high in _about(points, volts))


def curve(volts: Sequence[float], values: Sequence[float]) -> Callable[[Figures], Figures]:
    """The monotone cubic through points in the logarithms of both. Fritsch and Carlson 1980, with
    the slopes of Fritsch and Butland, SIAM J. Sci. Stat. Comput. 5, 1984.
    """
    x, y = np.log(np.asarray(volts, float)), np.log(np.asarray(values, float))
    h, d = np.diff(x), np.diff(y) / np.diff(x)
    m = np.zeros_like(x)
    m[0], m[-1] = d[0], d[-1]
    for k in range(1, len(x) - 1):
        if d[k - 1] * d[k] > 0:
            a, b = 2 * h[k] + h[k - 1], h[k] + 2 * h[k - 1]
            m[k] = (a + b) / (a / d[k - 1] + b / d[k])

    def along(at: Figures) -> Figures:
        u = np.clip(np.log(at), x[0], x[-1])
        k = np.clip(np.searchsorted(x, u) - 1, 0, len(x) - 2)
        t = (u - x[k]) / h[k]
        return np.asarray(
            np.exp(
                (1 + 2 * t) * (1 - t) ** 2 * y[k]
                + t * (1 - t) ** 2 * h[k] * m[k]
                + t**2 * (3 - 2 * t) * y[k + 1]
                + t**2 * (t - 1) * h[k] * m[k + 1]
            )
        )

    return along


def sweep_on_record(record: Transformer, belief: Belief) -> Sweep | None:
    """The sweep of the fed winding, from its no-load readings; None where there are too few."""
    fed = set(belief.fed)
    points = [
        Point(volts=r.volts, amps=r.amps, watts=r.watts, reading=r.id)
        for r in record.standing
        if r.kind == "no_load" and set(r.driven) == fed
    ]
    primary = belief.primary
    ohms = primary.coil.ohms.value if primary is not None and not primary.coil.broken else 0.0
    try:
        return sweep_of(points, ohms)
    except FieldError:
        return None
