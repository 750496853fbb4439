"""One group of leads that conduct to each other: the windings in it, and where windings hang on
each other or the core.
"""

import itertools
import math
from collections.abc import Iterable

from msgspec import Struct, field
from msgspec.structs import replace

from greyfell.core.evidence.accuracy import OhmReading
from greyfell.core.figures.quantity import Quantity
from greyfell.core.wiring.coil import LEAK_OHMS, Coil, Contradiction, Joint
from greyfell.core.wiring.graph import Edge, Graph, ends
from greyfell.core.wiring.lines import (
    NO_SLIP,
    TAP_GAP,
    Distances,
    LineFit,
    TwoWindings,
    best_reading,
    bridged,
    coil_from,
    coil_of_fit,
    fit_line,
    ids_of,
    line_of,
    pairs_of,
    slip_of,
)

SCALE_GAP = 40.0
"""Two leads this many times closer to each other than to the rest are a winding of their own that
something joins on."""
UNLIKE_HALVES = 1.3
"""Halves of a winding bonded in its middle have ohms within this factor: the outer turns are
longer. Common practice."""
LOOSE_HALVES = 1.7
"""The same where the two were not read against each other but hang on the core alone."""
UNEVEN_SIDES = 2.2
"""Leads either side of the core whose reach differs by more than this are two windings."""
HV_OHMS = 30.0
"""From this on a winding at the core may be an HV winding on its return: oven HV windings have some
50 to 200 Ω, now and then less. M-T4."""
FEW_OHMS = 10.0
"""Leads that conduct to each other with fewer ohms are one winding of few turns: with any on
the core it is a winding on the core, whatever the probes read. Common practice; M-T4."""
RETURNS_OHMS = 15.0
"""From this on a winding may be one that returns through the core by design. M-T4: an oven's HV
winding has 50 to 200 Ω, now and then less."""
METAL_OHMS = 0.001
"""Volts over a direct current below this, read at the leads' ends, are those of two wires on one
lug; a heater of three turns has some milliohms and more. Common practice."""
LEAST_HV_HALF = 20.0
"""Below this neither of two leads is the far end of an HV winding bonded at the core. M-T4."""
BROUGHT_OUT = 0.5
"""An HV winding's bonded end brought out on a lead reads no more than this to the core, beyond the
meter's limits. Common practice."""
RETURN_OHMS = 1.5
"""A lead nearer to the core than this may be an HV winding's end brought out. Common practice."""
NEAR_CORE = 0.04
"""A lead this near to the core, as a share of the farthest lead's ohms, is no tap of that winding.
Common practice."""
LEAST_MAINS_OHMS = 0.15
"""A mains winding has more ohms than this: larger pieces are not lifted by hand. M-T4."""
MIDDLE = 0.15
"""The core further inside a line than this share stands in its middle, not near an end."""
AT_THE_END = 0.02
"""The core nearer to an end than this share stands at it, brought out on a lead."""
WELL_APART = 0.08
"""Leads of a winding bonded at its end stand further apart than this share of it."""
CLEAR_OHMS = 2.0
"""A bonded end's nearest lead is at least this far from the core, Ω, and NEAR_CORE of the whole."""
SHORT_WAY = 0.97
"""A direct reading below this share of the way over the core does not go over the core."""


class Arm(Struct, frozen=True):
    """Leads that may be one winding, with the touch that ties them to the core, and a distance
    worked out where none was read.
    """

    leads: list[str]
    touch: Joint | None = None
    worked_out: Distances = field(default_factory=dict)


class Settled(Struct, frozen=True):
    """A winding whose meeting with the core is settled, and the touch where that is a fault."""

    coil: Coil
    touch: Joint | None = None


