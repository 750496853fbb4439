"""From pairwise ohms to windings: which leads belong together, in which order, and what meets the core.

Along one winding resistances add up, so leads lie on a line whose distances are ohms (DC, common practice; exact for
a line by Kirchhoff). Each group is fitted as points on a line; a reading that breaks additivity is named, not averaged.
"""

import itertools
import math
from collections import defaultdict
from dataclasses import dataclass, field, replace
from functools import cached_property

import networkx as nx
import numpy as np

from greyfell.core.instruments import OhmReading, ohms_of, unstated_probes
from greyfell.core.quantity import Quantity, basis_of
from greyfell.core.record import Transformer

LEAK_OHMS = 50e3
"""A finite reading above this is leakage through insulation: no mains-frequency winding has so many ohms (the largest
sign windings reach some 30 kΩ). Common practice."""

NO_SLIP = "wrong pair, poor contact or a figure mistyped"
SCALE_GAP = 40.0
"""Two leads this many times closer to each other than to the rest are a winding of their own that something joins on."""


TAP_GAP = 0.012
"""No two leads of one winding stand this near to each other, as a share of it: taps are some per cent apart. Common practice."""


@dataclass(frozen=True)
class Tap:
    """A lead between a winding's ends: its share of the ohms, counted from the first end."""

    lead: str
    fraction: float
    limit: float


@dataclass(frozen=True)
class Coil:
    """One winding as the ohmmeter sees it: two ends, taps in order, where it meets the core."""

    leads: tuple[str, str]
    taps: tuple[Tap, ...]
    bond: str | None
    ohms: Quantity
    readings: tuple[str, ...]
    resolved: bool
    positions: dict[str, float] = field(default_factory=dict)
    broken: bool = False

    @cached_property
    def members(self) -> tuple[str, ...]:
        """Every lead of the winding that is not the core, ends first."""
        return tuple(x for x in (*self.leads, *(t.lead for t in self.taps)) if x != "core")

    def fraction_between(self, x: str, y: str) -> float | None:
        """The share of the winding's ohms between two of its points; None where a point is not on it."""
        total = abs(self.positions.get(self.leads[1], 1.0) - self.positions.get(self.leads[0], 0.0))
        if x not in self.positions or y not in self.positions:
            return None
        if {x, y} == set(self.leads) or total <= 0:
            return 1.0
        return abs(self.positions[x] - self.positions[y]) / total


@dataclass(frozen=True)
class Joint:
    """Two things that conduct to each other and should not: the leads, through about how many ohms, by which readings."""

    leads: tuple[str, ...]
    to: str
    ohms: float
    readings: tuple[str, ...]


@dataclass(frozen=True)
class Leak:
    """A finite but high resistance between two points."""

    points: tuple[str, str]
    ohms: float
    reading: str


@dataclass(frozen=True)
class Contradiction:
    """A reading that the others do not bear out: what it says and what they say, in ohms."""

    reading: str
    points: tuple[str, str]
    said: float
    expected: float
    slip: str


@dataclass(frozen=True)
class Topology:
    """What the ohmmeter settles: windings, core leads, loose leads, joints that should not be, leaks, contradictions."""

    coils: tuple[Coil, ...]
    core_leads: tuple[str, ...]
    loose: tuple[str, ...]
    untested: tuple[str, ...]
    joints: tuple[Joint, ...]
    leaks: tuple[Leak, ...]
    contradictions: tuple[Contradiction, ...]
    core_proved: bool
    open_to_core: dict[str, float]
    core_ohms: dict[str, float]

    def coil_of(self, lead: str) -> int | None:
        """Index of the winding a lead belongs to, or None."""
        for i, coil in enumerate(self.coils):
            if lead in coil.positions or lead in coil.members:
                return i
        return None


Pair = frozenset[str]
Distances = dict[Pair, list[OhmReading]]


@dataclass(frozen=True)
class LineFit:
    """Points on a line: position in ohms per lead, misfit, and what misfit its limits allow."""

    positions: dict[str, float]
    chi2: float
    allowed: float
    residuals: tuple[tuple[Pair, OhmReading, float], ...]


