"""Ways round the gate that were found once, each walked again as it was found. Polarity (K4) stands
with its kind in `test_contradictions`, benches (K5, K10) in `test_setup`, rigs and stored energy
(K11, K12) in `test_never`, lessons, examples, stores and the build sheet (K16 to K19) in
`test_drill`, `test_examples` and `test_build`.
"""

import pytest

from greyfell.core.dangers.listing import dangers
from greyfell.core.dangers.of_act import said_at
from greyfell.core.dangers.own import hazards
from greyfell.core.dangers.scene import Scene
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.judgement.high import high_ruled_out, share_to_earth
from greyfell.core.steps.next_step import next_steps
from greyfell.core.uses.all_uses import USES
from greyfell.core.uses.kept_project import as_it_is
from greyfell.records.demo import demo_documents
from tests.conftest import MAINS, PLATE, piece

SUPPLY = {"supply": {"volts": 230, "hertz": 50}}
NONE_HERE = {"kind": "no-capacitor", "concerns": "capacitor", "text": "looked: none here"}
RATIO = {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 230.0, "sensed": ["C", "D"]}
LAMP_ON_OUTPUT = {
    "kind": "lamp",
    "across": ["C", "D"],
    "supply_volts": 230,
    "lamp_watts": 100,
    "glow": "bright",
}


def at(hour, minute=0):
    """A time of the day everything happens on."""
    return f"2026-05-02T{hour:02d}:{minute:02d}:00+01:00"


def bell(readings=MAINS, **more):
    """A plated bell part, screened in the morning, with nothing to discharge."""
    made = {"nameplate": PLATE, "statements": [{"id": "s1", "at": at(8), **NONE_HERE}], **SUPPLY}
    document = piece("ABCD", readings, **made | more)
    document["readings"] = [{"at": at(9, n), **r} for n, r in enumerate(document["readings"])]
    return document


def oven(**more):
    """The documented oven part of the demo shelf, whose gate is open."""
    found = next(d for d in demo_documents() if d["tag"] == "CQ-018")
    return {**found, **more}


def concluded(document):
    """A record, concluded."""
    return identify(parse_record(document))


def is_open(document):
    """Whether its gate is open."""
    return live_gate(concluded(document)).open


def also(document, *readings):
    """The same with further readings."""
    return {**document, "readings": [*document["readings"], *readings]}


def test_both_sound_pieces_are_let_through():
    """What follows bends these."""
    assert is_open(bell())
    assert is_open(oven())


def test_k1_an_older_open_reading_answers_no_fault_struck_after_it():
    """Struck as a slip it is read again, and then let through."""
    touch = {"id": "x1", "kind": "resistance", "between": ["A", "core"], "ohms": 3.0, "at": at(10)}
    struck = also(bell(), {**touch, "struck": {"reason": "slip", "at": at(11)}})
    again = {**touch, "id": "x2", "ohms": "open", "range_ohms": 20e6, "at": at(12)}

    assert not is_open(struck)
    assert "A" in next_steps(concluded(struck))[0].title
    assert is_open(also(struck, again))


@pytest.mark.parametrize(
    "said",
    [
        {"text": "not discharged, no resistor at hand"},
        {"text": "still shows 1800 V"},
        {"text": "not yet"},
        {"text": ""},
        {"text": "0.2 V", "concerns": "a fuse"},
        {"kind": "done-elsewhere", "concerns": "insulation", "text": "tested at 500 V, 0.2 V"},
        {"kind": "no-capacitor", "concerns": "capacitor", "text": "none on it"},
    ],
)
def test_k2_a_word_on_the_capacitor_counts_for_what_it_says(said):
    """Of an oven: none of these is a discharge."""
    statement = {"id": "s9", "kind": "salvage-done", "concerns": "capacitor", "at": at(9), **said}

    assert not is_open(oven(statements=[statement]))
    good = {**statement, "kind": "salvage-done", "concerns": "capacitor", "text": "0.2 V twice"}
    assert is_open(oven(statements=[good]))


