"""What an output gives under load, fitted to everything that was read of it: open volts, a short at
reduced volts, points with a known load; and what the next point should be by those before it.
"""

import math
from collections.abc import Callable, Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.circuit.equivalent import LIMITS_TO_SPREAD, OwnImpedance, own_impedance
from greyfell.core.circuit.fed_winding import fed_whole
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.kinds.load import Load
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import does
from greyfell.core.families.row import Behaviour
from greyfell.core.figures.constants import Z95
from greyfell.core.figures.least_squares import fit
from greyfell.core.figures.quantity import Quantity

REACTIVE_SPREAD, COPPER_SPREAD = 0.5, 0.05
STRAY_COPPER = 1.04
"""Ohms at mains hertz over those read with direct current, joints and stray loss. From memory."""
LEAST_SPREAD, LINEAR_SPREAD = 2e-3, 0.007
"""Of a logarithm, at least; and how far a source's impedance is not one figure from light load to a
short: iron and shunts bend. From the forward model, in every world.
"""
OF_RATIO = 0.8
"""The engine's ranges of volts are learned over all evidence; where a winding's own ratio was read
they hold 98 to 99 %, and so much of them holds 95. Learned by `make models`, in every world.
"""
ROUNDS = 25
MOST_STEP, ARRIVED = 1.0, 1e-5
Figures = NDArray[np.float64]
Figure = Callable[[float, float, float], float]
"""Volts, resistance and reactance to one figure."""


class LoadRead(Struct, frozen=True, kw_only=True):
    """One load point at the supply's volts: ohms of the load, volts there; by how much volts,
    supply and amps may err as shares (no amps where the ohms are known); the reading.
    """

    ohms: float
    volts: float
    volts_share: float
    driven_share: float
    amps_share: float | None
    reading: str

    @property
    def spread(self) -> float:
        """All of them, as if the ohms moved the volts one for one. JCGM 100:2008 5.1.2."""
        return math.hypot(self.volts_share, self.driven_share, self.amps_share or 0.0)

    def weighed(self, slope: float) -> float:
        """The spread of volts less what its line says there; `slope` is how volts follow the ohms,
        which stand on the same volts where they are volts over amps. JCGM 100:2008 5.1.2.
        """
        if self.amps_share is None:
            return math.hypot(self.volts_share, self.driven_share)
        return math.hypot(
            (1 - slope) * self.volts_share, self.driven_share, slope * self.amps_share
        )


class Against(Struct, frozen=True, kw_only=True):
    """A load point beside what the earlier ones let expect; `agrees` where it lies inside."""

    point: LoadRead
    expected: Quantity
    agrees: bool


class LoadLine(Struct, frozen=True):
    """An output as a source: open volts, resistance and reactance on its own side, the numbers'
    logarithms with their covariance, and what it rests on.
    """

    at: Figures
    covariance: Figures
    basis: tuple[str, ...]
    measured: bool

    def volts(self, ohms: float) -> Quantity:
        """Volts into a load; none over a short. V, Ω. REF-T-07."""
        if ohms == 0:
            return Quantity(0.0, 0.0, 0.0, self.basis)
        return self._of(lambda e, r, x: e * ohms / math.hypot(r + ohms, x))

    def amps(self, ohms: float) -> Quantity:
        """Amps into a load; nought ohms is a short. A, Ω. REF-T-07."""
        return self._of(lambda e, r, x: e / math.hypot(r + ohms, x))

    @property
    def open_volts(self) -> Quantity:
        """Volts with nothing joined."""
        return self._of(lambda e, r, x: e)

    @property
    def match_ohms(self) -> Quantity:
        """The load that takes most watts. REF-T-07."""
        return self._of(lambda e, r, x: math.hypot(r, x))

    @property
    def resistance_ohms(self) -> Quantity:
        """Resistance on the output's side."""
        return self._of(lambda e, r, x: r)

    @property
    def reactance_ohms(self) -> Quantity:
        """Leakage reactance on the output's side."""
        return self._of(lambda e, r, x: x)

    def _of(self, figure: Figure) -> Quantity:
        """A figure of the three numbers, to 95 %, its logarithm taken as normal."""
        value = figure(*(math.exp(float(v)) for v in self.at))
        slopes = np.array(
            [
                math.log(figure(*(math.exp(float(v)) for v in self.at + 1e-4 * row)) / value) / 1e-4
                for row in np.eye(3)
            ]
        )
        spread = math.sqrt(max(0.0, float(slopes @ self.covariance @ slopes)))
        wide = math.exp(Z95 * spread)
        return Quantity(value, value / wide, value * wide, self.basis)


