"""Readings of what cannot change that cannot both be true: polarity by any hook-up, leads that
conduct, ratios, bare spots. Each keeps the gate shut until a third reading decides.
"""

import numpy as np
import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.contradictions import OTHER_RATIO
from greyfell.core.judgement.gates import live_gate
from greyfell.core.planner_kit.asking import Known
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.simulated.histories import NOW, base_of
from greyfell.core.telling.outlet_wiring import wiring
from greyfell.core.telling.terminals import senses
from tests.conftest import piece

SUPPLY = {"volts": 230, "hertz": 50}


def at(minute):
    return f"2026-05-02T10:{minute:02d}:00+01:00"


def polar(across, volts, minute=1, joined=("B", "C"), driven=("A", "B"), drive=12.0):
    """Two windings joined, one driven, volts read over both."""
    made = {"kind": "polarity", "driven": list(driven), "driven_volts": drive}
    told = {"joined": list(joined), "across": list(across), "across_volts": volts}
    return {**made, **told, "at": at(minute)}


HALVES = [
    ("A", "B", 8.0),
    ("C", "D", 8.3),
    ("E", "F", 0.4),
    *((x, y, "open") for x, y in ("AC", "AE", "CE")),
    *((x, "core", "open") for x in "ACE"),
    {
        "kind": "ratio",
        "driven": ["A", "B"],
        "driven_volts": 12.0,
        "sensed": ["C", "D"],
        "sensed_volts": 12.0,
    },
    {
        "kind": "ratio",
        "driven": ["A", "B"],
        "driven_volts": 12.0,
        "sensed": ["E", "F"],
        "sensed_volts": 2.0,
    },
]
PLATE = {"primary_volts": 115.0, "hertz": 50.0, "text": "2 x 115 V"}


def dual(*readings):
    """A piece of two mains halves and an output, with these polarity readings."""
    rows = [{"kind": "core_proof", "ohms": 0.1}, *HALVES, *readings]
    return identify(parse_record(piece("ABCDEF", rows, supply=SUPPLY, nameplate=PLATE)))


def told(ident):
    """The sense of every polarity reading."""
    return [p.sense for p in ident.belief.polarity]


# ------------------------------------------------------------------ polarity


@pytest.mark.parametrize(
    ("reading", "sense"),
    [
        (polar("AD", 24.0), "adding"),
        (polar("AD", 0.2), "bucking"),
        (polar("AD", 12.1), "unclear"),  # neither 24 V nor nothing (K4)
        (polar("AD", 18.0), "unclear"),
        (polar("AD", 23.4), "adding"),
        (polar("DA", 24.0, joined=("C", "B")), "adding"),  # told the other way round
        (polar("BC", 24.0, joined=("A", "D")), "adding"),
    ],
)
def test_a_polarity_that_fits_neither_sense_is_unclear(reading, sense):
    """REF-T-11; three standard deviations from both."""
    assert told(dual(reading)) == [sense]


@pytest.mark.parametrize(
    ("readings", "refused"),
    [
        ([polar("AD", 24.0)], False),
        ([polar("AD", 24.0, 1), polar("AD", 0.2, 2)], True),
        ([polar("AD", 24.0, 1), polar("AD", 0.2, 2), polar("AD", 24.0, 3)], False),
        ([polar("AD", 24.0, 1), polar("AD", 0.2, 3), polar("AD", 24.0, 2)], True),
        ([polar("AD", 24.0, 1), polar("AD", 24.0, 2), polar("AD", 0.2, 2)], True),
        ([polar("AD", 12.1, 1), polar("AD", 24.0, 2)], False),
        ([polar("AD", 24.0, 1), polar("AD", 12.1, 2)], True),
        # the same halves by other ends: what was joined to B is D, and it bucks
        ([polar("AD", 24.0, 1), polar("AC", 0.2, 2, joined=("B", "D"))], False),
        ([polar("AD", 24.0, 1), polar("AC", 24.0, 2, joined=("B", "D"))], True),
    ],
)
def test_two_senses_of_one_pair_close_until_a_third_reading_decides(readings, refused):
    """The third is the newest; equal times decide nothing."""
    ident = dual(*readings)
    faults = [f for f in ident.faults if f.code == "contradiction"]

    assert bool(faults) is refused
    assert [f for f in faults if not (f.firm and "olarity" in f.sentence)] == []
    assert any("polarity" in r for r in live_gate(ident).reasons) is refused
    assert not (refused and senses(ident))


