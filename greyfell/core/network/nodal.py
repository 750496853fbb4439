"""A network laid out by its nodes: which unknown each node's volts and each branch's amps are, and
the matrix of everything that does not bend. One layout for phasors and for steps of time.
"""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from greyfell.core.errors import FieldError
from greyfell.core.network.parts import EARTH, NO_SOLUTION, CircuitPart, Figures

Matrix = NDArray[Any]


class Layout:
    """The unknowns of a network: volts of every node but earth, then amps of sources and ideal
    transformers. Modified nodal analysis (Ho, Ruehli and Brennan, IEEE Trans. Circuits and Systems
    22, 1975, from memory).
    """

    def __init__(self, parts: Sequence[CircuitPart]) -> None:
        self.parts = tuple(parts)
        names = {node for part in parts for node in part.nodes} - {EARTH}
        self.nodes = {name: k for k, name in enumerate(sorted(names))}
        branching = [part for part in parts if part.own_branch]
        self.branching = sorted(branching, key=lambda part: part.reflected is not None)
        self.branches = {p.name: len(self.nodes) + k for k, p in enumerate(self.branching)}
        self.size = len(self.nodes) + len(self.branching)

    def across(self, part: CircuitPart) -> Figures:
        """The volts over a part, of the unknowns."""
        return self.volts(part.one, part.two)

    def volts(self, one: str, two: str) -> Figures:
        """The volts from one node to another, of the unknowns."""
        out = np.zeros(self.size)
        if one != EARTH:
            out[self.nodes[one]] += 1.0
        if two != EARTH:
            out[self.nodes[two]] -= 1.0
        return out

    def found(self, unknowns: Matrix, one: str, two: str) -> Matrix:
        """The volts from one node to another among solved unknowns, shape (…, unknowns) to (…)."""
        out = np.zeros(unknowns.shape[:-1], dtype=unknowns.dtype)
        if one != EARTH:
            out = out + unknowns[..., self.nodes[one]]
        if two != EARTH:
            out = out - unknowns[..., self.nodes[two]]
        return out

    def base(self, admittance: Callable[[CircuitPart], complex | float | None]) -> Matrix:
        """The matrix of all that does not bend: amps of each node, volts of each branch."""
        given = [(part, admittance(part)) for part in self.parts]
        plain = [(part, y) for part, y in given if y]
        out = np.zeros((self.size, self.size), dtype=np.result_type(float, *(y for _, y in plain)))
        for part, y in plain:
            out += y * np.outer(self.across(part), self.across(part))
        for part in self.branching:
            k, row = self.branches[part.name], self.across(part)
            if part.reflected is not None:
                three, four, ratio = part.reflected
                row = row - ratio * self.volts(three, four)
            out[k] += row
            out[: len(self.nodes), k] += row[: len(self.nodes)]
        return out


def solution(matrix: Matrix, right: Matrix) -> Matrix:
    """The unknowns. Raises FieldError where there are none."""
    try:
        return np.asarray(np.linalg.solve(matrix, right))
    except np.linalg.LinAlgError:
        raise FieldError("parts", NO_SOLUTION) from None
