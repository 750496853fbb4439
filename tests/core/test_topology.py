"""Windings from ohms: groups, order, taps, the core, and the reading that does not add up."""

import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.steps.next_step import next_steps
from greyfell.core.wiring.lines import LineFit, _telling
from greyfell.core.wiring.topology import find_windings
from tests.conftest import TRUTH, case, piece

CLEAN = [
    k[5:8]
    for k, v in TRUTH.items()
    if all(w["state"] == "strict" for w in v["windings"]) and v["topology_identifiable"]
]


def windings(readings, leads="ABCDEF", **more):
    """Find the windings of a hand-made record."""
    return find_windings(parse_record(piece(leads, readings, **more)))


@pytest.mark.parametrize("number", CLEAN)
def test_public_cases_group_and_order(number):
    """Leads, ends and taps as the truth has them (independent physical model)."""
    told, found = TRUTH[f"case-{number}.json"], find_windings(case(number))
    core = {"core", *told["core_leads"]}

    def plain(names):
        return frozenset("core" if x in core else x for x in names)

    want = {plain([*w["leads"], *(t["lead"] for t in w["taps"])]) for w in told["windings"]}
    assert {
        plain([*c.leads, *(t.lead for t in c.taps)]) for c in found.coils if not c.broken
    } == want
    assert set(found.core_leads) == set(told["core_leads"])
    assert set(found.loose) == set(told["loose"])


def test_taps_stand_in_order_along_a_winding():
    """Ohms add up along a winding: the largest pair are the ends, the rest taps in order."""
    found = windings(
        [
            ("A", "B", 4.0),
            ("B", "C", 6.0),
            ("A", "C", 10.0),
            ("C", "D", 2.0),
            ("A", "D", 12.0),
            ("B", "D", 8.0),
        ],
        "ABCD",
    )

    (coil,) = found.coils
    assert coil.leads == ("A", "D")
    assert [t.lead for t in coil.taps] == ["B", "C"]
    assert [t.fraction for t in coil.taps] == pytest.approx([4 / 12, 10 / 12], abs=0.02)


def test_some_pairs_are_enough():
    """Any subset that joins the leads makes them one winding; its order may still be asked."""
    found = windings([("A", "B", 50.0), ("B", "C", 52.0)], "ABC")

    assert len(found.coils) == 1
    assert set(found.coils[0].members) == {"A", "B", "C"}


def test_probes_are_taken_off():
    """A reading at the probes is below resolution, not an error."""
    found = windings(
        [{"kind": "resistance", "between": ["A", "B"], "ohms": 0.4, "probe_ohms": 0.4}], "AB"
    )

    assert found.coils[0].ohms.low == 0
    assert not found.coils[0].resolved


def test_probes_never_read_more_than_the_least_reading():
    """No pair reads less than the probes alone: the least reading bounds them (common practice)."""
    low = {
        "kind": "resistance",
        "between": ["A", "B"],
        "ohms": 0.03,
        "percent": 0.4,
        "digits": 0.02,
        "meter": "M1",
    }
    high = {
        "kind": "resistance",
        "between": ["C", "D"],
        "ohms": 0.22,
        "percent": 0.4,
        "digits": 0.02,
        "meter": "M1",
    }

    found = windings([low, high], "ABCD")

    assert found.coils[1].resolved
    assert found.coils[1].ohms.low > 0.1


@pytest.mark.parametrize(
    ("readings", "bond", "leads"),
    [
        ([("E", "core", 96.0)], "end", ("E", "core")),
        ([("C", "core", 3560.0), ("D", "core", 3540.0), ("C", "D", 7080.0)], "middle", ("C", "D")),
        ([("E", "F", 112.6), ("E", "core", 112.4), ("F", "core", 0.0)], "end", ("F", "E")),
    ],
)
def test_where_a_winding_meets_the_core(readings, bond, leads):
    """At an end, in the middle, or at an end that has a lead of its own."""
    coil = next(c for c in windings(readings, "CDEF").coils if c.bond)

    assert coil.bond == bond
    assert set(coil.leads) == set(leads)