OUTPUTS = [
    ("A", "B", 12.0),
    ("C", "D", 0.4),
    ("E", "F", 0.41),
    *((x, y, "open") for x, y in ("AC", "AE", "CE")),
    *((x, "core", "open") for x in "ACE"),
    *(
        {
            "kind": "ratio",
            "driven": ["A", "B"],
            "driven_volts": 12.0,
            "sensed": list(pair),
            "sensed_volts": 0.6,
        }
        for pair in ("CD", "EF")
    ),
]


def two_outputs(*readings):
    """A piece of a primary and two like outputs."""
    rows = [{"kind": "core_proof", "ohms": 0.1}, *OUTPUTS, *readings]
    plate = {"primary_volts": 230.0, "hertz": 50.0, "outputs": [{"volts": 11.0}, {"volts": 11.0}]}
    return identify(parse_record(piece("ABCDEF", rows, supply=SUPPLY, nameplate=plate)))


@pytest.mark.parametrize(
    ("across", "joined", "volts", "sense", "parallel"),
    [
        ("CF", ("D", "E"), 1.2, "adding", {("C", "E"), ("D", "F")}),
        ("CF", ("D", "E"), 0.02, "bucking", {("C", "F"), ("D", "E")}),
        ("ED", ("F", "C"), 1.2, "adding", {("C", "E"), ("D", "F")}),
        ("CE", ("D", "F"), 0.02, "bucking", {("C", "E"), ("D", "F")}),
    ],
)
def test_two_outputs_with_the_primary_driven_are_judged_by_the_coils_joined(
    across, joined, volts, sense, parallel
):
    """Not by the driven one, which is not in the chain (K4 c)."""
    ident = two_outputs(polar(across, volts, joined=joined))

    assert told(ident) == [sense]
    positions = {p.name: p for p in wiring(ident).positions}
    drawn = {tuple(sorted(pair)) for pair in positions["in parallel"].joined}
    assert drawn == parallel


def test_the_wiring_of_the_review_that_was_a_dead_short_is_not_drawn():
    """D to E bucks nothing, F to C bucks nothing: one of the two readings is wrong."""
    both = [
        polar("CF", 0.1, 1, joined=("D", "E")),
        polar("ED", 1.2, 2, joined=("F", "C")),
    ]
    ident = two_outputs(*both)

    assert not wiring(ident).positions
    assert wiring(ident).refused


def test_a_chain_that_is_none_tells_nothing():
    """Across points that lie on one winding, or on a third."""
    for reading in (polar("AB", 24.0), polar("EF", 24.0), polar("AE", 24.0)):
        assert told(dual(reading)) == []


# ------------------------------------------------------------------ which leads conduct


def sound(*readings, name="lv"):
    """The faults and the gate of a documented piece with more readings."""
    base = base_of(np.random.default_rng(1313), name)
    for reading in readings:
        base.read(**reading)
    ident = identify(parse_record(base.document), now=NOW)
    return ident, live_gate(ident)


def ohms(pair, value, **more):
    return {"kind": "resistance", "between": list(pair), "ohms": value, **more}


def test_windings_read_open_that_conduct_through_one_pair_stop():
    """A–C open on 20 MΩ and at 500 V, and D–B 0.8 Ω."""
    ident, gate = sound(ohms("DB", 0.8, probe_ohms=0.1))

    assert ident.stopped
    assert not gate.open
    assert any(f.code == "windings-shorted" and f.firm for f in ident.faults)


