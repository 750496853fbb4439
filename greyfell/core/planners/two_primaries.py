"""Two primaries on one core: a coil of one part on the iron of another, what unequal turns give,
and whether the coil goes into the window.
"""

from dataclasses import dataclass

from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown
from greyfell.core.planners import starts

EQUAL = 0.01
"""Turns that test turns tell as equal. The bench's rule."""
SLACK_MM = 1.0
"""What a coil needs to spare to be slipped on. Common practice."""
COUPLING = (0.985, 1.0)
"""Open volts over what turns give, coils side by side on one leg. REF-T-10; from memory."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Volts per turn of both by test turns at one supply, ohms of both, the window and the coil."""

    supply_volts: float = asked(
        "Supply", "V", above=0, at_most=1000, default=230.0, start=starts.supply_volts_plain
    )
    first_turns: Quantity = asked("Turns of the primary that stays", above=0, at_most=1e5)
    second_turns: Quantity = asked("Turns of the one put beside it", above=0, at_most=1e5)
    first_ohms: Quantity | None = asked("Its ohms", "Ω", default=None, above=0, at_most=1e5)
    second_ohms: Quantity | None = asked("and its", "Ω", default=None, above=0, at_most=1e5)
    load_amps: float = asked("Load", "A", default=0.0, at_least=0, at_most=100)
    free_height_mm: float | None = asked(
        "Window left, high", "mm", default=None, above=0, at_most=1000
    )
    free_width_mm: float | None = asked("and wide", "mm", default=None, above=0, at_most=1000)
    coil_height_mm: float | None = asked("The coil, high", "mm", default=None, above=0)
    coil_width_mm: float | None = asked("and thick", "mm", default=None, above=0)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Open and loaded volts, how far the turns are apart, whether that is equal, whether it goes
    in.
    """

    output_volts: Quantity = shown("Open", "V", lead=True)
    loaded_volts: Quantity | None = shown("With the load", "V")
    apart_percent: Quantity = shown("Turns apart", "%")
    equal: bool = shown("Equal within one per cent")
    goes_in: bool | None = shown("The coil goes in")


def work(given: Given) -> Found:
    """V2 = V1·N2/N1·k; under load less I·(R2 + R1·(N2/N1)²), copper alone. V, A, Ω, mm. REF-T-10,
    REF-T-09.

    >>> from greyfell.core.figures.quantity import exact
    >>> work(Given(first_turns=exact(240.0), second_turns=exact(236.0))).equal
    False
    """
    ratio = corners(lambda a, b: b / a, given.first_turns, given.second_turns)
    k = Quantity((COUPLING[0] + COUPLING[1]) / 2, *COUPLING, ("coupling",))
    opened = corners(lambda r, c: given.supply_volts * r * c, ratio, k)
    apart = corners(lambda r: 100 * (r - 1), ratio)
    loaded = None
    if given.first_ohms is not None and given.second_ohms is not None and given.load_amps > 0:
        loaded = corners(
            lambda v, r, a, b: v - given.load_amps * (b + a * r**2),
            opened,
            ratio,
            given.first_ohms,
            given.second_ohms,
        )
    return Found(
        output_volts=opened,
        loaded_volts=loaded,
        apart_percent=apart,
        equal=max(abs(apart.low), abs(apart.high)) <= 100 * EQUAL,
        goes_in=_goes_in(given),
    )


def _goes_in(given: Given) -> bool | None:
    """Whether the coil goes into what is left of the window; None where one of it was not read."""
    room, coil = (
        (given.free_height_mm, given.free_width_mm),
        (given.coil_height_mm, given.coil_width_mm),
    )
    if None in room or None in coil:
        return None
    pairs = zip(room, coil, strict=True)
    return all(c + SLACK_MM <= r for r, c in pairs if r is not None and c is not None)


TWO_PRIMARIES = Planner(
    name="two_primaries",
    title="Two primaries on one core",
    purpose="A coil of one part on the iron of another: what unequal turns give.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="V2 = V1·N2/N1·k; under load less I·(R2 + R1·(N2/N1)²)",
        source="REF-T-10, REF-T-09; coupling from memory",
        put="{supply_volts} · {second_turns} / {first_turns} = {output_volts}",
    ),
    cautions=(
        Caution(
            code="no-safety-isolation",
            severity="caution",
            sentence=(
                "Two coils of oven parts are no safety isolation, however equal: one barrier, "
                "made for one fault; 500 V between them, the core earthed, one point, one hand."
            ),
            when=lambda given, found: True,
        ),
        Caution(
            code="unequal",
            severity="caution",
            sentence="Turns are {apart_percent} apart: {output_volts} and not the line's.",
            when=lambda given, found: not found.equal,
        ),
        Caution(
            code="never-parallel",
            severity="caution",
            sentence="Never side by side on the line: unequal turns drive amps round both coils.",
            when=lambda given, found: True,
        ),
        Caution(
            code="does-not-go-in",
            severity="caution",
            sentence="The coil does not go into what is left: measure before anything is cut.",
            when=lambda given, found: found.goes_in is False,
        ),
    ),
    example={"first_turns": 240.0, "second_turns": 236.0},
    checks=(
        Check(
            given={"first_turns": 240.0, "second_turns": 240.0, "supply_volts": 230.0},
            expected={"apart_percent": 0.0},
            source="plain arithmetic: equal turns are no per cent apart",
        ),
        Check(
            given={"first_turns": 240.0, "second_turns": 228.0, "supply_volts": 230.0},
            expected={"apart_percent": -5.0},
            source="REF-T-10: 228/240 is five per cent fewer",
        ),
    ),
)
