"""The gate before anything live: what must be on record before mains volts are spoken of.

Every demand is looked at by itself and says in a sentence what it wants; the gate is open where
none does. A statement lifts one caution that it names and was written after; it lifts no stop, no
hazard and no missing barrier. Local codes and licensed practice stand above an open gate.
"""

import re
from collections.abc import Callable, Iterable
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.evidence.record import Statement
from greyfell.core.evidence.times import after, stale, to_come
from greyfell.core.figures.limits import BOND_OHMS, MOST_FLUX
from greyfell.core.judgement.charge import may_hold_charge
from greyfell.core.judgement.contradictions import undecided_polarity
from greyfell.core.judgement.earthing import bond_meant, bond_of, bond_wanted
from greyfell.core.judgement.fault import Fault
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.kinds import kinds_of
from greyfell.core.judgement.primary import SETTLED_PRIMARY, fed_by_belief, how_sure
from greyfell.core.judgement.rated_mains import OFF_BY, flux_share, odd_iron, other_mains
from greyfell.core.judgement.salvage import (
    Salvage,
    cold_tests_elsewhere,
    of_capacitor,
    salvage_of,
    wanting,
)
from greyfell.core.judgement.screening import own_gaps, screening_gaps
from greyfell.core.judgement.struck_stops import unanswered

OTHER_MAINS_DOUBT = 0.05
"""From this chance of having been made for other mains nothing is fed. House rule."""
NEVER_LIVE = {
    "other": (
        "it fits no usual family: ferrite, three-phase and current transformers never go on the "
        "mains"
    ),
    "choke": "a choke is no load for the mains by itself: plan what stands in series with it",
}
"""Families that this gate never opens for, and why."""


class Gate(Struct, frozen=True):
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
    reasons = tuple(reason for demand in DEMANDS for reason in demand(ident))
    statements = ident.record.statements
    lifted = any(lifts(s, f, ident) for s in statements for f in _cautions(ident))
    vouched = lifted or _salvaged(ident).vouched or cold_tests_elsewhere(statements)
    return Gate(not reasons, reasons, "vouched" if vouched else "record")


def _known(ident: Identification) -> Iterable[str]:
    """Something is known, and it is of a family that goes on the mains."""
    if not ident.windings:
        yield "nothing is known of the piece yet"
    elif ident.family in NEVER_LIVE:
        yield NEVER_LIVE[ident.family]


def _kind(ident: Identification) -> Iterable[str]:
    """No kind is named that never goes on the mains."""
    for known in kinds_of(ident.record, ident.belief):
        if known.kind.never:
            yield f"a {known.kind.name} never goes on the mains ({known.why})"


def _primary(ident: Identification) -> Iterable[str]:
    """One winding is named that takes the mains, settled and told from the probes."""
    fed = fed_windings(ident)
    if not fed:
        yield "no winding is known that takes the mains"
    for w in fed:
        if w.coil.broken:
            yield f"{w.name}, the likeliest to take the mains, conducts nothing"
        elif w.coil.unread:
            yield f"no ohms were read of {w.name}"
        elif not w.coil.resolved:
            yield f"{w.name} cannot be told from the probes: a small direct current tells"
        if w.coil.telling is not None:
            pair = "–".join(w.coil.telling)
            yield f"which leads of {w.name} are its ends rests on a pair not read: ohms of {pair}"
        sure = how_sure(w, ident.belief)
        if sure < SETTLED_PRIMARY:
            yield (
                f"that {w.name} takes the mains is only {100 * sure:.0f} % sure: a plate, turns "
                "wound on, or the iron's mass or section tells"
            )


def fed_windings(ident: Identification) -> list[Winding]:
    """The windings that the supply would go on: the primary, or both its halves."""
    return fed_by_belief(ident.belief)


def _supply(ident: Identification) -> Iterable[str]:
    """The supply is stated."""
    if not ident.record.supply_stated:
        yield "the supply is not stated: say its volts and hertz first"


