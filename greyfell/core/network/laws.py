"""Laws of parts that bend: iron by its flux, diodes and arcs by their volts; each as straight
pieces, which the solver in time walks along, and as an expression, which a netlist carries.
"""

import math
from functools import cached_property
from itertools import pairwise
from typing import ClassVar

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.figures.solve import crossing
from greyfell.core.network.curve import Curve

Figures = NDArray[np.float64]
AIR_SHARE = 0.015
"""Slope of saturated iron against its flux over its peak amps at rated volts, where no winding
height tells it: an oven primary's 5 mH in air against 0.35 H. REF-M-17; from memory."""
CHORD = 2e-3
"""A straight piece strays from the curve by no more than this share of the amps there."""
LEAST_CHORD = 2e-4
"""Nor is it held closer than this share of the peak amps at rated volts."""
MOST_PIECES = 400
LEAK = 1e-9
"""Conductance of a diode that blocks, and of an arc that is out, in S."""
FAR = math.inf


class Pieces(Struct, frozen=True):
    """A curve of straight pieces: y = intercept + slope·x between `low` and `high`."""

    low: tuple[float, ...]
    high: tuple[float, ...]
    slope: tuple[float, ...]
    intercept: tuple[float, ...]

    def at(self, x: float) -> int:
        """The piece that holds x."""
        for k, high in enumerate(self.high):
            if x <= high:
                return k
        return len(self.high) - 1

    def value(self, x: float) -> float:
        """y at x: amps at so many volts or Wb. The law of the part."""
        k = self.at(x)
        return self.intercept[k] + self.slope[k] * x


def _pieces(knots: list[tuple[float, float]], first: float, last: float) -> Pieces:
    """Straight pieces through knots, with slopes beyond both ends."""
    xs = [-FAR, *(x for x, _ in knots), FAR]
    slopes, intercepts = [first], [knots[0][1] - first * knots[0][0]]
    for (x0, y0), (x1, y1) in pairwise(knots):
        slope = (y1 - y0) / (x1 - x0)
        slopes.append(slope)
        intercepts.append(y0 - slope * x0)
    slopes.append(last)
    intercepts.append(knots[-1][1] - last * knots[-1][0])
    return Pieces(tuple(xs[:-1]), tuple(xs[1:]), tuple(slopes), tuple(intercepts))


def _odd(knots: list[tuple[float, float]], last: float) -> Pieces:
    """The same on both sides of nought; the knots begin above it."""
    mirrored = [(-x, -y) for x, y in reversed(knots)]
    return _pieces([*mirrored, *knots], last, last)


class CoreLaw(Struct, frozen=True, kw_only=True, dict=True):
    """Amps of iron by its flux linkage in Wb: i = peak·(straight·x + (1 − straight)·x^power), x the
    flux over `flux`; from where its slope is that of air, straight on. REF-M-11, REF-M-17.
    """

    flux: float
    peak_amps: float
    straight: float
    power: float
    air_henries: float

    sharp: ClassVar[bool] = False
    """Its knee is round."""

    @property
    def joint(self) -> float:
        """Flux as a share of `flux` where iron ends and air begins. REF-M-17."""
        steep = self.flux / (self.air_henries * self.peak_amps) - self.straight
        bend = (1 - self.straight) * self.power
        return float((max(steep, 0.0) / bend) ** (1 / (self.power - 1))) if bend else FAR

    def amps(self, x: float) -> float:
        """Amps at so many rated fluxes, on either side of nought. REF-M-17."""
        size = min(abs(x), self.joint)
        amps = self.peak_amps * (self.straight * size + (1 - self.straight) * size**self.power)
        amps += (abs(x) - size) * self.flux / self.air_henries
        return math.copysign(amps, x)

    def amps_along(self, fluxes: Figures) -> Figures:
        """Amps at each of these flux linkages, none below nought, Wb to A."""
        x = fluxes / self.flux
        size = np.minimum(x, self.joint)
        iron = self.peak_amps * (self.straight * size + (1 - self.straight) * size**self.power)
        return np.asarray(iron + (x - size) * self.flux / self.air_henries)

    @cached_property
    def pieces(self) -> Pieces:
        """By straight pieces, each as long as it may stray; one where nothing bends."""
        if self.joint in (0.0, FAR):
            slope = self.amps(1.0) / self.flux
            return _odd([(self.flux, self.amps(1.0))], slope)
        x = 0.0
        knots: list[tuple[float, float]] = []
        while x < self.joint and len(knots) < MOST_PIECES:
            x = min(self._next(x), self.joint)
            knots.append((x * self.flux, self.amps(x)))
        return _odd(knots, 1 / self.air_henries)

    def _next(self, x: float) -> float:
        """The farthest end of a chord from x that strays no more than it may."""

        def strays(end: float) -> bool:
            amps = self.amps((x + end) / 2)
            off = abs((self.amps(x) + self.amps(end)) / 2 - amps)
            return off > CHORD * amps + LEAST_CHORD * self.peak_amps

        return crossing(strays, x, max(1.5 * x, x + 1.0)).at

    def expression(self, flux: str) -> str:
        """The same for a netlist, of a node whose volts are the flux linkage."""
        size = f"min(abs({flux})/{self.flux:.9g},{min(self.joint, 1e9):.9g})"
        iron = f"{self.straight:.9g}*{size}+{1 - self.straight:.9g}*pwr({size},{self.power:.9g})"
        air = f"(abs({flux})-{self.flux:.9g}*{size})/{self.air_henries:.9g}"
        return f"sgn({flux})*({self.peak_amps:.9g}*({iron})+{air})"


