"""What is said wherever something stands under power: which signs are left where no cold test can
tell, and what is licensed practice's alone in this very case.
"""

from greyfell.core.codes import CODES
from greyfell.core.families.registry import family_of
from greyfell.core.judgement.high import high_ruled_out, may_be_high
from greyfell.core.judgement.identification import Identification

ALWAYS_THEIRS = "fixed wiring, and anything lent or sold"
BONDED = (
    "{ends} is bonded to the iron: no cold test can tell its insulation from its return. The signs "
    "that are left: halves alike at a few volts, watts at no load, a soak at reduced volts, hiss, "
    "smell, a trip. Sound by all of them is no better than they are."
)


def theirs_alone(ident: Identification) -> str:
    """What in this case is left to licensed hands, in a sentence."""
    family = family_of(ident.family)
    more = family.theirs if family is not None else ""
    what = f"{more}; {ALWAYS_THEIRS}" if more else ALWAYS_THEIRS
    return f"{CODES} Theirs alone: {what}."


HANDS_OFF = (
    "With high voltage on the core: primary's side only. HV leads insulated, apart, fixed; core on "
    "earth; nobody near; no probe on HV, no hand past the primary."
)


def hands_off(ident: Identification) -> list[str]:
    """What stands over every live step of a piece that may have high voltage."""
    return [] if high_ruled_out(ident.belief) else [HANDS_OFF]


def untold_cold(ident: Identification) -> list[str]:
    """A sentence for every HV winding that no cold test can tell apart from the iron."""
    bonded = (w for w in ident.windings if w.coil.bond is not None and may_be_high(w))
    return [BONDED.format(ends=w.name) for w in bonded]
