"""Amps of a winding and volt-amperes of a piece: each witness by itself, what all say together, and
against the ratings that the simulated bench's pieces were designed for.
"""

import json
import math

import numpy as np
import pytest

from greyfell.core.belief.amps import Witness, joined, rated, voltamperes
from greyfell.core.belief.size import log_size, va_of
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import as_json, identify
from greyfell.core.simulated.owner import LEVELS, take
from greyfell.core.telling.why import why
from tests.conftest import piece
from tests.core.made import PRIMARY, coil, hypothesis, record, winding

SUPPLY = {"volts": 230, "hertz": 50}
ROWS = [("A", "B", 33.0), ("C", "D", 0.13), ("A", "C", "open")]


def concluded(**more):
    """A 12 V piece of some 50 VA, and whatever else is known of it."""
    return identify(parse_record(piece("ABCD", ROWS, supply=SUPPLY, **more)))


@pytest.mark.parametrize("va", [3.0, 14.0, 59.9, 60.1, 250.0, 1500.0])
def test_size_and_volt_amperes_are_one_law(va):
    """REF-M-05: there and back, without a step at its knee."""
    assert va_of(log_size(va))[0] == pytest.approx(va)
    assert log_size(va * 1.001) < log_size(va)


def test_the_law_against_handbook_parts():
    """Primaries of 230 V, common practice: 100 VA some 10 to 16 Ω, 1 kVA half to one and a half."""
    assert 10 < math.exp(log_size(100.0)) * 230**2 < 16
    assert 0.5 < math.exp(log_size(1000.0)) * 230**2 < 1.5


def test_witnesses_are_joined_by_their_weights():
    """JCGM 100:2008: a fine one decides, two alike halve the variance."""
    fine, wide = Witness(math.log(10.0), 0.05, "plate"), Witness(math.log(20.0), 0.5, "wire")
    two = joined([Witness(0.0, 0.1, "a"), Witness(0.0, 0.1, "b")])

    assert joined([fine, wide]).value == pytest.approx(10.0, rel=0.02)
    assert math.log(two.high) == pytest.approx(1.96 * 0.1 / math.sqrt(2), rel=1e-3)
    assert joined([]) is None


def test_a_plate_is_the_rating_itself():
    """50 VA to a twentieth; amps from the output nearest in volts."""
    plate = {"primary_volts": 230.0, "va": 50.0, "secondary_volts": 12.0, "secondary_amps": 4.17}
    ident = concluded(nameplate=plate)
    whole = ident.belief.voltamperes
    amps = ident.belief.ratings["W2"].continuous

    assert (whole.value, whole.basis) == (pytest.approx(50.0), ("plate",))
    assert whole.high / whole.value == pytest.approx(math.exp(1.96 * 0.05), rel=1e-3)
    assert amps.value == pytest.approx(4.17)
    assert ident.belief.ratings["W1"].continuous.value == pytest.approx(1.08 * 50 / 230)


def test_iron_narrows_what_ohms_alone_leave_wide():
    """28 by 30 mm: 7.98 cm² net, 48 VA by REF-M-04."""
    bare, cored = concluded(), concluded(core={"tongue_mm": 28.0, "stack_mm": 30.0})
    one, two = bare.belief.voltamperes, cored.belief.voltamperes

    assert "core section" in two.basis
    assert two.high / two.low < one.high / one.low
    assert two.low < 48.2 < two.high


def test_a_wire_of_a_millimetre_bears_some_amps():
    """0.785 mm² at 3 A/mm². REF-W-03, M-T2."""
    made = winding({"lv-secondary": 1.0}, 12.0, coil("CD", 0.3), id="W2")
    leads = ["A", "B", {"id": "C", "wire_mm": 1.0}, "D"]
    amps = rated(record(leads=leads), (PRIMARY, made), None)["W2"]

    assert amps.continuous.value == pytest.approx(3.0 * math.pi / 4, rel=1e-6)
    assert amps.continuous.basis == ("wire",)
    assert amps.minute.value == pytest.approx(3 * amps.continuous.value)
    assert amps.minute.low < 3 * amps.continuous.low


@pytest.mark.parametrize(("family", "told"), [("mains", True), ("choke", False), ("sign", False)])
def test_shunted_and_gapped_iron_is_not_sized_by_its_copper(family, told):
    ident = concluded()
    best = hypothesis(family)
    found = voltamperes(ident.record, best, ident.belief.solution, ident.belief.index)

    assert (found is not None) is told


def test_nothing_known_gives_no_amps():
    ident = identify(parse_record(piece("AB", supply=SUPPLY)))

    assert as_json(ident)["voltamperes"] is None
    assert ident.belief.ratings == {}


def test_json_and_why_tell_them():
    ident = concluded(nameplate={"primary_volts": 230.0, "va": 50.0})
    told = json.loads(json.dumps(as_json(ident)))
    whole, amps = why(ident, ["voltamperes"]), why(ident, ["winding", "W2", "amps"])

    assert set(told["windings"][1]["amps"]) == {"continuous", "minute"}
    assert told["voltamperes"]["basis"] == ["plate"]
    assert "VA" in whole.figure
    assert "for a minute" in amps.figure
    assert why(identify(parse_record(piece("AB"))), ["voltamperes"]).figure == "not known"


def test_the_range_holds_what_pieces_were_designed_for():
    """A hundred and twenty sound pieces: volt-amperes and amps inside in 90 to 99 %; `make
    evaluate` counts more.
    """
    rng = np.random.default_rng(8)
    inside = []
    for n in range(120):
        told = take(rng, LEVELS[n % 4], fault_share=0.0, slip_share=0.0)
        ident = identify(parse_record(told.document))
        whole = ident.belief.voltamperes
        if told.piece.rated_va is not None and whole is not None and ident.family == "mains":
            inside.append(whole.low <= told.piece.rated_va <= whole.high)

    assert len(inside) > 36
    assert 0.90 <= np.mean(inside) <= 0.99
