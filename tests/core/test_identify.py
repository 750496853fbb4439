"""What a piece is, how sure, what it puts out, what is wrong with it: on public cases and on pieces
made by hand.
"""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.family_names import FAMILIES
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import as_json, identify
from greyfell.core.telling.evidence_weights import weigh_evidence
from tests.conftest import OVEN, TRUTH, case, every, piece, truth


def found(readings, leads="ABCDE", **more):
    """Identify a hand-made record."""
    more.setdefault("supply", {"volts": 230, "hertz": 50})
    return identify(parse_record(piece(leads, readings, **more)))


@pytest.mark.parametrize("number", [k[5:8] for k, v in TRUTH.items() if v["family_identifiable"]])
def test_public_cases_get_their_family(number):
    """The family of every case whose record settles it (independent physical model)."""
    assert identify(case(number)).family == truth(number)["family"]


ROLES_KNOWN = [
    k[5:8] for k, v in TRUTH.items() if any(w["identifiable"]["role"] for w in v["windings"])
]


@pytest.mark.parametrize("number", ROLES_KNOWN)
def test_public_cases_get_their_roles(number):
    """The role of every winding whose record settles it."""
    ident, told = identify(case(number)), truth(number)
    known = [w for w in told["windings"] if w["identifiable"]["role"]]
    for w in known:
        mine = max(ident.windings, key=lambda v: len(set(v.coil.members) & set(w["leads"])))
        assert mine.role in {w["role"], *w["role_also"]}

    assert known


@pytest.mark.parametrize(
    "number", [k[5:8] for k, v in TRUTH.items() if any(f["detectable"] for f in v["faults"])]
)
def test_faults_that_the_record_shows_are_found(number):
    """Each fault put in by the cases' model and shown by the readings."""
    codes = {f.code for f in identify(case(number)).faults if f.severity != "note"}
    shown = [f for f in truth(number)["faults"] if f["detectable"]]

    assert shown
    assert every(codes & set(f["accept"]) for f in shown)


@pytest.mark.parametrize("number", [k[5:8] for k, v in TRUTH.items() if v["sound"]])
def test_sound_pieces_are_not_stopped(number):
    """A sound piece must almost never be stopped; of these none."""
    assert not identify(case(number)).stopped


@pytest.mark.parametrize("number", [k[5:8] for k in TRUTH])
def test_probabilities_sum_to_one_and_ranges_hold(number):
    """Families and roles sum to 1; no volts without range and basis."""
    ident = identify(case(number))

    assert sum(ident.families.values()) == pytest.approx(1.0)
    for w in ident.windings:
        assert sum(w.roles.values()) == pytest.approx(1.0)
        if w.volts is not None:
            assert w.volts.low <= w.volts.value <= w.volts.high
            assert w.volts.basis


def test_a_sound_oven_piece_is_named():
    """Ohms, bond and continuity of a 230 V oven transformer (bands: common practice, M-T4)."""
    ident = found(OVEN)
    roles = {w.coil.leads[0]: w.role for w in ident.windings}

    assert ident.family == "microwave"
    assert roles == {"A": "primary", "C": "filament", "E": "hv-secondary"}
    assert ident.verdict == "screened"
    hv = next(w for w in ident.windings if w.role == "hv-secondary")
    assert hv.volts.low < 2100 < hv.volts.high
    assert [h.code for h in hazards(ident)[:2]] == ["capacitor-first", "core-live"]


def test_an_open_to_core_without_a_proof_is_no_screening():
    """Open through varnish says nothing: without a core proof the verdict stays unknown."""
    assert found(OVEN[1:]).verdict == "unknown"


def test_an_open_to_core_on_a_low_range_is_no_screening():
    """Open on 2 kΩ counts as weak evidence."""
    low = [
        {"kind": "resistance", "between": [r[0], r[1]], "ohms": "open", "range_ohms": 2000.0}
        if isinstance(r, tuple) and r[2] == "open"
        else r
        for r in OVEN
    ]

    assert found(low).verdict == "unknown"


