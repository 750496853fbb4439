"""What a meter's reading may be worth: limits of error per reading, stated or by default.

Limits are rectangular (JCGM 100:2008 4.3.7, REF-Q-08): ± (percent of the value + digits in the
value's unit).
"""

import math
from collections.abc import Iterable, Mapping
from typing import Any

from msgspec import Struct

from greyfell.core.figures.constants import COPPER_PER_K, DAY_CELSIUS

DEFAULT_PERCENT = {
    "resistance": 1.2,
    "dc_drop": 2.0,
    "insulation": 10.0,
    "inductance": 2.0,
    "ratio": 1.2,
    "no_load": 2.0,
    "test_turn": 1.5,
    "short_circuit": 2.0,
    "polarity": 1.5,
    "load": 2.0,
    "soak": 1.2,
    "direct": 1.0,
    "loop": 3.0,
    "path": 1.0,
}
"""Per cent of reading where the record states none: a pocket meter's usual limits, common
practice."""


DEFAULT_COUNTS = 3
"""Counts of the last figure written down, where the record states no digits: common practice for
pocket meters."""


PROBE_UNSTATED_OHMS = (0.0, 0.5)
"""What unmeasured probes and contacts add to a reading: common practice, 0 to 0.5 Ω."""


def limit(reading: Any, field: str) -> float:
    """Limits of error of one figure of a reading, ± in the figure's own unit."""
    return sum(limit_parts(reading, field))


def limit_parts(reading: Any, field: str) -> tuple[float, float]:
    """The two parts of a figure's limits in its own unit: per cent of the value, and digits. JCGM
    100:2008 4.3.7.

    >>> from greyfell.core.evidence.record import CoreProof
    >>> limit_parts(CoreProof(id="r1", ohms=2.0, percent=1.0, digits=0.1), "ohms")
    (0.02, 0.1)
    """
    percent, digits = _of_the_meter(reading, field)
    value = abs(float(getattr(reading, field)))
    if getattr(reading, "about", False):
        percent += ABOUT * value
    if field == MOVES.get(reading.kind):
        ends = (reading.least, reading.most)
        digits += max((abs(value - x) for x in ends if x is not None), default=0.0)
    return percent, digits


ABOUT = 0.10
"""A figure read roughly: so much of it either way. Common practice."""
MOVES = {
    "resistance": "ohms",
    "insulation": "ohms",
    "dc_drop": "volts",
    "inductance": "henries",
    "ratio": "sensed_volts",
    "no_load": "amps",
    "test_turn": "turn_volts",
    "short_circuit": "amps",
    "load": "load_volts",
    "direct": "direct_volts",
    "loop": "loop_amps",
    "path": "volts",
}
"""The figure of a kind that may move while it is read: `least` and `most` are its."""


def _of_the_meter(reading: Any, field: str) -> tuple[float, float]:
    """The meter's own two parts, stated or by default."""
    value = abs(float(getattr(reading, field)))
    stated = (reading.accuracy or {}).get(field)
    if stated is not None:
        return stated.percent / 100 * value, float(stated.digits)
    percent = (
        reading.percent if reading.percent is not None else DEFAULT_PERCENT.get(reading.kind, 2.0)
    )
    digits = reading.digits
    if digits is None:
        digits = DEFAULT_COUNTS * _told_to(reading, field, value)
    return percent / 100 * value, float(digits)


def _told_to(reading: Any, field: str, value: float) -> float:
    """The worth of the last figure: as it was typed; else by the number, and by the range that a
    3½-digit meter would have chosen, since a number loses its closing noughts. An ohmmeter's lowest
    range shows tenths.
    """
    typed = (getattr(reading, "typed", None) or {}).get(field)
    if typed is not None:
        return last_place(typed)
    step = resolution(value)
    if field in RANGED and 0 < value < 1:
        step = min(step, 10.0 ** (math.floor(math.log10(value)) - 1))
    return step


RANGED = frozenset({"volts", "amps", "sensed_volts", "driven_volts", "turn_volts", "load_amps"})
"""Figures of which a meter changes range below one, so that 0.1 A is read on a range of hundredths
at least. Definition of a display; common practice."""


def last_place(text: str) -> float:
    """The worth of the last figure of a number as it was typed. Definition of a display.

    >>> last_place("6.10"), last_place("230"), last_place("0.1")
    (0.01, 1.0, 0.1)
    """
    digits = "".join(c for c in text if c.isdigit() or c in ".,").replace(",", ".")
    return 10.0 ** -len(digits.partition(".")[2])


