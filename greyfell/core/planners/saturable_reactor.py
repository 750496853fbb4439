"""A saturable reactor: what direct current through one winding lets how much alternating current
through another.
"""

from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners import starts

FORM = (1.11, 1.0)
"""RMS over mean of the rectified current: a sine, and a square wave. REF-B-07."""
UNBIASED = (0.01, 0.10)
"""Current without direct current, as a share of the load's. Assumed; from memory."""
LAG_SECONDS = (0.1, 2.0)
"""How long the direct current takes to build, L/R. From memory."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Turns of both windings, the current wanted, the load it goes through, and the cores."""

    load_amps: Quantity = asked(
        "Amps wanted", "A", above=0, at_most=1e4, slide=(0.5, 20), chosen=True
    )
    ac_turns: int = asked("Turns that carry the load", "turns", above=0, at_most=100_000)
    dc_turns: int = asked("Turns of the control winding", "turns", above=0, at_most=100_000)
    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e5, start=starts.supply_volts)
    load_ohms: float = asked("Load", "Ω", at_least=0, at_most=1e7)
    dc_winding_ohms: Quantity | None = asked(
        "Ohms of the control winding", "Ω", default=None, above=0, at_most=1e7
    )
    cores: int = asked("Cores", default=2, at_least=1, at_most=8)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The direct current and its volts, what flows without it, and what an open control winding
    would show.
    """

    dc_amps: Quantity = shown("Direct current", "A", lead=True)
    dc_volts: Quantity | None = shown("Volts for it", "V")
    unbiased_amps: Quantity = shown("Flows without it", "A")
    most_load_amps: Quantity = shown("The load takes at most", "A")
    induced_volts_open_dc: Quantity = shown("On the control winding, open, one core alone", "V")


def _refuse_too_much(given: Given, amps: float) -> None:
    if given.load_ohms * amps >= given.supply_volts.value:
        most = given.supply_volts.value / given.load_ohms
        raise FieldError(
            "load_amps",
            f"The load alone takes {most:.3g} A on this supply; no reactor makes it {amps:.3g} A.",
        )


def work(given: Given) -> Found:
    """N_dc·I_dc = N_ac·I_ac,avg, RMS 1.11 times the mean of a sine, 1.0 of a square wave. REF-B-07,
    H. F. Storm, Magnetic Amplifiers (1955). A, V, Ω.

    Raises FieldError where the load cannot take so much on this supply.

    >>> told = Given(ac_turns=100, dc_turns=400, load_amps=exact(2.22), supply_volts=exact(230.0),
    ...              load_ohms=40.0)
    >>> round(work(told).dc_amps.value, 3)
    0.5
    """
    ratio = given.ac_turns / given.dc_turns
    sine = given.load_amps.value / FORM[0] * ratio
    dc = Quantity(
        sine,
        given.load_amps.low / FORM[0] * ratio,
        given.load_amps.high / FORM[1] * ratio,
        ("ampere-turns, REF-B-07",),
    )
    amps = given.load_amps.value
    _refuse_too_much(given, amps)
    ohms = given.dc_winding_ohms
    volts = None if ohms is None else corners(lambda i, r: i * r, dc, ohms)
    low, high = UNBIASED[0] * amps, UNBIASED[1] * amps
    least = Quantity((low + high) / 2, low, high, ("assumed: 1 to 10 % of the load",))
    induced = corners(lambda v: v / ratio, given.supply_volts)
    bound = exact(amps, "no load in the loop")
    if given.load_ohms:
        bound = corners(lambda v: v / given.load_ohms, given.supply_volts)
    return Found(
        dc_amps=dc,
        dc_volts=volts,
        unbiased_amps=least,
        most_load_amps=bound,
        induced_volts_open_dc=Quantity(induced.value, induced.low, induced.high, ("turns ratio",)),
    )


SATURABLE_REACTOR = Planner(
    name="saturable_reactor",
    title="A saturable reactor",
    purpose="What direct current lets how much alternating current through.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="N_dc·I_dc = N_ac·I_ac,avg",
        source="REF-B-07, H. F. Storm, Magnetic Amplifiers (1955)",
        put="{load_amps} through {ac_turns}: {dc_amps} through {dc_turns}",
    ),
    cautions=(
        Caution(
            code="one-core",
            severity="stop",
            sentence=(
                "One core alone is a transformer: {induced_volts_open_dc} stand on the control "
                "winding when it opens. Two cores with opposed windings, or none."
            ),
            when=lambda given, found: given.cores < 2,
        ),
        Caution(
            code="prove-opposed",
            severity="caution",
            sentence=(
                "Before the control winding is closed: its open volts at a tenth of the supply "
                "must be next to nought. Wrong sense puts up to {induced_volts_open_dc} on it."
            ),
            when=lambda given, found: given.cores >= 2,
        ),
        Caution(
            code="never-nought",
            severity="caution",
            sentence="It never shuts: some {unbiased_amps} flow without direct current.",
        ),
        Caution(
            code="slow",
            severity="note",
            sentence=(
                "The current follows in 0.1 to 2 s (L/R). A dimmer is no control: a half-wave "
                "fault in it saturates everything."
            ),
        ),
    ),
    of_piece=(starts.CONDEMNED,),
    example={
        "ac_turns": 120,
        "dc_turns": 1000,
        "load_amps": 8.0,
        "supply_volts": 230.0,
        "load_ohms": 20.0,
        "dc_winding_ohms": 30.0,
    },
    checks=(
        Check(
            given={
                "ac_turns": 100,
                "dc_turns": 400,
                "load_amps": 2.2208,
                "supply_volts": 230.0,
                "load_ohms": 1.0,
            },
            expected={"dc_amps": 0.5},
            source="REF-B-07a: 400 turns at 0.5 A, 100 turns: 2.221 A",
            rel=1e-3,
        ),
        Check(
            given={
                "ac_turns": 150,
                "dc_turns": 1000,
                "load_amps": 1.4808,
                "supply_volts": 230.0,
                "load_ohms": 1.0,
            },
            expected={"dc_amps": 0.2},
            source="REF-B-07b: 1000 turns at 0.2 A, 150 turns: 1.481 A",
            rel=1e-3,
        ),
    ),
)
