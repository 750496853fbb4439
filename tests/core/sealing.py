"""What the sealed figures are made of: answers to records that are kept, and the simulated records
themselves. Figures without a source of their own, most of them from memory, cannot be checked one
by one; here a change to any of them shows. Write them anew, after a change that was meant:
python -m tests.core.sealing
"""

import hashlib
import json
import math
import re
from collections import Counter
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from greyfell.core.chain.elements import parse_rig
from greyfell.core.chain.failing import failed
from greyfell.core.chain.solving import solve
from greyfell.core.circuit.sweep import sweep_on_record
from greyfell.core.coil_design.conductors import catalogue
from greyfell.core.coil_design.removal import USUAL_TOOLS, recommend
from greyfell.core.coil_design.welding import STUFF, TIPS, job
from greyfell.core.dangers.contacts import contacts
from greyfell.core.dangers.listing import dangers
from greyfell.core.dangers.of_row import spoken
from greyfell.core.dangers.scene import Scene
from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import answer, identify
from greyfell.core.isolation.body import body_ohms, zone
from greyfell.core.isolation.body_current import Outlet, touches
from greyfell.core.isolation.purpose import TIES
from greyfell.core.judgement.metering import meter_rules
from greyfell.core.judgement.outputs import models
from greyfell.core.lessons.advice import by_advice
from greyfell.core.planner_kit.asking import slots
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.simulated.designs import oven
from greyfell.core.simulated.hidden import LEVELS as HIDDEN_LEVELS
from greyfell.core.simulated.hidden import hidden
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.simulated.owner import LEVELS, documented, take
from greyfell.core.simulated.worlds import WORLDS
from greyfell.core.steps.expected import expected_of
from greyfell.core.steps.load_test import idle_warmth, idle_watts, outputs, short_plans
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.summary import summarise
from greyfell.core.steps.windup_sheet import sheet_of
from greyfell.core.telling.donors import class_of, iron_or_inverter, parse_donor
from greyfell.core.telling.isolating import report
from greyfell.core.telling.labels import labels, tag_lines
from greyfell.core.telling.usual_ranges import bands
from greyfell.core.telling.why import why
from greyfell.core.truth.sample import BELL
from greyfell.core.uses.all_uses import USES
from greyfell.core.uses.build import ready_by, sheet
from greyfell.core.uses.core_to_wind import barred, iron_of
from greyfell.core.uses.fit import fit
from greyfell.core.uses.project import better, both
from greyfell.records.demo import demo_documents, demo_donors
from greyfell.records.demo_rigs import RIGS
from tests.conftest import CASES

FILE = Path(__file__).with_name("sealed.json")
SEED = 20
EACH = 8
FAR = 16
SLOW = ("dc_supply", "dc_routes", "valve_supply")
"""Planners that are solved in time."""
SHOWN = ("families", "fed", "verdict", "volts_per_turn", "voltamperes")
OF_WINDING = ("leads", "taps", "core_bond", "ohms", "roles", "volts", "amps")


REWIND = PLANNERS["rewind"].example
WINDOW = {**REWIND, "window_width_mm": 19.0, "window_height_mm": 57.0}
MORE = {
    "rewind": (
        {**REWIND, "window_width_mm": 19.0, "window_height_mm": 57.0, "former_mm": 1.5},
        {
            **REWIND,
            "window_width_mm": 19.0,
            "window_height_mm": 57.0,
            "volts_per_turn_at_volts": 200.0,
        },
        {**REWIND, "load_amps": 60.0, "tongue_mm": 38.0, "stack_mm": 62.0},
    )
}
"""Inputs that work more of a planner than its example does."""


def records():
    """The public cases, and simulated ones of every level and world."""
    for path in sorted(CASES.glob("case-*.json")):
        yield path.stem, json.loads(path.read_text(encoding="utf-8"))
    rng = np.random.default_rng(SEED)
    for level in LEVELS:
        for n in range(EACH):
            yield f"{level} {n}", take(rng, level).document
        for n in range(EACH):
            yield f"{level} faulty {n}", take(rng, level, fault_share=1.0, slip_share=0.3).document
    for world in WORLDS:
        yield f"world {world.name}", take(rng, "live", world=world).document
    for name in ("oven", "sign", "lv", "valve"):
        yield f"documented {name}", documented(rng, name).document


