"""One group of leads that conduct to each other: the windings in it, and where windings hang on
each other or the core.
"""

import itertools
import math
from dataclasses import dataclass, field, replace

import networkx as nx

from greyfell.core.evidence.accuracy import OhmReading
from greyfell.core.figures.quantity import Quantity
from greyfell.core.wiring.coil import LEAK_OHMS, Coil, Contradiction, Joint
from greyfell.core.wiring.lines import (
    NO_SLIP,
    TAP_GAP,
    Distances,
    LineFit,
    TwoWindings,
    best_reading,
    coil_from,
    fit_line,
    line_of,
    slip_of,
)

SCALE_GAP = 40.0
"""Two leads this many times closer to each other than to the rest are a winding of their own that
something joins on."""


UNLIKE_HALVES = 1.3
"""Halves of a winding bonded in its middle have ohms within this factor: the outer turns are
longer. Common practice."""


def component(
    part: list[str], joined: Distances, elsewhere: bool
) -> tuple[list[Coil], list[Joint], list[Contradiction]]:
    """Windings, joints and contradictions of one conducting group; `elsewhere` says that another
    group could be the primary.
    """
    pairs = {p: v for p, v in joined.items() if p <= set(part)}
    found = _Found(pairs)
    clusters, rest = _scale_split(part, pairs)
    at_core = _at_core(rest, pairs, elsewhere)
    if len(at_core) > 1:
        clusters = [*clusters, at_core]
    elif at_core:
        found.coils += [replace(c, bond="end") for c in found.windings_of([*at_core, "core"])]
    rest = [x for x in rest if x not in at_core]
    for cluster in clusters:
        found.coils += found.windings_of(cluster)
        found.joints.append(_joint_of(cluster, rest, pairs))
    if len(rest) >= 2:
        for group, fault in _arms(rest, pairs):
            made = found.windings_of(group)
            if len(made) == 1:
                coil, touch = _settle_core(made[0], pairs)
                made, faults = [coil], [touch, fault]
                found.joints += [f for f in faults if f is not None]
            found.coils += made
    elif rest and rest != ["core"]:
        found.coils.append(
            Coil(
                (rest[0], "core"),
                (),
                "end",
                Quantity(0.0, 0.0, LEAK_OHMS),
                (),
                False,
                {rest[0]: 0.0},
            )
        )
    return found.coils, found.joints, found.odd


@dataclass
class _Found:
    """What a group turns out to hold."""

    pairs: Distances
    coils: list[Coil] = field(default_factory=list)
    joints: list[Joint] = field(default_factory=list)
    odd: list[Contradiction] = field(default_factory=list)

    def windings_of(self, group: list[str]) -> list[Coil]:
        """The winding that these leads are; or two that touch somewhere, with their joint noted."""
        try:
            made, bad = line_of(group, self.pairs)
        except TwoWindings as tree:
            one, two = set(tree.one), set(tree.two)
            across = (v for p, v in self.pairs.items() if len(p & one) == 1 and len(p & two) == 1)
            ids = tuple(dict.fromkeys(o.reading.id for v in across for o in v))[:8]
            self.joints.append(Joint((*tree.one, *tree.two), "windings", 0.0, ids))
            return _two_touching(group, tree, self.pairs)
        self.odd += bad
        return [made]


def could_be_primary(part: set[str], pairs: Distances) -> bool:
    """Whether a group clear of the core has ohms enough for a mains winding: more than a heater's,
    told from the probes.
    """
    found = (
        best_reading(pairs, x, y) for x, y in itertools.combinations(sorted(part - {"core"}), 2)
    )
    return "core" not in part and any(
        b is not None and b.ohms > max(0.15, 1.1 * b.limit) for b in found
    )


HV_OHMS = 30.0
"""From this on a winding at the core may be an HV winding on its return: oven HV windings have some
50 to 200 Ω, now and then less. M-T4."""


BROUGHT_OUT = 0.5
"""An HV winding's bonded end brought out on a lead reads no more than this to the core, beyond the
meter's limits. Common practice."""


NEAR_CORE = 0.04
"""A lead this near to the core, as a share of the farthest lead's ohms, is no tap of that winding.
Common practice."""


def _at_core(part: list[str], pairs: Distances, elsewhere: bool) -> list[str]:
    """Leads of a few-ohm winding that touches the core beside an HV winding's own return.

    A lead within 1.5 Ω of the core may be the HV winding's end brought out; it is only taken for
    another winding where no other winding is found that could be the primary.
    """
    if "core" not in part:
        return []
    reach = {
        x: b for x in part if x != "core" and (b := best_reading(pairs, x, "core")) is not None
    }
    far = max((b.ohms for b in reach.values()), default=0.0)
    if far < HV_OHMS:
        return []
    least = 1.5 if elsewhere else 0.0
    return [
        x
        for x, b in reach.items()
        if b.ohms < NEAR_CORE * far and b.ohms > max(1.1 * b.limit, least)
    ]


