"""The next safe step: the safest test that would tell most, with what to expect and what else would
mean.

Order by energy: a reading to repeat, salvage, then cold tests (core proof, primary to core, pairs,
other windings to core), then low energy, then live. Within low energy the tests are valued by what
they would settle (`worth`). A live test is never proposed while the gate is closed, and the gate
stays closed while a cold test that could condemn is missing. The words of every step stand in
`steps`; here is only when, and for which leads.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

from greyfell.core.belief.found import Winding
from greyfell.core.belief.observations import Row
from greyfell.core.evidence.record import Reading, Transformer
from greyfell.core.figures.notation import percent, span
from greyfell.core.guidance import steps
from greyfell.core.guidance.bundle import proposals
from greyfell.core.guidance.methods import lacking
from greyfell.core.guidance.steps import GATE_SENTENCE, Step
from greyfell.core.guidance.words import mains_words
from greyfell.core.guidance.worth import SAFETY_WORTH, BondWorth, Worth, bond_worth, worth_of
from greyfell.core.judgement.charge import may_hold_charge
from greyfell.core.judgement.earthing import bond_of, bond_wanted
from greyfell.core.judgement.fault import FAULTS, Fault
from greyfell.core.judgement.gates import (
    Gate,
    fed_windings,
    live_gate,
    polarity_wanted,
    salvaged,
)
from greyfell.core.judgement.hazards.mains import LIVE_VOLTS
from greyfell.core.judgement.high import high_ruled_out
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.screening import (
    ASKED_RANGE_OHMS,
    CORE,
    LEAK_ODDS,
    OUTCOMES,
    USUAL_TOUCH,
    Barrier,
    State,
    barriers,
    demanded,
    outcomes,
    proof_worth,
    settled,
    shows,
    state_of,
)

CORE_POINT = "core"
LEAST_WORTH = 0.1
"""A low-energy test worth less than this many nats is not proposed. From memory."""
AGED_WORTH = 0.5
"""Nats that an insulation test settles where damage was seen: behind the ohmmeter's barriers. From
memory."""
MOST_DAMAGE = 3
OHMS_WORTH = 2.0
"""Nats that the ohms of a winding settle of which none were read. From memory."""
SAY_RETURN = 0.02
"""From this chance an HV winding's return is named among what a reading to the core may show."""
REVERSE_VOLTS, LOW_VOLTS, LEAST_VOLTS = 42.0, 12.0, 3.0
"""Volts of the three ratio tests: into the HV side; into a primary with HV ruled out; and where it
is not. Common practice."""
TURN_VOLTS, TEST_TURNS = 6.0, 5
"""Volts and turns of a test turn. Common practice."""


def next_steps(ident: Identification) -> list[Step]:
    """The steps still open, the next one first; after a stop fault only the reading that would
    clear it.
    """
    if ident.stop is not None:
        return [*_salvage(ident), _clear(ident, ident.stop)]
    # the proof first: it is what gives every open-to-core reading its worth
    cold = sorted(_cold(ident), key=lambda s: (s.kind != "core_proof", -s.worth))
    none = lacking(ident.record)
    low = _low(ident)
    found = [*_salvage(ident), *_repeat(ident), *cold, *(s for s in low if s.act not in none)]
    found += _asked_by_the_gate(ident)
    gate = live_gate(ident)
    if gate.open and not cold:
        found += _live(ident)
    late = [s for s in low if s.act in none]  # what there is no instrument for waits behind
    return (found or [_finished(ident, gate)]) + late


def _asked_by_the_gate(ident: Identification) -> Iterable[Step]:
    """What the gate still asks for that is neither a cold test nor valued: bond, polarity, and what
    the piece came out of.
    """
    bond = bond_of(ident.record, ident.topology.core_leads)
    if bond_wanted(ident.belief) and (bond is None or not bond.proved):
        yield steps.BOND.of(("earth", "core"))
    if polarity_wanted(ident):
        one, two = (w.coil.leads for w in fed_windings(ident))
        a, b, c, d = *one, *two
        yield steps.POLARITY.of((a, b), a=a, b=b, c=c, d=d)
    if ident.windings and not salvaged(ident) and not may_hold_charge(ident.record, ident.belief):
        yield steps.NONE_HERE.of()


