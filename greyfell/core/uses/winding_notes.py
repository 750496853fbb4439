"""What is said of a winding while it is being made: what test turns would settle, a winding read
back, a cable proved by its ohms, the loop's parts, shots and rests, the joint's idle amps.
"""

import math

from greyfell.core.coil_design.conductors import proved_by_ohms
from greyfell.core.coil_design.heat import rise_of_shot, shots_to_limit
from greyfell.core.coil_design.path import typical
from greyfell.core.coil_design.removal import JOINTS, CoreJoint, Leave, amps_of_gap, left_whole
from greyfell.core.evidence.kinds.registry import meeting
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.wire import diameter_mm, millimetres_awg
from greyfell.core.judgement.identification import Identification
from greyfell.core.uses.catalogue import Use
from greyfell.core.uses.core_to_wind import CoreToWind
from greyfell.core.uses.fit import AIR_CELSIUS, MINUTE
from greyfell.core.uses.project import Design
from greyfell.core.uses.wound_record import more_turns

TESTED_PERCENT = 1.5
"""What test turns leave open, ± per cent. As simulated: `make projects`."""
LEAST_SHARE = 0.85
"""A cable whose ohms tell less of its printed section is none. IEC 60228 classes, and slack."""
JOINT_TESLA = 1.6
"""Peak flux at which a joint's amps are told. Common practice."""
JOINT_GAPS = 2
"""A flux passes a joint twice: there and back."""
TENTH_MM = 0.1
JOINTS_TOLD = 4
"""So many usual parts of a loop are named beside the winding."""


def narrower(ident: Identification, design: Design) -> str:
    """What five test turns would do to the range of the open volts; nothing once they are read."""
    if meeting("test turn", ident.record.standing):
        return ""
    volts = design.open_volts
    wide = 100 * math.log(volts.high / volts.low) / 2
    return (
        f"The open volts are known to ±{wide:.0f} %. Five test turns of thin wire through both "
        f"windows, wound where the old coil stands, bring that to ±{TESTED_PERCENT:g} %."
    )


def read_back(design: Design, *, volts: float, turns: int) -> str:
    """Wound and read, V and turns: how many turns more, and which of plan and count is off; nothing
    where nothing was read.
    """
    if volts <= 0 or turns < 1:
        return ""
    more, each = more_turns(design.open_volts.value, volts, turns)
    planned = design.iron.new_volts_per_turn
    said = f"{engineering(each, 'V')} a turn, {more} more to wind."
    if planned.low <= each <= planned.high:
        return f"{said} The plan said {engineering(planned.value, 'V')}: they agree."
    count = volts / planned.value
    return (
        f"{said} The plan said {engineering(planned.value, 'V')}: by it these would be "
        f"{count:.1f} turns. Count again through both windows; if the count holds, the plan is off."
    )


def cable_proved(design: Design, *, milliohms: float, metres: float) -> str:
    """A cable against its printed section, by its ohms: mΩ over metres; nothing where either was
    not read. REF-W-01.
    """
    conductor = design.conductor
    if milliohms <= 0 or metres <= 0 or conductor is None:
        return ""
    share = proved_by_ohms(milliohms, metres, conductor.mm2)
    said = f"It is {100 * share:.0f} % of {conductor.mm2:.3g} mm²"
    if share < LEAST_SHARE:
        return f"{said}: thinner than it says, or clad aluminium. Not for this."
    return f"{said}: honest copper."


def gauge(design: Design) -> str:
    """One conductor every way: mm², mm and AWG; nothing of a sheet."""
    conductor = design.conductor
    if conductor is None or conductor.rolled:
        return ""
    mm = diameter_mm(conductor.mm2)
    return f"{conductor.mm2:.3g} mm², {mm:.2f} mm solid, AWG {millimetres_awg(mm):.0f}"


def path_rows(design: Design) -> str:
    """The loop as the path asks for it: the winding's own ohms, usual joints, each assumed."""
    rows = [f"winding - {1e6 * design.ohms_cold:.0f}u"]
    rows += [
        f"{p.title.replace(' ', '_').replace(',', '')} - {1e6 * p.ohms.value:.0f}u"
        for p in typical()[:JOINTS_TOLD]
    ]
    return "; ".join(rows)


def shot_clock(design: Design, use: Use) -> dict[str, float] | None:
    """What the shot clock goes by: shots to the limit, seconds of rest after each, kelvin of one
    shot. None of what runs for a minute and more.
    """
    conductor, at = design.conductor, design.found.shot
    if conductor is None or at is None or use.on_seconds >= MINUTE:
        return None
    density = at.amps / conductor.whole_mm2
    ends = (AIR_CELSIUS, conductor.limit_celsius)
    return {
        "shots": shots_to_limit(density, use.on_seconds, conductor.metal, ends),
        "rest": use.off_seconds,
        "kelvin": rise_of_shot(density, use.on_seconds, conductor.metal, AIR_CELSIUS),
    }


def left_beside(iron: CoreToWind, design: Design) -> Leave | None:
    """The gap that is free with every coil left in; None where no conductor goes in."""
    conductor = design.conductor
    if conductor is None:
        return None
    count = design.found.turns * conductor.in_hand
    return left_whole(iron.window, count, conductor.overall_mm)


def joint_amps(iron: CoreToWind) -> list[tuple[CoreJoint, list[float]]]:
    """Every way of joining a core again with the idle amps that its gap takes, A RMS, at the
    least and the widest gap. REF-M-10.
    """
    turns = iron.primary_turns
    return [
        (j, [JOINT_GAPS * amps_of_gap(gap, JOINT_TESLA, turns) for gap in j.gap_mm]) for j in JOINTS
    ]


def amps_of_a_tenth(iron: CoreToWind) -> float:
    """Idle amps, A RMS, that each tenth of a millimetre of gap takes. REF-M-10."""
    return amps_of_gap(TENTH_MM, JOINT_TESLA, iron.primary_turns)
