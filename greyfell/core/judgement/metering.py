"""Which of the owner's meters may touch which terminals. Never a 600 V or 1000 V meter on an HV
winding.
"""

from collections.abc import Sequence

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.evidence.record import Meter
from greyfell.core.figures.notation import begun, engineering
from greyfell.core.judgement.high import may_be_high
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.leaks import MAY_BE_MAINS
from greyfell.core.judgement.rating import rating

MARGIN = 0.8
"""A meter is used up to eight tenths of its rating: mains wander by 10 % (IEC 60038) and readings
have limits. Common practice."""
NO_MAINS = ("CAT I",)
"""Categories that do not belong on the mains; a meter without one counts as CAT II. IEC
61010-2-033, from memory."""
MARGIN_IF_HIGH = 0.4
"""The same on a winding that may be HV: its volts may be another's. House rule."""


class MeterRule(Struct, frozen=True):
    """May this meter touch these two points, with the primary on the supply? `allowed` None: cannot
    tell yet.
    """

    meter: str
    points: tuple[str, str]
    allowed: bool | None
    sentence: str

    def as_json(self) -> dict[str, object]:
        """The public form."""
        return {
            "meter": self.meter,
            "points": list(self.points),
            "allowed": self.allowed,
            "sentence": self.sentence,
        }


def meter_rules(ident: Identification, meters: Sequence[Meter] | None = None) -> list[MeterRule]:
    """A verdict for every meter on every winding, and from HV windings to the core. Volts taken at
    the top of their range. The meters are those on record where no others are given.
    """
    at_hand = ident.record.meters if meters is None else meters
    whole = [w for w in ident.windings if not w.coil.broken]
    return [
        MeterRule(meter.id, w.coil.leads, *_rule(meter, w, ident.stopped))
        for meter in at_hand
        for w in whole
    ]


def _rule(meter: Meter, winding: Winding, stopped: bool) -> tuple[bool | None, str]:
    """Whether a meter may touch a winding, and the sentence that says so."""
    name, ends = begun(meter.title or meter.id), winding.name
    limit = rating(meter)
    if winding.volts is None:
        return None, (
            f"{name} on {ends}: cannot tell yet, the volts there are not known. Only with nothing "
            "powered."
        )
    if limit is None:
        return None, (
            f"{name} on {ends}: cannot tell, its rating is not on record. Read it off the meter's "
            "jacks."
        )
    if winding.mains_chance >= MAY_BE_MAINS and meter.category in NO_MAINS:
        return False, (
            f"{name} must not touch {ends}: it is {meter.category}, and the mains want CAT II at "
            "least. Volts and category are two limits."
        )
    worst = winding.volts.high
    most, made_for = engineering(worst, "V"), engineering(limit, "V")
    if may_be_high(winding) and worst > MARGIN_IF_HIGH * limit:
        return False, (
            f"{name} must not touch {ends}: up to {most} there, the meter is made for {made_for}. "
            "Drive the piece with a few volts and multiply, or read the primary in reverse drive."
        )
    if worst > MARGIN * limit:
        return False, (
            f"{name} must not touch {ends}: up to {most}, above eight tenths of its {made_for}."
        )
    if stopped:
        return True, f"{name} would bear {ends}, but a stop fault stands: nothing is powered."
    return True, f"{name} may read {ends}: up to {most} of its {made_for}."
