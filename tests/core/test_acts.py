"""Readings under power and what they say of leakage, earth and zeros; unsafe acts; an oven's
capacitor that is still connected; outputs on the core by design. Each threshold from just below and
just above.
"""

import math

import pytest

from greyfell.core.belief.clues import word_clues
from greyfell.core.belief.observations import _of_plate, observations
from greyfell.core.belief.taps import feeds
from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.accuracy import ohms_of
from greyfell.core.evidence.parse import parse_record
from greyfell.core.figures.quantity import Quantity
from greyfell.core.identify import identify
from greyfell.core.judgement import acts, leaks
from greyfell.core.judgement import odd_readings as misfits
from greyfell.core.judgement.paths import hot_joints
from greyfell.core.steps.next_step import next_steps
from greyfell.core.wiring.coil import Tap
from greyfell.core.wiring.topology import find_windings
from tests.conftest import BOND, KNOWN_OVEN, MAINS, OVEN, PLATE, every, piece
from tests.core.made import OUTPUT, PRIMARY, belief, coil, hazards_of, record, winding

HV = winding({"hv-secondary": 1.0}, 2100.0, coil(("E", "core"), 96.0, "end"), id="W3")


def found(rule, reading, believed=None, **more):
    """Code and severity that a rule gives for one reading, or None."""
    told = record([reading], leads="ABCDE", **more)
    made = rule(told, believed or belief([PRIMARY, OUTPUT]))
    return (made[0].code, made[0].severity) if made else None


def leak(amps):
    """Touch current from an output to earth."""
    return {
        "kind": "leakage_current",
        "from": "C",
        "to": "earth",
        "amps": amps,
        "driven": ["A", "B"],
        "driven_volts": 230.0,
    }


def ghost(volts, meter_ohms):
    """Volts from an output to earth on a meter of so many ohms."""
    return {
        "kind": "earth_voltage",
        "from": "C",
        "to": "earth",
        "volts": volts,
        "meter_ohms": meter_ohms,
        "driven": ["A", "B"],
        "driven_volts": 230.0,
    }


def ratio(driven, volts, sensed, out, **more):
    """A ratio between two pairs."""
    pairs = {"driven": list(driven), "sensed": list(sensed)}
    return {"kind": "ratio", **pairs, "driven_volts": volts, "sensed_volts": out, **more}


# ------------------------------------------------------------------ leakage


@pytest.mark.parametrize(
    ("reading", "told"),
    [
        (leak(0.25e-3), None),
        (leak(0.26e-3), ("leakage-current", "caution")),
        (leak(3.5e-3), ("leakage-current", "caution")),
        (leak(3.6e-3), ("leakage-current", "stop")),
        (ghost(188.0, 3000.0), ("leakage-current", "stop")),
        (ghost(188.0, 1.0e6), None),
        (ghost(300.0, 1.0e6), ("leakage-current", "caution")),
        (ghost(300.0, 1.1e6), None),
        (ghost(120.0, 10e6), None),
    ],
)
def test_what_may_be_touched(reading, told):
    """A quarter of a milliampere, three and a half at most; volts on ten megohms are a ghost. IEC
    60990 and IEC 60335-1 cl. 13.2, from memory.
    """
    assert found(acts.leakage, reading) == told


@pytest.mark.parametrize(
    ("point", "volts", "meter_ohms", "told"),
    [
        ("core", 110.0, 10e6, ("leakage-current", "caution")),
        ("core", 110.0, None, ("leakage-current", "caution")),
        ("core", 50.0, 10e6, None),
        ("core", 51.0, 10e6, ("leakage-current", "caution")),
        ("core", 0.5, 3000.0, None),
        ("core", 60.0, 3000.0, ("leakage-current", "stop")),
        ("C", 110.0, None, None),
    ],
)
def test_volts_on_the_bare_iron_are_a_ghost_only_once_amps_say_so(point, volts, meter_ohms, told):
    """A winding's end is known to float; the iron is what somebody holds. IEC 60364-4-41."""
    reading = {**ghost(volts, meter_ohms), "from": point}

    assert found(acts.leakage, {k: v for k, v in reading.items() if v is not None}) == told


