"""Evidence to belief: what a piece is, how sure that is, what is wrong and how far it is tested. A
pure function.

Every reading of the piece (family, kind, roles) is a hypothesis. Its weight is prior × likelihood
of everything on record: ohms, ratios, inductances, turns, wire, iron, plate as one Gaussian model
in logarithms (`voltages`), and bonds, taps, colours, places and the owner's belief as odds
(`family`, `clues`). Nothing is concluded from one of them alone.
"""

import math
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from greyfell.core.belief import Belief, Fault
from greyfell.core.clues import family_clues, winding_clues
from greyfell.core.coil import Coil, Tap, Topology
from greyfell.core.family import Hypothesis, hypotheses
from greyfell.core.faults import find_faults
from greyfell.core.hazards import Hazard, find_hazards
from greyfell.core.polarity import Polarity, polarities
from greyfell.core.present import present
from greyfell.core.priors import MAINS_VOLTS
from greyfell.core.quantity import Quantity
from greyfell.core.record import FAMILIES, Transformer
from greyfell.core.topology import find_windings
from greyfell.core.verdict import Recheck, verdict_on
from greyfell.core.voltages import LOG_V_OFFSET, Row, Solution, observations, solve

FORMAT = "greyfell.identification/1"
KEPT = 12
"""Hypotheses carried into the volts' mixture; the rest weigh less than one in a thousand
together."""
CENTRE = 0.04
"""A tap within this of the middle by ohms is a centre tap: outer turns are longer, so ohms put it
off the middle by a few per cent. Common practice."""


@dataclass(frozen=True)
class TapFound:
    """A tap: share of the turns from the first end, kind, and volts from the first end."""

    lead: str
    fraction: float
    kind: str
    volts: Quantity | None


@dataclass(frozen=True)
class Winding:
    """One winding: its coil as the ohmmeter sees it, roles with probabilities, open-circuit volts
    on the fed primary.
    """

    id: str
    coil: Coil
    roles: dict[str, float]
    taps: tuple[TapFound, ...]
    volts: Quantity | None

    @property
    def role(self) -> str:
        """The likeliest role."""
        return max(self.roles, key=lambda r: self.roles[r]) if self.roles else "unknown"

    @property
    def sure(self) -> float:
        """The probability of the likeliest role."""
        return self.roles.get(self.role, 0.0)


@dataclass(frozen=True)
class Identification:
    """Everything concluded about one record."""

    tag: str
    families: dict[str, float]
    topology: Topology
    windings: tuple[Winding, ...]
    fed: tuple[str, ...]
    verdict: str
    faults: tuple[Fault, ...]
    hazards: tuple[Hazard, ...]
    volts_per_turn: Quantity | None
    other_region: float
    belief: Belief = field(repr=False)
    polarity: tuple[Polarity, ...] = ()
    scored: tuple[tuple[Hypothesis, float], ...] = field(repr=False, default=())
    reasons: tuple[str, ...] = ()
    recheck: tuple[Recheck, ...] = ()

    @property
    def family(self) -> str:
        """The likeliest family; `unknown` before anything is known."""
        return max(self.families, key=lambda f: self.families[f]) if self.windings else "unknown"

    @property
    def sure(self) -> float:
        """The probability of the likeliest family."""
        return self.families.get(self.family, 0.0)

    @property
    def stopped(self) -> bool:
        """True where a stop fault stands."""
        return any(f.severity == "stop" for f in self.faults)


