"""Kilovolt DC by its three routes side by side: a doubler from an end, a bridge over both ends, two
halves to the core; which of them the winding's bond allows, and what each asks of its parts.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.figures.touch import stores_hazard
from greyfell.core.never import SAID, Asked
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners import dc_supply, starts

END, MIDDLE = starts.BOND_END, starts.BOND_MIDDLE
FREE, UNKNOWN = starts.BOND_NONE, starts.BOND_UNKNOWN
BONDS = (END, MIDDLE, FREE, UNKNOWN)
"""What of the winding stands on the core."""
DOUBLER, BRIDGE, HALVES = "doubler", "bridge", "centre-tap"


@dataclass(frozen=True, kw_only=True)
class Route:
    """One route: its rectifier, words, which bonds allow it, what of the winding's volts and ohms
    it takes, and why the others do not.
    """

    rectifier: str
    words: str
    share: float
    bonds: tuple[str, ...]
    otherwise: str


ROUTES = (
    Route(
        rectifier=DOUBLER,
        words="doubler from one end, the other on earth",
        share=1.0,
        bonds=(END, FREE),
        otherwise="with its middle on the core each half would feed a doubler of its own",
    ),
    Route(
        rectifier=BRIDGE,
        words="bridge over both ends",
        share=1.0,
        bonds=(FREE,),
        otherwise="a bridge shorts through the earth what stands on the core",
    ),
    Route(
        rectifier=HALVES,
        words="two halves, the middle on earth",
        share=0.5,
        bonds=(MIDDLE,),
        otherwise="it wants the winding's middle",
    ),
)
"""The three routes. REF-R-03, R-T1."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The winding, what of it stands on the core, load and reservoir; V, A, Ω, F."""

    winding_volts: Quantity = asked(
        "Winding, end to end", "V", above=0, at_most=1e5, start=starts.high_volts
    )
    bond: str = asked("On the core stands", default=UNKNOWN, choices=BONDS, start=starts.high_bond)
    load_amps: float = asked("Load, direct", "A", default=0.005, at_least=0, at_most=100)
    supply_hertz: float = asked(
        "Frequency", "Hz", default=50.0, at_least=1, at_most=1000, start=starts.supply_hertz
    )
    reservoir_farads: float = asked("Reservoir", "F", default=1e-6, above=0, at_most=10)
    source_resistance_ohms: float = asked(
        "Winding's resistance, all in",
        "Ω",
        default=0.0,
        at_least=0,
        at_most=1e7,
        start=starts.high_resistance,
    )
    source_reactance_ohms: float = asked(
        "Winding's reactance, all in",
        "Ω",
        default=0.0,
        at_least=0,
        at_most=1e7,
        start=starts.high_reactance,
    )
    diode_volts: float = asked(
        "Drop of a diode", "V", aside=True, default=8.0, at_least=0, at_most=100
    )
    diode_inverse_volts: float | None = asked(
        "A diode bears in reverse", "V", aside=True, default=None, above=0, at_most=1e6
    )
    mains_tolerance: float = asked(
        "The line may be up by", aside=True, default=0.1, at_least=0, at_most=0.3
    )
    bled: bool = asked(SAID["bled"], default=False)
    enclosed: bool = asked(SAID["enclosed"], default=False)
    proved: bool = asked(SAID["proved"], default=False)


