"""What a test would be worth: what it would read under the present beliefs, and how much that would
settle.

For each hypothesis the reading a test would give is a normal in logarithms (the same lines as
`belief.solution`), so the information about which hypothesis holds is the entropy of their mixture
less their own, and what it does for the volts is the fall of their spread. Nats.
"""

import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.belief.family import Hypothesis
from greyfell.core.belief.observations import Row
from greyfell.core.belief.solution import Foreseen, Unknowns, foresee
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.row import HV
from greyfell.core.figures.constants import Z95
from greyfell.core.judgement.identification import Identification
from greyfell.core.telling.words import kind_words

Array = NDArray[np.float64]

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
GRID = 400
"""Points on which the entropy of a mixture is summed: good to a thousandth of a nat."""
OPEN_STILL = 0.01
"""A hypothesis of less weight is no alternative worth a word. House rule."""


class Other(Struct, frozen=True):
    """What else a reading may show: in words, and between which figures."""

    words: str
    low: float
    high: float


class Worth(Struct, frozen=True):
    """Value of a test in nats, the figure it should show (linear units) with its 95 % range, and
    what else it may show.
    """

    nats: float
    value: float
    low: float
    high: float
    otherwise: tuple[Other, ...]


def _normal(weights: list[float]) -> NDArray[np.float64]:
    found = np.array(weights)
    out: NDArray[np.float64] = found / found.sum()
    return out


def worth_of(ident: Identification, row: Row) -> Worth | None:
    """What taking `row`'s test would be worth. None where nothing can be predicted yet."""
    solution, scored = ident.belief.solution, ident.belief.scored
    if solution is None or not scored:
        return None
    found = [h for h, _ in scored]
    weights = _normal([w for _, w in scored])
    foreseen = foresee(solution, list(ident.belief.places), found, row)
    means, sds = foreseen.mean, foreseen.sd
    best = int(np.argmax(weights))
    middle, spread = float(means[best]), float(sds[best])
    narrower = _narrower(foreseen, solution.unknowns, best, found[best])
    nats = _information(weights, means, sds) + VOLTS_WORTH * narrower
    nats += SAFETY_WORTH * _soundness(ident.record, row, middle, spread)
    wide = Z95 * spread
    return Worth(
        nats=AT_HAND.get(row.kind, 1.0) * nats,
        value=math.exp(middle),
        low=math.exp(middle - wide),
        high=math.exp(middle + wide),
        otherwise=_alternatives(ident, weights, means, sds, best),
    )


def _information(weights: Array, means: Array, sds: Array) -> float:
    """Mutual information of hypothesis and reading: entropy of the mixture less the mean of the
    parts' entropies.
    """
    low, high = float((means - 5 * sds).min()), float((means + 5 * sds).max())
    grid = np.linspace(low, high, GRID)
    z = (grid[None, :] - means[:, None]) / sds[:, None]
    parts = np.exp(-0.5 * z**2) / (sds[:, None] * math.sqrt(2 * math.pi))
    mixture = weights @ parts
    logs = np.log(np.maximum(mixture, 1e-300))
    entropy = -float(np.sum(mixture * logs) * (grid[1] - grid[0]))
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
    means = np.array([middle, middle + shift])
    sds = np.array([spread, math.hypot(spread, wide)])
    return _information(np.array([1 - p, p]), means, sds)


class BondWorth(Struct, frozen=True):
    """Of a first reading from a winding to the core: the chance that it is an HV winding's normal
    return, and the nats about family and roles that it would settle.
    """

    returns: float = 0.0
    nats: float = 0.0


def bond_worth(ident: Identification, i: int) -> BondWorth:
    """What the first reading of winding i to the core would say of family and roles."""
    scored = ident.belief.scored
    if not scored:
        return BondWorth()
    weights = np.array([w for _, w in scored])
    weights = weights / weights.sum()
    free = np.array([h.models[i].bonds.get(None, 0.005) for h, _ in scored])
    conducts = np.clip(1 - free, 1e-3, 1 - 1e-3)
    hv = np.array([h.roles[i] == HV for h, _ in scored])
    chance = np.array([weights @ conducts])
    told = float(_bits(chance)[0] - weights @ _bits(conducts))
    return BondWorth(float(weights @ (conducts * hv)), max(0.0, told))


def _bits(p: Array) -> Array:
    """Entropy of a yes or no, in nats."""
    return np.asarray(-p * np.log(p) - (1 - p) * np.log(1 - p))


def _narrower(foreseen: Foreseen, unknowns: Unknowns, k: int, h: Hypothesis) -> float:
    """By how many nats the volts of the windings narrow, the best served counting whole and the
    others half.
    """
    gains = []
    for i, role in enumerate(h.roles):
        if i == h.reference:
            continue
        contrast = unknowns.unit((unknowns.w(i), 1.0), (unknowns.w(h.reference), -1.0))
        weight = HV_WORTH if role == HV else 1.0
        gains.append(weight * max(0.0, foreseen.narrows(k, contrast)))
    gains.sort(reverse=True)
    return sum(gains[:1]) + 0.5 * sum(gains[1:])


def _words(ident: Identification, h: Hypothesis, best: Hypothesis) -> str:
    """What another reading would mean: another kind of piece, or another winding on the mains."""
    same_feed = h.reference == best.reference
    said = []
    if same_feed or h.subtype != best.subtype:
        said.append(kind_words(h.subtype))
    if not same_feed:
        said.append(f"{ident.windings[h.reference].name} on the mains")
    if h.here != best.here:
        said.append("made for the other region's mains")
    return ", ".join(said)


def _alternatives(
    ident: Identification, weights: Array, means: Array, sds: Array, best: int
) -> tuple[Other, ...]:
    """What the reading would be were the piece something else that is still open; two at most."""
    scored = ident.belief.scored
    out = []
    for k in np.argsort(-weights):
        apart = abs(means[k] - means[best]) >= 2 * math.hypot(sds[k], sds[best])
        if k == best or weights[k] < OPEN_STILL or not apart:
            continue
        words = _words(ident, scored[int(k)][0], scored[best][0])
        value, wide = math.exp(means[k]), math.exp(1.96 * sds[k])
        out.append(Other(words, value / wide, value * wide))
    return tuple(out[:2])