def identify(record: Transformer) -> Identification:
    """What the record says: families, windings with roles and volts, faults, hazards, verdict.
    Pure.
    """
    record = present(record)
    topology = find_windings(record)
    rows = observations(record, topology)
    found, weights, solution, loose, _ = _weigh(record, topology, rows)
    belief = _believe(topology, found, weights, solution, loose)
    faults = find_faults(record, topology, belief)
    windings = _windings(record, topology, found, weights, solution, belief)
    families = _families(found, weights)
    best = belief.best
    fed = _fed(record, topology, best)
    verdict = verdict_on(record, topology, faults, windings)
    there = float(sum(w for h, w in zip(found, weights, strict=True) if not h.here))
    top = sorted(zip(found, (float(w) for w in weights), strict=True), key=lambda x: -x[1])[:KEPT]
    partial = Identification(
        record.tag,
        families,
        topology,
        windings,
        fed,
        verdict.word,
        tuple(faults),
        (),
        _volts_per_turn(record, topology, belief, solution, rows),
        there,
        belief,
        tuple(polarities(record, topology, solution, belief.index)),
        tuple(top),
        verdict.reasons,
        verdict.recheck,
    )
    return Identification(**{**partial.__dict__, "hazards": tuple(find_hazards(record, partial))})


def _weigh(
    record: Transformer, topology: Topology, rows: list[Row], without: str | None = None
) -> tuple[list[Hypothesis], np.ndarray, Solution | None, dict[int, float], np.ndarray]:
    """Weigh every hypothesis; observations that do not belong are found one by one and opened
    wide.
    """
    found = hypotheses(record, topology, without)
    if not found:
        return [], np.zeros(0), None, {}, np.zeros(0)
    n = len(topology.coils)
    prior = np.array([h.log_prior for h in found])
    loose: dict[int, float] = {}
    odds, charge = _slip_odds(found, rows), np.zeros(len(found))
    solution = solve(record, found, rows, n, frozenset())
    while True:
        drives = _drives(record, topology, found, solution)
        robust, blame, as_it_stands = solution.robust(odds, frozenset(loose))
        score = prior + robust + charge + drives
        k = _accuser(found, score, blame)
        worst = int(blame[k])
        if worst < 0 or len(loose) == MOST_SLIPS:
            break
        loose[worst] = float(solution.left_out(k)[worst])
        charge = charge + as_it_stands[:, worst]
        solution = solve(record, found, rows, n, frozenset(loose))
    weights = _normal(score)
    return found, weights, solution, loose, score


MOST_SLIPS = 3
"""So many observations of a record may be opened wide; where more do not belong, something else is
the matter."""


def _accuser(found: list[Hypothesis], score: np.ndarray, blame: np.ndarray) -> int:
    """The hypothesis whose blame is followed: the best; or, where that is `other`, which takes
    anything, the best but for it.
    """
    k = int(np.argmax(score))
    if found[k].family != "other" or blame[k] >= 0:
        return k
    usual = np.where([h.family != "other" for h in found], score, -np.inf)
    return int(np.argmax(usual))


SLIPS = {
    "ohms": 0.004,
    "ratio": 0.01,
    "inductance": 0.02,
    "turns": 0.03,
    "test turn": 0.02,
    "wire": 0.03,
    "mass": 0.01,
    "core area": 0.01,
}
"""How often an observation of a kind is a slip: wrong range, wrong pair, wrong plate (0.06). From
memory."""
ODD_COPPER = 0.03
"""How often a small winding has copper quite unlike its kind: an auxiliary winding of thin wire
beside the main one, say. Then its ohms tell little of its volts, and a ratio read of it is believed
before them. From memory."""


def _slip_odds(found: list[Hypothesis], rows: list[Row]) -> np.ndarray:
    """How often each observation (m) does not belong, under every hypothesis (k): (k, m)."""
    odds = np.tile([SLIPS.get(r.kind, 0.06) for r in rows], (len(found), 1))
    small = np.array(
        [[role in ("lv-secondary", "filament", "bias") for role in h.roles] for h in found]
    )
    for j, row in enumerate(rows):
        if row.kind == "ohms":
            odds[small[:, row.coils[0]], j] = ODD_COPPER
    return odds


def _normal(score: np.ndarray) -> np.ndarray:
    weights = np.exp(score - score.max())
    return np.asarray(weights / weights.sum())


