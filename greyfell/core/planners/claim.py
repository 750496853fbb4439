"""A claimed current held against the balance of power: turns, the volt-amperes of the iron, and the
ohms of the loop each bound it.
"""

from dataclasses import dataclass

from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners.starts import supply_volts


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Supply, turns of either side, the amps that are claimed, and what bounds them."""

    supply_volts: Quantity = asked("Supply", "V", above=0, at_most=1e5, start=supply_volts)
    primary_turns: Quantity = asked("Primary turns", "turns", above=0, at_most=1e6)
    secondary_turns: Quantity = asked("Secondary turns", "turns", above=0, at_most=1e6)
    claimed_amps: float = asked("Amps that are claimed", "A", above=0, at_most=1e6)
    claimed_voltamperes: Quantity | None = asked(
        "Volt-amperes of the iron", "VA", default=None, above=0, at_most=1e8
    )
    loop_ohms: Quantity | None = asked(
        "Ohms of the whole loop", "Ω", default=None, above=0, at_most=1e6
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Open volts, what the claim asks of the primary, and what each bound allows."""

    believable: bool | None = shown("Believable", lead=True)
    open_volts: Quantity = shown("Open volts", "V")
    reflected_primary_amps: Quantity = shown("The primary would draw", "A")
    voltamperes: Quantity = shown("The claim asks for", "VA")
    amps_from_voltamperes: Quantity | None = shown("The iron allows", "A")
    amps_from_loop: Quantity | None = shown("The loop allows at most", "A")
    over_balance: Quantity | None = shown("So many times the iron's volt-amperes")


def work(given: Given) -> Found:
    """V2 = V·N2/N1; I1 = I·N2/N1; VA = V2·I; I ≤ VA/V2 and I ≤ V2/R. REF-T-03 (ideal ratio), power
    balance. V, A, VA, Ω; limits at their worst.

    >>> from greyfell.core.figures.quantity import exact
    >>> told = Given(supply_volts=exact(230.0), primary_turns=exact(230.0),
    ...              secondary_turns=exact(2.0), claimed_amps=1000.0,
    ...              claimed_voltamperes=exact(900.0))
    >>> found = work(told)
    >>> found.open_volts.value, found.amps_from_voltamperes.value, found.believable
    (2.0, 450.0, False)
    """
    amps = given.claimed_amps
    ratio = corners(lambda n2, n1: n2 / n1, given.secondary_turns, given.primary_turns)
    volts = corners(lambda v, n: v * n, given.supply_volts, ratio)
    by_iron = by_loop = over = None
    asked_for = corners(lambda v: v * amps, volts)
    iron, loop = given.claimed_voltamperes, given.loop_ohms
    if iron is not None:
        by_iron = corners(lambda s, v: s / v, iron, volts)
        over = corners(lambda s, w: w / s, iron, asked_for)
    if loop is not None:
        by_loop = corners(lambda v, r: v / r, volts, loop)
    bounds = [q.high for q in (by_iron, by_loop) if q is not None]
    return Found(
        believable=amps <= min(bounds) if bounds else None,
        open_volts=volts,
        reflected_primary_amps=corners(lambda n: amps * n, ratio),
        voltamperes=asked_for,
        amps_from_voltamperes=by_iron,
        amps_from_loop=by_loop,
        over_balance=over,
    )


CLAIM = Planner(
    name="claim",
    title="A claimed current",
    purpose="Whether amps that somebody claims can come out of this iron and this loop.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="V2 = V·N2/N1; VA = V2·I; I ≤ VA/V2, I ≤ V2/R",
        source="REF-T-03",
        put="{supply_volts}·{secondary_turns}/{primary_turns} = {open_volts}; · {claimed_amps} = "
        "{voltamperes}",
    ),
    cautions=(
        Caution(
            code="no-bound",
            severity="caution",
            sentence="Nothing bounds it yet: give the iron's volt-amperes, or the loop's ohms.",
            when=lambda given, found: found.believable is None,
        ),
        Caution(
            code="over-balance",
            severity="caution",
            sentence=(
                "{claimed_amps} cannot be believed: volt-amperes over volts leave the loop out, or "
                "the amps were never measured."
            ),
            when=lambda given, found: found.believable is False,
        ),
        Caution(
            code="for-seconds",
            severity="note",
            sentence=(
                "Iron gives two to four times its volt-amperes for a second: a claim that names no "
                "time is none."
            ),
            when=lambda given, found: found.believable is not None,
        ),
    ),
    example={
        "supply_volts": 230.0,
        "primary_turns": 230,
        "secondary_turns": 2,
        "claimed_amps": 1000,
        "claimed_voltamperes": 900,
    },
    checks=(
        Check(
            given={
                "supply_volts": 91.3,
                "primary_turns": 9.13,
                "secondary_turns": 1,
                "claimed_amps": 100,
                "loop_ohms": 0.1,
            },
            expected={"open_volts": 10.0, "reflected_primary_amps": 10.95, "amps_from_loop": 100.0},
            source="REF-T-03a, its ratio of 9.130",
        ),
        Check(
            given={
                "supply_volts": 180.0,
                "primary_turns": 120,
                "secondary_turns": 1,
                "claimed_amps": 500,
                "claimed_voltamperes": 600,
                "loop_ohms": 0.001,
            },
            expected={"open_volts": 1.5, "amps_from_voltamperes": 400.0, "believable": False},
            source="REF-T-03b, its ratio of 120",
        ),
    ),
)
