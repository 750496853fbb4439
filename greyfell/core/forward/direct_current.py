"""Direct current through a piece as it is: every segment, bond and fault a resistor, solved by
nodal analysis.
"""

import itertools
import math

import numpy as np
from numpy.typing import NDArray

from greyfell.core.figures.constants import COPPER_PER_K
from greyfell.core.forward.piece import Piece


def dc_ohms(piece: Piece, x: str, y: str, celsius: float = 20.0) -> float:
    """Ohms between two points by nodal analysis of every segment, bond and fault; infinite where
    nothing conducts.

    >>> from greyfell.core.forward.sample import BELL
    >>> round(dc_ohms(BELL, "A", "B"), 1), dc_ohms(BELL, "A", "C")
    (23.3, inf)
    """
    names, conductance = _network(piece)
    a, b = _node(piece, x), _node(piece, y)
    if a not in names or b not in names:
        return math.inf
    i, j = names[a], names[b]
    if i == j:
        return 0.0
    reach = _reachable(conductance, i)
    if j not in reach:
        return math.inf
    keep = sorted(reach - {j})
    laplacian = np.diag(conductance.sum(axis=1)) - conductance
    inject = np.array([1.0 if n == i else 0.0 for n in keep])
    volts = np.linalg.solve(laplacian[np.ix_(keep, keep)], inject)
    ohms = float(volts[keep.index(i)])
    return ohms * (1 + COPPER_PER_K * (celsius - 20.0)) if ohms < 1e5 else ohms


def _node(piece: Piece, point: str) -> str:
    return "core" if point in ("core", "earth", *piece.core_leads) else point


def _network(piece: Piece) -> tuple[dict[str, int], NDArray[np.float64]]:
    """Nodes and a conductance matrix: every winding cut at its leads and at its faults."""
    edges: list[tuple[str, str, float]] = []
    for w in piece.windings:
        points: list[tuple[float, str]] = [(f, _node(piece, lead)) for lead, f in w.leads]
        cuts = []
        for n, d in enumerate(piece.damage):
            if d.winding == w.name and d.kind in ("to-core", "between", "leak"):
                points.append((d.place, f"@{n}"))
            if d.kind == "between" and d.other == w.name:
                points.append((d.other_place, f"@{n}b"))
            if d.kind == "open" and d.winding == w.name:
                cuts.append(d.place)
        points.sort()
        for (f, a), (g, b) in itertools.pairwise(points):
            if any(f < c <= g for c in cuts):
                continue
            ohms = w.ohms_at(g) - w.ohms_at(f)
            for d in piece.damage:
                if d.kind == "shorted-turns" and d.winding == w.name and f <= d.place < g:
                    ohms *= max(0.0, 1 - d.turns / (w.turns * max(g - f, 1e-9)))
            edges.append((a, b, max(ohms, 1e-6)))
    for n, d in enumerate(piece.damage):
        if d.kind in ("to-core", "leak") and d.other == "core":
            edges.append((f"@{n}", "core", max(d.ohms, 1e-6)))
        elif d.kind in ("between", "leak"):
            edges.append((f"@{n}", f"@{n}b", max(d.ohms, 1e-6)))
    names: dict[str, int] = {"core": 0}
    for a, b, _ in edges:
        names.setdefault(a, len(names))
        names.setdefault(b, len(names))
    matrix = np.zeros((len(names), len(names)))
    for a, b, ohms in edges:
        if a != b:
            matrix[names[a], names[b]] += 1 / ohms
            matrix[names[b], names[a]] += 1 / ohms
    return names, matrix


def _reachable(conductance: NDArray[np.float64], start: int) -> set[int]:
    seen, stack = {start}, [start]
    while stack:
        for n in np.nonzero(conductance[stack.pop()])[0]:
            if int(n) not in seen:
                seen.add(int(n))
                stack.append(int(n))
    return seen
