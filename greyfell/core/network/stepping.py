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

from greyfell.core.network.bending import BendingPart
from greyfell.core.network.nodal import Layout, solution
from greyfell.core.network.parts import CircuitPart, Figures, Ohms, Source

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
    """A network laid out for steps of `step` seconds; `ohms` of its filaments by name.

    `stores` are the parts that hold something, iron last; `ports` those that bend, iron last.
    """

    def __init__(self, parts: Sequence[CircuitPart], step: float, ohms: Ohms) -> None:
        self.parts, self.step, self.ohms = tuple(parts), step, ohms
        self.layout = Layout(parts)
        self.size = self.layout.size
        self.sources = [part for part in self.layout.branching if isinstance(part, Source)]
        self.stores = sorted((p for p in parts if p.holds), key=lambda part: part.bends)
        bending = (p for p in parts if isinstance(p, BendingPart))
        self.ports = sorted(bending, key=lambda part: part.holds)
        self.place = {part.name: k for k, part in enumerate(self.stores)}
        self.pieces = [part.pieces for part in self.ports]
        self.sharp = [part.sharp for part in self.ports]
        self.scales = [part.port_scale(step) for part in self.ports]
        self.past_of = [self.place.get(part.name) for part in self.ports]
        self.held = 2 * len(self.stores)
        self.width = self.held + len(self.sources) + 1
        self.base = self.layout.base(self.conductance)
        self.port_rows = [self.layout.across(part) for part in self.ports]
        self.rows = [self.layout.across(part) for part in self.stores]
        taking = (part.taken_amps * self.layout.across(part) for part in self.parts)
        self.taken: Figures = sum(taking, np.zeros(self.size))
        self.known: dict[tuple[Where, bool], Leap] = {}
        self.strides: dict[Where, Stride] = {}

    def conductance(self, part: CircuitPart) -> float:
        """Of a part that does not bend, over one step. S."""
        return part.conductance(self.step, self.ohms)

    def history(self, euler: bool) -> Figures:
        """What each store brings of its past into the step: amps of capacitors and inductors, flux
        of iron; of what is held.
        """
        out = np.zeros((len(self.stores), self.width))
        for k, part in enumerate(self.stores):
            out[k, 2 * k : 2 * k + 2] = part.history(self.step, euler)
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
        right = self._held(past)
        one = self.width - 1
        for k, (pieces, at, row) in enumerate(zip(self.pieces, where, self.port_rows, strict=True)):
            slope, gone = pieces.slope[at], self.past_of[k]
            matrix += slope * self.scales[k] * np.outer(row, row)
            if gone is not None:
                right -= slope * np.outer(row, past[gone])
            right[:, one] -= pieces.intercept[at] * row
        solved = solution(matrix, right)
        return Leap(self._out(solved, past), solved)

    def _held(self, past: Figures) -> Figures:
        # the right side without what bends: what is stored, what is taken, the sources
        right = np.zeros((self.size, self.width))
        for part, row, held in zip(self.stores, self.rows, past, strict=True):
            if part.past_sign:
                right += part.past_sign * np.outer(row, held)
        right[:, self.width - 1] -= self.taken
        for k, source in enumerate(self.sources):
            right[self.layout.branches[source.name], self.held + k] = 1.0
        return right

    def _out(self, solved: Figures, past: Figures) -> Figures:
        """Ports, and what is held afterwards."""
        out = []
        for row, scale, gone in zip(self.port_rows, self.scales, self.past_of, strict=True):
            moved = scale * (row @ solved)
            out.append(moved if gone is None else past[gone] + moved)
        for part, row, held in zip(self.stores, self.rows, past, strict=True):
            out += part.after(self.step, row @ solved, held)
        return np.array(out).reshape(len(out), self.width)

    def begun(self) -> Figures:
        """What is held before anything is switched on: volts, amps and Wb, shape (held)."""
        out = np.zeros(self.held)
        out[::2] = [part.begins for part in self.stores]
        return out

    def driven(self, times: Figures) -> Figures:
        """Volts of every source at each time, shape (times, sources)."""
        out = np.zeros((len(times), len(self.sources)))
        for k, source in enumerate(self.sources):
            out[:, k] = source.at(times)
        return out