class Found(Struct):
    """What a group turns out to hold; distances worked out on the way are added to `pairs`."""

    pairs: Distances
    coils: list[Coil] = field(default_factory=list)
    joints: list[Joint] = field(default_factory=list)
    odd: list[Contradiction] = field(default_factory=list)

    def windings_of(self, group: list[str]) -> list[Coil]:
        """The winding that these leads are; or two that touch somewhere, with their joint noted."""
        self.pairs = bridged(group, self.pairs)
        try:
            made, bad = line_of(group, self.pairs)
        except TwoWindings as tree:
            one, two = set(tree.one), set(tree.two)
            across = {p: v for p, v in self.pairs.items() if len(p & one) == len(p & two) == 1}
            leads = (*tree.one, *tree.two)
            self.joints.append(Joint(leads, "windings", 0.0, ids_of(across)[:8]))
            return _two_touching(group, tree, self.pairs)
        self.odd += bad
        return [made]

    def add_arm(self, arm: Arm) -> None:
        """Add what an arm turns out to be, and its touches."""
        self.pairs = {**self.pairs, **arm.worked_out}
        made = self.windings_of(arm.leads)
        if len(made) == 1:
            settled = settle_core(made[0], self.pairs)
            made = [settled.coil]
            touches = (settled.touch, arm.touch)
            self.joints += [t for t in touches if t is not None]
        self.coils += made


def component(part: list[str], joined: Distances, elsewhere: bool) -> Found:
    """Windings, joints and contradictions of one conducting group; `elsewhere` says that another
    group could be the primary.
    """
    found = Found(pairs_of(part, joined))
    clusters, rest = _scale_split(part, found.pairs)
    at_core = _at_core(rest, found.pairs, elsewhere)
    if len(at_core) > 1:
        clusters = [*clusters, at_core]
    elif at_core:
        made = found.windings_of([*at_core, "core"])
        found.coils += [replace(c, bond="end") for c in made]
    rest = [x for x in rest if x not in at_core]
    for cluster in clusters:
        found.coils += found.windings_of(cluster)
        found.joints.append(_joint_of(cluster, rest, found.pairs))
    if len(rest) >= 2:
        for arm in _arms(rest, found.pairs):
            found.add_arm(arm)
    elif rest and rest != ["core"]:
        found.coils.append(_single(rest[0]))
    return found


def _single(lead: str) -> Coil:
    """A lead that hangs on the core by another winding's leave: an end whose winding is unread."""
    return Coil(
        leads=(lead, "core"),
        taps=(),
        bond="end",
        ohms=Quantity(0.0, 0.0, LEAK_OHMS),
        readings=(),
        resolved=False,
        positions={lead: 0.0},
    )


def could_be_primary(part: set[str], pairs: Distances) -> bool:
    """Whether a group clear of the core has ohms enough for a mains winding: more than a heater's,
    told from the probes.
    """
    if "core" in part:
        return False
    read = (best_reading(pairs, x, y) for x, y in itertools.combinations(sorted(part), 2))
    return any(b is not None and b.ohms > max(LEAST_MAINS_OHMS, 1.1 * b.limit) for b in read)


def _to_core(leads: Iterable[str], pairs: Distances) -> dict[str, OhmReading]:
    """The best reading of each lead to the core, where it was read."""
    read = {x: best_reading(pairs, x, "core") for x in leads if x != "core"}
    return {x: b for x, b in read.items() if b is not None}


def is_metal(readings: Iterable[OhmReading]) -> bool:
    """Whether a direct current between two points showed no more than a joint of metal."""
    return any(o.reading.test_amps and o.ohms <= METAL_OHMS for o in readings)


def _at_core(part: list[str], pairs: Distances, elsewhere: bool) -> list[str]:
    """Leads of a few-ohm winding that touches the core beside an HV winding's own return.

    Leads that conduct to each other with few ohms, and with few to the core, are such a winding. A
    single lead within 1.5 Ω of the core may be the HV winding's end brought out; it is only taken
    for another winding where no other winding is found that could be the primary.
    """
    if "core" not in part:
        return []
    reach = _to_core(part, pairs)
    far = max((b.ohms for b in reach.values()), default=0.0)
    if far < RETURNS_OHMS:
        return []
    for few in _of_few_ohms(part, pairs):
        if any(x in reach and reach[x].ohms < FEW_OHMS for x in few):
            return few
    if far < HV_OHMS:
        return []
    least = RETURN_OHMS if elsewhere else 0.0
    return [x for x, b in reach.items() if max(1.1 * b.limit, least) < b.ohms < NEAR_CORE * far]