@pytest.mark.parametrize(
    ("driven", "volts", "sensed", "out"),
    [(("A", "B"), 10.0, ("E", "core"), 91.0), (("E", "core"), 100.0, ("A", "B"), 10.6)],
)
def test_either_school_of_ratio_gives_the_output(driven, volts, sensed, out):
    """Driven from the primary the reading is k·n; from the HV side n/k: the second is corrected by
    k² (domain rule).
    """
    ratio = {
        "kind": "ratio",
        "driven": list(driven),
        "driven_volts": volts,
        "sensed": list(sensed),
        "sensed_volts": out,
        "percent": 0.5,
        "digits": 0.0,
    }

    hv = next(w for w in found([*OVEN, ratio]).windings if w.role == "hv-secondary")

    assert hv.volts.low < 2110 < hv.volts.high
    assert hv.volts.relative < 0.1
    assert any("ratio" in b for b in hv.volts.basis)
    straight = 230 * (out / volts if driven == ("A", "B") else volts / out)
    if driven == ("E", "core"):
        assert hv.volts.value < straight * 0.99


def test_a_ratio_ten_times_off_is_named_and_not_believed():
    """The likelier explanation is a slip, and the volts stay near what ohms and family say."""
    ratio = {
        "kind": "ratio",
        "driven": ["A", "B"],
        "driven_volts": 10.0,
        "sensed": ["E", "core"],
        "sensed_volts": 9.1,
    }

    ident = found([*OVEN, ratio])

    assert "ratio-conflict" in {f.code for f in ident.faults}
    assert next(w for w in ident.windings if w.role == "hv-secondary").volts.value > 1500


@pytest.mark.parametrize(
    ("readings", "code", "severity"),
    [
        (
            [
                ("A", "B", 1.3),
                ("A", "core", 0.4),
                ("B", "core", 1.7),
                ("E", "core", 96.0),
                ("C", "D", 0.0),
            ],
            "shorted-to-core",
            "stop",
        ),
        (
            [("A", "B", 1.3), ("A", "core", 3e5), ("E", "core", 96.0), ("C", "D", 0.0)],
            "insulation-low",
            "stop",
        ),
        (
            [
                ("C", "D", 0.0),
                ("C", "core", 0.3),
                ("D", "core", 0.4),
                ("A", "B", 1.3),
                ("E", "core", 96.0),
            ],
            "shorted-to-core",
            "stop",
        ),
        (
            [
                ("A", "B", 1.3),
                ("A", "C", "open"),
                ("E", "core", 96.0),
                ("C", "D", "open"),
                ("D", "A", "open"),
                ("C", "E", "open"),
                ("D", "E", "open"),
            ],
            "open-winding",
            "stop",
        ),
    ],
)
def test_faults_made_by_hand(readings, code, severity):
    """Conducting to the core, leaking, open: each stops."""
    ident = found(readings)

    assert (code, severity) in {(f.code, f.severity) for f in ident.faults}
    assert ident.verdict == {"stop": "condemned", "caution": "doubtful"}[severity]


@pytest.mark.parametrize("ohms", [0.0, 0.5, 5.0, 50.0, 900.0, 3e4, 2e5, 1.5e6])
def test_a_primary_that_reaches_the_core_always_stops(ohms):
    """The worst error the program can make is to miss this; whatever the ohms, it stops."""
    rows = [
        ("A", "B", 1.3),
        ("A", "core", ohms + 0.4),
        ("B", "core", ohms + 0.9),
        ("E", "core", 96.0),
        ("C", "D", 0.0),
        ("A", "C", "open"),
        ("C", "core", "open"),
    ]

    ident = found(rows)

    assert ident.stopped
    assert any(
        {"A", "B"} & set(f.leads) and "core" in f.leads
        for f in ident.faults
        if f.severity == "stop"
    )


