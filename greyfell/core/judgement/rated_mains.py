"""What a piece was made for: volts per hertz of its plate, iron of the size its windings tell."""

import math
import re

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.record import Nameplate, Transformer
from greyfell.core.figures.limits import MOST_FLUX
from greyfell.core.figures.mains import half_volts, usual_hertz

OFF_BY = 5.0
"""Iron so many times heavier or lighter, larger or smaller than the windings tell is for another
job or other hertz. House rule."""
HERTZ = re.compile(r"(\d{2,3})(?:\s*[-/]\s*(\d{2,3}))?\s*(?:hz|hertz|c/s|cps|~)", re.I)
MASS_POWER = 1.5
"""R/V² falls with this power of the kilograms. REF-M-05, from memory."""


def plate_hertz(plate: Nameplate) -> float:
    """The hertz a plate asks for: as given, else by its text, else the highest usual at its volts.

    >>> plate_hertz(Nameplate(primary_volts=115.0, text="115 V 400 Hz"))
    400.0
    >>> plate_hertz(Nameplate(primary_volts=120.0)), plate_hertz(Nameplate(primary_volts=230.0))
    (60.0, 50.0)
    """
    if plate.hertz:
        return plate.hertz
    told = HERTZ.search(plate.text)
    if told is not None:
        # "50/60 Hz": iron for 50 bears 60
        return float(min((int(x) for x in told.groups() if x), default=50))
    return usual_hertz(plate.primary_volts or 0.0)


def flux_share(record: Transformer, belief: Belief) -> float | None:
    """The supply's volts per hertz over the plate's; None where the plate or the supply states no
    volts. Flux goes with volts over hertz. REF-M-01.
    """
    plate = record.nameplate
    if plate is None or not plate.primary_volts or not record.supply_stated:
        return None
    supply = record.supply
    volts = supply.volts
    best = belief.best
    if best is not None and best.halves is not None and plate.primary_volts <= half_volts(volts):
        volts = half_volts(volts)  # the plate tells one of two halves
    hertz = supply.hertz
    if "hertz" not in supply.model_fields_set:
        hertz = usual_hertz(supply.volts)
    return volts / hertz / (plate.primary_volts / plate_hertz(plate))


def other_mains(record: Transformer, belief: Belief) -> float:
    """The chance that a piece was made for other mains than these; nought where a plate that the
    readings bear out allows this supply's volts per hertz, whatever mains it names. REF-M-01.
    """
    share = flux_share(record, belief)
    if share is not None and share <= MOST_FLUX and not _plate_belied(belief):
        return 0.0
    return belief.other_region


def _plate_belied(belief: Belief) -> bool:
    """Whether the plate is among what does not belong with the rest."""
    rows = belief.solution.rows if belief.solution is not None else ()
    return any(rows[j].kind.startswith("plate") for j, _ in belief.outliers)


def odd_iron(belief: Belief) -> list[tuple[str, float]]:
    """What was seen of the iron that is more than OFF_BY times off what the windings let expect,
    with how many times. REF-M-04.
    """
    solution = belief.solution
    if solution is None:
        return []
    out = []
    for j, row in enumerate(solution.rows):
        power = {"mass": MASS_POWER, "core area": 1.0}.get(row.kind)
        if power is None:
            continue
        off = (row.value - solution.predicted(belief.index, j)[0]) / power
        if abs(off) > math.log(OFF_BY):
            out.append(("mass" if row.kind == "mass" else "core's section", math.exp(abs(off))))
    return out
