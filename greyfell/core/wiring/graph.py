"""Leads as points of a graph, joined by readings: what hangs together, the tree of least ohms, the
way of least ohms. Graph algorithms by rustworkx, by the names of leads.
"""

from collections.abc import Iterable

import rustworkx as rx

Edge = tuple[str, str, float]
"""Two points and the ohms between them."""


def ends(pair: Iterable[str]) -> tuple[str, str]:
    """The two points of a pair, in their order."""
    first, last = sorted(pair)
    return first, last


class Graph:
    """Points by name, and edges with their ohms; what is joined twice keeps the last ohms."""

    def __init__(self, points: Iterable[str] = (), edges: Iterable[tuple[str, str]] = ()) -> None:
        self._graph: rx.PyGraph[str, float] = rx.PyGraph(multigraph=False)
        self._at: dict[str, int] = {}
        for point in points:
            self._place(point)
        for x, y in edges:
            self.join(x, y)

    def _place(self, point: str) -> int:
        if point not in self._at:
            self._at[point] = self._graph.add_node(point)
        return self._at[point]

    def join(self, x: str, y: str, ohms: float = 1.0) -> None:
        """Join two points; they are added where they are new."""
        self._graph.add_edge(self._place(x), self._place(y), ohms)

    def parts(self, of: Iterable[str] | None = None) -> list[set[str]]:
        """What hangs together, in the order of the first point of each; `of` leaves out every other
        point.

        >>> [sorted(p) for p in Graph("ABCD", [("A", "C"), ("C", "D")]).parts()]
        [['A', 'C', 'D'], ['B']]
        """
        graph = self._graph
        if of is not None:
            wanted = set(of)
            graph = graph.subgraph([i for x, i in self._at.items() if x in wanted])
        found = sorted(rx.connected_components(graph), key=min)
        return [{graph[i] for i in part} for part in found]

    def spanning(self) -> list[Edge]:
        """The tree of least ohms, the nearest points first.

        >>> graph = Graph("ABC")
        >>> for x, y, ohms in (("A", "B", 1.0), ("B", "C", 2.0), ("A", "C", 3.0)):
        ...     graph.join(x, y, ohms)
        >>> [ohms for _, _, ohms in graph.spanning()]
        [1.0, 2.0]
        """
        found = rx.minimum_spanning_edges(self._graph, weight_fn=float)
        named = [(self._graph[i], self._graph[j], ohms) for i, j, ohms in found]
        return sorted(named, key=lambda edge: edge[2])

    def way(self, x: str, y: str) -> list[str]:
        """The way of least ohms between two points, both ends in it; empty where there is none.

        >>> Graph(edges=[("A", "B"), ("B", "C")]).way("A", "C")
        ['A', 'B', 'C']
        """
        source, target = self._at[x], self._at[y]
        found = rx.dijkstra_shortest_paths(self._graph, source, target, weight_fn=float)
        return [self._graph[i] for i in found[target]] if target in found else []
