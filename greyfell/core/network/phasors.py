"""A network by phasors: one hertz, iron and arcs by their fundamental (describing functions), lamps
at the ohms of their own amps. Diodes have no phasors: a network with one is for the timeline.
"""

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.errors import FieldError
from greyfell.core.network.curve import LAW
from greyfell.core.network.laws import CoreLaw, ShuntLaw
from greyfell.core.network.parts import (
    COLD_SHARE,
    EARTH,
    NO_SOLUTION,
    Arc,
    Capacitor,
    CircuitPart,
    CoreInductor,
    Diode,
    Filament,
    Ideal,
    Inductor,
    Resistor,
    Sink,
    Source,
)

Complex = NDArray[np.complex128]
ROUNDS, SAME = 200, 1e-6
"""Most rounds of looking at what bends, and where it no longer changes."""
ANGLES = np.sin((np.arange(48) + 0.5) * (math.pi / 2 / 48))
ARC_SHARE = 2 * math.sqrt(2) / math.pi
"""RMS of the fundamental of a square wave of 1 V."""
LEAST = 1e-12


class Phasors(Struct, frozen=True):
    """Volts of every node and amps of sources and ideal transformers, RMS and complex."""

    nodes: dict[str, int]
    branches: dict[str, int]
    unknowns: Complex
    admittance: dict[str, complex]

    def volts(self, one: str, two: str = EARTH) -> complex:
        """Volts from one node to another."""
        return self._at(one) - self._at(two)

    def _at(self, node: str) -> complex:
        return 0j if node == EARTH else complex(self.unknowns[self.nodes[node]])

    def amps(self, part: CircuitPart) -> complex:
        """Amps through a part from its first node to its second."""
        if part.name in self.branches:
            return complex(self.unknowns[self.branches[part.name]])
        return self.admittance[part.name] * self.volts(part.one, part.two)


def solved(parts: Sequence[CircuitPart], *, hertz: float) -> Phasors:
    """Every part's volts and amps RMS at one frequency; what bends is looked at again until it no
    longer changes. REF-B-02; describing functions of iron and arc.

    Raises FieldError where a diode stands in it, where it has no solution, or where it does not
    settle (iron and a capacitor that jump).

    >>> from greyfell.core.network.parts import Resistor, Inductor, Source
    >>> parts = [Source(name="V", one="a", volts=230.0, hertz=50.0),
    ...          Resistor(name="R", one="a", two="b", ohms=23.0),
    ...          Inductor(name="L", one="b", henries=39 / (2 * math.pi * 50.0))]
    >>> round(abs(solved(parts, hertz=50.0).amps(parts[1])), 3)
    5.08
    """
    if any(isinstance(p, Diode | Sink) for p in parts):
        raise FieldError("parts", "A rectifier has no phasors: it is solved in time.")
    grid = _Grid(parts, hertz)
    bent = {p.name: grid.first(p) for p in parts if isinstance(p, CoreInductor | Arc | Filament)}
    found = grid.solve(bent)
    for n in range(ROUNDS):
        off = 0.0
        for part in (p for p in parts if p.name in bent):
            new = grid.bent(part, found)
            old = bent[part.name]
            off = max(off, abs(new - old) / max(abs(old), LEAST))
            # towards the geometric mean: what overshoots comes back
            share = 0.5 if n < ROUNDS // 2 else 0.2
            bent[part.name] = _between(old, new, share)
        found = grid.solve(bent)
        if off < SAME:
            return found
    said = "By phasors it does not settle: iron and capacitor may jump. Solve it in time."
    raise FieldError("parts", said)


def _between(old: complex, new: complex, share: float) -> complex:
    """From one admittance towards another, in the logarithm of its size."""
    size = abs(old) ** (1 - share) * abs(new) ** share
    return size * new / abs(new) if abs(new) > LEAST else new


