"""What a current to earth is told as."""

TOUCH_AMPS, DEADLY_AMPS = 0.25e-3, 3.5e-3
"""Touch current that a part without protective earth may have, and the most of any class. IEC
60990 and IEC 60335-1 cl. 13.2 (from memory)."""
LOOK_AMPS = 0.75e-3
"""Above this leakage a piece is turned down; from the touch current up to it, looked at. IEC
60335-1 cl. 13.2 (from memory)."""
GRADES = ("good", "look", "reject")


def grade_of(amps: float) -> str:
    """What a leakage current to earth is told as. A.

    >>> grade_of(0.2e-3), grade_of(0.5e-3), grade_of(0.8e-3)
    ('good', 'look', 'reject')
    """
    return GRADES[(amps > TOUCH_AMPS) + (amps > LOOK_AMPS)]
