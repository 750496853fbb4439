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
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.belief.observations import Row
from greyfell.core.codes import CODES
from greyfell.core.dangers.of_live import live_notes
from greyfell.core.evidence.record import Reading
from greyfell.core.families.registry import has
from greyfell.core.figures.limits import LIVE_VOLTS
from greyfell.core.figures.notation import span
from greyfell.core.judgement.charge import may_hold_charge
from greyfell.core.judgement.earthing import bond_meant, bond_of, bond_wanted
from greyfell.core.judgement.fault import FAULTS, Fault
from greyfell.core.judgement.gates import (
    Gate,
    fed_windings,
    live_gate,
    polarity_wanted,
    salvaged,
)
from greyfell.core.judgement.high import high_ruled_out
from greyfell.core.judgement.identification import Identification
from greyfell.core.steps import step as steps
from greyfell.core.steps.cold_steps import cold_steps, first_primary, points_read
from greyfell.core.steps.goals import by_goal, goal_of
from greyfell.core.steps.information import Worth, worth_of
from greyfell.core.steps.live_steps import live_steps
from greyfell.core.steps.methods import lacking
from greyfell.core.steps.salvage import walk
from greyfell.core.steps.step import Step

LEAST_WORTH = 0.1
"""A low-energy test worth less than this many nats is not proposed. From memory."""
REVERSE_VOLTS, LOW_VOLTS, LEAST_VOLTS = 42.0, 12.0, 3.0
"""Volts of the three ratio tests: into the HV side; into a primary with HV ruled out; and where it
is not. Common practice."""
DRIVEN_LOW = ("reverse ratio", "cautious ratio")
"""What may be HV is driven at a few volts before the mains: while such a test is still worth taking
nothing live is proposed."""
TURN_VOLTS, TEST_TURNS = 6.0, 5
"""Volts and turns of a test turn. Common practice."""


def next_steps(ident: Identification) -> list[Step]:
    """The steps still open, the next one first; after a stop fault only the reading that would
    clear it.
    """
    if ident.stop is not None:
        return [*_salvage(ident), _clear(ident, ident.stop)]
    # the proof first: it is what gives every open-to-core reading its worth
    cold = sorted(cold_steps(ident), key=lambda s: (s.kind != "core_proof", -s.worth))
    none = lacking(ident.record)
    low = _low(ident)
    found = [*_salvage(ident), *_repeat(ident), *cold, *(s for s in low if s.act not in none)]
    found += _asked_by_the_gate(ident)
    gate = live_gate(ident)
    if gate.open and not cold and not any(s.act in DRIVEN_LOW for s in found):
        found += live_steps(ident)
    late = [s for s in low if s.act in none]  # what there is no instrument for waits behind
    return by_goal((found or [_finished(ident, gate)]) + late, goal_of(ident.record))


def next_json(ident: Identification) -> dict[str, Any]:
    """The next step in its public form; at the capacitor with the step of the gate that is due, and
    what is said there.
    """
    step = next_steps(ident)[0]
    told = step.as_json()
    if step.energy == "live":
        told["notes"] = [note.as_hazard() for note in live_notes(ident)]
    here = walk(ident.record.statements).here if step.act == "capacitor" else None
    if here is not None:
        due = {"step": here.key, "title": here.title, "do": here.do}
        told["gate"] = {**due, "cautions": list(here.cautions)}
    return told


def _asked_by_the_gate(ident: Identification) -> Iterable[Step]:
    """What the gate still asks for that is neither a cold test nor valued: bond, polarity, and what
    the piece came out of.
    """
    bond = bond_of(ident.record, ident.topology.core_leads)
    wanted = bond_wanted(ident.belief) or bond_meant(ident.record, ident.belief)
    if wanted and (bond is None or not bond.proved):
        yield steps.BOND.of(("earth", "core"))
    if polarity_wanted(ident):
        one, two = (w.coil.leads for w in fed_windings(ident))
        a, b, c, d = *one, *two
        step = steps.POLARITY.of((a, b), a=a, b=b, c=c, d=d)
        yield replace(step, leads={"driven": (a, b), "joined": (b, c), "across": (a, d)})
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
    if reading.proof_volts:
        volts = f"{reading.proof_volts:g} V"
        return steps.CLEAR_INSULATION.of(pair, ends=ends, typed=typed, how=kind.again, volts=volts)
    return steps.CLEAR_OHMS.of(pair, ends=ends, typed=typed, how=kind.again)


def _behind(ident: Identification, fault: Fault) -> Reading | None:
    """The reading that speaks most for a fault: from one side to another, the fewest ohms first."""
    mine = [r for r in ident.record.standing if r.id in fault.readings and points_read(r)]
    across = [r for r in mine if _crosses(ident, points_read(r))]
    to_iron = [r for r in mine if "core" in points_read(r)] if "core" in fault.leads else []
    found: list[Reading] = sorted(to_iron or across or mine, key=_ohms)
    return next(iter(found), None)


def _ohms(r: Reading) -> float:
    ohms = getattr(r, "ohms", 0.0) or 0.0
    return math.inf if ohms == "open" else float(ohms)


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
        if odd and fault.readings and not _repeated(ident, pair):
            reading = fault.readings[0]
            ends, typed = "–".join(pair), "-".join(pair)
            return [steps.REPEAT.of(pair, ends=ends, typed=typed, reading=reading)]
    return []


def _repeated(ident: Identification, pair: tuple[str, ...]) -> bool:
    """Whether a pair was read twice already: once more tells nothing that it did not."""
    alike = [r for r in ident.record.standing if set(points_read(r)) == set(pair)]
    return len(alike) > 1


def _salvage(ident: Identification) -> list[Step]:
    risky = not ident.windings or may_hold_charge(ident.record, ident.belief)
    return [steps.SALVAGE.of()] if risky and not salvaged(ident) else []


# ------------------------------------------------------------------ low energy


class Test(Struct, frozen=True):
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


def _milliohms(ident: Identification) -> Iterable[Test]:
    """Volts over a small direct current, where an ohmmeter tells nothing."""
    measured = {x for r in ident.record.standing if r.test_amps for x in r.ohms_between}
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
    primary = first_primary(ident)
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
    counted = any(r.counts_turns for r in ident.record.standing)
    primary = first_primary(ident)
    if counted or primary is None or not has(ident.family, "rewound"):
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


def _finished(ident: Identification, gate: Gate) -> Step:
    """Nothing is left to propose: why nothing live is."""
    title, words = "Cold and low-energy tests are on record", CODES
    if not gate.open:
        words = f"Closed to anything live: {'; '.join(gate.reasons[:2])}. {CODES}"
    elif ident.verdict == "proved":
        title = "Proved: nothing more is asked for"
        words = f"A short circuit or a load tells what it gives. {CODES}"
    return steps.FINISHED.of(title=title, words=words)