def concluded(document, weighed):
    """What is concluded of a record, without its sentences; where asked, what each piece of
    evidence weighs.
    """
    ident = identify(parse_record(document))
    said = answer(ident)
    steps = next_steps(ident)
    return {
        **{key: said[key] for key in SHOWN},
        "windings": [{key: w[key] for key in OF_WINDING} for w in said["windings"]],
        "faults": sorted("-".join([f["code"], f["severity"], *f["leads"]]) for f in said["faults"]),
        "hazards": digest(sorted(h["code"] for h in said["hazards"])),
        "gate": said["gate"]["open"],
        "steps": digest([[s.kind, round(s.worth, 4), s.expect] for s in steps]),
        "family": digest(why(ident, ["family"]).figure if weighed else ""),
        "why": {
            w.id: digest(why(ident, ["winding", w.id, "volts"]).evidence) for w in ident.windings
        },
    }


def simulated(document):
    """A record's figures, added up by kind and field as logarithms."""
    out = Counter()
    for reading in document["readings"]:
        for key, value in reading.items():
            if isinstance(value, float | int) and not isinstance(value, bool) and value > 0:
                out[f"{reading['kind']} {key}"] += math.log(value)
    for key, value in (document.get("core") or {}).items():
        out[f"core {key}"] = value
    return {key: round(v, 6) if isinstance(v, float) else v for key, v in sorted(out.items())}


def planned():
    """Every planner's own example and check values, worked; a mark of its example with each figure
    a little off, and one of it with other words and figures far off.
    """
    out = {}
    for name, planner in PLANNERS.items():
        out[name] = {
            "example": planner(planner.example),
            "checks": [planner(check.given) for check in planner.checks],
            "more": [planner(given) for given in MORE.get(name, ())],
            "near": digest([short(said) for said in near_to(planner)]),
            "far": digest([short(said) for said in far_off(planner)]),
        }
    return out


def benched():
    """Every kind of reading of two pieces, from a bench whose meters do not err twice the same."""
    out = {}
    rng = np.random.default_rng(SEED)
    for name, made in (("bell", BELL), ("oven", oven(rng))):
        bench = SimulatedBench(made, Kit(), rng)
        (a, _), *_, (b, _) = made.windings[0].leads
        (c, _), *_, (d, _) = made.windings[-1].leads
        fed, sent = (a, b), (c, d)
        bench.core_proof()
        bench.ohms(a, b)
        bench.dc_drop(c, d, 1.0)
        bench.insulation(a, "core", 500)
        bench.inductance(a, b, 100)
        bench.lamp(a, b, 230, 60, 50)
        bench.ratio(fed, 12.0, sent, 50)
        bench.polarity(fed, 12.0, sent, 50, alike=True)
        bench.no_load(fed, 230, 50)
        bench.short_circuit(fed, sent, 15.0, 50)
        bench.load(fed, 230.0, sent, 10.0, 50)
        bench.test_turn(fed, 12.0, 5, 50)
        bench.earth_voltage(c, fed, 230.0, 1e7, 50)
        bench.leakage_current(c, fed, 230.0, 50)
        bench.turns(c, d)
        out[name] = bench.taken
    return out


def near_to(planner):
    """What a planner answers to its example a little off."""
    if planner.name in SLOW:
        yield from answers(planner, list(scaled(planner, (1.7,)))[::3])
    else:
        yield from answers(planner, scaled(planner, (0.6, 1.7)))


def scaled(planner, factors):
    """A planner's example with one figure scaled."""
    for key, value in planner.example.items():
        if isinstance(value, float | int) and not isinstance(value, bool):
            for factor in factors:
                yield {**planner.example, key: type(value)(value * factor)}


def far_off(planner):
    """What a planner answers to its example with all figures far off, each by its own factor, and
    with each of its words another.
    """
    if planner.name in SLOW:
        return
    rng = np.random.default_rng(SEED)
    numbers = [k for k, v in planner.example.items() if isinstance(v, float)]
    for _ in range(FAR):
        factors = np.exp(rng.normal(0.0, 0.7, len(numbers)))
        off = {k: planner.example[k] * float(f) for k, f in zip(numbers, factors, strict=True)}
        yield from answers(planner, [{**planner.example, **off}])
    for slot in slots(planner.given):
        words = ({**planner.example, slot.key: word} for word in slot.ask.choices)
        yield from answers(planner, words)


def answers(planner, inputs):
    """What a planner answers to those it takes."""
    for given in inputs:
        with suppress(FieldError):
            yield planner(given)


