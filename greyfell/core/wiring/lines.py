"""Leads as points on a line whose distances are ohms: the fit, the reading that breaks it, and what
is no line but a tree.

Along one winding resistances add up (DC, common practice; exact for a line by Kirchhoff).
"""

import itertools
import math
from dataclasses import dataclass, replace

import networkx as nx
import numpy as np

from greyfell.core.evidence.accuracy import OhmReading
from greyfell.core.evidence.told import basis_of
from greyfell.core.figures.quantity import Quantity
from greyfell.core.wiring.coil import Coil, Contradiction, Tap

TAP_GAP = 0.012
"""No two leads of one winding stand this near to each other, as a share of it: taps are some per
cent apart. Common practice."""


NO_SLIP = "wrong pair, poor contact or a figure mistyped"


Pair = frozenset[str]


Distances = dict[Pair, list[OhmReading]]


@dataclass(frozen=True)
class LineFit:
    """Points on a line: position in ohms per lead, misfit, and what misfit its limits allow."""

    positions: dict[str, float]
    chi2: float
    allowed: float
    residuals: tuple[tuple[Pair, OhmReading, float], ...]


def best_reading(pairs: Distances, x: str, y: str) -> OhmReading | None:
    """The reading of a pair with the narrowest limits; None where the pair was not read."""
    readings = pairs.get(frozenset((x, y)))
    return min(readings, key=lambda o: o.limit) if readings else None


def fit_line(nodes: list[str], pairs: Distances, without: str | None = None) -> LineFit:
    """Fit leads as points on a line so that distances are the ohms read; every pair of leads is
    tried as the ends.

    Misfit is the sum of squared residuals over standard uncertainties (limit/√3, JCGM 100:2008
    4.3.7). `without` leaves out one reading by id.
    """
    nodes = sorted(
        nodes
    )  # neither the order of leads nor of readings decides where two lines fit alike
    known = [
        (p, o) for p, v in pairs.items() if p <= set(nodes) for o in v if o.reading.id != without
    ]
    known.sort(key=lambda x: (sorted(x[0]), x[1].ohms, x[1].limit))
    if len(nodes) == 3 and len(known) == 3 and len({p for p, _ in known}) == 3:
        return _three(nodes, known)
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


def _three(nodes: list[str], known: list[tuple[Pair, OhmReading]]) -> LineFit:
    """Three leads, each pair read once: the largest is the sum of the others, and what is over is
    shared out by variances.

    The weighted least-squares solution in closed form: one condition, Lagrange's multiplier.
    """
    (far, long), *short = sorted(known, key=lambda x: -x[1].ohms)
    spreads = {p: max(o.limit, 1e-4) / math.sqrt(3) for p, o in known}
    over = long.ohms - sum(o.ohms for _, o in short)
    share = over / sum(u**2 for u in spreads.values())
    fitted = {p: o.ohms + spreads[p] ** 2 * share for p, o in short}
    first, last = sorted(far)
    (middle,) = set(nodes) - far
    start = fitted[frozenset((first, middle))]
    places = {first: 0.0, middle: start, last: start + fitted[frozenset((middle, last))]}
    least = min(places.values())
    residuals = tuple((p, o, share * spreads[p] * (1.0 if p == far else -1.0)) for p, o in known)
    return LineFit({x: places[x] - least for x in nodes}, share * over, 9.0, residuals)


def _better(a: LineFit, b: LineFit) -> bool:
    """Less misfit; or as little, and a tap nearer the middle; or that too, and shorter.

    Where a pair was not read, a lead may lie between the others or beyond them: centre taps are
    commoner than any other (common practice), and a lead rather lies between the ends than beyond.
    Where the core is one of the points, the shorter line first: a lead as far from another as the
    core is stands on the core.
    """
    if abs(a.chi2 - b.chi2) > 0.3:
        return a.chi2 < b.chi2
    (odd_a, reach_a), (odd_b, reach_b) = (_shape(f) for f in (a, b))
    if "core" in a.positions and abs(reach_a - reach_b) > 0.1 * max(reach_a, reach_b):
        same_a, same_b = _doubled(a), _doubled(b)
        return same_a < same_b if same_a != same_b else reach_a < reach_b
    if abs(odd_a - odd_b) > 0.1:
        return odd_a < odd_b
    return reach_a < reach_b


def _doubled(fit: LineFit) -> int:
    """How many pairs of leads, the core apart, stand at one place of a line: leads do not."""
    places = sorted(p for x, p in fit.positions.items() if x != "core")
    reach = max(fit.positions.values()) - min(fit.positions.values())
    return sum(b - a < TAP_GAP * reach for a, b in itertools.pairwise(places))