def _flux(ident: Identification) -> Iterable[str]:
    """Volts per hertz stay within what the plate allows."""
    share = flux_share(ident.record, ident.belief)
    if share is not None and share > MOST_FLUX:
        yield (
            f"the supply's volts per hertz are {100 * share:.0f} % of the plate's: the iron would "
            f"saturate; at most {100 * MOST_FLUX:.0f} %"
        )


def _region(ident: Identification) -> Iterable[str]:
    """Made for the mains it would be fed from."""
    doubt = other_mains(ident.record, ident.belief)
    if doubt >= OTHER_MAINS_DOUBT:
        yield (
            f"it may be made for other mains than these ({100 * doubt:.0f} %): a plate, a ratio "
            "or turns wound on tells"
        )


def _iron(ident: Identification) -> Iterable[str]:
    """Mass and section are of the size that the windings tell."""
    for what, factor in odd_iron(ident.belief):
        yield (
            f"the {what} is {factor:.0f} times off what the windings let expect "
            f"(at most {OFF_BY:.0f}): this may be iron for other hertz or another job"
        )


def polarity_wanted(ident: Identification) -> bool:
    """Whether two halves would be joined of which the polarity was not read."""
    best = ident.belief.best
    if best is None or best.halves is None:
        return False
    one, two = (set(ident.windings[i].coil.members) for i in best.halves)
    if frozenset(best.halves) in undecided_polarity(ident.record, ident.belief):
        return True
    told = {p.reading for p in ident.belief.polarity if p.sense != "unclear"}
    read = (set(r.joined) for r in ident.record.standing if r.id in told)
    return not any(one & points and two & points for points in read)


def _halves(ident: Identification) -> Iterable[str]:
    """Halves are joined only once their polarity was read."""
    if polarity_wanted(ident):
        yield "the halves' polarity is not read: joined the wrong way they are a short"


def _bond(ident: Identification) -> Iterable[str]:
    """Where the iron carries a high voltage, or earth was read to it, the bond holds."""
    bond = bond_of(ident.record, ident.topology.core_leads)
    if bond is not None and bond.bad:
        yield (
            f"earth to the core reads {bond.words}: a bond has at most {BOND_OHMS:g} Ω "
            "(IEC 60335-1 cl. 27.5)"
        )
    elif bond_wanted(ident.belief) and (bond is None or not bond.proved):
        yield (
            "the iron returns a high voltage and its bond to earth is not proved: at most "
            f"{BOND_OHMS:g} Ω with 1 A or more"
        )
    elif bond_meant(ident.record, ident.belief) and (bond is None or not bond.proved):
        yield (
            "the core is made to be earthed and its bond is not proved: at most "
            f"{BOND_OHMS:g} Ω with 1 A or more"
        )


def salvaged(ident: Identification) -> bool:
    """Whether salvage is on record: done, done elsewhere, or that there is nothing to discharge, of
    a piece that holds no charge.
    """
    return _salvaged(ident).done


def salvage_lacks(ident: Identification, said: Statement) -> str:
    """What a statement about the capacitor lacks on this piece, as it is asked for; empty where it
    counts, or is about something else.
    """
    return wanting(said, none_allowed=_none_allowed(ident)) if of_capacitor(said) else ""


def _none_allowed(ident: Identification) -> bool:
    return not may_hold_charge(ident.record, ident.belief)


def _salvaged(ident: Identification) -> Salvage:
    return salvage_of(ident.record.statements, none_allowed=_none_allowed(ident))


def _salvage(ident: Identification) -> Iterable[str]:
    found = _salvaged(ident)
    if not found.done:
        yield f"salvage is not on record: {found.missing}"


def _screening(ident: Identification) -> Iterable[str]:
    """Every barrier that counts was read open. What was done elsewhere stands for all but the
    mains winding's own.
    """
    elsewhere = cold_tests_elsewhere(ident.record.statements)
    gaps = own_gaps if elsewhere else screening_gaps
    for gap in gaps(ident.record, ident.belief):
        yield f"not screened cold: {gap}"