@pytest.mark.parametrize(
    ("amps", "minute", "codes"),
    [
        (0.1e-3, 5, []),
        (0.3e-3, 5, ["leakage-current"]),
        (0.1e-3, 1, ["leakage-current"]),  # read before the volts: it answers nothing newer
        (0.1e-3, None, ["leakage-current"]),
    ],
)
def test_later_amps_from_the_iron_settle_its_volts(amps, minute, codes):
    """A tenth of a milliampere: a ghost. Three tenths: a leak, told by its own amps."""
    volts = {**ghost(110.0, 10e6), "from": "core", "at": "2026-05-02T10:03:00+01:00"}
    amps_read = {**leak(amps), "from": "core"}
    if minute is not None:
        amps_read["at"] = f"2026-05-02T10:0{minute}:00+01:00"
    told = record([volts, amps_read], leads="ABCDE")

    assert [f.code for f in acts.leakage(told, belief([PRIMARY, OUTPUT]))] == codes


@pytest.mark.parametrize(("volts", "both"), [(0.44, True), (0.46, False)])
def test_one_winding_has_one_source_behind_it(volts, both):
    """0.1 mA of leakage, and half as much again through 3 kΩ at the most: else leads were
    swapped.
    """
    told = record([leak(0.1e-3), ghost(volts, 3000.0)], leads="ABCDE")
    codes = [f.code for f in acts.leakage(told, belief([PRIMARY, OUTPUT]))]

    assert ("inconsistent-readings" not in codes) is both


def test_a_piece_that_leaks_is_not_called_screened():
    rows = [
        {"kind": "core_proof", "ohms": 0.1},
        ("A", "B", 3.8),
        ("C", "D", 4.3),
        ("A", "core", "open"),
        ("C", "core", "open"),
        ("A", "C", "open"),
        leak(3.8e-3),
    ]
    ident = identify(parse_record(piece("ABCD", rows, supply={"volts": 230, "hertz": 50})))

    assert ident.verdict == "condemned"
    assert "not isolating" in ident.faults[0].sentence


# ------------------------------------------------------------------ zeros


@pytest.mark.parametrize(
    ("reading", "told"),
    [
        (ratio("AB", 230.0, "CD", 0.0), ("unexpected-zero", "caution")),
        (ratio("AB", 230.0, "CD", 24.0), None),
        (ratio("AB", 2.0, "CD", 0.0), None),  # 0.2 V on a meter that shows tenths
        ({"kind": "no_load", "driven": ["A", "B"], "volts": 184.0, "amps": 0.0}, "note"),
        ({"kind": "no_load", "driven": ["A", "B"], "volts": 183.0, "amps": 0.0}, None),
        ({"kind": "no_load", "driven": ["A", "B"], "volts": 230.0, "amps": 0.1}, None),
    ],
)
def test_a_zero_is_not_believed_before_the_meter_is_proved(reading, told):
    seen = found(acts.zeros, reading)

    assert seen == (("unexpected-zero", "note") if told == "note" else told)


@pytest.mark.parametrize(
    ("readings", "word"),
    [
        ([], "screened"),
        ([ratio("AB", 230.0, "CD", 13.0)], "proved"),
        ([ratio("CD", 13.0, "AB", 228.0)], "screened"),  # the wrong winding driven
        ([{"kind": "no_load", "driven": ["A", "B"], "volts": 230.0, "amps": 0.045}], "proved"),
        ([{"kind": "no_load", "driven": ["A", "B"], "volts": 230.0, "amps": 0.0}], "screened"),
        ([ratio("AB", 24.0, "CD", 1.356)], "screened"),
    ],
)
def test_what_proves_a_piece(readings, word):
    """The primary itself at eight tenths or more of its volts, and a figure that is not nought."""
    told = piece("ABCD", [*MAINS, *readings], supply={"volts": 230, "hertz": 50}, nameplate=PLATE)

    assert identify(parse_record(told)).verdict == word


