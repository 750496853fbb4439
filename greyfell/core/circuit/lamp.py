"""A filament lamp ahead of a winding whose iron may saturate, over the cycle: what flows, what the
lamp takes, and what stands on the winding, by whose turns every other winding follows.

A phasor does not do here: iron that saturates holds its flux, not its volts, and what is left are
short high peaks whose RMS may be twice the rated volts.
"""

import math
from collections.abc import Callable, Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.errors import within
from greyfell.core.figures.solve import crossing
from greyfell.core.network.curve import LAW, Curve

LAW_SPREAD = 0.05
"""Amps of a lamp against that law, ±. From memory."""
DARK_BELOW, BRIGHT_ABOVE = 0.02, 1 / 3
"""Shares of its rated watts: below it is dark, above bright, between dim. House rule."""
GLOWS = ("dark", "dim", "bright")
STEPS, ROUNDS = 96, 60
"""Instants of half a cycle, and the most steps of Newton's method."""
SAME, NEAR = 1e-3, 1e-5
"""It has arrived where volts and lamp stay within this share, flux within this of the rated."""
FARTHER, NUDGE = 1.5, 0.2
"""A step of Newton takes flux no farther than this times what it was, and a little."""
FARTHEST = 100.0
"""Flux is not looked for beyond so many times the rated."""
LEAST_AMPS, LEAST_OHMS = 1e-9, 1e-9
Figures = NDArray[np.float64]


class Behind(Struct, frozen=True, kw_only=True):
    """A winding behind a lamp: supply RMS, the lamp, the iron seen from the winding, its own ohms;
    `law` multiplies the lamp's amps.
    """

    supply_volts: float
    lamp_watts: float
    lamp_volts: float
    curve: Curve
    ohms: float = 0.0
    law: float = 1.0


class Lit(Struct, frozen=True):
    """The loop over a cycle: amps, lamp's volts, volts of the winding's turns, all RMS."""

    amps: float
    lamp_volts: float
    turns_volts: float

    @property
    def watts(self) -> float:
        """What the lamp takes, W. P = U·I, by definition.

        >>> Lit(0.1, 50.0, 223.0).watts
        5.0
        """
        return self.amps * self.lamp_volts


def lit(cases: Sequence[Behind]) -> list[Lit]:
    """Every loop in its steady state: dλ/dt = v − (R_lamp + R)·i(λ), the lamp's ohms by its RMS
    amps (a filament does not follow the cycle), half a cycle at a time until it repeats with its
    sign turned. REF-B-05, REF-M-11; trapezoidal rule. V, Ω, Hz to A, V.

    Raises FieldError where a supply, a lamp or a curve is not above nought.

    >>> oven = Curve(volts=230.0, hertz=50.0, amps=1.5, straight=0.3, power=9.0, watts=60.0)
    >>> one = Behind(supply_volts=230.0, lamp_watts=500.0, lamp_volts=230.0, curve=oven)
    >>> found = lit([one])[0]
    >>> round(found.watts / 500, 2)
    0.11
    """
    for c in cases:
        within("supply_volts", c.supply_volts, above=0, unit="V")
        within("lamp_watts", c.lamp_watts, above=0, unit="W")
        within("amps", c.curve.amps, above=0, unit="A")
    return _Loops(cases).run() if cases else []


