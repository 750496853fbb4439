"""The gate before anything live: salvage and cold screening on record or vouched for, and no stop
fault.

No statement of an owner overrides a stop fault found by a reading; only a better reading clears it.
Local codes and licensed practice stand above an open gate.
"""

from dataclasses import dataclass
from typing import Any

from greyfell.core.identify import Identification
from greyfell.core.record import Transformer
from greyfell.core.screening import screening_gaps


@dataclass(frozen=True)
class Gate:
    """Whether live guidance may be given, why not, and what it rests on (`record` or `vouched`)."""

    open: bool
    reasons: tuple[str, ...]
    rests_on: str

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {"open": self.open, "reasons": list(self.reasons), "rests_on": self.rests_on}


def live_gate(record: Transformer, ident: Identification) -> Gate:
    """The gate before first power. Closed with reasons, the gravest first; page, command line and
    JSON agree on it.
    """
    stops = [
        (
            f"stop fault: {f.code.replace('-', ' ')} ({'–'.join(f.leads[:3])}); only a better "
            "reading clears it"
        )
        for f in ident.faults
        if f.severity == "stop"
    ]
    if stops:
        return Gate(False, tuple(stops), "record")
    elsewhere = [s for s in record.statements if s.kind == "done-elsewhere"]
    overruled = any(s.kind == "overrule" for s in record.statements)
    reasons = []
    if not ident.windings:
        reasons.append("nothing is known of the piece yet")
    if ident.family == "other" and ident.windings:
        reasons.append(
            "it fits no usual family: ferrite, three-phase and current transformers never "
            "go on the mains"
        )
    if not any(s.kind == "salvage-done" for s in record.statements) and not elsewhere:
        reasons.append(
            "salvage is not on record: unplugged, any capacitor discharged, said so at its station"
        )
    cautions = [f for f in ident.faults if f.severity == "caution"]
    if cautions and not overruled:
        reasons.append(
            f"open question: {cautions[0].code.replace('-', ' ')}; settle it, or overrule "
            "it in writing"
        )
    doubt = _primary_doubt(ident)
    if doubt is not None and not overruled:
        reasons.append(doubt)
    gaps = screening_gaps(record, ident.topology, ident.windings)
    if gaps and not elsewhere:
        reasons += [f"not screened cold: {g}" for g in gaps]
    vouched = bool(elsewhere) or (overruled and (bool(cautions) or doubt is not None))
    return Gate(not reasons, tuple(reasons), "vouched" if vouched else "record")


SETTLED_PRIMARY = 0.95
"""From this chance a winding counts as the primary for anything live: fed by mistake, another puts
out many times its volts."""


def _primary_doubt(ident: Identification) -> str | None:
    """A sentence where it is not settled which winding takes the mains."""
    best = ident.belief.best
    if best is None or best.roles[best.reference] not in ("primary", "primary-half"):
        return None
    w = ident.windings[best.reference]
    chance = w.roles.get("primary", 0.0) + w.roles.get("primary-half", 0.0)
    if chance >= SETTLED_PRIMARY:
        return None
    names = "–".join(w.coil.leads)
    return (
        f"that {names} takes the mains is only {100 * chance:.0f} % sure: a low-energy ratio "
        "tells, or overrule it in writing"
    )