@pytest.mark.parametrize(
    ("readings", "word"),
    [
        ([ratio("AB", 230.0, "CD", 3.2)], "screened"),
        ([{"kind": "no_load", "driven": ["A", "B"], "volts": 230.0, "amps": 1.6}], "screened"),
        (
            [
                {
                    "kind": "no_load",
                    "driven": ["A", "B"],
                    "volts": 230.0,
                    "amps": 1.6,
                    "watts": 70.0,
                }
            ],
            "proved",
        ),
    ],
)
def test_a_piece_with_an_hv_winding_asks_more(readings, word):
    """Amps at no load, and watts or the volts of another winding."""
    rows = [*OVEN, BOND, ratio(("E", "core"), 42.0, "AB", 4.6), *readings]
    told = piece("ABCDE", rows, supply={"volts": 230, "hertz": 50}, **KNOWN_OVEN)

    assert identify(parse_record(told)).verdict == word


# ------------------------------------------------------------------ unsafe acts

METERS = [{"id": "M1", "title": "pocket", "category": "CAT II", "max_volts_ac": 600.0}]


@pytest.mark.parametrize(
    ("reading", "words"),
    [
        (ratio("AB", 230.0, ("E", "core"), 601.0, meter="M1"), "not rated above 600 V"),
        (ratio("AB", 230.0, ("E", "core"), 599.0, meter="M1"), None),
        (ratio("AB", 230.0, ("E", "core"), 1001.0), "an unknown meter"),
        (ratio("AB", 230.0, ("E", "core"), 999.0), None),
        (ratio("CD", 6.3, "AB", 60.0), "winding of few volts"),
        (ratio("CD", 0.68, "AB", 6.5), None),
        (
            {"kind": "insulation", "between": ["A", "B"], "ohms": 1e6, "test_volts": 500.0},
            "tests nothing",
        ),
        (
            {"kind": "insulation", "between": ["A", "C"], "ohms": 1e9, "test_volts": 500.0},
            None,
        ),
        (
            {
                "kind": "short_circuit",
                "driven": ["A", "B"],
                "shorted": [["C", "D"]],
                "volts": 115.0,
                "amps": 9.0,
            },
            "is no test",
        ),
        (
            {
                "kind": "short_circuit",
                "driven": ["A", "B"],
                "shorted": [["C", "D"]],
                "volts": 114.0,
                "amps": 9.0,
            },
            None,
        ),
    ],
)
def test_a_reading_that_could_have_hurt_is_answered(reading, words):
    """It is kept, marked, and told another way; IEC 61010-1 for the meters."""
    made = acts.unsafe(
        record([reading], leads="ABCDE", meters=METERS), belief([PRIMARY, OUTPUT, HV])
    )

    assert [f.severity for f in made] == (["note"] if words else [])
    assert not words or words in made[0].sentence


# ------------------------------------------------------------------ capacitor, design, changes


@pytest.mark.parametrize(
    ("ohms", "charged"), [(6.9e6, False), (7.1e6, True), (12.9e6, True), (13.1e6, False)]
)
def test_ten_megohms_to_an_ovens_core_are_its_capacitors_bleeder(ohms, charged):
    """9 to 12 MΩ, with a fifth either way. REF-R-T3."""
    told = record([("C", "core", ohms)], declared_family="microwave")
    made = leaks.bleeder(told, belief([PRIMARY, OUTPUT]))

    assert bool(made) is charged
    assert not charged or made[0].severity == "stop"