class _Loops:
    """Several loops stepped side by side; every array has one entry a loop."""

    def __init__(self, cases: Sequence[Behind]) -> None:
        def column(of: Callable[[Behind], float]) -> Figures:
            return np.array([of(c) for c in cases], dtype=float)

        self.rated = column(lambda c: c.lamp_volts)
        self.lamp_amps = column(lambda c: c.law * c.lamp_watts / c.lamp_volts)
        self.ohms = column(lambda c: c.ohms)
        self.omega = 2 * math.pi * column(lambda c: c.curve.hertz)
        self.half = math.pi / self.omega / STEPS
        self.peak = math.sqrt(2) * column(lambda c: c.supply_volts)
        self.flux = math.sqrt(2) * column(lambda c: c.curve.volts) / self.omega
        self.amps = column(lambda c: c.curve.peak_amps)
        self.straight = column(lambda c: c.curve.straight)
        self.power = column(lambda c: c.curve.power)
        self.core = column(lambda c: c.curve.watts / c.curve.volts**2)

    def magnetising(self, x: Figures) -> tuple[Figures, Figures]:
        """Amps at a flux in rated peaks, and their slope over it. REF-M-11."""
        size = np.abs(x)
        steep = (1 - self.straight) * size ** (self.power - 1)
        amps = self.amps * x * (self.straight + steep)
        return amps, self.amps * (self.straight + self.power * steep)

    def run(self) -> list[Lit]:
        """Newton's method on all instants of half a cycle at once, the lamp's ohms following."""
        turn = np.linspace(0.0, math.pi, STEPS + 1)
        supply = self.peak * np.sin(turn)[:, None]
        x = -np.minimum(self.peak / self.flux / self.omega, 1.0) * np.cos(turn)[:, None]
        lamp = 0.5 * self.rated / self.lamp_amps
        amps = turns = last = np.zeros_like(lamp)
        for _ in range(ROUNDS):
            ohms = lamp + self.ohms
            x, off = self._better(x, supply, ohms)
            amps, turns = self._seen(x, supply, ohms)
            before, lamp = lamp, np.sqrt(lamp * self._hot(amps))
            same = np.abs(turns - last) < SAME * turns
            last = turns
            if off < NEAR and np.all(np.abs(lamp / before - 1) < SAME) and np.all(same):
                break
        return _told(amps, lamp, turns)

    def _hot(self, amps: Figures) -> Figures:
        """Ohms of the lamps at these amps, by the filament's law."""
        lamp_volts = self.rated * (amps / self.lamp_amps) ** (1 / LAW)
        return np.maximum(lamp_volts / amps, LEAST_OHMS)

    def _seen(self, x: Figures, supply: Figures, ohms: Figures) -> tuple[Figures, Figures]:
        """RMS amps of the loop and RMS volts of the turns at this flux. A, V."""
        magnetising, _ = self.magnetising(x)
        volts = (supply - ohms * magnetising) / (1 + ohms * self.core)
        amps = np.maximum(_rms(magnetising + volts * self.core), LEAST_AMPS)
        return amps, _rms(volts)

    def _better(self, x: Figures, supply: Figures, ohms: Figures) -> tuple[Figures, float]:
        """One step of Newton: the trapezoidal rule made linear about the flux so far, closed by the
        flux at the end being that at the start with its sign turned. Returns how far it moved.
        """
        share = 1 / (1 + ohms * self.core)
        reach = self.half / 2 / self.flux * share
        amps, slope = self.magnetising(x)
        bend = reach * ohms * slope
        push = reach * (supply - ohms * amps) + bend * x
        keeps, gains = (1 - bend[:-1]) / (1 + bend[1:]), (push[:-1] + push[1:]) / (1 + bend[1:])
        new = _closed(keeps, gains)
        farthest = np.minimum(FARTHER * np.abs(x) + NUDGE, self._farthest(ohms))
        new = np.minimum(np.maximum(new, -farthest), farthest)
        return new, float(np.abs(new - x).max())

    def _farthest(self, ohms: Figures) -> Figures:
        """Beyond this flux the iron would draw more than the supply's peak can push."""
        steep = self.amps * (1 - self.straight) * ohms
        return np.minimum((2 * self.peak / steep) ** (1 / self.power), FARTHEST)


def _rms(instants: Figures) -> Figures:
    """RMS over half a cycle of instants, its two ends counted half."""
    squares = instants**2
    whole = squares.sum(axis=0) - (squares[0] + squares[-1]) / 2
    return np.asarray(np.sqrt(whole / (len(instants) - 1)))


def glow_of(watts: float, rated: float) -> str:
    """How a lamp looks that takes so much of its watts. House rule.

    >>> glow_of(1.9, 100.0), glow_of(30.0, 100.0), glow_of(34.0, 100.0)
    ('dark', 'dim', 'bright')
    """
    share = watts / rated
    return GLOWS[(share >= DARK_BELOW) + (share > BRIGHT_ABOVE)]


def through(
    supply_volts: float, lamp_watts: float, lamp_volts: float, ohms: float, reactance: float = 0.0
) -> Lit:
    """A lamp ahead of a plain impedance, such as a winding with another shorted: the lamp's ohms at
    which the loop's phasors add up to the supply. REF-B-02, REF-B-05. V, W, Ω to A, V.

    >>> round(through(230.0, 100.0, 230.0, 0.0).watts)
    100
    """
    rated = lamp_watts / lamp_volts

    def amps_at(volts: float) -> float:
        return float(rated * (volts / lamp_volts) ** LAW)

    def over(volts: float) -> bool:
        amps = amps_at(volts)
        return math.hypot(volts + amps * ohms, amps * reactance) > supply_volts

    volts = crossing(over, 0.0, supply_volts).at
    amps = amps_at(volts)
    return Lit(amps, volts, amps * math.hypot(ohms, reactance))


def _told(amps: Figures, lamp_ohms: Figures, turns_volts: Figures) -> list[Lit]:
    each = zip(amps, lamp_ohms, turns_volts, strict=True)
    return [Lit(float(i), float(i * r), float(e)) for i, r, e in each]


def _closed(keeps: Figures, gains: Figures) -> Figures:
    # flux after each step: a share of that at the start and a rest; at the end the start's, turned
    share_of_start, rest = np.ones_like(keeps[0]), np.zeros_like(keeps[0])
    through = [(share_of_start, rest)]
    for k in range(STEPS):
        share_of_start, rest = share_of_start * keeps[k], rest * keeps[k] + gains[k]
        through.append((share_of_start, rest))
    start = -rest / (1 + share_of_start)
    return np.array([a * start + b for a, b in through])
