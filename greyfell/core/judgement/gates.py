"""The gate before anything live: salvage and cold screening on record or vouched for, and no stop
fault.

No statement of an owner overrides a stop fault found by a reading; only a better reading clears it.
Local codes and licensed practice stand above an open gate.
"""

from dataclasses import dataclass
from typing import Any

from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.screening import screening_gaps

SETTLED_PRIMARY = 0.95
"""From this chance a winding counts as the primary for anything live: fed by mistake, another puts
out many times its volts. House rule."""


@dataclass(frozen=True)
class Gate:
    """Whether live guidance may be given, why not, and what it rests on (`record` or `vouched`)."""

    open: bool
    reasons: tuple[str, ...]
    rests_on: str

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {"open": self.open, "reasons": list(self.reasons), "rests_on": self.rests_on}


def live_gate(ident: Identification) -> Gate:
    """The gate before first power. Closed with reasons, the gravest first; page, command line and
    JSON agree on it.
    """
    stops = [f for f in ident.faults if f.severity == "stop"]
    if stops:
        told = (f"stop fault: {f.words} ({f.ends}); only a better reading clears it" for f in stops)
        return Gate(False, tuple(told), "record")
    said = {s.kind for s in ident.record.statements}
    elsewhere, overruled = "done-elsewhere" in said, "overrule" in said
    doubts = _doubts(ident)
    reasons = _unknowns(ident)
    if "salvage-done" not in said and not elsewhere:
        reasons.append(
            "salvage is not on record: unplugged, any capacitor discharged, said so at its station"
        )
    if not overruled:
        reasons += doubts
    if not elsewhere:
        reasons += [f"not screened cold: {g}" for g in screening_gaps(ident.record, ident.belief)]
    vouched = elsewhere or (overruled and bool(doubts))
    return Gate(not reasons, tuple(reasons), "vouched" if vouched else "record")


def _unknowns(ident: Identification) -> list[str]:
    """What no statement can make good: nothing known, or a piece of no usual family."""
    if not ident.windings:
        return ["nothing is known of the piece yet"]
    if ident.family == "other":
        return [
            "it fits no usual family: ferrite, three-phase and current transformers never go on "
            "the mains"
        ]
    return []


def _doubts(ident: Identification) -> list[str]:
    """What an overruling statement takes on itself: a caution, and which winding is the primary."""
    cautions = [f for f in ident.faults if f.severity == "caution"]
    open_questions = [
        f"open question: {f.words}; settle it, or overrule it in writing" for f in cautions[:1]
    ]
    doubt = _primary_doubt(ident)
    return open_questions if doubt is None else [*open_questions, doubt]


def _primary_doubt(ident: Identification) -> str | None:
    """A sentence where it is not settled which winding takes the mains."""
    primary = ident.belief.primary
    if primary is None or primary.mains_chance >= SETTLED_PRIMARY:
        return None
    return (
        f"that {primary.name} takes the mains is only {100 * primary.mains_chance:.0f} % sure: a "
        "low-energy ratio tells, or overrule it in writing"
    )
