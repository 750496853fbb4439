"""The next safe step: the safest test that would tell most, with what to expect and what else would
mean.

Order by energy: a reading to repeat, salvage, then cold tests (core proof, primary to core, pairs,
other windings to core), then low energy, then live. Within low energy the tests are valued by what
they would settle (`worth`). A live test is never proposed while the gate is closed, and the gate
stays closed while a cold test that could condemn is missing.
"""

import math
from dataclasses import dataclass, replace
from typing import Any

from greyfell.core.gates import Gate, live_gate
from greyfell.core.identify import Identification
from greyfell.core.quantity import percent, span
from greyfell.core.record import Transformer
from greyfell.core.screening import (
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
from greyfell.core.shorts import IRON_Q
from greyfell.core.voltages import Row
from greyfell.core.worth import SAFETY_WORTH, Worth, bond_worth, worth_of

GATE_SENTENCE = "Local codes and licensed practice stand above this program."
ASKED_RANGE_OHMS = 2e7
"""The range that an "open" is asked on."""
LEAST_WORTH = 0.1
"""A low-energy test worth less than this many nats is not proposed. From memory."""


@dataclass(frozen=True)
class Step:
    """One plain instruction: title, what to do, what to expect, what else would mean, the caution
    that belongs to it.
    """

    kind: str
    leads: dict[str, tuple[str, ...]]
    title: str
    do: str
    expect: str
    otherwise: str
    caution: str
    energy: str
    jotter: str
    worth: float = 0.0

    def as_json(self) -> dict[str, Any]:
        """The public form."""
        return {
            "kind": self.kind,
            "leads": {k: list(v) for k, v in self.leads.items()},
            "why": f"{self.title}. {self.do}",
            "expect": self.expect,
            "otherwise": self.otherwise,
            "caution": self.caution,
            "energy": self.energy,
            "worth_nats": round(self.worth, 3),
        }


def next_steps(record: Transformer, ident: Identification) -> list[Step]:
    """The steps still open, the next one first; after a stop fault only the reading that would
    clear it.
    """
    if ident.stopped:
        return [_clear_fault(ident)]
    steps: list[Step] = []
    steps += _repeat(ident)
    steps += _salvage(record, ident)
    # the proof first: it is what gives every open-to-core reading its worth
    cold = sorted(_cold(record, ident), key=lambda s: (s.kind != "core_proof", -s.worth))
    steps += cold
    steps += _low(record, ident)
    gate = live_gate(record, ident)
    if gate.open and not cold:
        steps += _live(record, ident)
    return steps or [_finished(ident, gate)]


def _clear_fault(ident: Identification) -> Step:
    """The one reading that would clear a stop: the pair again, or for shorted turns the inductance
    with nothing joined on.
    """
    fault = next(f for f in ident.faults if f.severity == "stop")
    pair = fault.leads[:2] if "core" not in fault.leads else (fault.leads[0], "core")
    ends, condemned = "–".join(pair), "The same again: the piece is condemned."
    caution = "Power nothing. No statement overrides this fault; only a better reading clears it."
    strike = "strike the wrong one out with its reason."
    if fault.code == "shorted-turns":
        i = next((n for n, w in enumerate(ident.windings) if set(pair) & set(w.coil.members)), 0)
        a, b = ident.windings[i].coil.leads
        return Step(
            "inductance",
            {"across": (a, b)},
            f"Stop: repeat the inductance of {a}–{b} before condemning",
            (
                "Everything off every lead, nothing through the window. Inductance and Q of "
                f"{a}–{b} at 100 or 120 Hz."
            ),
            condemned,
            f"A Q of {IRON_Q[0]:.0f} or more: {strike}",
            caution,
            "cold",
            f"{a}-{b} L 100Hz ",
        )
    return Step(
        "resistance",
        {"between": tuple(pair)},
        f"Stop: repeat {ends} before condemning",
        (
            f"Free {ends} of everything else, clean the probes, bare metal, highest range. Read "
            "it once more."
        ),
        condemned,
        f"A different reading: {strike}",
        caution,
        "cold",
        f"{'-'.join(pair)} ",
    )


def _repeat(ident: Identification) -> list[Step]:
    """A reading that does not fit is repeated before anything is built on it."""
    for fault in ident.faults:
        if fault.code == "inconsistent-readings" and len(fault.leads) == 2 and fault.readings:
            pair = (fault.leads[0], fault.leads[1])
            return [
                Step(
                    "resistance",
                    {"between": pair},
                    f"Repeat {'–'.join(pair)}",
                    (
                        f"Reading {fault.readings[0]} does not add up with the others. Zero the "
                        f"probes, read {'–'.join(pair)} again on a fixed range."
                    ),
                    "What the others say.",
                    (
                        "The same again: look at the others of this winding. A slip: strike "
                        f"{fault.readings[0]} out."
                    ),
                    "Nothing is powered.",
                    "cold",
                    f"{'-'.join(pair)} ",
                )
            ]
    return []


def _salvage(record: Transformer, ident: Identification) -> list[Step]:
    vouched = any(s.kind in ("salvage-done", "done-elsewhere") for s in record.statements)
    risky = ident.families.get("microwave", 0.0) > 0.2 or not ident.windings
    if vouched or not risky:
        return []
    return [
        Step(
            "statement",
            {},
            "First the capacitor",
            "If this came out of an oven: discharge its capacitor through a resistor, "
            "across the terminals and from each to the can, "
            "then short it and leave the short on. Say so here when it is done.",
            "Under 1 V after a wait, measured with a meter proved on a known source.",
            "Volts coming back: the dielectric recovers; discharge again.",
            "Treat it as charged whatever its age. Not alone.",
            "stored",
            "",
        )
    ]


def _cold(record: Transformer, ident: Identification) -> list[Step]:
    """Cold tests still missing, each valued by what its possible readings would settle of safety,
    identity and place.
    """
    topology, windings = ident.topology, ident.windings
    steps: list[Step] = []
    if not topology.core_proved:
        steps.append(
            Step(
                "core_proof",
                {},
                "Prove the core",
                "Scrape two bare spots of the iron and read one against the other.",
                "Under 0.5 Ω.",
                "More, or OL: varnish. Scrape again; until then an “open to core” says nothing.",
                "Nothing is powered.",
                "cold",
                "proof ",
                SAFETY_WORTH * proof_worth(record, topology, windings),
            )
        )
    steps += [
        _open(b, ident)
        for b in barriers(record, topology)
        if not b.screened and demanded(b, windings)
    ]
    steps += [_placing(x, record, ident) for x in topology.untested]
    return steps


def _open(b: Barrier, ident: Identification) -> Step:
    """Read a barrier that should be open: the chances of each outcome, and what it would mean."""
    w, to_core = ident.windings[b.i], b.j == CORE
    lead, mate = w.coil.leads[0], "core" if to_core else ident.windings[b.j].coil.leads[0]
    proved = ident.topology.core_proved
    state, shown = (
        state_of(b, ident.windings, proved=proved),
        shows(ASKED_RANGE_OHMS, to_core=to_core, proved=proved),
    )
    chances = dict(zip(OUTCOMES, (chance for chance, _ in outcomes(state, shown)), strict=True))
    returns, told = bond_worth(ident, b.i) if to_core and b.range_ohms is None else (0.0, 0.0)
    role = {"primary": "the mains winding", "primary-half": "a mains winding"}.get(
        w.role, "this winding"
    )
    meant = (
        f"Ohms ({percent(chances['conducts'])}): {role} touches "
        f"{'the core' if to_core else 'another winding'}, stop. "
    )
    if returns > 0.02:
        meant = (
            f"Ohms: an HV winding's return on the iron ({percent(returns)}), else {role} "
            "touches the core, stop. "
        )
    return Step(
        "resistance",
        {"between": (lead, mate)},
        f"{lead} to {'the core' if to_core else mate}, highest range",
        (
            f"One probe on {lead}, one on {'the bare iron' if to_core else mate}, range 2 MΩ or "
            "above. Note the range."
        ),
        f"OL ({percent(chances['open'] * (1 - returns))}).",
        f"{meant}Megohms ({percent(chances['leaks'])}): leakage; dry it and read again.",
        "Nothing is powered. Fingers off the probe tips.",
        "cold",
        f"{lead}-{mate} open 20M",
        SAFETY_WORTH * settled(state, shown) + told,
    )


def _placing(x: str, record: Transformer, ident: Identification) -> Step:
    """Find what a lead belongs to: a winding found, a partner for it, or nothing; and whether it
    touches the core.
    """
    mate = next(
        (y for y in ident.topology.untested if y != x), None
    )  # two strays are most often two ends
    mate = mate or next((lead.id for lead in record.leads if lead.id != x), "core")
    unknown = State(1 - USUAL_TOUCH - LEAK_ODDS, USUAL_TOUCH, LEAK_ODDS)
    shown = shows(ASKED_RANGE_OHMS, to_core=True, proved=ident.topology.core_proved)
    worth = math.log(len(ident.windings) + 2) + SAFETY_WORTH * settled(unknown, shown)
    return Step(
        "resistance",
        {"between": (x, mate)},
        f"Find what {x} belongs to",
        f"Ohms from {x} to every other lead and to the core, lowest range first.",
        "A few ohms to one or two leads, OL to the rest.",
        "OL to all: a screen, or a winding open inside.",
        "Nothing is powered.",
        "cold",
        f"{x}-{mate} ",
        worth,
    )


def _low(record: Transformer, ident: Identification) -> list[Step]:
    """Low-energy tests still missing, the one that would settle most first."""
    valued = [
        (worth_of(record, ident, row), row, step)
        for row, step in (
            *_milliohms(record, ident),
            *_ratios(record, ident),
            *_turns(record, ident),
            *_inductances(record, ident),
        )
    ]
    open_tests = [
        (w.nats, _expecting(step, row, w))
        for w, row, step in valued
        if w is not None and w.nats > LEAST_WORTH
    ]
    open_tests += [(0.0, step) for w, _, step in valued if w is None]
    return [step for _, step in sorted(open_tests, key=lambda x: -x[0])]


def _expecting(step: Step, row: Row, worth: Worth) -> Step:
    """The step with the figure it should show, and what other figures would mean."""
    low, high, unit = worth.low, worth.high, "Ω"
    scale = 1.0
    if row.kind == "ratio":
        scale, unit = row.volts[0], "V"
    elif row.kind == "test turn":
        low, high, scale, unit = 1 / worth.high, 1 / worth.low, row.volts[0] * 5, "V"
    elif row.kind == "inductance":  # the row holds ½ ln L
        low, high, unit = low**2, high**2, "H"
    expect = f"{span(scale * low, scale * high, unit)}."
    others = (
        "; ".join(
            f"{span(scale * a, scale * b, unit)} would mean {words}"
            for words, a, b in worth.otherwise
        )
        if row.kind not in ("test turn", "inductance")
        else ""
    )
    return replace(
        step,
        worth=worth.nats,
        expect=expect,
        otherwise=f"{others + '. ' if others else ''}{step.otherwise}",
    )


def _milliohms(record: Transformer, ident: Identification) -> list[tuple[Row, Step]]:
    measured = {x for r in record.standing if r.kind == "dc_drop" for x in r.across}
    out = []
    for i, w in enumerate(ident.windings):
        if w.coil.resolved or w.coil.broken or set(w.coil.members) & measured:
            continue
        a, b = w.coil.leads
        out.append(
            (
                Row("ohms", (), (i,), 0.0, 0.03),
                Step(
                    "dc_drop",
                    {"across": (a, b)},
                    f"Milliohms of {a}–{b}",
                    (
                        f"Pass 1 to 2 A of DC through {a}–{b} and read the volts right at its "
                        "ends; ohms are volts over amps."
                    ),
                    "",
                    "Nothing at all: the current does not flow there.",
                    (
                        "Short the HV winding first and ramp down before you open the circuit: "
                        "it kicks."
                    ),
                    "low",
                    f"{a}-{b} dc 1A ",
                ),
            )
        )
    return out


def _ratios(record: Transformer, ident: Identification) -> list[tuple[Row, Step]]:
    """A few volts: into the HV side with the primary read, or into the primary where nothing
    dangerous comes out.
    """
    index = next(
        (
            i
            for i, w in enumerate(ident.windings)
            if w.role in ("primary", "primary-half") and not w.coil.broken
        ),
        None,
    )
    if index is None:
        return []
    a, b = ident.windings[index].coil.leads
    done = [
        (frozenset(r.driven), frozenset(r.sensed)) for r in record.standing if r.kind == "ratio"
    ]
    out = []
    for i, w in enumerate(ident.windings):
        if (
            i == index
            or w.coil.broken
            or any(set(w.coil.leads) & (d | s) - {"core"} for d, s in done)
        ):
            continue
        c, d = w.coil.leads
        if w.role == "hv-secondary":
            out.append(
                (
                    Row("ratio", (), (i, index), 0.0, 0.01, (42.0, 1.0)),
                    Step(
                        "ratio",
                        {"driven": (c, d), "sensed": (a, b)},
                        f"Ratio from the HV side, {c}–{d}",
                        (
                            f"Feed {c}–{d} from an isolated 24 to 60 V AC source (42 V taken "
                            f"here) and read {a}–{b}. Note both in the same minute."
                        ),
                        "",
                        "More out than in: the wrong winding is driven. Off.",
                        (
                            "Isolated source, core earthed, never on the heater winding. Every "
                            "terminal stays at or below the drive."
                        ),
                        "low",
                        f"{c}-{d} 42V > {a}-{b} ",
                    ),
                )
            )
        elif not any(v.role == "hv-secondary" for v in ident.windings):
            out.append(
                (
                    Row("ratio", (), (index, i), 0.0, 0.01, (12.0, 1.0)),
                    Step(
                        "ratio",
                        {"driven": (a, b), "sensed": (c, d)},
                        f"Ratio with a few volts, {a}–{b} to {c}–{d}",
                        (
                            f"Feed {a}–{b} from an isolated 12 V AC source and read {c}–{d}. "
                            "Note both in the same minute."
                        ),
                        "",
                        "Nothing: prove the meter on a known source first.",
                        "Work out every open winding before power: above 30 V it counts as live.",
                        "low",
                        f"{a}-{b} 12V > {c}-{d} ",
                    ),
                )
            )
        else:
            out.append(
                (
                    Row("ratio", (), (index, i), 0.0, 0.02, (3.0, 1.0)),
                    Step(
                        "ratio",
                        {"driven": (a, b), "sensed": (c, d)},
                        f"Ratio with 3 V, {a}–{b} to {c}–{d}",
                        (
                            f"Feed {a}–{b} from an isolated 3 V AC source and read {c}–{d}. The "
                            "HV winding stays untouched and insulated: it carries tens of "
                            "volts and more."
                        ),
                        "",
                        "Nothing: prove the meter on a known source first.",
                        (
                            "With an HV winding on the core even 3 V makes it live: work its "
                            "volts out first, keep its ends covered, one hand."
                        ),
                        "low",
                        f"{a}-{b} 3V > {c}-{d} ",
                    ),
                )
            )
    return out


def _turns(record: Transformer, ident: Identification) -> list[tuple[Row, Step]]:
    if any(r.kind in ("test_turn", "turns") for r in record.standing):
        return []
    index = next(
        (
            i
            for i, w in enumerate(ident.windings)
            if w.role in ("primary", "primary-half") and not w.coil.broken
        ),
        None,
    )
    if index is None or ident.family not in ("mains", "microwave"):
        return []
    a, b = ident.windings[index].coil.leads
    return [
        (
            Row("test turn", (), (index,), 0.0, 0.015, (6.0, 1.0)),
            Step(
                "test_turn",
                {"driven": (a, b)},
                "Volts per turn with five turns",
                (
                    f"Wind five turns of thin wire through both windows, feed {a}–{b} with an "
                    "isolated 6 V AC, read the five turns."
                ),
                "",
                "About half: the wire passes one window only.",
                (
                    "With the HV winding still present, low drive only and wire with kilovolt "
                    "insulation."
                ),
                "low",
                f"{a}-{b} 6V > 5 turns ",
            ),
        )
    ]


def _inductances(record: Transformer, ident: Identification) -> list[tuple[Row, Step]]:
    """With an inductance meter, the primary first: a closed loop anywhere on the core takes most of
    it away.
    """
    out = []
    done = {x for r in record.standing if r.kind == "inductance" for x in r.across}
    for i, w in enumerate(ident.windings):
        if (
            w.coil.broken
            or w.role not in ("primary", "primary-half", "lv-secondary")
            or set(w.coil.leads) & done
        ):
            continue
        a, b = w.coil.leads
        out.append(
            (
                Row("inductance", (), (i,), 0.0, 0.02),
                Step(
                    "inductance",
                    {"across": (a, b)},
                    f"Inductance of {a}–{b}",
                    (
                        "With an inductance meter at 100 or 120 Hz, all other leads open, "
                        f"nothing in parallel: read {a}–{b}."
                    ),
                    "",
                    (
                        "A tenth or less: shorted turns, or a loop closed through the window. "
                        "A fall alone proves no short."
                    ),
                    "Nothing is powered; the meter's own volts only.",
                    "low",
                    f"{a}-{b} L 100Hz ",
                ),
            )
        )
    return out


def _live(record: Transformer, ident: Identification) -> list[Step]:
    """First power behind a lamp, then no load: only with the gate open, and only once low-energy
    volts are known.
    """
    primary = next((w for w in ident.windings if w.role == "primary" and not w.coil.broken), None)
    exposed = any(w.roles.get("hv-secondary", 0.0) > 0.05 for w in ident.windings)
    if primary is None or exposed or any(r.kind in ("no_load", "lamp") for r in record.standing):
        return []  # nothing live is proposed for a piece with an HV winding
    a, b = primary.coil.leads
    named = "; ".join(
        f"{'–'.join(w.coil.leads)} {span(w.volts.low, w.volts.high, 'V')}"
        for w in ident.windings
        if w.volts is not None and w is not primary
    )
    unknown = [w for w in ident.windings if w.volts is None and w is not primary]
    if unknown or not ident.fed:
        return []
    return [
        Step(
            "lamp",
            {"across": (a, b)},
            f"First power of {a}–{b} behind a lamp",
            (
                "A filament lamp of a fifth to a half of the expected VA in series, "
                f"{record.supply.volts:g} V on {a}–{b}, leads insulated, nothing touching, one "
                "hand, somebody near the switch. Expected before power: "
                f"{named or 'no other winding'}."
            ),
            "Dark, or dim on an oven primary.",
            (
                "Bright: shorted turns, a load left on, or the wrong winding. Off at once. A "
                "dark lamp clears nothing."
            ),
            (
                "The lamp protects iron, not people: behind it the HV is nearly full. A "
                "residual-current device does not protect anyone touching an isolated winding."
            ),
            "live",
            f"{a}-{b} lamp 100W ",
        )
    ]


def _finished(ident: Identification, gate: Gate) -> Step:
    if not gate.open:
        words = f"Closed to anything live: {'; '.join(gate.reasons[:2])}. {GATE_SENTENCE}"
    elif any(w.roles.get("hv-secondary", 0.0) > 0.05 for w in ident.windings):
        words = f"Nothing live is proposed for a piece with an HV winding. {GATE_SENTENCE}"
    else:
        words = GATE_SENTENCE
    return Step(
        "none",
        {},
        "Cold and low-energy tests are on record",
        "Plan a rewind or a ballast from this piece, or export its record.",
        "",
        "",
        words,
        "none",
        "",
    )
