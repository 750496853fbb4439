"""The situations of the hazard catalogue that a piece on the bench can be in, each told in words
before the first live step is shown, and not told of a piece that is in none of them.

Every row: the hazard's number, where it is told, a piece or bench in that situation, words of it,
and one beside it that is not.
"""

import json
from dataclasses import dataclass
from functools import cache
from typing import Any

import pytest
from msgspec.structs import replace

from greyfell.core.bench.demands import DEMANDS, wrongs
from greyfell.core.dangers.of_act import said_at
from greyfell.core.dangers.of_handling import handling
from greyfell.core.dangers.of_live import RULES as NOTES
from greyfell.core.dangers.of_live import live_notes
from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.judgement.metering import meter_rules
from greyfell.core.steps.next_step import next_json
from greyfell.records.demo import demo_documents
from tests.conftest import MAINS, OVEN, PLATE, every, piece
from tests.core.test_hazards import BELL, SIGN, VARIABLE
from tests.core.test_setup import BY_HAND, needs, sound

SUPPLY = {"volts": 230, "hertz": 50}
SPANS = ((1, 5), (10, 13), (19, 23), (27, 40), (43, 44), (57, 62), (68, 71), (76, 76), (80, 89))
ASKED = [f"H{n:02d}" for first, last in (*SPANS, (91, 94)) for n in range(first, last + 1)]
"""What must be told before the first live step."""


@dataclass(frozen=True)
class Told:
    """Where a hazard is told, in which words, of what, and of what not (None: it always is)."""

    id: str
    where: str
    words: str
    of: Any
    not_of: Any = None


@cache
def demo(tag):
    """A piece of the demo, concluded."""
    document = next(d for d in demo_documents() if d["tag"] == tag)
    return identify(parse_record(document))


def made(readings, leads="ABCD", **more):
    """A piece of these readings, concluded."""
    return concluded(json.dumps(piece(leads, readings, **{"supply": SUPPLY, **more})))


@cache
def concluded(text):
    """Once for every record, however many rows of the table stand on it."""
    return identify(parse_record(json.loads(text)))


def bell(**more):
    """A sound bell transformer."""
    return made(BELL, nameplate=PLATE, **more)


def insulation_tested():
    """A bell transformer with an insulation test on record."""
    test = {"kind": "insulation", "between": ["A", "core"], "ohms": 1e9, "test_volts": 500}
    return made([*BELL, test], nameplate=PLATE)


def behind(amps):
    """A bell transformer behind a breaker of so many amps."""
    return bell(supply={**SUPPLY, "breaker_amps": amps})


def converter(volts):
    """Two mains' windings with a ratio between them."""
    ratio = {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 230.0, "sensed": ["C", "D"]}
    readings = [r for r in MAINS if r != ("C", "D", 0.6)]
    plate = {"primary_volts": 230.0, "hertz": 50.0, "secondary_volts": volts, "va": 300.0}
    return made([*readings, ("C", "D", 2.2), {**ratio, "sensed_volts": volts}], nameplate=plate)


def on_the_strip(ident):
    """The danger strip and every fault."""
    told = [f"{h.headline} {h.sentence}" for h in hazards(ident)]
    return " ".join([*told, *(f.sentence for f in ident.faults)])


def notes(ident):
    """What is said at every live station."""
    return " ".join(f"{n.headline} {n.reason}" for n in live_notes(ident))


def gate(ident):
    """What keeps the gate shut."""
    return " ".join(live_gate(ident).reasons)


def meters(ident):
    """Which meter may touch what."""
    return " ".join(rule.sentence for rule in meter_rules(ident))


def lifted(ident):
    """What is said of handling it."""
    return " ".join(h.sentence for h in handling(ident))


def act(name):
    """What is said at an act."""
    return " ".join(said_at(name))


def bench(what):
    """What is wrong in a set-up made by hand, or in the sound one."""
    rows = {row[0]: row for row in BY_HAND}
    _, tag, spoil, _ = rows.get(what, ("", "CQ-021", lambda s: s, ""))
    return " ".join(w.sentence for w in wrongs(spoil(sound(tag)), needs(tag)))


def next_told(ident):
    """The next step as it is told."""
    return str(next_json(ident))


