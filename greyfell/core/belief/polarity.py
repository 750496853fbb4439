"""Which ends are alike: two windings in series either add or buck, and the meter across them tells.

With b joined to c, a–d reads V1 + V2 where a and c are alike, |V1 − V2| where they are not; which
winding is driven does not matter. REF-T-11, method of IEEE C57.12.90. Always with a low voltage;
never with an HV winding on the meter.
"""

import math
from typing import Any

from msgspec import Struct

from greyfell.core.belief.solution import Solution
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.kinds.polarity import Polarity as Reading
from greyfell.core.evidence.record import Transformer
from greyfell.core.wiring.coil import Topology

SETTLED = 0.9
"""Above this chance a polarity reading counts as adding or bucking. House rule."""
COUPLING_SPREAD = 0.02
"""Spread of a ratio between two windings at a few volts. Common practice."""


MISFIT = 3.0
"""Volts further than so many standard deviations from both senses fit neither. House rule."""
Ends = tuple[str, str]


class PolarityFound(Struct, frozen=True):
    """One polarity reading judged: adding, bucking or unclear; the ends that are alike; how sure.

    `runs` are both windings from the end that is alike to the other; empty where it is unclear.
    """

    reading: str
    sense: str
    alike: Ends
    probability: float
    runs: tuple[Ends, ...] = ()

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {
            "reading": self.reading,
            "sense": self.sense,
            "alike": list(self.alike),
            "probability": round(self.probability, 4),
        }


class _Chain(Struct, frozen=True):
    """Two windings in series: the first from its free end to the joint, the second from the joint
    to its free end, and the coils they are.
    """

    first: Ends
    second: Ends
    coils: tuple[int, int]


def polarities(
    record: Transformer, topology: Topology, solution: Solution | None, k: int
) -> list[PolarityFound]:
    """Every polarity reading, judged against the ratio that the other evidence gives. A near tie,
    and volts that neither sense gives, stay unclear.
    """
    if solution is None:
        return []
    read = [r for r in record.standing if r.kind == "polarity"]
    found = [_judged(r, topology, solution, k) for r in read]
    return [p for p in found if p is not None]


def _chain(r: Reading, topology: Topology) -> _Chain | None:
    """The two windings that were joined, by the joint and the points read across; None where these
    are not two windings.
    """
    for joint, other in (r.joined, r.joined[::-1]):
        for free, far in (r.across, r.across[::-1]):
            i, j = topology.coil_of(joint), topology.coil_of(other)
            if i is None or j is None or i == j or free == joint or far == other:
                continue
            if topology.coil_of(free) == i and topology.coil_of(far) == j:
                return _Chain((free, joint), (other, far), (i, j))
    return None


def _judged(r: Reading, topology: Topology, solution: Solution, k: int) -> PolarityFound | None:
    """One polarity reading; None where it does not join two windings.

    The driven winding may be one of the two or a third: each has its own share of the drive.
    """
    chain = _chain(r, topology)
    d = topology.coil_of(r.driven[0])
    if chain is None or d is None or topology.coil_of(r.driven[1]) != d:
        return None
    if d == chain.coils[1]:  # told from the driven winding on
        chain = _Chain(chain.second[::-1], chain.first[::-1], chain.coils[::-1])
    one, sd_one = _share(chain.coils[0], chain.first, r, d, topology, solution, k)
    two, sd_two = _share(chain.coils[1], chain.second, r, d, topology, solution, k)
    volts = r.driven_volts
    meter = limit(r, "across_volts") + limit(r, "driven_volts") * (one + two)
    spread = math.hypot(meter, volts * one * sd_one, volts * two * sd_two)
    added = _misfit(r.across_volts - volts * (one + two), spread)
    bucked = _misfit(r.across_volts - volts * abs(one - two), spread)
    adding = 1 / (1 + math.exp(max(-50.0, min(50.0, added - bucked))))
    alike = (chain.first[0], chain.second[0] if adding >= 0.5 else chain.second[1])
    likelier = max(adding, 1 - adding)
    if min(added, bucked) > MISFIT**2 / 2 or likelier <= SETTLED:
        return PolarityFound(r.id, "unclear", alike, likelier)
    second = chain.second if adding >= 0.5 else chain.second[::-1]
    sense = "adding" if adding > SETTLED else "bucking"
    return PolarityFound(
        reading=r.id, sense=sense, alike=alike, probability=likelier, runs=(chain.first, second)
    )


def _share(
    i: int, ends: Ends, r: Reading, d: int, topology: Topology, solution: Solution, k: int
) -> tuple[float, float]:
    """Volts between two points of a winding for each volt driven, and their relative spread."""
    of_driven = topology.coils[d].fraction_between(*r.driven) or 1.0
    of_this = topology.coils[i].fraction_between(*ends) or 1.0
    if i == d:
        return of_this / of_driven, 0.0
    mean, sd = solution.posterior(k, solution.unit((solution.w(i), 1.0), (solution.w(d), -1.0)))
    return math.exp(mean) * of_this / of_driven, sd + COUPLING_SPREAD


def _misfit(off: float, spread: float) -> float:
    """Half the squared misfit, in standard deviations."""
    return (off / spread) ** 2 / 2


def turned(p: PolarityFound, topology: Topology) -> tuple[int, int, bool] | None:
    """The two coils of a settled reading, the smaller number first, and whether they run the same
    way from their first ends; None where it is unclear.
    """
    if not p.runs:
        return None
    found = [(_at(topology, run[0]), run) for run in p.runs]
    (i, one), (j, two) = sorted(found)
    ways = [topology.coils[c].positions for c in (i, j)]
    along = [x[run[1]] > x[run[0]] for x, run in zip(ways, (one, two), strict=True)]
    return i, j, along[0] is along[1]


def _at(topology: Topology, point: str) -> int:
    i = topology.coil_of(point)
    assert i is not None
    return i
