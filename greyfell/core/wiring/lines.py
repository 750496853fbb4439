"""Leads as points on a line whose distances are ohms: the fit, the reading that breaks it, and what
is no line but a tree.

Along one winding resistances add up (DC, common practice; exact for a line by Kirchhoff).
"""

import itertools
import math
from collections.abc import Mapping

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from greyfell.core.evidence.accuracy import OhmReading
from greyfell.core.evidence.reading_in_words import basis_of
from greyfell.core.figures.limits import SLIP_WITHIN
from greyfell.core.figures.quantity import Quantity
from greyfell.core.wiring.coil import Coil, Contradiction, Tap
from greyfell.core.wiring.graph import Graph, ends

TAP_GAP = 0.012
"""No two leads of one winding stand this near to each other, as a share of it: taps are some per
cent apart. Common practice."""


LEAST_LIMIT = 1e-4
"""No ohmmeter tells less than this, Ω: keeps a reading without limits from ruling the fit."""
ROUNDS = 4
"""So many times the order of a line's points is asked again."""
MANY_POINTS, MOST_STARTS = 8, 8
"""With more points than these, so many pairs are tried as a line's ends, the furthest apart first:
one of them is, unless that many readings are slips. House rule, for speed."""
MANY_READINGS, MOST_SUSPECTS = 28, 8
"""Of more readings than these, so many are asked whether they are slips, those that lie furthest
off first. House rule, for speed."""
LIKE_MISFIT = 4.0
"""Two orders of a line's points are alike while their misfits differ by no more: two standard
deviations."""
ORDER_GAP = 0.05
"""Their difference counts where some pair would read apart by more than this share of the winding.
House rule."""
MOST_IN_QUADS = 12
"""So many points of a group are tried in fours for two windings that touch, those whose readings
fit a line worst first. House rule, for speed."""
NO_SLIP = "wrong pair, poor contact or a figure mistyped"


Pair = frozenset[str]


Distances = dict[Pair, list[OhmReading]]


class LineFit(Struct, frozen=True):
    """Points on a line: position in ohms per lead, misfit, what misfit its limits allow, and the
    unread pair that tells this order of the points from another that fits as well.
    """

    positions: dict[str, float]
    chi2: float
    allowed: float
    residuals: tuple[tuple[Pair, OhmReading, float], ...]
    telling: tuple[str, str] | None = None

    def between(self, x: str, y: str) -> float:
        """Ohms between two points as this line has them."""
        return abs(self.positions[x] - self.positions[y])


def best_reading(pairs: Distances, x: str, y: str) -> OhmReading | None:
    """The reading of a pair with the narrowest limits; None where the pair was not read."""
    readings = pairs.get(frozenset((x, y)))
    return min(readings, key=lambda o: o.limit) if readings else None


def fit_line(nodes: list[str], pairs: Distances, without: str | None = None) -> LineFit:
    """Fit leads as points on a line so that distances are the ohms read; every pair of leads is
    tried as the ends. `without` leaves out one reading by id.

    Misfit is the sum of squared residuals over standard uncertainties (limit/√3, JCGM 100:2008
    4.3.7).
    """
    nodes = sorted(nodes)  # neither the order of leads nor of readings decides between like lines
    known = _known(nodes, pairs, without)
    if len(nodes) == 3 and len(known) == 3 and len({p for p, _ in known}) == 3:
        return _three(nodes, known)
    table = {p: o.ohms for p, o in known}
    squares = _Squares.of(nodes, known)
    complete = all(frozenset(p) in table for p in itertools.combinations(nodes, 2))
    ends = sorted(itertools.combinations(nodes, 2), key=lambda p: -table.get(frozenset(p), 0.0))
    best: LineFit | None = None
    tried: list[LineFit] = []
    for first, last in ends if len(nodes) <= MANY_POINTS else ends[:MOST_STARTS]:
        fit = squares.solve(_start(nodes, table, first, last))
        tried.append(fit)
        if best is None or _better(fit, best):
            best = fit
            if complete and best.chi2 < 0.3 * best.allowed:
                break  # every pair read, the largest are the ends, and it fits
    if best is None:
        return LineFit({x: float(i) for i, x in enumerate(nodes)}, math.inf, 0.0, ())
    return best if complete else replace(best, telling=_telling(best, tried, table))