@pytest.mark.parametrize(
    ("one", "two", "bond", "touches"),
    [
        (3560.0, 3400.0, "middle", False),
        (300.0, 250.0, "middle", False),
        (478.0, 1182.0, None, True),
        (80.0, 300.0, None, True),
    ],
)
def test_the_core_inside_a_winding_is_its_bond_or_a_touch(one, two, bond, touches):
    """Like halves are a winding bonded in its middle; unlike ones are one winding that touches the
    core where it must not.
    """
    found = windings([("A", "core", one), ("B", "core", two), ("A", "B", one + two)], "AB")

    assert [c.bond for c in found.coils] == [bond]
    assert any(j.to == "core" and set(j.leads) == {"A", "B"} for j in found.joints) is touches


def test_an_earth_wire_alone_is_the_core_whatever_the_probes():
    """Probes not written down: a lead with nothing but the core behind it is a core lead, at up to
    half an ohm of doubt.
    """
    assert windings(
        [("A", "B", 1.6), {"kind": "resistance", "between": ["C", "core"], "ohms": 0.6}], "ABC"
    ).core_leads == ("C",)


def test_a_short_to_the_core_is_a_joint():
    """A winding of two leads that reads ohms to the core touches it."""
    found = windings(
        [
            ("A", "B", 1.3),
            ("A", "core", 2.1),
            ("B", "core", 1.8),
            ("E", "core", 96.0),
            ("A", "E", 98.0),
            ("B", "E", 97.7),
        ],
        "ABE",
    )

    assert any(j.to == "core" and {"A", "B"} <= set(j.leads) for j in found.joints)


def test_windings_shorted_to_each_other_are_a_joint():
    """A few-ohm winding hanging on a kilohm winding is no tap of it."""
    found = windings(
        [
            ("A", "B", 0.8),
            ("C", "D", 3227.0),
            ("A", "C", 2729.0),
            ("B", "C", 2730.0),
            ("A", "D", 498.0),
            ("B", "D", 499.0),
        ],
        "ABCD",
    )

    assert any(j.to == "windings" for j in found.joints)
    assert {frozenset(c.members) for c in found.coils} == {frozenset("AB"), frozenset("CD")}


@pytest.mark.parametrize(
    ("wrong", "value", "slip"),
    [
        ("r3", 100.0, "ten times too high"),
        ("r3", 1.0, "ten times too low"),
        ("r2", 60.0, "ten times"),
    ],
)
def test_the_reading_that_breaks_additivity_is_named(wrong, value, slip):
    """Named with the likely slip, and not averaged in."""
    rows = [
        ["A", "B", 4.0],
        ["B", "C", 6.0],
        ["A", "C", 10.0],
        ["C", "D", 2.0],
        ["A", "D", 12.0],
        ["B", "D", 8.0],
    ]
    rows[int(wrong[1]) - 1][2] = value

    found = windings([tuple(r) for r in rows], "ABCD")

    assert [c.reading for c in found.contradictions] == [wrong]
    assert slip in found.contradictions[0].slip
    assert found.coils[0].ohms.value == pytest.approx(12.0, abs=0.5)


def test_a_slip_of_the_decimal_point_takes_the_probes_with_it():
    """0.32 Ω at the meter with 0.12 Ω of probes, written 3.2: less its probes it is fifteen times
    too high, and the figure at the meter ten times.
    """
    rows = [("CD", 0.22), ("CE", 3.2), ("DE", 0.21)]
    told = [
        {"kind": "resistance", "between": list(pair), "ohms": ohms, "probe_ohms": 0.12}
        for pair, ohms in rows
    ]

    (odd,) = windings(told, "CDE").contradictions

    assert (odd.reading, odd.slip) == ("r2", "ten times too high: range or decimal point")
    assert odd.expected == pytest.approx(0.2, abs=0.01)


def test_open_on_a_low_range_contradicts_nothing():
    """Open on 2 kΩ says nothing about 9 kΩ."""
    found = windings(
        [
            ("A", "B", 9000.0),
            {"kind": "resistance", "between": ["A", "B"], "ohms": "open", "range_ohms": 2000.0},
        ],
        "AB",
    )

    assert not found.contradictions


