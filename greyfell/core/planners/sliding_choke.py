"""A choke with a sliding core: where it stands for a wanted current, from a few measured points."""

import math
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from itertools import pairwise

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity
from greyfell.core.figures.solve import crossing
from greyfell.core.planner_kit.asking import Input, asked, at_ends
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, merged, shown
from greyfell.core.planners import starts

READ = 0.03
"""What an impedance read point by point may err by, ±. From memory."""


@dataclass(frozen=True, kw_only=True)
class Point(Input):
    """One position of the core, and what was read there."""

    millimetres: float = asked("Core drawn out", "mm", at_least=0, at_most=5000)
    volts: float = asked("Volts across it", "V", above=0, at_most=1e5)
    amps: float = asked("Amps", "A", above=0, at_most=1e5)
    watts: float | None = asked("Watts", "W", default=None, at_least=0, at_most=1e8)


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The measured points, the supply, and the amps wanted with the load shorted."""

    wanted_amps: Quantity = asked(
        "Amps wanted", "A", above=0, at_most=1e5, slide=(1, 60), chosen=True
    )
    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e5, start=starts.supply_volts)
    supply_hertz: float = asked(
        "Frequency", "Hz", at_least=1, at_most=1000, start=starts.supply_hertz
    )
    points: tuple[Point, ...] = asked(
        "Measured points", help="mm, volts, amps, watts: as 0mm 40V 2A 9W; 25mm 40V 4A 18W"
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Where the core stands, its inductance there, and what the measured points reach."""

    millimetres_found: Quantity = shown("Core drawn out", "mm", lead=True)
    henries: Quantity = shown("Inductance there", "H")
    least_amps: Quantity = shown("Least amps measured for", "A")
    most_amps: Quantity = shown("Most amps measured for", "A")
    range_amps: tuple[float, ...] = shown("Range of amps", "A")
    monotone: bool = shown("Amps rise all the way out")
    pull_newtons: Quantity | None = shown("It pulls its core with", "N")


@dataclass(frozen=True)
class At:
    """Resistance and reactance at a position."""

    millimetres: float
    ohms: float
    reactance: float

    @property
    def whole(self) -> float:
        """Its impedance, Ω: ohms and reactance at right angles. REF-T-01."""
        return math.hypot(self.ohms, self.reactance)


def work(given: Given) -> Found:
    """X = √((V/I)² − (P/I²)²) of each point, straight between them; the position at which the
    supply drives the wanted amps. REF-T-02, REF-B-01. V, A, W, mm.

    Raises FieldError where fewer than two positions are given, or where the amps lie outside those
    that were measured for.

    >>> from greyfell.core.figures.quantity import exact
    >>> told = Given(wanted_amps=exact(10.0), supply_volts=exact(230.0), supply_hertz=50.0, points=(
    ...     Point(millimetres=0.0, volts=46.0, amps=1.0),
    ...     Point(millimetres=50.0, volts=46.0, amps=4.0)))
    >>> round(work(told).millimetres_found.value, 1)
    33.3
    """
    found = _worked(given)
    return merged(found, _at_ends(given))


def _at_ends(given: Given) -> Iterator[Found]:
    """At the ends of what is uncertain, where the points reach."""
    for one in at_ends(given):
        with suppress(FieldError):
            yield _worked(one)


def _outside(wanted: float, least: float, most: float) -> FieldError:
    return FieldError(
        "wanted_amps",
        f"The points reach from {least:.3g} to {most:.3g} A on this supply; "
        f"{wanted:.3g} A lie outside, and nothing is told there.",
    )


def _read_to(value: float) -> Quantity:
    # as well as the points were read
    return _spread(value, [value * (1 - READ), value * (1 + READ)], "points")


def _ends(given: Given, points: Sequence[At]) -> list[float]:
    # between which positions it may lie, by what supply, amps and points may be
    supply, wanted = given.supply_volts, given.wanted_amps
    low = _position(points, supply.low / wanted.high * (1 - READ))
    high = _position(points, supply.high / wanted.low * (1 + READ))
    ends = [p.millimetres for p in (low, high) if p is not None]
    return ends if len(ends) == 2 else [*ends, points[0].millimetres]


def _worked(given: Given) -> Found:
    """At the middle of what is given."""
    points = at_points(given.points)
    supply = given.supply_volts
    amps = [supply.value / p.whole for p in points]
    least, most = min(amps), max(amps)
    here = _position(points, supply.value / given.wanted_amps.value)
    if here is None:
        raise _outside(given.wanted_amps.value, least, most)
    omega = 2 * math.pi * given.supply_hertz
    henries = here.reactance / omega
    return Found(
        millimetres_found=_spread(
            here.millimetres, _ends(given, points), "straight between points"
        ),
        henries=Quantity(henries, henries * (1 - READ), henries * (1 + READ), ("REF-B-01",)),
        least_amps=_read_to(least),
        most_amps=_read_to(most),
        range_amps=(least, most),
        monotone=all(a < b for a, b in pairwise(amps)),
        pull_newtons=_pull(points, here, given.wanted_amps.value, omega),
    )


def _spread(value: float, ends: Sequence[float], basis: str) -> Quantity:
    return Quantity(value, min(value, *ends), max(value, *ends), (basis,))


