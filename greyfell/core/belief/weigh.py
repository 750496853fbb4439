"""Every reading of a piece (family, kind, roles) is a hypothesis; here each is weighed.

Its weight is prior × likelihood of everything on record: ohms, ratios, inductances, turns, wire,
iron, plate as one Gaussian model in logarithms (`solve`), and bonds, taps, colours, places and the
owner's belief as odds (`family`, `clues`). Nothing is concluded from one of them alone.
"""

import math
from collections.abc import Mapping

import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray

from greyfell.core.belief.family import Hypothesis, family_odds, hypotheses
from greyfell.core.belief.observations import Row
from greyfell.core.belief.priors import SMALL_ROLES
from greyfell.core.belief.solution import Solution, solve
from greyfell.core.evidence.kinds.lamp import Lamp
from greyfell.core.evidence.record import Reading, Transformer
from greyfell.core.families.registry import names
from greyfell.core.wiring.coil import Topology

Array = NDArray[np.float64]

KEPT = 12
"""Hypotheses carried into the volts' mixture, and every one that weighs as much as the last: which
of two alike comes first is only a matter of the letters. House rule, for speed."""
NOTHING = 1e-9
"""A hypothesis of less weight is left out of sums: a thousand of them change no figure shown."""
MOST_SLIPS = 3
"""So many observations of a record may be opened wide; where more do not belong, something else is
the matter."""
MOST_WINDINGS = 12
"""A piece of more windings is not weighed: who reads so many takes two pieces for one, or has put
down leads as pairs that belong together. House rule."""
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
"""How often an observation of a kind is a slip: wrong range, wrong pair. From memory."""
OTHER_SLIP = 0.06
"""The same for every other kind: a plate that belongs to something else, say. From memory."""
ODD_COPPER = 0.03
"""How often a small winding has copper quite unlike its kind: an auxiliary winding of thin wire
beside the main one, say. Then its ohms tell little of its volts, and a ratio read of it is believed
before them. From memory."""
UNTIED = 0.10
"""How often a piece of which nothing ties turns to volts is none of the families here: ohms and
ratios are alike for 24 V, 400 Hz, audio and instrument parts. So much of every weight goes to
`other` there. From memory: what junk boxes hold."""
SCRAMBLED = 0.25
"""How often a winding has none of the roles it looks like, where windings conduct to each other, or
to the core with nothing known: what is taken for one may be parts of two. From memory."""
LEAST_KG = 0.1
"""Lighter iron is as often a signal part's as a mains part's: its mass ties nothing. Common
practice."""
BORNE = 0.8
"""From this share of the supply's volts a winding that bore them tells what it was made for. House
rule."""
BEARS = 0.12
"""How far, in logarithms, a winding may be driven above its volts before that counts against it;
and the spread beyond. Magnetising current rises about like B^8 there. REF-M-11."""
LEAST_SHARE = 0.05
"""A driven stretch is taken for no smaller share of its winding than this."""
LAMP_SOUND, LAMP_SATURATED = 0.06, 0.94
"""How often a lamp in series is bright on a winding that bears the supply, and on one that
saturates. From memory."""
LAMP_TURNS, LAMP_WIDTH = 0.5, 0.2
"""Supply over a winding's volts, in logarithms, at which half of them saturate, and how sharply."""