def _telling(
    best: LineFit, tried: list[LineFit], table: dict[Pair, float]
) -> tuple[str, str] | None:
    """The unread pair of which lines that fit as well say what differs most: readings that share a
    lead do not tell on which side of it the others lie. None where every such line says the same,
    and where the core is among the points: its place is settled by rules of its own.
    """
    if "core" in best.positions:
        return None
    nodes = sorted(best.positions)
    unread = [p for p in itertools.combinations(nodes, 2) if frozenset(p) not in table]
    alike = [f for f in tried if f.chi2 <= best.chi2 + LIKE_MISFIT]
    apart = {p: max(abs(f.between(*p) - best.between(*p)) for f in alike) for p in unread}
    pair = max(unread, key=lambda p: apart[p], default=None)
    if pair is None or apart[pair] <= ORDER_GAP * max(best.positions.values()):
        return None
    return pair


Known = list[tuple[Pair, OhmReading]]
"""Readings with their pairs, in an order that does not depend on when they were taken."""


def _known(nodes: list[str], pairs: Distances, without: str | None) -> Known:
    among = pairs_of(nodes, pairs)
    known = [(p, o) for p, v in among.items() for o in v if o.reading.id != without]
    return sorted(known, key=lambda x: (sorted(x[0]), x[1].ohms, x[1].limit))


def _three(nodes: list[str], known: list[tuple[Pair, OhmReading]]) -> LineFit:
    """Three leads, each pair read once: the largest is the sum of the others, and what is over is
    shared out by variances.

    The weighted least-squares solution in closed form: one condition, Lagrange's multiplier.
    """
    (far, long), *short = sorted(known, key=lambda x: -x[1].ohms)
    spreads = {p: max(o.limit, LEAST_LIMIT) / math.sqrt(3) for p, o in known}
    over = long.ohms - sum(o.ohms for _, o in short)
    share = over / sum(u**2 for u in spreads.values())
    fitted = {p: o.ohms + spreads[p] ** 2 * share for p, o in short}
    places = _between(far, nodes, fitted)
    least = min(places.values())
    residuals = tuple((p, o, share * spreads[p] * (1.0 if p == far else -1.0)) for p, o in known)
    return LineFit({x: places[x] - least for x in nodes}, share * over, 9.0, residuals)


def _between(ends: Pair, nodes: list[str], apart: Mapping[Pair, float]) -> dict[str, float]:
    first, last = sorted(ends)
    (middle,) = set(nodes) - ends
    start = apart[frozenset((first, middle))]
    return {first: 0.0, middle: start, last: start + apart[frozenset((middle, last))]}


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
    """Places to begin from, were these two the ends."""
    span = _span_of(nodes, table, first, last)
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


def _span_of(nodes: list[str], table: dict[Pair, float], first: str, last: str) -> float:
    """Ohms between two ends; where they were not read against each other, by way of a lead that
    both were read against.
    """
    read = table.get(frozenset((first, last)))
    if read is not None:
        return read
    legs = ((table.get(frozenset((first, z))), table.get(frozenset((z, last)))) for z in nodes)
    over = [a + b for a, b in legs if a is not None and b is not None]
    if over:
        return min(over)
    return max((d for p, d in table.items() if {first, last} & p), default=1.0)


