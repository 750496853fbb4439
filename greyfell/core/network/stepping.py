"""The matrices that carry a network over one step of time.

Between two bends of its parts a network is linear, so that a step is one matrix: what its
capacitors, inductors and iron hold, and what its sources give, go in; what they hold afterwards,
and the volts or flux at each part that bends, come out. The trapezoidal rule carries it over a
step; where a diode turns or a shunt saturates, two half steps of Euler's backward rule, which have
the same matrix, take its place and the next, or they would ring (critical damping adjustment; J. R.
Marti and J. Lin, IEEE Trans. Power Systems 4, 1989, from memory).
"""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.errors import FieldError
from greyfell.core.network.laws import Pieces, ShuntLaw
from greyfell.core.network.parts import (
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

Figures = NDArray[np.float64]
Where = tuple[int, ...]
"""The piece that each bending part is on."""


class Leap(Struct, frozen=True):
    """One step while every bending part stays on its piece: `matrix` takes what is held, the
    sources and 1 to the ports and to what is held afterwards; `solved` to the volts of every node
    and the amps of sources and ideal transformers.
    """

    matrix: Figures
    solved: Figures


STRIDE = 16
"""Steps of one stride."""


class Stride(Struct, frozen=True, kw_only=True):
    """STRIDE steps at once while every bending part stays on its piece: `ports` takes what is held,
    the sources at the end of each step and 1 to the ports after each step, (steps × ports, …);
    `held` to what is held after each, (steps × held, …). `linked[k]` carries what is held over k
    steps where nothing drives, (held, held).
    """

    ports: Figures
    held: Figures
    linked: Sequence[Figures]


class Stepping:
    """A network laid out for steps of `step` seconds; `ohms` of its filaments by name."""

    def __init__(self, parts: Sequence[CircuitPart], step: float, ohms: dict[str, float]) -> None:
        self.parts, self.step, self.ohms = tuple(parts), step, ohms
        names = {n for p in parts for n in _nodes(p)} - {EARTH}
        self.nodes = {name: k for k, name in enumerate(sorted(names))}
        self.sources = [p for p in parts if isinstance(p, Source)]
        self.sinks = [p for p in parts if isinstance(p, Sink)]
        self.ideals = [p for p in parts if isinstance(p, Ideal)]
        self.caps = [p for p in parts if isinstance(p, Capacitor)]
        self.coils = [p for p in parts if isinstance(p, Inductor)]
        self.irons = [p for p in parts if isinstance(p, CoreInductor)]
        self.bends: list[Diode | Arc] = [p for p in parts if isinstance(p, Diode | Arc)]
        self.branches = {p.name: len(self.nodes) + k for k, p in enumerate(self.branching)}
        self.size = len(self.nodes) + len(self.branching)
        self.pieces: list[Pieces] = [p.law.pieces for p in (*self.bends, *self.irons)]
        self.turning = len(self.bends)
        shunts = [isinstance(p.law, ShuntLaw) for p in self.irons]
        self.sharp = [True] * self.turning + shunts
        self.held = 2 * (len(self.caps) + len(self.coils) + len(self.irons))
        self.width = self.held + len(self.sources) + 1
        self._lay_out()
        self.known: dict[tuple[Where, bool], Leap] = {}
        self.strides: dict[Where, Stride] = {}

    @property
    def branching(self) -> tuple[Source | Ideal, ...]:
        """Parts whose amps are unknowns of their own."""
        return (*self.sources, *self.ideals)

    def across(self, part: CircuitPart) -> Figures:
        """The volts over a part, of the unknowns."""
        return self._between(part.one, part.two)

    def _between(self, one: str, two: str) -> Figures:
        out = np.zeros(self.size)
        if one != EARTH:
            out[self.nodes[one]] += 1.0
        if two != EARTH:
            out[self.nodes[two]] -= 1.0
        return out

    def conductance(self, part: CircuitPart) -> float:
        """Of a part that does not bend, over one step. S."""
        if isinstance(part, Resistor):
            return 1 / part.ohms
        if isinstance(part, Filament):
            return 1 / self.ohms[part.name]
        if isinstance(part, Capacitor):
            return 2 * part.farads / self.step
        if isinstance(part, Inductor):
            return self.step / (2 * part.henries)
        return 0.0

    def _lay_out(self) -> None:
        """Everything that no bend changes."""
        base = np.zeros((self.size, self.size))
        for part in self.parts:
            g = self.conductance(part)
            if g:
                e = self.across(part)
                base += g * np.outer(e, e)
        for p in self.branching:
            k, e = self.branches[p.name], self.across(p)
            base[k] += e
            base[: len(self.nodes), k] += e[: len(self.nodes)]
        for q in self.ideals:
            k, f = self.branches[q.name], self._between(q.three, q.four)
            base[k] -= q.ratio * f
            base[: len(self.nodes), k] -= q.ratio * f[: len(self.nodes)]
        self.base = base
        self.port_rows = [self.across(p) for p in (*self.bends, *self.irons)]
        self.stores = [*self.caps, *self.coils, *self.irons]
        self.rows = [self.across(p) for p in self.stores]

    def history(self, euler: bool) -> Figures:
        """What each store brings of its past into the step: amps of capacitors and inductors, flux
        of iron; of what is held.
        """
        out = np.zeros((len(self.stores), self.width))
        for k, part in enumerate(self.stores):
            main, other = 2 * k, 2 * k + 1
            if isinstance(part, Capacitor):
                out[k, main], out[k, other] = self.conductance(part), 0.0 if euler else 1.0
            elif isinstance(part, Inductor):
                out[k, main], out[k, other] = 1.0, 0.0 if euler else self.conductance(part)
            else:
                out[k, main], out[k, other] = 1.0, 0.0 if euler else self.step / 2
        return out

    def leap(self, where: Where, euler: bool) -> Leap:
        """The step for parts on these pieces. Raises FieldError where it has no solution."""
        found = self.known.get((where, euler))
        if found is None:
            found = self.known[where, euler] = self._made(where, euler)
        return found

    def stride(self, where: Where) -> Stride:
        """STRIDE steps for parts on these pieces. Raises FieldError where they have no solution."""
        found = self.strides.get(where)
        if found is None:
            found = self.strides[where] = self._composed(self.leap(where, False).matrix)
        return found

    def _composed(self, matrix: Figures) -> Stride:
        """One step's matrix, composed with itself: each step begins with what the last one left.

        With x held, u of the sources and c constant, x' = A x + B u + c: after k steps
        x = Aᵏ x₀ + Σ Aᵏ⁻¹⁻ⁱ (B uᵢ + c).
        """
        n, h, m = len(self.pieces), self.held, len(self.sources)
        width = h + STRIDE * m + 1
        linked = [np.eye(h)]
        for _ in range(STRIDE):
            linked.append(matrix[n:, :h] @ linked[-1])
        powers = np.array(linked)
        driven = powers[:-1] @ matrix[n:, h:]  # (steps, held, sources and 1), by how long ago
        held = np.zeros((STRIDE, h, width))
        held[:, :, :h] = powers[1:]
        held[:, :, -1] = driven[:, :, -1].cumsum(axis=0)
        for i in range(STRIDE):
            held[i:, :, h + i * m : h + (i + 1) * m] = driven[: STRIDE - i, :, :-1]
        before = np.concatenate([np.eye(h, width)[None], held[:-1]])
        ports = matrix[:n, :h] @ before
        ports[:, :, -1] += matrix[:n, -1]
        for i in range(STRIDE):
            ports[i, :, h + i * m : h + (i + 1) * m] += matrix[:n, h:-1]
        return Stride(ports=ports.reshape(-1, width), held=held.reshape(-1, width), linked=linked)

    def _made(self, where: Where, euler: bool) -> Leap:
        past = self.history(euler)
        matrix = self.base.copy()
        right = np.zeros((self.size, self.width))
        half, one = self.step / 2, self.width - 1
        for k, part in enumerate(self.stores):
            if isinstance(part, Capacitor):
                right += np.outer(self.rows[k], past[k])
            elif isinstance(part, Inductor):
                right -= np.outer(self.rows[k], past[k])
        first = len(self.stores) - len(self.irons)
        for n, (pieces, at, row) in enumerate(zip(self.pieces, where, self.port_rows, strict=True)):
            slope, intercept = pieces.slope[at], pieces.intercept[at]
            if n < self.turning:
                matrix += slope * np.outer(row, row)
            else:
                matrix += slope * half * np.outer(row, row)
                right -= slope * np.outer(row, past[first + n - self.turning])
            right[:, one] -= intercept * row
        for sink in self.sinks:
            right[:, one] -= sink.amps * self.across(sink)
        for k, source in enumerate(self.sources):
            right[self.branches[source.name], self.held + k] = 1.0
        try:
            solved = np.asarray(np.linalg.solve(matrix, right), dtype=float)
        except np.linalg.LinAlgError:
            raise FieldError("parts", NO_SOLUTION) from None
        return Leap(self._out(solved, past), solved)

    def _out(self, solved: Figures, past: Figures) -> Figures:
        """Ports, and what is held afterwards."""
        out = []
        first = len(self.stores) - len(self.irons)
        for n, row in enumerate(self.port_rows):
            volts = row @ solved
            if n < self.turning:
                out.append(volts)
            else:
                out.append(past[first + n - self.turning] + self.step / 2 * volts)
        for k, part in enumerate(self.stores):
            volts = self.rows[k] @ solved
            if isinstance(part, Capacitor):
                out += [volts, self.conductance(part) * volts - past[k]]
            elif isinstance(part, Inductor):
                out += [past[k] + self.conductance(part) * volts, volts]
            else:
                out += [past[k] + self.step / 2 * volts, volts]
        return np.array(out).reshape(len(out), self.width)

    def begun(self) -> Figures:
        """What is held before anything is switched on."""
        out = np.zeros(self.held)
        for k, part in enumerate(self.stores):
            if isinstance(part, Capacitor):
                out[2 * k] = part.volts
            elif isinstance(part, CoreInductor):
                out[2 * k] = part.flux
        return out

    def driven(self, times: Figures) -> Figures:
        """Volts of every source at each time, shape (times, sources)."""
        out = np.zeros((len(times), len(self.sources)))
        for k, s in enumerate(self.sources):
            turn = 2 * np.pi * s.hertz * times + s.angle
            out[:, k] = np.sqrt(2) * s.volts * np.sin(turn) + s.offset
        return out


def _nodes(part: CircuitPart) -> tuple[str, ...]:
    ideal = (part.three, part.four) if isinstance(part, Ideal) else ()
    return (part.one, part.two, *ideal)
