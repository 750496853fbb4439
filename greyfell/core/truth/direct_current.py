"""Direct current through a piece as it is: every segment, bond and fault a resistor, solved by
nodal analysis.
"""

import itertools
import math
from collections.abc import Iterable
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from greyfell.core.figures.constants import COPPER_PER_K
from greyfell.core.truth.piece import Piece, Wound


@lru_cache(maxsize=4096)
def dc_ohms(piece: Piece, x: str, y: str, celsius: float = 20.0) -> float:
    """Ohms between two points by nodal analysis of every segment, bond and fault; infinite where
    nothing conducts. Kirchhoff.

    >>> from greyfell.core.truth.sample import BELL
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


Edge = tuple[str, str, float]
"""Two nodes and the ohms between them."""
LEAST_OHMS = 1e-6
"""Nothing conducts better: keeps the equations solvable."""


def _network(piece: Piece) -> tuple[dict[str, int], NDArray[np.float64]]:
    """Nodes and a conductance matrix: every winding cut at its leads and at its faults."""
    segments = [edge for w in piece.windings for edge in _segments(piece, w)]
    edges = [*segments, *_touches(piece)]
    names: dict[str, int] = {"core": 0}
    for a, b, _ in edges:
        names.setdefault(a, len(names))
        names.setdefault(b, len(names))
    matrix = np.zeros((len(names), len(names)))
    for a, b, ohms in edges:
        if a != b:
            conductance = 1 / max(ohms, LEAST_OHMS)
            matrix[names[a], names[b]] += conductance
            matrix[names[b], names[a]] += conductance
    return names, matrix


def _segments(piece: Piece, w: Wound) -> Iterable[Edge]:
    """The stretches of a winding between its leads and its faults; none across a break."""
    cuts = [d.place for d in piece.damage if d.kind == "open" and d.winding == w.name]
    for (f, a), (g, b) in itertools.pairwise(sorted(_points(piece, w))):
        if not any(f < cut <= g for cut in cuts):
            yield a, b, (w.ohms_at(g) - w.ohms_at(f)) * _left_by_shorts(piece, w, f, g)


def _points(piece: Piece, w: Wound) -> Iterable[tuple[float, str]]:
    """Where something hangs on a winding: its leads, and both sides of a fault."""
    for lead, place in w.leads:
        yield place, _node(piece, lead)
    for n, d in enumerate(piece.damage):
        if d.winding == w.name and d.kind in ("to-core", "between", "leak"):
            yield d.place, f"@{n}"
        if d.other == w.name and d.kind == "between":
            yield d.other_place, f"@{n}b"


def _left_by_shorts(piece: Piece, w: Wound, f: float, g: float) -> float:
    """The share of a stretch's ohms that shorted turns leave of it."""
    left = 1.0
    for d in piece.damage:
        if d.kind == "shorted-turns" and d.winding == w.name and f <= d.place < g:
            left *= max(0.0, 1 - d.turns / (w.turns * max(g - f, 1e-9)))
    return left


def _touches(piece: Piece) -> Iterable[Edge]:
    """What conducts where it should not: to the core, or from winding to winding."""
    for n, d in enumerate(piece.damage):
        if d.kind in ("to-core", "leak") and d.other == "core":
            yield f"@{n}", "core", d.ohms
        elif d.kind in ("between", "leak"):
            yield f"@{n}", f"@{n}b", d.ohms
    for a in piece.attached:
        if not math.isinf(a.ohms):
            x, y = a.between
            yield _node(piece, x), _node(piece, y), a.ohms


def _reachable(conductance: NDArray[np.float64], start: int) -> set[int]:
    seen, stack = {start}, [start]
    while stack:
        for n in np.nonzero(conductance[stack.pop()])[0]:
            if int(n) not in seen:
                seen.add(int(n))
                stack.append(int(n))
    return seen
