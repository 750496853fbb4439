"""A winding wound up on a variac with everything else open: from volts, amps and watts the knee,
what it draws and wastes at any volts between, and points that do not belong.
"""

import itertools
import math
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from datetime import datetime
from functools import cached_property
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from greyfell.core.belief.found import Belief
from greyfell.core.circuit.waveform import true_over_averaged
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
AMPS_LIMIT, WATTS_LIMIT = 0.03, 0.02
"""Limits of what is read off between the points. From memory."""
PHASE = math.radians(1.0)
"""A usual wattmeter's phase error: at a power factor of 0.2 it is 8.6 % of the watts, at 0.1 17 %.
The reference on the sweep."""
BESIDE = 4
"""So many neighbours either side lay the curve that a point is held against: a monotone cubic's
slopes reach no farther than two."""
ODD = 2.0
"""A point that lies so many times off the curve of its neighbours does not belong. House rule."""
Figures = NDArray[np.float64]


class SweepPoint(Struct, frozen=True, kw_only=True):
    """One step: volts at the winding, amps, watts where they were read, the reading it is."""

    volts: float
    amps: float
    watts: float | None = None
    reading: str = ""


class Sweep(Struct, frozen=True, kw_only=True, dict=True):
    """A sweep: its points in order of volts, those that do not belong, whether their amps were read
    by an averaging meter and are put right here, both knees (None where the
    last step has not passed them), and the ohms whose heat is taken off the watts.
    """

    points: tuple[SweepPoint, ...]
    odd: tuple[SweepPoint, ...]
    averaged: bool
    onset: Quantity | None
    steep: Quantity | None
    ohms: float

    @property
    def last(self) -> float:
        """The highest volts it was wound up to."""
        return self.points[-1].volts

    @property
    def above(self) -> float:
        """The volts below which neither knee can lie, where the last step has passed none. House
        rule: a tenth under the last step.
        """
        return self.last / STEP

    def amps_at(self, volts: float) -> Quantity | None:
        """Amps at volts between the first and the last step; None beyond."""
        if not self.points[0].volts <= volts <= self.last:
            return None
        value = float(self._along(np.array([volts]))[0])
        low, high = value * (1 - AMPS_LIMIT), value * (1 + AMPS_LIMIT)
        return Quantity(value, low, high, ("amps of the sweep",))

    @cached_property
    def _along(self) -> Callable[[Figures], Figures]:
        """The curve of amps, laid once."""
        return curve([p.volts for p in self.points], [p.amps for p in self.points])

    def watts_at(self, volts: float) -> Quantity | None:
        """Watts at volts between the steps that have them; None beyond."""
        with_watts = [p for p in self.points if p.watts]
        if len(with_watts) < LEAST_POINTS:
            return None
        at = [p.volts for p in with_watts]
        amps = self.amps_at(volts)
        if amps is None or not at[0] <= volts <= at[-1]:
            return None
        along = curve(at, [p.watts or 0.0 for p in with_watts])
        return with_phase(float(along(np.array([volts]))[0]), volts * amps.value)

    def core_watts_at(self, volts: float) -> Quantity | None:
        """Watts without the heat of the winding's own ohms. Ohm's law: I²R taken off."""
        watts, amps = self.watts_at(volts), self.amps_at(volts)
        if watts is None or amps is None:
            return None
        copper = [x**2 * self.ohms for x in (amps.low, amps.value, amps.high)]
        basis = (*watts.basis, "less I²·R")
        low, high = max(0.0, watts.low - copper[2]), max(0.0, watts.high - copper[0])
        value = min(max(watts.value - copper[1], low), high)
        return Quantity(value, low, high, basis)


