"""Ghost volts and what is behind them: the capacitance between windings, the amps that can flow
through it, and what either meter shows.
"""

import cmath
import math
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.leaking import GRADES, grade_of
from greyfell.core.figures.limits import HIGH_VOLTAGE, MAINS_RISE
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners.starts import supply_hertz, supply_volts_plain


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The supply, amps that leak or the capacitance they leak through, and the meters."""

    supply_volts: float = asked("Supply", "V", above=0, at_most=1e5, start=supply_volts_plain)
    supply_hertz: float = asked("Frequency", "Hz", above=0, at_most=1e5, start=supply_hertz)
    leakage_amps: Quantity | None = asked("Leakage read", "A", default=None, above=0, at_most=10)
    capacitance_farads: Quantity | None = asked(
        "Capacitance between", "F", default=None, above=0, at_most=1e-3
    )
    meter_ohms: float = asked("Meter's input", "Ω", default=10e6, above=0, at_most=1e12)
    meter_farads: float = asked("and its capacitance", "F", default=1e-10, at_least=0, at_most=1e-6)
    low_z_ohms: float = asked("Low-Z mode", "Ω", default=4e5, above=0, at_most=1e9)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Capacitance, leakage to earth, what a meter shows in either mode, and how it is graded."""

    leakage_found_amps: Quantity = shown("Leaks to earth", "A", lead=True)
    grade: str = shown("Grade", lead=True)
    capacitance_found_farads: Quantity = shown("Through", "F")
    ghost_volts: Quantity = shown("A usual meter shows", "V")
    low_z_volts: Quantity = shown("Low-Z shows", "V")


def work(given: Given) -> Found:
    """I = V·2πf·C; meter in series with C: V·|Zm/(Zm + Zc)|. REF-Q-05, REF-Q-10. V, A, F; high ends
    at a tenth over the supply.

    Raises FieldError where neither or both of leakage and capacitance are given.

    >>> from greyfell.core.figures.quantity import exact
    >>> farads = exact(200e-12)
    >>> found = work(Given(supply_volts=230.0, supply_hertz=50.0, capacitance_farads=farads))
    >>> round(found.ghost_volts.value, 1)
    105.2
    """
    amps, farads = given.leakage_amps, given.capacitance_farads
    if (amps is None) == (farads is None):
        raise FieldError("leakage_amps", "Give the leakage in amps, or the capacitance; one.")
    omega, volts = 2 * math.pi * given.supply_hertz, given.supply_volts
    if amps is not None:
        farads = corners(lambda i: i / (omega * volts), amps)
    assert farads is not None
    leaks = _up(corners(lambda c: volts * omega * c, farads))
    meter = 1 / (1 / given.meter_ohms + 1j * omega * given.meter_farads)
    low = 1 / (1 / given.low_z_ohms + 1j * omega * given.meter_farads)
    return Found(
        leakage_found_amps=leaks,
        grade=grade_of(leaks.high),
        capacitance_found_farads=farads,
        ghost_volts=_up(corners(lambda c: _seen(volts, meter, omega * c), farads)),
        low_z_volts=_up(corners(lambda c: _seen(volts, low, omega * c), farads)),
    )


def _up(found: Quantity) -> Quantity:
    """A figure at the supply's name, its high end a tenth over it."""
    return Quantity(found.value, found.low, found.high * MAINS_RISE, (*found.basis, "supply"))


def _seen(volts: float, meter: complex, through: float) -> float:
    """What a meter shows behind a capacitance."""
    return volts * abs(meter) / abs(meter + cmath.rect(1 / through, -math.pi / 2))


LEAKAGE = Planner(
    name="leakage",
    title="Leakage and ghost volts",
    purpose="What leaks through a winding's capacitance, and what either meter makes of it.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="I = V·2πf·C; shown: V·|Zm/(Zm + 1/jωC)|",
        source="REF-Q-05, REF-Q-10",
        put="{supply_volts}·2π·{supply_hertz}·{capacitance_found_farads} = {leakage_found_amps}",
    ),
    cautions=(
        Caution(
            code="never-on-hv",
            severity="stop",
            sentence=(
                "A meter for leakage goes to earth through 2 kΩ and a fuse, and never on an HV "
                "winding."
            ),
            when=lambda given, found: given.supply_volts > HIGH_VOLTAGE,
        ),
        Caution(
            code="reject",
            severity="caution",
            sentence="{leakage_found_amps}, at a high line more: it is felt. Look for a touch.",
            when=lambda given, found: found.grade == GRADES[2],
        ),
        Caution(
            code="ghost",
            severity="note",
            sentence=(
                "Volts that vanish on low-Z are a ghost; the amps behind them count: measure them "
                "through 2 kΩ and a fuse."
            ),
        ),
    ),
    example={"supply_volts": 230.0, "supply_hertz": 50.0, "capacitance_farads": 200e-12},
    checks=(
        Check(
            given={"supply_volts": 230.0, "supply_hertz": 50.0, "capacitance_farads": 200e-12},
            expected={"ghost_volts": 105.2},
            source="REF-Q-05a",
        ),
        Check(
            given={
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "capacitance_farads": 200e-12,
                "low_z_ohms": 3000.0,
            },
            expected={"low_z_volts": 0.04335},
            source="REF-Q-05b",
        ),
        Check(
            given={"supply_volts": 120.0, "supply_hertz": 60.0, "capacitance_farads": 1e-9},
            expected={"ghost_volts": 106.1},
            source="REF-Q-05c",
        ),
        Check(
            given={"supply_volts": 230.0, "supply_hertz": 50.0, "capacitance_farads": 4.7e-9},
            expected={"leakage_found_amps": 0.3396e-3},
            source="REF-Q-10a",
        ),
    ),
)
