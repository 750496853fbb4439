"""Which ends are alike: two windings in series either add or buck, and the meter across them tells.

With b joined to c and a, b driven, a–d reads V1 + V2 where a and c are alike, |V1 − V2| where they
are not. REF-T-11, method of IEEE C57.12.90. Always with a low voltage; never with an HV winding on
the meter.
"""

import math
from dataclasses import dataclass
from typing import Any

from greyfell.core.coil import Topology
from greyfell.core.instruments import limit
from greyfell.core.record import Transformer
from greyfell.core.voltages import Solution


@dataclass(frozen=True)
class Polarity:
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
    out = []
    for r in record.standing:
        if r.kind != "polarity":
            continue
        a, b = r.driven
        c = r.joined[1] if r.joined[0] == b else r.joined[0]
        d = next((p for p in r.across if p != a), r.across[1])
        i, j = topology.coil_of(a), topology.coil_of(c)
        if i is None or j is None or i == j or topology.coil_of(d) != j:
            continue
        mean, sd = solution.posterior(k, solution.unit((solution.w(j), 1.0), (solution.w(i), -1.0)))
        ratio = (
            math.exp(mean)
            * (topology.coils[j].fraction_between(c, d) or 1.0)
            / (topology.coils[i].fraction_between(a, b) or 1.0)
        )
        spread = math.hypot(
            limit(r, "across_volts") + limit(r, "driven_volts"),
            ratio * r.driven_volts * (sd + 0.02),
        )
        misfits = [
            ((r.across_volts - v) / spread) ** 2 / 2
            for v in (r.driven_volts * (1 + ratio), abs(r.driven_volts * (1 - ratio)))
        ]
        adding = 1 / (1 + math.exp(max(-50.0, min(50.0, misfits[0] - misfits[1]))))
        sense = "adding" if adding > 0.9 else "bucking" if adding < 0.1 else "unclear"
        alike = (a, c) if adding >= 0.5 else (a, d)
        out.append(Polarity(r.id, sense, alike, max(adding, 1 - adding)))
    return out