def _drives(
    record: Transformer, topology: Topology, found: list[Hypothesis], solution: Solution
) -> np.ndarray:
    """Log-likelihood that what was driven could bear it: above its volts a winding saturates, and
    nobody reads on.

    Quadratic beyond 12 % over the winding's volts; magnetising current rises about like B^8 there.
    REF-M-11.
    """
    out = np.zeros(len(found))
    mean = solution.means()
    for r in record.standing:
        if r.kind == "no_load":
            volts = r.volts
        elif r.kind in ("ratio", "test_turn", "load"):
            volts = r.driven_volts
        elif r.kind == "lamp":
            out += _lamp(r, topology, mean, solution)
            continue
        else:
            continue
        i = topology.coil_of(r.driven[0])
        if i is None or i != topology.coil_of(r.driven[1]):
            continue
        fraction = max(0.05, topology.coils[i].fraction_between(*r.driven) or 1.0)
        over = math.log(volts / fraction) - mean[:, solution.w(i)]
        out -= 0.5 * np.clip((over - 0.12) / 0.12, 0.0, 4.0) ** 2
    return out


def _lamp(r: Any, topology: Topology, mean: np.ndarray, solution: Solution) -> np.ndarray:
    i = topology.coil_of(r.across[0])
    if i is None:
        return np.zeros(len(mean))
    saturates = 1 / (1 + np.exp(-(math.log(r.supply_volts) - mean[:, solution.w(i)] - 0.5) / 0.2))
    bright = 0.06 + 0.88 * saturates
    likelihood = {
        "bright": bright,
        "dim": 0.5 * (1 - bright) + 0.02,
        "dark": 0.5 * (1 - bright) + 0.02,
    }[r.glow]
    return np.asarray(np.log(likelihood))


NOTHING = 1e-9
"""A hypothesis of less weight is left out of sums: a thousand of them change no figure that is
shown."""


def _believe(
    topology: Topology,
    found: list[Hypothesis],
    weights: np.ndarray,
    solution: Solution | None,
    loose: dict[int, float],
) -> Belief:
    if not found:
        return Belief(None, 0, tuple({} for _ in topology.coils), None, ())
    roles: list[dict[str, float]] = [{} for _ in topology.coils]
    for h, w in zip(found, weights, strict=True):
        if w > NOTHING:
            for i, role in enumerate(h.roles):
                roles[i][role] = roles[i].get(role, 0.0) + float(w)
    k = int(np.argmax(weights))
    return Belief(found[k], k, tuple(roles), solution, tuple(loose.items()))


def _families(found: list[Hypothesis], weights: np.ndarray) -> dict[str, float]:
    if not found:
        return dict.fromkeys(FAMILIES, round(1 / len(FAMILIES), 6))
    out: dict[str, float] = dict.fromkeys(FAMILIES, 0.0)
    for h, w in zip(found, weights, strict=True):
        out[h.family] += float(w)
    return out


# ------------------------------------------------------------------ windings and their volts


def _windings(
    record: Transformer,
    topology: Topology,
    found: list[Hypothesis],
    weights: np.ndarray,
    solution: Solution | None,
    belief: Belief,
) -> tuple[Winding, ...]:
    out = []
    for i, coil in enumerate(topology.coils):
        volts = _volts(record, topology, i, found, weights, solution, belief)
        roles = dict(sorted(belief.roles[i].items(), key=lambda x: -x[1])) or {"unknown": 1.0}
        out.append(Winding(f"W{i + 1}", coil, roles, _taps(record, topology, i, volts), volts))
    return tuple(out)