def _shape(fit: LineFit) -> tuple[float, float]:
    """How far the most central point of a line lies from its middle, as a share; and the line's
    length in ohms.
    """
    places = sorted(fit.positions.values())
    reach = places[-1] - places[0]
    inner = [abs((p - places[0]) / reach - 0.5) for p in places[1:-1]] if reach > 0 else []
    return min(inner, default=0.0), round(reach, 6)


def _start(nodes: list[str], table: dict[Pair, float], first: str, last: str) -> dict[str, float]:
    span = table.get(frozenset((first, last)))
    if span is None:  # not read against each other: by way of a lead that both were read against
        over = [
            table[frozenset((first, z))] + table[frozenset((z, last))]
            for z in nodes
            if frozenset((first, z)) in table and frozenset((z, last)) in table
        ]
        span = (
            min(over)
            if over
            else max([d for p, d in table.items() if first in p or last in p], default=1.0)
        )
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


def _solve_line(
    nodes: list[str],
    index: dict[str, int],
    known: list[tuple[Pair, OhmReading]],
    start: dict[str, float],
) -> LineFit | None:
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
    return LineFit(
        positions,
        chi2,
        3.0 * max(freedom, 1) + 6.0,
        tuple((p, o, float(r)) for (p, o), r in zip(known, residual, strict=True)),
    )


def _raise_if_tree(nodes: list[str], pairs: Distances) -> None:
    """Raise TwoWindings where a group that is no line is two windings touching somewhere.

    Four points on a tree: of the three ways to pair them, the pairs on separate branches have the
    smallest sum, and the other two sums are equal (four-point condition of tree distances).
    """
    for quad in itertools.combinations(nodes, 4):
        sums = []
        for a, b, c, d in ((0, 1, 2, 3), (0, 2, 1, 3), (0, 3, 1, 2)):
            one, two = best_reading(pairs, quad[a], quad[b]), best_reading(pairs, quad[c], quad[d])
            if one is None or two is None:
                break
            sums.append(
                (one.ohms + two.ohms, one.limit + two.limit, (quad[a], quad[b]), (quad[c], quad[d]))
            )
        if len(sums) < 3:
            continue
        sums.sort(key=lambda s: s[0])
        equal = abs(sums[1][0] - sums[2][0]) <= sums[1][1] + sums[2][1]
        # with the core among them only where all four hang: else it is one winding that touches the
        # core
        if equal and _hanging(sums[0][2], sums[0][3], pairs) >= (
            4 if "core" in quad else 2
        ):  # where all three are equal it is a star: the least sum splits it
            raise TwoWindings(sums[0][2], sums[0][3])


def _hanging(one: tuple[str, str], two: tuple[str, str], pairs: Distances) -> int:
    """How many leads of two touching windings hang on a branch of some ohms; 0 where one would need
    negative ohms.
    """
    long = 0
    for pair, other in ((one, two), (two, one)):
        for x, y in (pair, pair[::-1]):
            own, near, far = (
                best_reading(pairs, x, y),
                best_reading(pairs, x, other[0]),
                best_reading(pairs, y, other[0]),
            )
            if own is None or near is None or far is None:
                return 0
            branch = (own.ohms + near.ohms - far.ohms) / 2
            if branch < -(own.limit + near.limit + far.limit) / 2:
                return 0
            long += branch > 0.25 * (own.limit + near.limit + far.limit)
    return long


SUSPECT = 6.0
"""From this misfit of a line it is asked whether a tree fits: readings keep well within the limits
that it is counted in, so that sound windings stay below it. JCGM 100:2008 4.3.9; evaluation on
records of the forward model."""


class TwoWindings(Exception):
    """A conducting group turned out to be two windings that touch."""

    def __init__(self, one: tuple[str, str], two: tuple[str, str]):
        super().__init__(one, two)
        self.one, self.two = one, two


def line_of(nodes: list[str], pairs: Distances) -> tuple[Coil, list[Contradiction]]:
    """One group of leads as a winding; where its readings do not add up, the one whose absence
    mends it is named.

    Raises TwoWindings where four or more leads are no line but two windings that touch somewhere.
    """
    _bridge(nodes, pairs)
    within = {p: v for p, v in pairs.items() if p <= set(nodes)}
    ids = tuple(dict.fromkeys(o.reading.id for v in within.values() for o in v))
    if len(nodes) == 2:
        best = best_reading(within, nodes[0], nodes[1])
        assert best is not None
        positions = {nodes[0]: 0.0, nodes[1]: max(best.ohms, 0.0)}
        return coil_from(positions, within, nodes, ids, not best.below_resolution), []
    fit = fit_line(nodes, within)
    odd: list[Contradiction] = []
    if len(nodes) >= 4 and fit.chi2 > min(SUSPECT, fit.allowed) and len(ids) > len(nodes) - 1:
        _raise_if_tree(nodes, within)
    if fit.chi2 > fit.allowed and len(ids) > len(nodes) - 1:
        mended, culprit = min(_trials(nodes, within, ids), key=lambda t: t[0].chi2)
        if mended.chi2 <= mended.allowed and mended.chi2 < fit.chi2 / 4:
            odd.append(_contradiction(culprit, within, mended.positions))
            fit = mended
        else:
            worst = max(fit.residuals, key=lambda r: abs(r[2]))
            odd.append(_contradiction(worst[1].reading.id, within, fit.positions))
    spread = max(fit.positions.values())
    resolved = spread > max((o.limit for v in within.values() for o in v), default=0.0)
    return coil_from(fit.positions, within, nodes, ids, resolved), odd