def _clear(ident: Identification, fault: Fault) -> Step:
    """The one reading that would clear a stop: the same pair by the same kind of test, with no
    fewer volts; for shorted turns the inductance with nothing joined on.
    """
    kind = FAULTS[fault.code]
    if kind.clearing == "inductance":
        concerned = (w for w in ident.windings if set(fault.leads) & set(w.coil.members))
        a, b = next(concerned, ident.windings[0]).coil.leads
        return steps.CLEAR_SHORT.of((a, b), a=a, b=b)
    reading = _behind(ident, fault)
    if reading is None:
        pair = (fault.leads[0], "core") if "core" in fault.leads else fault.leads[:2]
        return steps.CLEAR_OHMS.of(pair, ends="–".join(pair), typed="-".join(pair), how=kind.again)
    pair = points_read(reading)
    ends, typed = "–".join(pair), "-".join(pair)
    if reading.kind == "insulation":
        volts = f"{reading.test_volts:g} V"
        return steps.CLEAR_INSULATION.of(pair, ends=ends, typed=typed, how=kind.again, volts=volts)
    return steps.CLEAR_OHMS.of(pair, ends=ends, typed=typed, how=kind.again)


def _behind(ident: Identification, fault: Fault) -> Reading | None:
    """The reading that speaks most for a fault: from one side to another, the fewest ohms first."""
    mine = [r for r in ident.record.standing if r.id in fault.readings and points_read(r)]
    across = [r for r in mine if _crosses(ident, points_read(r))]
    found: list[Reading] = sorted(across or mine, key=lambda r: getattr(r, "ohms", 0.0) or 0.0)
    return next(iter(found), None)


def points_read(r: Reading, *, open_too: bool = False) -> tuple[str, ...]:
    """The pair of a reading of ohms, of an open one where asked; nothing for other kinds."""
    if r.kind not in ("resistance", "insulation"):
        return ()
    return r.between if open_too or r.ohms != "open" else ()


def _crosses(ident: Identification, pair: tuple[str, ...]) -> bool:
    """Whether a pair lies on two sides of a barrier."""
    topology = ident.topology
    sides = {-1 if x in topology.iron else topology.coil_of(x) for x in pair}
    return len(sides) > 1


def _repeat(ident: Identification) -> list[Step]:
    """A reading that does not fit is repeated before anything is built on it."""
    for fault in ident.faults:
        pair = fault.leads[:2]
        odd = fault.code == "inconsistent-readings" and len(fault.leads) == 2
        if odd and fault.readings:
            reading = fault.readings[0]
            ends, typed = "–".join(pair), "-".join(pair)
            return [steps.REPEAT.of(pair, ends=ends, typed=typed, reading=reading)]
    return []


def _salvage(ident: Identification) -> list[Step]:
    risky = not ident.windings or may_hold_charge(ident.record, ident.belief)
    return [steps.SALVAGE.of()] if risky and not salvaged(ident) else []


# ------------------------------------------------------------------ cold


def _cold(ident: Identification) -> Iterable[Step]:
    """Cold tests still missing, each valued by what its possible readings would settle of safety,
    identity and place.
    """
    if not ident.topology.core_proved:
        worth = SAFETY_WORTH * proof_worth(ident.record, ident.belief)
        yield replace(steps.PROOF.of(), worth=worth)
    for b in barriers(ident.record, ident.topology):
        if not b.screened and demanded(b, ident.windings):
            yield _open(b, ident)
    yield from _aged(ident)
    for x in ident.topology.untested:
        mate = _mate(x, ident)
        if mate is not None:
            yield _placing(x, mate, ident)
    for w in ident.windings:
        if w.coil.unread:
            first, last = w.coil.leads
            step = steps.OHMS.of((first, last), a=first, b=last)
            yield replace(step, worth=OHMS_WORTH)