def _volts(
    record: Transformer,
    topology: Topology,
    i: int,
    found: list[Hypothesis],
    weights: np.ndarray,
    solution: Solution | None,
    belief: Belief,
) -> Quantity | None:
    """Open-circuit volts of winding i with the primary on the actual supply: a mixture over
    hypotheses.

    Which winding is the primary is part of the mixture: a winding that is only likely the primary
    has the supply's volts only as likely, and its range reaches to what it puts out were it a
    secondary.
    """
    best, coil = belief.best, topology.coils[i]
    if (
        solution is None
        or best is None
        or coil.broken
        or best.family in ("choke", "other")
        or best.roles[i] == "unknown"
    ):
        return None
    if not _feeds(topology, best):
        return None
    parts: list[tuple[float, float, float]] = []
    for k in (int(k) for k in np.argsort(-weights)[:KEPT] if weights[k] > 1e-3):
        h = found[k]
        if not _feeds(topology, h):
            continue
        mean, sd = 0.0, EXACT
        if i != h.reference:
            mean, sd = solution.posterior(
                k, solution.unit((solution.w(i), 1.0), (solution.w(h.reference), -1.0))
            )
        parts += [
            (float(weights[k]) * weight, mean + math.log(volts), sd)
            for volts, weight in _reference_volts(record, topology, h)
        ]
    exact = [math.exp(mean) for _, mean, sd in parts if sd == EXACT]
    low, middle, high = (
        next((v for v in exact if abs(x / v - 1) < SNAP), x)
        for x in (math.exp(y) for y in _shortest(parts))
    )
    if i != best.reference:
        return Quantity(
            middle, min(low, middle), max(high, middle), _basis(i, best.reference, solution.rows)
        )
    fed = [v for v, _ in _reference_volts(record, topology, best)]
    if min(fed) * (1 - 1e-6) < low and high < max(fed) * (1 + 1e-6):
        return Quantity(fed[0], min(fed), max(fed), ("supply",))
    return Quantity(middle, min(low, middle), max(high, middle), ("supply", "roles"))


def _feeds(topology: Topology, h: Hypothesis) -> bool:
    """Whether a hypothesis has a whole primary that the supply can go on."""
    return (
        h.roles[h.reference] in ("primary", "primary-half")
        and not topology.coils[h.reference].broken
    )


EXACT, SNAP = 1e-7, 1e-5
"""Spread of the logarithm of the supply's own volts: a figure of the record, not measured here; and
how near a bound of a range must come to it to be it."""
TAILS = (0.002, 0.025, 0.048)
"""Shares of the 5 % left out that may lie below a range: the one that makes it shortest is
taken."""


def _shortest(parts: list[tuple[float, float, float]]) -> tuple[float, float, float]:
    """Bounds of the shortest 95 % range of a mixture of normals (weight, mean, sd), and its median
    in between.

    A doubt of less than 5 % that lies to one side need not stretch the range: it is part of the 5 %
    left out.
    """
    top = max(w for w, _, _ in parts)
    parts = [x for x in parts if x[0] > 0.002 * top]
    if len(parts) == 1:
        _, mean, sd = parts[0]
        return mean - 1.959964 * sd, mean, mean + 1.959964 * sd
    reach = [(_quantile(parts, t), _quantile(parts, t + 0.95)) for t in TAILS]
    low, high = min(reach, key=lambda r: r[1] - r[0])
    return low, _quantile(parts, 0.5), high


def _quantile(parts: list[tuple[float, float, float]], p: float) -> float:
    """Quantile of a mixture of normals by Newton's method, kept within a bracket that halves where
    it would leave it.
    """
    total = sum(w for w, _, _ in parts)
    scaled = [(w / total, m, 1 / (s * math.sqrt(2))) for w, m, s in parts]
    low = min(m - 3.5 * s for _, m, s in parts) - 1e-9
    high = max(m + 3.5 * s for _, m, s in parts) + 1e-9
    x = (low + high) / 2
    for _ in range(40):
        below = density = 0.0
        for w, m, scale in scaled:
            z = (x - m) * scale
            below += w * 0.5 * (1 + math.erf(z))
            density += w * scale * math.exp(-z * z) if -6 < z < 6 else 0.0
        low, high = (x, high) if below < p else (low, x)
        step = (below - p) * math.sqrt(math.pi) / density if density > 1e-6 else math.inf
        new = x - step if low < x - step < high else (low + high) / 2
        if abs(new - x) < 1e-8:
            return new
        x = new
    return x


