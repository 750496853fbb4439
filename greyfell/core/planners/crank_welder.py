"""An old welder with a crank: which of its windings becomes a reactor, what the idle one then
carries, and which amps its measured points reach.
"""

import math
from dataclasses import dataclass

from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners import sliding_choke, starts

COUPLED = (0.5, 1.0)
"""How much of the flux of one winding the other sees, the core fully in. From memory."""
YES_NO_UNKNOWN = ("yes", "no", "unknown")


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """What it is as it came, which winding is to be the reactor, its points, the range wanted, and
    what was found of its mechanics.
    """

    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e5, start=starts.supply_volts)
    supply_hertz: float = asked(
        "Frequency", "Hz", at_least=1, at_most=1000, start=starts.supply_hertz
    )
    primary_volts: Quantity = asked("Its primary is for", "V", above=0, at_most=1e4)
    open_volts: Quantity = asked("Its welding side gives, open", "V", above=0, at_most=1e3)
    reactor: str = asked("Reactor is its", default="primary", choices=("primary", "secondary"))
    points: tuple[sliding_choke.Point, ...] = asked(
        "Reactor, measured points", help="mm, volts, amps, watts: as 0mm 60V 2A; 40mm 60V 6A"
    )
    least_amps_wanted: float = asked("Amps wanted, from", "A", above=0, at_most=1e4, chosen=True)
    most_amps_wanted: float = asked("to", "A", above=0, at_most=1e4, chosen=True)
    core_moves: str = asked("The core moves", default="yes", choices=YES_NO_UNKNOWN)
    board_inside: str = asked("A board inside", default="no", choices=YES_NO_UNKNOWN)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """What the windings are good for, and what the points reach."""

    reach_amps: tuple[float, ...] = shown("Its points reach", "A", lead=True)
    covers: bool = shown("They cover the range wanted", lead=True)
    reactor_volts: Quantity = shown("The reactor may stand at", "V")
    idle_open_volts: Quantity = shown("The idle winding, open, carries", "V")
    idle_short_amps: Quantity = shown("shorted, it carries up to", "A")
    henries_in: Quantity = shown("Inductance, core fully in", "H")
    henries_out: Quantity = shown("fully out", "H")


def _idle_side(given: Given, most_amps: float) -> tuple[Quantity, Quantity]:
    # open volts and shorted amps of the winding that is no reactor
    forward = given.reactor == "primary"
    one, other = given.primary_volts, given.open_volts
    ratio = corners(lambda p, s: (s / p) if forward else (p / s), one, other)
    idle = corners(lambda v, k: v * k, given.supply_volts, ratio)
    per_volt = most_amps / given.supply_volts.value
    most = corners(lambda v, k: per_volt * v / k, given.supply_volts, ratio)
    return (
        Quantity(idle.value, COUPLED[0] * idle.low, idle.high, ("turns ratio",)),
        Quantity(most.value, 0.0, most.high, ("turns ratio",)),
    )


def work(given: Given) -> Found:
    """Amps at each position as `sliding_choke` reckons them; the idle winding is the other side of
    a transformer: its open volts by the ratio, its shorted amps by the ratio turned. REF-T-03.

    Raises FieldError where fewer than two positions are given.

    >>> from greyfell.core.figures.quantity import exact
    >>> told = Given(supply_volts=exact(230.0), supply_hertz=50.0, primary_volts=exact(230.0),
    ...              open_volts=exact(50.0), least_amps_wanted=4.0, most_amps_wanted=10.0, points=(
    ...     sliding_choke.Point(millimetres=0.0, volts=60.0, amps=1.0),
    ...     sliding_choke.Point(millimetres=40.0, volts=60.0, amps=4.0)))
    >>> found = work(told)
    >>> [round(x, 1) for x in found.reach_amps], found.covers
    ([3.8, 15.3], True)
    """
    points = sliding_choke.at_points(given.points)
    amps = [given.supply_volts.value / p.whole for p in points]
    reach = (min(amps), max(amps))
    covers = reach[0] <= given.least_amps_wanted and given.most_amps_wanted <= reach[1]
    omega = 2 * math.pi * given.supply_hertz
    idle_volts, idle_amps = _idle_side(given, reach[1])
    return Found(
        reach_amps=reach,
        covers=covers,
        reactor_volts=given.primary_volts if given.reactor == "primary" else given.open_volts,
        idle_open_volts=idle_volts,
        idle_short_amps=idle_amps,
        henries_in=_henries(points[0].reactance / omega),
        henries_out=_henries(points[-1].reactance / omega),
    )