def test_a_bleeder_is_not_told_as_damp():
    """Drying a charged capacitor discharges nothing."""
    rows = [*(r for r in OVEN if r != ("C", "core", "open")), ("C", "core", 10.2e6)]
    ident = identify(parse_record(piece("ABCDE", rows, supply={"volts": 230, "hertz": 50})))
    step = next_steps(ident)[0]

    assert [f.code for f in ident.faults if f.severity == "stop"] == ["capacitor-connected"]
    assert "capacitor" in step.title
    assert "warm" not in step.do


def test_a_piece_without_an_oven_has_no_bleeder():
    assert not leaks.bleeder(record([("C", "core", 10e6)]), belief([PRIMARY, OUTPUT]))


MAINS_PAIR_OPEN = [
    {"kind": "core_proof", "ohms": 0.1},
    ("C", "D", 0.4),
    ("A", "C", "open"),
    ("B", "D", "open"),
    ("A", "core", "open"),
    ("B", "core", "open"),
    ("C", "core", "open"),
]


@pytest.mark.parametrize(
    ("ohms", "charged"), [(79e3, False), (81e3, True), (1.19e6, True), (1.21e6, False)]
)
def test_a_fraction_of_a_megohm_across_a_mains_pair_is_a_filters_bleeder(ohms, charged):
    """0.1 to 1 MΩ, with a fifth either way. Common practice."""
    ident = identify(parse_record(piece("ABCD", [*MAINS_PAIR_OPEN, ("A", "B", ohms)])))
    found = [f for f in ident.faults if f.code == "filter-connected"]

    assert bool(found) is charged
    assert not charged or (found[0].severity, found[0].leads) == ("stop", ("A", "B"))


def test_a_filter_is_discharged_before_its_pair_is_read_again():
    """Not dried, and no other pair read first: a plain mains piece has a capacitor there too."""
    rows = [*MAINS_PAIR_OPEN, ("A", "B", 470e3)]
    ident = identify(parse_record(piece("ABCD", rows, declared_family="mains")))
    first, second = next_steps(ident)

    assert first.title == "First the capacitor"
    assert second.leads["between"] == ("A", "B")
    assert "filter discharged" in second.do


def test_kilohms_between_two_windings_are_no_filter():
    """A–C joins two windings that conduct: it is insulation that leaks."""
    rows = [*OVEN, ("A", "C", 470e3)]
    codes = [f.code for f in identify(parse_record(piece("ABCDE", rows))).faults]

    assert "filter-connected" not in codes
    assert "insulation-low" in codes


@pytest.mark.parametrize(
    ("concerns", "severity"), [("", "caution"), ("A-core", "caution"), ("D-core", "note")]
)
def test_an_output_on_the_core_is_asked_about(concerns, severity):
    """Extra-low voltage with protective earth, a centre tap for a site: by design, where somebody
    says so. IEC 61558-2-23 from memory.
    """
    said = [{"kind": "bonded-by-design", "concerns": concerns, "text": "as on its plate"}]
    rows = [
        {"kind": "core_proof", "ohms": 0.1},
        ("A", "B", 10.3),
        ("C", "D", 0.16),
        ("D", "core", 0.0),
        ("C", "core", 0.16),
        ("A", "core", "open"),
        ("A", "C", "open"),
    ]
    told = piece(
        "ABCD",
        rows,
        supply={"volts": 230, "hertz": 50},
        nameplate={"primary_volts": 230.0, "secondary_volts": 24.0, "va": 100.0},
        statements=said,
    )
    made = [f for f in identify(parse_record(told)).faults if f.code == "shorted-to-core"]

    assert [f.severity for f in made] == [severity]
    assert "by design" in made[0].sentence.lower()


def test_windings_cut_out_retire_their_leads():
    """They are not asked for again."""
    cut = [{"id": "c1", "what": "winding-removed", "at": "2026-05-09T15:00:00+01:00"}]
    cut[0]["leads"] = ["C", "D", "E"]
    told = piece("ABCDE", [("A", "B", 1.3)], supply={"volts": 230, "hertz": 50}, changes=cut)
    ident = identify(parse_record(told))

    assert [lead.id for lead in ident.record.leads] == ["A", "B"]
    assert ident.topology.untested == ()


