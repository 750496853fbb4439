"""What stands on the label of a lead and on the tag of a piece: what it is, how it is known, its
volts and amps, where it went, when and by whom it was read last.
"""

import math
from typing import Any, Literal

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.evidence.present import points_of
from greyfell.core.evidence.record import Lead
from greyfell.core.figures.limits import LIVE_VOLTS
from greyfell.core.figures.notation import with_range
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.identification import Identification
from greyfell.core.telling.terminals import Terminals, terminals
from greyfell.core.telling.words import SURE_ENOUGH, role_words

Known = Literal["guessed", "read cold", "confirmed live"]
"""Kinds of readings that know a lead cold."""
LIVE_SHARE = 0.8
"""From this share of the supply's volts on the winding a reading confirms it live. House rule."""


class Label(Struct, frozen=True, kw_only=True):
    """One lead's label, as words; `kills` where its volts can be touched with harm or are not
    known.
    """

    lead: str
    mark: str
    colour: str
    role: str
    known: Known
    volts: str
    amps: str
    went: str
    date: str
    hand: str
    kills: bool


class TagLine(Struct, frozen=True, kw_only=True):
    """One winding as the tag tells it: its two points, what it is, its volts between them, how it
    is known.
    """

    points: str
    role: str
    volts: str
    known: Known


def tag_lines(ident: Identification) -> tuple[TagLine, ...]:
    """Every winding of a piece, those that can be touched with harm first."""
    order = sorted(ident.windings, key=lambda w: -(w.volts.high if w.volts else math.inf))
    return tuple(
        TagLine(
            points="–".join("Fe" if x == "core" else x for x in w.coil.leads),
            role=_called(ident, w),
            volts=with_range(w.volts, "V") if w.volts is not None else "volts not known",
            known=_known(ident, w, ident.record.standing),
        )
        for w in order
    )


def _called(ident: Identification, w: Winding) -> str:
    """A winding by its role, with "perhaps" where that is not sure."""
    role = role_words(w.role, ident.family, ident.record.supply.volts)
    return role if w.sure >= SURE_ENOUGH else f"perhaps {role}"


def labels(ident: Identification, marked: Terminals | None = None) -> tuple[Label, ...]:
    """A label for every lead, in the order of the record."""
    marks = marked or terminals(ident)
    return tuple(_label(ident, lead, marks) for lead in ident.record.leads)


def _colour(lead: Lead) -> str:
    return " ".join(x for x in (lead.colour, lead.stripe and f"/ {lead.stripe}") if x)


def _went(lead: Lead) -> str:
    return ", ".join(x for x in (lead.went, lead.fed and f"fed {lead.fed}") if x)


def _label(ident: Identification, lead: Lead, marks: Terminals) -> Label:
    winding = next((w for w in ident.windings if lead.id in w.coil.members), None)
    readings = [r for r in ident.record.standing if lead.id in points_of(r)]
    last = max(readings, key=lambda r: r.at or "", default=None)
    rating = None if winding is None else ident.belief.ratings.get(winding.id)
    amps = "" if rating is None else with_range(rating.continuous, "A")
    return Label(
        lead=lead.id,
        mark=marks.marks[lead.id],
        colour=_colour(lead),
        role=_role(ident, lead, winding),
        known=_known(ident, winding, readings),
        volts=_volts(lead, winding),
        amps=amps,
        went=_went(lead),
        date=(last.at or "")[:10] if last is not None else "",
        hand=last.by if last is not None else "",
        kills=_kills(ident, lead, winding),
    )


def _role(ident: Identification, lead: Lead, winding: Winding | None) -> str:
    """What the lead belongs to, with "perhaps" where it is not sure; a tap says so."""
    if lead.id in ident.topology.core_leads:
        return "the core itself"
    if winding is None:
        return "not known"
    words = _called(ident, winding)
    tap = next((t for t in winding.taps if t.lead == lead.id), None)
    return words if tap is None else f"{words}, {tap.kind} tap"


def _known(ident: Identification, winding: Winding | None, readings: list[Any]) -> Known:
    """How what is said of a lead is known."""
    if winding is None:
        return "guessed"
    enough = LIVE_SHARE * ident.record.supply.volts
    on_winding = {*winding.coil.members}
    for r in ident.record.standing:
        driven = getattr(r, "driven", None)
        volts = getattr(r, "driven_volts", None) or getattr(r, "volts", None) or 0.0
        if driven is None or volts < enough or set(driven) != set(ident.belief.fed):
            continue
        if points_of(r) & on_winding:
            return "confirmed live"
    cold = any(r.ohms_between is not None and points_of(r) & on_winding for r in readings)
    return "read cold" if cold else "guessed"


def _volts(lead: Lead, winding: Winding | None) -> str:
    """The volts of a lead against its winding's other end; a tap's from the first end."""
    if winding is None or winding.volts is None:
        return ""
    first, last = winding.coil.leads
    tap = next((t for t in winding.taps if t.lead == lead.id), None)
    if tap is not None:
        return f"{first}–{tap.lead} {with_range(tap.volts, 'V')}" if tap.volts else ""
    return f"{first}–{last} {with_range(winding.volts, 'V')}"


def _kills(ident: Identification, lead: Lead, winding: Winding | None) -> bool:
    """Whether a lead can be touched with harm when the piece is fed, for all that is known."""
    if lead.id in ident.topology.core_leads:
        return False
    volts: Quantity | None = None if winding is None else winding.volts
    return volts is None or volts.high > LIVE_VOLTS