class _Squares(Struct, frozen=True):
    """Distances between points of a line as a least-squares problem: the two points of each
    reading, its ohms and its standard uncertainty.
    """

    nodes: list[str]
    known: Known
    near: NDArray[np.int_]
    far: NDArray[np.int_]
    ohms: NDArray[np.float64]
    spread: NDArray[np.float64]

    @classmethod
    def of(cls, nodes: list[str], known: Known) -> "_Squares":
        """The problem of these readings."""
        index = {x: i for i, x in enumerate(nodes)}
        places = [sorted(index[x] for x in p) for p, _ in known]
        return cls(
            nodes=nodes,
            known=known,
            near=np.array([a for a, _ in places], dtype=int),
            far=np.array([b for _, b in places], dtype=int),
            ohms=np.array([o.ohms for _, o in known]),
            spread=np.array([max(o.limit, LEAST_LIMIT) / math.sqrt(3) for _, o in known]),
        )

    def solve(self, start: dict[str, float]) -> LineFit:
        """The line nearest to a start; which of two points lies first is settled in rounds."""
        x = np.array([start[name] for name in self.nodes])
        for _ in range(ROUNDS):
            sign = self._order(x)
            new = self._solved(x, sign)
            same = np.array_equal(self._order(new), sign)
            x = new
            if same:
                break
        return self._fit(x)

    def _order(self, x: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.where(x[self.far] >= x[self.near], 1.0, -1.0)

    def _solved(self, x: NDArray[np.float64], sign: NDArray[np.float64]) -> NDArray[np.float64]:
        """Least squares for one order of the points; the first stays where it is."""
        m = len(self.ohms)
        if len(self.nodes) > MANY_POINTS:
            return self._by_points(x, sign)
        rows = np.arange(m)
        a = np.zeros((m + 1, len(self.nodes)))
        a[rows, self.far] += sign / self.spread
        a[rows, self.near] -= sign / self.spread
        a[m, 0] = 1.0
        y = np.append(self.ohms / self.spread, x[0])
        return np.asarray(np.linalg.lstsq(a, y, rcond=None)[0], dtype=np.float64)

    def _by_points(self, x: NDArray[np.float64], sign: NDArray[np.float64]) -> NDArray[np.float64]:
        """The same by its normal equations, whose size is that of the points."""
        weight = self.spread**-2
        pull = sign * self.ohms * weight
        square, told = np.zeros((len(x), len(x))), np.zeros(len(x))
        for end, other, by in ((self.far, self.near, pull), (self.near, self.far, -pull)):
            np.add.at(square, (end, end), weight)
            np.add.at(square, (end, other), -weight)
            np.add.at(told, end, by)
        square[0, 0] += weight.max()
        told[0] += weight.max() * x[0]
        return np.asarray(np.linalg.lstsq(square, told, rcond=None)[0], dtype=np.float64)

    def _fit(self, x: NDArray[np.float64]) -> LineFit:
        residual = (self.ohms - np.abs(x[self.far] - x[self.near])) / self.spread
        freedom = max(1, len(self.ohms) - (len(self.nodes) - 1))
        places = {name: float(at - x.min()) for name, at in zip(self.nodes, x, strict=True)}
        pairs = zip(self.known, residual, strict=True)
        told = tuple((p, o, float(r)) for (p, o), r in pairs)
        return LineFit(places, float(residual @ residual), 3.0 * freedom + 6.0, told)


class Pairing(Struct, frozen=True):
    """Two pairs of leads, the sum of their ohms, and what that may err by."""

    ohms: float
    limit: float
    one: tuple[str, str]
    two: tuple[str, str]


def touching(nodes: list[str], pairs: Distances) -> "TwoWindings | None":
    """Two windings that touch somewhere, where a group that is no line is such; None else.

    Four points on a tree: of the three ways to pair them, the pairs on separate branches have the
    smallest sum, and the other two sums are equal (four-point condition of tree distances). Where
    all three are equal it is a star: the least sum splits it.
    """
    for quad in itertools.combinations(nodes, 4):
        ways = _pairings(quad, pairs)
        if len(ways) < 3:
            continue
        least, second, third = sorted(ways, key=lambda w: w.ohms)
        equal = abs(second.ohms - third.ohms) <= second.limit + third.limit
        # with the core among them only where all four hang: else one winding touches the core
        enough = 4 if "core" in quad else 2
        if equal and _hanging(least, pairs) >= enough:
            return TwoWindings(least.one, least.two)
    return None


def _pairings(quad: tuple[str, ...], pairs: Distances) -> list[Pairing]:
    """The three ways to pair four points, as far as they were read."""
    first, *rest = quad
    out = []
    for mate in rest:
        one = (first, mate)
        left = [x for x in rest if x != mate]
        two = (left[0], left[1])
        a, b = best_reading(pairs, *one), best_reading(pairs, *two)
        if a is not None and b is not None:
            out.append(Pairing(a.ohms + b.ohms, a.limit + b.limit, one, two))
    return out


def _hanging(way: Pairing, pairs: Distances) -> int:
    """How many leads of two touching windings hang on a branch of some ohms; 0 where one would need
    negative ohms.
    """
    long = 0
    for pair, other in ((way.one, way.two), (way.two, way.one)):
        for x, y in (pair, pair[::-1]):
            own, near = best_reading(pairs, x, y), best_reading(pairs, x, other[0])
            far = best_reading(pairs, y, other[0])
            if own is None or near is None or far is None:
                return 0
            slack = own.limit + near.limit + far.limit
            branch = (own.ohms + near.ohms - far.ohms) / 2
            if branch < -slack / 2:
                return 0
            long += branch > 0.25 * slack
    return long


SUSPECT = 6.0
"""From this misfit of a line it is asked whether a tree fits: readings keep well within the limits
that it is counted in, so that sound windings stay below it. JCGM 100:2008 4.3.9; evaluation on
records of the forward model."""
MENDED = 4.0
"""A reading is named as the odd one where the line fits so many times better without it."""


class TwoWindings(Exception):
    """A conducting group turned out to be two windings that touch."""

    def __init__(self, one: tuple[str, str], two: tuple[str, str]):
        super().__init__(one, two)
        self.one, self.two = one, two


def pairs_of(nodes: list[str], pairs: Distances) -> Distances:
    """The readings among some points."""
    wanted = set(nodes)
    return {p: v for p, v in pairs.items() if p <= wanted}


def ids_of(pairs: Distances) -> tuple[str, ...]:
    """The ids of readings, each once, in order."""
    return tuple(dict.fromkeys(o.reading.id for v in pairs.values() for o in v))


def line_of(nodes: list[str], pairs: Distances) -> tuple[Coil, list[Contradiction]]:
    """One group of leads as a winding; where its readings do not add up, the one whose absence
    mends it is named.

    Raises TwoWindings where four or more leads are no line but two windings that touch somewhere.
    """
    within = pairs_of(nodes, pairs)
    if len(nodes) == 2:
        return _of_two(nodes, within), []
    fit = fit_line(nodes, within)
    if len(ids_of(within)) < len(nodes):  # no reading more than a line needs: nothing can be odd
        return coil_of_fit(fit, within, nodes), []
    if len(nodes) >= 4 and fit.chi2 > min(SUSPECT, fit.allowed):
        tree = touching(_worst_placed(nodes, fit), within)
        if tree is not None:
            raise tree
    odd: list[Contradiction] = []
    if fit.chi2 > fit.allowed:
        fit, contradiction = _mended(nodes, within, fit)
        odd.append(contradiction)
    return coil_of_fit(fit, within, nodes), odd


def _worst_placed(nodes: list[str], fit: LineFit) -> list[str]:
    """The points whose readings a line fits worst, in their order; all, where they are few."""
    if len(nodes) <= MOST_IN_QUADS:
        return nodes
    off = dict.fromkeys(nodes, 0.0)
    for pair, _, residual in fit.residuals:
        for x in pair:
            off[x] += residual**2
    worst = {*sorted(nodes, key=lambda x: -off[x])[:MOST_IN_QUADS]}
    return [x for x in nodes if x in worst]


def _of_two(nodes: list[str], within: Distances) -> Coil:
    """Two leads that were read against each other."""
    best = best_reading(within, nodes[0], nodes[1])
    if best is None:
        raise KeyError(nodes)
    positions = {nodes[0]: 0.0, nodes[1]: max(best.ohms, 0.0)}
    return coil_from(positions, within, nodes, ids_of(within), not best.below_resolution)


def coil_of_fit(fit: LineFit, within: Distances, nodes: list[str]) -> Coil:
    """The winding of a line; resolved where it is longer than any reading may err by."""
    widest = max((o.limit for v in within.values() for o in v), default=0.0)
    resolved = max(fit.positions.values()) > widest
    made = coil_from(fit.positions, within, nodes, ids_of(within), resolved)
    return replace(made, telling=fit.telling)


def _mended(nodes: list[str], within: Distances, fit: LineFit) -> tuple[LineFit, Contradiction]:
    """The line that fits once one reading is taken for a slip, and that reading; where none mends
    it, the line as it is, and the reading that lies furthest off.
    """
    ids = ids_of(within)
    if len(ids) > MANY_READINGS:
        off = sorted(fit.residuals, key=lambda r: -abs(r[2]))
        ids = tuple(dict.fromkeys(o.reading.id for _, o, _ in off))[:MOST_SUSPECTS]
    mended, culprit = min(_trials(nodes, within, ids), key=lambda t: t[0].chi2)
    if mended.chi2 <= mended.allowed and mended.chi2 < fit.chi2 / MENDED:
        return mended, _contradiction(culprit, within, mended.positions)
    worst = max(fit.residuals, key=lambda r: abs(r[2]))
    return fit, _contradiction(worst[1].reading.id, within, fit.positions)


def _trials(nodes: list[str], pairs: Distances, ids: tuple[str, ...]) -> list[tuple[LineFit, str]]:
    """The line without each reading, and with each reading ten or a thousand times off: the
    commonest slips first.
    """
    out: list[tuple[LineFit, str]] = []
    for i in ids:
        for factor in (0.1, 10.0, 1e-3, 1e3):
            scaled = {
                p: [_slipped(o, factor) if o.reading.id == i else o for o in v]
                for p, v in pairs.items()
            }
            fit = fit_line(nodes, scaled)
            out.append((replace(fit, chi2=fit.chi2 + 0.5), i))
        alone = fit_line(nodes, pairs, without=i)
        out.append((replace(alone, chi2=alone.chi2 + 1.5), i))
    return out


def _slipped(said: OhmReading, factor: float) -> OhmReading:
    """A reading as it would be with another figure at the meter: the probes are in the figure."""
    return replace(said, ohms=(said.ohms + said.probes) * factor - said.probes)


def _contradiction(reading: str, pairs: Distances, positions: dict[str, float]) -> Contradiction:
    for pair, readings in pairs.items():
        for o in readings:
            if o.reading.id == reading:
                x, y = sorted(pair)
                expected = abs(positions[x] - positions[y])
                slip = slip_of(o, expected)
                if slip == NO_SLIP:
                    slip = _swapped(x, y, o, positions) or slip
                return Contradiction(
                    reading=reading, points=(x, y), said=o.ohms, expected=expected, slip=slip
                )
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


def slip_of(said: OhmReading, expected: float) -> str:
    """The likely slip behind a reading: a factor of ten or a thousand in the figure at the meter,
    or none that shows.
    """
    if min(said.ohms, expected) > 0.05:
        ratio = (said.ohms + said.probes) / (expected + said.probes)
        for factor, words in (
            (10, "ten times too high"),
            (0.1, "ten times too low"),
            (1000, "a thousand times too high"),
            (1e-3, "a thousand times too low"),
        ):
            if SLIP_WITHIN[0] < ratio / factor < SLIP_WITHIN[1]:
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
    order = _from_first_end(positions, nodes)
    first, last = order[0], order[-1]
    origin = positions[first]
    total = abs(positions[last] - origin)
    limit = _limit_of(order, pairs)
    basis = basis_of(o.reading for v in pairs.values() for o in v)
    return Coil(
        leads=(first, last),
        taps=tuple(_tap(x, abs(positions[x] - origin), total, limit) for x in order[1:-1]),
        bond=_bond_of(order),
        ohms=Quantity(total, max(0.0, total - limit), total + limit, basis),
        readings=ids,
        resolved=resolved and total > limit,
        positions={x: abs(p - origin) for x, p in positions.items()},
    )


def _from_first_end(positions: dict[str, float], nodes: list[str]) -> list[str]:
    """Points from end to end, the end that was named first before the other, the core last."""
    order = sorted(positions, key=lambda x: (positions[x], nodes.index(x) if x in nodes else 99))
    first, last = order[0], order[-1]
    if last != "core" and (first == "core" or nodes.index(first) > nodes.index(last)):
        order.reverse()
    return order


def _limit_of(order: list[str], pairs: Distances) -> float:
    """What a winding's ohms may err by: as the ends were read, else the limits between neighbours
    added up.
    """
    best = best_reading(pairs, order[0], order[-1])
    if best is not None:
        return best.limit
    steps = (pairs.get(frozenset(p), []) for p in itertools.pairwise(order))
    return sum(max((o.limit for o in v), default=0.5) for v in steps)


def _tap(lead: str, off: float, total: float, limit: float) -> Tap:
    """A lead between the ends as a share of the winding."""
    if total <= 0:
        return Tap(lead, 0.5, 0.5)
    return Tap(lead, min(1.0, off / total), min(0.5, limit / total))


def _bond_of(order: list[str]) -> str | None:
    """Where the core stands among the points of a winding."""
    if "core" not in order:
        return None
    return "end" if "core" in (order[0], order[-1]) else "middle"


def bridged(group: list[str], pairs: Distances) -> Distances:
    """Readings with the ohms of the shortest way over others added, at most, between leads of one
    group that no reading of theirs links.
    """
    if all(frozenset(p) in pairs for p in itertools.pairwise(group)):
        return pairs
    islands = _islands(group, pairs)
    if len(islands) == 1:
        return pairs
    graph = Graph()
    known = {p: best for p in pairs if (best := best_reading(pairs, *ends(p))) is not None}
    for p, best in known.items():
        graph.join(*ends(p), max(best.ohms, 0.0))
    added: Distances = {}
    for x, y in itertools.pairwise(islands):
        steps = [known[frozenset(edge)] for edge in itertools.pairwise(graph.way(x, y))]
        ohms, limit = sum(max(s.ohms, 0.0) for s in steps), sum(s.limit for s in steps)
        added[frozenset((x, y))] = [OhmReading(steps[0].reading, ohms, limit)]
    return {**pairs, **added}


def _islands(group: list[str], pairs: Distances) -> list[str]:
    """The first lead of every part of a group that readings among its leads join."""
    within = Graph(group, [ends(p) for p in pairs if p <= set(group)])
    return [min(c, key=group.index) for c in within.parts()]