def at_points(points: Sequence[Point]) -> list[At]:
    """Resistance and reactance of each, in order of position. Raises FieldError."""
    out = []
    for n, p in enumerate(points):
        whole = p.volts / p.amps
        ohms = 0.0 if p.watts is None else p.watts / p.amps**2
        if ohms > whole:
            said = f"{p.watts:g} W are more than its volts times its amps."
            raise FieldError(f"points.{n}.watts", said)
        out.append(At(p.millimetres, ohms, math.sqrt(whole**2 - ohms**2)))
    out.sort(key=lambda p: p.millimetres)
    if len({p.millimetres for p in out}) < max(2, len(out)):
        raise FieldError("points", "At least two positions are needed, each once.")
    return out


def _position(points: Sequence[At], whole: float) -> At | None:
    """Where the impedance is so many ohms, the smallest way out first; None outside."""
    for a, b in pairwise(points):
        if min(a.whole, b.whole) <= whole <= max(a.whole, b.whole):
            falls = a.whole > b.whole

            def reached(share: float, a: At = a, b: At = b, falls: bool = falls) -> bool:
                return (_between(a, b, share).whole > whole) != falls

            return _between(a, b, crossing(reached, 0.0, 1.0).at)
    return None


def at_position(points: Sequence[At], millimetres: float) -> At:
    """Ohms and reactance at a position between the points."""
    for a, b in pairwise(points):
        if millimetres <= b.millimetres:
            share = (millimetres - a.millimetres) / (b.millimetres - a.millimetres)
            return _between(a, b, share)
    return points[-1]


def _between(a: At, b: At, share: float) -> At:
    return At(
        a.millimetres + share * (b.millimetres - a.millimetres),
        a.ohms + share * (b.ohms - a.ohms),
        a.reactance + share * (b.reactance - a.reactance),
    )


def _pull(points: Sequence[At], here: At, amps: float, omega: float) -> Quantity | None:
    """½·I²·dL/dx on the core there, a mean over the cycle."""
    for a, b in pairwise(points):
        if a.millimetres <= here.millimetres <= b.millimetres:
            metres = (b.millimetres - a.millimetres) * 1e-3
            pull = amps**2 / 2 * abs(a.reactance - b.reactance) / omega / metres
            return Quantity(pull, 0.5 * pull, 2 * pull, ("½I²·dL/dx",))
    return None


SLIDING_CHOKE = Planner(
    name="sliding_choke",
    title="A choke with a sliding core",
    purpose="Where its core stands for the amps wanted, from a few measured points.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="X = √((V/I)² − (P/I²)²), straight between positions; I = V/√(R² + X²)",
        source="REF-T-02, REF-B-01",
        put="{wanted_amps} at {millimetres_found}, where it has {henries}",
    ),
    cautions=(
        Caution(
            code="not-monotone",
            severity="caution",
            sentence=(
                "Its amps do not rise all the way out: a point is wrong, or the core sits askew. "
                "Read them again."
            ),
            when=lambda given, found: not found.monotone,
        ),
        Caution(
            code="begin-inside",
            severity="caution",
            sentence=(
                "Begin with the core fully in (least current) and draw it out slowly; more iron "
                "is less current."
            ),
        ),
        Caution(
            code="lock-it",
            severity="caution",
            sentence=(
                "It pulls its core with some {pull_newtons}, pulsing at twice the mains: lock it "
                "where it stands, keep fingers out."
            ),
        ),
        Caution(
            code="read-low",
            severity="note",
            sentence=(
                "Points read at low volts do not see the iron saturate: at full volts it passes "
                "more than this near the inner end."
            ),
        ),
    ),
    of_piece=(starts.CONDEMNED,),
    example={
        "supply_volts": 230.0,
        "supply_hertz": 50.0,
        "wanted_amps": 12.0,
        "points": [
            {"millimetres": 0, "volts": 40, "amps": 0.8, "watts": 3},
            {"millimetres": 25, "volts": 40, "amps": 1.6, "watts": 6},
            {"millimetres": 50, "volts": 40, "amps": 3.2, "watts": 14},
        ],
    },
    checks=(
        Check(
            given={
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "wanted_amps": 230 / 60,
                "points": [
                    {"millimetres": 0, "volts": 80, "amps": 1.0},
                    {"millimetres": 40, "volts": 40, "amps": 1.0},
                ],
            },
            expected={"millimetres_found": 20.0, "henries": 60 / (100 * math.pi)},
            source="straight between 80 and 40 Ω: 60 Ω stand half way",
        ),
        Check(
            given={
                "supply_volts": 50.0,
                "supply_hertz": 50.0,
                "wanted_amps": 10.0,
                "points": [
                    {"millimetres": 0, "volts": 10, "amps": 1.0, "watts": 6.0},
                    {"millimetres": 40, "volts": 5, "amps": 1.0, "watts": 3.0},
                ],
            },
            expected={"millimetres_found": 40.0, "henries": 4 / (100 * math.pi)},
            source="the triangle 3-4-5: 5 Ω with 3 W at 1 A have 4 Ω of reactance",
        ),
    ),
)
