"""The cold tests that are still missing: core proof, barriers that must be open, leads to place,
ohms, insulation of aged iron; each valued by what its possible readings would settle of safety,
identity and place.
"""

import math
from collections.abc import Iterable

from msgspec.structs import replace

from greyfell.core.belief.found import Winding
from greyfell.core.evidence.record import Reading, Transformer
from greyfell.core.figures.notation import percent
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.screening import (
    ASKED_RANGE_OHMS,
    CORE,
    LEAK_ODDS,
    OUTCOMES,
    USUAL_TOUCH,
    Barrier,
    ScreeningState,
    Shown,
    barriers,
    demanded,
    outcomes,
    proof_worth,
    settled,
    shows,
    state_of,
)
from greyfell.core.steps import step as steps
from greyfell.core.steps.information import SAFETY_WORTH, BondWorth, bond_worth
from greyfell.core.steps.methods import lacking
from greyfell.core.steps.step import Step
from greyfell.core.telling.lead_bundle import proposals
from greyfell.core.telling.words import mains_words

CORE_POINT = "core"
AGED_WORTH = 0.5
"""Nats that an insulation test settles where damage was seen: behind the ohmmeter's barriers. From
memory."""
MOST_DAMAGE = 3
OHMS_WORTH = 2.0
"""Nats that the ohms of a winding settle of which none were read. From memory."""
ORDER_WORTH = 2.0
"""Nats that the order of a winding's leads settles: which are its ends, and what stands on all of
it once a part is driven. From memory."""
SAY_RETURN = 0.02
"""From this chance an HV winding's return is named among what a reading to the core may show."""


def points_read(r: Reading, *, open_too: bool = False) -> tuple[str, ...]:
    """The pair of a reading of ohms, of an open one where asked; nothing for other kinds."""
    if not r.may_open:
        return ()
    return tuple(r.between) if open_too or not r.is_open else ()


def first_primary(ident: Identification) -> tuple[int, Winding] | None:
    """The first whole winding that likely carries the mains, and its place."""
    whole = ((i, w) for i, w in enumerate(ident.windings) if w.on_mains and not w.coil.broken)
    return next(whole, None)


def cold_steps(ident: Identification) -> Iterable[Step]:
    """Cold tests still missing, each valued by what its possible readings would settle of safety,
    identity and place.
    """
    if not ident.topology.core_proved:
        worth = SAFETY_WORTH * proof_worth(ident.record, ident.belief)
        yield replace(steps.PROOF.of(), worth=worth)
    for b in barriers(ident.record, ident.topology):
        if not b.screened and demanded(b, ident.windings):
            yield open_step(b, ident)
    yield from _aged(ident)
    for x in ident.topology.untested:
        mate = mate_of(x, ident)
        if mate is not None:
            yield placing(x, mate, ident)
    for w in ident.windings:
        if w.coil.unread:
            first, last = w.coil.leads
            step = steps.OHMS.of((first, last), a=first, b=last)
            yield replace(step, worth=OHMS_WORTH)
        if w.coil.telling is not None:
            first, last = w.coil.telling
            yield replace(steps.ORDER.of((first, last), a=first, b=last), worth=ORDER_WORTH)


def _aged(ident: Identification) -> Iterable[Step]:
    """The insulation of the mains winding where damage or age is on record and no tester was put to
    it; not asked of who has none.
    """
    record, primary = ident.record, first_primary(ident)
    words = damage_of(record)
    if not words or primary is None or steps.AGED.act in lacking(record):
        return
    coil = primary[1].coil
    tested = any(r.proof_volts and set(r.between) & set(coil.members) for r in record.standing)
    if coil.bond is None and not tested:
        step = steps.AGED.of((coil.leads[0], CORE_POINT), lead=coil.leads[0], damage=words)
        yield replace(step, worth=AGED_WORTH)


def damage_of(record: Transformer) -> str:
    """Damage and age that were seen on core and leads, in words; empty where none was."""
    core = record.core
    seen = [core.damage] if core is not None and core.damage else []
    seen += [f"{lead.id} {lead.damage}" for lead in record.leads if lead.damage]
    return ", ".join(seen[:MOST_DAMAGE])


def _chances(state: ScreeningState, shown: Shown) -> dict[str, float]:
    likely = [chance for chance, _ in outcomes(state, shown)]
    return dict(zip(OUTCOMES, likely, strict=True))


def open_step(b: Barrier, ident: Identification) -> Step:
    """Read a barrier that should be open: the chances of each outcome, and what it would mean."""
    winding, to_core = ident.windings[b.i], b.j == CORE
    proved = ident.topology.core_proved
    state = state_of(b, ident.windings, proved=proved)
    shown = shows(ASKED_RANGE_OHMS, to_core=to_core, proved=proved)
    chances = _chances(state, shown)
    first_time = to_core and b.range_ohms is None
    bond = bond_worth(ident, b.i) if first_time else BondWorth()
    lead = winding.coil.leads[0]
    mate = "core" if to_core else ident.windings[b.j].coil.leads[0]
    step = steps.OPEN.of(
        (lead, mate),
        lead=lead,
        mate=mate,
        named="the core" if to_core else mate,
        touched="the bare iron" if to_core else mate,
        open=percent(chances["open"] * (1 - bond.returns)),
        leaks=percent(chances["leaks"]),
        meant=meant_by(winding, bond, to_core, chances["conducts"]),
    )
    return replace(step, worth=SAFETY_WORTH * settled(state, shown) + bond.nats)


def meant_by(winding: Winding, bond: BondWorth, to_core: bool, conducts: float) -> str:
    """What ohms across a barrier would mean."""
    who = mains_words(winding.role)
    if bond.returns > SAY_RETURN:
        back = f"an HV winding's return on the iron ({percent(bond.returns)})"
        return f"Ohms: {back}, else {who} touches the core, stop."
    what = "the core" if to_core else "another winding"
    return f"Ohms ({percent(conducts)}): {who} touches {what}, stop."


def mate_of(x: str, ident: Identification) -> str | None:
    """What a lead is read against next: what twist and colour propose, one of its own colour,
    another stray (two strays are most often two ends), one lead of each winding, the core; never a
    pair that was read, nor a winding it was read open to. None where nothing is left.
    """
    topology, record = ident.topology, ident.record
    met = {y for r in record.standing if x in points_read(r, open_too=True) for y in r.between}
    apart = {topology.coil_of(y) for y in met} - {None}
    placed = {y for w in ident.windings for y in w.coil.members}
    proposed = (y for p in proposals(record, placed) if x in p.leads for y in p.leads)
    colours = {lead.id: lead.colour for lead in record.leads if lead.colour}
    alike = (y for y, colour in colours.items() if colour == colours.get(x))
    firsts = (w.coil.leads[0] for w in ident.windings)
    for y in (*proposed, *alike, *topology.untested, *firsts, CORE_POINT):
        if y != x and y not in met and topology.coil_of(y) not in apart:
            return y
    return None


def placing(x: str, mate: str, ident: Identification) -> Step:
    """Find what a lead belongs to: a winding found, a partner for it, or nothing; and whether it
    touches the core.
    """
    unknown = ScreeningState(1 - USUAL_TOUCH - LEAK_ODDS, USUAL_TOUCH, LEAK_ODDS)
    shown = shows(ASKED_RANGE_OHMS, to_core=True, proved=ident.topology.core_proved)
    worth = math.log(len(ident.windings) + 2) + SAFETY_WORTH * settled(unknown, shown)
    return replace(steps.PLACE.of((x, mate), lead=x, mate=mate), worth=worth)
