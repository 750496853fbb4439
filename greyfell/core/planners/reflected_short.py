"""Amps of a shorted winding that no clamp reaches, reckoned from the amps of the primary."""

import math
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Primary amps with the winding shorted and with it open, and turns of both."""

    primary_short_amps: Quantity = asked("Primary, other shorted", "A", above=0, at_most=1e5)
    magnetising_amps: Quantity = asked("Primary, other open", "A", at_least=0, at_most=1e5)
    primary_turns: Quantity = asked("Primary turns", "turns", above=0, at_most=1e6)
    secondary_turns: Quantity = asked("Secondary turns", "turns", above=0, at_most=1e6)
    power_factor_shorted: float | None = asked(
        "Power factor, shorted", default=None, at_least=0, at_most=1, help="from a wattmeter"
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Amps in the shorted winding."""

    secondary_short_amps: Quantity = shown("In the shorted winding", "A", lead=True)


def work(given: Given) -> Found:
    """I2 = (I1 − Im)·N1/N2, as phasors where the power factor is known, Im a quarter behind. REF-T-
    03. A; the magnetising amps taken off wholly at the low end, not at all at the high one.

    Raises FieldError where less flows shorted than open.

    >>> from greyfell.core.figures.quantity import exact
    >>> told = Given(primary_short_amps=exact(10.0), magnetising_amps=exact(2.0),
    ...              primary_turns=exact(100.0), secondary_turns=exact(1.0))
    >>> found = work(told).secondary_short_amps
    >>> found.value, found.low, found.high
    (800.0, 800.0, 1000.0)
    """
    short, idle = given.primary_short_amps, given.magnetising_amps
    if idle.low >= short.high:
        raise FieldError(
            "magnetising_amps", "More flows with the winding open than shorted: read both again."
        )
    ratio = corners(lambda a, b: a / b, given.primary_turns, given.secondary_turns)
    factor = given.power_factor_shorted
    if factor is not None:
        found = corners(lambda i, m, n: _apart(i, m, factor) * n, short, idle, ratio)
        return Found(secondary_short_amps=found)
    least = corners(lambda i, m, n: max(0.0, i - m) * n, short, idle, ratio)
    most = corners(lambda i, n: i * n, short, ratio)
    basis = (*least.basis, "magnetising amps taken off wholly, or not at all")
    return Found(secondary_short_amps=Quantity(least.value, least.low, most.high, basis))


def _apart(amps: float, idle: float, factor: float) -> float:
    """What is left of the primary's amps without the magnetising ones, a quarter behind."""
    across = amps * math.sqrt(1 - factor**2) - idle
    return math.hypot(amps * factor, across)


REFLECTED_SHORT = Planner(
    name="reflected_short",
    title="A short, from the primary's side",
    purpose="Amps in a shorted winding that no clamp reaches, from the amps of the primary.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="I2 = (I1 − Im) · N1/N2",
        source="REF-T-03",
        put="({primary_short_amps} − {magnetising_amps}) · {primary_turns}/{secondary_turns} → "
        "{secondary_short_amps}",
    ),
    cautions=(
        Caution(
            code="no-power-factor",
            severity="caution",
            sentence="Without watts the two do not subtract plainly: the truth lies in the range.",
            when=lambda given, found: given.power_factor_shorted is None,
        ),
        Caution(
            code="seconds-only",
            severity="caution",
            sentence=(
                "A winding shorted on the full supply heats within seconds: reduced volts first, "
                "and count aloud."
            ),
        ),
    ),
    example={
        "primary_short_amps": 10.0,
        "magnetising_amps": 2.0,
        "primary_turns": 230,
        "secondary_turns": 2,
    },
    checks=(
        Check(
            given={
                "primary_short_amps": 8.0,
                "magnetising_amps": 0.0,
                "primary_turns": 9.13,
                "secondary_turns": 1.0,
            },
            expected={"secondary_short_amps": 73.04},
            source="REF-T-03a, its ratio of 9.130",
        ),
        Check(
            given={
                "primary_short_amps": 5.0,
                "magnetising_amps": 1.0,
                "primary_turns": 120.0,
                "secondary_turns": 1.0,
                "power_factor_shorted": 0.8,
            },
            expected={"secondary_short_amps": 120 * math.hypot(4.0, 2.0)},
            source="REF-T-03b, its ratio of 120, and the triangle 3-4-5",
        ),
    ),
)