@dataclass(frozen=True, kw_only=True)
class Way(ShownRow):
    """One route: whether the bond allows it, volts, ripple, what its parts bear, its charge."""

    route: str = shown("Route")
    allowed: bool = shown("Allowed")
    loaded_volts: Quantity = shown("Loaded", "V")
    open_volts: Quantity = shown("Open", "V")
    ripple_volts: Quantity = shown("Ripple", "V")
    peak_inverse_volts: Quantity = shown("A diode sees", "V")
    diodes_in_string: int | None = shown("In a string")
    secondary_amps: Quantity = shown("Winding carries", "A")
    stored_joules: Quantity = shown("Stores", "J")
    because: str = shown("Because")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The route to take, and all three side by side."""

    route: str = shown("Take", lead=True)
    routes: tuple[Way, ...] = shown("Side by side")


NONE_YET = "none yet: read both ends to the core"


def work(given: Given) -> Found:
    """Each route as a direct supply of its own: 2·√2·V for the doubler, √2·V for the bridge,
    √2·V/2 for two halves, less diodes; loaded and ripple solved in time. REF-R-01 to R-07, R-T1.

    Raises FieldError where a route cannot give the amps.

    >>> from greyfell.core.figures.quantity import exact
    >>> work(Given(winding_volts=exact(2000.0), bond=END)).route
    'doubler from one end, the other on earth'
    """
    ways = tuple(_ways(given))
    taken = next((w for w in reversed(ways) if w.allowed), None)
    return Found(route=NONE_YET if taken is None else taken.route, routes=ways)


def _ways(given: Given) -> Iterator[Way]:
    for route in ROUTES:
        found = dc_supply.worked(supply_of(given, route))
        allowed = given.bond in route.bonds
        yield Way(
            route=route.words,
            allowed=allowed,
            loaded_volts=found.loaded_volts,
            open_volts=found.open_volts,
            ripple_volts=found.ripple_volts,
            peak_inverse_volts=found.peak_inverse_volts,
            diodes_in_string=found.diodes_in_string,
            secondary_amps=found.secondary_amps,
            stored_joules=found.stored_joules,
            because=_because(given, route),
        )


def supply_of(given: Given, route: Route) -> dc_supply.Given:
    """The direct supply that a route is."""
    return dc_supply.Given(
        winding_volts=corners(lambda v: v * route.share, given.winding_volts),
        load_amps=given.load_amps,
        supply_hertz=given.supply_hertz,
        rectifier=route.rectifier,
        reservoir_farads=given.reservoir_farads,
        source_resistance_ohms=given.source_resistance_ohms * route.share,
        source_reactance_ohms=given.source_reactance_ohms * route.share,
        diode_volts=given.diode_volts,
        diode_inverse_volts=given.diode_inverse_volts,
        mains_tolerance=given.mains_tolerance,
    )


def _because(given: Given, route: Route) -> str:
    """Why a route is open to this winding, or not."""
    if given.bond in route.bonds:
        return f"{given.bond} stands on the core"
    if given.bond == UNKNOWN:
        return "what stands on the core is not known"
    return route.otherwise


def _holds(way: Way) -> bool:
    return stores_hazard(way.open_volts.high, way.stored_joules.high)


def _asked(given: Given, found: Found) -> Asked:
    """What the route that is taken is to the list of what is never planned."""
    way = next((w for w in found.routes if w.route == found.route), None)
    if way is None:
        return Asked()
    return Asked(
        open_dc=way.open_volts.value,
        times=way.open_volts.value / (math.sqrt(2) * given.winding_volts.value),
        held_volts=way.open_volts.high,
        held_joules=way.stored_joules.high,
        bled=given.bled,
        enclosed=given.enclosed,
        proved=given.proved,
    )


DC_ROUTES = Planner(
    name="dc_routes",
    title="Kilovolt DC by three routes",
    purpose="Doubler, bridge or two halves from one winding, side by side.",
    given=Given,
    found=Found,
    work=work,
    heavy=True,
    why=Formula(
        text="open 2·√2·V, √2·V or √2·V/2, less diodes; loaded and ripple solved in time",
        source="REF-R-01 to R-07, R-T1",
        put="{winding_volts}: {route}",
    ),
    cautions=(
        Caution(
            code="bond-unknown",
            severity="stop",
            sentence=(
                "What of the winding stands on the core decides the route: read both ends to the "
                "core first, OL on the highest range or ohms."
            ),
            when=lambda given, found: given.bond == UNKNOWN,
        ),
        Caution(
            code="lethal-stored",
            severity="caution",
            sentence=(
                "Its reservoir kills after it is switched off, by whichever route: bleeder, a "
                "meter that shows it fall, then the stick, then a short that stays."
            ),
            when=lambda given, found: any(_holds(w) for w in found.routes),
        ),
        Caution(
            code="core-is-the-return",
            severity="caution",
            sentence=(
                "The core carries the direct current too: bond it to protective earth before "
                "power, or it floats at the output's volts."
            ),
            when=lambda given, found: given.bond in (END, MIDDLE),
        ),
        Caution(
            code="both-poles-live",
            severity="caution",
            sentence=(
                "A bridge leaves the winding floating: earth one pole of the output, one only, "
                "and both of the winding's ends stay live."
            ),
            when=lambda given, found: given.bond == FREE,
        ),
        Caution(
            code="own-diodes",
            severity="note",
            sentence=(
                "An oven's diode drops 6 to 12 V and reads open on a meter; an oven capacitor's "
                "AC volts are no DC rating."
            ),
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.DOUBTFUL),
    never=_asked,
    draws={"diode": {"diode_inverse_volts": "inverse_volts", "diode_volts": "drop_volts"}},
    example={
        "winding_volts": 2100.0,
        "bond": END,
        "load_amps": 0.01,
        "reservoir_farads": 1e-6,
        "source_resistance_ohms": 400.0,
        "source_reactance_ohms": 3000.0,
        "diode_inverse_volts": 12000.0,
    },
    checks=(
        Check(
            given={"winding_volts": 1000.0, "bond": END, "load_amps": 0.0, "diode_volts": 0.0},
            expected={"routes.0.open_volts": 2828.0, "routes.1.open_volts": 1414.0},
            source="REF-R-03: a doubler gives 2·√2·V, a bridge √2·V",
        ),
        Check(
            given={"winding_volts": 1000.0, "bond": MIDDLE, "load_amps": 0.0, "diode_volts": 0.0},
            expected={"routes.2.open_volts": 707.1, "routes.2.peak_inverse_volts": 1414.0},
            source="R-T1: two halves give √2·V of one half, a diode sees 2·√2 of it",
        ),
    ),
)