def with_phase(watts: float, voltamperes: float) -> Quantity:
    """Watts with what the wattmeter's phase error makes of them: tan φ times the error, W. JCGM
    100:2008 5.1.2 on P = S·cos φ.

    >>> told = with_phase(41.5, 210.0)
    >>> round(told.low, 1), round(told.high, 1)
    (37.8, 45.2)
    """
    factor = min(1.0, max(1e-3, watts / voltamperes))
    share = math.hypot(WATTS_LIMIT, PHASE * math.sqrt(1 / factor**2 - 1))
    low, high = watts * max(0.0, 1 - share), watts * (1 + share)
    return Quantity(watts, low, high, ("watts of the sweep", "phase error"))


def sweep_of(points: Sequence[SweepPoint], ohms: float = 0.0, *, averaging: bool = False) -> Sweep:
    """A sweep from its steps, in any order; amps of an averaging meter are put right by the shape
    of the current. V, A, W, Ω. The curve is a monotone cubic in the
    logarithms (Fritsch and Carlson, SIAM J. Numer. Anal. 17, 1980); the knees by IEC 61869-2.

    Raises FieldError where fewer than four steps at different volts are left.

    >>> steps = [SweepPoint(volts=v, amps=1e-3 * v + (v / 200) ** 12) for v in range(40, 280, 20)]
    >>> found = sweep_of(steps)
    >>> round(found.onset.value), round(found.steep.value)
    (152, 170)
    """
    ordered = sorted(
        {p.volts: p for p in points if p.volts > 0 and p.amps > 0}.values(), key=_volts
    )
    odd = [ordered[n] for n in _suspects(ordered) if _odd(ordered, n)]
    kept = [p for p in ordered if p not in odd]
    if len(kept) < LEAST_POINTS:
        raise FieldError(
            "points", f"A sweep needs {LEAST_POINTS} steps at different volts; {len(kept)} stand."
        )
    if averaging:
        right = true_over_averaged([(p.volts, p.amps) for p in kept])
        kept = [replace(p, amps=p.amps * x) for p, x in zip(kept, right, strict=True)]
    along = curve([p.volts for p in kept], [p.amps for p in kept])
    return Sweep(
        averaged=averaging,
        points=tuple(kept),
        odd=tuple(odd),
        onset=_knee(kept, along, ONSET),
        steep=_knee(kept, along, STEEP),
        ohms=ohms,
    )


def _volts(point: SweepPoint) -> float:
    return point.volts


def _suspects(points: Sequence[SweepPoint]) -> list[int]:
    """Both ends, and every point that lies well off the straight line between its neighbours in
    the logarithms: most of a long sweep does not, and needs no curve of its own.
    """
    ends = [0, len(points) - 1] if points else []
    if len(points) < 3:
        return ends
    x, y = (np.log([getattr(p, key) for p in points]) for key in ("volts", "amps"))
    share = (x[1:-1] - x[:-2]) / (x[2:] - x[:-2])
    off = np.abs(y[1:-1] - y[:-2] - share * (y[2:] - y[:-2]))
    return [ends[0], *(int(n) + 1 for n in np.nonzero(off > math.log(ODD) / 2)[0]), ends[1]]


def _odd(points: Sequence[SweepPoint], n: int) -> bool:
    """Whether a point lies far off the curve of those beside it, and its neighbours do not."""
    first = max(0, n - BESIDE)
    others = [*points[first:n], *points[n + 1 : n + 1 + BESIDE]]
    if len(others) < LEAST_POINTS or n in (0, len(points) - 1):
        return _odd_end(points, n)
    along = curve([p.volts for p in others], [p.amps for p in others])
    off = abs(math.log(points[n].amps / float(along(np.array([points[n].volts]))[0])))
    beside = points[n - 1].amps <= points[n + 1].amps
    return off > math.log(ODD) and beside


def _odd_end(points: Sequence[SweepPoint], n: int) -> bool:
    """Whether an end of a sweep draws less than a step below it, or more than one above."""
    if len(points) < LEAST_POINTS + 1:
        return False
    if n == 0:
        return points[0].amps > ODD * points[1].amps
    if n == len(points) - 1:
        return points[-1].amps * ODD < points[-2].amps
    return False