def _basis(i: int, reference: int, rows: list[Row]) -> tuple[str, ...]:
    strong = [r for r in rows if r.kind == "ratio" and i in r.coils]
    strong += [
        r
        for r in rows
        if r.kind in ("inductance", "turns", "test turn")
        and r.coils
        and r.coils[0] in (i, reference)
    ]
    touched = {c for r in strong for c in r.coils}
    if not {i, reference} <= touched:
        strong = [*strong, *(r for r in rows if r.kind == "ohms" and r.coils[0] in (i, reference))]
    names = dict.fromkeys(f"{r.kind} {reading}" for r in strong for reading in r.readings[:2])
    return tuple(names) or ("family",)


def _reference_volts(
    record: Transformer, topology: Topology, best: Hypothesis
) -> list[tuple[float, float]]:
    """Volts across the reference primary winding's ends when the piece is fed as it should be, with
    weights.
    """
    supply = record.supply.volts
    if best.halves is not None:
        return [(supply / 2 if supply > 180 else supply, 1.0)]
    return [
        (supply / share, weight)
        for _, share, weight in _fed_taps(record, topology.coils[best.reference])
    ]


NEAREST = 0.015
"""How sharply the supply prefers the tap nearest to it, in logarithms of volts. From memory."""


def _fed_taps(record: Transformer, coil: Coil) -> list[tuple[tuple[str, str], float, float]]:
    """Which points of a tapped primary the supply goes on, their share of the turns, and how
    likely: best first.

    The taps' volts are taken to be a set of usual mains volts that fits the fractions; the supply
    goes on the one nearest to it. Where 220/240 and 230/250 fit alike, both stay open. Common
    practice.
    """
    supply = record.supply.volts
    if not coil.taps or coil.bond is not None:
        return [(coil.leads, 1.0, 1.0)]
    spans = [(coil.leads, 1.0)]
    for tap in coil.taps:
        share = round(tap.fraction, 3) if abs(tap.fraction - 0.5) > CENTRE else 0.5
        spans += [((coil.leads[0], tap.lead), share), ((tap.lead, coil.leads[1]), 1 - share)]
    spans = [s for s in spans if s[1] > 0.3]
    plated = (
        (record.nameplate.primary_volts,)
        if record.nameplate and record.nameplate.primary_volts
        else ()
    )
    weights: dict[tuple[tuple[str, str], float], float] = {}
    for ends in (v for v in MAINS_VOLTS if v >= 0.95 * supply):
        each = sum(
            min(abs(math.log(ends * f / v)) for v in MAINS_VOLTS)
            for _, f in spans
            if f > 0.55 or f == 0.5
        )
        near = [abs(math.log(ends * f / supply)) for _, f in spans]
        on_plate = min((abs(math.log(ends * f / v)) for _, f in spans for v in plated), default=0.0)
        fits = math.exp(-(each + min(near) + on_plate) / 0.05)
        close = [
            math.exp((min(near) - x) / NEAREST) for x in near
        ]  # between two taps about as near, either may be meant
        for (pair, share), c in zip(spans, close, strict=True):
            key = ((pair[0], pair[1]), share)
            weights[key] = weights.get(key, 0.0) + fits * c / sum(close)
    total = sum(weights.values())
    if total <= 0:
        return [(coil.leads, 1.0, 1.0)]
    options = [(pair, share, w / total) for (pair, share), w in weights.items() if w > 0.02 * total]
    return sorted(options, key=lambda o: -o[2])


def _fed(record: Transformer, topology: Topology, best: Hypothesis | None) -> tuple[str, ...]:
    if best is None or best.roles[best.reference] not in ("primary", "primary-half"):
        return ()
    if best.halves is not None:
        return tuple(x for i in sorted(best.halves) for x in topology.coils[i].leads)
    return _fed_taps(record, topology.coils[best.reference])[0][0]


def _taps(
    record: Transformer, topology: Topology, i: int, volts: Quantity | None
) -> tuple[TapFound, ...]:
    coil = topology.coils[i]
    out = []
    for tap in coil.taps:
        fraction, spread = _turn_fraction(record, topology, i, tap)
        centre = abs(fraction - 0.5) < CENTRE + min(0.3, 0.5 * spread)
        if centre and spread > 0.01:
            fraction, spread = 0.5, 0.01
        across = None
        if volts is not None and spread < 0.2:
            low, high = volts.low * max(0.0, fraction - spread), volts.high * (fraction + spread)
            across = Quantity(volts.value * fraction, low, high, volts.basis)
        out.append(TapFound(tap.lead, fraction, "centre" if centre else "tap", across))
    return tuple(out)


