"""The equivalent circuit of a transformer from its no-load and its short-circuit test."""

import math
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.figures.wire import METALS
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown

HOT = 75.0
"""Losses and regulation are told at this winding temperature, °C. IEC 60076-1."""
SIDES = ("primary", "secondary")
SLACK = 1.001
"""Watts may exceed volt-amperes by so much before they are refused: rounding of what was read."""
DOUBT = 0.25
"""Below this power factor a usual wattmeter's phase error carries the watts. From memory."""


@dataclass(frozen=True, kw_only=True)
class NoLoad(Input):
    """The fed side on its volts, everything else open."""

    volts: Quantity = asked("No load: volts", "V", above=0, at_most=1e6)
    amps: Quantity = asked("No load: amps", "A", above=0, at_most=1e5)
    watts: Quantity = asked("No load: watts", "W", above=0, at_most=1e7)
    hertz: float = asked("No load: hertz", "Hz", default=50.0, above=0, at_most=1e5)


@dataclass(frozen=True, kw_only=True)
class ShortCircuit(Input):
    """The fed side at reduced volts, the other shorted; °C of the winding."""

    volts: Quantity = asked("Shorted: volts", "V", above=0, at_most=1e6)
    amps: Quantity = asked("Shorted: amps", "A", above=0, at_most=1e5)
    watts: Quantity = asked("Shorted: watts", "W", above=0, at_most=1e7)
    celsius: float = asked("Shorted: winding at", "°C", default=20.0, at_least=-40, at_most=200)


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Both tests, on which side, and what it is rated for."""

    no_load: NoLoad = asked("No load")
    short_circuit: ShortCircuit = asked("Shorted")
    fed: str = asked("Fed side", default=SIDES[0], choices=SIDES)
    primary_over_secondary: float = asked("Primary over secondary turns", above=0, at_most=1e6)
    primary_ohms: Quantity | None = asked("Primary ohms", "Ω", default=None, above=0, at_most=1e6)
    secondary_ohms: Quantity | None = asked(
        "Secondary ohms", "Ω", default=None, above=0, at_most=1e6
    )
    rated_voltamperes: float | None = asked(
        "Rated", "VA", default=None, above=0, at_most=1e8, help="for regulation and efficiency"
    )
    power_factor: float = asked("Load's power factor", default=1.0, above=0, at_most=1)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The circuit on the fed side, what it drops and wastes at its rating, and its shorts."""

    equivalent_resistance_ohms: Quantity = shown("Resistance of both windings", "Ω", lead=True)
    leakage_reactance_ohms: Quantity = shown("Leakage reactance", "Ω", lead=True)
    core_ohms: Quantity = shown("Core loss, as ohms", "Ω")
    magnetising_ohms: Quantity = shown("Magnetising reactance", "Ω")
    short_amps: Quantity = shown("A dead short on full volts, fed side", "A")
    secondary_short_amps: Quantity = shown("and in the secondary", "A")
    regulation: Quantity | None = shown("Drop at its rating, of the open volts")
    efficiency: Quantity | None = shown("Efficiency at its rating")


def work(given: Given) -> Found:
    """Rc = V²/P, Xm = V/√(I² − (P/V)²); R = P/I², X = √(Z² − R²). REF-T-01, REF-T-02; drop REF-T-
    04, efficiency REF-T-05, R carried to 75 °C by REF-W-03. Ω on the fed side; linear.

    Raises FieldError where watts are more than volt-amperes.

    >>> from greyfell.core.figures.quantity import exact
    >>> tests = dict(no_load=NoLoad(volts=exact(8000.0), amps=exact(0.214), watts=exact(400.0)),
    ...              short_circuit=ShortCircuit(volts=exact(489.0), amps=exact(2.5),
    ...                                         watts=exact(240.0)))
    >>> found = work(Given(primary_over_secondary=33.33, **tests))
    >>> round(found.equivalent_resistance_ohms.value, 1), round(found.core_ohms.value)
    (38.4, 160000)
    """
    idle, short = given.no_load, given.short_circuit
    for test, name in ((idle, "no_load"), (short, "short_circuit")):
        if test.watts.low > test.volts.high * test.amps.high * SLACK:
            raise FieldError(
                f"{name}.watts", "More watts than volts times amps: look at the meter's factor."
            )
    r = corners(lambda p, i: p / i**2, short.watts, short.amps)
    x = corners(_reactance, short.volts, short.amps, short.watts)
    amps = corners(lambda v, e, i: v * i / e, idle.volts, short.volts, short.amps)
    ratio = given.primary_over_secondary
    in_secondary = amps if given.fed == SIDES[1] else corners(lambda i: i * ratio, amps)
    return Found(
        equivalent_resistance_ohms=r,
        leakage_reactance_ohms=x,
        core_ohms=corners(lambda v, p: v**2 / p, idle.volts, idle.watts),
        magnetising_ohms=corners(_magnetising, idle.volts, idle.amps, idle.watts),
        short_amps=amps,
        secondary_short_amps=in_secondary,
        regulation=_regulation(given, r, x),
        efficiency=_efficiency(given, r),
    )


def _reactance(volts: float, amps: float, watts: float) -> float:
    return math.sqrt(max(0.0, (volts / amps) ** 2 - (watts / amps**2) ** 2))