class Weighed(Struct, frozen=True):
    """Every hypothesis with its weight, what solves them, and the observations opened wide.

    `score` is ln weight before it was made to sum to one; `loose` maps rows to how many standard
    deviations off they lie.
    """

    hypotheses: list[Hypothesis]
    weights: Array
    score: Array
    solution: Solution | None
    loose: dict[int, float]
    beforehand: Mapping[str, float] = field(default_factory=dict)
    scrambled: float = 0.0

    @property
    def index(self) -> int:
        """Place of the leading hypothesis; 0 where there is none."""
        return int(np.argmax(self.weights)) if self.hypotheses else 0

    @property
    def best(self) -> Hypothesis | None:
        """The leading hypothesis."""
        return self.hypotheses[self.index] if self.hypotheses else None

    def leading(self, least: float = 0.0) -> list[tuple[int, Hypothesis, float]]:
        """Place, hypothesis and weight, a share of one, of those that weigh most and more than
        `least`. Bayes' rule.
        """
        order = np.argsort(-self.weights, kind="stable")
        if len(order) > KEPT:
            least = max(least, (1 - 1e-6) * float(self.weights[order[KEPT - 1]]))
        return [
            (int(k), self.hypotheses[int(k)], float(self.weights[k]))
            for k in order
            if self.weights[k] > least
        ]

    def families(self) -> dict[str, float]:
        """The chance of each family; before any winding by what can be seen alone."""
        if not self.hypotheses:
            return dict(self.beforehand)
        out: dict[str, float] = dict.fromkeys(names(), 0.0)
        for h, weight in zip(self.hypotheses, self.weights, strict=True):
            out[h.family] += float(weight)
        return out

    def roles(self, coils: int) -> tuple[dict[str, float], ...]:
        """The chance of each role, per winding. Bayes' rule."""
        out: tuple[dict[str, float], ...] = tuple({} for _ in range(coils))
        for h, weight in zip(self.hypotheses, self.weights, strict=True):
            if weight > NOTHING:
                for i, role in enumerate(h.roles):
                    out[i][role] = out[i].get(role, 0.0) + (1 - self.scrambled) * float(weight)
        for told in out if self.scrambled else ():
            told["unknown"] = told.get("unknown", 0.0) + self.scrambled
        return out

    def elsewhere(self) -> float:
        """The chance that the piece was made for other mains than the bench's."""
        there = [w for h, w in zip(self.hypotheses, self.weights, strict=True) if not h.here]
        return float(sum(there))


def _before_any_winding(record: Transformer) -> Weighed:
    return Weighed(
        hypotheses=[],
        weights=np.zeros(0),
        score=np.zeros(0),
        solution=None,
        loose={},
        beforehand=family_odds(record),
    )


def weigh(
    record: Transformer, topology: Topology, rows: list[Row], without: str | None = None
) -> Weighed:
    """Weigh every hypothesis; observations that do not belong are found one by one, opened wide.

    `without` leaves out one group of evidence. Bayes' rule; SLIPS price what is opened.
    """
    n = len(topology.coils)
    found = hypotheses(record, topology, without) if n <= MOST_WINDINGS else []
    if not found:
        return _before_any_winding(record)
    prior = np.array([h.log_prior for h in found])
    odds = _slip_odds(found, rows)
    charge = np.zeros(len(found))
    loose: dict[int, float] = {}
    solution = solve(record, found, rows, n, frozenset())
    while True:
        robust, blame, as_it_stands = solution.robust(odds, frozenset(loose))
        score = prior + robust + charge + _drives(record, topology, found, solution)
        accuser = _accuser(found, score, blame)
        worst = int(blame[accuser])
        if worst < 0 or len(loose) == MOST_SLIPS:
            break
        loose[worst] = float(solution.left_out(accuser)[worst])
        charge = charge + as_it_stands[:, worst]
        solution = solve(record, found, rows, n, frozenset(loose))
    return Weighed(
        hypotheses=found,
        weights=_doubted(record, found, _normal(score)),
        score=score,
        solution=solution,
        loose=loose,
        scrambled=_scrambled(record, topology),
    )


def _accuser(found: list[Hypothesis], score: Array, blame: NDArray[np.int_]) -> int:
    """The hypothesis whose blame is followed: the best; or, where that is `other`, which takes
    anything, the best but for it.
    """
    k = int(np.argmax(score))
    if found[k].family != "other" or blame[k] >= 0:
        return k
    usual = np.where([h.family != "other" for h in found], score, -np.inf)
    return int(np.argmax(usual))


