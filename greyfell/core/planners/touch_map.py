"""Who touches what at an isolating outlet, what flows through him, and what clears it."""

import math
from dataclasses import dataclass

from greyfell.core.figures.limits import UNREAD_LEAKAGE_AMPS
from greyfell.core.figures.quantity import Quantity
from greyfell.core.isolation.body import zone
from greyfell.core.isolation.body_current import (
    CLIPS,
    DEVICES,
    FAULTS,
    TIES,
    Outlet,
    Touch,
    touches,
    why_not,
)
from greyfell.core.network.parts import EARTH
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners import starts

LEAKS_ONLY = 0.01
"""Amps below which what flows to earth is called leakage, not a conductor. House rule."""
BODY_OHMS = (500.0, 1e5)


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Output volts RMS, the mains' hertz, what the outlet's earth pin is tied to, leakage, first
    fault, clip, device, body.
    """

    output_volts: Quantity = asked("Output", "V", above=0, at_most=1000, slide=(12, 400))
    supply_hertz: float = asked(
        "Frequency", "Hz", at_least=10, at_most=1000, default=50.0, start=starts.supply_hertz
    )
    case: str = asked("The outlet's earth pin is tied to", default="earth", choices=TIES)
    leakage_farads: float | None = asked(
        "Capacitance between windings", "F", default=None, above=0, at_most=1e-6
    )
    leakage_amps: float | None = asked(
        "or leakage to earth", "A", default=None, above=0, at_most=1.0, help="0.75 mA if not read"
    )
    first_fault: str = asked("First fault, to the case", default="none", choices=FAULTS)
    instrument_clip: str = asked("An earthed instrument's clip on", default="none", choices=CLIPS)
    residual_current_device: str = asked("Residual-current device", default="none", choices=DEVICES)
    body_ohms: float | None = asked(
        "Body", "Ω", default=None, at_least=BODY_OHMS[0], at_most=BODY_OHMS[1]
    )
    seconds: float = asked("for so long", "s", default=10.0, at_least=0.01, at_most=1e4)


@dataclass(frozen=True, kw_only=True)
class Pair(ShownRow):
    """Two points with a body across them; `from` is a word of the language, so `from_`."""

    from_: str = shown("One hand")
    to: str = shown("the other")
    volts: Quantity = shown("Between them", "V")
    body_amps: Quantity = shown("Through the body", "A")
    zone: str = shown("Zone")
    cleared_by: str = shown("Cleared by")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Every pair, and whether it isolates."""

    isolates: bool = shown("It isolates", lead=True)
    why_not: str | None = shown("because")
    worst_zone: str = shown("The worst zone", lead=True)
    pairs: tuple[Pair, ...] = shown("Who touches what")


def outlet_of(given: Given, volts: float) -> Outlet:
    """The wiring at so many volts."""
    omega = 2 * math.pi * given.supply_hertz
    farads = given.leakage_farads
    if farads is None:
        farads = (given.leakage_amps or UNREAD_LEAKAGE_AMPS) / (omega * given.output_volts.value)
    return Outlet(
        volts=volts,
        hertz=given.supply_hertz,
        case=given.case,
        farads=farads,
        fault=given.first_fault,
        clip=given.instrument_clip,
        device=given.residual_current_device,
    )


def work(given: Given) -> Found:
    """Nodal solution of the one wiring graph, a body across each pair in turn, at the lowest ohms
    that one of twenty people has; zones by IEC 60479-1. V, A, s.

    >>> from greyfell.core.figures.quantity import exact
    >>> [work(Given(output_volts=exact(230.0), case=c)).isolates for c in ("earth", "neutral")]
    [True, False]
    """
    ends = [
        touches(outlet_of(given, v), given.body_ohms)
        for v in (given.output_volts.value, given.output_volts.low, given.output_volts.high)
    ]
    pairs = tuple(_pair(given, [e[n] for e in ends]) for n in range(len(ends[0])))
    to_earth = [t for t in ends[0] if {t.one, t.two} in ({"L", EARTH}, {"N", EARTH})]
    isolates = all(t.amps < LEAKS_ONLY for t in to_earth)
    because = why_not(outlet_of(given, given.output_volts.value))
    return Found(
        isolates=isolates,
        why_not=None if isolates else because or "What leaks to earth is more than a leak.",
        worst_zone=max(p.zone for p in pairs),
        pairs=pairs,
    )


def _pair(given: Given, at: list[Touch]) -> Pair:
    """One pair with the range of the volts."""

    def ranged(key: str) -> Quantity:
        values = [float(getattr(t, key)) for t in at]
        return Quantity(values[0], min(values), max(values), ("nodal",))

    amps = ranged("amps")
    named = {EARTH: "earth"}
    return Pair(
        from_=named.get(at[0].one, at[0].one),
        to=named.get(at[0].two, at[0].two),
        volts=ranged("volts"),
        body_amps=amps,
        zone=zone(amps.high, given.seconds),
        cleared_by=at[0].cleared,
    )


TOUCH_MAP = Planner(
    name="touch_map",
    title="Who touches what",
    purpose="Every pair of points at an isolating outlet: volts, what flows through a body, what "
    "clears it.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="nodes L, N, case, earth, clip; a body of U-dependent ohms across each pair",
        source="REF-H-01, IEC 60479-1 table 1 and figure 20, IEC 60364-4-41",
        put="{output_volts} with the pin tied to {case}: worst {worst_zone}",
    ),
    cautions=(
        Caution(
            code="not-isolating",
            severity="caution",
            sentence="It does not isolate. {why_not} Told before anything is plugged in.",
            when=lambda given, found: not found.isolates,
        ),
        Caution(
            code="device-ahead",
            severity="caution",
            sentence=(
                "A residual-current device ahead of the transformer sees nothing of what happens "
                "behind it."
            ),
            when=lambda given, found: given.residual_current_device == "ahead",
        ),
        Caution(
            code="device-needs-bond",
            severity="caution",
            sentence="A residual-current device behind it does nothing while the output floats.",
            when=lambda given, found: (
                given.residual_current_device == "after-bond" and given.case != "neutral"
            ),
        ),
        Caution(
            code="device-wanted",
            severity="caution",
            sentence=(
                "With the neutral bonded a residual-current device after the bond is required: "
                "without it nothing clears a hand on the line."
            ),
            when=lambda given, found: (
                given.case == "neutral" and given.residual_current_device != "after-bond"
            ),
        ),
        Caution(
            code="both-conductors",
            severity="caution",
            sentence="No isolation helps a hand on each conductor: one hand, the other behind you.",
        ),
        Caution(
            code="second-fault",
            severity="note",
            sentence=(
                "The first fault tells nobody: it is looked for, by the leakage to earth, before "
                "the second."
            ),
            when=lambda given, found: given.first_fault == "none" and found.isolates,
        ),
    ),
    example={"output_volts": {"value": 230.0, "low": 230.0, "high": 253.0}},
    checks=(
        Check(
            given={"output_volts": 230.0, "case": "neutral", "body_ohms": 775.0},
            expected={"pairs.2.body_amps": 0.2964, "isolates": False},
            source="REF-H-01b: 230 V through 775 Ω are 296.8 mA, less the source's own ohm",
            rel=2e-3,
        ),
        Check(
            given={"output_volts": 230.0, "leakage_amps": 0.0005, "body_ohms": 1000.0},
            expected={"isolates": True, "pairs.0.body_amps": 0.22977},
            source="REF-H-01, by hand: both hands, 230 V through 1001 Ω",
            rel=2e-3,
        ),
    ),
)
