"""A set-up as a demand sees it, and what a demand is declared with."""

from collections.abc import Callable, Iterable

from msgspec import Struct

from greyfell.core.rig.graph import Edge, Graph
from greyfell.core.rig.needs import Needs
from greyfell.core.rig.setup import LIMITERS, Element, Setup

COMMON = "common practice"
Facts = dict[str, str]
"""Words that a demand's sentence is filled with; `at` is the element it is at."""


class Bench(Struct, frozen=True):
    """What a demand may look at: the set-up, its graphs for each way of the plug, the needs."""

    setup: Setup
    graphs: tuple[Graph, ...]
    needs: Needs

    def comes(
        self, start: str, goal: str, without: Callable[[Edge], bool] = lambda edge: False
    ) -> bool:
        """Whether one point comes to another, with the plug either way, with edges taken out."""
        return any(graph.reaches(start, goal, without) for graph in self.graphs)

    @property
    def live(self) -> bool:
        """Whether the mains feed it."""
        return self.setup.from_line

    @property
    def limiting(self) -> list[Element]:
        """Limiters that no wire lies around."""
        return [e for e in self.setup.of(*LIMITERS) if not e.bridged]

    @property
    def loop_amps(self) -> float:
        """The most amps that pass with the piece shorted: a lamp's or a heater's own, a ballast's;
        the fuse's where nothing limits.
        """
        each = [_own_amps(e, self.needs.supply_volts) for e in self.limiting]
        if each:
            return min(each)
        fuses = [e.figures["amps"] for e in self.setup.of("fuse", "breaker") if "amps" in e.figures]
        return min(fuses, default=0.0)


def _own_amps(e: Element, supply: float) -> float:
    """Amps that a limiter passes with everything behind it shorted."""
    if e.kind == "ballast":
        return e.figures.get("short_amps", 0.0)
    return e.figures.get("watts", 0.0) / e.figures.get("volts", supply)


class Demand(Struct, frozen=True, kw_only=True):
    """One thing that must hold: its code, what is said where it does not (words in braces filled
    in), the hazards of the catalogue it meets, its source, and what finds it wanting.
    """

    code: str
    sentence: str
    source: str
    wanting: Callable[[Bench], Iterable[Facts]]
    ids: tuple[str, ...] = ()


class Wrong(Struct, frozen=True, kw_only=True):
    """What is wrong: the demand's code, its sentence, and the element or meter it is at, where it
    is at one.
    """

    code: str
    sentence: str
    at: str

    def as_json(self) -> dict[str, str]:
        """The public form."""
        return {"code": self.code, "sentence": self.sentence, "at": self.at}