WHERE = {
    "hazard": on_the_strip,
    "note": notes,
    "gate": gate,
    "meter": meters,
    "handling": lifted,
    "act": act,
    "bench": bench,
    "next": next_told,
}
SOUND = "a sound set-up"
CT = {"text": "current transformer 200/5 A"}
SITUATIONS = [
    Told("H01", "act", "Plug out and in sight", "set-up", "shorted"),
    Told("H02", "hazard", "A capacitor stays charged", demo("CQ-014"), bell()),
    Told("H03", "next", "First the capacitor", made(OVEN, "ABCDE"), bell()),
    Told("H04", "act", "A screwdriver across it", "holding", "short"),
    Told("H05", "act", "comes back by itself", "again", "plug"),
    Told("H10", "hazard", "bonded to the iron", demo("CQ-018"), bell()),
    Told("H10", "bench", "The core is not wired to earth", "an oven's core not earthed", SOUND),
    Told("H11", "bench", "not known to take the line", "the output fed with the line", SOUND),
    Told("H12", "meter", "must not touch C–core", demo("CQ-018"), demo("CQ-021")),
    Told("H12", "bench", "above eight tenths", "a meter of 250 V on the line", SOUND),
    Told("H13", "bench", "joins earth to the line", "an earthed scope on the winding", SOUND),
    Told("H13", "bench", "no meter touches", "a 1000 V meter on the oven's HV lead", SOUND),
    Told("H19", "hazard", "rings, no watch", demo("CQ-052"), bell()),
    Told("H20", "bench", "No fuse or breaker", "no fuse", SOUND),
    Told("H20", "bench", "not covered", "a bare end", SOUND),
    Told("H21", "note", "Cables melt before fuses", demo("CQ-052"), bell()),
    Told("H22", "bench", "a plug is none", "no switch", SOUND),
    Told(
        "H23",
        "bench",
        "pass with the piece shorted",
        "an ammeter for less than the lamp's amps",
        SOUND,
    ),
    Told("H27", "gate", "polarity is not read", demo("CQ-044"), bell()),
    Told("H28", "bench", "thicker lead", "a lead thinner than its fuse", SOUND),
    Told("H29", "note", "Two points at once kill", converter(230.0), bell()),
    Told("H30", "note", "first earth fault shows nothing", converter(230.0), bell()),
    Told("H31", "note", "No pole of it to neutral", converter(230.0), bell()),
    Told("H32", "bench", "no earthed clip", "an earthed scope on the winding", SOUND),
    Told("H33", "hazard", "does not protect anyone touching", bell()),
    Told("H34", "bench", "many times its volts on", "the output fed with the line", SOUND),
    Told("H35", "act", "behind it the HV is nearly full", "first power high", "shorted"),
    Told("H35", "next", "hands off the HV", None),
    Told("H36", "act", "it kicks", "milliohms", "ratio"),
    Told("H37", "handling", "second capacitor", demo("CQ-014"), bell()),
    Told("H38", "note", "End to end is twice", made(SIGN), bell()),
    Told("H39", "bench", "a short across a pair", "an ammeter across the winding", SOUND),
    Told("H40", "note", "No hand near an arc", demo("CQ-018"), bell()),
    Told("H43", "hazard", "No isolation", made(VARIABLE, "ABC"), bell()),
    Told("H43", "bench", "is not isolated", "a low drive from a variac", SOUND),
    Told("H44", "bench", "never sees the brush", "a variac without a fuse at its brush", SOUND),
    Told("H57", "note", "Ohms see neither", bell(), insulation_tested()),
    Told("H58", "note", "A converter may isolate", converter(115.0), converter(230.0)),
    Told("H59", "note", "both poles are switched", converter(230.0), bell()),
    Told("H59", "bench", "opens one conductor", "a switch of one pole", SOUND),
    Told("H60", "bench", "ammeter is a short", "an ammeter across the winding", SOUND),
    Told("H61", "note", "No implant", bell()),
    Told("H62", "gate", "open question", None),
    Told("H68", "note", "One terminal kills", made(SIGN), bell()),
    Told("H69", "hazard", "The case must be earthed", made(SIGN), bell()),
    Told("H70", "note", "never bypassed", made(SIGN, declared_family="sign"), demo("CQ-018")),
    Told("H71", "handling", "never by the bushings", made(SIGN, declared_family="sign"), bell()),
    Told(
        "H76",
        "hazard",
        "The breaker does not protect",
        bell(supply={**SUPPLY, "breaker_amps": 16.0}),
        bell(supply={**SUPPLY, "breaker_amps": 0.3}),
    ),
    Told(
        "H76",
        "bench",
        "protects the wall's cable",
        "a breaker of 16 A for a hundred volt-amperes",
        SOUND,
    ),
    Told(
        "H80",
        "hazard",
        "protective bond has at most",
        made(
            [*OVEN, {"kind": "dc_drop", "across": ["earth", "core"], "volts": 3.0, "amps": 1.0}],
            "ABCDE",
        ),
        demo("CQ-018"),
    ),
    Told("H81", "bench", "stands in the neutral", "the lamp in the neutral", SOUND),
    Told("H82", "note", "A cold lamp is no lamp", bell()),
    Told("H83", "hazard", "Fed backwards it steps up", None),
    Told("H84", "gate", "volts per hertz", demo("CQ-053"), bell()),
    Told("H85", "bench", "is one half", "one half of two on the line", SOUND),
    Told("H86", "hazard", "between its lead and the case", demo("CQ-018"), made(SIGN)),
    Told("H87", "hazard", "current transformer", made(MAINS, nameplate=CT), bell()),
    Told(
        "H88",
        "hazard",
        "ferrite",
        made(OVEN, "ABCDE", core={"mass_kg": 0.5}, declared_family="microwave"),
        bell(),
    ),
    Told("H89", "bench", "ferroresonance", "a capacitor in series", SOUND),
    Told("H91", "bench", "dial zero", "a variac behind a plug of both ways", SOUND),
    Told("H92", "act", "Start at nought", "no load", "first power"),
    Told("H93", "handling", "It is not bridged", bell(), demo("CQ-018")),
    Told("H94", "hazard", "filter", None),
]