def test_open_against_conducting_is_a_contradiction():
    """The same pair cannot be both."""
    found = windings([("A", "B", 9.0), ("A", "B", "open")], "AB")

    assert found.contradictions[0].slip == "open against conducting"


def test_loose_pairs_are_taken_for_one_broken_winding():
    """Two leads that conduct to nothing, tested against the rest."""
    readings = [
        ("A", "C", "open"),
        ("A", "D", "open"),
        ("B", "C", "open"),
        ("B", "D", "open"),
        ("A", "B", "open"),
        ("C", "D", 0.5),
        ("A", "core", "open"),
        ("B", "core", "open"),
    ]

    found = windings(readings, "ABCD")

    assert found.loose == ("A", "B")
    assert any(c.broken and set(c.leads) == {"A", "B"} for c in found.coils)


@pytest.mark.parametrize("left_out", ["B", "core"])
def test_what_was_not_read_yet_is_untested_and_not_open(left_out):
    """At the bench readings come one by one: A against all but its mate, or all but the iron, is no
    broken winding yet.
    """
    readings = [("C", "D", 0.5), *(("A", x, "open") for x in ("C", "B", "core") if x != left_out)]
    leads = "ABCD" if left_out == "B" else "ACD"
    found = windings([r for r in readings if set(r[:2]) <= {*leads, "core"}], leads)

    assert found.loose == ()
    assert "A" in found.untested
    assert not any(c.broken for c in found.coils)


@pytest.mark.parametrize(
    ("rows", "core_side"),
    [
        ([("F", "D", 112.6), ("D", "core", 112.4)], {"F"}),
        ([("F", "D", 112.6), ("D", "core", 112.4), ("F", "core", 224.8)], set()),
    ],
    ids=["F stands on the core", "F is the other end"],
)
def test_a_lead_as_far_as_the_core_stands_on_it(rows, core_side):
    """Unread against the core: the shorter line is the likelier; read against it: the reading
    decides.
    """
    (coil,) = windings(rows, "DF").coils

    at = coil.positions.get("core", coil.positions[coil.leads[1]])
    assert {x for x in "F" if abs(coil.positions.get(x, at) - at) < 2.0} == core_side


def test_a_stripe_marks_the_tap_where_ohms_cannot():
    """A stripe is often the centre tap of its plain partner (common practice)."""
    leads = [
        {"id": "A", "colour": "green"},
        {"id": "B", "colour": "green", "stripe": "yellow"},
        {"id": "C", "colour": "green"},
    ]

    found = windings([("A", "B", 0.1), ("B", "C", 0.1), ("A", "C", 0.1)], leads)

    assert found.coils[0].taps[0].lead == "B"


@settings(max_examples=60, deadline=None)
@given(st.randoms(use_true_random=False), st.sampled_from(CLEAN))
def test_order_of_leads_and_readings_changes_nothing(rng: random.Random, number):
    """Permuting the record's lists leaves the wiring as it was."""
    record = case(number)
    shuffled = record.model_copy(
        update={
            "leads": rng.sample(record.leads, len(record.leads)),
            "readings": rng.sample(record.readings, len(record.readings)),
        }
    )

    def shape(found):
        return {
            (frozenset(c.leads), frozenset(t.lead for t in c.taps), c.bond) for c in found.coils
        }

    assert shape(find_windings(record)) == shape(find_windings(shuffled))


@pytest.mark.parametrize("factor", [0.5, 2.0])
@pytest.mark.parametrize("number", ["001", "004", "005", "028", "033"])
def test_doubling_all_ohms_keeps_the_wiring(number, factor):
    """Only ratios of ohms order a winding."""
    record = case(number)
    scaled = [
        r.model_copy(update={"ohms": r.ohms * factor, "probe_ohms": (r.probe_ohms or 0.0) * factor})
        if r.kind == "resistance" and r.ohms != "open" and 2.0 < r.ohms < 2e4
        else r
        for r in record.readings
    ]

    after = find_windings(record.model_copy(update={"readings": scaled}))

    assert {frozenset(c.members) for c in after.coils} == {
        frozenset(c.members) for c in find_windings(record).coils
    }


