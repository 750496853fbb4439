"""The verdict on a piece: unknown, screened, proved, doubtful or condemned; why, and which readings
to take again.

A stop fault condemns and a caution leaves in doubt, whatever else was read; a screening counts only
where the core is proved and every open reading came from a range that could have shown something;
proved asks for live readings that agree. House rule.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from greyfell.core.belief import Fault
from greyfell.core.coil import Topology
from greyfell.core.record import Transformer
from greyfell.core.screening import CORE, HIGH_RANGE_OHMS, barriers, demanded, screening_gaps

if TYPE_CHECKING:
    from greyfell.core.identify import Winding

LIVE = 0.8
"""From this share of the supply a reading counts as taken live, at working flux. House rule."""

AGAIN = {
    "shorted-to-core": "leads free of everything, clean probes, bare metal, highest range",
    "windings-shorted": "any link taken off, clean probes, highest range",
    "open-winding": (
        "both ends scraped bare, a thermal cut-out looked for under the tape, lowest range upward"
    ),
    "insulation-low": (
        "a day somewhere warm and dry, fingers off the probes, highest range or an insulation "
        "tester"
    ),
    "shorted-turns": (
        "everything off every lead and out of the window, inductance and Q at 100 or 120 Hz"
    ),
    "excess-no-load-current": "cooled down, at half the volts, watts as well as amps",
    "ratio-conflict": "both volts in the same minute, the line noted",
    "ohms-out-of-band": "probes zeroed, one fixed range, a small direct current where ohms are few",
    "inconsistent-readings": "probes zeroed, one fixed range",
}
"""How the reading behind a fault is taken again before anything is built on it. Common practice."""


@dataclass(frozen=True)
class Recheck:
    """One thing to read again: the readings concerned, the leads, and how."""

    readings: tuple[str, ...]
    leads: tuple[str, ...]
    how: str

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {"readings": list(self.readings), "leads": list(self.leads), "how": self.how}


@dataclass(frozen=True)
class Verdict:
    """The word, its reasons, and what to read again; empty where nothing asks for it."""

    word: str
    reasons: tuple[str, ...]
    recheck: tuple[Recheck, ...]


def verdict_on(
    record: Transformer, topology: Topology, faults: Sequence[Fault], windings: Sequence["Winding"]
) -> Verdict:
    """Judge a piece by its faults, what is still missing of its screening, and its live
    readings.
    """
    recheck = _recheck(record, topology, faults, windings)
    for severity, word in (("stop", "condemned"), ("caution", "doubtful")):
        found = [f for f in faults if f.severity == severity]
        if found:
            return Verdict(
                word,
                tuple(f"{f.code.replace('-', ' ')}: {'–'.join(f.leads[:3])}" for f in found),
                recheck,
            )
    if not windings:
        return Verdict("unknown", ("no winding is known yet",), recheck)
    gaps = screening_gaps(record, topology, windings)
    if gaps:
        return Verdict("unknown", tuple(gaps), recheck)
    screened = (
        "the core proved, every winding open to it and the primary to every other, on ranges "
        "that count"
    )
    supply = record.supply.volts
    live = [
        r
        for r in record.standing
        if (r.kind == "no_load" and r.volts > LIVE * supply)
        or (r.kind == "ratio" and r.driven_volts > LIVE * supply)
    ]
    if not live:
        return Verdict("screened", (screened, "nothing live was read yet"), recheck)
    return Verdict(
        "proved", (screened, f"live readings agree: {', '.join(r.id for r in live)}"), recheck
    )


def _recheck(
    record: Transformer, topology: Topology, faults: Sequence[Fault], windings: Sequence["Winding"]
) -> tuple[Recheck, ...]:
    """Readings behind a stop or a caution, then barriers of the screening whose open readings were
    too weak to count.
    """
    out = [
        Recheck(f.readings, f.leads, AGAIN.get(f.code, "clean probes, a range that fits"))
        for f in faults
        if f.severity != "note"
    ]
    low = [
        r
        for r in record.standing
        if r.kind == "resistance" and r.ohms == "open" and (r.range_ohms or 0.0) < HIGH_RANGE_OHMS
    ]
    if not low:
        return tuple(out)
    iron = {"core", "earth", *topology.core_leads}
    for b in barriers(record, topology):
        if b.range_ohms is None or b.screened or not demanded(b, windings):
            continue
        one = set(topology.coils[b.i].members)
        two = iron if b.j == CORE else set(topology.coils[b.j].members)
        weak = [r for r in low if set(r.between) & one and set(r.between) & two]
        if weak:
            out.append(
                Recheck(
                    tuple(r.id for r in weak),
                    tuple(weak[0].between),
                    "on a range of 2 MΩ or above, the range noted",
                )
            )
    return tuple(out)