def _slip_odds(found: list[Hypothesis], rows: list[Row]) -> Array:
    """How often each observation (m) does not belong, under every hypothesis (k): (k, m)."""
    odds = np.tile([SLIPS.get(r.kind, OTHER_SLIP) for r in rows], (len(found), 1))
    small = np.array([[role in SMALL_ROLES for role in h.roles] for h in found])
    for j, row in enumerate(rows):
        if row.kind == "ohms":
            odds[small[:, row.coils[0]], j] = ODD_COPPER
    return odds


def _normal(score: Array) -> Array:
    weights = np.exp(score - score.max())
    return np.asarray(weights / weights.sum())


def _doubted(record: Transformer, found: list[Hypothesis], weights: Array) -> Array:
    """Weights with the doubt that ohms and ratios never take away: where nothing ties turns to
    volts, the piece may be of no usual family.
    """
    other = [h.subtype == "other" for h in found]
    if tied(record) or not any(other):
        return weights
    return np.asarray((1 - UNTIED) * weights + UNTIED * np.array(other) / sum(other))


def _scrambled(record: Transformer, topology: Topology) -> float:
    """How far roles are in doubt since windings touch."""
    known = tied(record)
    touching = any(joint.to != "core" or not known for joint in topology.joints)
    return SCRAMBLED if touching else 0.0


def tied(record: Transformer) -> bool:
    """Whether anything on record ties a winding's turns to the volts it was made for: a plate, the
    iron's mass, its section with turns, or a winding that bore volts.
    """
    plate, core = record.nameplate, record.core
    if plate is not None and (plate.primary_volts or plate.va or plate.secondary_volts):
        return True
    if plate is not None and any(o.volts for o in plate.outputs):
        return True
    counted = any(r.counts_turns for r in record.standing)
    if core is not None and (core.mass_kg or 0.0) >= LEAST_KG:
        return True
    if core is not None and core.tongue_mm and core.stack_mm and counted:
        return True
    return any(_bore(r, record.supply.volts) for r in record.standing)


def _bore(r: Reading, supply_volts: float) -> bool:
    """Whether a reading shows that a winding bears volts near the supply's."""
    if r.kind == "lamp":
        return bool(r.glow != "bright" and r.supply_volts >= BORNE * supply_volts)
    return r.kind == "no_load" and bool(r.volts >= BORNE * supply_volts)


def _drives(
    record: Transformer, topology: Topology, found: list[Hypothesis], solution: Solution
) -> Array:
    """Log-likelihood that what was driven could bear it: above its volts a winding saturates, and
    nobody reads on.
    """
    out = np.zeros(len(found))
    mean = solution.mean
    for r in record.standing:
        if r.kind == "lamp":
            out += _lamp(r, topology, mean, solution)
            continue
        drive = r.drive
        i = None if drive is None else topology.winding_spanned(drive[0])
        if drive is None or i is None:
            continue
        share = max(LEAST_SHARE, topology.coils[i].fraction_between(*drive[0]) or 1.0)
        over = math.log(drive[1] / share) - mean[:, solution.w(i)]
        out -= 0.5 * np.clip((over - BEARS) / BEARS, 0.0, 4.0) ** 2
    return out


def _lamp(r: Lamp, topology: Topology, mean: Array, solution: Solution) -> Array:
    """Log-likelihood of a lamp's glow: a winding of fewer volts than the supply saturates."""
    i = topology.coil_of(r.across[0])
    if i is None:
        return np.zeros(len(mean))
    over = math.log(r.supply_volts) - mean[:, solution.w(i)]
    saturates = 1 / (1 + np.exp(-(over - LAMP_TURNS) / LAMP_WIDTH))
    bright = LAMP_SOUND + (LAMP_SATURATED - LAMP_SOUND) * saturates
    likelihood = bright if r.glow == "bright" else 0.5 * (1 - bright) + 0.02
    return np.asarray(np.log(likelihood))
