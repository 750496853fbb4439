"""What outputs may put out at the most, in volts and in amps, and from when either is a danger."""

from greyfell.core.belief.found import Winding
from greyfell.core.belief.priors import SMALL_ROLES
from greyfell.core.figures.limits import MAINS_RISE, TOUCH_VOLTS
from greyfell.core.judgement.high import may_be_high

OUTPUT_DOUBT = 0.05
"""From this chance of being an output a winding that likelier carries the mains is told as one: of
two like windings either may be fed. House rule."""
BURNING_AMPS = 200.0
"""Above this a short melts a ring or a tool in the hand. House rule, common practice."""


def most_volts(w: Winding) -> float:
    """The most an output may put out: the top of its range on mains a tenth high; nought for HV and
    where nothing is known. IEC 60038.

    A winding that may be the mains' or an output counts as an output: what it puts out is not
    excluded.
    """
    if w.volts is None or may_be_high(w) or not may_put_out(w):
        return 0.0
    return MAINS_RISE * w.volts.high


def may_put_out(w: Winding) -> bool:
    """Whether a winding may be an output: likeliest none of the mains', or one with some chance."""
    chance = sum(w.roles.get(role, 0.0) for role in SMALL_ROLES)
    return not w.on_mains or chance >= OUTPUT_DOUBT


def reaches_touch(w: Winding) -> bool:
    """Whether a winding that is neither the mains' nor HV may put out more than may be touched."""
    return most_volts(w) > TOUCH_VOLTS


def short_amps(w: Winding, primary: Winding | None) -> float:
    """The most amps into a short of a winding, by the ohms on record: V2 / (R2 + R1 (V2/V1)²).

    Ohm's law; leakage, which lowers it, is left out. Nought where nothing is known. REF-T-09.
    """
    if primary is None or w.volts is None or w.id == primary.id or w.coil.broken or may_be_high(w):
        return 0.0
    if primary.volts is None or not may_put_out(w) or not w.coil.readings:
        return 0.0
    ratio = w.volts.value / primary.volts.value
    ohms = w.coil.ohms.value + primary.coil.ohms.value * ratio**2
    return w.volts.value / max(ohms, 1e-4)