GROWTH = 0.15
"""Half of how much longer a winding's outermost turn is than its innermost, at most usual: ohms
share − turns share of a tap at turns share f is up to GROWTH·f·(1 − f), either way while it is not
known which end lies inside. With a build b on a mean turn of length l it is 4·b/l: 8 mm on 220 mm.
Geometry of REF-M-14; the usual most from memory."""


def _turn_fraction(
    record: Transformer, topology: Topology, i: int, tap: Tap
) -> tuple[float, float]:
    """A tap's share of the turns from the first end, ±: by volts along the winding where read, else
    by ohms.

    Outer turns are longer, so the ohms share is f + g (f² − f) of the turns share f. A centre tap
    on the same winding tells g; without one its range widens the tap's.
    """
    coil = topology.coils[i]
    by_volts = _share_by_volts(record, topology, coil, tap)
    if by_volts is not None:
        return by_volts, 0.01
    centre = next((t.fraction for t in coil.taps if abs(t.fraction - 0.5) < CENTRE), None)
    if centre is None or centre == tap.fraction:
        return tap.fraction, min(
            0.5, tap.limit + GROWTH * tap.fraction * (1 - tap.fraction) + 0.003
        )
    g = 4 * (0.5 - centre)
    b = 1 - g
    turns = (
        tap.fraction
        if abs(g) < 1e-6
        else (-b + math.sqrt(max(0.0, b * b + 4 * g * tap.fraction))) / (2 * g)
    )
    return min(1.0, max(0.0, turns)), min(0.5, tap.limit + 0.01)


def _share_by_volts(record: Transformer, topology: Topology, coil: Coil, tap: Tap) -> float | None:
    """The tap's share of the volts: whole winding and a part of it read with the same pair driven,
    or one of them driven.
    """
    names = {"core" if x in topology.core_leads else x: x for x in coil.positions}

    def points(pair: tuple[str, str]) -> frozenset[str]:
        return frozenset(names.get("core" if x in topology.core_leads else x, x) for x in pair)

    drives: dict[frozenset[str], dict[frozenset[str], float]] = {}
    for r in record.standing:
        if r.kind == "ratio" and r.sensed_volts > 0:
            told = drives.setdefault(points(r.driven), {points(r.driven): 1.0})
            told[points(r.sensed)] = r.sensed_volts / r.driven_volts
    whole, parts = (
        frozenset(coil.leads),
        (frozenset((coil.leads[0], tap.lead)), frozenset((tap.lead, coil.leads[1]))),
    )
    for told in drives.values():
        first, second = (told.get(p) for p in parts)
        if whole in told and first is not None and first < told[whole]:
            return first / told[whole]
        if whole in told and second is not None and second < told[whole]:
            return 1 - second / told[whole]
        if first is not None and second is not None:
            return first / (first + second)
    return None


def _volts_per_turn(
    record: Transformer,
    topology: Topology,
    belief: Belief,
    solution: Solution | None,
    rows: list[Row],
) -> Quantity | None:
    """Volts per turn with the primary on the actual supply, from everything on record. REF-M-02."""
    best = belief.best
    if (
        solution is None
        or best is None
        or best.roles[best.reference] not in ("primary", "primary-half")
    ):
        return None
    # ln of volts per turn over the primary's volts: design volts drop out, only turns remain
    contrast = solution.log_v() - solution.unit((solution.w(best.reference), 1.0))
    mean, sd = solution.posterior(belief.index, contrast)
    value = math.exp(LOG_V_OFFSET + mean) * _reference_volts(record, topology, best)[0][0]
    kinds = ("test turn", "turns", "core area", "wire", "inductance")
    basis = [f"{r.kind} {r.readings[0]}" if r.readings else r.kind for r in rows if r.kind in kinds]
    return Quantity(
        value,
        value * math.exp(-1.96 * sd),
        value * math.exp(1.96 * sd),
        tuple(dict.fromkeys(basis)) or ("family and ohms",),
    )


