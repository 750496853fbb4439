"""Parts whose law bends: iron, diodes, arcs, lamps; what each puts into a network."""

import math
from typing import ClassVar

import numpy as np

from greyfell.core.network.curve import LAW
from greyfell.core.network.laws import LEAK, ArcLaw, CoreLaw, DiodeLaw, Pieces, ShuntLaw
from greyfell.core.network.parts import EARTH, CircuitPart, Figures, InTime, Ohms, between, safe

COLD_SHARE = 1 / 14
"""Ohms of a cold filament over its hot ones. REF-B-06."""
LEAST = 1e-12
"""Keeps shares finite where nothing flows."""
FIRST_FLUX = 0.1
"""Iron is first looked at on this share of its rated flux."""
LEAST_FLUX = 1e-6
"""And never below this share."""
ANGLES = np.sin((np.arange(48) + 0.5) * (math.pi / 2 / 48))
"""A quarter of a sine."""
ARC_SHARE = 2 * math.sqrt(2) / math.pi
"""RMS of the fundamental of a square wave of 1 V."""
DIODE_IS = 1e-9
"""Saturation amps of a diode of a netlist."""
SHARPNESS, SHARPEST, BLUNTEST = 0.1, 0.05, 2.0
"""A diode of the netlist turns within a few hundredths of its drop, by its emission coefficient;
the rest of the drop stands in a source beside it.
"""
THERMAL_VOLTS = 0.025852
LN_HUNDRED_MILLIAMPS = 18.4
"""ln(0.1 A / IS): what is left of the drop at a tenth of an ampere is taken off the source."""
LAG_SECONDS = 0.1
"""Lag of a filament behind the square of its amps; common practice."""
UNREAL = 1e12
"""Ohms that give a flux node its way to earth."""


class BendingPart(CircuitPart, frozen=True, kw_only=True):
    """A part on a straight piece of its law: its port is its volts, or the flux that it holds."""

    bends: ClassVar[bool] = True

    @property
    def pieces(self) -> Pieces:
        """Its law."""
        raise NotImplementedError

    @property
    def sharp(self) -> bool:
        """Whether its law turns within one step."""
        return True

    def port_scale(self, step: float) -> float:
        """Its port over its volts at the end of a step."""
        return 1.0

    def amps_in(self, run: InTime) -> Figures:
        """Its amps by its law, at its volts: V to A."""
        return along(self.pieces, run.over(self))


def along(pieces: Pieces, x: Figures) -> Figures:
    """A law's amps at each of its volts, or fluxes."""
    at = np.searchsorted(np.array(pieces.high[:-1]), x, side="left")
    return np.asarray(np.array(pieces.intercept)[at] + np.array(pieces.slope)[at] * x)


class CoreInductor(BendingPart, frozen=True, kw_only=True):
    """A winding on iron, without its ohms: amps by flux linkage; `flux` is what it begins with. It
    holds its flux, and its volts.
    """

    law: CoreLaw | ShuntLaw
    flux: float = 0.0

    holds = True
    bends_by_phasor = True

    @property
    def pieces(self) -> Pieces:
        """Amps by flux."""
        return self.law.pieces

    @property
    def sharp(self) -> bool:
        """A shunt's law has one corner; iron's is round."""
        return self.law.sharp

    @property
    def begins(self) -> float:
        """Its flux linkage, Wb."""
        return self.flux

    def _fundamental(self, omega: float, peak: float) -> complex:
        """Fundamental of the amps over that of the volts, at a peak of flux. Describing function of
        its law.
        """
        peak = max(peak, LEAST_FLUX * self.law.flux)
        fundamental = 2 * float(np.mean(self.law.amps_along(peak * ANGLES) * ANGLES))
        return complex(fundamental / (1j * omega * peak))

    def first_admittance(self, omega: float) -> complex:
        """At a tenth of its rated flux."""
        return self._fundamental(omega, FIRST_FLUX * self.law.flux)

    def bent_admittance(self, omega: float, volts: float, amps: float) -> complex:
        """At the flux of its volts: √2·V/ω."""
        return self._fundamental(omega, math.sqrt(2) * volts / omega)

    def port_scale(self, step: float) -> float:
        """Half a step of its volts is what its flux gains by them."""
        return step / 2

    def history(self, step: float, euler: bool) -> tuple[float, float]:
        """Its flux, and what its volts added to it."""
        return 1.0, 0.0 if euler else step / 2

    def after(self, step: float, volts: Figures, past: Figures) -> tuple[Figures, Figures]:
        """Its flux, then its volts."""
        return past + step / 2 * volts, volts

    def amps_in(self, run: InTime) -> Figures:
        """Its amps by its law, at its flux: Wb to A."""
        return along(self.pieces, run.held_by(self)[0])

    def lines(self) -> list[str]:
        """Its flux as the volts of a node of its own."""
        name, one, two = safe(self.name), safe(self.one), safe(self.two)
        return [
            f"B{name} {between(self)} I={self.law.expression(f'V(flux_{name})')}",
            f"Bf_{name} {EARTH} flux_{name} I=V({one},{two})",
            f"Cf_{name} flux_{name} {EARTH} 1 IC={self.flux:.9g}",
            f"Rf_{name} flux_{name} {EARTH} {UNREAL:g}",
        ]


