"""Iron by its no-load current, and a lamp by its law: what circuits of plain parts bend by."""

import math

import numpy as np
from msgspec import Struct

LAW = 0.55
"""Amps of a tungsten lamp go by this power of its volts. REF-B-05, IES Lighting Handbook."""
_SINE = np.sin((np.arange(64) + 0.5) * (math.pi / 2 / 64))


class Curve(Struct, frozen=True, kw_only=True):
    """Iron by its no-load current: amps RMS at its rated volts and hertz, the share of their peak
    that is a straight line, and the power of flux of the rest; watts of the core at those volts.

    i(x) = peak·(straight·x + (1 − straight)·x^power), x the flux over its peak at the rated volts.
    REF-M-11, a straight foot and a steep power.
    """

    volts: float
    hertz: float
    amps: float
    straight: float = 0.3
    power: float = 11.0
    watts: float = 0.0

    @property
    def peak_amps(self) -> float:
        """Peak of the magnetising amps at the rated volts. REF-M-11.

        >>> iron = Curve(volts=230.0, hertz=50.0, amps=1.4, straight=0.3, power=11.0, watts=60.0)
        >>> round(iron.peak_amps, 2)
        2.97
        """
        shape = self.straight * _SINE + (1 - self.straight) * _SINE**self.power
        return self.amps / math.sqrt(float(np.mean(shape**2)))

    def amps_at(self, volts: float) -> float:
        """Amps RMS on sine volts, magnetising and core loss at right angles. REF-T-01.

        >>> ring = Curve(volts=230.0, hertz=50.0, amps=0.02)
        >>> round(ring.amps_at(230.0), 3), round(ring.amps_at(276.0) / ring.amps_at(230.0), 1)
        (0.02, 5.0)
        """
        x = volts / self.volts * _SINE
        shape = self.straight * x + (1 - self.straight) * x**self.power
        magnetising = self.peak_amps * math.sqrt(float(np.mean(shape**2)))
        return math.hypot(magnetising, self.watts * volts / self.volts**2)

    def seen_from(self, ratio: float) -> "Curve":
        """The same iron seen from a winding of so many times the turns. REF-T-03."""
        return Curve(
            volts=self.volts * ratio,
            hertz=self.hertz,
            amps=self.amps / ratio,
            straight=self.straight,
            power=self.power,
            watts=self.watts,
        )
