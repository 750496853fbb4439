"""A transformer's own impedance from a short-circuit test, on the side it was fed from."""

import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.errors import FieldError, within
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.kinds.short_circuit import ShortCircuit
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity

ASSUMED_SHARE = 0.25
"""Where no watts were read, a quarter of |Z| is taken for resistance: shunted parts are mainly
reactive. From memory."""
ASSUMED_SPREAD = 0.25
"""Limits of that assumption, ± of either part. House rule."""
LIMITS_TO_SPREAD = 1 / math.sqrt(6)
"""A meter's warranted limit as a spread, triangular: most meters err by far less. JCGM 100:2008
4.3.9.
"""
LEAST_PART = 0.1
"""A part below this share of |Z| has no better figure than one of that size. House rule."""


class Impedance(Struct, frozen=True):
    """Series resistance and reactance in Ω, and whether the split between them was measured or
    assumed.
    """

    ohms: float
    reactance_ohms: float
    measured: bool


class OwnImpedance(Struct, frozen=True):
    """A piece's own impedance on its primary's side, in Ω, with ranges; the reading it comes from,
    whether the split was measured, and the covariance (2, 2) of both parts' logarithms.
    """

    resistance_ohms: Quantity
    reactance_ohms: Quantity
    reading: str
    measured: bool
    covariance: NDArray[np.float64]


def short_circuit_impedance(volts: float, amps: float, watts: float | None = None) -> Impedance:
    """R = P/I², |Z| = V/I, X = √(Z² − R²). REF-T-02 (Chapman, Electric Machinery Fundamentals,
    ch. 2).

    RMS volts, amps, watts to Ω; reduced volts, linear. Without watts the split is an assumption.
    Raises FieldError where a figure is not positive or watts exceed V·I.

    >>> short_circuit_impedance(10.0, 2.0, 12.0)
    Impedance(ohms=3.0, reactance_ohms=4.0, measured=True)
    """
    within("volts", volts, above=0, unit="V")
    within("amps", amps, above=0, unit="A")
    z = volts / amps
    if watts is None:
        r = ASSUMED_SHARE * z
        return Impedance(r, math.sqrt(z * z - r * r), False)
    r = within("watts", watts, at_least=0, unit="W") / amps**2
    if r > z * 1.02:
        most = engineering(volts * amps, "VA")
        raise FieldError(
            "watts",
            f"Watts cannot exceed volts times amps ({most}); {engineering(watts, 'W')} was given.",
        )
    return Impedance(r, math.sqrt(max(0.0, z * z - r * r)), True)


def own_impedance(record: Transformer, belief: Belief) -> OwnImpedance | None:
    """A piece's own impedance on its primary's side, from its newest short-circuit test that still
    counts; None where none tells it.

    A test that fed another winding with the primary shorted is referred by the square of the volts
    of the two. REF-T-02, REF-T-03.
    """
    primary = belief.primary
    tests = [r for r in record.standing if r.kind == "short_circuit"]
    if primary is None:
        return None
    for r in reversed(tests):
        refer = _referred(r, belief, primary)
        if refer is not None:
            return _with_limits(r, refer)
    return None


def _referred(r: ShortCircuit, belief: Belief, primary: Winding) -> Quantity | None:
    """What a test's ohms are multiplied by to stand on the primary's side; None where the primary
    is neither fed nor shorted.
    """
    one = Quantity(1.0, 1.0, 1.0)
    fed = belief.topology.winding_spanned(r.driven)
    if fed is None:
        return None
    winding = belief.windings[fed]
    share = winding.coil.fraction_between(*r.driven) or 1.0
    if winding.id == primary.id:
        return one if share > 0.99 else None
    shorted = [belief.topology.winding_spanned(pair) for pair in r.shorted]
    if belief.windings.index(primary) not in shorted:
        return None
    if winding.volts is None or primary.volts is None:
        return None
    ratios = [
        (supply / volts) ** 2
        for supply in (primary.volts.low, primary.volts.high)
        for volts in (winding.volts.low * share, winding.volts.high * share)
        if volts > 0
    ]
    if not ratios:
        return None
    middle = (primary.volts.value / (winding.volts.value * share)) ** 2
    return Quantity(middle, min(ratios), max(ratios))


def _watts(r: ShortCircuit, err: float) -> float | None:
    """Watts as far as volts and amps allow them: a part that is nearly all resistance may read a
    little above, within what its meters err by; what is farther off tells nothing of the split.
    """
    if r.watts is None:
        return None
    most = r.volts * r.amps
    slack = err + (limit(r, "watts") / r.watts if r.watts else 0.0)
    return min(r.watts, most) if r.watts <= most * (1 + slack) else None


def _with_limits(r: ShortCircuit, refer: Quantity) -> OwnImpedance:
    """The impedance of one test with what its meters may err by, referred to the primary."""
    err = limit(r, "volts") / r.volts + limit(r, "amps") / r.amps
    own = short_circuit_impedance(r.volts, r.amps, _watts(r, err))
    spread = ASSUMED_SPREAD
    if own.measured and r.watts:
        spread = err + limit(r, "watts") / r.watts
    basis = (f"short circuit {r.id}",)

    def ranged(ohms: float) -> Quantity:
        low, high = ohms * (1 - spread) * refer.low, ohms * (1 + spread) * refer.high
        return Quantity(ohms * refer.value, max(0.0, low), high, basis)

    return OwnImpedance(
        resistance_ohms=ranged(own.ohms),
        reactance_ohms=ranged(own.reactance_ohms),
        reading=r.id,
        measured=own.measured,
        covariance=_covariance(r, own, refer),
    )


def _covariance(r: ShortCircuit, own: Impedance, refer: Quantity) -> NDArray[np.float64]:
    """Of both parts' logarithms, by what the meters of volts, amps and watts may err by, each for
    itself: R = P/I², X² = (V/I)² − R². JCGM 100:2008 5.1.2.
    """
    if own.measured and r.watts:
        whole = own.ohms**2 + own.reactance_ohms**2
        x2 = max(own.reactance_ohms**2, LEAST_PART**2 * whole)
        r2 = own.ohms**2
        slopes = np.array(
            [
                [0.0, -2.0, 1.0],
                [whole / x2, (2 * r2 - whole) / x2, -r2 / x2],
            ]
        )
        shares = [limit(r, key) / getattr(r, key) for key in ("volts", "amps", "watts")]
        bent = slopes * (np.array(shares) * LIMITS_TO_SPREAD)
        own_part = bent @ bent.T
    else:
        own_part = np.eye(2) * (ASSUMED_SPREAD * LIMITS_TO_SPREAD) ** 2
    turns = LIMITS_TO_SPREAD * math.log(refer.high / refer.low) / 2
    return np.asarray(own_part + turns**2)