def test_k3_the_bond_goes_by_its_time_and_not_by_its_place():
    """Good on one day, open on the next, entered the other way round."""
    bond = next(r for r in oven()["readings"] if r.get("across") == ["earth", "core"])
    later = {"id": "b9", "kind": "resistance", "between": ["earth", "core"], "ohms": 400.0}
    worse = {**bond, "id": "b8", "volts": 5.0, "at": "2027-01-01T10:00:00+01:00"}
    document = oven()

    assert not is_open({**document, "readings": [worse, *document["readings"]]})
    assert not is_open(also(document, {**later, "at": "2027-01-01T10:00:00+01:00"}))


HEATER_LEFT = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 1.3),
    ("C", "D", 0.0),
    ("A", "C", "open"),
    ("A", "core", "open"),
    ("C", "core", "open"),
]
"""An oven part of which nobody found the kilovolts."""
SHORTED = [
    {
        "id": "s1",
        "kind": "salvage-done",
        "concerns": "capacitor",
        "text": "0.2 V twice",
        "volts": 0.2,
    }
]


def hidden(leads="ABCD", readings=HEATER_LEFT, **more):
    """An oven part with no HV winding in sight, salvaged, its readings of the morning."""
    made = {"declared_family": "microwave", "statements": SHORTED, **SUPPLY, **more}
    document = piece(leads, readings, **made)
    document["readings"] = [{"at": at(9, n), **r} for n, r in enumerate(document["readings"])]
    return concluded(document)


@pytest.mark.parametrize(
    "change",
    [
        {"what": "winding-removed", "note": "the heater"},
        {"what": "rewound", "note": "a new heater"},
        {"what": "winding-removed", "leads": ["C"], "note": "its heater cut off"},
    ],
)
def test_k6_any_winding_that_was_removed_rules_out_no_hv(change):
    """A heater taken out: the kilovolts stand on the strip, and no use is as it is."""
    ident = hidden(changes=[{"id": "c1", "at": at(7), **change}])
    codes = {h.code for h in hazards(ident)}

    assert not high_ruled_out(ident.belief)
    assert codes & {"hv", "hv-not-ruled-out", "hv-to-case", "core-live"}
    assert not any(own.does for u in USES for own in [as_it_is(ident, u)] if own is not None)


@pytest.mark.parametrize(
    "changes",
    [
        [{"what": "winding-removed", "leads": ["C"], "at": at(7)}],
        [{"what": "winding-removed", "leads": ["C"]}],
        [
            {"what": "winding-removed", "leads": ["C"], "at": "2026-04-01T07:00:00+01:00"},
            {"what": "rewound", "note": "new HV winding on", "at": "2026-04-02T07:00:00+01:00"},
        ],
    ],
)
def test_k6_a_removal_does_not_hide_a_winding_that_was_read_since(changes):
    """Said to be cut out, and 174 Ω from its lead to the core were read afterwards."""
    document = oven(changes=[{"id": f"c{n}", **c} for n, c in enumerate(changes, 1)])
    ident = concluded(document)

    assert not high_ruled_out(ident.belief)
    assert {h.code for h in hazards(ident)} & {"core-live", "hv", "hv-not-ruled-out"}
    assert not any(own.does for u in USES for own in [as_it_is(ident, u)] if own is not None)


@pytest.mark.parametrize(
    ("note", "said"),
    [
        ("HV rewound with thinner wire", True),
        ("a new high-voltage winding", True),
        ("new HV winding, its ends brought out", True),
        ("HV sawn off, three turns of cable instead", False),
        ("3 turns of cable in place of the secondary", False),
    ],
)
def test_k6_what_was_wound_anew_is_gone_only_where_the_note_says_so(note, said):
    """A word about the HV winding in the note of a rewinding is no removal."""
    ident = hidden(changes=[{"id": "c1", "what": "rewound", "note": note, "at": at(7)}])

    assert ("hv-not-ruled-out" in {h.code for h in hazards(ident)}) is said