def _joint_of(cluster: list[str], rest: list[str], pairs: Distances) -> Joint:
    """How a winding of few ohms hangs on the rest of its group: at the core, or somewhere on
    another winding.

    It hangs on another winding where its ohms to that winding's lead are less than the way over the
    core.
    """
    across = [o for p, v in pairs.items() if len(p & set(cluster)) == 1 for o in v]
    ids = tuple(dict.fromkeys(o.reading.id for o in across))[:8]
    to_core = [b for x in cluster if (b := best_reading(pairs, x, "core")) is not None]
    reach = min((o.ohms for o in to_core), default=math.inf)
    others = [x for x in rest if x != "core"]
    for x in others:
        far = best_reading(pairs, x, "core")
        for y in cluster:
            direct = best_reading(pairs, x, y)
            if direct is None or (
                far is not None
                and direct.ohms > 0.97 * (reach + far.ohms) - 3 * (direct.limit + far.limit)
            ):
                continue
            return Joint((*cluster, *others), "windings", direct.ohms, ids)
    return Joint(tuple(cluster), "core", reach, ids)


def _two_touching(group: list[str], tree: TwoWindings, pairs: Distances) -> list[Coil]:
    """The two windings of a tree: each further lead goes with the pair it is nearer to."""
    sides = (list(tree.one), list(tree.two))
    for x in group:
        if x in (*tree.one, *tree.two):
            continue
        reach = [
            min(
                (b.ohms for y in side if (b := best_reading(pairs, x, y)) is not None),
                default=math.inf,
            )
            for side in sides
        ]
        sides[0 if reach[0] <= reach[1] else 1].append(x)
    made = []
    for side in sides:
        within = {p: v for p, v in pairs.items() if p <= set(side)}
        fit = fit_line(side, within)
        ids = tuple(dict.fromkeys(o.reading.id for v in within.values() for o in v))
        spread = max(fit.positions.values())
        made.append(
            coil_from(
                fit.positions,
                within,
                side,
                ids,
                spread > max((o.limit for v in within.values() for o in v), default=0.0),
            )
        )
    return made


def _scale_split(part: list[str], pairs: Distances) -> tuple[list[list[str]], list[str]]:
    """Clusters of leads far closer to each other than to the rest, and what is left (core
    included).
    """
    if len(part) < 3:
        return [], part
    graph: nx.Graph = nx.Graph()
    graph.add_nodes_from(part)
    for p in pairs:
        x, y = tuple(p)
        best = best_reading(pairs, x, y)
        assert best is not None
        graph.add_edge(x, y, ohms=max(best.ohms, 0.5 * best.limit, 0.02))
    tree = sorted(
        nx.minimum_spanning_edges(graph, algorithm="prim", weight="ohms", data=True),
        key=lambda e: e[2]["ohms"],
    )
    ohms = [e[2]["ohms"] for e in tree]
    if len(ohms) < 2:
        return [], part
    for i in sorted(range(len(ohms) - 1), key=lambda i: -ohms[i + 1] / ohms[i]):
        if ohms[i + 1] < SCALE_GAP * ohms[i]:
            break
        least = best_reading(pairs, tree[i][0], tree[i][1])
        measured = least is not None and max(least.ohms, 0.0) + least.limit < TAP_GAP * ohms[-1]
        if ohms[-1] < 30.0 and not measured:
            continue
        near: nx.Graph = nx.Graph()
        near.add_edges_from((a, b) for a, b, _ in tree[: i + 1])
        groups = (graph.subgraph(c - {"core"}) for c in nx.connected_components(near))
        # leads that only the core joins are not one winding: what was not read against each other
        # stays apart
        clusters = [
            sorted(c, key=part.index)
            for g in groups
            for c in nx.connected_components(g)
            if len(c) >= 2
        ]
        if clusters:
            taken = {x for c in clusters for x in c}
            return clusters, [x for x in part if x not in taken]
    return [], part


