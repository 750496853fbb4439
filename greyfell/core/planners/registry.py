"""Every planner, one line each: page, command line, schemas, docs and walking tests follow."""

from greyfell.core.errors import Missing
from greyfell.core.planners.ballast import BALLAST
from greyfell.core.planners.declare import Planner
from greyfell.core.planners.discharge import DISCHARGE
from greyfell.core.planners.metering import METERING
from greyfell.core.planners.nameplate import NAMEPLATE
from greyfell.core.planners.peak import PEAK
from greyfell.core.planners.ratio_check import RATIO_CHECK
from greyfell.core.planners.rewind import REWIND
from greyfell.core.planners.scrap import SCRAP
from greyfell.core.planners.temperature import TEMPERATURE
from greyfell.core.planners.wire import WIRE

PLANNERS: dict[str, Planner] = {
    planner.name: planner
    for planner in (
        REWIND,
        BALLAST,
        NAMEPLATE,
        TEMPERATURE,
        WIRE,
        DISCHARGE,
        RATIO_CHECK,
        METERING,
        PEAK,
        SCRAP,
    )
}
"""Planners by name, in the order they are listed."""


def planner_of(name: str) -> Planner:
    """The planner of a name. Raises Missing where there is none."""
    if name not in PLANNERS:
        raise Missing("name", f"There is no planner {name[:40]} (known: {', '.join(PLANNERS)}).")
    return PLANNERS[name]
