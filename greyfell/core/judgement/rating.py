"""What volts a meter is made for."""

from greyfell.core.evidence.record import Meter

HAND_HELD_VOLTS = 1000.0
"""No hand-held meter is put on more, whatever its plate says: category and volts are two limits.
IEC 61010-2-033, from memory."""


def rating(meter: Meter) -> float | None:
    """The volts AC a meter is made for; None where its rating is unknown.

    >>> rating(Meter(id="M1", max_volts_ac=2500.0))
    1000.0
    """
    if meter.max_volts_ac is None:
        return None
    return min(meter.max_volts_ac, HAND_HELD_VOLTS)
