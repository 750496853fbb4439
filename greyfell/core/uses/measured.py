"""A rewinding proved: what was planned beside what was then measured of the new winding, and by
which factor the plan was off.
"""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.identification import Identification
from greyfell.core.uses.project import Design


@dataclass(frozen=True, kw_only=True)
class Compared:
    """One figure: words, unit, planned, measured with its limits, the reading, whether the plan's
    range holds it.
    """

    words: str
    unit: str
    planned: Quantity
    measured: Quantity
    reading: str

    @property
    def holds(self) -> bool:
        """Whether both ranges meet."""
        return self.measured.low <= self.planned.high and self.measured.high >= self.planned.low

    @property
    def off(self) -> float:
        """Measured over planned."""
        return self.measured.value / self.planned.value if self.planned.value else 0.0


def compared_with(ident: Identification, design: Design) -> list[Compared]:
    """Open volts and amps shorted of the new winding, scaled to the supply, beside the plan; only
    readings of after the last winding was told. V, A.
    """
    record, primary = ident.record, ident.belief.primary
    wound = _wound_at(record)
    if wound is None or primary is None:
        return []
    fed = set(primary.coil.leads)
    later = [r for r in record.standing if r.at and datetime.fromisoformat(r.at) >= wound]
    out = []
    for r in later:
        if r.kind == "ratio" and set(r.driven) <= fed and not set(r.sensed) & fed:
            out.append(_open(record, design, r))
        if r.kind == "short_circuit" and set(r.driven) <= fed and r.shorted_amps:
            out.append(_short(record, design, r))
    return out


def _wound_at(record: Transformer) -> datetime | None:
    times = [c.at for c in record.changes if c.what == "rewound" and c.at]
    return max((datetime.fromisoformat(t) for t in times), default=None)


def _open(record: Transformer, design: Design, r: Any) -> Compared:
    """A ratio as open volts on the supply."""
    scale = record.supply.volts / r.driven_volts
    share = limit(r, "sensed_volts") / max(r.sensed_volts, 1e-9)
    share += limit(r, "driven_volts") / r.driven_volts
    value = r.sensed_volts * scale
    return Compared(
        words="Open volts",
        unit="V",
        planned=design.open_volts,
        measured=Quantity(value, value * (1 - share), value * (1 + share), (f"ratio {r.id}",)),
        reading=r.id,
    )


def _short(record: Transformer, design: Design, r: Any) -> Compared:
    """A short circuit at reduced volts, carried on to the supply."""
    scale = record.supply.volts / r.volts
    share = limit(r, "volts") / r.volts + limit(r, "amps") / r.amps
    value = r.shorted_amps * scale
    basis = (f"short circuit {r.id}",)
    return Compared(
        words="Amps shorted",
        unit="A",
        planned=design.short_amps,
        measured=Quantity(value, value * (1 - share), value * (1 + share), basis),
        reading=r.id,
    )
