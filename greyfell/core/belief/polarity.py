"""Which ends are alike: two windings in series either add or buck, and the meter across them tells.

With b joined to c and a, b driven, a–d reads V1 + V2 where a and c are alike, |V1 − V2| where they
are not. REF-T-11, method of IEEE C57.12.90. Always with a low voltage; never with an HV winding on
the meter.
"""

import math
from typing import Any

from msgspec import Struct

from greyfell.core.belief.solve import Solution
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.record import Polarity as Reading
from greyfell.core.evidence.record import Transformer
from greyfell.core.wiring.coil import Topology

SETTLED = 0.9
"""From this chance a polarity reading counts as adding or bucking. House rule."""
COUPLING_SPREAD = 0.02
"""Spread of a ratio between two windings at a few volts. Common practice."""


class Polarity(Struct, frozen=True):
    """One polarity reading judged: adding, bucking or unclear; the ends that are alike; how
    sure.
    """

    reading: str
    sense: str
    alike: tuple[str, str]
    probability: float

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {
            "reading": self.reading,
            "sense": self.sense,
            "alike": list(self.alike),
            "probability": round(self.probability, 4),
        }


def polarities(
    record: Transformer, topology: Topology, solution: Solution | None, k: int
) -> list[Polarity]:
    """Every polarity reading, judged against the ratio that the other evidence gives. A near tie
    stays unclear.
    """
    if solution is None:
        return []
    read = [r for r in record.standing if r.kind == "polarity"]
    found = [_judged(r, topology, solution, k) for r in read]
    return [p for p in found if p is not None]


def _judged(r: Reading, topology: Topology, solution: Solution, k: int) -> Polarity | None:
    """One polarity reading; None where it does not join two windings."""
    a, b = r.driven
    c = r.joined[1] if r.joined[0] == b else r.joined[0]
    d = next((p for p in r.across if p != a), r.across[1])
    i, j = topology.coil_of(a), topology.coil_of(c)
    if i is None or j is None or i == j or topology.coil_of(d) != j:
        return None
    mean, sd = solution.posterior(k, solution.unit((solution.w(j), 1.0), (solution.w(i), -1.0)))
    of_driven = topology.coils[i].fraction_between(a, b) or 1.0
    of_other = topology.coils[j].fraction_between(c, d) or 1.0
    ratio = math.exp(mean) * of_other / of_driven
    meter = limit(r, "across_volts") + limit(r, "driven_volts")
    spread = math.hypot(meter, ratio * r.driven_volts * (sd + COUPLING_SPREAD))
    added = _misfit(r.across_volts - r.driven_volts * (1 + ratio), spread)
    bucked = _misfit(r.across_volts - abs(r.driven_volts * (1 - ratio)), spread)
    adding = 1 / (1 + math.exp(max(-50.0, min(50.0, added - bucked))))
    sense = "adding" if adding > SETTLED else "bucking" if adding < 1 - SETTLED else "unclear"
    alike = (a, c) if adding >= 0.5 else (a, d)
    return Polarity(r.id, sense, alike, max(adding, 1 - adding))


def _misfit(off: float, spread: float) -> float:
    """Half the squared misfit, in standard deviations."""
    return (off / spread) ** 2 / 2