def _trials(nodes: list[str], pairs: Distances, ids: tuple[str, ...]) -> list[tuple[LineFit, str]]:
    """The line without each reading, and with each reading ten or a thousand times off: the
    commonest slips first.
    """
    out: list[tuple[LineFit, str]] = []
    for i in ids:
        for factor in (0.1, 10.0, 1e-3, 1e3):
            scaled = {
                p: [replace(o, ohms=o.ohms * factor) if o.reading.id == i else o for o in v]
                for p, v in pairs.items()
            }
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
                slip = slip_of(o.ohms, expected)
                if slip == NO_SLIP:
                    slip = _swapped(x, y, o, positions) or slip
                return Contradiction(reading, (x, y), o.ohms, expected, slip)
    raise KeyError(reading)


def _swapped(x: str, y: str, said: OhmReading, positions: dict[str, float]) -> str:
    """The pair that would have read this, one probe on another lead; empty where there is none."""
    for kept, lost in ((x, y), (y, x)):
        for other in positions:
            if (
                other not in (x, y, "core")
                and abs(abs(positions[kept] - positions[other]) - said.ohms)
                <= said.limit + 0.01 * said.ohms
            ):
                return f"that is what {kept}–{other} reads: probe on {other} instead of {lost}?"
    return ""


def slip_of(said: float, expected: float) -> str:
    """The likely slip behind a reading: a factor of ten or a thousand, or none that shows."""
    if min(said, expected) > 0.05:
        ratio = said / expected
        for factor, words in (
            (10, "ten times too high"),
            (0.1, "ten times too low"),
            (1000, "a thousand times too high"),
            (1e-3, "a thousand times too low"),
        ):
            if 0.6 < ratio / factor < 1.6:
                return f"{words}: range or decimal point"
    return NO_SLIP


def coil_from(
    positions: dict[str, float],
    pairs: Distances,
    nodes: list[str],
    ids: tuple[str, ...],
    resolved: bool,
) -> Coil:
    """A winding from its points' places in ohms: ends, taps as shares, limits of its ohms, where it
    meets the core.
    """
    order = sorted(positions, key=lambda x: (positions[x], nodes.index(x) if x in nodes else 99))
    first, last = order[0], order[-1]
    if last != "core" and (first == "core" or nodes.index(first) > nodes.index(last)):
        order.reverse()
        first, last = last, first
    total = abs(positions[last] - positions[first])
    origin = positions[first]
    best = best_reading(pairs, first, last)
    if best is not None:
        limit = best.limit
    # the ends were not read against each other: the limits of the readings between them add up
    else:
        limit = sum(
            max((o.limit for o in pairs.get(frozenset(p), [])), default=0.5)
            for p in itertools.pairwise(order)
        )
    taps = tuple(
        Tap(
            x,
            min(1.0, max(0.0, abs(positions[x] - origin) / total)) if total > 0 else 0.5,
            min(0.5, limit / total) if total > 0 else 0.5,
        )
        for x in order[1:-1]
    )
    bond = None
    if "core" in (first, last):
        bond = "end"
    elif "core" in positions:
        bond = "middle"
    basis = basis_of(o.reading for v in pairs.values() for o in v)
    ohms = Quantity(max(total, 0.0), max(0.0, total - limit), max(total, 0.0) + limit, basis)
    return Coil(
        (first, last),
        taps,
        bond,
        ohms,
        ids,
        resolved and total > limit,
        {x: abs(p - origin) for x, p in positions.items()},
    )


def _bridge(group: list[str], pairs: Distances) -> None:
    """Give leads of one group that no reading of theirs links the ohms of the shortest way over
    others, at most.
    """
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
        best = best_reading(pairs, x, y)
        assert best is not None
        graph.add_edge(x, y, ohms=max(best.ohms, 0.0), best=best)
    for x, y in itertools.pairwise(islands):
        steps = [
            graph.edges[e]["best"]
            for e in itertools.pairwise(nx.shortest_path(graph, x, y, weight="ohms"))
        ]
        pairs[frozenset((x, y))] = [
            OhmReading(
                steps[0].reading, sum(max(o.ohms, 0.0) for o in steps), sum(o.limit for o in steps)
            )
        ]