def core_law(curve: Curve, air_henries: float | None = None) -> CoreLaw:
    """The law of a no-load curve; without a figure for its slope in air, the usual one. V, Hz, A
    to Wb, A, H. REF-M-01, REF-M-17.

    >>> law = core_law(Curve(volts=230.0, hertz=50.0, amps=1.5))
    >>> round(law.flux, 3), round(law.amps(1.0) / law.peak_amps, 3)
    (1.035, 1.0)
    """
    flux = math.sqrt(2) * curve.volts / (2 * math.pi * curve.hertz)
    usual = AIR_SHARE * flux / curve.peak_amps
    return CoreLaw(
        flux=flux,
        peak_amps=curve.peak_amps,
        straight=curve.straight,
        power=curve.power,
        air_henries=usual if air_henries is None else air_henries,
    )


class ShuntLaw(Struct, frozen=True, kw_only=True, dict=True):
    """Amps of a leakage path by its flux linkage: `henries` up to `flux`, beyond it `saturated`.
    V = 4.44·f·N·B·A of leakage volts is where it bends. REF-T-17.
    """

    flux: float
    henries: float
    saturated: float

    sharp: ClassVar[bool] = True
    """It turns in one corner."""

    def amps_along(self, fluxes: Figures) -> Figures:
        """Amps at each of these flux linkages, none below nought, Wb to A."""
        size = np.minimum(fluxes, self.flux)
        return np.asarray(size / self.henries + (fluxes - size) / self.saturated)

    @cached_property
    def pieces(self) -> Pieces:
        """Three straight pieces."""
        return _odd([(self.flux, self.flux / self.henries)], 1 / self.saturated)

    def expression(self, flux: str) -> str:
        """The same for a netlist."""
        size = f"min(abs({flux}),{self.flux:.9g})"
        iron = f"{size}/{self.henries:.9g}"
        return f"sgn({flux})*({iron}+(abs({flux})-{size})/{self.saturated:.9g})"


class DiodeLaw(Struct, frozen=True, kw_only=True, dict=True):
    """Amps by volts of diodes in a row: none below `volts`, above it over `ohms`."""

    volts: float
    ohms: float

    @cached_property
    def pieces(self) -> Pieces:
        """Two straight pieces."""
        return Pieces(
            low=(-FAR, self.volts),
            high=(self.volts, FAR),
            slope=(LEAK, 1 / self.ohms),
            intercept=(0.0, (LEAK - 1 / self.ohms) * self.volts),
        )


class ArcLaw(Struct, frozen=True, kw_only=True, dict=True):
    """Amps by volts of an arc: it holds `volts` against either sign, and `ohms` besides."""

    volts: float
    ohms: float

    @cached_property
    def pieces(self) -> Pieces:
        """Three straight pieces, the middle nearly shut."""
        return _odd([(self.volts, LEAK * self.volts)], 1 / self.ohms)

    def expression(self, volts: str) -> str:
        """The same for a netlist."""
        size = f"min(abs({volts}),{self.volts:.9g})"
        beyond = f"(abs({volts})-{size})/{self.ohms:.9g}"
        return f"sgn({volts})*({LEAK:.9g}*{size}+{beyond})"