def find_windings(record: Transformer) -> Topology:
    """Group a record's leads into windings with taps in order. Pure; readings struck out take no part."""
    leads = [lead.id for lead in record.leads]
    ohms: Distances = defaultdict(list)
    probes = unstated_probes(record.standing)
    tested: dict[str, set[str]] = defaultdict(set)
    for reading in record.standing:
        if reading.kind not in ("resistance", "dc_drop"):
            continue
        pair = tuple("core" if x == "earth" else x for x in (getattr(reading, "between", None) or reading.across))
        if pair[0] == pair[1]:
            continue
        ohms[frozenset(pair)].append(ohms_of(reading, probes))
        tested[pair[0]].add(pair[1])
        tested[pair[1]].add(pair[0])

    joined, leaks, contradictions = _classify(ohms)
    core_leads = _core_leads(leads, joined, record)
    to_core = {x: min(abs(o.ohms) for o in joined[frozenset((x, "core"))]) for x in leads if frozenset((x, "core")) in joined}
    joined = _merge_core(joined, core_leads)
    graph: nx.Graph = nx.Graph()
    graph.add_nodes_from(x for x in leads if x not in core_leads)
    graph.add_edges_from(tuple(pair) for pair in joined)

    coils: list[Coil] = []
    joints: list[Joint] = []
    parts = [p for p in nx.connected_components(graph) if len(p) >= 2]
    for part in parts:
        elsewhere = any(_could_be_primary(p, joined) for p in parts if p is not part)
        made, faults, odd = _component(sorted(part, key=lambda x: _place(leads, x)), joined, elsewhere)
        coils += made
        joints += faults
        contradictions += odd
    in_coils = {x for c in coils for x in c.members}
    alone = [x for x in leads if x not in in_coils and x not in core_leads]
    loose = tuple(x for x in alone if len(tested[x] - set(core_leads)) >= max(1, (len(leads) - 1) // 2))
    coils = [_clued_ends(_name_bond_lead(c, core_leads, record), record) for c in coils]
    coils += _broken_pairs(record, loose)
    coils.sort(key=lambda c: min(_place(leads, x) for x in c.members))
    return Topology(
        coils=tuple(coils),
        core_leads=tuple(core_leads),
        loose=loose,
        untested=tuple(x for x in alone if x not in loose),
        joints=tuple(joints),
        leaks=tuple(leaks),
        contradictions=tuple(contradictions),
        core_proved=any(r.kind == "core_proof" and r.ohms <= 1.0 for r in record.standing),
        open_to_core=_open_to_core(ohms, core_leads),
        core_ohms=to_core,
    )


def _place(leads: list[str], x: str) -> int:
    return leads.index(x) if x in leads else len(leads)


def _classify(ohms: Distances) -> tuple[Distances, list[Leak], list[Contradiction]]:
    """Split pairs into conducting and leaking, and name repeated readings of one pair that exclude each other."""
    joined: Distances = {}
    leaks: list[Leak] = []
    odd: list[Contradiction] = []
    for pair, readings in ohms.items():
        x, y = sorted(pair)
        low = [o for o in readings if o.ohms < LEAK_OHMS]
        high = [o for o in readings if o.ohms >= LEAK_OHMS]
        finite = min(low, key=lambda o: o.ohms) if low else None
        high_enough = [o for o in high if finite is not None and _would_show(o, finite.ohms)]
        if finite is not None and high_enough:
            high = high_enough
            odd.append(Contradiction(high[0].reading.id, (x, y), high[0].ohms, finite.ohms, "open against conducting"))
        if low:
            joined[pair] = low
            for a, b in itertools.combinations(low, 2):
                if abs(a.ohms - b.ohms) > 1.5 * (a.limit + b.limit) + 0.1 and a.reading.kind == b.reading.kind:
                    odd.append(Contradiction(b.reading.id, (x, y), b.ohms, a.ohms, _slip(b.ohms, a.ohms)))
        else:
            leaks += [Leak((x, y), o.ohms, o.reading.id) for o in high if math.isfinite(o.ohms)]
    return joined, leaks, odd


def _would_show(high: OhmReading, ohms: float) -> bool:
    """Whether an open (or leaking) reading was on a range that would have shown these ohms."""
    span = high.reading.range_ohms if high.reading.kind == "resistance" else None
    return ohms < 0.9 * span if span is not None else ohms < 1e3


def _core_leads(leads: list[str], joined: Distances, record: Transformer) -> list[str]:
    """Leads that are the core itself: no resolvable ohms to it, and nothing but the core behind them."""
    near = []
    for x in leads:
        readings = joined.get(frozenset((x, "core")))
        if readings and all(o.ohms <= min(o.limit, 0.3) + 0.02 for o in readings):
            near.append(x)
    by_id = {lead.id: lead for lead in record.leads}
    near = [x for x in near if not _paired_low(by_id[x], near, joined)]
    if len(near) <= 1:
        return near
    earth_like = [x for x in near if _looks_earth(by_id[x])]
    if earth_like:
        return earth_like
    twisted = [x for x in near if by_id[x].twisted_with in near]
    plain = [x for x in near if x not in twisted] or near
    return sorted(plain, key=lambda x: min(abs(o.ohms) for o in joined[frozenset((x, "core"))]))[:1]


def _paired_low(lead: object, near: list[str], joined: Distances) -> bool:
    """Whether a lead at the core is twisted with the other end of a few-ohm winding: then it is that winding's end."""
    mate = getattr(lead, "twisted_with", None)
    readings = joined.get(frozenset((getattr(lead, "id", ""), mate or "")), [])
    return mate not in near and any(o.ohms < 10.0 for o in readings)


def _looks_earth(lead: object) -> bool:
    colour, stripe = (getattr(lead, "colour", None) or "").lower(), (getattr(lead, "stripe", None) or "").lower()
    return colour == "green" and (stripe == "yellow" or getattr(lead, "end", None) == "lug")


def _merge_core(joined: Distances, core_leads: list[str]) -> Distances:
    merged: Distances = defaultdict(list)
    for pair, readings in joined.items():
        renamed = frozenset("core" if x in core_leads else x for x in pair)
        if len(renamed) == 2:
            merged[renamed] += readings
    return dict(merged)


def _open_to_core(ohms: Distances, core_leads: list[str]) -> dict[str, float]:
    """Per lead, the highest range on which it read open to the core; 0 where the range was not written down."""
    best: dict[str, float] = {}
    for pair, readings in ohms.items():
        others = [x for x in pair if x != "core" and x not in core_leads]
        if len(others) == 1:
            for o in readings:
                if math.isinf(o.ohms):
                    best[others[0]] = max(best.get(others[0], 0.0), o.reading.range_ohms or 0.0)
    return best


# ------------------------------------------------------------------ one conducting group


def _component(part: list[str], joined: Distances, elsewhere: bool) -> tuple[list[Coil], list[Joint], list[Contradiction]]:
    pairs = {p: v for p, v in joined.items() if p <= set(part)}
    clusters, rest = _scale_split(part, pairs)
    coils_first: list[Coil] = []
    at_core = _at_core(rest, pairs, elsewhere)
    if at_core:
        if len(at_core) > 1:
            clusters = [*clusters, at_core]
        else:
            made, _ = _line([*at_core, "core"], pairs)
            coils_first = [replace(made, bond="end")]
        rest = [x for x in rest if x not in at_core]
    coils: list[Coil] = list(coils_first)
    joints: list[Joint] = []
    odd: list[Contradiction] = []
    for cluster in clusters:
        made, bad = _line(cluster, pairs)
        coils.append(made)
        odd += bad
    for cluster in clusters:
        joints.append(_joint_of(cluster, rest, pairs))
    if len(rest) >= 2:
        for group, fault in _arms(rest, pairs):
            try:
                made, bad = _line(group, pairs)
            except _Tree as tree:
                coils += _two_touching(group, tree, pairs)
                ids = tuple(dict.fromkeys(o.reading.id for p, v in pairs.items() if len(p & set(tree.one)) == 1 for o in v))[:8]
                joints.append(Joint((*tree.one, *tree.two), "windings", 0.0, ids))
                continue
            odd += bad
            coil, touch = _settle_core(made, pairs)
            coils.append(coil)
            if touch is not None:
                joints.append(touch)
            if fault is not None:
                joints.append(fault)
    elif rest and rest != ["core"]:
        coils.append(Coil((rest[0], "core"), (), "end", Quantity(0.0, 0.0, LEAK_OHMS), (), False, {rest[0]: 0.0}))
    return coils, joints, odd


def _bridge(group: list[str], pairs: Distances) -> None:
    """Give leads of one group that no reading of theirs links the ohms of the shortest way over others, at most."""
    if all(frozenset(p) in pairs for p in itertools.pairwise(group)):
        return
    within: nx.Graph = nx.Graph()
    within.add_nodes_from(group)
    within.add_edges_from(tuple(p) for p in pairs if p <= set(group))
    islands = [min(c, key=group.index) for c in nx.connected_components(within)]
    if len(islands) == 1:
        return
    graph: nx.Graph = nx.Graph()
    for p in pairs:
        x, y = tuple(p)
        best = _best(pairs, x, y)
        assert best is not None
        graph.add_edge(x, y, ohms=max(best.ohms, 0.0), best=best)
    for x, y in itertools.pairwise(islands):
        steps = [graph.edges[e]["best"] for e in itertools.pairwise(nx.shortest_path(graph, x, y, weight="ohms"))]
        pairs[frozenset((x, y))] = [OhmReading(steps[0].reading, sum(max(o.ohms, 0.0) for o in steps), sum(o.limit for o in steps))]


def _could_be_primary(part: set[str], pairs: Distances) -> bool:
    """Whether a group clear of the core has ohms enough for a mains winding: more than a heater's, told from the probes."""
    found = (_best(pairs, x, y) for x, y in itertools.combinations(sorted(part - {"core"}), 2))
    return "core" not in part and any(b is not None and b.ohms > max(0.15, 1.1 * b.limit) for b in found)


NEAR_CORE = 0.04
"""A lead this near to the core, as a share of the farthest lead's ohms, is no tap of that winding. Common practice."""


def _at_core(part: list[str], pairs: Distances, elsewhere: bool) -> list[str]:
    """Leads of a few-ohm winding that touches the core beside an HV winding's own return.

    A lead within 1.5 Ω of the core may be the HV winding's end brought out; it is only taken for another winding where
    no other winding is found that could be the primary.
    """
    if "core" not in part:
        return []
    reach = {x: b for x in part if x != "core" and (b := _best(pairs, x, "core")) is not None}
    far = max((b.ohms for b in reach.values()), default=0.0)
    if far < 60.0:
        return []
    least = 1.5 if elsewhere else 0.0
    return [x for x, b in reach.items() if b.ohms < NEAR_CORE * far and b.ohms > max(1.1 * b.limit, least)]


def _joint_of(cluster: list[str], rest: list[str], pairs: Distances) -> Joint:
    """How a winding of few ohms hangs on the rest of its group: at the core, or somewhere on another winding.

    It hangs on another winding where its ohms to that winding's lead are less than the way over the core.
    """
    across = [o for p, v in pairs.items() if len(p & set(cluster)) == 1 for o in v]
    ids = tuple(dict.fromkeys(o.reading.id for o in across))[:8]
    to_core = [b for x in cluster if (b := _best(pairs, x, "core")) is not None]
    reach = min((o.ohms for o in to_core), default=math.inf)
    others = [x for x in rest if x != "core"]
    for x in others:
        far = _best(pairs, x, "core")
        for y in cluster:
            direct = _best(pairs, x, y)
            if direct is None or (far is not None and direct.ohms > 0.97 * (reach + far.ohms) - 3 * (direct.limit + far.limit)):
                continue
            return Joint((*cluster, *others), "windings", direct.ohms, ids)
    return Joint(tuple(cluster), "core", reach, ids)


def _two_touching(group: list[str], tree: "_Tree", pairs: Distances) -> list[Coil]:
    """The two windings of a tree: each further lead goes with the pair it is nearer to."""
    sides = (list(tree.one), list(tree.two))
    for x in group:
        if x in (*tree.one, *tree.two):
            continue
        reach = [min((b.ohms for y in side if (b := _best(pairs, x, y)) is not None), default=math.inf) for side in sides]
        sides[0 if reach[0] <= reach[1] else 1].append(x)
    made = []
    for side in sides:
        within = {p: v for p, v in pairs.items() if p <= set(side)}
        fit = fit_line(side, within)
        ids = tuple(dict.fromkeys(o.reading.id for v in within.values() for o in v))
        spread = max(fit.positions.values())
        made.append(_coil_from(fit.positions, within, side, ids, spread > max((o.limit for v in within.values() for o in v), default=0.0)))
    return made


def _best(pairs: Distances, x: str, y: str) -> OhmReading | None:
    readings = pairs.get(frozenset((x, y)))
    return min(readings, key=lambda o: o.limit) if readings else None


def _scale_split(part: list[str], pairs: Distances) -> tuple[list[list[str]], list[str]]:
    """Clusters of leads far closer to each other than to the rest, and what is left (core included)."""
    if len(part) < 3:
        return [], part
    graph: nx.Graph = nx.Graph()
    graph.add_nodes_from(part)
    for p in pairs:
        x, y = tuple(p)
        best = _best(pairs, x, y)
        assert best is not None
        graph.add_edge(x, y, ohms=max(best.ohms, 0.5 * best.limit, 0.02))
    tree = sorted(nx.minimum_spanning_edges(graph, algorithm="prim", weight="ohms", data=True), key=lambda e: e[2]["ohms"])
    ohms = [e[2]["ohms"] for e in tree]
    if len(ohms) < 2:
        return [], part
    for i in sorted(range(len(ohms) - 1), key=lambda i: -ohms[i + 1] / ohms[i]):
        if ohms[i + 1] < SCALE_GAP * ohms[i]:
            break
        least = _best(pairs, tree[i][0], tree[i][1])
        measured = least is not None and max(least.ohms, 0.0) + least.limit < TAP_GAP * ohms[-1]
        if ohms[-1] < 30.0 and not measured:
            continue
        near: nx.Graph = nx.Graph()
        near.add_edges_from((a, b) for a, b, _ in tree[: i + 1])
        groups = (graph.subgraph(c - {"core"}) for c in nx.connected_components(near))
        # leads that only the core joins are not one winding: what was not read against each other stays apart
        clusters = [sorted(c, key=part.index) for g in groups for c in nx.connected_components(g) if len(c) >= 2]
        if clusters:
            taken = {x for c in clusters for x in c}
            return clusters, [x for x in part if x not in taken]
    return [], part


def _arms(part: list[str], pairs: Distances) -> list[tuple[list[str], Joint | None]]:
    """Split a group that meets the core where its leads hang on more than one winding.

    Two leads whose ohms to each other are the sum of their ohms to the core are joined only through it.
    """
    if "core" not in part or len(part) <= 2:
        return [(part, None)]
    if len(part) == 3:
        return _two_arms(part, pairs)
    whole = fit_line(part, pairs)
    if whole.chi2 <= whole.allowed:
        return _sides(part, whole)
    leads = [x for x in part if x != "core"]
    same: nx.Graph = nx.Graph()
    same.add_nodes_from(leads)
    for x, y in itertools.combinations(leads, 2):
        d, dx, dy = _best(pairs, x, y), _best(pairs, x, "core"), _best(pairs, y, "core")
        if d is None:
            continue
        if dx is None or dy is None or d.ohms < dx.ohms + dy.ohms - 2 * (d.limit + dx.limit + dy.limit):
            same.add_edge(x, y)
    groups = [sorted(g, key=part.index) for g in nx.connected_components(same)]
    single = [g[0] for g in groups if len(g) == 1]
    out: list[tuple[list[str], Joint | None]] = [([*g, "core"], None) for g in groups if len(g) > 1]
    if len(single) == 2:
        a, b = (_best(pairs, x, "core") for x in single)
        if a is not None and b is not None and 0.6 < max(a.ohms, 0.1) / max(b.ohms, 0.1) < 1.7:
            return [*out, ([*single, "core"], None)]
    return out + [([x, "core"], None) for x in single]


def _sides(part: list[str], whole: LineFit) -> list[tuple[list[str], Joint | None]]:
    """A line with the core inside it: one winding bonded in its middle, or a winding on either side of the core."""
    at = whole.positions["core"]
    left = [x for x in part if x != "core" and whole.positions[x] < at]
    right = [x for x in part if x != "core" and whole.positions[x] >= at]
    reach = [abs(max((whole.positions[x] - at for x in side), key=abs, default=0.0)) for side in (left, right)]
    if not left or not right or 0.45 < reach[0] / max(reach[1], 1e-9) < 2.2:
        return [(part, None)]
    return [([*left, "core"], None), ([*right, "core"], None)]


def _two_arms(part: list[str], pairs: Distances) -> list[tuple[list[str], Joint | None]]:
    """Two leads and the core: one winding bonded in its middle, or two of high ohms bonded at one end each."""
    x, y = (p for p in part if p != "core")
    d, dx, dy = _best(pairs, x, y), _best(pairs, x, "core"), _best(pairs, y, "core")
    if dx is None or dy is None:
        return [(part, None)]
    if d is not None:
        slack = 1.2 * (d.limit + dx.limit + dy.limit)
        off = min(abs(dx.ohms + dy.ohms - d.ohms), abs(abs(dx.ohms - dy.ohms) - d.ohms))
        branch = (dx.ohms + dy.ohms - d.ohms) / 2
        plain = (
            _slip(dx.ohms, abs(d.ohms - dy.ohms)) == _slip(dy.ohms, abs(d.ohms - dx.ohms)) == _slip(d.ohms, dx.ohms + dy.ohms) == NO_SLIP
        )
        if off > slack and branch > 0 and plain:  # the core hangs on the winding through a branch of its own: a touch
            return [([x, y], Joint((x, y), "core", branch, (dx.reading.id, dy.reading.id, d.reading.id)))]
    if min(dx.ohms, dy.ohms) < 20.0:
        return [(part, None)]
    if d is None:  # not read against each other: two like halves are one winding bonded in its middle
        if not 0.45 < dx.ohms / dy.ohms < 2.2:
            return [([x, "core"], None), ([y, "core"], None)]
        pairs[frozenset((x, y))] = [OhmReading(dx.reading, dx.ohms + dy.ohms, dx.limit + dy.limit)]
        return [(part, None)]
    through = abs(d.ohms - dx.ohms - dy.ohms) < 2 * (d.limit + dx.limit + dy.limit)
    if through and not 0.45 < dx.ohms / dy.ohms < 2.2:
        return [([x, "core"], None), ([y, "core"], None)]
    return [(part, None)]


def _settle_core(coil: Coil, pairs: Distances) -> tuple[Coil, Joint | None]:
    """Say where a line of points meets the core: at an end, in the middle, or by a touch that is a fault."""
    if "core" not in coil.positions or len(coil.positions) == 2:
        return (replace(coil, bond="end") if "core" in coil.positions else coil), None
    order = sorted(coil.positions, key=lambda x: coil.positions[x])
    total = coil.positions[order[-1]] - coil.positions[order[0]]
    at = coil.positions["core"]
    inside = min(at - coil.positions[order[0]], coil.positions[order[-1]] - at)
    if inside > 0.15 * total:
        return replace(coil, bond="middle"), None
    others = [x for x in order if x != "core"]
    nearest = min(abs(coil.positions[x] - at) for x in others)
    apart = min((abs(coil.positions[x] - coil.positions[y]) for x, y in itertools.pairwise(others)), default=total)
    if inside <= 1e-9 and nearest > max(2.0, 0.04 * total) and total > 30.0 and apart > 0.08 * total:
        return replace(coil, bond="end"), None
    if inside < 0.02 * total and nearest < 1.5 and total > 30.0:
        return replace(coil, bond="end", leads=(coil.leads[0], others[-1]) if others[0] == coil.leads[0]
                       else (others[0], coil.leads[1]), taps=tuple(t for t in coil.taps if t.lead not in ("core", others[0], others[-1]))), None  # fmt: skip
    readings = tuple(dict.fromkeys(o.reading.id for x in others for o in pairs.get(frozenset((x, "core")), [])))
    rest = {x: p for x, p in coil.positions.items() if x != "core"}
    bare = _coil_from(rest, pairs, others, coil.readings, coil.resolved)
    return bare, Joint(tuple(others), "core", nearest, readings)


def fit_line(nodes: list[str], pairs: Distances, without: str | None = None) -> LineFit:
    """Fit leads as points on a line so that distances are the ohms read; every pair of leads is tried as the ends.

    Misfit is the sum of squared residuals over standard uncertainties (limit/√3, JCGM 100:2008 4.3.7).
    `without` leaves out one reading by id.
    """
    known = [(p, o) for p, v in pairs.items() if p <= set(nodes) for o in v if o.reading.id != without]
    index = {x: i for i, x in enumerate(nodes)}
    table = {p: o.ohms for p, o in known}
    best: LineFit | None = None
    complete = all(frozenset(p) in table for p in itertools.combinations(nodes, 2))
    ends = sorted(itertools.combinations(nodes, 2), key=lambda p: -table.get(frozenset(p), 0.0))
    for first, last in ends:
        start = _start(nodes, table, first, last)
        fit = _solve_line(nodes, index, known, start)
        if fit is not None and (best is None or _better(fit, best)):
            best = fit
            if complete and best.chi2 < 0.3 * best.allowed:
                break  # every pair read, the largest are the ends, and it fits
    if best is None:
        return LineFit({x: float(i) for i, x in enumerate(nodes)}, math.inf, 0.0, ())
    return best


def _better(a: LineFit, b: LineFit) -> bool:
    """Less misfit; or as little, and a tap nearer the middle; or that too, and shorter.

    Where a pair was not read, a lead may lie between the others or beyond them: centre taps are commoner than any other
    (common practice), and a lead rather lies between the ends than beyond.
    """
    if abs(a.chi2 - b.chi2) > 0.3:
        return a.chi2 < b.chi2
    (odd_a, reach_a), (odd_b, reach_b) = (_shape(f) for f in (a, b))
    if abs(odd_a - odd_b) > 0.1:
        return odd_a < odd_b
    return reach_a < reach_b


def _shape(fit: LineFit) -> tuple[float, float]:
    """How far the most central point of a line lies from its middle, as a share; and the line's length in ohms."""
    places = sorted(fit.positions.values())
    reach = places[-1] - places[0]
    inner = [abs((p - places[0]) / reach - 0.5) for p in places[1:-1]] if reach > 0 else []
    return min(inner, default=0.0), round(reach, 6)


def _start(nodes: list[str], table: dict[Pair, float], first: str, last: str) -> dict[str, float]:
    span = table.get(frozenset((first, last)))
    if span is None:
        span = max([d for p, d in table.items() if first in p or last in p], default=1.0)
    start = {first: 0.0, last: max(span, 1e-6)}
    for x in nodes:
        if x in start:
            continue
        a, b = table.get(frozenset((first, x))), table.get(frozenset((x, last)))
        if a is not None and b is not None:
            start[x] = (a + span - b) / 2
        elif a is not None:
            start[x] = a
        elif b is not None:
            start[x] = span - b
        else:
            start[x] = span / 2
    return start


def _solve_line(nodes: list[str], index: dict[str, int], known: list[tuple[Pair, OhmReading]], start: dict[str, float]) -> LineFit | None:
    n = len(nodes)
    x = np.array([start[name] for name in nodes])
    pairs = [tuple(sorted(p, key=lambda v: index[v])) for p, _ in known]
    i = np.array([index[a] for a, _ in pairs], dtype=int)
    j = np.array([index[b] for _, b in pairs], dtype=int)
    d = np.array([o.ohms for _, o in known])
    u = np.array([max(o.limit, 1e-4) / math.sqrt(3) for _, o in known])
    rows = np.arange(len(d))
    for _ in range(4):
        sign = np.where(x[j] >= x[i], 1.0, -1.0)
        a = np.zeros((len(d) + 1, n))
        a[rows, j] += sign / u
        a[rows, i] -= sign / u
        a[len(d), 0] = 1.0
        y = np.append(d / u, x[0])
        new = np.linalg.lstsq(a, y, rcond=None)[0]
        same = np.array_equal(np.where(new[j] >= new[i], 1.0, -1.0), sign)
        x = new
        if same:
            break
    residual = (d - np.abs(x[j] - x[i])) / u
    chi2 = float(residual @ residual)
    freedom = max(0, len(d) - (n - 1))
    positions = {name: float(x[index[name]] - x.min()) for name in nodes}
    return LineFit(positions, chi2, 3.0 * max(freedom, 1) + 6.0, tuple((p, o, float(r)) for (p, o), r in zip(known, residual, strict=True)))


def _raise_if_tree(nodes: list[str], pairs: Distances) -> None:
    """Raise _Tree where a group that is no line is two windings touching somewhere.

    Four points on a tree: of the three ways to pair them, the pairs on separate branches have the smallest sum, and the
    other two sums are equal (four-point condition of tree distances).
    """
    for quad in itertools.combinations(nodes, 4):
        sums = []
        for a, b, c, d in ((0, 1, 2, 3), (0, 2, 1, 3), (0, 3, 1, 2)):
            one, two = _best(pairs, quad[a], quad[b]), _best(pairs, quad[c], quad[d])
            if one is None or two is None:
                break
            sums.append((one.ohms + two.ohms, one.limit + two.limit, (quad[a], quad[b]), (quad[c], quad[d])))
        if len(sums) < 3:
            continue
        sums.sort(key=lambda s: s[0])
        equal = abs(sums[1][0] - sums[2][0]) <= sums[1][1] + sums[2][1]
        # with the core among them only where all four hang: else it is one winding that touches the core
        if equal and _hanging(sums[0][2], sums[0][3], pairs) >= (
            4 if "core" in quad else 2
        ):  # where all three are equal it is a star: the least sum splits it
            raise _Tree(sums[0][2], sums[0][3])


def _hanging(one: tuple[str, str], two: tuple[str, str], pairs: Distances) -> int:
    """How many leads of two touching windings hang on a branch of some ohms; 0 where one would need negative ohms."""
    long = 0
    for pair, other in ((one, two), (two, one)):
        for x, y in (pair, pair[::-1]):
            own, near, far = _best(pairs, x, y), _best(pairs, x, other[0]), _best(pairs, y, other[0])
            if own is None or near is None or far is None:
                return 0
            branch = (own.ohms + near.ohms - far.ohms) / 2
            if branch < -(own.limit + near.limit + far.limit) / 2:
                return 0
            long += branch > 0.25 * (own.limit + near.limit + far.limit)
    return long


class _Tree(Exception):
    """A conducting group turned out to be two windings that touch."""

    def __init__(self, one: tuple[str, str], two: tuple[str, str]):
        super().__init__(one, two)
        self.one, self.two = one, two


def _line(nodes: list[str], pairs: Distances) -> tuple[Coil, list[Contradiction]]:
    """One group as a winding; where its readings do not add up, the one whose absence mends it is named."""
    _bridge(nodes, pairs)
    within = {p: v for p, v in pairs.items() if p <= set(nodes)}
    ids = tuple(dict.fromkeys(o.reading.id for v in within.values() for o in v))
    if len(nodes) == 2:
        best = _best(within, nodes[0], nodes[1])
        assert best is not None
        positions = {nodes[0]: 0.0, nodes[1]: max(best.ohms, 0.0)}
        return _coil_from(positions, within, nodes, ids, not best.below_resolution), []
    fit = fit_line(nodes, within)
    odd: list[Contradiction] = []
    if fit.chi2 > fit.allowed and len(ids) > len(nodes) - 1:
        if len(nodes) >= 4:
            _raise_if_tree(nodes, within)
        mended, culprit = min(_trials(nodes, within, ids), key=lambda t: t[0].chi2)
        if mended.chi2 <= mended.allowed and mended.chi2 < fit.chi2 / 4:
            odd.append(_contradiction(culprit, within, mended.positions))
            fit = mended
        else:
            worst = max(fit.residuals, key=lambda r: abs(r[2]))
            odd.append(_contradiction(worst[1].reading.id, within, fit.positions))
    spread = max(fit.positions.values())
    resolved = spread > max((o.limit for v in within.values() for o in v), default=0.0)
    return _coil_from(fit.positions, within, nodes, ids, resolved), odd


def _trials(nodes: list[str], pairs: Distances, ids: tuple[str, ...]) -> list[tuple[LineFit, str]]:
    """The line without each reading, and with each reading ten or a thousand times off: the commonest slips first."""
    out: list[tuple[LineFit, str]] = []
    for i in ids:
        for factor in (0.1, 10.0, 1e-3, 1e3):
            scaled = {p: [replace(o, ohms=o.ohms * factor) if o.reading.id == i else o for o in v] for p, v in pairs.items()}
            fit = fit_line(nodes, scaled)
            out.append((replace(fit, chi2=fit.chi2 + 0.5), i))
        alone = fit_line(nodes, pairs, without=i)
        out.append((replace(alone, chi2=alone.chi2 + 1.5), i))
    return out


def _contradiction(reading: str, pairs: Distances, positions: dict[str, float]) -> Contradiction:
    for pair, readings in pairs.items():
        for o in readings:
            if o.reading.id == reading:
                x, y = sorted(pair)
                expected = abs(positions[x] - positions[y])
                slip = _slip(o.ohms, expected)
                if slip == NO_SLIP:
                    slip = _swapped(x, y, o, positions) or slip
                return Contradiction(reading, (x, y), o.ohms, expected, slip)
    raise KeyError(reading)


def _swapped(x: str, y: str, said: OhmReading, positions: dict[str, float]) -> str:
    """The pair that would have read this, one probe on another lead; empty where there is none."""
    for kept, lost in ((x, y), (y, x)):
        for other in positions:
            if other not in (x, y, "core") and abs(abs(positions[kept] - positions[other]) - said.ohms) <= said.limit + 0.01 * said.ohms:
                return f"that is what {kept}–{other} reads: probe on {other} instead of {lost}?"
    return ""


def _slip(said: float, expected: float) -> str:
    """The likely slip behind a reading: a factor of ten or a thousand, or none that shows."""
    if min(said, expected) > 0.05:
        ratio = said / expected
        for factor, words in ((10, "ten times too high"), (0.1, "ten times too low"),
                              (1000, "a thousand times too high"), (1e-3, "a thousand times too low")):  # fmt: skip
            if 0.6 < ratio / factor < 1.6:
                return f"{words}: range or decimal point"
    return NO_SLIP


def _coil_from(positions: dict[str, float], pairs: Distances, nodes: list[str], ids: tuple[str, ...], resolved: bool) -> Coil:
    order = sorted(positions, key=lambda x: (positions[x], nodes.index(x) if x in nodes else 99))
    first, last = order[0], order[-1]
    if last != "core" and (first == "core" or nodes.index(first) > nodes.index(last)):
        order.reverse()
        first, last = last, first
    total = abs(positions[last] - positions[first])
    origin = positions[first]
    best = _best(pairs, first, last)
    if best is not None:
        limit = best.limit
    else:  # the ends were not read against each other: the limits of the readings between them add up
        limit = sum(max((o.limit for o in pairs.get(frozenset(p), [])), default=0.5) for p in itertools.pairwise(order))
    taps = tuple(
        Tap(x, min(1.0, max(0.0, abs(positions[x] - origin) / total)) if total > 0 else 0.5,
            min(0.5, limit / total) if total > 0 else 0.5)
        for x in order[1:-1]
    )  # fmt: skip
    bond = None
    if "core" in (first, last):
        bond = "end"
    elif "core" in positions:
        bond = "middle"
    basis = basis_of(o.reading for v in pairs.values() for o in v)
    ohms = Quantity(max(total, 0.0), max(0.0, total - limit), max(total, 0.0) + limit, basis)
    return Coil((first, last), taps, bond, ohms, ids, resolved and total > limit,
                {x: abs(p - origin) for x, p in positions.items()})  # fmt: skip


def _clued_ends(coil: Coil, record: Transformer) -> Coil:
    """Where ohms cannot order three leads, what can be seen may: a stripe marks the tap, twisted leads are the ends.

    Common practice (a stripe is often the centre tap of its plain partner); the fraction stays unsettled, ½ ± ½.
    """
    if coil.resolved or len(coil.taps) != 1 or coil.bond is not None:
        return coil
    leads = {x.id: x for x in record.leads if x.id in coil.members}
    striped = [x for x, lead in leads.items() if lead.stripe]
    ends = [x for x, lead in leads.items() if lead.twisted_with in leads]
    tap = striped[0] if len(striped) == 1 else next((x for x in leads if x not in ends), "") if len(ends) == 2 else ""
    if not tap or coil.taps[0].lead == tap:
        return coil
    first, last = (x for x in coil.members if x != tap)
    total = coil.ohms.value
    return replace(coil, leads=(first, last), taps=(Tap(tap, 0.5, 0.5),),
                   positions={first: 0.0, tap: total / 2, last: total})  # fmt: skip


def _broken_pairs(record: Transformer, loose: tuple[str, ...]) -> list[Coil]:
    """Loose leads that look like the two ends of one winding: twisted together, alike, or simply the only two."""
    leads = {x.id: x for x in record.leads if x.id in loose}
    pairs: list[tuple[str, str]] = []
    left = list(leads)
    for x in list(left):
        mate = leads[x].twisted_with
        if x in left and mate in left:
            pairs.append((x, mate))
            left = [y for y in left if y not in (x, mate)]
    for x, y in itertools.combinations(list(left), 2):
        alike = leads[x].colour and leads[x].colour == leads[y].colour and leads[x].place == leads[y].place
        if x in left and y in left and (alike or len(left) == 2):
            pairs.append((x, y))
            left = [z for z in left if z not in (x, y)]
    return [Coil(p, (), None, Quantity(LEAK_OHMS, 0.0, LEAK_OHMS), (), False, {p[0]: 0.0, p[1]: LEAK_OHMS}, broken=True) for p in pairs]


def _name_bond_lead(coil: Coil, core_leads: list[str], record: Transformer) -> Coil:
    """Where the bonded end is brought out on a lead of its own, name that lead instead of the core."""
    if coil.bond != "end" or "core" not in coil.leads or "core" not in coil.positions or len(core_leads) != 1:
        return coil
    lead = next(x for x in record.leads if x.id == core_leads[0])
    if _looks_earth(lead):
        return coil
    rename = {"core": lead.id}
    leads = tuple(rename.get(x, x) for x in coil.leads)
    positions = {**coil.positions, lead.id: coil.positions["core"]}
    return replace(coil, leads=(leads[0], leads[1]), positions=positions)