def _last_passed(at: Figures, rises: Figures, ratio: float) -> float | None:
    # where the rises pass the ratio for the last time, by a straight line between two of them
    passed = np.nonzero((rises[:-1] < ratio) & (rises[1:] >= ratio))[0]
    if len(passed) == 0 or rises[-1] < ratio:
        return None
    k = int(passed[-1])
    share = (ratio - rises[k]) / (rises[k + 1] - rises[k])
    return float(at[k] + share * (at[k + 1] - at[k]))


def _knee(
    points: Sequence[SweepPoint], along: Callable[[Figures], Figures], ratio: float
) -> Quantity | None:
    """The lowest volts from which on a tenth more always gives so many times the amps; None where
    the last step has not passed it.
    """
    at = np.linspace(points[0].volts, points[-1].volts / STEP, 800)
    volts = _last_passed(at, along(STEP * at) / along(at), ratio)
    if volts is None:
        return None
    bend = BEND_LIMIT * max(1.0, _gap(points, volts) / USUAL_GAP) ** BEND_POWER
    limit = math.hypot(VOLTS_LIMIT, bend)
    about = _about(points, volts)
    low = max(volts * (1 - limit), about[0][0] / STEP)
    high = min(volts * (1 + limit), about[-1][1])
    return Quantity(volts, low, high, ("sweep",))


def _about(points: Sequence[SweepPoint], volts: float) -> list[tuple[float, float]]:
    """The steps that a knee and a tenth above it lie in, each by its ends."""
    return [
        (low.volts, high.volts)
        for low, high in itertools.pairwise(points)
        if low.volts <= STEP * volts and high.volts >= volts
    ]


def _gap(points: Sequence[SweepPoint], volts: float) -> float:
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


class Earlier(Struct, frozen=True):
    """A sweep from before a change to the iron, and what the change was."""

    sweep: Sweep
    change: str


def earlier_sweeps(raw: Transformer, fed: Sequence[str]) -> list[Earlier]:
    """Sweeps of the same pair from before each change on record, the oldest first. `raw` is the
    record as it was kept; a reading without a time counts as before every change.
    """
    changes = [c for c in raw.changes if c.at is not None]
    out = []
    for n, change in enumerate(changes):
        since = changes[n - 1].at if n else None
        points = _points(r for r in raw.standing if _between(r.at, since, change.at))
        with suppress(FieldError):
            out.append(Earlier(sweep_of(_of_pair(points, fed)), change.what))
    return out


def _between(at: str | None, since: str | None, until: str | None) -> bool:
    """Whether a time lies after one change and before the next; ends may be missing."""
    if at is None:
        return since is None
    when = datetime.fromisoformat(at)
    late = until is None or when < datetime.fromisoformat(until)
    return late and (since is None or when >= datetime.fromisoformat(since))


def _points(readings: Iterable[Any]) -> list[tuple[frozenset[str], SweepPoint]]:
    """Points at no load, each with the pair that was fed."""
    return [
        (frozenset(r.driven), SweepPoint(volts=r.volts, amps=r.amps, watts=r.watts, reading=r.id))
        for r in readings
        if r.kind == "no_load" and r.amps
    ]


def _averaged(record: Transformer) -> set[str]:
    """Readings by a meter that is known to read the mean."""
    meters = {m.id for m in record.meters if m.averaging == "averaging"}
    return {r.id for r in record.standing if r.meter in meters}


def _of_pair(
    points: Iterable[tuple[frozenset[str], SweepPoint]], fed: Sequence[str]
) -> list[SweepPoint]:
    return [point for pair, point in points if pair == frozenset(fed)]


def sweep_on_record(record: Transformer, belief: Belief) -> Sweep | None:
    """The sweep of the fed winding, from its no-load readings; None where there are too few."""
    points = _of_pair(_points(record.standing), belief.fed)
    averaging = bool(points) and all(p.reading in _averaged(record) for p in points)
    primary = belief.primary
    ohms = primary.coil.ohms.value if primary is not None and not primary.coil.broken else 0.0
    try:
        return sweep_of(points, ohms, averaging=averaging)
    except FieldError:
        return None