def resolution(value: float) -> float:
    """The worth of the last figure of a number as it was written: 84.2 → 0.1, 5562 → 1, 296100 →
    100.

    A JSON number loses its closing zeros, so no figure is taken for coarser than a 3½-digit display
    shows it (4.0 → 0.1). Definition of a display; common practice.

    >>> [resolution(x) for x in (84.2, 5562.0, 296100.0, 0.0002897, 4.0)]
    [0.1, 1.0, 100.0, 1e-07, 0.1]
    """
    if value == 0:
        return 0.1
    if not 1.0 <= abs(value) < 2000:
        return _written(value)
    display = 10.0 ** (math.floor(math.log10(abs(value))) - (2 if abs(value) >= 10 else 1))
    return min(display, _written(value))


def _written(value: float) -> float:
    text = f"{value:.10g}"
    mantissa, _, exponent = text.partition("e")
    decimals = len(mantissa.partition(".")[2])
    if decimals or exponent:
        return float(f"1e{int(exponent or 0) - decimals}")
    zeros = len(text) - len(text.rstrip("0"))
    return float(10 ** min(zeros, max(0, len(text) - 2)))


class OhmReading(Struct, frozen=True):
    """One ohms figure between two points: probes taken off, with limits. `ohms` is infinite for
    open, `probes` what was taken off.
    """

    reading: Any
    ohms: float
    limit: float
    probes: float = 0.0

    @property
    def low(self) -> float:
        return max(0.0, self.ohms - self.limit)

    @property
    def high(self) -> float:
        return max(self.ohms, 0.0) + self.limit

    @property
    def below_resolution(self) -> bool:
        """True where the reading cannot be told from the probes."""
        return self.ohms <= self.limit


def unstated_probes(readings: Iterable[Any]) -> dict[str | None, float]:
    """Per meter, the most its unmeasured probes can read: no pair of points can read less than the
    probes alone.
    """
    most: dict[str | None, float] = {}
    for r in readings:
        if r.kind == "resistance" and r.ohms != "open" and r.probe_ohms is None and r.ohms < 1.0:
            high = r.ohms + limit(r, "ohms")
            most[r.meter] = max(0.05, min(most.get(r.meter, PROBE_UNSTATED_OHMS[1]), high))
    return most


def ohms_of(reading: Any, probes: Mapping[str | None, float] | None = None) -> OhmReading:
    """Ohms of a resistance or dc_drop reading: probe resistance subtracted, R = V/I. REF-Q-01,
    REF-Q-02.

    `probes` holds, per meter, the most that unmeasured probes can read (`unstated_probes`). Where
    the winding's temperature is written down the ohms are taken to 20 °C. REF-W-02.
    """
    found = _ohms_as_read(reading, probes)
    warm = _warmth(reading)
    if warm == 1.0:
        return found
    return OhmReading(reading, found.ohms / warm, found.limit / warm, found.probes / warm)


def _warmth(reading: Any) -> float:
    """Copper's ohms at the temperature written down over those at 20 °C; one where none is."""
    celsius = getattr(reading, "celsius", None)
    return 1.0 if celsius is None else 1.0 + COPPER_PER_K * (celsius - DAY_CELSIUS)


def _ohms_as_read(reading: Any, probes: Mapping[str | None, float] | None) -> OhmReading:
    if reading.kind == "dc_drop":
        ohms = reading.volts / reading.amps
        relative = (
            limit(reading, "volts") / max(reading.volts, 1e-9)
            + limit(reading, "amps") / reading.amps
        )
        return OhmReading(reading, ohms, ohms * relative + 1e-4)
    if reading.ohms == "open":
        return OhmReading(reading, math.inf, 0.0)
    error = limit(reading, "ohms")
    if reading.probe_ohms is not None:
        return OhmReading(
            reading,
            reading.ohms - reading.probe_ohms,
            error + min(0.05, resolution(reading.probe_ohms)),
            reading.probe_ohms,
        )
    low, high = PROBE_UNSTATED_OHMS
    high = (probes or {}).get(reading.meter, high)
    off = (low + high) / 2
    return OhmReading(reading, reading.ohms - off, error + (high - low) / 2, off)
