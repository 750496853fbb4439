"""A set-up as a graph: points joined by wires and elements, from the wall's line, neutral and earth
to the leads of the piece. What a demand asks is always whether one point reaches another once some
elements are taken out.
"""

from collections.abc import Callable, Iterable

from msgspec import Struct

from greyfell.core.bench.setup import BOTH, LINE, NEUTRAL, Attached, BenchPart, Setup

WALL_LINE, WALL_NEUTRAL, WALL_EARTH = "wall line", "wall neutral", "wall earth"


class Edge(Struct, frozen=True):
    """Two points joined: by an element, a meter, or a wire (neither)."""

    one: str
    two: str
    element: BenchPart | None = None
    meter: Attached | None = None


class BenchGraph(Struct, frozen=True):
    """Every edge of a set-up, with the plug one way in. Windings are no edges: what the graph tells
    is how the line comes to the piece.
    """

    edges: tuple[Edge, ...]

    def reaches(
        self, start: str, goal: str, without: Callable[[Edge], bool] = lambda edge: False
    ) -> bool:
        """Whether one point is joined to another with the edges left that are not taken out."""
        joined: dict[str, set[str]] = {}
        for e in self.edges:
            if not without(e):
                joined.setdefault(e.one, set()).add(e.two)
                joined.setdefault(e.two, set()).add(e.one)
        seen, left = {start}, [start]
        while left:
            more = joined.get(left.pop(), set()) - seen
            seen |= more
            left += more
        return goal in seen


def graphs_of(setup: Setup) -> tuple[BenchGraph, ...]:
    """The graph, for each way that the plug may be in."""
    graphs = [_graph(setup, turned=False)]
    if setup.plug == "reversible" and setup.from_line:
        graphs.append(_graph(setup, turned=True))
    return tuple(graphs)


def _graph(setup: Setup, *, turned: bool) -> BenchGraph:
    walls = (WALL_NEUTRAL, WALL_LINE) if turned else (WALL_LINE, WALL_NEUTRAL)
    edges = [
        *_conductor(setup, LINE, walls[0], setup.fed[0]),
        *_conductor(setup, NEUTRAL, walls[1], setup.fed[1]),
        *(_meter_edge(m) for m in setup.meters),
    ]
    if setup.earthed:
        edges += [Edge(WALL_EARTH, point) for point in setup.earth]
        edges += [Edge(WALL_EARTH, m.at[1]) for m in setup.meters if m.earthed]
    return BenchGraph(tuple(edges))


def _conductor(setup: Setup, which: str, wall: str, lead: str) -> Iterable[Edge]:
    """One conductor from the wall to the piece; an isolated source ends it and begins another."""
    at = wall
    for n, e in enumerate(setup.chain):
        if e.where not in (which, BOTH):
            continue
        after = f"{which} {n}"
        poles = e.figures.get("poles", 2.0)
        switched = e.kind != "switch" or which == LINE or poles >= 2
        if e.kind == "source" and e.isolated:
            pass  # nothing joins its two sides
        elif switched and not e.bridged:
            yield Edge(at, after, element=e)
        else:
            yield Edge(at, after)
        at = after
    yield Edge(at, lead)


def _meter_edge(meter: Attached) -> Edge:
    return Edge(*meter.at, meter=meter)


def is_kind(*kinds: str) -> Callable[[Edge], bool]:
    """Edges of elements of some kinds; a voltmeter joins nothing."""

    def of(edge: Edge) -> bool:
        if edge.meter is not None:
            return edge.meter.reads == "volts"
        return edge.element is not None and edge.element.kind in kinds

    return of
