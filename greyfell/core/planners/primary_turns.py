"""Turns added to a primary: what flux, volts and watts become, and what a meter across the pair
shows in the right and in the wrong sense.
"""

from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import MOST_FLUX
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners.starts import supply_volts, volts_per_turn

SENSES = ("aiding", "bucking")
LOSS_POWERS = (2.0, 3.0)
"""Watts at no load go by the second to the third power of the volts. REF-M, common practice."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Volts per turn before, the supply, the turns added and their sense, watts before."""

    volts_per_turn: Quantity = asked(
        "Volts per turn, before", "V", above=0, at_most=100, start=volts_per_turn
    )
    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e5, start=supply_volts)
    added_turns: float = asked(
        "Turns added", "turns", above=0, at_most=1e5, slide=(1, 60), chosen=True
    )
    sense: str = asked("In which sense", default=SENSES[0], choices=SENSES)
    no_load_watts: Quantity | None = asked("Watts before", "W", default=None, above=0, at_most=1e5)


@dataclass(frozen=True, kw_only=True)
class Across(ShownRow):
    """What the meter across both windings in series shows, by sense."""

    aiding: Quantity = shown("Aiding", "V")
    bucking: Quantity = shown("Bucking", "V")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Flux against before, volts per turn after, outputs against before, watts after."""

    flux_ratio: Quantity = shown("Flux, times before", lead=True)
    volts_per_turn_new: Quantity = shown("Volts per turn, after", "V", lead=True)
    output_ratio: Quantity = shown("Every output, times before")
    no_load_watts_new: Quantity | None = shown("Watts after", "W")
    test_volts: Across = shown("Across the pair, the old one alone on the supply")


def _watts(given: Given, flux: Quantity) -> Quantity | None:
    if given.no_load_watts is None:
        return None
    ends = [corners(lambda w, f, p=p: w * f**p, given.no_load_watts, flux) for p in LOSS_POWERS]
    low, high = min(q.low for q in ends), max(q.high for q in ends)
    return Quantity(sum(q.value for q in ends) / 2, low, high, (*flux.basis, "V² to V³"))


def work(given: Given) -> Found:
    """N = V/v; flux by N/(N ± k); watts by its second to third power; test volts V ± k·v. REF-M-02;
    watts common practice. V, W.

    Raises FieldError where as many turns buck as there are.

    >>> from greyfell.core.figures.quantity import exact
    >>> found = work(Given(volts_per_turn=exact(1.0), supply_volts=exact(230.0), added_turns=23))
    >>> round(found.flux_ratio.value, 4), found.test_volts.aiding.value
    (0.9091, 253.0)
    """
    added, aids = given.added_turns, given.sense == SENSES[0]
    sign = 1 if aids else -1
    least = given.supply_volts.low / given.volts_per_turn.high
    if not aids and added >= least:
        raise FieldError(
            "added_turns", f"The primary has some {least:.0f} turns: bucking ones must be fewer."
        )
    flux = corners(
        lambda v, s: (s / v) / (s / v + sign * added), given.volts_per_turn, given.supply_volts
    )
    return Found(
        flux_ratio=flux,
        volts_per_turn_new=corners(lambda v, f: v * f, given.volts_per_turn, flux),
        output_ratio=flux,
        no_load_watts_new=_watts(given, flux),
        test_volts=Across(
            aiding=_across(given, added),
            bucking=_across(given, -added),
        ),
    )


def _across(given: Given, turns: float) -> Quantity:
    """Volts across both in series, the old winding alone on the supply."""
    return corners(lambda s, v: s + turns * v, given.supply_volts, given.volts_per_turn)


PRIMARY_TURNS = Planner(
    name="primary_turns",
    title="Turns added to the primary",
    purpose="How turns added to a primary change its flux, its outputs and its watts.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="flux · N/(N ± k), N = V/v; across the pair V ± k·v",
        source="REF-M-02",
        put="{supply_volts}/{volts_per_turn} turns and {added_turns} {sense}: {flux_ratio}",
    ),
    cautions=(
        Caution(
            code="saturates",
            severity="stop",
            sentence=(
                "Bucking turns raise the flux {flux_ratio} times: the iron saturates and the "
                "primary draws many amps. Turn the new winding round."
            ),
            when=lambda given, found: found.flux_ratio.high > MOST_FLUX,
        ),
        Caution(
            code="test-first",
            severity="caution",
            sentence=(
                "Before they are joined for good: a few volts on the old winding, a meter across "
                "the pair; more than the drive is aiding."
            ),
        ),
        Caution(
            code="same-insulation",
            severity="caution",
            sentence=(
                "What joins the primary is mains: wound and insulated as the primary is, its amps "
                "through its wire, and tested at 500 V to the core."
            ),
        ),
    ),
    example={"volts_per_turn": 1.0, "supply_volts": 230.0, "added_turns": 20},
    checks=(
        Check(
            given={"volts_per_turn": 0.92, "supply_volts": 230.0, "added_turns": 25},
            expected={"flux_ratio": 250 / 275},
            source="REF-M-02b: 5 turns read 4.60 V, so 0.92 V a turn and 250 turns on 230 V",
        ),
        Check(
            given={
                "volts_per_turn": 0.92,
                "supply_volts": 230.0,
                "added_turns": 5,
                "sense": "bucking",
                "no_load_watts": 60.0,
            },
            expected={"flux_ratio": 250 / 245, "output_ratio": 250 / 245},
            source="REF-M-02b, its search coil of 4.60 V",
        ),
    ),
)
