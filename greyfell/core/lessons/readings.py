"""What an instrument on a hidden piece shows: an ordinary reading, or nothing where the hook-up
tells none.
"""

import math
from typing import Any

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import TEST_VOLTS
from greyfell.core.lessons.hookup import RANGES, TESTER, Hookup
from greyfell.core.simulated.hidden import Hidden

TURNS = 5
LAMP_WATTS = 60.0
INDUCTANCE_HERTZ = 100.0


def reading_of(hidden: Hidden, hookup: Hookup, taken: int) -> dict[str, Any] | None:
    """The reading of a hook-up as the record has it; None where it tells none. Raises FieldError
    where the piece cannot be read that way.
    """
    try:
        found = _live(hidden, hookup, taken) if hookup.powered else _dead(hidden, hookup, taken)
    except (ZeroDivisionError, ValueError) as error:
        raise FieldError("points", "Nothing comes of that hook-up.") from error
    if found is None or not _finite(found):
        return None
    found["id"] = f"r{taken + 1}"
    return found


TO_EARTH = {"volts": 1e7, "low-z": 3e3, "microamps": 2e3}
"""Instruments that read a floating winding to earth, and their ohms."""


def _to_earth(hidden: Hidden, h: Hookup, taken: int) -> dict[str, Any] | None:
    """Ghost volts or leakage of a lead of a winding that is not fed."""
    assert h.points is not None
    assert h.driven is not None
    lead = next((p for p in h.points if p != "earth"), "")
    own = [w for w in hidden.piece.windings if lead in {x for x, _ in w.leads}]
    if not own or own[0].name == hidden.piece.primary or lead == "core":
        return None
    bench, hertz = hidden.bench(taken), hidden.region.hertz
    if h.instrument == "microamps":
        return bench.leakage_current(lead, h.driven, h.volts, hertz)
    return bench.earth_voltage(lead, h.driven, h.volts, TO_EARTH[h.instrument], hertz)


def _finite(found: dict[str, Any]) -> bool:
    """Whether a meter would show every figure of it: an open winding passes no current."""
    return all(math.isfinite(v) for v in found.values() if isinstance(v, float))


def _dead(hidden: Hidden, h: Hookup, taken: int) -> dict[str, Any] | None:
    """A reading with nothing driving it."""
    bench, points = hidden.bench(taken), h.points
    if points is None:
        return None
    if set(points) == {"core", "earth"}:
        if h.instrument == "ohms":
            return bench.core_proof()
        return None
    if h.instrument == "ohms":
        return bench.ohms(*points, range_ohms=RANGES[h.range_key])
    if h.instrument == TESTER:
        return bench.insulation(*points, TEST_VOLTS)
    on_one = hidden.piece.locate(*points) is not None
    if h.instrument == "milliohm" and on_one:
        return bench.dc_drop(*points, 1.0)
    if h.instrument == "henries" and on_one:
        return bench.inductance(*points, INDUCTANCE_HERTZ)
    return None


def turns_read(hidden: Hidden, driven: tuple[str, str], volts: float, taken: int) -> dict[str, Any]:
    """Volts on a few turns of thin wire through the windows."""
    found = hidden.bench(taken).test_turn(driven, volts, TURNS, hidden.region.hertz)
    found["id"] = f"r{taken + 1}"
    return found


def polarity(
    hidden: Hidden, driven: tuple[str, str], other: tuple[str, str], volts: float, taken: int
) -> dict[str, Any]:
    """Two windings joined in series, the far ends read."""
    bench = hidden.bench(taken)
    spot, far = hidden.piece.locate(*driven), hidden.piece.locate(*other)
    if spot is None or far is None:
        raise FieldError("points", "Both pairs lie on a winding.")
    alike = (spot[2] > spot[1]) == (far[2] > far[1])
    found = bench.polarity(driven, volts, other, hidden.region.hertz, alike=alike)
    found["id"] = f"r{taken + 1}"
    return found


def _live(hidden: Hidden, h: Hookup, taken: int) -> dict[str, Any] | None:
    if h.driven is None:
        return None
    bench, points, hertz = hidden.bench(taken), h.points, hidden.region.hertz
    if h.instrument == "lamp" or (h.source == "lamp" and h.instrument == "none"):
        return bench.lamp(*h.driven, h.volts, LAMP_WATTS, hertz)
    if points is not None and "earth" in points and h.instrument in TO_EARTH:
        return _to_earth(hidden, h, taken)
    if h.instrument == "volts" and points is not None and set(points) != set(h.driven):
        return bench.ratio(h.driven, h.volts, points, hertz)
    if h.instrument in ("wattmeter", "clamp") and h.shorted is not None:
        return bench.short_circuit(h.driven, h.shorted, h.volts, hertz)
    if h.instrument in ("wattmeter", "clamp"):
        return bench.no_load(h.driven, h.volts, hertz, watts=h.instrument == "wattmeter")
    return None