class _Grid:
    def __init__(self, parts: Sequence[CircuitPart], hertz: float) -> None:
        self.parts, self.omega = parts, 2 * math.pi * hertz
        names = {p.one for p in parts} | {p.two for p in parts}
        for p in parts:
            if isinstance(p, Ideal):
                names |= {p.three, p.four}
        self.nodes = {name: k for k, name in enumerate(sorted(names - {EARTH}))}
        branching = [p for p in parts if isinstance(p, Source | Ideal)]
        self.branches = {p.name: len(self.nodes) + k for k, p in enumerate(branching)}
        self.size = len(self.nodes) + len(branching)
        self.base, self.right = self._laid_out(hertz)

    def _row(self, one: str, two: str) -> NDArray[np.float64]:
        out = np.zeros(self.size)
        if one != EARTH:
            out[self.nodes[one]] += 1
        if two != EARTH:
            out[self.nodes[two]] -= 1
        return out

    def _laid_out(self, hertz: float) -> tuple[Complex, Complex]:
        base = np.zeros((self.size, self.size), dtype=complex)
        right = np.zeros(self.size, dtype=complex)
        self.fixed: dict[str, complex] = {}
        for p in self.parts:
            e = self._row(p.one, p.two)
            y = self._plain(p)
            if y is not None:
                self.fixed[p.name] = y
                base += y * np.outer(e, e)
            elif p.name in self.branches:
                k = self.branches[p.name]
                base[k] += e
                base[: len(self.nodes), k] += e[: len(self.nodes)]
                if isinstance(p, Ideal):
                    f = self._row(p.three, p.four)
                    base[k] -= p.ratio * f
                    base[: len(self.nodes), k] -= p.ratio * f[: len(self.nodes)]
                elif isinstance(p, Source):
                    same = abs(p.hertz - hertz) < 1e-9 * hertz
                    right[k] = p.volts * np.exp(1j * (p.angle - math.pi / 2)) if same else 0.0
        return base, right

    def _plain(self, part: CircuitPart) -> complex | None:
        """Admittance of a part that does not bend."""
        if isinstance(part, Resistor):
            return 1 / part.ohms + 0j
        if isinstance(part, Inductor):
            return complex(1 / (1j * self.omega * part.henries))
        if isinstance(part, Capacitor):
            return 1j * self.omega * part.farads
        return None

    def first(self, part: CircuitPart) -> complex:
        """Where looking at a bending part begins."""
        if isinstance(part, CoreInductor):
            return self._iron(part.law, 0.1 * part.law.flux)
        if isinstance(part, Filament):
            return part.amps / part.volts + 0j
        if isinstance(part, Arc):
            return 1 / (part.law.ohms + part.law.volts) + 0j
        raise TypeError(part.name)

    def bent(self, part: CircuitPart, found: Phasors) -> complex:
        """Admittance of a bending part at what stands over it."""
        volts = abs(found.volts(part.one, part.two))
        amps = abs(found.amps(part))
        if isinstance(part, CoreInductor):
            return self._iron(part.law, math.sqrt(2) * volts / self.omega)
        if isinstance(part, Filament):
            share = max(amps / part.amps, LEAST)
            hot = part.volts / part.amps
            return complex(1 / (hot * max(share ** (1 / LAW - 1), COLD_SHARE)))
        if isinstance(part, Arc):
            return 1 / (part.law.ohms + ARC_SHARE * part.law.volts / max(amps, LEAST)) + 0j
        raise TypeError(part.name)

    def _iron(self, law: CoreLaw | ShuntLaw, peak: float) -> complex:
        """Fundamental of the amps over that of the volts, at a peak of flux."""
        peak = max(peak, 1e-6 * law.flux)
        if isinstance(law, CoreLaw):
            size = np.minimum(peak / law.flux * ANGLES, law.joint)
            amps = law.peak_amps * (law.straight * size + (1 - law.straight) * size**law.power)
            amps = amps + (peak / law.flux * ANGLES - size) * law.flux / law.air_henries
        else:
            flux = peak * ANGLES
            size = np.minimum(flux, law.flux)
            amps = size / law.henries + (flux - size) / law.saturated
        fundamental = 2 * float(np.mean(amps * ANGLES))
        return complex(fundamental / (1j * self.omega * peak))

    def solve(self, bent: dict[str, complex]) -> Phasors:
        """The network with what bends held at these admittances. Raises FieldError."""
        matrix = self.base.copy()
        for part in self.parts:
            if part.name in bent:
                e = self._row(part.one, part.two)
                matrix += bent[part.name] * np.outer(e, e)
        try:
            unknowns = np.asarray(np.linalg.solve(matrix, self.right), dtype=complex)
        except np.linalg.LinAlgError:
            raise FieldError("parts", NO_SOLUTION) from None
        return Phasors(self.nodes, self.branches, unknowns, self.fixed | dict(bent))