def test_the_owners_own_turns_are_no_heater():
    """Two turns of cable on an oven's core: a low-voltage winding of any volts."""
    rows = [
        ("A", "B", 1.5),
        {"kind": "dc_drop", "across": ["G", "H"], "volts": 0.0023, "amps": 10.0},
        {"kind": "turns", "across": ["G", "H"], "turns": 2.0},
        ratio("AB", 24.0, "GH", 0.178),
    ]
    told = piece(
        "ABGH",
        rows,
        supply={"volts": 230, "hertz": 50},
        declared_family="microwave",
        changes=[{"id": "c1", "what": "rewound", "at": "2026-05-01T10:00:00+01:00"}],
        nameplate={"primary_volts": 230.0},
    )
    for n, reading in enumerate(told["readings"]):
        reading["at"] = f"2026-05-02T10:0{n}:00+01:00"
    new = identify(parse_record(told)).windings[1]

    assert new.role == "lv-secondary"
    assert new.volts.low <= 1.7 <= new.volts.high


# ------------------------------------------------------------------ temperature, taps, words


@pytest.mark.parametrize(
    ("celsius", "ohms"), [(None, 1.74), (20.0, 1.74), (75.0, 1.431), (0.0, 1.888)]
)
def test_copper_is_taken_to_twenty_degrees(celsius, ohms):
    """R20 = R / (1 + 0.00393 (t − 20)). REF-W-01, IEC 60028."""
    (reading,) = record(
        [{"kind": "dc_drop", "across": ["A", "B"], "volts": 1.74, "amps": 1.0, "celsius": celsius}]
    ).standing

    assert ohms_of(reading).ohms == pytest.approx(ohms, abs=0.002)


UNIVERSAL = {"A": 0.0, "B": 100 / 240, "C": 0.5, "D": 220 / 240, "E": 1.0}
"""A primary of 0/100/120/220/240 V."""


@pytest.mark.parametrize(
    ("supply", "fed"),
    [(100, ("A", "B")), (120, ("A", "C")), (220, ("A", "D")), (240, ("A", "E")), (230, "ADE")],
)
def test_a_universal_primary_is_fed_from_its_common_end(supply, fed):
    """To the tap nearest in ratio among those that bear it: 110 % of volts per hertz at most."""
    taps = tuple(Tap(x, UNIVERSAL[x], 0.01) for x in "BCD")
    made = coil("AE", 100.0, None, taps, positions={x: 100 * p for x, p in UNIVERSAL.items()})
    first = feeds(record(supply={"volts": supply, "hertz": 50}), made)[0]

    assert set(first.points) <= set(fed)
    assert first.points[0] == "A"


def test_what_does_not_bear_the_supply_is_not_fed():
    """208 and 240 V on 240 V: the whole; on 277 V nothing usual fits below 252 V, so the whole."""
    made = coil("AC", 41.0, None, (Tap("B", 208 / 240, 0.01),), positions={"A": 0, "B": 35.5})

    assert feeds(record(supply={"volts": 240, "hertz": 60}), made)[0].points == ("A", "C")


@pytest.mark.parametrize(
    ("text", "for_it", "against"),
    [
        ("constant voltage transformer 250 VA", "resonant", "lv"),
        ("line transformer 600 : 600 ohm", "other", "isolating"),
        ("magnetron supply", "oven", "lv"),
        ("110 V CTE 2 kVA", "lv", "other"),
        ("insect killer 4.5 kV", "igniter", "sign"),
        ("0-260 V 2.5 A", "variable", "lv"),
        ("three phase", "other", "lv"),
    ],
)
def test_words_of_a_plate_speak_for_a_kind(text, for_it, against):
    told = record(nameplate={"text": text})

    assert word_clues(told, for_it) == (3.0 if for_it == "resonant" else 0.0)
    assert word_clues(told, against) == -4.0
    beside = record(title=text)
    assert word_clues(beside, against) == -1.5


