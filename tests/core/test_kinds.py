"""Kinds told by plate, look or a few ohms: named with what named them, with what feeding them
backwards would give, and the gate with them. All common practice.
"""

import numpy as np
import pytest

from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import answer, identify
from greyfell.core.judgement import kinds
from greyfell.core.judgement.gates import live_gate
from greyfell.core.simulated.owner import documented
from tests.conftest import piece


def told(readings=(), leads="ABCD", **more):
    """What is answered of a record made by hand."""
    more.setdefault("supply", {"volts": 230, "hertz": 50})
    return identify(parse_record(piece(leads, list(readings), **more)))


def names(ident):
    """The kinds named in the answer."""
    return [k["name"] for k in answer(ident)["kinds"]]


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("Welder 180 A, crank set", "crank welder"),
        ("ARC WELDER 50-140 A", "crank welder"),
        ("distribution transformer 25 kVA", "distribution transformer"),
        ("pole-mount", "distribution transformer"),
        ("11 kV/110 V class 0.5", "voltage transformer"),
        ("potential transformer", "voltage transformer"),
        ("200/5 A", "current transformer"),
        ("ignition coil 12 V", "spark coil"),
        ("flyback", "spark coil"),
        ("electronic transformer 12 V 60 W", "electronic lamp supply"),
        ("30-40 kHz", "electronic lamp supply"),
    ],
)
def test_a_plate_names_the_kind_and_the_answer_says_what_backwards_gives(text, name):
    """Plate, title and part alike; the danger strip tells it, and the answer what named it."""
    for ident in (told(nameplate={"text": text}), told(title=text), told(parts=[{"what": text}])):
        (kind,) = answer(ident)["kinds"]
        codes = {h.code for h in hazards(ident)}

        assert kind["name"] == name
        assert "“" in kind["sentence"]
        assert kind["backwards"]
        assert codes & {"never-on-mains", "wrong-way-round"}


@pytest.mark.parametrize(
    "text",
    [
        "350-0-350 V CT, 6.3 V",
        "230/110 V 500 VA",
        "PRI 230 V SEC 12 V 5 A",
        "Made by the distribution works",
        "made for 400 Hz",
        "transformer from a lamp",
        "",
    ],
)
def test_usual_plates_name_no_kind(text):
    """A centre tap is no current transformer, a step-down part no instrument's."""
    assert names(told(nameplate={"text": text})) == []


OHMS = {
    "crank": [("A", "B", 0.5), ("C", "D", 0.1), ("A", "C", "open")],
    "pole": [("A", "B", 30.0), ("C", "D", 0.03), ("A", "C", "open")],
    "meter": [("A", "B", 3500.0), ("C", "D", 0.4), ("A", "C", "open")],
    "spark": [("A", "B", 1.6), ("A", "C", 8100.0), ("B", "C", 8101.0)],
}
THICK = [{"id": x, "wire_mm": 3.0} for x in "ABCD"]
DISTRIBUTION = ["distribution transformer"]
BUSHED = [{"id": "A", "end": "bushing"}, {"id": "B", "end": "bushing"}, {"id": "C"}, {"id": "D"}]


@pytest.mark.parametrize(
    ("readings", "more", "expected"),
    [
        ("crank", {"leads": THICK}, ["crank welder"]),
        ("crank", {"leads": [{"id": x, "wire_mm": 2.0} for x in "ABCD"]}, []),
        ("crank", {}, []),
        ("pole", {"core": {"mass_kg": 40.0}}, ["distribution transformer"]),
        ("pole", {"core": {"mass_kg": 39.9}}, []),
        ("meter", {"leads": BUSHED}, ["voltage transformer"]),
        ("meter", {}, []),
        ("spark", {}, ["spark coil"]),
    ],
)
def test_a_look_or_a_few_ohms_name_it(readings, more, expected):
    """Thick wire on both windings; a man's weight; insulators before kilohms; a shared end."""
    leads = more.pop("leads", None)
    document = piece("ABCD", OHMS[readings], supply={"volts": 230, "hertz": 50}, **more)
    if leads:
        document["leads"] = leads

    assert names(identify(parse_record(document))) == expected


