"""Which of the owner's meters may touch which terminals. Never a 600 V or 1000 V meter on an HV
winding.
"""

from dataclasses import dataclass
from itertools import pairwise

from greyfell.core.identify import Identification, Winding
from greyfell.core.quantity import engineering
from greyfell.core.record import Meter, Transformer

MARGIN = 0.8
"""A meter is used up to eight tenths of its rating: mains wander by 10 % (IEC 60038) and readings
have limits. Common practice."""

CATEGORY_VOLTS = {"CAT II": 600.0, "CAT III": 1000.0, "CAT IV": 1000.0}
"""No ordinary hand-held meter is rated above this, whatever its plate leaves unsaid. IEC 61010-1
practice, from memory."""


@dataclass(frozen=True)
class MeterRule:
    """May this meter touch these two points, with the primary on the supply? `allowed` None: cannot
    tell yet.
    """

    meter: str
    points: tuple[str, str]
    allowed: bool | None
    sentence: str


def meter_rules(record: Transformer, ident: Identification) -> list[MeterRule]:
    """A verdict for every meter on every winding, and from HV windings to the core. Volts taken at
    the top of their range.
    """
    out = []
    for meter in record.meters:
        for winding in ident.windings:
            if not winding.coil.broken:
                out.append(_rule(meter, winding, ident))
    return out


def _rule(meter: Meter, winding: Winding, ident: Identification) -> MeterRule:
    name = meter.title or meter.id
    x, y = winding.coil.leads
    high = winding.roles.get("hv-secondary", 0.0)
    if winding.volts is None:
        sentence = (
            f"{name} on {x}–{y}: cannot tell yet, the volts there are not known. Only with "
            "nothing powered."
        )
        return MeterRule(meter.id, (x, y), None, sentence)
    if meter.max_volts_ac is None:
        sentence = (
            f"{name} on {x}–{y}: cannot tell, its rating is not on record. Read it off the "
            "meter's jacks."
        )
        return MeterRule(meter.id, (x, y), None, sentence)
    limit = min(meter.max_volts_ac, CATEGORY_VOLTS.get(meter.category or "", meter.max_volts_ac))
    worst = winding.volts.high
    if high > 0.1 and worst > 0.4 * limit:
        sentence = (
            f"{name} must not touch {x}–{y}: up to {engineering(worst, 'V')} there, the "
            f"meter is made for {engineering(limit, 'V')}. "
            "Drive the piece with a few volts and multiply, or read the primary in reverse drive."
        )
        return MeterRule(meter.id, (x, y), False, sentence)
    if worst > MARGIN * limit:
        sentence = (
            f"{name} must not touch {x}–{y}: up to {engineering(worst, 'V')}, above eight "
            f"tenths of its {engineering(limit, 'V')}."
        )
        return MeterRule(meter.id, (x, y), False, sentence)
    sentence = (
        f"{name} may read {x}–{y}: up to {engineering(worst, 'V')} of its "
        f"{engineering(limit, 'V')}."
    )
    if ident.stopped:
        sentence = f"{name} would bear {x}–{y}, but a stop fault stands: nothing is powered."
    return MeterRule(meter.id, (x, y), True, sentence)


def volts_along(winding: Winding) -> list[tuple[tuple[str, str], float, float]]:
    """Each stretch of a winding between neighbouring leads, with the low and high of its volts;
    empty where unknown.
    """
    if winding.volts is None:
        return []
    places = sorted(
        [
            (0.0, winding.coil.leads[0]),
            *((t.fraction, t.lead) for t in winding.taps),
            (1.0, winding.coil.leads[1]),
        ]
    )
    return [
        ((a, b), winding.volts.low * (g - f), winding.volts.high * (g - f))
        for (f, a), (g, b) in pairwise(places)
    ]