def load_line(record: Transformer, belief: Belief, w: Winding) -> LoadLine | None:
    """An output's source on the supply: a fit by least squares to its open volts, its short circuit
    and its load points, each with its error; what no reading tells comes from its kind, wide.
    REF-T-02, REF-T-06. None where its volts or the primary's are not known.
    """
    return _fitted(record, belief, w, points_of(record, belief, w))


def against(record: Transformer, belief: Belief, w: Winding) -> list[Against]:
    """Every load point beside what the ones before it let expect."""
    out = []
    points = points_of(record, belief, w)
    for n, point in enumerate(points):
        line = _fitted(record, belief, w, points[:n])
        if line is None:
            continue
        expected = line.volts(point.ohms)
        off = Z95 * point.spread * point.volts
        agrees = expected.low - off <= point.volts <= expected.high + off
        out.append(Against(point=point, expected=expected, agrees=agrees))
    return out


def points_of(record: Transformer, belief: Belief, w: Winding) -> list[LoadRead]:
    """Load points of a winding, as they would be at the supply's name; the iron's own amps do not
    count.
    """
    fed = set(belief.fed)
    return [
        _point(record, r)
        for r in record.standing
        if r.kind == "load"
        and set(r.driven) <= fed
        and set(r.loaded) == set(w.coil.leads)
        and (r.load_ohms or r.load_amps)
        and r.load_volts > 0
    ]


def _point(record: Transformer, r: Load) -> LoadRead:
    """One reading as a point: ohms given, or volts over amps."""
    ohms = r.load_ohms if r.load_ohms else r.load_volts / (r.load_amps or 1.0)
    amps = None
    if not r.load_ohms and r.load_amps:
        amps = LIMITS_TO_SPREAD * limit(r, "load_amps") / r.load_amps
    return LoadRead(
        ohms=ohms,
        volts=r.load_volts * record.supply.volts / r.driven_volts,
        volts_share=LIMITS_TO_SPREAD * limit(r, "load_volts") / r.load_volts,
        driven_share=LIMITS_TO_SPREAD * limit(r, "driven_volts") / r.driven_volts,
        amps_share=amps,
        reading=r.id,
    )


def _fitted(
    record: Transformer, belief: Belief, w: Winding, points: Sequence[LoadRead]
) -> LoadLine | None:
    prior = _prior(record, belief, w)
    if prior is None:
        return None
    middle, before, basis, measured = prior
    ohms = np.array([p.ohms for p in points])
    volts = np.log([p.volts for p in points])

    def look(at: Figures) -> tuple[Figures, Figures]:
        e, r, x = np.exp(at)
        whole = np.hypot(r + ohms, x)
        shown = np.log(e * ohms / whole)
        slopes = np.array([np.ones_like(ohms), -r * (r + ohms) / whole**2, -(x**2) / whole**2]).T
        follows = 1 - ohms * (r + ohms) / whole**2
        weights = 1 / np.array([p.weighed(s) for p, s in zip(points, follows, strict=True)])
        return (volts - shown) * weights, slopes * weights[:, None]

    found = fit(
        look,
        prior=middle,
        information=np.asarray(np.linalg.inv(before), dtype=np.float64),
        farthest=MOST_STEP,
        arrived=ARRIVED,
        rounds=ROUNDS if points else 0,
    )
    read = tuple(f"load {p.reading}" for p in points)
    settled = found.settled or not points
    return LoadLine(
        found.at, found.covariance, (*basis, *read), settled and (measured or len(points) > 1)
    )


