"""What the iron takes with nothing joined to it: watts and amps at no load of sound iron."""

import math

from msgspec import Struct

from greyfell.core.belief.found import Belief
from greyfell.core.belief.priors import MASS_A
from greyfell.core.belief.solution import A, Solution
from greyfell.core.evidence.kinds.no_load import NoLoad
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import does, model_of

LOSS_EXPONENT = 2.5
"""Core loss grows about like B^2.5 around the working flux. REF-M-18 (2 to 3+)."""
HERTZ_EXPONENT = 1.3
"""Core loss at one flux grows about like f^1.3: hysteresis by each cycle, eddies by its square.
REF-M-18, broad."""
WEIGHED_SPREAD = 0.1
"""Spread of the logarithm of a mass that was weighed: case and terminals are in it."""
AMPS_PER_ACTIVE = 5.0
"""No-load amps over their active part: power factor about 0.2. M-12, broad."""
KNEE_GROWTH = 6.0
"""Amps above rated flux run away like e to this times the excess. M-12, broad."""


class Loss(Struct, frozen=True):
    """Watts at no load that sound iron takes, the spread of their logarithm, the flux over
    rated.
    """

    watts: float
    spread: float
    flux: float


class Losses:
    """What every no-load reading should show of this iron; what a pair's readings share is worked
    out once. Loss per kilogram of the family times the mass, weighed or from the size that the
    ohms tell; about like B^2.5. REF-M-18, M-T4.
    """

    def __init__(self, record: Transformer, belief: Belief) -> None:
        self.record, self.belief = record, belief
        self.rated: dict[tuple[str, str], float | None] = {}
        self.iron: tuple[float, float] | None = None

    def of(self, r: NoLoad) -> Loss | None:
        """What a reading should show at its volts; None where that is unknown."""
        if r.driven not in self.rated:
            self.rated[r.driven] = self._rated(r.driven)
        rated = self.rated[r.driven]
        if rated is None or self.iron is None:
            return None
        faster = self._faster(r)
        flux = r.volts / rated / faster
        watts, spread = self.iron
        return Loss(watts * flux**LOSS_EXPONENT * faster**HERTZ_EXPONENT, spread, flux)

    def _faster(self, r: NoLoad) -> float:
        """The hertz of a reading over those that the piece was made for; 1 where none are told."""
        best = self.belief.best
        if best is None or not r.hertz:
            return 1.0
        return r.hertz / best.hertz

    def _rated(self, driven: tuple[str, str]) -> float | None:
        """The volts that a pair was made for; and, besides, the iron's watts at them."""
        solution, best = self.belief.solution, self.belief.best
        if solution is None or best is None:
            return None
        told = does(best.family).loss_per_kg
        if told is None:
            return None
        i = self.belief.topology.winding_spanned(driven)
        volts = (
            self._in_series(solution, driven) if i is None else self._of_one(solution, i, driven)
        )
        if volts is None:
            return None
        per_kg, spread = told
        mass, mass_spread = _mass(self.record, self.belief, solution)
        self.iron = (per_kg * mass, math.hypot(spread, mass_spread))
        return volts

    def _of_one(self, solution: Solution, i: int, driven: tuple[str, str]) -> float:
        """Design volts between two points of one winding."""
        w, _ = solution.posterior(self.belief.index, solution.unit((solution.w(i), 1.0)))
        share = self.belief.topology.coils[i].fraction_between(*driven) or 1.0
        return math.exp(w) * share

    def _in_series(self, solution: Solution, driven: tuple[str, str]) -> float | None:
        """Design volts of two halves in series, fed at a lead of each; None where it is no such
        pair.
        """
        best, coils = self.belief.best, self.belief.topology.coils
        if best is None or best.halves is None:
            return None
        if not all(len({*driven} & {*coils[i].leads}) == 1 for i in best.halves):
            return None
        return sum(self._of_one(solution, i, coils[i].leads) for i in best.halves)


def expected_loss(record: Transformer, belief: Belief, r: NoLoad) -> Loss | None:
    """What one no-load reading should show of this iron; None where that is unknown. W."""
    return Losses(record, belief).of(r)


def _mass(record: Transformer, belief: Belief, solution: Solution) -> tuple[float, float]:
    """Kilograms of the iron and the spread of their logarithm: weighed, else by size."""
    if record.core is not None and record.core.mass_kg:
        return record.core.mass_kg, WEIGHED_SPREAD
    a, a_spread = solution.posterior(belief.index, solution.unit((A, 1.0)))
    family = belief.best.family if belief.best is not None else belief.family
    offset, wide = model_of(family).mass_offset
    log_mass = (math.log(MASS_A[0]) + offset - a) / MASS_A[1]
    return math.exp(log_mass), math.hypot(a_spread, wide) / MASS_A[1]


def usual_amps(watts: float, volts: float, flux: float) -> float:
    """Amps RMS at no load that go with so many watts, running away above rated flux. M-12, broad.

    >>> usual_amps(20.0, 230.0, 1.0) == 5 * 20.0 / 230.0
    True
    """
    growth = math.exp(min(30.0, KNEE_GROWTH * (flux - 1.0)))
    return AMPS_PER_ACTIVE * watts / volts * max(1.0, growth)
