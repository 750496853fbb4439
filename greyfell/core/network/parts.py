"""The parts a network is made of, and what each puts into it: by phasors, over a step of time, as
lines of a netlist. Nodes are names; "0" is earth. Parts whose law bends stand in `bending`.
"""

import math
import re
from collections.abc import Mapping
from typing import ClassVar, Protocol

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

EARTH = "0"
NO_SOLUTION = "This network has no solution: a part of it stands alone, or is a short circuit."
SAME_HERTZ = 1e-9
"""Two sources within this share are of one frequency."""
Figures = NDArray[np.float64]
Ohms = Mapping[str, float]
"""Ohms of filaments, by name."""


class InTime(Protocol):
    """A network solved in time, as a part looks at it."""

    @property
    def times(self) -> Figures:
        """Every instant, s."""

    def over(self, part: "CircuitPart") -> Figures:
        """Volts over a part at each."""

    def own_amps(self, part: "CircuitPart") -> Figures:
        """Amps of a part whose amps are an unknown of their own."""

    def held_by(self, part: "CircuitPart") -> tuple[Figures, Figures]:
        """The two things that a part holds, at each."""

    def conductance(self, part: "CircuitPart") -> float:
        """Of a part over one step. S."""


class CircuitPart(Struct, frozen=True, kw_only=True):
    """A part between two nodes; its amps count from `one` to `two`.

    A part that `holds` carries two figures from step to step; one that `bends` stands on a straight
    piece of its law; one with `own_branch` has its amps among the unknowns.
    """

    name: str
    one: str
    two: str = EARTH

    own_branch: ClassVar[bool] = False
    holds: ClassVar[bool] = False
    bends: ClassVar[bool] = False
    has_phasor: ClassVar[bool] = True
    """Whether one frequency tells what it does."""
    bends_by_phasor: ClassVar[bool] = False
    """Whether its admittance follows what stands over it."""

    @property
    def nodes(self) -> tuple[str, ...]:
        """Every node it touches."""
        return (self.one, self.two)

    @property
    def reflected(self) -> tuple[str, str, float] | None:
        """Of an ideal transformer: the other pair, and how many times its volts stand here."""
        return None

    # ------------------------------------------------------------------ by phasors

    def admittance(self, omega: float) -> complex | None:
        """Of a part that does not bend, at so many radians a second. S."""
        return None

    def first_admittance(self, omega: float) -> complex:
        """Where looking at a bending part begins. S."""
        raise NotImplementedError

    def bent_admittance(self, omega: float, volts: float, amps: float) -> complex:
        """Of a bending part, with so many volts and amps RMS. S."""
        raise NotImplementedError

    def driven_phasor(self, hertz: float) -> complex:
        """Volts RMS that it drives at one frequency."""
        return 0j

    # ------------------------------------------------------------------ over a step of time

    def conductance(self, step: float, ohms: Ohms) -> float:
        """Of a part that does not bend, over a step of so many seconds. S."""
        return 0.0

    @property
    def taken_amps(self) -> float:
        """Direct amps that it takes whatever stands over it."""
        return 0.0

    @property
    def begins(self) -> float:
        """What it holds before anything is switched on: volts of a capacitor, flux of iron."""
        return 0.0

    past_sign: ClassVar[float] = 0.0
    """Which way its past drives amps through it over a step; none where its law takes them in."""

    def history(self, step: float, euler: bool) -> tuple[float, float]:
        """What of the two figures that it holds it brings of its past into a step."""
        raise NotImplementedError

    def after(self, step: float, volts: Figures, past: Figures) -> tuple[Figures, Figures]:
        """The two figures that it holds after a step, of its volts at the end and its past."""
        raise NotImplementedError

    def amps_in(self, run: InTime) -> Figures:
        """Amps through it at each instant."""
        return run.over(self) * run.conductance(self)

    # ------------------------------------------------------------------ as a netlist

    def lines(self) -> list[str]:
        """Its lines of a netlist: V, A, Ω, H, F, Wb."""
        raise NotImplementedError

    def models(self) -> list[str]:
        """Models that its lines name."""
        return []


def safe(name: str) -> str:
    """A name as every circuit simulator takes it.

    >>> safe("lamp 1")
    'lamp_1'
    """
    return re.sub(r"[^0-9A-Za-z_]", "_", name)


def between(part: CircuitPart) -> str:
    """Its two nodes, as a netlist has them."""
    return f"{safe(part.one)} {safe(part.two)}"


class Source(CircuitPart, frozen=True, kw_only=True):
    """Sine volts RMS at `hertz`, begun at `angle` (radians), on `offset` volts."""

    volts: float
    hertz: float
    angle: float = 0.0
    offset: float = 0.0

    own_branch = True

    def driven_phasor(self, hertz: float) -> complex:
        """Its sine as a phasor; nothing at any other frequency."""
        same = abs(self.hertz - hertz) < SAME_HERTZ * hertz
        turn = complex(np.exp(1j * (self.angle - math.pi / 2)))
        return self.volts * turn if same else 0j

    def at(self, times: Figures) -> Figures:
        """Its volts at each instant, s to V."""
        turn = 2 * np.pi * self.hertz * times + self.angle
        return np.asarray(np.sqrt(2) * self.volts * np.sin(turn) + self.offset)

    def amps_in(self, run: InTime) -> Figures:
        """Amps by the unknown itself: out of its first node they count against it."""
        return run.own_amps(self)

    def lines(self) -> list[str]:
        """A sine on its offset."""
        peak, turn = 2**0.5 * self.volts, math.degrees(self.angle)
        sine = f"SIN({self.offset:g} {peak:.9g} {self.hertz:g} 0 0 {turn:.6g})"
        return [f"V{safe(self.name)} {between(self)} {sine}"]