def _of_few_ohms(part: list[str], pairs: Distances) -> list[list[str]]:
    """Leads, two or more, that direct readings of few ohms join."""
    leads = [x for x in part if x != "core"]
    near = Graph(leads)
    for x, y in itertools.combinations(leads, 2):
        direct = pairs.get(frozenset((x, y)), [])
        if direct and min(o.ohms for o in direct) < FEW_OHMS and not is_metal(direct):
            near.join(x, y)
    return [sorted(g, key=part.index) for g in near.parts() if len(g) > 1]


def _joint_of(cluster: list[str], rest: list[str], pairs: Distances) -> Joint:
    """How a winding of few ohms hangs on the rest of its group: at the core, or somewhere on
    another winding.

    It hangs on another winding where its ohms to that winding's lead are less than the way over the
    core.
    """
    inside = set(cluster)
    ids = ids_of({p: v for p, v in pairs.items() if len(p & inside) == 1})[:8]
    reach = min((b.ohms for b in _to_core(cluster, pairs).values()), default=math.inf)
    others = [x for x in rest if x != "core"]
    for x, y in itertools.product(others, cluster):
        direct = best_reading(pairs, x, y)
        if direct is not None and not _over_core(direct, reach, best_reading(pairs, x, "core")):
            return Joint((*cluster, *others), "windings", direct.ohms, ids)
    if math.isinf(reach):  # nothing of it was read to the core: what it hangs on is a winding
        return Joint((*cluster, *others), "windings", _least_between(cluster, others, pairs), ids)
    return Joint(tuple(cluster), "core", reach, ids)


def _least_between(one: list[str], two: list[str], pairs: Distances) -> float:
    """The fewest ohms read from any of some leads to any of others."""
    read = (best_reading(pairs, x, y) for x, y in itertools.product(one, two))
    return min((b.ohms for b in read if b is not None), default=math.inf)


def _over_core(direct: OhmReading, reach: float, far: OhmReading | None) -> bool:
    """Whether a reading between two windings is the way over the core."""
    if far is None:
        return False
    slack = 3 * (direct.limit + far.limit)
    return direct.ohms > SHORT_WAY * (reach + far.ohms) - slack


def _two_touching(group: list[str], tree: TwoWindings, pairs: Distances) -> list[Coil]:
    """The two windings of a tree: each further lead goes with the pair it is nearer to."""
    one, two = list(tree.one), list(tree.two)
    for x in group:
        if x not in (*tree.one, *tree.two):
            nearer = one if _reach(x, one, pairs) <= _reach(x, two, pairs) else two
            nearer.append(x)
    made = []
    for side in (one, two):
        within = pairs_of(side, pairs)
        made.append(coil_of_fit(fit_line(side, within), within, side))
    return made


def _reach(x: str, side: list[str], pairs: Distances) -> float:
    """The fewest ohms from a lead to any of a side."""
    read = (best_reading(pairs, x, y) for y in side)
    return min((b.ohms for b in read if b is not None), default=math.inf)


# ------------------------------------------------------------------ clusters of few ohms


def _scale_split(part: list[str], pairs: Distances) -> tuple[list[list[str]], list[str]]:
    """Clusters of leads far closer to each other than to the rest, and what is left (core
    included).
    """
    tree = _spanning(part, pairs) if len(part) >= 3 else []
    ohms = [e[2] for e in tree]
    steps = range(len(ohms) - 1)
    for i in sorted(steps, key=lambda i: -ohms[i + 1] / ohms[i]):
        if ohms[i + 1] < SCALE_GAP * ohms[i]:
            break
        if ohms[-1] < HV_OHMS and not _told_apart(tree[i], ohms[-1], pairs):
            continue
        clusters = _clusters(part, pairs, tree[: i + 1])
        if _one_place(part, clusters, pairs):
            return [], part
        if clusters:
            taken = {x for c in clusters for x in c}
            return clusters, [x for x in part if x not in taken]
    return [], part


