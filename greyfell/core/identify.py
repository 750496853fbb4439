"""Evidence to conclusions: believe, then judge. Pure: the same record gives the same answer."""

from typing import Any

from greyfell.core.belief.believe import believe
from greyfell.core.belief.found import Rating, TapFound, Winding
from greyfell.core.evidence.present import present, superseded
from greyfell.core.evidence.record import Transformer
from greyfell.core.judgement.gates import live_gate
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.judge import judge
from greyfell.core.judgement.metering import meter_rules

FORMAT = "greyfell.identification/1"


def identify(record: Transformer) -> Identification:
    """What a record says: windings with roles and volts, families, faults, hazards, verdict.

    Takes the record as it was kept; readings struck out or superseded by a change count no more.
    """
    gone = tuple(superseded(record))
    now = present(record)
    belief = believe(now)
    struck = tuple(r for r in record.readings if r.struck is not None)
    return Identification(
        record=now,
        belief=belief,
        judgement=judge(now, belief, struck),
        superseded=gone,
        struck=struck,
    )


def as_json(ident: Identification) -> dict[str, Any]:
    """The identification as `greyfell.identification/1`."""
    belief, verdict = ident.belief, ident.judgement.verdict
    per_turn, whole = belief.volts_per_turn, belief.voltamperes
    in_windings = {x for w in ident.windings for x in w.coil.leads}
    return {
        "format": FORMAT,
        "tag": ident.tag,
        "families": {f: round(p, 6) for f, p in ident.families.items()},
        "core_leads": list(ident.topology.core_leads),
        "windings": [_winding(w, belief.ratings.get(w.id)) for w in ident.windings],
        "fed": list(belief.fed),
        "loose_leads": [x for x in ident.topology.loose if x not in in_windings],
        "polarity": [p.as_json() for p in belief.polarity],
        "verdict": verdict.word,
        "verdict_reasons": list(verdict.reasons),
        "recheck": [r.as_json() for r in verdict.recheck],
        "faults": [f.as_json() for f in ident.faults],
        "hazards": [h.as_json() for h in ident.hazards],
        "volts_per_turn": None if per_turn is None else per_turn.as_json(),
        "voltamperes": None if whole is None else whole.as_json(),
    }


def answer(ident: Identification) -> dict[str, Any]:
    """All that is printed of an identification: with the gate, and which meter may touch what."""
    return as_json(ident) | {
        "gate": live_gate(ident).as_json(),
        "meters": [rule.as_json() for rule in meter_rules(ident)],
    }


def _winding(w: Winding, rating: Rating | None) -> dict[str, Any]:
    ohms = w.coil.ohms
    measured = {"value": ohms.value, "low": ohms.low, "high": ohms.high}
    return {
        "id": w.id,
        "leads": list(w.coil.leads),
        "taps": [_tap(t) for t in w.taps],
        "core_bond": {"place": w.coil.bond} if w.coil.bond else None,
        "ohms": None if w.coil.broken or w.coil.unread else measured,
        "roles": {r: round(p, 6) for r, p in w.roles.items()},
        "volts": None if w.volts is None else {**w.volts.as_json(), "between": list(w.coil.leads)},
        "amps": None if rating is None else rating.as_json(),
    }


def _tap(t: TapFound) -> dict[str, Any]:
    return {
        "lead": t.lead,
        "fraction": round(t.fraction, 4),
        "kind": t.kind,
        "volts": t.volts.as_json() if t.volts else None,
    }
