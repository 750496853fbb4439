"""Windings that nobody wrote ohms of, and pieces of which nothing was read: what plate, look, donor
and the owner's belief say, and a record for every kind of reading that holds nothing else.
"""

import math

import pytest

from greyfell.core.evidence.family_names import FAMILIES
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import as_json, identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.steps.next_step import next_steps
from tests.conftest import every, piece

SUPPLY = {"volts": 230, "hertz": 50}
RATIO = {
    "kind": "ratio",
    "driven": ["E", "core"],
    "driven_volts": 42.0,
    "sensed": ["A", "B"],
    "sensed_volts": 4.5,
}
ALONE = {
    "ratio": (RATIO, [("A", "B"), ("E", "core")]),
    "lamp": (
        {
            "kind": "lamp",
            "across": ["A", "B"],
            "supply_volts": 230.0,
            "lamp_watts": 60.0,
            "glow": "dark",
        },
        [("A", "B")],
    ),
    "no_load": (
        {"kind": "no_load", "driven": ["A", "B"], "volts": 230.0, "amps": 0.05},
        [("A", "B")],
    ),
    "turns": ({"kind": "turns", "across": ["C", "D"], "turns": 3.0}, [("C", "D")]),
    "inductance": (
        {"kind": "inductance", "across": ["A", "B"], "henries": 3.0, "hertz": 100.0},
        [("A", "B")],
    ),
    "test_turn": (
        {
            "kind": "test_turn",
            "driven": ["A", "B"],
            "driven_volts": 6.0,
            "turns": 5.0,
            "turn_volts": 0.12,
        },
        [("A", "B")],
    ),
    "short_circuit": (
        {
            "kind": "short_circuit",
            "driven": ["A", "B"],
            "shorted": [["C", "D"]],
            "volts": 20.0,
            "amps": 0.5,
        },
        [("A", "B"), ("C", "D")],
    ),
    "load": (
        {
            "kind": "load",
            "driven": ["A", "B"],
            "driven_volts": 230.0,
            "loaded": ["C", "D"],
            "load_volts": 12.0,
            "load_amps": 2.0,
        },
        [("A", "B"), ("C", "D")],
    ),
    "polarity": (
        {
            "kind": "polarity",
            "driven": ["A", "B"],
            "driven_volts": 10.0,
            "joined": ["B", "C"],
            "across": ["A", "D"],
            "across_volts": 12.0,
        },
        [("A", "B")],
    ),
    "dc_drop": (
        {"kind": "dc_drop", "across": ["C", "D"], "volts": 0.03, "amps": 2.0},
        [("C", "D")],
    ),
}


def concluded(readings=(), leads="ABCDE", **more):
    """What follows from a record made by hand."""
    return identify(parse_record(piece(leads, readings, **{"supply": SUPPLY, **more})))


@pytest.mark.parametrize("kind", ALONE)
def test_any_reading_across_two_leads_makes_a_winding(kind):
    """With or without ohms; what no reading names stays untested, and nothing live opens."""
    reading, pairs = ALONE[kind]
    ident = concluded([reading])
    named = {x for p in pairs for x in p}

    assert [w.coil.leads for w in ident.windings] == pairs
    assert set(ident.topology.untested) == set("ABCDE") - named
    assert not live_gate(ident).open
    assert max(ident.families.values()) > 1.01 / len(FAMILIES)
    assert next_steps(ident)


@pytest.mark.parametrize("kind", [k for k in ALONE if k != "dc_drop"])
def test_a_winding_without_ohms_has_none_and_is_asked_for_them(kind):
    """No figure is made up; the cold step for its ohms stands among the next."""
    reading, pairs = ALONE[kind]
    ident = concluded([reading], statements=[{"kind": "salvage-done", "text": "0.2 V"}])
    steps = [s.title for s in next_steps(ident)]

    assert every(w["ohms"] is None for w in as_json(ident)["windings"])
    assert f"Ohms of {'–'.join(pairs[0])}" in steps


def test_a_reverse_ratio_alone_names_an_oven():
    """Its volts too: 42 V in, 4.5 V back."""
    ident = concluded([RATIO])
    high = next(w for w in ident.windings if "E" in w.coil.leads)

    assert ident.family == "microwave"
    assert high.coil.bond == "end"
    assert high.volts.low < 230 * 42 / 4.5 * 0.97 < high.volts.high


def test_leads_that_ohms_have_placed_are_left_where_they_are():
    """A ratio on a winding that ohms named adds none; several leads of one winding are its taps."""
    tapped = [
        {**RATIO, "driven": ["A", "B"], "driven_volts": 12.0, "sensed": list(p), "sensed_volts": v}
        for p, v in (("CD", 1.0), ("DE", 1.0), ("CE", 2.0))
    ]
    ident = concluded([("A", "B", 20.0), *tapped])

    assert [w.coil.leads for w in ident.windings] == [("A", "B"), ("C", "E")]
    assert [t.lead for t in ident.windings[1].coil.taps] == ["D"]


# ------------------------------------------------------------------ before anything was read