def test_two_leads_at_one_place_of_a_long_winding_are_asked_about():
    """A link left on, two wires on one tap, or another winding that touches it: C and E read as one
    place of ten ohms.
    """
    rows = [
        ("D", "B", 9.7),
        ("E", "C", 0.0),
        ("D", "C", 6.0),
        ("D", "E", 6.0),
        ("B", "C", 3.7),
        ("B", "E", 3.7),
        *((x, "core", "open") for x in "DEB"),
    ]
    told = [f for f in found(rows, "BCDE").faults if f.code == "windings-shorted"]

    assert [f.severity for f in told] == ["caution"]
    assert set(told[0].leads) == {"C", "E"}
    assert "small direct current" in told[0].sentence


@pytest.mark.parametrize(("branch", "shorted"), [(0.31, True), (0.0, False)])
def test_two_touching_windings_are_told_from_a_tapped_one(branch, shorted):
    """Leads that hang on branches of their own are two windings, where a line fits far worse;
    without them, one with taps.
    """
    rows = [
        ("G", "F", 0.12 + branch),
        ("A", "H", 0.02),
        ("F", "A", 0.12 + 0.82),
        ("F", "H", 0.12 + 0.83),
        ("G", "A", branch + 0.82),
        ("G", "H", branch + 0.83),
    ]
    fine = [
        {
            "kind": "resistance",
            "between": [x, y],
            "ohms": ohms,
            "probe_ohms": 0.0,
            "percent": 0.4,
            "digits": 0.02,
        }
        for x, y, ohms in rows
    ]
    if not shorted:
        fine = [{**r, "ohms": r["ohms"] if set(r["between"]) != {"G", "F"} else 0.12} for r in fine]

    assert (
        any(
            f.code == "windings-shorted" and f.severity == "stop"
            for f in found(fine, "AFGH").faults
        )
        is shorted
    )


@pytest.mark.parametrize(
    ("half", "few", "declared", "severity"),
    [
        (900.0, 9.0, "mains", "stop"),
        (3540.0, 3.0, None, None),
    ],
)
def test_an_hv_winding_that_may_be_the_mains_winding_is_no_plain_return(
    half, few, declared, severity
):
    """Bonded in its middle, but the odds of the primary are not small: said so. A sign piece beyond
    doubt is left in peace.
    """
    rows = [
        {"kind": "core_proof", "ohms": 0.1},
        ("A", "core", half),
        ("B", "core", half - 20),
        ("A", "B", 2 * half - 20),
        ("C", "D", few),
        ("A", "C", "open"),
    ]
    told = [
        f.severity
        for f in found(rows, "ABCD", declared_family=declared).faults
        if f.code == "shorted-to-core"
    ]

    assert told == ([severity] if severity else [])


@pytest.mark.parametrize("hv", [38.0, 59.7, 140.0])
def test_a_primary_end_at_the_core_is_no_core_lead(hv):
    """One end of the primary on the iron beside the HV winding's return: what looks like an earth
    wire is the mains winding.
    """
    rows = [
        {"kind": "core_proof", "ohms": 0.13},
        ("A", "core", 1.12),
        ("C", "core", 0.05),
        ("A", "C", 1.15),
        ("B", "core", hv),
        ("B", "C", hv - 0.1),
        ("A", "B", hv + 1.1),
    ]

    assert found(rows, "ABC").stopped


def test_insulation_is_judged_by_the_standard():
    """Under 2 MΩ at 500 V stops, under 7 MΩ warns (IEC 60335-1 and 61558-1, from memory)."""
    for ohms, severity in ((1e6, "stop"), (4e6, "caution"), (5e8, None)):
        test = {"kind": "insulation", "between": ["A", "core"], "ohms": ohms, "test_volts": 500}
        got = {f.severity for f in found([*OVEN, test]).faults if f.code == "insulation-low"}
        assert got == ({severity} if severity else set())


def test_a_single_tapped_winding_is_no_isolation():
    """One tapped winding may be an autotransformer: the hazard says so."""
    ident = found(
        [("A", "B", 1.0), ("B", "C", 1.5), ("A", "C", 2.5)], "ABC", core={"shape": "toroid"}
    )

    assert ident.family == "variable"
    assert "no-isolation" in {h.code for h in hazards(ident)}


