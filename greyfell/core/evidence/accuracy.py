"""What a meter's reading may be worth: limits of error per reading, stated or by default.

Limits are rectangular (JCGM 100:2008 4.3.7, REF-Q-08): ± (percent of the value + digits in the
value's unit).
"""

import math
from collections.abc import Iterable, Mapping
from typing import Any

from msgspec import Struct

from greyfell.core.figures.constants import COPPER_PER_K, DAY_CELSIUS

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

    >>> from greyfell.core.evidence.kinds.core_proof import CoreProof
    >>> limit_parts(CoreProof(id="r1", ohms=2.0, percent=1.0, digits=0.1), "ohms")
    (0.02, 0.1)
    """
    percent, digits = _of_the_meter(reading, field)
    value = abs(float(getattr(reading, field)))
    if getattr(reading, "about", False):
        percent += ABOUT * value
    if field == reading.moves:
        ends = (reading.least, reading.most)
        digits += max((abs(value - x) for x in ends if x is not None), default=0.0)
    return percent, digits


ABOUT = 0.10
"""A figure read roughly: so much of it either way. Common practice."""


def _of_the_meter(reading: Any, field: str) -> tuple[float, float]:
    """The meter's own two parts, stated or by default."""
    value = abs(float(getattr(reading, field)))
    stated = (reading.accuracy or {}).get(field)
    if stated is not None:
        return stated.percent / 100 * value, float(stated.digits)
    percent = reading.usual_percent if reading.percent is None else reading.percent
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
        """The fewest ohms it may be, Ω."""
        return max(0.0, self.ohms - self.limit)

    @property
    def high(self) -> float:
        """The most ohms it may be, Ω."""
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
        if r.by_ohmmeter and not r.is_open and r.probe_ohms is None and r.ohms < 1.0:
            high = r.ohms + limit(r, "ohms")
            most[r.meter] = max(0.05, min(most.get(r.meter, PROBE_UNSTATED_OHMS[1]), high))
    return most


def ohms_of(reading: Any, probes: Mapping[str | None, float] | None = None) -> OhmReading:
    """Ohms of a reading that tells them: probe resistance subtracted, R = V/I. REF-Q-01, REF-Q-02.

    `probes` holds, per meter, the most that unmeasured probes can read (`unstated_probes`). Where
    the winding's temperature is written down the ohms are taken to 20 °C. REF-W-02.
    """
    found: OhmReading = reading.ohms_read(probes)
    warm = _warmth(reading)
    if warm == 1.0:
        return found
    return OhmReading(reading, found.ohms / warm, found.limit / warm, found.probes / warm)


def _warmth(reading: Any) -> float:
    """Copper's ohms at the temperature written down over those at 20 °C; one where none is."""
    celsius = getattr(reading, "celsius", None)
    return 1.0 if celsius is None else 1.0 + COPPER_PER_K * (celsius - DAY_CELSIUS)
