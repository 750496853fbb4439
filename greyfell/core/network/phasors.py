"""A network by phasors: one hertz, iron and arcs by their fundamental (describing functions), lamps
at the ohms of their own amps. Diodes have no phasors: a network with one is for the timeline.
"""

import math
from collections.abc import Mapping, Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.errors import FieldError
from greyfell.core.network.nodal import Layout, solution
from greyfell.core.network.parts import EARTH, CircuitPart

Complex = NDArray[np.complex128]
ROUNDS, SAME = 200, 1e-6
"""Most rounds of looking at what bends, and where it no longer changes."""
BOLD, TIMID = 0.5, 0.2
"""How far each round goes towards what it found: in the first half of the rounds, and after."""
LEAST = 1e-12


class Phasors(Struct, frozen=True):
    """Volts of every node and amps of sources and ideal transformers, RMS and complex."""

    layout: Layout
    unknowns: Complex
    admittance: Mapping[str, complex]

    def volts(self, one: str, two: str = EARTH) -> complex:
        """Volts from one node to another."""
        return self._at(one) - self._at(two)

    def _at(self, node: str) -> complex:
        return 0j if node == EARTH else complex(self.unknowns[self.layout.nodes[node]])

    def amps(self, part: CircuitPart) -> complex:
        """Amps through a part from its first node to its second."""
        if part.own_branch:
            return complex(self.unknowns[self.layout.branches[part.name]])
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
    if not all(part.has_phasor for part in parts):
        raise FieldError("parts", "A rectifier has no phasors: it is solved in time.")
    grid = _Grid(parts, hertz)
    bent = {part.name: part.first_admittance(grid.omega) for part in grid.bending}
    found = grid.solve(bent)
    for n in range(ROUNDS):
        share = BOLD if n < ROUNDS // 2 else TIMID
        off = 0.0
        for part in grid.bending:
            volts, amps = abs(found.volts(part.one, part.two)), abs(found.amps(part))
            new, old = part.bent_admittance(grid.omega, volts, amps), bent[part.name]
            off = max(off, abs(new - old) / max(abs(old), LEAST))
            # towards the geometric mean: what overshoots comes back
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
    """A network at one frequency, with all that does not bend laid out."""

    def __init__(self, parts: Sequence[CircuitPart], hertz: float) -> None:
        self.layout, self.omega = Layout(parts), 2 * math.pi * hertz
        given = {part.name: part.admittance(self.omega) for part in parts}
        self.fixed = {name: y for name, y in given.items() if y is not None}
        self.base = self.layout.base(lambda part: given[part.name]).astype(complex)
        self.right = np.zeros(self.layout.size, dtype=complex)
        for part in self.layout.branching:
            self.right[self.layout.branches[part.name]] = part.driven_phasor(hertz)
        self.bending = [part for part in parts if part.bends_by_phasor]
        rows = [self.layout.across(part) for part in self.bending]
        self.squares = [np.outer(row, row) for row in rows]

    def solve(self, bent: Mapping[str, complex]) -> Phasors:
        """The network with what bends held at these admittances. Raises FieldError."""
        matrix = self.base.copy()
        for part, square in zip(self.bending, self.squares, strict=True):
            matrix += bent[part.name] * square
        unknowns = solution(matrix, self.right)
        return Phasors(self.layout, unknowns, {**self.fixed, **bent})
