"""A filament lamp in series with a winding: what flows, how it glows on a sound winding and on a
shorted one, and which lamp tells the two apart.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

from greyfell.core.circuit.lamp import GLOWS, LAW_SPREAD, glow_of, through
from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.figures.solve import crossing
from greyfell.core.network.curve import LAW
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners.starts import supply_volts

SIZES = (7.0, 15.0, 25.0, 40.0, 60.0, 75.0, 100.0, 150.0, 200.0, 300.0, 500.0, 750.0, 1000.0)
"""Watts of filament lamps that are found. Common practice."""


@dataclass(frozen=True, kw_only=True)
class Point(Input):
    """One point of the winding's own sweep."""

    volts: float = asked("Sweep: volts", "V", above=0, at_most=1e6)
    amps: float = asked("Sweep: amps", "A", above=0, at_most=1e5)
    watts: float | None = asked("Sweep: watts", "W", default=None, at_least=0, at_most=1e7)


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The supply, the lamp, and what the winding draws on it by itself."""

    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e4, start=supply_volts)
    lamp_watts: float = asked("Lamp", "W", above=0, at_most=1e5, slide=(7, 500), chosen=True)
    lamp_volts: float | None = asked(
        "Lamp made for",
        "V",
        default=None,
        above=0,
        at_most=1e4,
        help="as the supply where not given",
    )
    magnetising_amps: Quantity | None = asked(
        "Winding draws on the supply", "A", default=None, above=0, at_most=1e4
    )
    magnetising_exponent: float = asked(
        "by this power of its volts",
        default=5.0,
        at_least=1,
        at_most=9,
        help="1 straight iron, 9 far beyond its knee",
    )
    points: tuple[Point, ...] = asked(
        "or points of its sweep", default=(), help="as 115V 0.4A 20W; 230V 1.9A 75W"
    )
    core_watts: float = asked("Its watts on the supply", "W", default=0.0, at_least=0, at_most=1e6)
    winding_ohms: float = asked("Its ohms", "Ω", default=0.0, at_least=0, at_most=1e6)
    shorted_ohms: float = asked(
        "What a short in it would leave", "Ω", default=0.0, at_least=0, at_most=1e6
    )
    stores_watts: tuple[float, ...] = asked("Lamps at hand", "W", default=(), above=0, at_most=1e5)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The loop with the winding sound, the lamp with it shorted, and whether they differ."""

    glow: str = shown("If it is sound, the lamp is", lead=True)
    shorted_glow: str = shown("if it is shorted", lead=True)
    tells_apart: bool = shown("This lamp tells them apart")
    loop_amps: Quantity = shown("Through the loop", "A")
    lamp_volts_across: Quantity = shown("Across the lamp", "V")
    lamp_watts_drawn: Quantity = shown("The lamp draws", "W")
    winding_volts: Quantity = shown("Left for the winding", "V")
    shorted_watts: Quantity = shown("The lamp, shorted, draws", "W")
    suggested_watts: tuple[float, ...] = shown("Lamps that tell apart", "W")


Winding = Callable[[float], complex]
"""Amps of a winding against its volts, as a phasor: what is in phase, less what lags."""


@dataclass(frozen=True)
class Loop:
    """A lamp and a winding in series: amps, volts of the lamp and of the winding."""

    amps: float
    lamp: float
    winding: float