class Diode(BendingPart, frozen=True, kw_only=True):
    """Diodes in a row, from anode `one` to cathode `two`."""

    law: DiodeLaw

    has_phasor = False

    @property
    def pieces(self) -> Pieces:
        """Amps by volts."""
        return self.law.pieces

    @property
    def emission(self) -> float:
        """Its emission coefficient in a netlist. Shockley's law."""
        return min(max(SHARPNESS * self.law.volts, SHARPEST), BLUNTEST)

    @property
    def _model(self) -> str:
        return f"turn{round(1000 * self.emission)}"

    def lines(self) -> list[str]:
        """A diode of its sharpness, the rest of its drop, its ohms, its leak."""
        name, one, two = safe(self.name), safe(self.one), safe(self.two)
        left = self.emission * THERMAL_VOLTS * LN_HUNDRED_MILLIAMPS
        return [
            f"D{name} {one} d_{name} {self._model}",
            f"Vd_{name} d_{name} r_{name} {self.law.volts - left:.9g}",
            f"Rd_{name} r_{name} {two} {self.law.ohms:.9g}",
            f"Rl_{name} {one} {two} {1 / LEAK:.9g}",
        ]

    def models(self) -> list[str]:
        """The model of its sharpness."""
        return [f".model {self._model} D(IS={DIODE_IS:g} N={self.emission:g})"]


class Arc(BendingPart, frozen=True, kw_only=True):
    """An arc, or a tube: it holds its volts."""

    law: ArcLaw

    bends_by_phasor = True

    @property
    def pieces(self) -> Pieces:
        """Amps by volts."""
        return self.law.pieces

    def first_admittance(self, omega: float) -> complex:
        """At one ampere."""
        return 1 / (self.law.ohms + self.law.volts) + 0j

    def bent_admittance(self, omega: float, volts: float, amps: float) -> complex:
        """The fundamental of its square volts over its amps, its ohms besides."""
        return 1 / (self.law.ohms + ARC_SHARE * self.law.volts / max(amps, LEAST)) + 0j

    def lines(self) -> list[str]:
        """Amps by its law."""
        across = f"V({safe(self.one)},{safe(self.two)})"
        return [f"B{safe(self.name)} {between(self)} I={self.law.expression(across)}"]


class Filament(CircuitPart, frozen=True, kw_only=True):
    """A lamp: rated watts and volts; its ohms follow its amps over many cycles. REF-B-05."""

    watts: float
    volts: float

    bends_by_phasor = True

    @property
    def amps(self) -> float:
        """Its rated amps. P = U·I, by definition."""
        return self.watts / self.volts

    @property
    def hot_ohms(self) -> float:
        """Its ohms at rated volts. Ohm's law."""
        return self.volts / self.amps

    def ohms_at(self, amps: float) -> float:
        """Its ohms at so many amps RMS: R ∝ I^(1/n − 1), never below the cold ones. REF-B-05,
        REF-B-06.

        >>> lamp = Filament(name="L", one="a", watts=100.0, volts=230.0)
        >>> round(lamp.ohms_at(lamp.amps)), round(lamp.ohms_at(0.0))
        (529, 38)
        """
        share = max(amps / self.amps, LEAST)
        return float(self.hot_ohms * max(share ** (1 / LAW - 1), COLD_SHARE))

    def first_admittance(self, omega: float) -> complex:
        """Hot."""
        return 1 / self.hot_ohms + 0j

    def bent_admittance(self, omega: float, volts: float, amps: float) -> complex:
        """At its amps."""
        return 1 / self.ohms_at(amps) + 0j

    def conductance(self, step: float, ohms: Ohms) -> float:
        """At the ohms it has over these cycles. Ohm's law."""
        return 1 / ohms[self.name]

    def lines(self) -> list[str]:
        """Its ohms by the mean square of its amps, which lags. REF-B-05."""
        name, one, two = safe(self.name), safe(self.one), safe(self.two)
        square = f"(abs(V(q_{name}))+1e-9)/{self.amps**2:.9g}"
        ohms = f"{self.hot_ohms:.9g}*pwr({square},{0.5 * (1 / LAW - 1):.9g})"
        return [
            f"B{name} {one} l_{name} V=I(Vl_{name})*{ohms}",
            f"Vl_{name} l_{name} {two} 0",
            f"Bq_{name} {EARTH} q_{name} I=I(Vl_{name})*I(Vl_{name})*{1 / LAG_SECONDS:g}",
            f"Cq_{name} q_{name} {EARTH} 1 IC={self.amps**2:.9g}",
            f"Rq_{name} q_{name} {EARTH} {LAG_SECONDS:g}",
        ]