def _one_place(part: list[str], clusters: list[list[str]], pairs: Distances) -> bool:
    """Whether two leads that cannot be told apart, with a single lead beside them, are two leads at
    one end of one winding: a link, a thermal cut-out, two wires on one tag.
    """
    if "core" in part or len(part) != 3 or len(clusters) != 1:
        return False
    x, y = clusters[0]
    near = best_reading(pairs, x, y)
    return near is not None and near.below_resolution


def _spanning(part: list[str], pairs: Distances) -> list[Edge]:
    """The tree of least ohms over a group, the nearest leads first."""
    return _graph_of(part, pairs).spanning()


def _graph_of(part: list[str], pairs: Distances) -> Graph:
    """Leads as nodes, readings as edges with their ohms, at least what the meter can tell."""
    graph = Graph(part)
    for pair in pairs:
        x, y = ends(pair)
        best = best_reading(pairs, x, y)
        if best is not None:
            graph.join(x, y, max(best.ohms, 0.5 * best.limit, 0.02))
    return graph


def _told_apart(edge: Edge, longest: float, pairs: Distances) -> bool:
    """Whether two leads were read so finely that they are nearer than any two taps."""
    least = best_reading(pairs, edge[0], edge[1])
    return least is not None and max(least.ohms, 0.0) + least.limit < TAP_GAP * longest


def _clusters(part: list[str], pairs: Distances, edges: list[Edge]) -> list[list[str]]:
    """Leads that short edges join; those that only the core joins are not one winding: what was
    not read against each other stays apart.
    """
    graph = _graph_of(part, pairs)
    near = Graph(edges=[(a, b) for a, b, _ in edges])
    out = []
    for joined in near.parts():
        for c in graph.parts(joined - {"core"}):
            if len(c) >= 2:
                out.append(sorted(c, key=part.index))
    return out


# ------------------------------------------------------------------ arms of the core


def _arms(part: list[str], pairs: Distances) -> list[Arm]:
    """Split a group that meets the core where its leads hang on more than one winding.

    Two leads whose ohms to each other are the sum of their ohms to the core are joined only through
    it.
    """
    if "core" not in part or len(part) <= 2:
        return [Arm(part)]
    if len(part) == 3:
        return _apart(part) if _each_its_own(part, pairs) else [_one_of_two(part, pairs)]
    whole = fit_line(part, pairs)
    if whole.chi2 <= whole.allowed:
        return _sides(part, whole)
    groups = _joined_beside_core(part, pairs)
    single = [g[0] for g in groups if len(g) == 1]
    out = [Arm([*g, "core"]) for g in groups if len(g) > 1]
    if len(single) == 2 and _like(_to_core(single, pairs)):
        return [*out, Arm([*single, "core"])]
    return out + [Arm([x, "core"]) for x in single]


def _like(reach: dict[str, OhmReading]) -> bool:
    """Whether two leads reach the core through about the same ohms."""
    if len(reach) < 2:
        return False
    one, two = (max(b.ohms, 0.1) for b in reach.values())
    return 0.6 < one / two < LOOSE_HALVES


def _joined_beside_core(part: list[str], pairs: Distances) -> list[list[str]]:
    """Leads grouped by readings between them that do not go over the core."""
    leads = [x for x in part if x != "core"]
    reach = _to_core(leads, pairs)
    same = Graph(leads)
    for x, y in itertools.combinations(leads, 2):
        d = best_reading(pairs, x, y)
        if d is not None and _beside(d, reach.get(x), reach.get(y)):
            same.join(x, y)
    return [sorted(g, key=part.index) for g in same.parts()]


def _beside(d: OhmReading, dx: OhmReading | None, dy: OhmReading | None) -> bool:
    """Whether a reading between two leads is shorter than the way over the core."""
    if dx is None or dy is None:
        return True
    return d.ohms < dx.ohms + dy.ohms - 2 * (d.limit + dx.limit + dy.limit)