def test_k6_an_hv_lead_that_reads_open_hides_a_winding():
    """A diode in line reads open both ways: HV stands until a reading shows it."""
    opened = [*HEATER_LEFT, ("E", "A", "open"), ("E", "C", "open"), ("E", "core", "open")]
    ident = hidden("ABCDE", opened)

    assert not high_ruled_out(ident.belief)
    assert not live_gate(ident).open
    assert not any(own.does for u in USES for own in [as_it_is(ident, u)] if own is not None)


def test_k7_an_autotransformer_by_its_plate_isolates_nothing():
    """Whatever small winding stands beside it."""
    plate = {**PLATE, "text": "autotransformer 230/115 V"}
    tapped = [*MAINS, ("A", "E", 16.0), ("B", "E", 17.0), ("E", "core", "open")]
    document = piece("ABCDE", tapped, nameplate=plate, **SUPPLY)

    assert "no-isolation" in {h.code for h in hazards(concluded(document))}


def test_k8_a_one_to_one_without_its_mark_is_no_safety_isolation():
    """Said on the strip; uses never call it “as it is” against its gate."""
    like = [
        r if not (isinstance(r, tuple) and r[:2] == ("C", "D")) else ("C", "D", 32.0) for r in MAINS
    ]
    ident = concluded(bell([*like, {**RATIO, "sensed_volts": 232.0}], nameplate=None))
    found = [as_it_is(ident, u) for u in USES]

    assert "no-safety-isolation" in {h.code for h in hazards(ident)}
    assert not live_gate(ident).open
    assert not any(own.does for own in found if own is not None)


def test_k9_a_lamp_on_a_low_winding_put_hundreds_of_volts_on_the_primary():
    """The act is told with the winding, and with the volts that stood on the other."""
    ident = concluded(also(bell(), {"id": "x1", "at": at(12), **LAMP_ON_OUTPUT}))
    told = [f.sentence for f in ident.faults if "x1" in f.readings]

    assert any("C–D" in sentence and "hundreds of volts" in sentence for sentence in told)


def test_k13_a_leak_to_a_lead_of_no_winding_is_a_leak():
    """A mains winding of 12 Ω and 326 kΩ from either end to a loose lead."""
    leaky = [{"kind": "core_proof", "ohms": 0.1}, ("A", "B", 12.0), ("A", "C", 326e3)]
    ident = concluded(piece("ABC", [*leaky, ("B", "C", 326e3)], **SUPPLY))

    assert any("C" in f.leads for f in ident.faults)
    assert not live_gate(ident).open


def test_k13_a_piece_of_two_leads_and_one_on_the_core_says_so():
    """Open between them, one on the iron."""
    readings = [{"kind": "core_proof", "ohms": 0.1}, ("1", "2", "open"), ("2", "core", 0.3)]
    ident = concluded(piece(["1", "2"], readings, **SUPPLY))

    assert ident.faults
    assert not live_gate(ident).open


@pytest.mark.parametrize(
    "more", [("C", "core", 0.4), ("C", "D", 2.6), ("C", "D", 0.13)], ids=["on the core", "x", "y"]
)
def test_k14_the_stop_stays_first_whatever_is_read_afterwards(more):
    """One harmless reading softens nothing; the page of dangers begins with the same."""
    touched = also(bell(), {"id": "x1", "kind": "resistance", "between": ["A", "C"], "ohms": 2.0})
    x, y, ohms = more
    later = {"id": "x2", "kind": "resistance", "between": [x, y], "ohms": ohms, "at": at(14)}
    for document in (touched, also(touched, later)):
        ident = concluded(document)
        assert ident.stopped
        assert hazards(ident)[0].as_hazard()["code"] == "stopped"
        assert hazards(ident)[0].reason == ident.stop.sentence
        assert dangers(Scene(ident=ident))[0].reason == ident.stop.sentence


def test_k15_of_an_end_bonded_oven_the_whole_stands_to_earth():
    """Where first power is told."""
    share = share_to_earth(concluded(oven()).belief)

    assert share == "All"
    assert said_at("first power high", share)[1].startswith("All of its output stands to earth")