def fitted():
    """Every use against every piece of the demo that may be wound, and what is told of it."""
    out = {}
    for document in demo_documents():
        ident = identify(parse_record(document))
        iron = None if barred(ident) else iron_of(ident)
        if iron is None:
            continue
        for use in USES:
            found = fit(iron, use)
            name = f"{document['tag']} {use.key}"
            out[name] = {
                "verdict": found.verdict,
                "turns": found.turns,
                "checks": digest([[c.about, c.holds, c.off] for c in found.checks]),
            }
    return out


def endangered():
    """What can hurt, and who touches what, of every piece of the demo."""
    out = {}
    for document in demo_documents():
        ident = identify(parse_record(document))
        told = [[d.code, d.near, d.severity] for d in dangers(Scene(ident=ident))]
        touched = {f"{c.one}-{c.two}": [c.volts, c.amps, c.zone] for c in contacts(ident)}
        out[document["tag"]] = {"dangers": digest(told), "touched": touched}
    return out


def rigged():
    """The demo's rigs, solved, and every single failure of them."""
    out = {}
    for name, document in enumerate(RIGS):
        found = solve(parse_rig(document))
        out[str(name)] = [
            [[a.joint.after, a.volts, a.amps, a.peak_volts] for a in found.joints],
            digest([[s.code, s.sentence] for s in spoken(found)]),
            digest([[f.name, f.words] for f in failed(found)]),
        ]
    return out


def hidden_ones():
    """Practice pieces by number: what is seen, what they put out, what advice makes of them."""
    out = {}
    for level in HIDDEN_LEVELS:
        for n in range(1, 5):
            piece = hidden(n, level)
            rated = [round(piece.rated(w), 6) for w in piece.piece.windings]
            answer = by_advice(piece)
            out[piece.document["tag"]] = {
                "seen": digest(piece.document),
                "rated": rated,
                "moves": digest(answer.moves),
                "faults": digest(piece.faults),
            }
    return out


CLASS = re.compile(r"\b[A-Z]\w*\(")
"""How a class begins where a value is written out: what it is called is no figure."""


def digest(*found):
    """A mark of words, to see that they moved."""
    text = json.dumps(found, ensure_ascii=False, sort_keys=True, default=str)
    text = LONG.sub(lambda m: f"{float(m[0]):.3g}", text)
    return hashlib.sha256(CLASS.sub("(", text).encode()).hexdigest()[:12]


def worded():
    """Marks of what the demo's pieces are told in words: steps, bands, labels, expectations."""
    out = {}
    for document in demo_documents():
        ident = identify(parse_record(document))
        steps = next_steps(ident)
        out[document["tag"]] = {
            "steps": digest([s.as_json() for s in steps]),
            "bands": digest([repr(b) for b in bands(ident)]),
            "expected": digest(repr(expected_of(ident))),
            "labels": digest([repr(x) for x in labels(ident)]),
            "tag": digest([repr(x) for x in tag_lines(ident)]),
            "summary": digest(repr(summarise(ident, steps))),
            "sheet": digest(repr(sheet_of(ident, sweep_on_record(ident.record, ident.belief)))),
            "report": digest(repr(report(ident, DAY))),
            "meters": digest([m.as_json() for m in meter_rules(ident)]),
        }
    return out


LONG = re.compile(r"\d+\.\d{3,}(?:e[+-]?\d+)?")
"""Figures with more digits than another machine's rounding leaves alone."""
DAY = datetime(2026, 6, 1, tzinfo=UTC)


def short(found):
    """The same with figures of five digits, and without what figures rest on."""
    if isinstance(found, dict):
        return {key: short(v) for key, v in found.items() if key != "basis"}
    if isinstance(found, list | tuple):
        return [short(v) for v in found]
    return float(f"{found:.5g}") if isinstance(found, float) else found


def leaves(found, name):
    """Every figure by its name: numbers, yes and no, words without a blank. Sentences are told
    elsewhere, what a figure rests on is no figure.
    """
    if isinstance(found, dict):
        for key, value in found.items():
            yield from leaves(value, f"{name}/{key}")
    elif isinstance(found, list | tuple):
        for n, value in enumerate(found):
            yield from leaves(value, f"{name}/{n}")
    elif not isinstance(found, str) or " " not in found:
        yield name, found


LOADS = (0.0, 0.1, 3.0, 200.0)
"""Ω that every modelled output is loaded with."""


