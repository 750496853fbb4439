"""A transformer's own impedance from a short-circuit test, on the side it was fed from."""

import math
from dataclasses import dataclass

from greyfell.core.errors import FieldError, within


@dataclass(frozen=True, slots=True)
class Impedance:
    """Series resistance and reactance in Ω, and whether the split between them was measured or
    assumed.
    """

    ohms: float
    reactance_ohms: float
    measured: bool


ASSUMED_SHARE = 0.25
"""Where no watts were read, a quarter of |Z| is taken for resistance: shunted parts are mainly
reactive. From memory."""


def short_circuit_impedance(volts: float, amps: float, watts: float | None = None) -> Impedance:
    """R = P/I², |Z| = V/I, X = √(Z² − R²). REF-T-02 (Chapman, Electric Machinery Fundamentals, ch.
    2).

    RMS, reduced volts, linear. Without watts the split is an assumption. Raises FieldError where
    watts exceed V·I.
    """
    within("volts", volts, above=0, unit="V")
    within("amps", amps, above=0, unit="A")
    z = volts / amps
    if watts is None:
        r = ASSUMED_SHARE * z
        return Impedance(r, math.sqrt(z * z - r * r), False)
    r = within("watts", watts, at_least=0, unit="W") / amps**2
    if r > z * 1.02:
        raise FieldError(
            "watts",
            (
                f"Watts cannot exceed volts times amps ({volts * amps:.3g} VA); {watts:.3g} W "
                "was given."
            ),
        )
    return Impedance(r, math.sqrt(max(0.0, z * z - r * r)), True)
