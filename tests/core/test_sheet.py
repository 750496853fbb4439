"""The sheet of a sweep: only for a piece that may be fed, up to what its plate allows."""

import pytest

from greyfell.core.circuit.sweep import sweep_on_record
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.steps.windup_sheet import RISE, most_volts, sheet_of
from greyfell.records.demo import demo_documents
from tests.conftest import MAINS, PLATE, every, piece


def demo(tag):
    """A piece of the demo."""
    document = next(d for d in demo_documents() if d["tag"] == tag)
    return identify(parse_record(document))


def sheet(ident):
    """Its sheet with the sweep on record."""
    return sheet_of(ident, sweep_on_record(ident.record, ident.belief))


def test_a_sound_documented_piece_has_its_steps_up_to_its_volts():
    """Rising, the last at the supply; amps to stop above on every one."""
    steps = sheet(demo("CQ-021"))

    assert [s.volts for s in steps] == sorted(s.volts for s in steps)
    assert steps[-1].volts == 230.0
    assert every(s.stop_above_amps for s in steps)


@pytest.mark.parametrize(("tag", "told"), [("CQ-014", 0), ("CQ-018", 12), ("CQ-009", 0)])
def test_a_piece_with_high_voltage_has_its_sheet_behind_the_open_gate_alone(tag, told):
    """Its gate asks for the bond; from the primary's side it is then wound up as any other."""
    assert len(sheet(demo(tag))) == told


def test_a_closed_gate_has_no_sheet():
    """Screened, and salvage not on record."""
    ident = identify(parse_record(piece("ABCD", MAINS, nameplate=PLATE)))

    assert not live_gate(ident).open
    assert sheet(ident) == ()


@pytest.mark.parametrize(
    ("plate", "supply", "most"),
    [
        ({"primary_volts": 230.0, "hertz": 50.0}, {"volts": 230, "hertz": 50}, 230.0),
        ({"primary_volts": 120.0, "hertz": 60.0}, {"volts": 230, "hertz": 50}, 100.0),
        ({"primary_volts": 277.0, "hertz": 60.0}, {"volts": 240, "hertz": 50}, 277 * 50 / 60),
        ({"primary_volts": 400.0, "hertz": 50.0}, {"volts": 230, "hertz": 50}, 230.0),
    ],
)
def test_a_plate_of_other_mains_ends_the_sweep_earlier(plate, supply, most):
    """Volts per hertz decide: 120 V at 60 Hz are 100 V at 50 Hz, 277 V are 231."""
    ident = identify(parse_record(piece("ABCD", MAINS, nameplate=plate, supply=supply)))

    assert most_volts(ident) == pytest.approx(most)


def test_a_step_that_the_sweep_covers_has_its_amps_and_stops_not_far_above():
    """Well over what is expected, never over a minute's rating."""
    rows = [
        {"kind": "no_load", "driven": ["A", "B"], "volts": v, "amps": v / 5000}
        for v in (40.0, 80.0, 120.0, 160.0, 200.0)
    ]
    document = next(d for d in demo_documents() if d["tag"] == "CQ-021")
    readings = [r for r in document["readings"] if r["kind"] != "no_load"]
    more = [{"id": f"x{n}", **r} for n, r in enumerate(rows)]
    ident = identify(parse_record({**document, "readings": readings + more}))
    steps = {s.volts: s for s in sheet(ident)}
    rating = ident.belief.ratings[ident.belief.primary.id].minute.low

    assert steps[138.0].expected.value == pytest.approx(138 / 5000, rel=0.01)
    assert steps[138.0].stop_above_amps == min(rating, RISE * steps[138.0].expected.high)
    beyond = steps[230.0].expected
    assert beyond.high / beyond.low > 1.25  # past its last step the sweep tells less
    assert steps[161.0].read == pytest.approx(160 / 5000)