def _to_come(ident: Identification) -> Iterable[str]:
    """Nothing on record is of a time to come."""
    if ident.now is None:
        return
    record = ident.record
    dated = [*record.readings, *record.changes, *record.statements, *ident.struck]
    ahead = [x for x in dated if to_come(x.at, ident.now)]
    if ahead:
        names = ", ".join(x.id or "an entry" for x in ahead[:3])
        more = f" and {len(ahead) - 3} more" if len(ahead) > 3 else ""
        yield f"{names}{more}: dated {str(ahead[0].at)[:10]}, still to come; correct the time"


def _aged(ident: Identification) -> Iterable[str]:
    """The bond and the mains winding's barriers were read within a year."""
    if ident.now is None:
        return
    old = [r for r in ident.record.readings if stale(r.at, ident.now)]
    if not old:
        return
    ids = {r.id for r in old}
    fresh = ident.record.model_copy(
        update={"readings": [r for r in ident.record.readings if r.id not in ids or not r.ages]}
    )
    known = set(own_gaps(ident.record, ident.belief))
    for gap in own_gaps(fresh, ident.belief):
        if gap not in known:
            barrier = gap.removesuffix(" was not read").removesuffix(LOW_RANGE)
            yield f"{barrier} {OLD}: read it again, at 500 V"
    bond, young = (bond_of(r, ident.topology.core_leads) for r in (ident.record, fresh))
    if bond is not None and bond.proved and (young is None or not young.proved):
        yield f"the bond {OLD}: prove it again"


LOW_RANGE = " was read on an unknown or low range"
OLD = "was read more than a year ago, or nobody noted when"


def _struck(ident: Identification) -> Iterable[str]:
    """A struck reading that stopped the piece is answered by as many of its own kind."""
    for r in unanswered(ident.struck, ident.record, ident.topology):
        yield (
            f"{r.id}, struck out, would stop the piece: read {'–'.join(r.between)} again in the "
            "same way, at least as strong, as often as it read so"
        )


def _cautions(ident: Identification) -> list[Fault]:
    return [f for f in ident.faults if f.severity == "caution"]


def _open_questions(ident: Identification) -> Iterable[str]:
    """Every caution is settled, or lifted by a statement that names it."""
    for f in _cautions(ident):
        if not any(lifts(s, f, ident) for s in ident.record.statements):
            instead = "read it again" if f.firm else "settle it, or overrule it by name"
            yield f"open question: {f.words} ({f.ends}); {instead}"


def lifts(said: Statement, fault: Fault, ident: Identification) -> bool:
    """Whether a statement lifts a caution: it overrules it by its code, and by its leads where more
    than one has that code, and was written after every reading behind it.
    """
    if said.kind != "overrule" or fault.severity != "caution" or fault.firm or said.at is None:
        return False
    whole = said.concerns.strip().lower().replace(" ", "-")
    if not whole.startswith(fault.code):
        return False
    named = {x for x in re.split(r"[^A-Za-z0-9]+", said.concerns) if x in _points(ident)}
    alike = [f for f in _cautions(ident) if f.code == fault.code]
    if not (named <= {*fault.leads, "core"} if named else len(alike) <= 1):
        return False
    times = {r.id: r.at for r in ident.record.readings}
    return all(after(said.at, times.get(x)) for x in fault.readings)


def _points(ident: Identification) -> set[str]:
    return {*(lead.id for lead in ident.record.leads), "core"}


DEMANDS: tuple[Callable[[Identification], Iterable[str]], ...] = (
    _known,
    _kind,
    _supply,
    _primary,
    _flux,
    _region,
    _iron,
    _halves,
    _bond,
    _struck,
    _screening,
    _salvage,
    _open_questions,
    _to_come,
    _aged,
)
"""Everything that the gate asks for, the gravest first."""
