"""The meter in hand beside the jotter: its dial, set once, seen at every reading, and not noted any
more with another meter, or ten minutes after it was last read by; what its probes read shorted.
"""

import time
from typing import Any

from flask import session

from greyfell.core.errors import FieldError
from greyfell.core.evidence.jotter import DIALS
from greyfell.core.figures.notation import engineering

STANDS_SECONDS = 600.0
"""So long a dial is taken to stand as it was set. House rule."""
ZERO_SECONDS = 12 * 3600.0
"""A probe zero stands for a day's work. House rule."""
CHOICES = tuple((f"{d:g}", engineering(d, "Ω", 1)) for d in DIALS)
"""What the dial may be set to, with its words."""


def asked(given: str) -> float | None:
    """The dial as a form gives it; None where it is not noted. Raises FieldError naming `dial`."""
    if not given:
        return None
    found = next((d for d in DIALS if f"{d:g}" == given), None)
    if found is None:
        raise FieldError("dial", "The dial stands at none of the ranges it has.")
    return found


def zeroed(meter: str, ohms: float) -> None:
    """Remember what the probes of a meter read shorted."""
    session["zero"] = [meter, ohms, int(time.time())]


def zero(meter: str) -> float | None:
    """What this meter's probes read shorted, where it was read today with it."""
    kept = session.get("zero")
    if not kept or kept[0] != meter or abs(time.time() - kept[2]) > ZERO_SECONDS:
        return None
    return float(kept[1])


def set_to(meter: str, dial: float | None) -> None:
    """Remember how the meter's dial stands, and that it was read by now."""
    session["meter"] = meter
    session["dial"] = "" if dial is None else f"{dial:g}"
    session["dial at"] = int(time.time())


def standing(meters: list[Any]) -> dict[str, str]:
    """The meter in hand and its dial, as the jotter shows them: the dial is not noted once it is
    too long ago, or the meter is none of this piece's.
    """
    meter = session.get("meter", "")
    ours = meter in {m.id for m in meters} or not meters
    since = abs(time.time() - session.get("dial at", 0))
    stands = ours and since < STANDS_SECONDS
    return {"meter": meter if ours else "", "dial": session.get("dial", "") if stands else ""}