def _aged(ident: Identification) -> Iterable[Step]:
    """The insulation of the mains winding where damage or age is on record and no tester was put to
    it; not asked of who has none.
    """
    record, primary = ident.record, _first_primary(ident)
    words = damage_of(record)
    if not words or primary is None or "insulation" in lacking(record):
        return
    coil = primary[1].coil
    tested = any(
        r.kind == "insulation" and set(r.between) & set(coil.members) for r in record.standing
    )
    if coil.bond is None and not tested:
        step = steps.AGED.of((coil.leads[0], CORE_POINT), lead=coil.leads[0], damage=words)
        yield replace(step, worth=AGED_WORTH)


def damage_of(record: Transformer) -> str:
    """Damage and age that were seen on core and leads, in words; empty where none was."""
    core = record.core
    seen = [core.damage] if core is not None and core.damage else []
    seen += [f"{lead.id} {lead.damage}" for lead in record.leads if lead.damage]
    return ", ".join(seen[:MOST_DAMAGE])


def _open(b: Barrier, ident: Identification) -> Step:
    """Read a barrier that should be open: the chances of each outcome, and what it would mean."""
    winding, to_core = ident.windings[b.i], b.j == CORE
    proved = ident.topology.core_proved
    state = state_of(b, ident.windings, proved=proved)
    shown = shows(ASKED_RANGE_OHMS, to_core=to_core, proved=proved)
    likely = [chance for chance, _ in outcomes(state, shown)]
    chances = dict(zip(OUTCOMES, likely, strict=True))
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
        meant=_meant(winding, bond, to_core, chances["conducts"]),
    )
    return replace(step, worth=SAFETY_WORTH * settled(state, shown) + bond.nats)


def _meant(winding: Winding, bond: BondWorth, to_core: bool, conducts: float) -> str:
    """What ohms across a barrier would mean."""
    who = mains_words(winding.role)
    if bond.returns > SAY_RETURN:
        back = f"an HV winding's return on the iron ({percent(bond.returns)})"
        return f"Ohms: {back}, else {who} touches the core, stop."
    what = "the core" if to_core else "another winding"
    return f"Ohms ({percent(conducts)}): {who} touches {what}, stop."


def _mate(x: str, ident: Identification) -> str | None:
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


def _placing(x: str, mate: str, ident: Identification) -> Step:
    """Find what a lead belongs to: a winding found, a partner for it, or nothing; and whether it
    touches the core.
    """
    unknown = State(1 - USUAL_TOUCH - LEAK_ODDS, USUAL_TOUCH, LEAK_ODDS)
    shown = shows(ASKED_RANGE_OHMS, to_core=True, proved=ident.topology.core_proved)
    worth = math.log(len(ident.windings) + 2) + SAFETY_WORTH * settled(unknown, shown)
    return replace(steps.PLACE.of((x, mate), lead=x, mate=mate), worth=worth)


# ------------------------------------------------------------------ low energy


@dataclass(frozen=True)
class Test:
    """A test that may be worth taking: what it would observe, and how it is told."""

    __test__ = False  # a test of the bench, not of ours
    row: Row
    step: Step


def _low(ident: Identification) -> list[Step]:
    """Low-energy tests still missing, the one that would settle most first; a test whose figure
    cannot be predicted comes last.
    """
    driven = (*_ratios(ident), *_turns(ident))
    told = [replace(t, step=_meanwhile(ident, t.step, t.row.volts)) for t in driven]
    tests = (*_milliohms(ident), *told, *_inductances(ident))
    valued = [(worth_of(ident, t.row), t) for t in tests]
    worthy = [_expecting(t, w) for w, t in valued if w is not None and w.nats > LEAST_WORTH]
    blind = [t.step for w, t in valued if w is None]
    return sorted((*worthy, *blind), key=lambda step: -step.worth)


