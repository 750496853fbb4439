"""A reactance in series that limits the current with the load shorted, by phasors.

The loop holds what is already there, Rs + jXs, and the ballast, Rb + jX. With the load shorted
|Z| = V/I, so X = √((V/I)² − (Rs + Rb)²) − Xs: magnitudes are never added. REF-B-01, REF-B-02.
"""

import math
from dataclasses import dataclass

from greyfell.core.errors import FieldError, within
from greyfell.core.quantity import Quantity, corners


@dataclass(frozen=True)
class Ballast:
    """Reactance Ω, inductance H, reactive power var, and the RMS amps with the load shorted; and
    the phasors, RMS.
    """

    reactance_ohms: Quantity
    inductance_henries: Quantity
    reactive_voltamperes: Quantity
    shorted_amps: Quantity
    resistance_volts: float
    source_reactance_volts: float
    ballast_reactance_volts: float


def plan_ballast(
    supply_volts: Quantity,
    supply_hertz: float,
    limit_amps: Quantity,
    source_resistance_ohms: Quantity,
    source_reactance_ohms: Quantity,
    ballast_resistance_ohms: Quantity,
) -> Ballast:
    """The ballast that lets `limit_amps` RMS flow with the load shorted. SI units; impedances on
    the ballast's side.

    Raises FieldError where the loop limits already, where the resistance alone does, or a figure is
    out of bounds. An iron-cored ballast must keep this inductance at the peak of that current; a
    linear one is assumed here.
    """
    within("supply_volts", supply_volts.low, above=0, unit="V")
    within("supply_hertz", supply_hertz, above=0, unit="Hz")
    within("limit_amps", limit_amps.low, above=0, unit="A")
    for name, q in (
        ("source_resistance_ohms", source_resistance_ohms),
        ("source_reactance_ohms", source_reactance_ohms),
        ("ballast_resistance_ohms", ballast_resistance_ohms),
    ):
        within(name, q.low, at_least=0, unit="Ω")
    omega = 2 * math.pi * supply_hertz
    inputs = (
        supply_volts,
        limit_amps,
        source_resistance_ohms,
        source_reactance_ohms,
        ballast_resistance_ohms,
    )

    def reactance(v: float, i: float, rs: float, xs: float, rb: float) -> float:
        square = (v / i) ** 2 - (rs + rb) ** 2
        return max(0.0, math.sqrt(square) - xs) if square > 0 else 0.0

    v, i, rs, xs, rb = (q.value for q in inputs)
    present = math.hypot(rs, xs)
    if math.hypot(rs + rb, xs) >= v / i * (1 - 1e-12):
        flows = v / math.hypot(rs + rb, xs)
        raise FieldError(
            "limit_amps",
            f"The loop limits already: with the load shorted it passes {flows:.3g} A, and "
            f"{i:g} A was wanted at most. "
            f"No reactance is needed (source impedance {present:.3g} Ω, ballast resistance "
            f"{rb:.3g} Ω).",
        )
    x = corners(reactance, *inputs)
    shorted = corners(
        lambda v, rs, xs, rb: v / math.hypot(rs + rb, xs + x.value),
        supply_volts,
        source_resistance_ohms,
        source_reactance_ohms,
        ballast_resistance_ohms,
    )
    basis = ("phasors, REF-B-02",)
    amps = v / math.hypot(rs + rb, xs + x.value)
    reactive = corners(lambda x, i: i * i * x, x, limit_amps)
    return Ballast(
        reactance_ohms=Quantity(x.value, x.low, x.high, basis),
        inductance_henries=Quantity(
            x.value / omega, x.low / omega, x.high / omega, ("X/2πf, REF-B-01",)
        ),
        reactive_voltamperes=Quantity(
            amps * amps * x.value,
            min(reactive.low, amps * amps * x.value),
            max(reactive.high, amps * amps * x.value),
            ("I²X",),
        ),
        shorted_amps=Quantity(amps, min(shorted.low, amps), max(shorted.high, amps), basis),
        resistance_volts=amps * (rs + rb),
        source_reactance_volts=amps * xs,
        ballast_reactance_volts=amps * x.value,
    )