def modelled():
    """The circuit of every output of the demo and of records read live: figures, idle curves, what
    it does into loads, what would narrow it; short circuits planned, how warm it gets.
    """
    rng = np.random.default_rng(SEED)
    swept = [take(rng, "live").document for _ in range(EACH)]
    out = {}
    for n, document in enumerate([*demo_documents(), *swept]):
        ident = identify(parse_record(document))
        told = []
        for m in models(ident):
            loads = [m.at(ohms) for ohms in LOADS]
            figures = [[f.key, f.figure.value, f.figure.low, f.figure.high] for f in m.figures]
            narrower = None if m.narrower is None else [m.narrower.key, m.narrower.share]
            into = [[p.volts.value, p.amps.value, p.primary_amps.low, p.efficiency] for p in loads]
            told.append([m.winding.name, figures, into, narrower, m.idle.middle.amps])
        warm = idle_warmth(ident, idle_watts(ident))
        plans = [[p.winding, digest(p)] for p in short_plans(ident)]
        out[str(n)] = [told, digest(warm), plans, digest(outputs(ident))]
    return out


def built():
    """Sheets of rewindings: every use on three irons, what is bought, what is left out in a hurry;
    the welds, conductors and ways out that they stand on.
    """
    out = {}
    for tag in ("CQ-014", "CQ-021", "CQ-030"):
        document = next(d for d in demo_documents() if d["tag"] == tag)
        iron = iron_of(identify(parse_record(document)))
        for use in (u for u in USES if not u.refused):
            made = better(both(iron, use))
            way = recommend("interleaved", USUAL_TOOLS)
            plan = sheet(made, use, way, ("asked",), ())
            hurried = [ready_by(plan, n) for n in (1, 2, 4)]
            out[f"{tag} {use.key}"] = [
                plan.minutes,
                plan.waits,
                plan.evenings,
                digest(plan, hurried),
            ]
    for metal in STUFF:
        for mm in (0.1, 0.15, 0.3, 0.5, 0.6, 1.2):
            for tips in TIPS:
                weld = job(metal, mm, tips)
                figures = (weld.amps, weld.ohms, weld.seconds, weld.newtons)
                out[f"{metal} {mm} {tips}"] = [[q.low, q.high] for q in figures]
    for assembly in ("welded", "interleaved", "banded", ""):
        out[f"out of {assembly}"] = digest(recommend(assembly, USUAL_TOOLS))
    out["conductors"] = [[c.title, c.mm2, c.overall_mm, c.in_hand] for c in catalogue()]
    return out


def bodies():
    """What a body has of ohms and what a zone begins at; every outlet's touches; states told."""
    volts = (10.0, 25.0, 60.0, 130.0, 230.0, 700.0, 2000.0)
    out = {"ohms": [body_ohms(v) for v in volts]}
    for amps in (2e-4, 4e-3, 9e-3, 0.04, 0.2, 1.5):
        out[f"{amps} A"] = [zone(amps, s) for s in (0.01, 0.03, 0.2, 0.6, 2.0, 20.0)]
    for case in TIES:
        for farads in (1e-10, 3e-8):
            outlet = Outlet(volts=230.0, hertz=50.0, case=case, farads=farads)
            found = [[t.one, t.two, t.volts, t.amps, t.cleared] for t in touches(outlet)]
            out[f"{case} {farads}"] = found
    for donor in demo_donors()["donors"]:
        known = parse_donor(donor)
        out[known.id or known.title] = [digest(class_of(known)), iron_or_inverter(known)]
    return out


PARTS = {
    "concluded": lambda: {
        name: concluded(d, weighed=n % 4 == 0) for n, (name, d) in enumerate(records())
    },
    "planned": planned,
    "benched": benched,
    "fitted": fitted,
    "endangered": endangered,
    "rigged": rigged,
    "hidden": hidden_ones,
    "worded": worded,
    "modelled": modelled,
    "built": built,
    "bodies": bodies,
    "simulated": lambda: {name: simulated(d) for name, d in records()},
}


def made(part):
    """One part of what is sealed, figure by figure."""
    return dict(leaves(short(PARTS[part]()), part))


def as_text(found):
    """A line for each figure, by its name."""
    lines = (f"{json.dumps(k, ensure_ascii=False)}: {json.dumps(v)}" for k, v in found.items())
    return "{\n" + ",\n".join(lines) + "\n}\n"


if __name__ == "__main__":
    FILE.write_text(as_text({k: v for part in PARTS for k, v in made(part).items()}), "utf-8")