def _meanwhile(ident: Identification, step: Step, drive: tuple[float, float]) -> Step:
    """The step with the volts that stand on every other winding while one is driven: above 30 V a
    bare end counts as live. Turns alone.
    """
    pair = step.leads.get("driven", ())
    fed = ident.belief.winding_of(pair[0]) if pair else None
    if fed is None or fed.volts is None or fed.volts.low <= 0:
        return step
    told, carries = [], []
    for w in ident.windings:
        if w is fed or w.volts is None:
            continue
        low = drive[0] * w.volts.low / fed.volts.high
        high = drive[0] * w.volts.high / fed.volts.low
        live = ", live" if high > LIVE_VOLTS else ""
        told.append(f"{w.name} {span(low, high, 'V')}{live}")
        carries.append((w.id, low, high))
    if not told:
        return step
    meanwhile = f"Meanwhile: {'; '.join(told)}."
    return replace(step, meanwhile=meanwhile, carries=tuple(carries))


def _expecting(test: Test, worth: Worth) -> Step:
    """The step with the figure it should show, and what other figures would mean."""
    row, low, high = test.row, worth.low, worth.high
    others = ""
    if row.kind == "ratio":
        volts = row.volts[0]
        low, high, unit = volts * low, volts * high, "V"
        others = _others(worth, volts, unit)
    elif row.kind == "test turn":  # the row holds turns of the winding over volts
        volts = TEST_TURNS * row.volts[0]
        low, high, unit = volts / worth.high, volts / worth.low, "V"
    elif row.kind == "inductance":  # the row holds ½ ln L
        low, high, unit = low**2, high**2, "H"
    else:
        unit = "Ω"
        others = _others(worth, 1.0, unit)
    otherwise = f"{others}. {test.step.otherwise}" if others else test.step.otherwise
    expect = f"{span(low, high, unit)}."
    return replace(test.step, worth=worth.nats, expect=expect, otherwise=otherwise)


def _others(worth: Worth, scale: float, unit: str) -> str:
    said = (
        f"{span(scale * o.low, scale * o.high, unit)} would mean {o.words}" for o in worth.otherwise
    )
    return "; ".join(said)


def _first_primary(ident: Identification) -> tuple[int, Winding] | None:
    """The first whole winding that likely carries the mains, and its place."""
    whole = ((i, w) for i, w in enumerate(ident.windings) if w.on_mains and not w.coil.broken)
    return next(whole, None)


def _milliohms(ident: Identification) -> Iterable[Test]:
    """Volts over a small direct current, where an ohmmeter tells nothing."""
    measured = {x for r in ident.record.standing if r.kind == "dc_drop" for x in r.across}
    for i, w in enumerate(ident.windings):
        if w.coil.resolved or w.coil.broken or w.coil.unread or measured & set(w.coil.members):
            continue
        a, b = w.coil.leads
        yield Test(
            Row(kind="ohms", readings=(), coils=(i,), value=0.0, sd=0.03),
            steps.MILLIOHMS.of((a, b), a=a, b=b),
        )


