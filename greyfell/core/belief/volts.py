"""Open-circuit volts of every winding as a mixture over hypotheses, and the volts per turn."""

import math
from collections.abc import Iterable

from msgspec import Struct

from greyfell.core.belief.family import Hypothesis
from greyfell.core.belief.observations import Row
from greyfell.core.belief.priors import MAINS_ROLES
from greyfell.core.belief.solution import LOG_V_OFFSET, Solution
from greyfell.core.belief.taps import reference_volts
from greyfell.core.belief.weigh import Weighed
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.constants import Z95
from greyfell.core.figures.quantity import Quantity
from greyfell.core.figures.solve import crossing_by_slope
from greyfell.core.wiring.coil import Topology

EXACT, SNAP = 1e-7, 1e-5
"""Spread of the logarithm of the supply's own volts: a figure of the record, not measured here; and
how near a bound of a range must come to it to be it."""
FAR_SD, CLOSE = 3.5, 1e-8
"""Every quantile that is asked for lies within so many standard deviations; and how near it is
found, in the logarithm."""
TAILS = (0.002, 0.025, 0.048)
"""Shares of the 5 % left out that may lie below a range: the one that makes it shortest is
taken."""
LEAST_WEIGHT = 1e-3
"""A hypothesis that weighs less adds nothing that a range shows."""
NO_OUTPUT = ("choke", "other")
"""Families whose windings are given no output volts."""


class MixturePart(Struct, frozen=True):
    """One normal of a mixture: its weight, mean and standard deviation, in logarithms."""

    weight: float
    mean: float
    sd: float

    def below(self, x: float) -> float:
        """The share of it that lies below x, a logarithm. Normal distribution, by definition."""
        return 0.5 * self.weight * (1 + math.erf((x - self.mean) / (self.sd * math.sqrt(2))))

    def density(self, x: float) -> float:
        """Its density at x, per unit of the logarithm; nought where that hardly matters. The normal
        distribution, by definition.
        """
        z = (x - self.mean) / (self.sd * math.sqrt(2))
        if not -6 < z < 6:
            return 0.0
        return self.weight * math.exp(-z * z) / (self.sd * math.sqrt(2 * math.pi))


def winding_volts(
    record: Transformer, topology: Topology, weighed: Weighed, i: int
) -> Quantity | None:
    """Open-circuit volts RMS of winding i with the primary on the actual supply; None where nothing
    is known of them. Bayes' rule; REF-M-02.

    Which winding is the primary is part of the mixture: a winding that is only likely the primary
    has the supply's volts only as likely, and its range reaches to what it puts out as a secondary.
    """
    best, solution = weighed.best, weighed.solution
    if best is None or solution is None or not _answers(topology, best, i):
        return None
    if not record.supply_stated:
        return None  # a figure would be a claim out of nothing
    parts = _mixture(record, topology, weighed, solution, i)
    low, middle, high = _snapped(parts, shortest(parts))
    low, high = min(low, middle), max(high, middle)
    if i != best.reference:
        return Quantity(middle, low, high, _basis(i, best.reference, solution.rows))
    fed = [v for v, _ in reference_volts(record, topology, best)]
    if min(fed) * (1 - 1e-6) < low and high < max(fed) * (1 + 1e-6):
        return Quantity(fed[0], min(fed), max(fed), ("supply",))
    return Quantity(middle, low, high, ("supply", "roles"))


def volts_per_turn(record: Transformer, topology: Topology, weighed: Weighed) -> Quantity | None:
    """Volts per turn RMS with the primary on the actual supply, from everything on record.
    REF-M-02.

    None where no primary is known.
    """
    best, solution = weighed.best, weighed.solution
    if best is None or solution is None or best.roles[best.reference] not in MAINS_ROLES:
        return None
    # design volts drop out of ln(volts per turn / primary's volts): only turns remain
    contrast = solution.log_v() - solution.unit((solution.w(best.reference), 1.0))
    mean, sd = solution.posterior(weighed.index, contrast)
    value = math.exp(LOG_V_OFFSET + mean) * reference_volts(record, topology, best)[0][0]
    spread = math.exp(1.96 * sd)
    return Quantity(value, value / spread, value * spread, _turns_basis(solution.rows))


