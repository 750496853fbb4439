"""Rectifiers as parts: from an alternating pair of nodes to a direct one."""

import math

from msgspec import Struct

from greyfell.core.network.bending import Diode
from greyfell.core.network.laws import DiodeLaw
from greyfell.core.network.parts import EARTH, Capacitor, CircuitPart

KINDS = ("half-wave", "doubler", "bridge", "centre-tap", "multiplier")
INVERSE = {
    "half-wave": 2.0,
    "doubler": 2.0,
    "bridge": 1.0,
    "centre-tap": 2.0,
    "multiplier": 2.0,
}
"""Inverse volts of a diode with a capacitor behind it, in peaks of the winding's volts. R-T1."""
IN_PATH = {"half-wave": 1, "doubler": 2, "bridge": 2, "centre-tap": 1, "multiplier": 2}
"""Diodes that the open volts lose, a stage of a multiplier counted once."""
PULSES = {"half-wave": 1, "doubler": 1, "bridge": 2, "centre-tap": 2, "multiplier": 1}
"""Pulses a cycle."""


DIODE_SHARE = 0.1
"""So much of a diode's drop at the load's amps is ohms: at four times them it drops a third more.
From memory."""
LEAST_OHMS, LEAST_AMPS, MOST_OHMS = 1e-3, 1e-6, 1e3


def diode_law(drop: float, amps: float) -> DiodeLaw:
    """Diodes that drop so many volts at the load's amps. V, A.

    >>> law = diode_law(0.9, 1.0)
    >>> round(law.volts, 2), round(law.ohms, 2)
    (0.81, 0.09)
    """
    ohms = DIODE_SHARE * drop / max(amps, LEAST_AMPS)
    held = (1 - DIODE_SHARE) * drop
    return DiodeLaw(volts=held, ohms=min(max(ohms, LEAST_OHMS), MOST_OHMS))


class Rectified(Struct, frozen=True, kw_only=True):
    """The parts of a rectifier, and its direct node (against earth)."""

    parts: tuple[CircuitPart, ...]
    plus: str


def rectifier(
    kind: str,
    *,
    one: str,
    two: str,
    middle: str = EARTH,
    law: DiodeLaw,
    stages: int = 1,
    stage_farads: float = 1e-6,
) -> Rectified:
    """A rectifier on a winding from `one` to `two`; its direct side stands against earth. Half-wave
    and multipliers have `two` at earth; a centre-tap has its `middle` there. R-T1, REF-R-03.

    >>> law = DiodeLaw(volts=0.9, ohms=0.01)
    >>> found = rectifier("bridge", one="a", two="b", law=law)
    >>> [p.name for p in found.parts], found.plus
    (['D1', 'D2', 'D3', 'D4'], 'plus')
    """
    plain = {
        "half-wave": ((one, "plus"),),
        "centre-tap": ((one, "plus"), (two, "plus")),
        "bridge": ((one, "plus"), (two, "plus"), (EARTH, one), (EARTH, two)),
    }
    if kind in plain:
        parts = tuple(
            Diode(name=f"D{n}", one=a, two=b, law=law) for n, (a, b) in enumerate(plain[kind], 1)
        )
        return Rectified(parts=parts, plus="plus")
    count = 1 if kind == "doubler" else stages
    return _ladder(one, law, count, stage_farads)


def _ladder(one: str, law: DiodeLaw, stages: int, farads: float) -> Rectified:
    """A ladder of doublers: capacitors pushed by the winding on one side, smoothed on the other."""
    parts: list[CircuitPart] = []
    pushed, smooth = one, EARTH
    for n in range(1, stages + 1):
        high, out = f"up{n}", "plus" if n == stages else f"dc{n}"
        parts.append(Capacitor(name=f"CP{n}", one=pushed, two=high, farads=farads))
        parts.append(Diode(name=f"DL{n}", one=smooth, two=high, law=law))
        parts.append(Diode(name=f"DU{n}", one=high, two=out, law=law))
        if stages > 1:
            parts.append(Capacitor(name=f"CS{n}", one=out, two=smooth, farads=farads))
        pushed, smooth = high, out
    return Rectified(parts=tuple(parts), plus="plus")


def open_volts(kind: str, volts: float, *, stages: int, drop: float) -> float:
    """Direct volts with nothing taken, diodes' drops off. REF-R-02, REF-R-03.

    >>> round(open_volts("multiplier", 1000.0, stages=2, drop=0.0))
    5657
    """
    peak = math.sqrt(2) * volts
    if kind == "multiplier":
        return 2 * stages * (peak - drop)
    if kind == "doubler":
        return 2 * (peak - drop)
    return peak - IN_PATH[kind] * drop
