"""A line wound up from nought: what stands and flows at each share of the supply."""

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.chain.elements import Rig
from greyfell.core.chain.solving import solve
from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import STOP_AMPS

SHARES = (0.1, 0.25, 0.5, 0.75, 1.0)
"""Steps of winding up, and where each is stopped: as the planner `variac` has it."""


class WindUpStep(Struct, frozen=True, kw_only=True):
    """One step of winding up: line volts, amps from the wall, where to stop, volts at the load, all
    RMS.
    """

    volts: float
    amps: float
    stop_amps: float
    load_volts: float


def wind_up(rig: Rig) -> list[WindUpStep]:
    """A tenth, a quarter, half, three quarters and all of the line, each solved; a share at which
    nothing can be solved is left out.
    """
    out = []
    for share in SHARES:
        volts = share * rig.supply.told("volts")
        supply = replace(rig.supply, figures={**rig.supply.figures, "volts": volts})
        try:
            found = solve(replace(rig, supply=supply))
        except FieldError:
            continue
        amps = found.line.amps
        out.append(
            WindUpStep(
                volts=volts,
                amps=amps,
                stop_amps=STOP_AMPS * amps,
                load_volts=found.load.volts,
            )
        )
    return out