def _turns_basis(rows: Iterable[Row]) -> tuple[str, ...]:
    """The observations that say something of turns."""
    kinds = ("test turn", "turns", "core area", "wire", "inductance")
    named = [f"{r.kind} {r.readings[0]}" if r.readings else r.kind for r in rows if r.kind in kinds]
    return tuple(dict.fromkeys(named)) or ("family and ohms",)


def _answers(topology: Topology, best: Hypothesis, i: int) -> bool:
    """Whether output volts can be told of winding i at all."""
    known = best.family not in NO_OUTPUT and best.roles[i] != "unknown"
    return known and not topology.coils[i].broken and _feeds(topology, best)


def _feeds(topology: Topology, h: Hypothesis) -> bool:
    """Whether a hypothesis has a whole primary that the supply can go on."""
    return h.roles[h.reference] in MAINS_ROLES and not topology.coils[h.reference].broken


def _mixture(
    record: Transformer, topology: Topology, weighed: Weighed, solution: Solution, i: int
) -> list[MixturePart]:
    """ln volts of winding i under every hypothesis that weighs something and feeds a primary."""
    parts: list[MixturePart] = []
    for k, h, weight in weighed.leading(LEAST_WEIGHT):
        if not _feeds(topology, h):
            continue
        mean, sd = 0.0, EXACT
        if i != h.reference:
            over = solution.unit((solution.w(i), 1.0), (solution.w(h.reference), -1.0))
            mean, sd = solution.posterior(k, over)
        for volts, share in reference_volts(record, topology, h):
            parts.append(MixturePart(weight * share, mean + math.log(volts), sd))
    return parts


def _snapped(parts: list[MixturePart], bounds: tuple[float, float, float]) -> tuple[float, ...]:
    """Bounds in volts; one that comes very near the supply's own volts is them."""
    exact = [math.exp(p.mean) for p in parts if p.sd == EXACT]

    def snap(x: float) -> float:
        return next((v for v in exact if abs(x / v - 1) < SNAP), x)

    return tuple(snap(math.exp(y)) for y in bounds)


def shortest(parts: list[MixturePart]) -> tuple[float, float, float]:
    """Bounds of the shortest 95 % range of a mixture of normals, and its median in between.

    A doubt of less than 5 % that lies to one side need not stretch the range: it is part of the 5 %
    left out. Bounds in the logarithm. Definition of a highest-density range.

    >>> [round(math.exp(x), 1) for x in shortest([MixturePart(1.0, math.log(24.0), 0.02)])]
    [23.1, 24.0, 25.0]
    """
    top = max(p.weight for p in parts)
    parts = [p for p in parts if p.weight > 0.002 * top]
    if len(parts) == 1:
        (only,) = parts
        return only.mean - Z95 * only.sd, only.mean, only.mean + Z95 * only.sd
    total = sum(p.weight for p in parts)
    parts = [MixturePart(p.weight / total, p.mean, p.sd) for p in parts]
    reach = [(_quantile(parts, t), _quantile(parts, t + 0.95)) for t in TAILS]
    low, high = min(reach, key=lambda r: r[1] - r[0])
    return low, _quantile(parts, 0.5), high


def _quantile(parts: list[MixturePart], p: float) -> float:
    """Quantile of a mixture of normals whose weights sum to one."""

    def above(x: float) -> tuple[float, float]:
        below = sum(part.below(x) for part in parts)
        return below - p, sum(part.density(x) for part in parts)

    low = min(part.mean - FAR_SD * part.sd for part in parts)
    high = max(part.mean + FAR_SD * part.sd for part in parts)
    return crossing_by_slope(above, low, high, CLOSE).at


def _basis(i: int, reference: int, rows: list[Row]) -> tuple[str, ...]:
    """What the volts of winding i rest on: what ties it to the primary, else the ohms of both."""
    pair = (i, reference)
    strong = [r for r in rows if r.kind == "ratio" and i in r.coils]
    turns = [r for r in rows if r.kind in ("inductance", "turns", "test turn") and r.coils]
    strong += [r for r in turns if r.coils[0] in pair]
    touched = {c for r in strong for c in r.coils}
    if not set(pair) <= touched:
        strong += [r for r in rows if r.kind == "ohms" and r.coils[0] in pair]
    names = dict.fromkeys(f"{r.kind} {reading}" for r in strong for reading in r.readings[:2])
    return tuple(names) or ("family",)
