"""What volts are to a hand: the class of an output by volts, amps and what it stores."""

from greyfell.core.figures.limits import LIVE_VOLTS, TOUCH_VOLTS

LET_GO = 5e-3
"""Amps that every hand can let go of. IEC 60479-1."""
STORED_JOULES = ((100.0, 0.25), (0.0, 100.0))
"""Stored energy is a hazard from these volts on at so many joules. NFPA 70E art. 360 (2021, from
memory): below 100 V 100 J, from 100 V 1 J, from 400 V 0.25 J; its last step is taken from 100 V on
to be on the safe side."""
CLASSES = ("below-30", "touch", "shock", "lethal", "lethal-stored")


def hazard_class(volts: float, short_amps: float | None, joules: float = 0.0) -> str:
    """The class of an output by its open RMS volts at mains + 10 %, the amps it gives shorted
    (None where nothing limits them) and the energy it stores in J.

    >>> hazard_class(29.0, None), hazard_class(49.0, None), hazard_class(230.0, None)
    ('below-30', 'touch', 'lethal')
    >>> hazard_class(2500.0, 0.004), hazard_class(500.0, None, 4.5)
    ('shock', 'lethal-stored')
    """
    if volts >= STORED_JOULES[0][0] and stores_hazard(volts, joules):
        return CLASSES[4]
    if volts <= LIVE_VOLTS:
        return CLASSES[0]
    if volts <= TOUCH_VOLTS:
        return CLASSES[1]
    if short_amps is not None and short_amps < LET_GO:
        return CLASSES[2]
    return CLASSES[3]


def stored_limit(volts: float) -> float:
    """The joules from which what is held at so many volts is a hazard. NFPA 70E art. 360.

    >>> stored_limit(99.0), stored_limit(100.0)
    (100.0, 0.25)
    """
    return next(joules for least, joules in STORED_JOULES if volts >= least)


def stores_hazard(volts: float, joules: float) -> bool:
    """Whether a charge of so many joules at so many volts is a hazard by itself.

    >>> stores_hazard(309.0, 47.7), stores_hazard(35.0, 2.9)
    (True, False)
    """
    return joules >= stored_limit(max(volts, 0.0))