class Sink(CircuitPart, frozen=True, kw_only=True):
    """A load that takes the same direct amps whatever stands over it."""

    amps: float

    has_phasor = False

    @property
    def taken_amps(self) -> float:
        """Its amps."""
        return self.amps

    def amps_in(self, run: InTime) -> Figures:
        """The same amps at each instant."""
        return np.full(len(run.times), self.amps)

    def lines(self) -> list[str]:
        """A source of amps."""
        return [f"I{safe(self.name)} {between(self)} {self.amps:.9g}"]


class Resistor(CircuitPart, frozen=True, kw_only=True):
    """Ohms."""

    ohms: float

    def admittance(self, omega: float) -> complex:
        """1/R at any frequency, S. Ohm's law."""
        return 1 / self.ohms + 0j

    def conductance(self, step: float, ohms: Ohms) -> float:
        """1/R over any step, S: Ω to S. Ohm's law."""
        return 1 / self.ohms

    def lines(self) -> list[str]:
        """Its ohms."""
        return [f"R{safe(self.name)} {between(self)} {self.ohms:.9g}"]


class Inductor(CircuitPart, frozen=True, kw_only=True):
    """Henries. It holds its amps, and its volts."""

    henries: float

    holds = True
    past_sign = -1.0

    def admittance(self, omega: float) -> complex:
        """1/jωL."""
        return complex(1 / (1j * omega * self.henries))

    def conductance(self, step: float, ohms: Ohms) -> float:
        """h/2L, by the trapezoidal rule."""
        return step / (2 * self.henries)

    def history(self, step: float, euler: bool) -> tuple[float, float]:
        """Its amps, and what its volts added to them."""
        return 1.0, 0.0 if euler else self.conductance(step, {})

    def after(self, step: float, volts: Figures, past: Figures) -> tuple[Figures, Figures]:
        """Its amps, then its volts."""
        return past + self.conductance(step, {}) * volts, volts

    def amps_in(self, run: InTime) -> Figures:
        """The amps that it holds first."""
        return run.held_by(self)[0]

    def lines(self) -> list[str]:
        """Its henries."""
        return [f"L{safe(self.name)} {between(self)} {self.henries:.9g}"]


class Capacitor(CircuitPart, frozen=True, kw_only=True):
    """Farads, and the volts that it begins with. It holds its volts, and its amps."""

    farads: float
    volts: float = 0.0

    holds = True
    past_sign = 1.0

    def admittance(self, omega: float) -> complex:
        """jωC."""
        return 1j * omega * self.farads

    def conductance(self, step: float, ohms: Ohms) -> float:
        """2C/h, by the trapezoidal rule."""
        return 2 * self.farads / step

    @property
    def begins(self) -> float:
        """Its volts."""
        return self.volts

    def history(self, step: float, euler: bool) -> tuple[float, float]:
        """What its volts would drive, and its amps."""
        return self.conductance(step, {}), 0.0 if euler else 1.0

    def after(self, step: float, volts: Figures, past: Figures) -> tuple[Figures, Figures]:
        """Its volts, then its amps."""
        return volts, self.conductance(step, {}) * volts - past

    def amps_in(self, run: InTime) -> Figures:
        """The amps that it holds second."""
        return run.held_by(self)[1]

    def lines(self) -> list[str]:
        """Its farads, and what it begins with."""
        return [f"C{safe(self.name)} {between(self)} {self.farads:.9g} IC={self.volts:.9g}"]


class Ideal(CircuitPart, frozen=True, kw_only=True):
    """An ideal transformer: volts from `one` to `two` are `ratio` times those from `three` to
    `four`.
    """

    three: str
    four: str
    ratio: float

    own_branch = True

    @property
    def nodes(self) -> tuple[str, ...]:
        """Both pairs."""
        return (self.one, self.two, self.three, self.four)

    @property
    def reflected(self) -> tuple[str, str, float]:
        """The other pair, and the ratio."""
        return self.three, self.four, self.ratio

    def amps_in(self, run: InTime) -> Figures:
        """Amps by the unknown itself."""
        return run.own_amps(self)

    def lines(self) -> list[str]:
        """Volts by volts, and amps by amps."""
        name, one, two = safe(self.name), safe(self.one), safe(self.two)
        three, four = safe(self.three), safe(self.four)
        return [
            f"E{name} {one} e_{name} {three} {four} {self.ratio:.9g}",
            f"Ve_{name} e_{name} {two} 0",
            f"F{name} {three} {four} Ve_{name} {-self.ratio:.9g}",
        ]