@pytest.mark.parametrize(
    ("more", "family"),
    [
        ({"declared_family": "variable"}, "variable"),
        ({"declared_family": "choke"}, "choke"),
        ({"nameplate": {"secondary_volts": 12000.0, "midpoint_earthed": True}}, "sign"),
        ({"nameplate": {"outputs": [{"volts": 12.0}, {"volts": 6.0}]}}, "mains"),
        ({"nameplate": {"secondary_volts": 325.0}}, "mains"),
        ({"nameplate": {"text": "line transformer 600 : 600 ohm"}}, "other"),
        ({"title": "out of a microwave oven"}, "microwave"),
        ({"core": {"shape": "toroid"}, "declared_family": "mains"}, "mains"),
        ({"core": {"shunts": "present", "assembly": "potted"}, "leads": ["bushing"]}, "sign"),
    ],
)
def test_plate_look_donor_and_belief_speak_first(more, family):
    """The likeliest family, with honest doubt; the gate stays shut and nothing has volts."""
    leads = more.pop("leads", None)
    if leads:
        more["leads"] = [{"id": "A"}, {"id": "B"}, {"id": "C", "end": leads[0]}]
    ident = concluded(**more)

    assert ident.family == family
    assert 0.3 < ident.families[family] < 0.999
    assert sum(ident.families.values()) == pytest.approx(1.0)
    assert ident.windings == ()
    assert not live_gate(ident).open


def test_where_nothing_is_said_nothing_is_believed():
    ident = concluded()

    assert ident.family == "unknown"
    assert set(ident.families.values()) == {round(1 / 6, 6)}


@pytest.mark.parametrize(
    ("volts", "kilovolts"), [(1499.0, False), (1500.0, True), (20e3, True), (20.1e3, False)]
)
def test_a_plate_of_kilovolts_is_a_signs(volts, kilovolts):
    """1.5 to 20 kV. T-15, common practice."""
    ident = concluded(nameplate={"secondary_volts": volts})

    assert (ident.families["sign"] > 0.2) is kilovolts


@pytest.mark.parametrize(("chance", "fed"), [(0.49, ()), (0.51, ("A", "B"))])
def test_what_is_not_likelier_the_mains_than_not_is_not_fed(chance, fed):
    """`_fed` asks for one in two."""
    from greyfell.core.belief import believe

    record = parse_record(piece("ABCD", [("A", "B", 30.0), ("C", "D", 0.2)], supply=SUPPLY))
    ident = identify(record)
    roles = ({"primary": chance, "unknown": 1 - chance}, {"lv-secondary": 1.0})

    class Weighed:
        best = ident.belief.best

    assert believe._fed(record, ident.topology, Weighed(), roles) == fed


SIGN = [
    ("D", "A", 1709.0),
    ("D", "B", 1714.0),
    ("A", "C", 1701.0),
    ("C", "D", 3410.0),
    ("C", "B", 1694.0),
    ("C", "core", 1696.0),
    ("core", "A", 0.2),
    ("D", "core", 1712.0),
]
"""Sign HV bonded in its middle; one end of the mains winding, A–B, touches the core as well."""
OVEN_RETURN = [
    ("D", "A", 100.1),
    ("D", "B", 101.0),
    ("D", "core", 100.0),
    ("core", "A", 0.2),
]
"""Oven HV that returns through the core, on which the mains winding A–B stands too."""


def henries(reactance, hertz=1000.0):
    """An inductance of A–B that has so many ohms at a frequency."""
    figure = reactance / (2 * math.pi * hertz)
    return {"kind": "inductance", "across": ["A", "B"], "henries": figure, "q": 4.0}


@pytest.mark.parametrize("ohms", [SIGN, OVEN_RETURN])
def test_a_mains_winding_hidden_at_the_core_is_found_by_what_it_does(ohms):
    """Its few ohms are nothing beside the HV's, its inductance is: by itself it looks like a tap at
    the bond. It stops.
    """
    hidden = concluded(ohms, "ABCD", core=SHUNTED)
    shown = concluded([*ohms, {**henries(380.0), "hertz": 1000.0}], "ABCD", core=SHUNTED)

    assert ("B", "core") not in [c.leads for c in hidden.topology.coils]
    assert ("B", "core") in [c.leads for c in shown.topology.coils]
    assert shown.stopped
    (stop,) = (f for f in shown.faults if f.leads == ("B", "core"))
    assert (stop.severity, stop.readings) == ("stop", (f"r{len(ohms) + 1}",))
    assert not live_gate(hidden).open


SHUNTED = {"shape": "core", "shunts": "present"}
FED = {"kind": "no_load", "driven": ["A", "B"]}
SMALL = {"kind": "ratio", "driven": ["D", "C"], "driven_volts": 100.0, "sensed": ["A", "B"]}


@pytest.mark.parametrize(
    ("reading", "found"),
    [
        ({**henries(2.99), "hertz": 1000.0}, False),
        ({**henries(3.01), "hertz": 1000.0}, True),
        (henries(2.99, 100.0), False),
        (henries(3.01, 100.0), True),
        ({**SMALL, "sensed_volts": 0.09}, False),
        ({**SMALL, "sensed_volts": 0.11}, True),
        ({**FED, "volts": 2.9, "amps": 1.0}, False),
        ({**FED, "volts": 3.1, "amps": 1.0}, True),
    ],
)
def test_what_shows_a_winding_between_two_points_at_the_core(reading, found):
    """From 3 Ω of reactance on, at 100 Hz where none is noted; from a thousandth of the driven
    volts.
    """
    ident = concluded([*SIGN, reading], "ABCD", core=SHUNTED)

    assert (("B", "core") in [c.leads for c in ident.topology.coils]) == found
