"""Whether high voltage is ruled out: one predicate, for strip, steps, meters and gate alike."""

from greyfell.core.belief.found import Belief, Winding

RULED_OUT = 0.01
"""Below this chance for every winding, and with every lead read, HV is ruled out. House rule: one
in a hundred of a wrong word beside kilovolts is too many."""
HIGH_VOLTS = 600.0
"""Above this no ordinary 600 V meter may be put on, and a winding counts as HV. Common practice."""


def may_be_high(winding: Winding) -> bool:
    """Whether a winding may yet put out high voltage: by its role, or by the top of its volts.

    A winding sure to take the mains has the mains' volts and no more.
    """
    volts = winding.volts
    return winding.hv_chance >= RULED_OUT or (volts is not None and volts.high > HIGH_VOLTS)


def is_high(winding: Winding) -> bool:
    """Whether a winding is likely high voltage: by its likeliest role or by its volts."""
    volts = winding.volts
    return winding.role == "hv-secondary" or (volts is not None and volts.value > HIGH_VOLTS)


def high_ruled_out(belief: Belief) -> bool:
    """Whether HV is ruled out: every lead read, and no winding that may be high."""
    read = bool(belief.windings) and not belief.topology.untested
    return read and not any(may_be_high(w) for w in belief.windings)
