"""The forward model: a physical description of a transformer, and what each test would truly show
on it.

Independent of how identification reasons: windings are wire on iron, direct current flows through a
network of segments, flux follows volts per hertz, permeability follows flux. Instruments and their
errors are `simulate`'s.

Symbols. B peak flux density T, v volts per turn, A net iron area m², l flux path m, g total gap m,
μr relative permeability, p loss W/kg. Sources: REF-M-01 (4.44 f N B A), M-10 (gap), M-11 (H(B)),
M-12 (magnetising current), M-18 (loss), W-02 (ohms), T-17 in spirit (shunt path); see
docs/references.md.
"""

import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.errors import FieldError, within
from greyfell.core.figures.constants import COPPER_OHM_M, MU0

_THETA = (np.arange(64) + 0.5) * (math.pi / 2 / 64)


_SINE = np.sin(_THETA)


class Steel(Struct, frozen=True, kw_only=True):
    """A sheet's field strength above 0.7 T: H = straight·B + steep·B^power, A/m for T. REF-M-11."""

    straight: float
    steep: float
    power: float

    def field_strength(self, tesla: NDArray[np.float64]) -> NDArray[np.float64]:
        """H in A/m for B in T."""
        return self.straight * tesla + self.steep * tesla**self.power


PLAIN = Steel(straight=110.0, steep=12.0, power=12.0)
"""Cheap sheet, stacked. REF-M-11."""
ORIENTED = Steel(straight=14.0, steep=0.135, power=14.0)
"""Grain-oriented strip along its grain: some 28 A/m RMS at 1.4 T, 1.85 T at 800 A/m. Common
practice; EN 10107 guarantees the latter (from memory)."""


class Iron(Struct, frozen=True, kw_only=True):
    """The core: net area m², flux path m, total gap m, mass kg, sheet (its curve, loss at 1.5 T
    50 Hz W/kg, initial μr).
    """

    shape: str
    area_m2: float
    path_m: float
    gap_m: float
    mass_kg: float
    loss_w_per_kg: float = 5.3
    mu_initial: float = 1100.0
    softness: float = 1.0
    steel: Steel = PLAIN

    def __post_init__(self) -> None:
        for name in ("area_m2", "path_m", "mass_kg", "loss_w_per_kg", "mu_initial"):
            within(name, getattr(self, name), above=0)
        within("gap_m", self.gap_m, at_least=0)

    def field_strength(self, tesla: NDArray[np.float64]) -> NDArray[np.float64]:
        """H in A/m for B in T: REF-M-11 above 0.7 T; below it permeability rises from its initial
        value about like √B.

        Measured curves of silicon steel rise so from a millitesla on, steeper than Rayleigh's
        straight line. From memory.
        """
        b = np.abs(tesla)
        upper = self.softness * self.steel.field_strength(b)
        knee = self.softness * float(self.steel.field_strength(np.array(0.7)))
        mu_knee = 0.7 / (MU0 * knee)
        mu = self.mu_initial + (mu_knee - self.mu_initial) * np.sqrt(np.minimum(b, 0.7) / 0.7)
        return np.where(b < 0.7, b / (MU0 * mu), upper)

    def permeability(self, tesla: float) -> float:
        """Effective μr at a sine flux of peak B: B over the fundamental of μ0·H. By definition."""
        b = max(tesla, 1e-6)
        h = self.field_strength(b * _SINE)
        fundamental = 2 * float(np.mean(h * _SINE))
        return b / (MU0 * fundamental)


class Wound(Struct, frozen=True, kw_only=True):
    """One winding: its leads at fractions of the turns from 0 to 1 ("core" allowed), turns, bare
    wire, mean turn.
    """

    name: str
    role: str
    leads: tuple[tuple[str, float], ...]
    turns: float
    wire_mm: float
    mean_turn_m: float
    growth: float = 0.06
    shunted: bool = False
    rated_amps: float | None = None
    stray_farads: float = 50e-12

    @property
    def ohms(self) -> float:
        """DC ohms at 20 °C end to end. REF-W-02."""
        return (
            COPPER_OHM_M
            * self.turns
            * self.mean_turn_m
            / (math.pi / 4 * (self.wire_mm * 1e-3) ** 2)
        )

    def ohms_at(self, fraction: float) -> float:
        """Ohms from the first end to a fraction of the turns: outer turns are longer, so it bends.
        REF-M-14.
        """
        return self.ohms * (fraction + self.growth * (fraction * fraction - fraction))


class Damage(Struct, frozen=True, kw_only=True):
    """One fault: kind `open`, `shorted-turns`, `to-core`, `between`, `leak`; where, and through how
    many ohms.
    """

    kind: str
    winding: str
    other: str = "core"
    place: float = 0.5
    other_place: float = 0.5
    ohms: float = 0.0
    turns: float = 0.0


class Joined(Struct, frozen=True, kw_only=True):
    """A capacitor or filter still on two points: farads, and the ohms of its bleeder."""

    between: tuple[str, str]
    farads: float
    ohms: float = math.inf

    def __post_init__(self) -> None:
        within("farads", self.farads, above=0)
        if not math.isinf(self.ohms):
            within("ohms", self.ohms, above=0)


class Piece(Struct, frozen=True, kw_only=True):
    """A transformer as it is: iron, windings, coupling of the shunted ones at rated flux, damage,
    leads on the core, what is still attached.
    """

    family: str
    subtype: str
    iron: Iron
    windings: tuple[Wound, ...]
    rated_volts: float
    rated_hertz: float
    coupling: float = 1.0
    leakage_ohms: float = 0.0
    damage: tuple[Damage, ...] = ()
    attached: tuple[Joined, ...] = ()
    core_leads: tuple[str, ...] = ()
    loose_leads: tuple[str, ...] = ()
    primary: str = "primary"
    rated_va: float | None = None
    low_flux: float | None = None

    def winding(self, name: str) -> Wound:
        """The winding of that name. Raises FieldError where there is none."""
        for w in self.windings:
            if w.name == name:
                return w
        raise FieldError("winding", f"This piece has no winding {name}.")

    def farads_across(self, x: str, y: str) -> float:
        """Capacitance still attached between two points, F."""
        return sum(a.farads for a in self.attached if set(a.between) == {x, y})

    def locate(self, x: str, y: str) -> tuple[Wound, float, float] | None:
        """The winding that a pair of points spans, and both points' fractions of its turns."""
        core = {"core", "earth", *self.core_leads}
        x, y = ("core" if p in core else p for p in (x, y))
        for w in self.windings:
            at = {("core" if lead in core else lead): f for lead, f in w.leads}
            if x in at and y in at and x != y:
                return w, at[x], at[y]
        return None
