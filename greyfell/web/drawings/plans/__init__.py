"""Drawings of plans, registered beside the planners: each a pure function of input and result."""

from collections.abc import Callable

from greyfell.core.evidence.record import Transformer
from greyfell.core.planner_kit.declare import Planned, Planner
from greyfell.web.drawings.plans import bars, curves, joining, welds
from greyfell.web.drawings.plans.conductor import conductor
from greyfell.web.drawings.plans.decay import decay
from greyfell.web.drawings.plans.phasors import phasors
from greyfell.web.drawings.plans.scale import flux_scale, heat_scale
from greyfell.web.drawings.plans.window import window
from greyfell.web.drawings.shapes import Drawing

DRAWINGS: dict[str, Callable[[Planned, Transformer | None], Drawing]] = {
    "rewind": window,
    "ballast": phasors,
    "nameplate": flux_scale,
    "temperature": heat_scale,
    "wire": conductor,
    "discharge": decay,
    "ballast_bank": bars.banks,
    "limiter": bars.limiters,
    "feed": bars.feeds,
    "valve_supply": bars.rails,
    "dc_routes": bars.routes,
    "output": bars.outputs,
    "choke": curves.choke,
    "sliding_choke": curves.slide,
    "crank_welder": curves.crank,
    "saturable_reactor": curves.saturable,
    "series_capacitor": curves.resonance,
    "variac": curves.dial,
    "breaker": curves.trip,
    "dc_supply": curves.direct,
    "gap": curves.strike,
    "weld_match": welds.match,
    "pulse_weld": welds.pulse,
    "current_path": welds.ladder,
    "duty": welds.shots,
    "touch_map": joining.touch,
    "halves": joining.arrangements,
}
"""The drawing of each planner that has one; the others are told in figures alone."""


def drawing_of(
    planner: Planner, planned: Planned | None, record: Transformer | None
) -> Drawing | None:
    """The drawing of a plan; None where there is no plan yet, or the planner draws nothing."""
    draw = DRAWINGS.get(planner.name)
    return None if planned is None or draw is None else draw(planned, record)