@pytest.mark.parametrize(("plate", "inside"), [(10e3, True), (1499.0, False), (1500.0, True)])
def test_a_plate_of_kilovolts_states_open_volts(plate, inside):
    """T-15: a sign transformer's volts are of its open output; lesser plates carry loaded volts."""
    told = record(nameplate={"secondary_volts": plate}).nameplate
    (row,) = (r for r in _of_plate(told) if r.kind == "plate output")

    assert (row.sd < 0.05) is inside


def test_a_control_transformer_with_its_plate_is_a_mains_part():
    """400 V on 230 V: under-fluxed, and its outputs so much lower."""
    rows = [("A", "B", 61.8), ("C", "D", 0.33), ("A", "C", "open"), ("A", "core", "open")]
    plate = {"primary_volts": 400.0, "hertz": 50.0, "secondary_volts": 24.0, "va": 100.0}
    told = piece("ABCD", rows, supply={"volts": 230, "hertz": 50}, nameplate=plate)
    ident = identify(parse_record(told))

    assert ident.families["mains"] > 0.9
    assert ident.windings[1].volts.low < 24 * 230 / 400 * 1.08 < ident.windings[1].volts.high
    assert not [f for f in ident.faults if f.severity != "note"]


def test_kinds_of_no_usual_family_are_known():
    """An inverter oven's ferrite, an insect killer, a ferroresonant part: named where something
    speaks for them, and never fed.
    """
    rows = [("A", "B", 0.0), ("C", "D", 0.0), ("E", "F", 14.4)]
    rows += [(x, "core", "open") for x in "ACE"]
    told = piece(
        "ABCDEF",
        [{"kind": "core_proof", "ohms": 0.1}, *rows],
        supply={"volts": 230, "hertz": 50},
        declared_family="microwave",
        core={"mass_kg": 0.55},
    )
    ident = identify(parse_record(told))

    assert ident.belief.kind("inverter") > 0.1
    assert "ferrite" in [h.code for h in hazards(ident)]


# ------------------------------------------------------------------ belief belied, breaker, metal


@pytest.mark.parametrize(
    ("said", "chance", "severity"),
    [
        ("microwave", 0.049, "caution"),
        ("microwave", 0.05, None),
        ("choke", 0.01, "note"),
        (None, 0.0, None),
    ],
)
def test_an_owner_who_is_belied_is_asked_for_a_slip(said, chance, severity):
    """Not answered with another family at 95 %."""
    made = belief([PRIMARY, OUTPUT], families={said: chance} if said else {})
    found_so = misfits.belied(record(declared_family=said), made)

    assert [f.severity for f in found_so] == ([severity] if severity else [])
    assert not severity or "ten times" in found_so[0].sentence


@pytest.mark.parametrize(("amps", "told"), [(0.86, False), (0.88, True), (None, False)])
def test_a_breaker_is_no_fuse_for_a_small_piece(amps, told):
    """Four times 50 VA at 230 V are 0.87 A."""
    supply = {"volts": 230, "hertz": 50} | ({"breaker_amps": amps} if amps else {})
    made = belief([PRIMARY, OUTPUT], voltamperes=Quantity(40.0, 30.0, 50.0, ("plate",)))
    codes = [h.code for h in hazards_of(record(supply=supply), made, ())]

    assert ("breaker" in codes) is told


def test_beside_the_breaker_a_fuse_of_half_as_much_again_is_named():
    """40 VA at 230 V are 174 mA: 261 mA."""
    made = belief([PRIMARY, OUTPUT], voltamperes=Quantity(40.0, 30.0, 50.0, ("plate",)))
    supply = {"volts": 230, "hertz": 50, "breaker_amps": 16.0}
    said = [h.sentence for h in hazards_of(record(supply=supply), made, ()) if h.code == "breaker"]

    assert len(said) == 1
    assert "261 mA" in said[0]