def _ratios(ident: Identification) -> Iterable[Test]:
    """A few volts: into the HV side with the primary read, or into the primary where nothing
    dangerous comes out.
    """
    primary = _first_primary(ident)
    if primary is None:
        return
    index, fed = primary
    a, b = fed.coil.leads
    done = [{*r.driven, *r.sensed} - {"core"} for r in ident.record.standing if r.kind == "ratio"]
    harmless = high_ruled_out(ident.belief)
    for i, w in enumerate(ident.windings):
        if i == index or w.coil.broken or any(points & set(w.coil.leads) for points in done):
            continue
        c, d = w.coil.leads
        if w.role == "hv-secondary":
            row = Row(
                kind="ratio",
                readings=(),
                coils=(i, index),
                value=0.0,
                sd=0.01,
                volts=(REVERSE_VOLTS, 1.0),
            )
            yield Test(row, steps.REVERSE_RATIO.of((c, d), (a, b), a=a, b=b, c=c, d=d))
        elif harmless:
            row = Row(
                kind="ratio",
                readings=(),
                coils=(index, i),
                value=0.0,
                sd=0.01,
                volts=(LOW_VOLTS, 1.0),
            )
            yield Test(row, steps.RATIO.of((a, b), (c, d), a=a, b=b, c=c, d=d))
        else:
            row = Row(
                kind="ratio",
                readings=(),
                coils=(index, i),
                value=0.0,
                sd=0.02,
                volts=(LEAST_VOLTS, 1.0),
            )
            yield Test(row, steps.CAUTIOUS_RATIO.of((a, b), (c, d), a=a, b=b, c=c, d=d))


def _turns(ident: Identification) -> Iterable[Test]:
    """A few turns through the window: volts per turn, the master number of every rewind."""
    counted = any(r.kind in ("test_turn", "turns") for r in ident.record.standing)
    primary = _first_primary(ident)
    if counted or primary is None or ident.family not in ("mains", "microwave"):
        return
    index, fed = primary
    a, b = fed.coil.leads
    row = Row(
        kind="test turn", readings=(), coils=(index,), value=0.0, sd=0.015, volts=(TURN_VOLTS, 1.0)
    )
    yield Test(row, steps.TEST_TURN.of((a, b), a=a, b=b))


def _inductances(ident: Identification) -> Iterable[Test]:
    """With an inductance meter, the primary first: a closed loop anywhere on the core takes most of
    it away.
    """
    done = {x for r in ident.record.standing if r.kind == "inductance" for x in r.across}
    for i, w in enumerate(ident.windings):
        worth_reading = w.on_mains or w.role == "lv-secondary"
        if w.coil.broken or not worth_reading or done & set(w.coil.leads):
            continue
        a, b = w.coil.leads
        yield Test(
            Row(kind="inductance", readings=(), coils=(i,), value=0.0, sd=0.02),
            steps.INDUCTANCE.of((a, b), a=a, b=b),
        )


# ------------------------------------------------------------------ live


def _live(ident: Identification) -> list[Step]:
    """First power behind a lamp, then no load: only with the gate open, with HV ruled out, and only
    once low-energy volts are known.
    """
    primary = next((w for w in ident.windings if w.role == "primary" and not w.coil.broken), None)
    powered = any(r.kind in ("no_load", "lamp") for r in ident.record.standing)
    if primary is None or powered or not high_ruled_out(ident.belief):
        return []  # nothing live is proposed for a piece with an HV winding
    others = [w for w in ident.windings if w is not primary]
    known = [(w, w.volts) for w in others if w.volts is not None]
    if len(known) < len(others) or not ident.belief.fed:
        return []
    named = "; ".join(f"{w.name} {span(v.low, v.high, 'V')}" for w, v in known)
    a, b = primary.coil.leads
    supply = f"{ident.record.supply.volts:g} V"
    return [
        steps.FIRST_POWER.of((a, b), a=a, b=b, supply=supply, named=named or "no other winding")
    ]


def _finished(ident: Identification, gate: Gate) -> Step:
    """Nothing is left to propose: why nothing live is."""
    words = GATE_SENTENCE
    if not gate.open:
        words = f"Closed to anything live: {'; '.join(gate.reasons[:2])}. {GATE_SENTENCE}"
    elif not high_ruled_out(ident.belief):
        words = f"Nothing live is proposed for a piece with an HV winding. {GATE_SENTENCE}"
    return steps.FINISHED.of(words=words)
