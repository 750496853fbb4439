"""Shots and rests: how much warmer a winding is after each, how many to its limit, how long to
rest.
"""

import math
from dataclasses import dataclass

from greyfell.core.coil_design.conductors import LIMITS
from greyfell.core.coil_design.heat import HEATS, cooling_watts, rise_of_shot, shots_to_limit
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.figures.wire import METALS
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown

FEW = 10
"""Fewer shots than these are told with a caution."""
COOLS = 0.35
"""How far still air's cooling strays from its usual figure, ±. REF-M-19, ± a third."""
MOST_SHOTS = 100_000


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Amps RMS of a shot, the conductor, seconds on and off, °C; mass and surface for the rest."""

    amps: Quantity = asked("Amps of a shot", "A", above=0, at_most=1e5, slide=(20, 2000))
    mm2: float = asked("Conductor", "mm²", above=0, at_most=5000, chosen=True)
    material: str = asked("Metal", default="copper", choices=tuple(METALS))
    on_seconds: float = asked(
        "A shot lasts", "s", above=0, at_most=36000, slide=(0.1, 30), chosen=True
    )
    off_seconds: float | None = asked("then rests", "s", default=None, at_least=0, at_most=36000)
    ambient_celsius: float = asked("Air", "°C", default=25.0, at_least=-40, at_most=80)
    limit_celsius: float = asked(
        "Its insulation bears",
        "°C",
        default=105.0,
        at_least=40,
        at_most=250,
        help=f"PVC cable {LIMITS['cable']:g}, enamel {LIMITS['enamelled']:g}",
    )
    mass_kg: float | None = asked("Metal of the winding", "kg", default=None, above=0, at_most=200)
    surface_cm2: float | None = asked("Surface to the air", "cm²", default=None, above=0)
    start_celsius: float | None = asked(
        "Now it is at",
        "°C",
        default=None,
        at_least=-40,
        at_most=250,
        help="by its ohms; the air where not given",
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """One shot, shots to the limit, the rest, what it heats like."""

    rise_per_shot_kelvin: Quantity = shown("A shot warms it by", "K", lead=True)
    shots_to_limit: int = shown("Shots to its limit, no rest", lead=True)
    rest_seconds: Quantity | None = shown("Rest between shots, for good", "s")
    rest_wants: str | None = shown("For the rest it needs")
    equivalent_amps: Quantity | None = shown("It heats like", "A")
    amps_per_mm2: Quantity = shown("Density", "A/mm²")


def work(given: Given) -> Found:
    """Adiabatic, the first shot from the air (or from what its ohms say): REF-W-12. The rest lets
    still air take what a shot brings, the winding at its limit. REF-W-13. K, s, A.

    >>> from greyfell.core.figures.quantity import exact
    >>> told = Given(amps=exact(2000.0), mm2=100.0, on_seconds=60.0, limit_celsius=181.3)
    >>> found = work(told)
    >>> round(found.rise_per_shot_kelvin.value, 1), found.shots_to_limit
    (156.2, 1)
    """
    metal = METALS[given.material]
    start = given.ambient_celsius if given.start_celsius is None else given.start_celsius
    density = corners(lambda i: i / given.mm2, given.amps)
    rise = corners(lambda j: rise_of_shot(j, given.on_seconds, metal, start), density)
    shots = 0
    if start < given.limit_celsius:
        ends = (start, given.limit_celsius)
        shots = min(MOST_SHOTS, shots_to_limit(density.high, given.on_seconds, metal, ends))
    wants = _wants(given)
    return Found(
        rise_per_shot_kelvin=rise,
        shots_to_limit=shots,
        rest_seconds=None if wants else _rest(given, density),
        rest_wants=wants or None,
        equivalent_amps=_equivalent(given),
        amps_per_mm2=density,
    )


def _wants(given: Given) -> str:
    """What is missing for the rest."""
    missing = [
        words
        for words, value in (("mass", given.mass_kg), ("surface", given.surface_cm2))
        if value is None
    ]
    return " and ".join(missing)


def _rest(given: Given, density: Quantity) -> Quantity:
    """Seconds in which the air takes what a shot brings, the winding at its limit; nought where it
    takes it during the shot.
    """
    assert given.mass_kg is not None
    assert given.surface_cm2 is not None
    over = given.limit_celsius - given.ambient_celsius
    metal, heat = METALS[given.material], HEATS[given.material]
    mass, surface = given.mass_kg, given.surface_cm2

    def rest(j: float, air: float) -> float:
        kelvin = rise_of_shot(j, given.on_seconds, metal, given.limit_celsius)
        watts = air * cooling_watts(surface, max(over, 1e-3))
        return max(0.0, mass * heat * kelvin / watts - given.on_seconds)

    return corners(rest, density, Quantity(1.0, 1 - COOLS, 1 + COOLS, ("still air",)))


def _equivalent(given: Given) -> Quantity | None:
    """Amps that heat as much for good. REF-W-13."""
    off = given.off_seconds
    if off is None:
        return None
    share = math.sqrt(given.on_seconds / (given.on_seconds + off))
    return corners(lambda i: i * share, given.amps)


DUTY = Planner(
    name="duty",
    title="Shots and rests",
    purpose="What a shot heats, how many to the limit, how long to rest between.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="θ' = (β + θ)·exp(J²t/K²) − β; I_eq = I·√(on/(on + off)); rest = m·c·Δθ/P_air − on",
        source="REF-W-12, REF-W-13, REF-M-19",
        put="{amps} in {mm2} for {on_seconds}: {rise_per_shot_kelvin} a shot",
    ),
    cautions=(
        Caution(
            code="over-at-once",
            severity="stop",
            sentence=(
                "Not one shot: it would rise by {rise_per_shot_kelvin}, past {limit_celsius}. "
                "Thicker conductor, or a shorter pulse."
            ),
            when=lambda given, found: found.shots_to_limit == 0,
        ),
        Caution(
            code="few-shots",
            severity="caution",
            sentence=(
                "{shots_to_limit} shots from cold, then it cools by the clock, not by the feel: "
                "its hot ohms tell."
            ),
            when=lambda given, found: 0 < found.shots_to_limit < FEW,
        ),
        Caution(
            code="hottest-place",
            severity="note",
            sentence="Its hottest place is 10 to 15 K above this mean; the primary warms too.",
        ),
        Caution(
            code="cut-out",
            severity="note",
            sentence="A thermal cut-out on the primary opens what a tired hand forgets.",
        ),
    ),
    example={
        "amps": 800.0,
        "mm2": 35.0,
        "on_seconds": 1.0,
        "off_seconds": 30.0,
        "limit_celsius": 70.0,
        "mass_kg": 0.5,
        "surface_cm2": 350.0,
    },
    checks=(
        Check(
            given={"amps": 20.0, "mm2": 1.0, "on_seconds": 60.0},
            expected={"rise_per_shot_kelvin": 156.2},
            source="REF-W-12a: 181.2 °C from 25",
        ),
        Check(
            given={
                "amps": 10.0,
                "mm2": 1.0,
                "on_seconds": 120.0,
                "material": "aluminium",
                "off_seconds": 1080.0,
                "limit_celsius": 250.0,
            },
            expected={"rise_per_shot_kelvin": 184.2, "equivalent_amps": 3.162},
            source="REF-W-12b: 209.2 °C from 25; REF-W-13 by hand: √0.1",
        ),
    ),
)
