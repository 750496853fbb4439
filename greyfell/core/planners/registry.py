"""Every planner, one line each: page, command line, schemas, docs and walking tests follow."""

from greyfell.core.errors import Missing
from greyfell.core.planners.autotransformer import AUTOTRANSFORMER
from greyfell.core.planners.ballast import BALLAST
from greyfell.core.planners.ballast_bank import BALLAST_BANK
from greyfell.core.planners.breaker import BREAKER
from greyfell.core.planners.choke import CHOKE
from greyfell.core.planners.circuit_from_tests import CIRCUIT_FROM_TESTS
from greyfell.core.planners.claim import CLAIM
from greyfell.core.planners.crank_welder import CRANK_WELDER
from greyfell.core.planners.current_path import CURRENT_PATH
from greyfell.core.planners.dc_routes import DC_ROUTES
from greyfell.core.planners.dc_supply import DC_SUPPLY
from greyfell.core.planners.discharge import DISCHARGE
from greyfell.core.planners.duty import DUTY
from greyfell.core.planners.feed import FEED
from greyfell.core.planners.gap import GAP
from greyfell.core.planners.halves import HALVES
from greyfell.core.planners.lamp import LAMP
from greyfell.core.planners.leakage import LEAKAGE
from greyfell.core.planners.limiter import LIMITER
from greyfell.core.planners.metering import METERING
from greyfell.core.planners.nameplate import NAMEPLATE
from greyfell.core.planners.output import OUTPUT
from greyfell.core.planners.peak import PEAK
from greyfell.core.planners.primary_turns import PRIMARY_TURNS
from greyfell.core.planners.pulse_weld import PULSE_WELD
from greyfell.core.planners.ratio_check import RATIO_CHECK
from greyfell.core.planners.reflected_short import REFLECTED_SHORT
from greyfell.core.planners.rewind import REWIND
from greyfell.core.planners.saturable_reactor import SATURABLE_REACTOR
from greyfell.core.planners.scrap import SCRAP
from greyfell.core.planners.series_capacitor import SERIES_CAPACITOR
from greyfell.core.planners.sliding_choke import SLIDING_CHOKE
from greyfell.core.planners.source import SOURCE
from greyfell.core.planners.temperature import TEMPERATURE
from greyfell.core.planners.touch_map import TOUCH_MAP
from greyfell.core.planners.turns_scale import TURNS_SCALE
from greyfell.core.planners.two_primaries import TWO_PRIMARIES
from greyfell.core.planners.valve_supply import VALVE_SUPPLY
from greyfell.core.planners.variac import VARIAC
from greyfell.core.planners.weld_match import WELD_MATCH
from greyfell.core.planners.wire import WIRE
from greyfell.core.planning.declare import Planner

PARTS: dict[str, tuple[Planner, ...]] = {
    "Salvage and measuring": (
        DISCHARGE,
        METERING,
        TEMPERATURE,
        NAMEPLATE,
        RATIO_CHECK,
        PEAK,
        LEAKAGE,
    ),
    "The source and what it puts out": (
        SOURCE,
        CIRCUIT_FROM_TESTS,
        REFLECTED_SHORT,
        OUTPUT,
        DC_SUPPLY,
        DC_ROUTES,
        VALVE_SUPPLY,
        GAP,
        CLAIM,
    ),
    "Limiting": (
        LIMITER,
        LAMP,
        BALLAST,
        BALLAST_BANK,
        CHOKE,
        SLIDING_CHOKE,
        CRANK_WELDER,
        SATURABLE_REACTOR,
        SERIES_CAPACITOR,
        VARIAC,
        BREAKER,
        FEED,
    ),
    "Isolation and connections": (HALVES, TWO_PRIMARIES, TOUCH_MAP, AUTOTRANSFORMER),
    "Rewinding and metal": (
        REWIND,
        WELD_MATCH,
        PULSE_WELD,
        TURNS_SCALE,
        CURRENT_PATH,
        DUTY,
        PRIMARY_TURNS,
        WIRE,
        SCRAP,
    ),
}
"""Planners by what they are about."""
PLANNERS: dict[str, Planner] = {p.name: p for part in PARTS.values() for p in part}
"""Planners by name, in the order they are listed."""


def planner_of(name: str) -> Planner:
    """The planner of a name. Raises Missing where there is none."""
    if name not in PLANNERS:
        raise Missing("name", f"There is no planner {name[:40]} (known: {', '.join(PLANNERS)}).")
    return PLANNERS[name]