def _henries(value: float) -> Quantity:
    spread = sliding_choke.READ
    return Quantity(value, value * (1 - spread), value * (1 + spread), ("points",))


def _over(given: Given, found: Found) -> bool:
    return given.supply_volts.value > found.reactor_volts.high


CRANK_WELDER = Planner(
    name="crank_welder",
    title="An old crank welder",
    purpose="Which winding becomes the reactor, what the idle one carries, what its points reach.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="I = V/√(R² + X²) at each position; idle volts by the turns ratio",
        source="REF-T-02, REF-T-03, REF-B-01",
        put="{supply_volts} on its {reactor}: {reach_amps}; idle {idle_open_volts}",
    ),
    cautions=(
        Caution(
            code="seized",
            severity="stop",
            sentence=(
                "A core that does not move is no control: it is freed and locked again before "
                "anything is fed."
            ),
            when=lambda given, found: given.core_moves != "yes",
        ),
        Caution(
            code="unknown-board",
            severity="stop",
            sentence=(
                "A board inside is not what it looks like from outside: a welder with electronics "
                "is no reactor until it is out."
            ),
            when=lambda given, found: given.board_inside != "no",
        ),
        Caution(
            code="above-its-volts",
            severity="stop",
            sentence=(
                "{supply_volts} on a winding for {reactor_volts}: with the load shorted it has "
                "the whole supply, and saturates."
            ),
            when=_over,
        ),
        Caution(
            code="out-of-reach",
            severity="caution",
            sentence="Its points reach {reach_amps}; what is wanted lies outside on one side.",
            when=lambda given, found: not found.covers,
        ),
        Caution(
            code="idle-live",
            severity="caution",
            sentence=(
                "The idle winding is a transformer's: {idle_open_volts} open, hundreds of amps "
                "shorted ({idle_short_amps}). Its ends are insulated apart, never joined."
            ),
        ),
        Caution(
            code="magnet",
            severity="caution",
            sentence=(
                "Moving faces pull and hammer: a magnet on them finds filings first; lock the "
                "crank, fingers out."
            ),
        ),
        Caution(
            code="fully-in",
            severity="caution",
            sentence="The core goes fully in first (least current), on a limited supply first.",
        ),
    ),
    of_piece=(starts.CONDEMNED,),
    example={
        "supply_volts": 230.0,
        "supply_hertz": 50.0,
        "primary_volts": 230.0,
        "open_volts": 50.0,
        "least_amps_wanted": 5.0,
        "most_amps_wanted": 20.0,
        "points": [
            {"millimetres": 0, "volts": 60, "amps": 1.0, "watts": 9},
            {"millimetres": 30, "volts": 60, "amps": 2.5, "watts": 20},
            {"millimetres": 60, "volts": 60, "amps": 6.0, "watts": 60},
        ],
    },
    checks=(
        Check(
            given={
                "supply_volts": 150.0,
                "supply_hertz": 50.0,
                "primary_volts": 230.0,
                "open_volts": 50.6,
                "least_amps_wanted": 5.0,
                "most_amps_wanted": 10.0,
                "points": [
                    {"millimetres": 0, "volts": 30, "amps": 1.0},
                    {"millimetres": 50, "volts": 15, "amps": 1.0},
                ],
            },
            expected={"idle_open_volts": 33.0, "covers": True},
            source="common practice: 150 V on the one winding is 33 V on the other",
        ),
        Check(
            given={
                "supply_volts": 50.0,
                "supply_hertz": 50.0,
                "primary_volts": 230.0,
                "open_volts": 46.0,
                "reactor": "secondary",
                "least_amps_wanted": 5.0,
                "most_amps_wanted": 10.0,
                "points": [
                    {"millimetres": 0, "volts": 5, "amps": 1.0, "watts": 3.0},
                    {"millimetres": 50, "volts": 2.5, "amps": 1.0, "watts": 1.5},
                ],
            },
            expected={
                "idle_open_volts": 250.0,
                "henries_in": 4 / (100 * math.pi),
                "covers": False,
            },
            source="the triangle 3-4-5; REF-T-03",
        ),
    ),
)