def _sides(part: list[str], whole: LineFit) -> list[Arm]:
    """A line with the core inside it: one winding bonded in its middle, or a winding on either side
    of the core.
    """
    at = whole.positions["core"]
    off = {x: whole.positions[x] - at for x in part if x != "core"}
    left = [x for x in off if off[x] < 0]
    right = [x for x in off if off[x] >= 0]
    if not left or not right:
        return [Arm(part)]
    near, far = (max(abs(off[x]) for x in side) for side in (left, right))
    if 1 / UNEVEN_SIDES < near / max(far, 1e-9) < UNEVEN_SIDES:
        return [Arm(part)]
    return [Arm([*left, "core"]), Arm([*right, "core"])]


def _apart(part: list[str]) -> list[Arm]:
    """Two leads that hang on the core each by itself."""
    return [Arm([x, "core"]) for x in part if x != "core"]


def _each_its_own(part: list[str], pairs: Distances) -> bool:
    """Whether two leads at the core, not read against each other, are both long and unlike: then
    each is a winding of its own.
    """
    x, y = (p for p in part if p != "core")
    reach = _to_core((x, y), pairs)
    if len(reach) < 2 or best_reading(pairs, x, y) is not None:
        return False
    one, two = reach[x].ohms, reach[y].ohms
    return min(one, two) >= LEAST_HV_HALF and not like_halves(one, two)


def _one_of_two(part: list[str], pairs: Distances) -> Arm:
    """Two leads and the core as one winding: bonded in its middle, touched by the core, or with a
    touch beside it.
    """
    x, y = (p for p in part if p != "core")
    reach, d = _to_core((x, y), pairs), best_reading(pairs, x, y)
    if len(reach) < 2:
        return Arm(part)
    dx, dy = reach[x], reach[y]
    if d is None:
        if min(dx.ohms, dy.ohms) < LEAST_HV_HALF:
            return Arm(part)
        # not read against each other: two like halves are one winding bonded in its middle
        whole = OhmReading(dx.reading, dx.ohms + dy.ohms, dx.limit + dy.limit)
        return Arm(part, worked_out={frozenset((x, y)): [whole]})
    ids = (dx.reading.id, dy.reading.id, d.reading.id)
    branch = (dx.ohms + dy.ohms - d.ohms) / 2
    if branch > 0 and _hangs_by_a_branch(d, dx, dy):
        return Arm([x, y], Joint((x, y), "core", branch, ids))
    if min(dx.ohms, dy.ohms) < LEAST_HV_HALF:
        return Arm(part)
    through = abs(d.ohms - dx.ohms - dy.ohms) < 2 * (d.limit + dx.limit + dy.limit)
    if through and not like_halves(dx.ohms, dy.ohms):
        return Arm([x, y], Joint((x, y), "core", min(dx.ohms, dy.ohms), ids))
    return Arm(part)


def _hangs_by_a_branch(d: OhmReading, dx: OhmReading, dy: OhmReading) -> bool:
    """Whether the core hangs on a winding through a branch of its own: a touch, where no slip of
    the pen explains the three readings.
    """
    slack = 1.2 * (d.limit + dx.limit + dy.limit)
    through = abs(dx.ohms + dy.ohms - d.ohms)
    beyond = abs(abs(dx.ohms - dy.ohms) - d.ohms)
    slips = {
        slip_of(dx, abs(d.ohms - dy.ohms)),
        slip_of(dy, abs(d.ohms - dx.ohms)),
        slip_of(d, dx.ohms + dy.ohms),
    }
    return min(through, beyond) > slack and slips == {NO_SLIP}


def like_halves(one: float, two: float) -> bool:
    """Whether the ohms either side of the core are those of a winding bonded in its middle, and not
    of a touch somewhere else.

    A winding with one lead on either side of the core is one winding: two that are each bonded at
    an end by design are not met with on one piece, and the halves of a bonded middle differ by
    their mean turns only. Common practice.

    >>> like_halves(100.0, 125.0), like_halves(100.0, 140.0)
    (True, False)
    """
    return 1 / UNLIKE_HALVES < one / max(two, 1e-9) < UNLIKE_HALVES


# ------------------------------------------------------------------ where a winding meets the core