def test_moving_iron_and_kilovolts_on_the_plate():
    """A core that slides is a welder's or a reactor's; 1 kV and more is no mains part."""
    assert names(told(core={"slide_mm": 12.0})) == ["crank welder"]
    assert names(told(nameplate={"primary_volts": 1000.0})) == ["distribution transformer"]
    assert names(told(nameplate={"primary_volts": 999.0})) == []


@pytest.mark.parametrize("kind", kinds.KINDS, ids=lambda k: k.name)
def test_what_never_goes_on_the_mains_keeps_the_gate_shut(kind):
    """A sound piece with everything read: its gate opens, and shuts once its plate names a kind
    that is never fed; a welder is let through.
    """
    document = documented(np.random.default_rng(5), "lv").document
    words = {
        "crank welder": "arc welder",
        "distribution transformer": "pole mount",
        "voltage transformer": "potential transformer",
        "current transformer": "current transformer",
        "spark coil": "spark coil",
        "electronic lamp supply": "LED driver",
    }
    before = live_gate(identify(parse_record(document)))
    document["nameplate"] = {**document["nameplate"], "text": words[kind.name]}
    after = live_gate(identify(parse_record(document)))

    assert before.open
    assert after.open is not kind.never
    assert kind.never is any("never goes on the mains" in reason for reason in after.reasons)


def pairs(low, high):
    """A spark coil's three leads."""
    return [("A", "B", low), ("A", "C", high), ("B", "C", high)]


@pytest.mark.parametrize(
    ("readings", "more", "expected"),
    [
        (pairs(0.21, 8000.0), {}, ["spark coil"]),
        (pairs(0.19, 8000.0), {}, []),
        (pairs(5.9, 8000.0), {}, ["spark coil"]),
        (pairs(6.1, 8000.0), {}, []),
        (pairs(1.5, 2010.0), {}, ["spark coil"]),
        (pairs(1.5, 1990.0), {}, []),
        (pairs(1.5, 29e3), {}, ["spark coil"]),
        (pairs(1.5, 31e3), {}, []),
        ([("A", "B", 0.99), ("C", "D", 0.2)], {"leads": THICK}, ["crank welder"]),
        ([("A", "B", 1.01), ("C", "D", 0.2)], {"leads": THICK}, []),
        ([("A", "B", 45.0), ("C", "D", 0.099)], {"core": {"mass_kg": 90}}, DISTRIBUTION),
        ([("A", "B", 45.0), ("C", "D", 0.101)], {"core": {"mass_kg": 90}}, []),
        ([("A", "B", 20.2), ("C", "D", 0.05)], {"core": {"mass_kg": 90}}, DISTRIBUTION),
        ([("A", "B", 19.8), ("C", "D", 0.05)], {"core": {"mass_kg": 90}}, []),
        ([("A", "B", 4990.0), ("C", "D", 1.99)], {"leads": BUSHED}, ["voltage transformer"]),
        ([("A", "B", 5500.0), ("C", "D", 2.01)], {"leads": BUSHED}, []),
        ([("A", "B", 2530.0), ("C", "D", 1.0)], {"leads": BUSHED}, ["voltage transformer"]),
        ([("A", "B", 2470.0), ("C", "D", 1.0)], {"leads": BUSHED}, []),
        ([("A", "B", 405.0), ("C", "D", 0.1)], {"leads": BUSHED}, ["voltage transformer"]),
        ([("A", "B", 395.0), ("C", "D", 0.1)], {"leads": BUSHED}, []),
        ([("A", "B", 29.9e3), ("C", "D", 0.1)], {"leads": BUSHED}, ["voltage transformer"]),
        ([("A", "B", 30.1e3), ("C", "D", 0.1)], {"leads": BUSHED}, []),
    ],
)
def test_a_kind_is_named_just_inside_its_ohms(readings, more, expected):
    """Every threshold just below and just above; the rest of the record is the same."""
    document = piece("ABCD", [*readings, ("A", "D", "open")], supply={"volts": 230, "hertz": 50})

    assert names(identify(parse_record(document | more))) == expected