def _prior(
    record: Transformer, belief: Belief, w: Winding
) -> tuple[Figures, Figures, tuple[str, ...], bool] | None:
    """Logarithms of open volts, resistance and reactance before any load point, their covariance,
    what they rest on, and whether a short circuit was read.
    """
    primary = belief.primary
    if primary is None or primary.volts is None or w.volts is None or w is primary:
        return None
    coupled = _coupling(record, belief)
    own = own_impedance(record, belief)
    if own is not None:
        ratio2 = (w.volts.value / primary.volts.value / coupled.value) ** 2
        (parts, within), basis = _by_short(own, ratio2, coupled), (f"short circuit {own.reading}",)
    else:
        told = _by_kind(record, belief, w, coupled)
        if told is None:
            return None
        (parts, within), basis = told, ("copper and kind, assumed",)
    covariance = np.zeros((3, 3))
    covariance[0, 0] = (_spread(w.volts) * (OF_RATIO if _by_ratio(record, w) else 1.0)) ** 2
    covariance[1:, 1:] = within
    return np.array([math.log(w.volts.value), *parts]), covariance, basis, own is not None


def _by_ratio(record: Transformer, w: Winding) -> bool:
    """Whether a ratio with this winding is on record."""
    leads = set(w.coil.leads)
    return any(
        r.kind == "ratio" and (set(r.sensed) <= leads or set(r.driven) <= leads)
        for r in record.standing
    )


def _spread(q: Quantity) -> float:
    """Spread of a figure's logarithm by its range."""
    return max(LEAST_SPREAD, math.log(max(q.high, 1e-9) / max(q.low, 1e-9)) / 2 / Z95)


def _coupling(record: Transformer, belief: Belief) -> Quantity:
    """Open volts over turns: one, but where shunts are in."""
    core = record.core
    out = core is not None and core.shunts in ("absent", "removed")
    low, high = Behaviour().coupling if out else does(belief.family).coupling
    return Quantity((low + high) / 2, low, high, ("kind",))


def _by_short(own: OwnImpedance, ratio2: float, coupled: Quantity) -> tuple[list[float], Figures]:
    """Logarithms of a short circuit's resistance and reactance on the output's side, with their
    covariance (2, 2).
    """
    turns = math.log(coupled.high / coupled.low) * LIMITS_TO_SPREAD
    r, x = own.resistance_ohms.value, own.reactance_ohms.value
    least = max(r, x) * 1e-3
    parts = [math.log(max(part, least) * ratio2) for part in (r, x)]
    return parts, own.covariance + turns**2 + LINEAR_SPREAD**2 * np.eye(2)


def _by_kind(
    record: Transformer, belief: Belief, w: Winding, coupled: Quantity
) -> tuple[list[float], Figures] | None:
    """Logarithms of both coppers' resistance and of the kind's reactance, with their covariance."""
    primary = fed_whole(record, belief)
    if primary is None or primary.volts is None or w.volts is None:
        return None
    if not w.coil.readings or w.coil.broken:
        return None
    ratio2 = (w.volts.value / primary.volts.value / coupled.value) ** 2
    copper = max(w.coil.ohms.value + primary.coil.ohms.value * ratio2, 1e-6)
    whole = belief.voltamperes
    times = does(belief.family).reactive
    reactance = times * copper
    share = does(belief.family).at_full
    if whole is not None and share is not None:
        rated = w.volts.value**2 / whole.value
        reactance = math.sqrt(max((share * rated) ** 2 - copper**2, (0.3 * copper) ** 2))
    spreads = np.array([COPPER_SPREAD, REACTIVE_SPREAD])
    return [math.log(copper * STRAY_COPPER), math.log(reactance)], np.diag(spreads**2)


def short_amps(record: Transformer, belief: Belief, line: LoadLine) -> Quantity:
    """A dead short on full volts: where shunts are in, more than reduced volts let expect. Ohm's
    law over the whole loop; shunts by common practice.
    """
    amps = line.amps(0.0)
    core = record.core
    shunts = core is None or core.shunts not in ("absent", "removed")
    saturates = does(belief.family).saturates
    if not shunts or saturates is None:
        return amps
    least, most = saturates
    basis = (*amps.basis, "shunts saturate")
    return Quantity(amps.value, amps.low * least, amps.high * most, basis)