def _arms(part: list[str], pairs: Distances) -> list[tuple[list[str], Joint | None]]:
    """Split a group that meets the core where its leads hang on more than one winding.

    Two leads whose ohms to each other are the sum of their ohms to the core are joined only through
    it.
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
        d, dx, dy = (
            best_reading(pairs, x, y),
            best_reading(pairs, x, "core"),
            best_reading(pairs, y, "core"),
        )
        if d is None:
            continue
        if (
            dx is None
            or dy is None
            or d.ohms < dx.ohms + dy.ohms - 2 * (d.limit + dx.limit + dy.limit)
        ):
            same.add_edge(x, y)
    groups = [sorted(g, key=part.index) for g in nx.connected_components(same)]
    single = [g[0] for g in groups if len(g) == 1]
    out: list[tuple[list[str], Joint | None]] = [([*g, "core"], None) for g in groups if len(g) > 1]
    if len(single) == 2:
        a, b = (best_reading(pairs, x, "core") for x in single)
        if a is not None and b is not None and 0.6 < max(a.ohms, 0.1) / max(b.ohms, 0.1) < 1.7:
            return [*out, ([*single, "core"], None)]
    return out + [([x, "core"], None) for x in single]


def _sides(part: list[str], whole: LineFit) -> list[tuple[list[str], Joint | None]]:
    """A line with the core inside it: one winding bonded in its middle, or a winding on either side
    of the core.
    """
    at = whole.positions["core"]
    left = [x for x in part if x != "core" and whole.positions[x] < at]
    right = [x for x in part if x != "core" and whole.positions[x] >= at]
    reach = [
        abs(max((whole.positions[x] - at for x in side), key=abs, default=0.0))
        for side in (left, right)
    ]
    if not left or not right or 0.45 < reach[0] / max(reach[1], 1e-9) < 2.2:
        return [(part, None)]
    return [([*left, "core"], None), ([*right, "core"], None)]


def _two_arms(part: list[str], pairs: Distances) -> list[tuple[list[str], Joint | None]]:
    """Two leads and the core: one winding bonded in its middle, or two of high ohms bonded at one
    end each.
    """
    x, y = (p for p in part if p != "core")
    d, dx, dy = (
        best_reading(pairs, x, y),
        best_reading(pairs, x, "core"),
        best_reading(pairs, y, "core"),
    )
    if dx is None or dy is None:
        return [(part, None)]
    if d is not None:
        slack = 1.2 * (d.limit + dx.limit + dy.limit)
        off = min(abs(dx.ohms + dy.ohms - d.ohms), abs(abs(dx.ohms - dy.ohms) - d.ohms))
        branch = (dx.ohms + dy.ohms - d.ohms) / 2
        plain = (
            slip_of(dx.ohms, abs(d.ohms - dy.ohms))
            == slip_of(dy.ohms, abs(d.ohms - dx.ohms))
            == slip_of(d.ohms, dx.ohms + dy.ohms)
            == NO_SLIP
        )
        if (
            off > slack and branch > 0 and plain
        ):  # the core hangs on the winding through a branch of its own: a touch
            return [
                (
                    [x, y],
                    Joint((x, y), "core", branch, (dx.reading.id, dy.reading.id, d.reading.id)),
                )
            ]
    if min(dx.ohms, dy.ohms) < 20.0:
        return [(part, None)]
    if (
        d is None
    ):  # not read against each other: two like halves are one winding bonded in its middle
        if not _halves(dx.ohms, dy.ohms):
            return [([x, "core"], None), ([y, "core"], None)]
        pairs[frozenset((x, y))] = [OhmReading(dx.reading, dx.ohms + dy.ohms, dx.limit + dy.limit)]
        return [(part, None)]
    through = abs(d.ohms - dx.ohms - dy.ohms) < 2 * (d.limit + dx.limit + dy.limit)
    if through and not _halves(dx.ohms, dy.ohms):
        touch = Joint(
            (x, y), "core", min(dx.ohms, dy.ohms), (dx.reading.id, dy.reading.id, d.reading.id)
        )
        return [([x, y], touch)]
    return [(part, None)]


def _halves(one: float, two: float) -> bool:
    """Whether the ohms either side of the core are those of a winding bonded in its middle, and not
    of a touch somewhere else.

    A winding with one lead on either side of the core is one winding: two that are each bonded at
    an end by design are not met with on one piece, and the halves of a bonded middle differ by
    their mean turns only. Common practice.
    """
    return 1 / UNLIKE_HALVES < one / max(two, 1e-9) < UNLIKE_HALVES


def _settle_core(coil: Coil, pairs: Distances) -> tuple[Coil, Joint | None]:
    """Say where a line of points meets the core: at an end, in the middle, or by a touch that is a
    fault.
    """
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
    apart = min(
        (abs(coil.positions[x] - coil.positions[y]) for x, y in itertools.pairwise(others)),
        default=total,
    )
    if (
        inside <= 1e-9
        and nearest > max(2.0, 0.04 * total)
        and total > HV_OHMS
        and apart > 0.08 * total
    ):
        return replace(coil, bond="end"), None
    reads = [
        b
        for x in others
        if abs(coil.positions[x] - at) == nearest
        and (b := best_reading(pairs, x, "core")) is not None
    ]
    unread = max(
        (o.limit for x in others for o in pairs.get(frozenset((x, "core")), [])), default=1.0
    )
    least = max(0.0, nearest - max((b.limit for b in reads), default=2 * unread))
    if (
        inside < 0.02 * total
        and least < BROUGHT_OUT
        and (nearest < 1.5 or not reads)
        and total > HV_OHMS
    ):
        return replace(
            coil,
            bond="end",
            leads=(coil.leads[0], others[-1])
            if others[0] == coil.leads[0]
            else (others[0], coil.leads[1]),
            taps=tuple(t for t in coil.taps if t.lead not in ("core", others[0], others[-1])),
        ), None
    readings = tuple(
        dict.fromkeys(o.reading.id for x in others for o in pairs.get(frozenset((x, "core")), []))
    )
    rest = {x: p for x, p in coil.positions.items() if x != "core"}
    bare = coil_from(rest, pairs, others, coil.readings, coil.resolved)
    return bare, Joint(tuple(others), "core", nearest, readings)
