"""What a test would be worth: what it would read under the present beliefs, and how much that would settle.

For each hypothesis the reading a test would give is a normal in logarithms (the same lines as `voltages`), so the
information about which hypothesis holds is the entropy of their mixture less their own, and what it does for the volts
is the fall of their spread. Nats.
"""

import math
from dataclasses import dataclass

import numpy as np

from greyfell.core.identify import Identification
from greyfell.core.record import Transformer
from greyfell.core.voltages import Row, Solution, solve

VOLTS_WORTH = 0.6
"""What a nat of narrower volts counts against a nat of identity. From memory."""

HV_WORTH = 2.5
"""The volts of an HV winding matter more than a heater's: they decide the danger and the meter. From memory."""


@dataclass(frozen=True)
class Worth:
    """Value of a test in nats, the figure it should show (linear units) with its 95 % range, and what else it may show."""

    nats: float
    value: float
    low: float
    high: float
    otherwise: tuple[tuple[str, float, float], ...]


def worth_of(record: Transformer, ident: Identification, row: Row) -> Worth | None:
    """What taking `row`'s test would be worth. None where nothing can be predicted yet."""
    solution, scored = ident.belief.solution, ident.scored
    if solution is None or not scored:
        return None
    found = [h for h, _ in scored]
    weights = np.array([w for _, w in scored])
    weights = weights / weights.sum()
    n = solution.n
    with_it = solve(record, found, [*solution.rows, row], n, frozenset(j for j, _ in ident.belief.outliers))
    without = solve(record, found, solution.rows, n, frozenset(j for j, _ in ident.belief.outliers))
    means, sds = _predicted(with_it)
    information = _information(weights, means, sds)
    best = int(np.argmax(weights))
    narrower = _narrower(without, with_it, best, found[best].reference, found[best].roles)
    middle, spread = float(means[best]), float(sds[best])
    return Worth(
        information + VOLTS_WORTH * narrower,
        math.exp(middle),
        math.exp(middle - 1.96 * spread),
        math.exp(middle + 1.96 * spread),
        _alternatives(ident, weights, means, sds, best),
    )


def _predicted(solution: Solution) -> tuple[np.ndarray, np.ndarray]:
    """Mean and spread of the last row under every hypothesis, from all the other rows."""
    j = len(solution.rows) - 1
    diagonal = np.maximum(solution.inverse[:, j, j], 1e-12)
    left = np.einsum("kn,kn->k", solution.inverse[:, j, :], solution.misfit) / diagonal
    return solution.rows[j].value - left, 1 / np.sqrt(diagonal)


def _information(weights: np.ndarray, means: np.ndarray, sds: np.ndarray) -> float:
    """Mutual information of hypothesis and reading: entropy of the mixture less the mean of the parts' entropies."""
    low, high = float((means - 5 * sds).min()), float((means + 5 * sds).max())
    grid = np.linspace(low, high, 400)
    parts = np.exp(-0.5 * ((grid[None, :] - means[:, None]) / sds[:, None]) ** 2) / (sds[:, None] * math.sqrt(2 * math.pi))
    mixture = weights @ parts
    step = grid[1] - grid[0]
    entropy = -float(np.sum(mixture * np.log(np.maximum(mixture, 1e-300))) * step)
    own = float(weights @ (0.5 * np.log(2 * math.pi * math.e * sds**2)))
    return max(0.0, entropy - own)


def _narrower(without: Solution, with_it: Solution, k: int, reference: int, roles: tuple[str, ...]) -> float:
    """By how many nats the volts of the windings narrow, the best served counting whole and the others half."""
    gains = []
    for i in range(len(roles)):
        if i == reference:
            continue
        contrast = without.unit((without.w(i), 1.0), (without.w(reference), -1.0))
        before, after = without.posterior(k, contrast)[1], with_it.posterior(k, contrast)[1]
        weight = HV_WORTH if roles[i] == "hv-secondary" else 1.0
        gains.append(weight * max(0.0, math.log(before / after)))
    gains.sort(reverse=True)
    return sum(g * (1.0 if i == 0 else 0.5) for i, g in enumerate(gains))


def _alternatives(
    ident: Identification, weights: np.ndarray, means: np.ndarray, sds: np.ndarray, best: int
) -> tuple[tuple[str, float, float], ...]:
    """What the reading would be were the piece something else that is still open."""
    out = []
    for k in np.argsort(-weights):
        h = ident.scored[int(k)][0]
        if k == best or weights[k] < 0.01 or abs(means[k] - means[best]) < 2 * math.hypot(sds[k], sds[best]):
            continue
        out.append((f"{h.family}, {h.subtype}", math.exp(means[k] - 1.96 * sds[k]), math.exp(means[k] + 1.96 * sds[k])))
    return tuple(out[:2])
