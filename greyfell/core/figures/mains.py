"""Mains of the world: its volts, its two regions, and which of them a figure belongs to."""

MAINS_VOLTS = (100.0, 110.0, 115.0, 120.0, 127.0, 200.0, 208.0, 220.0, 230.0, 240.0, 250.0)
"""Mains and tap voltages that plates carry: IEC 60038, ANSI C84.1 and older practice."""
HIGH_REGION_VOLTS = 180.0
"""Supplies above this are of the 220 to 240 V region, at or below it of the 100 to 127 V region:
no supply of IEC 60038 or ANSI C84.1 lies between 127 and 200 V."""
SUPPLIES = (
    (230.0, 50.0),
    (240.0, 50.0),
    (120.0, 60.0),
    (100.0, 50.0),
    (100.0, 60.0),
    (220.0, 50.0),
    (220.0, 60.0),
)
"""Volts and hertz offered for a new piece: IEC 60038, ANSI C84.1; Japan's 100 V at either hertz."""


def high_region(volts: float) -> bool:
    """Whether volts are of the 220 to 240 V region.

    >>> high_region(230.0), high_region(120.0)
    (True, False)
    """
    return volts > HIGH_REGION_VOLTS


def half_volts(supply_volts: float) -> float:
    """Volts on each of two like primary halves: in series on 230 V, in parallel on 120 V. IEC
    60038; common practice.

    >>> half_volts(230.0), half_volts(120.0)
    (115.0, 120.0)
    """
    return supply_volts / 2 if high_region(supply_volts) else supply_volts


def usual_hertz(volts: float) -> float:
    """The hertz of mains of these volts; the higher where both are met, since iron for that bears
    less. IEC 60038, ANSI C84.1.

    >>> usual_hertz(230.0), usual_hertz(400.0), usual_hertz(120.0), usual_hertz(480.0)
    (50.0, 50.0, 60.0, 60.0)
    """
    return 50.0 if 215.0 <= volts <= 250.0 or 370.0 <= volts <= 420.0 else 60.0
