"""A reactance in series that limits the current with the load shorted, by phasors.

The loop holds what is already there, Rs + jXs, and the ballast, Rb + jX. With the load shorted
|Z| = V/I, so X = √((V/I)² − (Rs + Rb)²) − Xs: magnitudes are never added. REF-B-01, REF-B-02.
"""

import math
from dataclasses import dataclass

from greyfell.core.circuit.lamp import through
from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners import starts

NOUGHT = exact(0.0, "given")
MOST_OHMS = 1e7


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Supply volts RMS and hertz, amps RMS with the load shorted, and what is in the loop in Ω;
    impedances on the ballast's side.
    """

    limit_amps: Quantity = asked(
        "Current, load shorted", "A", above=0, at_most=1e5, slide=(0.2, 25), chosen=True
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
    load_ohms: float | None = asked("Load", "Ω", default=None, at_least=0, at_most=MOST_OHMS)
    load_lamp_watts: float | None = asked(
        "or a lamp, on this supply", "W", default=None, above=0, at_most=1e6
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Reactance, inductance, reactive power; the amps that flow with the load shorted, their peaks,
    what the core must store; and what is left for a load.
    """

    reactance_ohms: Quantity = shown("Reactance", "Ω", lead=True)
    inductance_henries: Quantity = shown("Inductance", "H")
    reactive_voltamperes: Quantity = shown("Reactive power", "var")
    shorted_amps: Quantity = shown("Current, shorted", "A")
    peak_amps: Quantity = shown("its peak", "A")
    first_peak_amps: Quantity = shown("its first peak, switched on", "A")
    core_must_store_joules: Quantity = shown("The core must store", "J")
    loaded_amps: Quantity | None = shown("Current, loaded", "A")
    load_volts: Quantity | None = shown("Volts at the load", "V")
    load_watts: Quantity | None = shown("Watts in the load", "W")
    added_up_amps: Quantity | None = shown("Ohms added up would say, wrongly", "A")


def _reactive(given: Given, amps: Quantity, x: Quantity) -> Quantity:
    ends = corners(lambda ohms, i: i * i * ohms, x, given.limit_amps)
    var = amps.value**2 * x.value
    return Quantity(var, min(ends.low, var), max(ends.high, var), ("I²X",))


def _over(x: Quantity, omega: float) -> Quantity:
    return Quantity(x.value / omega, x.low / omega, x.high / omega, ("X/2πf, REF-B-01",))


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
    load = _loaded(given, x) or (None, None, None)
    phasors = ("phasors, REF-B-02",)
    return Found(
        reactance_ohms=Quantity(x.value, x.low, x.high, phasors),
        inductance_henries=_over(x, omega),
        reactive_voltamperes=_reactive(given, amps, x),
        shorted_amps=Quantity(amps.value, amps.low, amps.high, phasors),
        **_peaks(given, amps, x),
        loaded_amps=load[0],
        load_volts=load[1],
        load_watts=load[2],
        added_up_amps=_added_up(given, x),
    )


def first_peak(resistance_ohms: float, reactance_ohms: float) -> float:
    """κ, the first peak of a current that is switched on over its lasting peak, at the worst
    moment: 1.02 + 0.98·e^(−3R/X). IEC 60909, from memory.

    >>> round(first_peak(0.0, 1.0), 2), round(first_peak(1.0, 1.0), 2)
    (2.0, 1.07)
    """
    if reactance_ohms <= 0:
        return 1.0
    return 1.02 + 0.98 * math.exp(-3 * resistance_ohms / reactance_ohms)