class _Line(Struct, frozen=True):
    """A winding with the core among its points, seen along its ohms."""

    coil: Coil
    pairs: Distances

    @property
    def at(self) -> float:
        """Where the core stands, in ohms from the first lead."""
        return self.coil.positions["core"]

    @property
    def order(self) -> list[str]:
        """Points from one end to the other."""
        return sorted(self.coil.positions, key=lambda x: self.coil.positions[x])

    @property
    def others(self) -> list[str]:
        """The leads, in order."""
        return [x for x in self.order if x != "core"]

    @property
    def total(self) -> float:
        """Ohms from one end to the other."""
        first, last = self.order[0], self.order[-1]
        return self.coil.positions[last] - self.coil.positions[first]

    @property
    def inside(self) -> float:
        """Ohms from the core to the nearer end; nought where it is an end."""
        first, last = self.order[0], self.order[-1]
        places = self.coil.positions
        return min(self.at - places[first], places[last] - self.at)

    def off(self, x: str) -> float:
        """Ohms from a lead to the core."""
        return abs(self.coil.positions[x] - self.at)

    @property
    def nearest(self) -> float:
        """Ohms from the core to the nearest lead."""
        return min(self.off(x) for x in self.others)

    @property
    def apart(self) -> float:
        """The fewest ohms between neighbouring leads."""
        places = [self.coil.positions[x] for x in self.others]
        return min((b - a for a, b in itertools.pairwise(places)), default=self.total)

    @property
    def read_at_core(self) -> Distances:
        """Readings from any lead to the core."""
        wanted = {frozenset((x, "core")) for x in self.others}
        return {p: v for p, v in self.pairs.items() if p in wanted}


def settle_core(coil: Coil, pairs: Distances) -> Settled:
    """Say where a line of points meets the core: at an end, in the middle, or by a touch that is a
    fault.
    """
    if "core" not in coil.positions:
        return Settled(coil)
    if len(coil.positions) == 2:
        return Settled(replace(coil, bond="end"))
    line = _Line(coil, pairs)
    if line.inside > MIDDLE * line.total:
        return Settled(replace(coil, bond="middle"))
    if _bonded_at_an_end(line):
        return Settled(replace(coil, bond="end"))
    if _end_brought_out(line):
        return Settled(_with_end_out(line))
    rest = {x: p for x, p in coil.positions.items() if x != "core"}
    bare = coil_from(rest, pairs, line.others, coil.readings, coil.resolved)
    ids = _ordered_ids(line)
    return Settled(bare, Joint(tuple(line.others), "core", line.nearest, ids))


def _bonded_at_an_end(line: _Line) -> bool:
    """The core as an end of a winding of many ohms, its leads clear of it and of each other."""
    clear = line.nearest > max(CLEAR_OHMS, NEAR_CORE * line.total)
    long = line.total > HV_OHMS
    return line.inside <= 1e-9 and clear and long and line.apart > WELL_APART * line.total


def _end_brought_out(line: _Line) -> bool:
    """The bonded end of a winding of many ohms brought out on a lead: nothing between it and the
    core beyond what the meter may err by.
    """
    nearest = line.nearest
    at_it = [x for x in line.others if line.off(x) == nearest]
    reads = _to_core(at_it, line.pairs).values()
    unread = max((o.limit for v in line.read_at_core.values() for o in v), default=1.0)
    least = max(0.0, nearest - max((b.limit for b in reads), default=2 * unread))
    near = least < BROUGHT_OUT and (nearest < RETURN_OHMS or not reads)
    return line.inside < AT_THE_END * line.total and near and line.total > HV_OHMS


def _with_end_out(line: _Line) -> Coil:
    """The winding with the lead that is its bonded end for an end, instead of the core."""
    coil, first, last = line.coil, line.others[0], line.others[-1]
    leads = (coil.leads[0], last) if first == coil.leads[0] else (first, coil.leads[1])
    taps = tuple(t for t in coil.taps if t.lead not in ("core", first, last))
    return replace(coil, bond="end", leads=leads, taps=taps)


def _ordered_ids(line: _Line) -> tuple[str, ...]:
    """Readings to the core, in the order of the leads."""
    read = (line.pairs.get(frozenset((x, "core")), []) for x in line.others)
    return tuple(dict.fromkeys(o.reading.id for v in read for o in v))
