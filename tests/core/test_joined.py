"""The wiring of an isolated outlet from a piece's own leads: halves by their polarity, every
position told, none without polarity, none of a piece with a stop; a lead moved moves the drawing.
"""

import pytest

from greyfell.core.bench.limiting import SECTION_AMPS
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.telling.outlet_wiring import BREAKERS, wiring
from greyfell.records.demo import demo_documents
from greyfell.web.drawings.joined import joined_drawing
from tests.conftest import PLATE, piece

HALVES = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 33.0),
    ("C", "D", 0.5),
    ("E", "F", 0.5),
    ("A", "C", "open"),
    ("A", "E", "open"),
    ("C", "E", "open"),
    ("A", "core", "open"),
    ("C", "core", "open"),
    ("E", "core", "open"),
]
RATIO = {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 12.0}


def two_halves(across=None):
    """A mains part of two like outputs; with volts across both in series, joined D to E."""
    readings = [
        *HALVES,
        {**RATIO, "sensed": ["C", "D"], "sensed_volts": 0.626},
        {**RATIO, "sensed": ["E", "F"], "sensed_volts": 0.626},
    ]
    if across is not None:
        driven = {"kind": "polarity", "driven": ["C", "D"], "driven_volts": 6.0}
        readings.append({**driven, "joined": ["D", "E"], "across": ["C", "F"]})
        readings[-1]["across_volts"] = across
    supply = {"volts": 230, "hertz": 50}
    plate = {**PLATE, "secondary_volts": 12.0}
    return identify(parse_record(piece("ABCDEF", readings, nameplate=plate, supply=supply)))


def test_halves_are_joined_like_ends_to_like_ends():
    """C–D and E–F add with D on E: in parallel C with E, D with F; in series twice the volts."""
    plan = wiring(two_halves(12.0))
    series, parallel = plan.positions

    assert [p.name for p in plan.positions] == ["in series", "in parallel"]
    assert {frozenset(j) for j in parallel.joined} == {frozenset("CE"), frozenset("DF")}
    assert series.volts == pytest.approx(2 * parallel.volts)
    assert set(series.joined[0]) in ({"C", "F"}, {"D", "E"})
    assert plan.switched


def test_one_half_turned_round_turns_its_leads():
    """It opposes: now C goes with F, D with E."""
    parallel = wiring(two_halves(0.1)).positions[1]

    assert {frozenset(j) for j in parallel.joined} == {frozenset("CF"), frozenset("DE")}


def test_without_polarity_no_position_is_offered():
    """With the reason, and no drawing."""
    plan = wiring(two_halves())

    assert plan.positions == ()
    assert "polarity is not read" in plan.refused


def test_a_piece_with_a_stop_is_not_wired():
    """Nor one of which no output is known."""
    told = {d["tag"]: identify(parse_record(d)) for d in demo_documents()}

    assert "stop fault" in wiring(told["CQ-026"]).refused
    assert "not known yet" in wiring(told["CQ-018"]).refused
    assert wiring(told["CQ-005"]).positions[0].name == "on"


def test_breaker_and_wires_bear_each_other():
    """Over all the demo: no breaker above the winding's amps but the smallest, no wire below it."""
    for document in demo_documents():
        plan = wiring(identify(parse_record(document)))
        for p in plan.positions:
            if p.amps is None:
                continue
            assert plan.breaker <= max(p.amps, BREAKERS[0])
            assert max(most for mm2, most in SECTION_AMPS if mm2 <= plan.mm2) >= plan.breaker


def test_the_drawing_bears_the_pieces_own_leads_and_its_volts():
    """Feed, both halves, the outlet; both poles open on both sides."""
    plan = wiring(two_halves(12.0))
    for position in plan.positions:
        shown = joined_drawing(plan, position)
        words = shown.texts()
        assert {"A", "B", "C", "D", "E", "F"} <= set(words)
        assert any("two poles" in w for w in words)
        assert "core to earth" in words
        assert position.truth in words