def _peaks(given: Given, amps: Quantity, x: Quantity) -> dict[str, Quantity]:
    """Peak, first peak, and what the core stores at the peak. REF-M-09."""
    omega = 2 * math.pi * given.supply_hertz
    rs, rb = given.source_resistance_ohms, given.ballast_resistance_ohms

    def first(i: float, ohms: float, xs: float, r: float, more: float) -> float:
        return math.sqrt(2) * i * first_peak(r + more, ohms + xs)

    reach = Quantity(
        amps.value, min(amps.low, given.limit_amps.low), max(amps.high, given.limit_amps.high)
    )
    basis = ("IEC 60909",)
    switched = corners(first, reach, x, given.source_reactance_ohms, rs, rb)
    return {
        "peak_amps": corners(lambda i: math.sqrt(2) * i, reach),
        "first_peak_amps": Quantity(switched.value, switched.low, switched.high, basis),
        "core_must_store_joules": corners(lambda i, ohms: i * i * ohms / omega, reach, x),
    }


@dataclass(frozen=True)
class Loaded:
    """Amps and volts of a load behind an impedance, RMS."""

    amps: float
    volts: float


def loaded_by(
    supply_volts: float, loop: complex, ohms: float | None, lamp_watts: float | None
) -> Loaded | None:
    """What a resistance, or a lamp made for this supply, takes behind an impedance; None where no
    load is told. REF-B-02, REF-B-05. Raises FieldError where both are told.

    >>> found = loaded_by(230.0, complex(3.0, 39.0), 20.0, None)
    >>> round(found.amps, 2)
    5.08
    """
    if ohms is not None and lamp_watts is not None:
        raise FieldError("load_lamp_watts", "The load is ohms or a lamp, not both.")
    if lamp_watts is not None:
        found = through(supply_volts, lamp_watts, supply_volts, loop.real, loop.imag)
        return Loaded(found.amps, found.lamp_volts)
    if ohms is None:
        return None
    amps = supply_volts / abs(loop + ohms)
    return Loaded(amps, amps * ohms)


def _added_up(given: Given, x: Quantity) -> Quantity | None:
    """What people reckon who add ohms that stand at right angles; None without a plain load."""
    if given.load_ohms is None:
        return None
    load = given.load_ohms
    return corners(
        lambda v, rs, xs, rb, ohms: v / max(rs + xs + rb + ohms + load, 1e-12),
        given.supply_volts,
        given.source_resistance_ohms,
        given.source_reactance_ohms,
        given.ballast_resistance_ohms,
        x,
    )


def _loaded(given: Given, x: Quantity) -> tuple[Quantity, Quantity, Quantity] | None:
    """Amps, volts and watts of the load; None where none is told."""

    def at(v: float, rs: float, xs: float, rb: float, ohms: float) -> Loaded:
        return loaded_by(
            v, complex(rs + rb, xs + ohms), given.load_ohms, given.load_lamp_watts
        ) or Loaded(0.0, 0.0)

    if given.load_ohms is None and given.load_lamp_watts is None:
        return None
    loop = (
        given.supply_volts,
        given.source_resistance_ohms,
        given.source_reactance_ohms,
        given.ballast_resistance_ohms,
        x,
    )
    return (
        corners(lambda *z: at(*z).amps, *loop),
        corners(lambda *z: at(*z).volts, *loop),
        corners(lambda *z: at(*z).amps * at(*z).volts, *loop),
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
            code="not-by-subtraction",
            severity="note",
            sentence=(
                "A load of {load_ohms} takes {loaded_amps} behind it, not {added_up_amps} as ohms "
                "added up would say: reactance stands at right angles to resistance."
            ),
            when=lambda given, found: given.load_ohms is not None,
        ),
        Caution(
            code="first-peak",
            severity="note",
            sentence=(
                "Switched on at the worst moment its first peak is {first_peak_amps}: breakers "
                "and thin joints see that."
            ),
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
        Check(
            given={
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "limit_amps": 230 / abs(3 + 39j),
                "ballast_resistance_ohms": 3.0,
                "load_ohms": 20.0,
            },
            expected={"loaded_amps": 5.080},
            source="REF-B-02a: behind R 3, X 39 a load of 20 Ω takes 5.080 A",
        ),
    ),
)
