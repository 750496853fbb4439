"""What volts are to a hand: the class of an output by volts, amps and what it stores."""

LOW, TOUCH = 30.0, 50.0
"""Volts RMS that may be touched (IEC 61010-1 6.3), and the touch limit of installations (IEC
61140), both read at mains + 10 % and open."""
LET_GO = 5e-3
"""Amps that every hand can let go of. IEC 60479-1."""
STORED_VOLTS, STORED_JOULES = 100.0, 0.25
"""Stored energy counts from here: 0.25 J at 400 V and more (NFPA 70E art. 360, from memory), taken
from 100 V on to be on the safe side."""
CLASSES = ("below-30", "touch", "shock", "lethal", "lethal-stored")


def hazard_class(volts: float, short_amps: float | None, joules: float = 0.0) -> str:
    """The class of an output by its open RMS volts at their highest, the amps it gives shorted
    (None where nothing limits them) and the energy it stores in J.

    >>> hazard_class(29.0, None), hazard_class(49.0, None), hazard_class(230.0, None)
    ('below-30', 'touch', 'lethal')
    >>> hazard_class(2500.0, 0.004), hazard_class(500.0, None, 4.5)
    ('shock', 'lethal-stored')
    """
    if volts > STORED_VOLTS and joules >= STORED_JOULES:
        return CLASSES[4]
    if volts <= LOW:
        return CLASSES[0]
    if volts <= TOUCH:
        return CLASSES[1]
    if short_amps is not None and short_amps < LET_GO:
        return CLASSES[2]
    return CLASSES[3]
