"""A rewinding proved: what was planned beside what was then measured of the new winding, and by
which factor the plan was off.
"""

import math
import statistics
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from msgspec import Struct

from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.identification import Identification
from greyfell.core.uses.project import Design


class Promised(Struct, frozen=True, kw_only=True):
    """What a plan said when it was kept: volts open, amps shorted at the winding's ends."""

    open_volts: Quantity
    short_amps: Quantity

    def written(self) -> dict[str, list[float]]:
        """As it is kept with the plan: value, low and high of each figure, V, A or Ω."""
        told = zip(FIGURES, (self.open_volts, self.short_amps), strict=True)
        return {name: [q.value, q.low, q.high] for name, q in told}


def promised_by(design: Design) -> Promised:
    """What a design says now."""
    return Promised(open_volts=design.open_volts, short_amps=design.short_amps)


def as_kept(record: Transformer, kind: str) -> Promised | None:
    """What the plan that was kept last said then; None where it told no figures."""
    plans = [s for s in record.statements if s.kind == kind and s.model_extra]
    figures = (plans[-1].model_extra or {}).get("planned") if plans else None
    try:
        volts, amps = (figures[name] for name in FIGURES)  # type: ignore[index]
        open_volts, short_amps = (Quantity(v[0], v[1], v[2], ("kept plan",)) for v in (volts, amps))
    except (IndexError, KeyError, TypeError):
        return None
    return Promised(open_volts=open_volts, short_amps=short_amps)


FIGURES = ("open_volts", "short_amps")


class Compared(Struct, frozen=True, kw_only=True):
    """One figure: words, unit, planned, measured with its limits, the reading, whether the plan's
    range holds it.
    """

    words: str
    unit: str
    planned: Quantity
    measured: Quantity
    reading: str
    meter: str = ""

    @property
    def holds(self) -> bool:
        """Whether both ranges meet."""
        return self.measured.low <= self.planned.high and self.measured.high >= self.planned.low

    @property
    def off(self) -> float:
        """Measured over planned: a ratio."""
        return self.measured.value / self.planned.value if self.planned.value else 0.0


def compared_with(ident: Identification, design: Promised) -> list[Compared]:
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


def _open(record: Transformer, design: Promised, r: Any) -> Compared:
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
        meter=r.meter or "",
    )


def _short(record: Transformer, design: Promised, r: Any) -> Compared:
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
        meter=r.meter or "",
    )


class Habit(Struct, frozen=True, kw_only=True):
    """How far a bench's plans, or one of its meters, are off: the factor with its range at 95 %, of
    how many. An offer: nothing is ever corrected by it unasked.
    """

    about: str
    factor: Quantity
    count: int
    words: str


def habits(compared: Sequence[Compared]) -> list[Habit]:
    """Plans of a bench by figure, then by figure and meter where a meter was named; a single one
    tells nothing yet. Mean of the logarithms, Student's t: JCGM 100:2008 G.3.
    """
    groups: dict[str, list[float]] = {}
    for c in compared:
        if c.off <= 0:
            continue
        groups.setdefault(c.words, []).append(math.log(c.off))
        if c.meter:
            groups.setdefault(f"{c.words}, read with {c.meter}", []).append(math.log(c.off))
    return [_habit(about, logs) for about, logs in groups.items() if len(logs) >= LEAST_PLANS]


def _habit(about: str, logs: list[float]) -> Habit:
    mean, count = statistics.fmean(logs), len(logs)
    half = STUDENT[min(count - 1, len(STUDENT)) - 1] * statistics.stdev(logs) / math.sqrt(count)
    ends = (math.exp(mean - half), math.exp(mean + half))
    factor = Quantity(math.exp(mean), *ends, (f"{count} rewindings",))
    if ends[0] <= 1 <= ends[1]:
        words = "no bias that these can tell"
    else:
        words = f"{'above' if mean > 0 else 'below'} plan, every time about alike"
    return Habit(about=about, factor=factor, count=count, words=words)


LEAST_PLANS = 2
STUDENT = (12.71, 4.303, 3.182, 2.776, 2.571, 2.447, 2.365, 2.306, 2.262, 2.228, 2.2, 2.18, 2.16)
"""Student's t of 95 % at 1, 2, 3 … degrees of freedom; beyond, the last. JCGM 100:2008, G.2."""
