"""A reactance in series that limits the current with the load shorted, by phasors.

The loop holds what is already there, Rs + jXs, and the ballast, Rb + jX. With the load shorted
|Z| = V/I, so X = √((V/I)² − (Rs + Rb)²) − Xs: magnitudes are never added. REF-B-01, REF-B-02.
"""

import math
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.planners import starts
from greyfell.core.planners.asking import Input, asked
from greyfell.core.planners.declare import Caution, Check, Formula, Planner
from greyfell.core.planners.showing import Result, shown

NOUGHT = exact(0.0, "given")
MOST_OHMS = 1e7


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Supply volts RMS and hertz, amps RMS with the load shorted, and what is in the loop in Ω;
    impedances on the ballast's side.
    """

    limit_amps: Quantity = asked(
        "Current, load shorted", "A", above=0, at_most=1e5, slide=(0.2, 25)
    )
    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e5, start=starts.supply_volts)
    supply_hertz: float = asked(
        "Frequency", "Hz", at_least=1, at_most=1000, start=starts.supply_hertz
    )
    source_resistance_ohms: Quantity = asked(
        "Resistance in the loop",
        "Ω",
        default=NOUGHT,
        at_least=0,
        at_most=MOST_OHMS,
        start=starts.source_resistance,
    )
    source_reactance_ohms: Quantity = asked(
        "Reactance in the loop",
        "Ω",
        default=NOUGHT,
        at_least=0,
        at_most=MOST_OHMS,
        start=starts.source_reactance,
    )
    ballast_resistance_ohms: Quantity = asked(
        "Ballast's own resistance", "Ω", default=NOUGHT, at_least=0, at_most=MOST_OHMS
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Reactance, inductance, reactive power, and the amps that flow with the load shorted."""

    reactance_ohms: Quantity = shown("Reactance", "Ω", lead=True)
    inductance_henries: Quantity = shown("Inductance", "H")
    reactive_voltamperes: Quantity = shown("Reactive power", "var")
    shorted_amps: Quantity = shown("Current, shorted", "A")


def work(given: Given) -> Found:
    """The ballast that lets `limit_amps` RMS flow with the load shorted. SI units. REF-B-01, B-02.

    An iron-cored ballast must keep this inductance at the peak of that current; a linear one is
    assumed here. Limits at their worst together. Raises FieldError where the loop limits already.

    >>> from greyfell.core.figures.quantity import exact
    >>> given = Given(supply_volts=exact(230.0), supply_hertz=50.0, limit_amps=exact(5.0))
    >>> round(work(given).reactance_ohms.value)
    46
    """
    _refuse_if_limited(given)
    loop = (
        given.supply_volts,
        given.source_resistance_ohms,
        given.source_reactance_ohms,
        given.ballast_resistance_ohms,
    )
    x = corners(_reactance, given.limit_amps, *loop)
    omega = 2 * math.pi * given.supply_hertz

    def amps_of(v: float, rs: float, xs: float, rb: float) -> float:
        return v / math.hypot(rs + rb, xs + x.value)

    amps = corners(amps_of, *loop)
    reactive = corners(lambda ohms, i: i * i * ohms, x, given.limit_amps)
    var = amps.value**2 * x.value
    phasors = ("phasors, REF-B-02",)
    henries = (x.value / omega, x.low / omega, x.high / omega)
    return Found(
        reactance_ohms=Quantity(x.value, x.low, x.high, phasors),
        inductance_henries=Quantity(*henries, ("X/2πf, REF-B-01",)),
        reactive_voltamperes=Quantity(
            var, min(reactive.low, var), max(reactive.high, var), ("I²X",)
        ),
        shorted_amps=Quantity(amps.value, amps.low, amps.high, phasors),
    )


def _reactance(i: float, v: float, rs: float, xs: float, rb: float) -> float:
    """Ω that are missing to |Z| = V/I; nought where the loop has them already."""
    square = (v / i) ** 2 - (rs + rb) ** 2
    return max(0.0, math.sqrt(square) - xs) if square > 0 else 0.0


def _refuse_if_limited(given: Given) -> None:
    """Raise FieldError where the loop lets no more flow than is wanted."""
    v, wanted = given.supply_volts.value, given.limit_amps.value
    rs, xs = given.source_resistance_ohms.value, given.source_reactance_ohms.value
    rb = given.ballast_resistance_ohms.value
    z = math.hypot(rs + rb, xs)
    if z < v / wanted * (1 - 1e-12):
        return
    raise FieldError(
        "limit_amps",
        f"The loop limits already: with the load shorted it passes {v / z:.3g} A, and {wanted:g} A "
        f"was wanted at most. No reactance is needed (source impedance {math.hypot(rs, xs):.3g} Ω, "
        f"ballast resistance {rb:.3g} Ω).",
    )


BALLAST = Planner(
    name="ballast",
    title="Ballast",
    purpose="A reactance in series that holds the current, by phasors.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="X = √((V/I)² − (Rs + Rb)²) − Xs; L = X/2πf",
        source="REF-B-01, REF-B-02",
        put=(
            "√(({supply_volts}/{limit_amps})² − ({source_resistance_ohms} + "
            "{ballast_resistance_ohms})²) − {source_reactance_ohms} = {reactance_ohms}. Magnitudes "
            "are never subtracted from each other."
        ),
    ),
    draws={"ballast": {"ballast_resistance_ohms": "ohms"}},
    cautions=(
        Caution(
            code="not-isolation",
            severity="caution",
            sentence=(
                "It limits, it does not isolate. Behind a dark or cool ballast the HV is nearly "
                "full. With a sign transformer, feeding above its knee means more than rated HV: "
                "beyond its rating, the potting fails first."
            ),
        ),
        Caution(
            code="reactance-unknown",
            severity="note",
            sentence=(
                "No reactance is given for the loop: the piece's leakage would be part of it, and "
                "a short-circuit test tells it. Left at nought, the ballast comes out larger than "
                "needed."
            ),
            when=lambda given, found: given.source_reactance_ohms.value == 0,
        ),
        Caution(
            code="core-peak",
            severity="note",
            sentence=(
                "The core must carry this current's peak without saturating, or it limits less."
            ),
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.DOUBTFUL),
    note="Ranges follow from those entered (“5 ±0.2”); all limits at their worst together.",
    example={
        "supply_volts": 230.0,
        "supply_hertz": 50.0,
        "limit_amps": 5.0,
        "source_resistance_ohms": 2.0,
    },
    checks=(
        Check(
            given={
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "limit_amps": 5.080,
                "source_resistance_ohms": 20.0,
                "ballast_resistance_ohms": 3.0,
            },
            expected={"reactance_ohms": 39.0},
            source="REF-B-02a: R 3, X 39 with a load of 20 Ω pass 5.080 A",
            rel=1e-3,
        ),
        Check(
            given={"supply_volts": 38.96, "supply_hertz": 50.0, "limit_amps": 1.0},
            expected={"inductance_henries": 0.124},
            source="REF-B-01a",
            rel=1e-3,
        ),
    ),
)