def test_two_readings_that_share_a_lead_ask_for_the_third_pair():
    """A–B 1678 Ω and A–C 1529 Ω: A in the middle of 3207 Ω, or C a tap 149 Ω from B. Taken for the
    first, 12 V put on B–C would be on 149 Ω of them.
    """
    rows = [("A", "B", 1678), ("A", "C", 1529)]
    document = piece("ABC", rows)
    (coil,) = find_windings(parse_record(document)).coils
    step = next(s for s in next_steps(identify(parse_record(document))) if s.act == "order")

    assert set(coil.telling) == {"B", "C"} == set(step.leads["between"])


@pytest.mark.parametrize(("third", "tap"), [(149, "C"), (3207, "A")])
def test_the_third_pair_tells_which_lead_is_in_the_middle(third, tap):
    """The difference, or the sum."""
    rows = [("A", "B", 1678), ("A", "C", 1529), ("B", "C", third)]
    (coil,) = windings(rows, "ABC").coils

    assert coil.telling is None
    assert [t.lead for t in coil.taps] == [tap]


def test_volts_do_not_stand_for_the_third_pair():
    """11 V on A–B and 1 V on B–C make C the tap, and the ohms are taken for A in the middle: the
    order is asked for until it is read, and nothing is fed on it.
    """
    ratio = {"kind": "ratio", "driven": ["X", "Y"], "driven_volts": 12.0}
    read = [
        {**ratio, "sensed": list(pair), "sensed_volts": v} for pair, v in (("AB", 11), ("BC", 1))
    ]
    document = piece("ABCXY", [("A", "B", 1678), ("A", "C", 1529), ("X", "Y", 9), *read])

    assert find_windings(parse_record(document)).coils[0].telling is not None


@pytest.mark.parametrize(
    ("misfit", "off", "asked"),
    [(3.9, 0.6, True), (4.1, 0.6, False), (0.0, 0.45, False), (0.0, 0.55, True)],
)
def test_orders_that_fit_as_well_and_say_another_thing_are_asked_about(misfit, off, asked):
    """Another order counts within two standard deviations, and where an unread pair would read
    apart by a twentieth of the winding.
    """
    best = LineFit({"A": 0.0, "B": 4.0, "C": 10.0}, 1.0, 9.0, ())
    other = LineFit({"A": 0.0, "B": 4.0, "C": 10.0 - off}, 1.0 + misfit, 9.0, ())
    read = {frozenset("AB"): 4.0, frozenset("BC"): 6.0}

    assert _telling(best, [best, other], read) == (("A", "C") if asked else None)


def test_a_gate_waits_for_the_order_of_the_leads_it_feeds():
    """A screened 230 V part opens; the same with its primary's third pair unread does not."""
    whole = [("A", "B", 20.0), ("A", "C", 18.0), ("B", "C", 2.0)]
    reasons = {}
    for rows in (whole, whole[:2]):
        ident = identify(parse_record(piece("ABCDE", [*rows, ("D", "E", 0.5)])))
        reasons[len(rows)] = " ".join(live_gate(ident).reasons)

    assert "rests on a pair not read: ohms of B–C" in reasons[2]
    assert "rests on a pair" not in reasons[3]


def test_a_bias_tap_beside_the_centre_keeps_its_own_place():
    """Old valve sets tap the HV winding some volts beside its middle: of two taps near the middle
    the nearer is the centre, and both never share a place. Common practice.
    """
    readings = [
        {"kind": "core_proof", "ohms": 0.1},
        ("A", "B", 40.0),
        ("C", "F", 300.0),
        ("C", "D", 141.0),
        ("C", "E", 150.5),
        ("D", "E", 9.5),
        ("E", "F", 149.5),
        ("D", "F", 159.0),
        ("A", "C", "open"),
        ("A", "core", "open"),
        ("C", "core", "open"),
    ]
    ident = identify(parse_record(piece("ABCDEF", readings)))
    high = next(w for w in ident.windings if "C" in w.coil.members)
    kinds = {t.lead: t.kind for t in high.taps}
    places = {t.lead: t.fraction for t in high.taps}

    assert kinds == {"D": "tap", "E": "centre"}
    assert places["E"] == 0.5
    assert places["D"] == pytest.approx(0.468, abs=0.01)