def _magnetising(volts: float, amps: float, watts: float) -> float:
    """Reactance that draws what of the amps is not in phase; far above where all of it is."""
    across = amps**2 - (watts / volts) ** 2
    return volts / math.sqrt(max(across, (1e-3 * amps) ** 2))


def _hot(given: Given) -> float:
    """How many times its resistance at the test a winding has at 75 °C."""
    t0 = METALS["copper"].t0
    return (t0 + HOT) / (t0 + given.short_circuit.celsius)


def _regulation(given: Given, r: Quantity, x: Quantity) -> Quantity | None:
    """The drop at its rating as a share of the open volts; None where it is not rated."""
    rated, factor, hot = given.rated_voltamperes, given.power_factor, _hot(given)
    if rated is None:
        return None
    across = math.sqrt(1 - factor**2)

    def drop(ohms: float, reactance: float, volts: float) -> float:
        er, ex = ohms * hot * rated / volts**2, reactance * rated / volts**2
        return er * factor + ex * across + (ex * factor - er * across) ** 2 / 2

    return corners(drop, r, x, given.no_load.volts)


def _efficiency(given: Given, r: Quantity) -> Quantity | None:
    """What comes out of what goes in at its rating; None where it is not rated."""
    rated, hot = given.rated_voltamperes, _hot(given)
    if rated is None:
        return None
    out = rated * given.power_factor

    def share(ohms: float, core: float, volts: float) -> float:
        return out / (out + core + ohms * hot * (rated / volts) ** 2)

    return corners(share, r, given.no_load.watts, given.no_load.volts)


def _expected(given: Given) -> float | None:
    """The ohms of both windings on the fed side, by the ohmmeter; None where one is not known."""
    one, two, n = given.primary_ohms, given.secondary_ohms, given.primary_over_secondary
    if one is None or two is None:
        return None
    return one.value + two.value * n**2 if given.fed == SIDES[0] else two.value + one.value / n**2


MORE_THAN_COPPER = 2.0
"""From so many times the ohmmeter's ohms the test's resistance is no copper alone: a joint, a
shorted turn. House rule."""


def _uneven(given: Given, found: Found) -> bool:
    """Whether the test shows less resistance than the copper has, or far more."""
    expected = _expected(given)
    if expected is None:
        return False
    share = found.equivalent_resistance_ohms.value / expected
    return share < 1 / MORE_THAN_COPPER or share > MORE_THAN_COPPER


CIRCUIT_FROM_TESTS = Planner(
    name="circuit_from_tests",
    title="Circuit from two tests",
    purpose="Resistance, leakage, core loss and magnetising of a transformer from two tests.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="R = P/I², X = √(Z² − R²); Rc = V²/P, Xm = V/√(I² − (P/V)²)",
        source="REF-T-01, REF-T-02, REF-T-04, REF-T-05, REF-W-03",
        put="R {equivalent_resistance_ohms}, X {leakage_reactance_ohms}; core {core_ohms}",
    ),
    cautions=(
        Caution(
            code="reduced-volts",
            severity="caution",
            sentence=(
                "The short is fed at reduced volts until its rated amps flow, never on the mains."
            ),
        ),
        Caution(
            code="low-power-factor",
            severity="caution",
            sentence=(
                "At a power factor under 0.25 a wattmeter's phase error carries the watts: what "
                "rests on them is rough."
            ),
            when=lambda given, found: any(
                test.watts.value < DOUBT * test.volts.value * test.amps.value
                for test in (given.no_load, given.short_circuit)
            ),
        ),
        Caution(
            code="not-the-copper",
            severity="caution",
            sentence=(
                "The test's resistance is not that of the copper: a joint, a shorted turn, or one "
                "of the tests is off."
            ),
            when=_uneven,
        ),
    ),
    example={
        "no_load": {"volts": 8000, "amps": 0.214, "watts": 400, "hertz": 60},
        "short_circuit": {"volts": 489, "amps": 2.5, "watts": 240, "celsius": 75},
        "primary_over_secondary": 33.3333333,
        "rated_voltamperes": 20000,
        "power_factor": 0.8,
    },
    checks=(
        Check(
            given={
                "no_load": {"volts": 8000, "amps": 0.214, "watts": 400, "hertz": 60},
                "short_circuit": {"volts": 489, "amps": 2.5, "watts": 240, "celsius": 75},
                "primary_over_secondary": 100 / 3,
                "rated_voltamperes": 20000,
                "power_factor": 0.8,
            },
            expected={
                "core_ohms": 160.0e3,
                "magnetising_ohms": 38.45e3,
                "equivalent_resistance_ohms": 38.40,
                "leakage_reactance_ohms": 191.8,
                "regulation": 0.04640,
                "efficiency": 0.9615,
                "secondary_short_amps": 1363.0,
            },
            source="REF-T-01a, REF-T-02a, REF-T-04a, REF-T-05a, REF-T-14b: Chapman, ch. 2",
            rel=1e-3,
        ),
        Check(
            given={
                "no_load": {"volts": 230, "amps": 1.8, "watts": 95},
                "short_circuit": {"volts": 12.0, "amps": 0.435, "watts": 4.2},
                "primary_over_secondary": 1,
            },
            expected={
                "core_ohms": 556.8,
                "magnetising_ohms": 131.3,
                "equivalent_resistance_ohms": 22.20,
                "leakage_reactance_ohms": 16.38,
            },
            source="REF-T-01c, REF-T-02b",
            rel=1e-3,
        ),
    ),
)