def test_dual_primaries_are_fed_in_series_on_230():
    """Two equal mains windings: halves; in series on 230 V, in parallel on 120 V."""
    rows = [
        ("A", "B", 6.0),
        ("C", "D", 6.4),
        ("E", "F", 0.25),
        ("A", "C", "open"),
        ("A", "E", "open"),
        ("C", "E", "open"),
    ]
    for volts, each in ((230, 115.0), (120, 120.0)):
        ident = found(rows, "ABCDEF", supply={"volts": volts, "hertz": 50})
        halves = [w for w in ident.windings if w.role == "primary-half"]
        assert len(halves) == 2
        assert halves[0].volts.value == pytest.approx(each)
        assert set(ident.belief.fed) == set("ABCD")


def test_nothing_known_gives_no_numbers():
    """An empty record: no family above another, no windings, no volts, and never the word safe."""
    ident = found([], "AB")

    assert set(ident.families) == set(FAMILIES)
    assert ident.windings == ()
    assert ident.verdict == "unknown"
    assert hazards(ident)


def test_the_other_regions_piece_is_suspected():
    """An oven primary of 0.35 Ω on a 230 V bench: made for 120 V? The ohms suggest it, and the
    hazard says so.
    """
    rows = [
        ("A", "B", 0.35),
        ("C", "D", 0.0),
        ("E", "core", 70.0),
        ("A", "C", "open"),
        ("A", "E", "open"),
        ("C", "E", "open"),
    ]
    rows[0] = {
        "kind": "resistance",
        "between": ["A", "B"],
        "ohms": 0.35,
        "probe_ohms": 0.0,
        "percent": 0.5,
        "digits": 0.02,
    }
    rows.append(
        {
            "kind": "ratio",
            "driven": ["A", "B"],
            "driven_volts": 5.0,
            "sensed": ["E", "core"],
            "sensed_volts": 88.0,
        }
    )

    ident = found(rows)

    assert ident.belief.other_region > 0.5
    assert "other-mains" in {h.code for h in hazards(ident)}


def test_evidence_says_what_spoke_for_and_against():
    """Each group of evidence with its weight; a wrong belief of the owner weighs against."""
    record = parse_record(
        piece("ABCDE", OVEN, supply={"volts": 230, "hertz": 50}, declared_family="mains")
    )
    ident = identify(record)
    weights = {w.name: w.decibans for w in weigh_evidence(ident)}

    assert ident.family == "microwave"
    assert weights["ohms"] > 5
    assert weights["core bond"] > 3
    assert weights["owner's belief"] < 0


def test_striking_a_reading_is_never_having_had_it():
    """Evidence struck out takes no part in any conclusion."""
    ratio = {
        "kind": "ratio",
        "driven": ["A", "B"],
        "driven_volts": 10.0,
        "sensed": ["E", "core"],
        "sensed_volts": 91.0,
    }
    struck = piece(
        "ABCDE", [*OVEN, {**ratio, "struck": "wrong pair"}], supply={"volts": 230, "hertz": 50}
    )
    without = piece("ABCDE", OVEN, supply={"volts": 230, "hertz": 50})

    assert as_json(identify(parse_record(struck))) == as_json(identify(parse_record(without)))


@settings(max_examples=25, deadline=None)
@given(
    st.sampled_from(["001", "005", "020", "027", "028", "039", "060"]),
    st.randoms(use_true_random=False),
)
def test_the_order_of_readings_changes_no_conclusion(number, rng):
    """Same evidence, same answer."""
    record = case(number)
    shuffled = record.model_copy(
        update={"readings": rng.sample(record.readings, len(record.readings))}
    )
    a, b = identify(record), identify(shuffled)

    assert a.families == pytest.approx(b.families, abs=1e-6)
    for mine, theirs in zip(a.windings, b.windings, strict=True):
        assert mine.roles == pytest.approx(theirs.roles, abs=1e-6)
        if mine.volts is not None:
            assert math.isclose(mine.volts.value, theirs.volts.value, rel_tol=1e-6)


def test_identification_is_pure():
    """Twice the same record, twice the same answer to the last digit."""
    assert as_json(identify(case("020"))) == as_json(identify(case("020")))
