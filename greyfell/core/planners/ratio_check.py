"""A ratio read at few volts: turns, what the winding puts out on the supply, and the coupling where
both directions were read.
"""

import math
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.families import microwave, sign
from greyfell.core.figures.limits import LIVE_VOLTS
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown

COUPLING = {
    "mains": (0.99, 1.0),
    microwave.OVEN.key: microwave.ROW.does.coupling,
    sign.SIGN.key: sign.ROW.does.coupling,
    "none": (sign.ROW.does.coupling[0], 1.0),
}
"""Output volts over what turns alone would give, by family. Common practice."""
ALIKE = 2.0
"""The two directions belong together where their volts per turn are alike within this factor: the
coupling moves with the flux. House rule."""
DIRECTIONS = ("forward", "reverse")
"""Forward: the primary driven."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Volts driven and read, which way round, and the supply it will be fed with."""

    driven_volts: Quantity = asked("Volts driven", "V", above=0, at_most=1e5)
    sensed_volts: Quantity = asked("Volts read", "V", above=0, at_most=1e6)
    supply_volts: float = asked("Supply it will have", "V", above=0, at_most=1e5)
    direction: str = asked(
        "Which way", default=DIRECTIONS[0], choices=DIRECTIONS, help="forward: the primary driven"
    )
    family: str = asked("Family", default="none", choices=tuple(COUPLING))
    other_driven_volts: Quantity | None = asked(
        "The other way: driven", "V", default=None, above=0, at_most=1e6
    )
    other_sensed_volts: Quantity | None = asked(
        "The other way: read", "V", default=None, above=0, at_most=1e6
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Turns of the secondary over the primary's, open volts on the supply, and the coupling."""

    output_volts: Quantity = shown("Open volts on the supply", "V", lead=True)
    secondary_over_primary: Quantity = shown("Secondary turns over primary turns")
    coupling: Quantity = shown("Coupling")


def work(given: Given) -> Found:
    """One direction: n = read ratio over k, k by family. Both: n = √(forward/reverse), k =
    √(forward·reverse), each ratio read over driven. Output k·n·supply, volts RMS. REF-T-10;
    coupling common practice.

    Raises FieldError where only one figure of the other way is given.

    >>> from greyfell.core.figures.quantity import exact
    >>> told = Given(driven_volts=exact(12.0), sensed_volts=exact(1.2), supply_volts=230.0,
    ...              family="mains")
    >>> round(work(told).output_volts.value, 1)
    23.0
    """
    driven, sensed = given.driven_volts, given.sensed_volts
    first = corners(lambda d, s: s / d, driven, sensed)
    other_driven, other_sensed = given.other_driven_volts, given.other_sensed_volts
    if (other_driven is None) != (other_sensed is None):
        raise FieldError("other_sensed_volts", "The other way needs both its volts, or neither.")
    forward = given.direction == DIRECTIONS[0]
    if other_driven is None or other_sensed is None:
        return _one_way(given, first, forward=forward)
    second = corners(lambda d, s: s / d, other_driven, other_sensed)
    there, back = (first, second) if forward else (second, first)
    turns = corners(lambda a, b: math.sqrt(a / b), there, back)
    coupling = corners(lambda a, b: math.sqrt(a * b), there, back)
    return Found(
        output_volts=_output(given, there),
        secondary_over_primary=_based(turns, "both directions"),
        coupling=_based(coupling, "both directions"),
    )


def _one_way(given: Given, first: Quantity, *, forward: bool) -> Found:
    """By the family's coupling: read forward the output needs none, read in reverse twice."""
    low, high = COUPLING[given.family]
    k = Quantity(math.sqrt(low * high), low, high, (f"{given.family}, common practice",))
    if forward:
        turns = corners(lambda r, c: r / c, first, k)
        out = first
    else:
        turns = corners(lambda r, c: c / r, first, k)
        out = corners(lambda r, c: c * c / r, first, k)
    return Found(
        output_volts=_output(given, out),
        secondary_over_primary=_based(turns, "one direction"),
        coupling=k,
    )


def _unlike(given: Given, found: Found) -> bool:
    """Whether both ways were read, at volts per turn that are not alike."""
    other = given.other_driven_volts
    if other is None:
        return False
    forward = given.direction == DIRECTIONS[0]
    primary, secondary = (given.driven_volts, other) if forward else (other, given.driven_volts)
    # volts of a turn, the secondary's brought to a turn of the primary
    flux = secondary.value / found.secondary_over_primary.value / primary.value
    return not 1 / ALIKE <= flux <= ALIKE


def _output(given: Given, ratio: Quantity) -> Quantity:
    return _based(corners(lambda r: r * given.supply_volts, ratio), "k · n · supply")


def _based(q: Quantity, basis: str) -> Quantity:
    return Quantity(q.value, q.low, q.high, (basis,))


RATIO_CHECK = Planner(
    name="ratio_check",
    title="Ratio",
    purpose="From a few volts to turns and to what it puts out, one way or both.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="both ways: n = √(forward/reverse), k = √(forward·reverse); output = k·n·supply",
        source="REF-T-10; coupling by family common practice",
        put="{coupling} · {secondary_over_primary} · {supply_volts} = {output_volts}",
    ),
    cautions=(
        Caution(
            code="impossible",
            severity="caution",
            sentence="A coupling of {coupling} is not possible: read both ways again, line noted.",
            when=lambda given, found: found.coupling.low > 1.0,
        ),
        Caution(
            code="unlike-flux",
            severity="caution",
            sentence=(
                "The two ways were read at volts per turn more than twice apart: coupling moves "
                "with the flux. Repeat the second near the first's volts per turn."
            ),
            when=_unlike,
        ),
        Caution(
            code="live",
            severity="caution",
            sentence=(
                "{output_volts} on the supply: above 30 V it counts as live, and other windings "
                "may carry more."
            ),
            when=lambda given, found: found.output_volts.high > LIVE_VOLTS,
        ),
    ),
    example={
        "driven_volts": 40.0,
        "sensed_volts": 4.4,
        "supply_volts": 230.0,
        "direction": "reverse",
        "family": "oven",
    },
    checks=(
        Check(
            given={
                "driven_volts": 10.0,
                "sensed_volts": 90.0,
                "other_driven_volts": 90.0,
                "other_sensed_volts": 9.0,
                "supply_volts": 100.0,
            },
            expected={"secondary_over_primary": 9.4868, "coupling": 0.94868, "output_volts": 900.0},
            source="plain arithmetic: √(9/0.1) and √(9·0.1)",
        ),
        Check(
            given={
                "driven_volts": 230.0,
                "sensed_volts": 2100.0,
                "supply_volts": 230.0,
                "other_driven_volts": 2100.0,
                "other_sensed_volts": 230.0,
            },
            expected={"secondary_over_primary": 9.130, "coupling": 1.0, "output_volts": 2100.0},
            source="REF-T-09a: true 2100/230 = 9.130",
        ),
    ),
)