@pytest.mark.parametrize(
    ("ratios", "shut"),
    [
        ((1.0, OTHER_RATIO * 0.98), False),
        ((1.0, OTHER_RATIO * 1.06), True),
        ((1.0, 2.0, 1.0), False),
        ((1.0, 1.0, 2.0), True),  # the third is not borne out by anything after it
        ((2.0, 1.0, 1.01), False),
    ],
)
def test_two_ratios_of_one_pair_are_one_ratio(ratios, shut):
    """Beyond a quarter and the meters' limits; the newest two of three decide."""
    rows = [
        {
            "kind": "ratio",
            "driven": ["A", "B"],
            "driven_volts": 24.0,
            "sensed": ["C", "D"],
            "sensed_volts": 2.4 * share,
            "at": at(n + 1),
            "percent": 0.5,
            "digits": 0.001,
        }
        for n, share in enumerate(ratios)
    ]
    told_ = piece("ABCD", [("A", "B", 8.0), ("C", "D", 0.3), ("A", "C", "open"), *rows])
    ident = identify(parse_record({**told_, "supply": SUPPLY}))

    assert any(f.code == "contradiction" for f in ident.faults) is shut


@pytest.mark.parametrize(
    ("proofs", "doubt"),
    [
        ([(0.1, 1)], False),
        ([(0.1, 1), (450.0, 2)], True),
        ([(450.0, 1), (0.1, 2)], True),
        ([(450.0, 1), (0.1, 2), (0.12, 3)], False),
        ([(0.1, 1), (0.12, 2), (450.0, 3)], True),
        ([(0.5, 1)], False),
        ([(0.1, 1), (0.51, 2)], True),
    ],
)
def test_two_bare_spots_within_a_sitting_are_one_piece_of_iron(proofs, doubt):
    """450 Ω beside 0.1 Ω: varnish under a probe, until a third reading decides."""
    rows = [{"kind": "core_proof", "ohms": value, "at": at(minute)} for value, minute in proofs]
    ident = identify(parse_record(piece("AB", [("A", "B", 8.0), *rows], supply=SUPPLY)))

    assert any(f.code == "contradiction" for f in ident.faults) is doubt


def test_another_days_bare_spots_are_others():
    """Twelve hours and more apart the iron was scraped anew."""
    rows = [
        {"kind": "core_proof", "ohms": 450.0, "at": "2026-05-02T10:00:00+01:00"},
        {"kind": "core_proof", "ohms": 0.1, "at": "2026-05-02T22:00:01+01:00"},
    ]
    ident = identify(parse_record(piece("AB", [("A", "B", 8.0), *rows], supply=SUPPLY)))

    assert not any(f.code == "contradiction" for f in ident.faults)


def test_no_statement_lifts_a_contradiction():
    """Only a reading decides."""
    base = base_of(np.random.default_rng(1414), "lv")
    base.read("core_proof", ohms=450.0)
    said = {"id": "s9", "kind": "overrule", "concerns": "contradiction", "text": "it is fine"}
    base.document["statements"].append({**said, "at": base.later(days=3)})

    assert not live_gate(identify(parse_record(base.document), now=NOW)).open


@pytest.mark.parametrize("name", ["halves", "autotransformer", "feed"])
def test_no_plan_joins_coils_whose_readings_contradict_each_other(name):
    """24 V and 0.2 V both stand: refused, also where the box says that polarity is proved."""
    planner = PLANNERS[name]
    given = {**planner.example, **({"polarity_proved": True} if name == "halves" else {})}
    odd = Known(dual(polar("AD", 24.0), polar("AD", 0.2, minute=2)))
    sound = Known(dual(polar("AD", 24.0), polar("AD", 24.1, minute=2)))
    codes = {w["code"] for w in planner(given, odd)["warnings"]}

    assert "polarity-unsettled" in codes
    assert planner(given, odd)["refused"]
    assert "polarity-unsettled" not in {w["code"] for w in planner(given, sound)["warnings"]}