# ------------------------------------------------------------------ verdict


# ------------------------------------------------------------------ for and against


@dataclass(frozen=True)
class Weight:
    """One piece of evidence: how far it moves the odds of the leading family against the rest, in
    decibans.
    """

    name: str
    decibans: float


def weigh_evidence(record: Transformer, ident: Identification) -> list[Weight]:
    """What spoke for and against the leading family: each group of evidence left out in turn.

    Ten decibans are odds of ten to one. A group's weight is ln odds with it minus without it, ×
    10/ln 10.
    """
    if not ident.windings or ident.belief.best is None:
        return []
    record = present(record)
    topology, family = ident.topology, ident.family
    rows = observations(record, topology)

    def odds(rows: list[Row], without: str | None = None) -> float:
        found, _, _, _, score = _weigh(record, topology, rows, without)
        mine = np.array([h.family == family for h in found])
        if mine.all() or not mine.any():
            return 0.0
        return float(np.logaddexp.reduce(score[mine]) - np.logaddexp.reduce(score[~mine]))

    full = odds(rows)
    out = [
        Weight(kind, full - odds([r for r in rows if r.kind != kind]))
        for kind in dict.fromkeys(r.kind for r in rows)
    ]
    groups = [*family_clues(record, "mains"), "core bond", "taps"]
    leads = {lead.id: lead for lead in record.leads}
    if any(
        winding_clues([leads[x] for x in c.members if x in leads], "mains", "primary")
        for c in topology.coils
    ):
        groups.append("leads")
    out += [Weight(name, full - odds(rows, name)) for name in groups]
    scale = 10 / math.log(10)
    return sorted((Weight(w.name, w.decibans * scale) for w in out), key=lambda w: -abs(w.decibans))


# ------------------------------------------------------------------ the public form


def as_json(ident: Identification) -> dict[str, Any]:
    """The identification as `greyfell.identification/1`."""
    return {
        "format": FORMAT,
        "tag": ident.tag,
        "families": {f: round(p, 6) for f, p in ident.families.items()},
        "core_leads": list(ident.topology.core_leads),
        "windings": [_winding_json(w) for w in ident.windings],
        "fed": list(ident.fed),
        "loose_leads": [
            x for x in ident.topology.loose if not any(x in w.coil.leads for w in ident.windings)
        ],
        "polarity": [p.as_json() for p in ident.polarity],
        "verdict": ident.verdict,
        "verdict_reasons": list(ident.reasons),
        "recheck": [r.as_json() for r in ident.recheck],
        "faults": [
            {
                "code": f.code,
                "severity": f.severity,
                "leads": list(f.leads),
                "readings": list(f.readings),
                "sentence": f.sentence,
            }
            for f in ident.faults
        ],
        "hazards": [{"code": h.code, "sentence": h.sentence} for h in ident.hazards],
        "volts_per_turn": ident.volts_per_turn.as_json() if ident.volts_per_turn else None,
    }


def _winding_json(w: Winding) -> dict[str, Any]:
    ohms = w.coil.ohms
    return {
        "id": w.id,
        "leads": list(w.coil.leads),
        "taps": [
            {
                "lead": t.lead,
                "fraction": round(t.fraction, 4),
                "kind": t.kind,
                "volts": t.volts.as_json() if t.volts else None,
            }
            for t in w.taps
        ],
        "core_bond": {"place": w.coil.bond} if w.coil.bond else None,
        "ohms": None
        if w.coil.broken
        else {"value": ohms.value, "low": ohms.low, "high": ohms.high},
        "roles": {r: round(p, 6) for r, p in w.roles.items()},
        "volts": None if w.volts is None else {**w.volts.as_json(), "between": list(w.coil.leads)},
    }
