"""A conductor by its amps, or what a conductor at hand bears."""

import math
from collections.abc import Callable
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, exact
from greyfell.core.figures.wire import (
    IEC_MM2,
    METALS,
    area_mm2,
    awg_millimetres,
    diameter_mm,
    millimetres_awg,
    ohms_per_metre,
    seconds_to,
)
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown

WANTED_A_PER_MM2 = 2.5
"""Density that a size is chosen by where none is given. REF-W-T6, common practice."""
CONTINUOUS_A_PER_MM2, SHORT_A_PER_MM2 = 3.5, 12.0
"""Up to the first a buried copper winding runs for hours, up to the second for minutes; above it
for seconds. REF-W-T6, common practice."""
RING_AMPS = 50.0
"""From these amps a ring across the terminals burns before it is pulled off. Common practice."""
START_CELSIUS = 25.0
"""Where heating begins, °C."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Amps RMS, the share of the time they flow, and a size in one of three ways, or none."""

    amps: Quantity | None = asked(
        "Current", "A", default=None, above=0, at_most=1e5, slide=(0.1, 200)
    )
    duty: float = asked("Share of the time it flows", default=1.0, above=0, at_most=1)
    material: str = asked("Metal", default="copper", choices=tuple(METALS))
    mm2: float | None = asked("Size, by area", "mm²", default=None, above=0, at_most=2000)
    millimetres: float | None = asked(
        "or by bare diameter", "mm", default=None, above=0, at_most=50
    )
    awg: float | None = asked(
        "or by AWG", default=None, at_least=-3, at_most=50, help="1/0 is 0, 4/0 is −3"
    )
    limit_celsius: float = asked(
        "Insulation's limit", "°C", default=105.0, at_least=40, at_most=250
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The size every way, its density, its ohms, and for how long it bears the current."""

    mm2_found: Quantity = shown("Area", "mm²", lead=True)
    millimetres_found: Quantity = shown("Bare diameter", "mm")
    awg_found: Quantity = shown("AWG")
    amps_per_mm2: Quantity | None = shown("Density while it flows", "A/mm²")
    ohms_per_metre: Quantity = shown("Ohms of a metre", "Ω")
    seconds_to_limit: Quantity | None = shown("To the limit, no heat leaving", "s")
    service: str | None = shown("Bears it")


def work(given: Given) -> Found:
    """The size that is given, or the next IEC one for 2.5 A/mm² of the heating current I·√D.

    Amps RMS, mm², mm; ohms at 20 °C; seconds adiabatic, so pessimistic beyond some tens. REF-W-04,
    W-05, W-12, W-13; densities common practice. Raises FieldError where neither amps nor a size is
    given, a size is given twice, or no standard size is large enough.

    >>> from greyfell.core.figures.quantity import exact
    >>> work(Given(amps=exact(10.0))).mm2_found.value
    4.0
    """
    metal = METALS[given.material]
    mm2 = _size(given)
    millimetres = diameter_mm(mm2)
    density = seconds = service = None
    if given.amps is not None:
        density = _each(given.amps, lambda amps: amps / mm2, "I/A")
        limit = given.limit_celsius
        seconds = _each(density, lambda j: seconds_to(limit, j, metal, START_CELSIUS), "REF-W-12")
        service = _service(density.high * math.sqrt(given.duty) / metal.derating)
    return Found(
        mm2_found=exact(mm2, "given" if _ways(given) else "IEC 60228"),
        millimetres_found=exact(millimetres, "REF-W-04"),
        awg_found=exact(millimetres_awg(millimetres), "REF-W-04"),
        amps_per_mm2=density,
        ohms_per_metre=exact(ohms_per_metre(mm2, metal), "REF-W-05"),
        seconds_to_limit=seconds,
        service=service,
    )


def _ways(given: Given) -> list[float]:
    """Every way a size is given, as mm²."""
    ways = []
    if given.mm2 is not None:
        ways.append(given.mm2)
    if given.millimetres is not None:
        ways.append(area_mm2(given.millimetres))
    if given.awg is not None:
        ways.append(area_mm2(awg_millimetres(given.awg)))
    return ways


def _size(given: Given) -> float:
    """The area in mm² to work with."""
    ways = _ways(given)
    if len(ways) > 1:
        raise FieldError("mm2", "A size is given one way: area, diameter or AWG; more were given.")
    if ways:
        return ways[0]
    if given.amps is None:
        raise FieldError("amps", "Amps or a size is needed; neither was given.")
    derating = METALS[given.material].derating
    wanted = given.amps.high * math.sqrt(given.duty) / (WANTED_A_PER_MM2 * derating)
    size = next((s for s in IEC_MM2 if s >= wanted), None)
    if size is None:
        most = WANTED_A_PER_MM2 * derating * IEC_MM2[-1]
        raise FieldError(
            "amps",
            f"Amps must be at most {most:.0f} A for one conductor of standard size; put several in "
            "hand for more.",
        )
    return size


def _each(q: Quantity, function: Callable[[float], float], basis: str) -> Quantity:
    """A range carried through a function that only rises or only falls."""
    ends = (function(q.low), function(q.high))
    return Quantity(function(q.value), min(ends), max(ends), (*q.basis, basis))


def _service(a_per_mm2: float) -> str:
    """For how long a copper winding bears a density."""
    if a_per_mm2 <= CONTINUOUS_A_PER_MM2:
        return "continuous"
    return "short" if a_per_mm2 <= SHORT_A_PER_MM2 else "seconds"


WIRE = Planner(
    name="wire",
    title="Wire",
    purpose="Which conductor a current needs, or what a conductor at hand bears.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="A = I·√D / J; t = K²/J² · ln((β + θ limit)/(β + 25))",
        source="REF-W-04, REF-W-05, REF-W-12, REF-W-13",
        put="{amps} through {mm2_found} is {amps_per_mm2}; {ohms_per_metre} a metre",
    ),
    draws={"wire": {"mm2": "mm2", "material": "material"}},
    cautions=(
        Caution(
            code="seconds-only",
            severity="caution",
            sentence=(
                "At this density the copper has seconds: {seconds_to_limit} to its limit from cold "
                "if no heat leaves. Thicker wire, or shots with rests."
            ),
            when=lambda given, found: found.service == "seconds",
        ),
        Caution(
            code="aluminium-joints",
            severity="note",
            sentence=(
                "Aluminium creeps and grows oxide under clamps: lugs made for it, brushed and "
                "greased, retightened."
            ),
            when=lambda given, found: given.material == "aluminium",
        ),
        Caution(
            code="rings",
            severity="note",
            sentence="High amps at harmless volts burn: rings and watches off, no loose tools.",
            when=lambda given, found: given.amps is not None and given.amps.high >= RING_AMPS,
        ),
    ),
    example={"amps": 60.0, "duty": 0.25},
    checks=(
        Check(
            given={"awg": 12},
            expected={"millimetres_found": 2.053},
            source="REF-W-04a",
        ),
        Check(
            given={"millimetres": 0.35},
            expected={"ohms_per_metre": 0.1792},
            source="REF-W-05b",
        ),
        Check(
            given={"amps": 20.0, "mm2": 1.0, "limit_celsius": 181.2},
            expected={"seconds_to_limit": 60.0},
            source="REF-W-12a",
            rel=2e-3,
        ),
    ),
)
