"""What a test would be worth: what it would read under the present beliefs, and how much that would
settle.

For each hypothesis the reading a test would give is a normal in logarithms (the same lines as
`voltages`), so the information about which hypothesis holds is the entropy of their mixture less
their own, and what it does for the volts is the fall of their spread. Nats.
"""

import math
from dataclasses import dataclass

import numpy as np

from greyfell.core.family import Hypothesis
from greyfell.core.identify import Identification
from greyfell.core.record import Transformer
from greyfell.core.voltages import Row, Solution, solve

VOLTS_WORTH = 0.6
"""What a nat of narrower volts counts against a nat of identity. From memory."""

HV_WORTH = 2.5
"""The volts of an HV winding matter more than a heater's: they decide the danger and the meter.
From memory."""


SAFETY_WORTH = 8.0
"""A nat about whether a piece is sound weighs this many of identity. House rule."""

SHORT_ODDS = (0.02, 0.004)
"""How often salvaged iron has shorted turns that ohms do not show: before an inductance or no-load
reading, and after one that fits. From memory, broad."""
SHORT_SHIFT = {"inductance": (-1.2, 0.5), "ratio": (-0.03, 0.03)}
"""How far shorted turns move a reading in its logarithm, with spread: inductance falls to a tenth,
a ratio by some per cent. Common practice; figures from memory."""
AT_HAND = {"inductance": 0.5}
"""How many benches have the instrument that a test needs. From memory."""


@dataclass(frozen=True)
class Worth:
    """Value of a test in nats, the figure it should show (linear units) with its 95 % range, and
    what else it may show.
    """

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
    with_it = solve(
        record, found, [*solution.rows, row], n, frozenset(j for j, _ in ident.belief.outliers)
    )
    without = solve(record, found, solution.rows, n, frozenset(j for j, _ in ident.belief.outliers))
    means, sds = _predicted(with_it)
    information = _information(weights, means, sds)
    best = int(np.argmax(weights))
    narrower = _narrower(without, with_it, best, found[best].reference, found[best].roles)
    middle, spread = float(means[best]), float(sds[best])
    safety = _soundness(record, row, middle, spread)
    return Worth(
        AT_HAND.get(row.kind, 1.0) * (information + VOLTS_WORTH * narrower + SAFETY_WORTH * safety),
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
    """Mutual information of hypothesis and reading: entropy of the mixture less the mean of the
    parts' entropies.
    """
    low, high = float((means - 5 * sds).min()), float((means + 5 * sds).max())
    grid = np.linspace(low, high, 400)
    parts = np.exp(-0.5 * ((grid[None, :] - means[:, None]) / sds[:, None]) ** 2) / (
        sds[:, None] * math.sqrt(2 * math.pi)
    )
    mixture = weights @ parts
    step = grid[1] - grid[0]
    entropy = -float(np.sum(mixture * np.log(np.maximum(mixture, 1e-300))) * step)
    own = float(weights @ (0.5 * np.log(2 * math.pi * math.e * sds**2)))
    return max(0.0, entropy - own)


def _soundness(record: Transformer, row: Row, middle: float, spread: float) -> float:
    """Nats that a reading would settle of whether turns are shorted: what it shows if they are,
    against if they are not.
    """
    if row.kind not in SHORT_SHIFT:
        return 0.0
    shift, wide = SHORT_SHIFT[row.kind]
    known = any(r.kind in ("inductance", "no_load") for r in record.standing)
    p = SHORT_ODDS[1 if known else 0]
    return _information(
        np.array([1 - p, p]),
        np.array([middle, middle + shift]),
        np.array([spread, math.hypot(spread, wide)]),
    )


def bond_worth(ident: Identification, i: int) -> tuple[float, float]:
    """If winding i were read to the core for the first time: the chance that it is an HV winding's
    normal return, and the nats about family and roles that the reading would settle.
    """
    weights = np.array([w for _, w in ident.scored])
    if not len(weights):
        return 0.0, 0.0
    weights = weights / weights.sum()
    conducts = np.clip(
        [1 - h.models[i].bonds.get(None, 0.005) for h, _ in ident.scored], 1e-3, 1 - 1e-3
    )
    hv = np.array([h.roles[i] == "hv-secondary" for h, _ in ident.scored])
    chance = float(weights @ conducts)

    def nats(p: np.ndarray) -> np.ndarray:
        return np.asarray(-p * np.log(p) - (1 - p) * np.log(1 - p))

    told = float(nats(np.array([chance]))[0] - weights @ nats(conducts))
    return float(weights @ (conducts * hv)), max(0.0, told)


def _narrower(
    without: Solution, with_it: Solution, k: int, reference: int, roles: tuple[str, ...]
) -> float:
    """By how many nats the volts of the windings narrow, the best served counting whole and the
    others half.
    """
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


KIND_WORDS = {
    "oven": "an oven transformer",
    "sign": "a sign transformer",
    "valve": "a valve set's transformer",
    "lv": "an ordinary mains transformer",
    "lv-uneven": "an ordinary mains transformer",
    "dual": "two primary halves",
    "dual-step": "two primary halves and a step-up or step-down winding",
    "isolating": "a one-to-one transformer",
    "step": "a step-up or step-down transformer",
    "variable": "a variac",
    "choke": "a choke",
    "other": "none of the usual families",
}


def _words(ident: Identification, h: Hypothesis, best: Hypothesis) -> str:
    """What another reading would mean: another kind of piece, or another winding on the mains."""
    kind = (
        KIND_WORDS[h.subtype] if h.subtype != best.subtype or h.reference == best.reference else ""
    )
    fed = (
        ""
        if h.reference == best.reference
        else f"{'–'.join(ident.windings[h.reference].coil.leads)} on the mains"
    )
    there = "" if h.here == best.here else "made for the other region's mains"
    return ", ".join(x for x in (kind, fed, there) if x)


def _alternatives(
    ident: Identification, weights: np.ndarray, means: np.ndarray, sds: np.ndarray, best: int
) -> tuple[tuple[str, float, float], ...]:
    """What the reading would be were the piece something else that is still open."""
    out = []
    for k in np.argsort(-weights):
        h = ident.scored[int(k)][0]
        if (
            k == best
            or weights[k] < 0.01
            or abs(means[k] - means[best]) < 2 * math.hypot(sds[k], sds[best])
        ):
            continue
        out.append(
            (
                _words(ident, h, ident.scored[best][0]),
                math.exp(means[k] - 1.96 * sds[k]),
                math.exp(means[k] + 1.96 * sds[k]),
            )
        )
    return tuple(out[:2])
