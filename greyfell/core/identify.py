"""Evidence to conclusions: believe, then judge. Pure: the same record gives the same answer."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from msgspec.structs import replace

from greyfell.core.belief.believe import believe
from greyfell.core.belief.found import Rating, TapFound, Winding
from greyfell.core.dangers.of_handling import handling
from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.lenient import LeftOut
from greyfell.core.evidence.present import present, superseded
from greyfell.core.evidence.record import Lead, Reading, Transformer
from greyfell.core.judgement.gates import live_gate
from greyfell.core.judgement.high import hidden_high
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.judge import judge
from greyfell.core.judgement.kinds import kinds_of
from greyfell.core.judgement.metering import meter_rules

FORMAT = "greyfell.identification/1"


def identify(
    record: Transformer, unread: Sequence[LeftOut] = (), now: datetime | None = None
) -> Identification:
    """What a record says: windings with roles and volts, families, faults, hazards, verdict.

    Takes the record as it was kept; readings struck out or superseded by a change count no more.
    `unread` is what of it could not be read. `now` is when the gate is asked; the verdict does not
    depend on it. Never raises: what a rule chokes on is left out too, named, and keeps the gate
    shut.
    """
    try:
        found = _concluded(record, unread)
    except Exception:  # whatever it is, the piece opens and the rest of it is told
        less, odd = _without_what_chokes(record, unread)
        found = _concluded(less, (*unread, *odd))
    return found if now is None else found.at(now)


def _concluded(record: Transformer, unread: Sequence[LeftOut]) -> Identification:
    gone = tuple(superseded(record))
    now = present(record)
    found = believe(now)
    belief = replace(found, hidden=hidden_high(record, found))
    struck = tuple(r for r in record.readings if r.struck is not None)
    return Identification(
        record=now,
        belief=belief,
        judgement=judge(now, belief, struck, unread),
        superseded=gone,
        struck=struck,
    )


LOOKS = ("nameplate", "core", "changes", "statements", "parts")
"""What may be left out of a record besides its readings, tried in this order."""
CHOKED = "the engine has no answer where it is weighed in; please report it with the record."


def _without_what_chokes(
    record: Transformer, unread: Sequence[LeftOut]
) -> tuple[Transformer, tuple[LeftOut, ...]]:
    """The record without the fewest parts that let it be concluded, and those parts.

    What was seen is tried first; then readings by halves: of a half that chokes by itself, each
    half again, until single readings are left.
    """
    for cut in (LOOKS[:n] for n in range(len(LOOKS) + 1)):
        bare = _bare(record, cut)
        if _goes(bare.model_copy(update={"readings": []}), unread):
            break
    odd = [LeftOut(part, CHOKED, False) for part in cut]
    taken: list[Reading] = []
    waiting = [list(record.readings)]
    while waiting:
        some = waiting.pop()
        if _goes(bare.model_copy(update={"readings": [*taken, *some]}), unread):
            taken += some
        elif len(some) == 1:
            odd.append(LeftOut(some[0].id, CHOKED))
        else:
            half = len(some) // 2
            waiting += [some[half:], some[:half]]
    return bare.model_copy(update={"readings": taken}), tuple(odd)


def _bare(record: Transformer, cut: Sequence[str]) -> Transformer:
    """A record without some of what was seen of it; without all of it, its leads are letters."""
    empty: dict[str, Any] = {key: None if key in ("nameplate", "core") else [] for key in cut}
    if len(cut) == len(LOOKS):
        empty["leads"] = [Lead(id=lead.id) for lead in record.leads]
    return record.model_copy(update=empty)


def _goes(record: Transformer, unread: Sequence[LeftOut]) -> bool:
    """Whether all that is asked of a piece can be answered."""
    try:
        answer(_concluded(record, unread))
    except Exception:
        return False
    return True


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
        "hazards": [danger.as_hazard() for danger in hazards(ident)],
        "volts_per_turn": None if per_turn is None else per_turn.as_json(),
        "voltamperes": None if whole is None else whole.as_json(),
        "kinds": [k.as_json() for k in kinds_of(ident.record, belief)],
    }


def answer(ident: Identification) -> dict[str, Any]:
    """All that is printed of an identification: with the gate, and which meter may touch what."""
    return as_json(ident) | {
        "gate": live_gate(ident).as_json(),
        "meters": [rule.as_json() for rule in meter_rules(ident)],
        "handling": [said.as_json() for said in handling(ident)],
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