def backwards():
    """A reading that drove the low side and found more on the high one."""
    ratio = {"kind": "ratio", "driven": ["C", "D"], "driven_volts": 12.0, "sensed": ["A", "B"]}
    return made([*BELL, {**ratio, "sensed_volts": 220.0}], nameplate=PLATE)


def filtered():
    """Half a megohm across the mains pair that no winding joins."""
    readings = [{"kind": "core_proof", "ohms": 0.1}, ("A", "B", 4.7e5), ("C", "D", 12.0)]
    return made([*readings, ("A", "C", "open"), ("A", "core", "open"), ("C", "core", "open")])


def bonded_low():
    """A low winding that conducts to the core: fault or design, the gate asks."""
    return made([*BELL[:-1], ("C", "core", 0.4)], nameplate=PLATE)


NO_METER = {"id": "s99", "kind": "have-none", "concerns": "inductance"}


def oven_at_first_power(**more):
    """A sound oven with its bond, its ratio and its bench proved, and nothing read live yet; there
    is no inductance meter.
    """
    document = next(d for d in demo_documents() if d["tag"] == "CQ-018")
    cold = [r for r in document["readings"] if r["kind"] not in ("no_load", "lamp")]
    said = [*document["statements"], NO_METER]
    return identify(parse_record({**document, "readings": cold, "statements": said, **more}))


LATE = {"H83": backwards, "H94": filtered, "H62": bonded_low, "H35": oven_at_first_power}


@pytest.mark.parametrize("told", SITUATIONS, ids=[f"{t.id} {t.where}" for t in SITUATIONS])
def test_a_situation_is_told_in_words_and_its_neighbour_is_not(told):
    """Before any live step: on the strip, at the gate, at the act, on the bench's drawing."""
    tell = WHERE[told.where]
    of = told.of if told.of is not None else LATE[told.id]()

    assert told.words in tell(of)
    if told.not_of is not None:
        assert told.words not in tell(told.not_of)


def test_every_situation_that_is_asked_for_has_its_row():
    """The catalogue's numbers of a piece on the bench."""
    assert set(ASKED) - {t.id for t in SITUATIONS} == set()


def test_every_number_that_a_declaration_bears_is_one_of_the_catalogue():
    """Demands and notes name the hazards they meet."""
    numbers = {x for d in (*DEMANDS, *NOTES) for x in d.ids}

    assert every(x[0] == "H" and 1 <= int(x[1:]) <= 99 for x in numbers)
    assert numbers & set(ASKED)


def test_every_note_stands_somewhere_and_those_with_a_condition_not_everywhere():
    """Each has a headline of at most ten words."""
    pieces = [bell(), insulation_tested(), demo("CQ-018"), demo("CQ-052"), made(SIGN)]
    pieces.append(converter(115.0))
    told = [{n.code for n in live_notes(x)} for x in pieces]
    for note in NOTES:
        assert any(note.code in codes for codes in told), note.code
        assert len(note.headline.split()) <= 10
        if note.condition != "always":
            assert not all(note.code in codes for codes in told), note.code


def test_a_live_step_carries_its_notes_in_json():
    """As the page does."""
    step = next_json(oven_at_first_power())

    assert step["energy"] == "live"
    assert {n["code"] for n in step["notes"]} >= {"no-hand-near", "one-terminal", "implants"}


def test_before_its_bench_is_sound_no_live_step_comes_first():
    """The set-up asks first; a sound one lets the lamp be."""
    bare = oven_at_first_power(setup=None)
    odd = oven_at_first_power(setup=replace(sound("CQ-018"), earth=()).as_json())

    assert next_json(bare)["kind"] == "setup"
    assert "not wired to earth" in next_json(odd)["why"]
    assert next_json(oven_at_first_power())["kind"] == "lamp"