def work(given: Given) -> Found:
    """Lamp I = In·(V/Vn)^0.55, in phase; winding I by its power or its points, a quarter behind,
    its core watts beside it, its ohms ahead: |V| = |Vlamp + Vwinding|. REF-B-05; phasors. V, A, W.

    Glow by the lamp's watts over its own: dark below 2 %, bright above a third. The ends are ± 5 %
    of the lamp's amps at the ends of the supply. Raises FieldError where neither amps nor points
    are given.

    >>> from greyfell.core.figures.quantity import exact
    >>> told = Given(supply_volts=exact(230.0), lamp_watts=100.0, magnetising_amps=exact(1.5))
    >>> found = work(told)
    >>> found.glow, round(found.lamp_watts_drawn.value)
    ('bright', 53)
    """
    if given.magnetising_amps is None and not given.points:
        raise FieldError(
            "magnetising_amps", "Say what the winding draws on the supply, or give its points."
        )
    ends = _ends(given)
    loop = [_loop(given, given.lamp_watts * law, volts, winding) for volts, law, winding in ends]
    shorted = corners(lambda v: _shorted(given, given.lamp_watts, v), given.supply_volts)
    drawn = [one.amps * one.lamp for one in loop]
    glow = glow_of(drawn[0], given.lamp_watts)
    shorted_glow = glow_of(shorted.value, given.lamp_watts)
    sizes = given.stores_watts or SIZES
    at = given.supply_volts.value
    sound = _sound(given, at)[0]
    return Found(
        glow=glow,
        shorted_glow=shorted_glow,
        tells_apart=_apart(glow, shorted_glow),
        loop_amps=_span([one.amps for one in loop]),
        lamp_volts_across=_span([one.lamp for one in loop]),
        lamp_watts_drawn=_span(drawn),
        winding_volts=_span([one.winding for one in loop]),
        shorted_watts=shorted,
        suggested_watts=tuple(w for w in sizes if _tells(given, w, at, sound)),
    )


def _span(values: list[float]) -> Quantity:
    """The first as the figure, all of them as its range."""
    return Quantity(values[0], min(values), max(values), ("lamp's law", "supply"))


def _ends(given: Given) -> list[tuple[float, float, Winding]]:
    """The supply, the lamp's law and the winding at their values, then at their ends."""
    supply = given.supply_volts
    middle = [(supply.value, 1.0, _sound(given, supply.value)[0])]
    return middle + [
        (volts, law, winding)
        for volts in {supply.low, supply.high}
        for law in (1 - LAW_SPREAD, 1 + LAW_SPREAD)
        for winding in _sound(given, volts)
    ]


def _sound(given: Given, at: float) -> list[Winding]:
    """The winding at the value of what it draws on so many volts, and at both ends."""
    if given.points:
        return [_by_points(given)]
    amps = given.magnetising_amps
    if amps is None:
        return []
    return [_by_power(given, i, at) for i in dict.fromkeys((amps.value, amps.low, amps.high))]


def _by_power(given: Given, amps: float, at: float) -> Winding:
    """Amps by a power of the volts; watts by their square."""
    conductance = given.core_watts / at**2

    def draws(volts: float) -> complex:
        whole = amps * (volts / at) ** given.magnetising_exponent
        real = min(whole, conductance * volts)
        return complex(real, -math.sqrt(max(0.0, whole**2 - real**2)))

    return draws


def _along(volts: list[float], amps: list[float], x: float) -> tuple[float, int]:
    # amps by the slope about x, both in logarithms, and the point that the slope ends on
    k = next((n for n in range(1, len(volts) - 1) if x < volts[n]), len(volts) - 1)
    step = max(volts[k] - volts[k - 1], 1e-9)
    return math.exp(amps[k] + (amps[k] - amps[k - 1]) / step * (x - volts[k])), k


def _by_points(given: Given) -> Winding:
    """Amps along the points, log on log; beyond the last on by the last slope. Raises
    FieldError.
    """
    points = sorted(given.points, key=lambda p: p.volts)
    if len({p.volts for p in points}) < 2:
        raise FieldError("points", "A sweep has two points at least, at different volts.")
    volts = [math.log(p.volts) for p in points]
    amps = [math.log(p.amps) for p in points]

    def draws(at: float) -> complex:
        whole, k = _along(volts, amps, math.log(max(at, 1e-12)))
        last = points[k].watts if points[k].watts is not None else given.core_watts
        real = min(whole, (last or 0.0) * at / points[k].volts ** 2)
        return complex(real, -math.sqrt(max(0.0, whole**2 - real**2)))

    return draws


