"""A set-up as a demand sees it, and what a demand is declared with."""

from collections.abc import Callable, Iterable
from functools import cached_property

from msgspec import Struct

from greyfell.core.bench.graph import WALL_EARTH, BenchGraph, Edge
from greyfell.core.bench.open_windings import Open, Stands, stands
from greyfell.core.bench.piece_on_bench import Needs
from greyfell.core.bench.setup import LIMITERS, BenchPart, Setup
from greyfell.core.figures.limits import MAINS_RISE

COMMON = "common practice"
Facts = dict[str, str]
"""Words that a demand's sentence is filled with; `at` is the element it is at."""


LOW_VOLTS = 60.0
"""What is driven into an HV side, or into a low one with HV on the core, has no more volts.
Common practice."""


class Bench(Struct, frozen=True, dict=True):
    """What a demand may look at: the set-up, its graphs for each way of the plug, the needs."""

    setup: Setup
    graphs: tuple[BenchGraph, ...]
    needs: Needs

    def comes(
        self, start: str, goal: str, without: Callable[[Edge], bool] = lambda edge: False
    ) -> bool:
        """Whether one point comes to another, with the plug either way, with edges taken out."""
        return any(graph.reaches(start, goal, without) for graph in self.graphs)

    @property
    def live(self) -> bool:
        """Whether it is fed with more than a low drive: by the mains, or by a source of as much or
        of volts that nobody said.
        """
        return self.setup.from_line or any(v is None or v > LOW_VOLTS for v in self.drives)

    @property
    def drives(self) -> list[float | None]:
        """The volts of every isolated source; None where they are not said."""
        return [e.figures.get("volts") for e in self.setup.of("source") if e.isolated]

    @property
    def drive(self) -> float | None:
        """The most volts that stand on the fed pair; None where nobody knows. House rule: the worst
        that is said.
        """
        if self.setup.from_line:
            return MAINS_RISE * self.needs.supply_volts
        return None if None in self.drives else max(v for v in self.drives if v is not None)

    @property
    def proper(self) -> bool:
        """Whether what is fed is what takes the line."""
        pair = frozenset(self.setup.fed)
        return pair in self.needs.fed or pair in self.needs.half

    @property
    def earthed(self) -> bool:
        """Whether the core is joined to earth."""
        return any(self.comes(WALL_EARTH, point) for point in self.needs.iron)

    @cached_property
    def open_ends(self) -> list[Stands]:
        """What stands on every winding besides the fed one, at the most."""
        return stands(self.needs.windings, self.needs.ratios, self.setup.fed, self.drive)

    def bare(self, winding: Open) -> list[str]:
        """Ends of a winding that a hand can reach: not covered, not the earthed iron, not under a
        meter's clips; no clip covers what may be high voltage.
        """
        clipped = {x for m in self.setup.meters if m.held == "clips" for x in m.at}
        hidden = {*self.setup.covered, *(clipped - self.needs.high), *self.setup.fed}
        iron = self.needs.iron if self.earthed else frozenset[str]()
        return [x for x in winding.ends if x not in hidden and x not in iron]

    @property
    def limiting(self) -> list[BenchPart]:
        """Limiters that no wire lies around."""
        return [e for e in self.setup.of(*LIMITERS) if not e.bridged]

    def amps_of(self, e: BenchPart) -> float:
        """Amps that a limiter passes with everything behind it shorted. REF-B-01, REF-B-05."""
        if e.kind == "ballast":
            return e.figures.get("short_amps", 0.0)
        return e.figures.get("watts", 0.0) / e.figures.get("volts", self.needs.supply_volts)

    @property
    def loop_amps(self) -> float:
        """The most amps that pass with the piece shorted: a lamp's or a heater's own, a ballast's;
        the fuse's where nothing limits.
        """
        each = [self.amps_of(e) for e in self.limiting]
        if each:
            return min(each)
        fuses = [e.figures["amps"] for e in self.setup.of("fuse", "breaker") if "amps" in e.figures]
        return min(fuses, default=0.0)


class Demand(Struct, frozen=True, kw_only=True):
    """One thing that must hold: its code, what is said where it does not (a headline, and a
    sentence whose words in braces are filled in), the hazards of the catalogue it meets, its
    source, and what finds it wanting.
    """

    code: str
    headline: str
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