def test_aluminium_counts_for_less_than_its_section():
    """1.64 times copper's ohms. REF-W-01."""
    rows = [("A", "B", 5.0)]
    metal = [{"id": "A", "wire_mm": 1.0, "material": "aluminium"}, {"id": "B"}]
    copper = [{"id": "A", "wire_mm": 1.0}, {"id": "B"}]

    def section(leads):
        told = parse_record(piece(leads, rows))
        (wire,) = (r for r in observations(told, find_windings(told)) if r.kind == "wire")
        return wire.value

    assert section(copper) - section(metal) == pytest.approx(math.log(1.64))


def test_touching_windings_leave_their_roles_in_doubt():
    """48 Ω through two windings in series is no mains winding to be sure of."""
    rows = [("A", "B", 1.4), ("C", "D", 0.0), ("E", "core", 96.0), ("A", "E", 48.0)]
    rows += [("B", "E", 48.9), ("A", "core", 49.0), ("B", "core", 49.6), ("C", "core", "open")]
    ident = identify(parse_record(piece("ABCDE", rows, supply={"volts": 230, "hertz": 50})))

    assert ident.stopped
    assert every(w.mains_chance <= 0.5 for w in ident.windings if "E" in w.coil.members)
    assert "capacitor" in [h.code for h in hazards(ident)]


@pytest.mark.parametrize(
    ("rows", "told"),
    [
        ([("C", "D", 96e3)], True),
        ([("C", "D", 199e3)], True),
        ([("C", "D", 201e3)], False),
        ([("C", "core", 85e3)], True),
        ([("A", "C", 85e3), ("C", "D", 5.0)], False),
    ],
)
def test_many_kilohms_may_be_a_winding_of_the_finest_wire(rows, told):
    """X-ray and voltage transformers: 20 to 100 kΩ; between windings it is a leak."""
    ident = identify(
        parse_record(piece("ABCD", [("A", "B", 2.0), *rows], supply={"volts": 230, "hertz": 50}))
    )
    said = [h.reason for h in hazards(ident) if "finest wire" in h.reason]

    assert bool(said) is told


@pytest.mark.parametrize(("kilograms", "told"), [(0.14, True), (1.3, False)])
def test_iron_far_too_light_is_no_mains_iron(kilograms, told):
    """2.6 Ω on 120 V at 140 g: 400 Hz, or ferrite."""
    made = identify(
        parse_record(
            piece(
                "ABCD",
                [("A", "B", 2.6), ("C", "D", 0.18), ("A", "C", "open")],
                supply={"volts": 120, "hertz": 60},
                core={"mass_kg": kilograms},
            )
        )
    )

    assert ("odd-iron" in [h.code for h in hazards(made)]) is told


@pytest.mark.parametrize(("volts", "told"), [(0.0332, False), (0.0335, True)])
def test_a_part_of_the_path_is_hot_from_ten_watts(volts, told):
    """At 300 A: 33.3 mV. The last reading of a part counts, of all parts the worst is told."""
    path = {"kind": "path", "amps": 300.0}
    readings = [
        {**path, "part": "cable", "volts": 0.030},
        {**path, "part": "lug", "volts": 0.9},
        {**path, "part": "lug", "volts": volts},
    ]
    made = hot_joints(record(readings, leads="ABCDE"), belief([PRIMARY, OUTPUT]))

    assert [(f.severity, f.sentence[:7]) for f in made] == [("note", "Lug has")] * told


@pytest.mark.parametrize(("volts", "unsafe"), [(990.0, False), (1010.0, True)])
def test_direct_volts_on_an_unknown_meter_are_an_unsafe_act(volts, unsafe):
    """Above what a meter in the hand is rated for."""
    direct = {"kind": "direct", "driven": ["A", "B"], "driven_volts": 230.0, "rectifier": "bridge"}
    made = found(acts.unsafe, {**direct, "rectified": ["C", "D"], "direct_volts": volts})

    assert (made is not None) is unsafe