def _loop(given: Given, watts: float, volts: float, winding: Winding) -> Loop:
    """The volts of the winding at which both draw the same, found by halving."""
    rated, ohms = given.lamp_volts or volts, given.winding_ohms

    def loop(across: float) -> tuple[Loop, float]:
        """The loop with so many volts across the winding, and the volts around it."""
        amps = winding(across)
        whole = abs(amps)
        lamp = rated * (whole * rated / watts) ** (1 / LAW)
        turn = amps / whole if whole > 0 else 1 + 0j
        around = abs(across + turn * (lamp + whole * ohms))
        return Loop(whole, lamp, abs(across + turn * whole * ohms)), around

    found, _ = loop(crossing(lambda across: loop(across)[1] > volts, 0.0, volts).at)
    return found


def _shorted(given: Given, watts: float, volts: float) -> float:
    """Watts of the lamp with a short behind it."""
    ohms = given.shorted_ohms + given.winding_ohms
    return through(volts, watts, given.lamp_volts or volts, ohms).watts


def _apart(sound: str, shorted: str) -> bool:
    return sound != GLOWS[2] and shorted == GLOWS[2]


def _tells(given: Given, watts: float, volts: float, winding: Winding) -> bool:
    """Whether a lamp of other watts would tell a sound winding from a short."""
    loop = _loop(given, watts, volts, winding)
    sound = glow_of(loop.amps * loop.lamp, watts)
    return _apart(sound, glow_of(_shorted(given, watts, volts), watts))


LAMP = Planner(
    name="lamp",
    title="A lamp in series",
    purpose="How a lamp glows ahead of a winding, sound or shorted, and which lamp tells.",
    given=Given,
    found=Found,
    work=work,
    heavy=True,
    why=Formula(
        text="In·(Vl/Vn)^0.55 = Im·(Vw/V)^n, |V| = |Vl + jVw|",
        source="REF-B-05",
        put="{supply_volts} through {lamp_watts}: {loop_amps}, {lamp_volts_across} on the lamp",
    ),
    cautions=(
        Caution(
            code="does-not-tell",
            severity="caution",
            sentence=(
                "{lamp_watts} does not tell a sound core from a short: bright is one or the other. "
                "Take {suggested_watts}."
            ),
            when=lambda given, found: not found.tells_apart,
        ),
        Caution(
            code="no-guard",
            severity="caution",
            sentence=(
                "A lamp saves the iron, not people: for its first tenth of a second it passes "
                "twelve times its amps, and behind a dark one every winding stands at full volts."
            ),
        ),
        Caution(
            code="in-the-line",
            severity="caution",
            sentence=(
                "The lamp stands in the line conductor, proved so, with a two-pole switch in reach."
            ),
        ),
    ),
    example={"supply_volts": 230.0, "lamp_watts": 500.0, "magnetising_amps": 1.5},
    checks=(
        Check(
            given={
                "supply_volts": 115.0,
                "lamp_watts": 500.0,
                "lamp_volts": 230.0,
                "magnetising_amps": 0.001,
            },
            expected={"shorted_watts": 115 * 1.485},
            source="REF-B-05a: 1.485 A at 115 V",
            rel=1e-3,
        ),
        Check(
            given={
                "supply_volts": 46.0,
                "lamp_watts": 100.0,
                "lamp_volts": 230.0,
                "magnetising_amps": 0.001,
            },
            expected={"shorted_watts": 8.253},
            source="REF-B-05b",
            rel=1e-3,
        ),
        Check(
            given={"supply_volts": 230.0, "lamp_watts": 500.0, "magnetising_amps": 1.5},
            expected={"lamp_watts_drawn": 0.17 * 500},
            source="the handbook of the trade: an oven primary of 1.5 A runs 500 W at about 0.17",
            rel=0.06,
        ),
        Check(
            given={"supply_volts": 230.0, "lamp_watts": 100.0, "magnetising_amps": 4.0},
            expected={"lamp_watts_drawn": 68.0},
            source="the same: one of 4 A runs 100 W at about 0.68",
            rel=0.06,
        ),
    ),
)
