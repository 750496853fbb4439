"""Whose coil goes into whose window: hole against tongue, height and width against what is left,
turns by test turns; just inside and just outside of each.
"""

import pytest
from msgspec.structs import replace

from greyfell.core.coil_design.window import Window
from greyfell.core.evidence.parse import parse_record
from greyfell.core.figures.quantity import Quantity
from greyfell.core.identify import identify
from greyfell.core.uses.core_to_wind import exact_iron
from greyfell.core.uses.paired import EQUALS, GOES, MAY, NOT, UNEQUAL, UNTOLD, PairCore, paired
from greyfell.records.demo import demo_documents

WINDOW = Window(width_mm=19.0, height_mm=57.0, tongue_mm=38.0, stack_mm=60.0, primary_mm=25.0)


def core(tag, per_turn=0.9, spread=0.0, **window):
    """A measured shell core with test turns read, so many volts a turn."""
    exact = exact_iron(replace(WINDOW, **window), per_turn)
    per = Quantity(per_turn, per_turn * (1 - spread), per_turn * (1 + spread))
    iron = replace(exact, volts_per_turn=per)
    return PairCore(tag=tag, iron=iron, shape="shell", sized=True, measured=True, tested=True)


def one(stays, lends):
    """What is said of the second's coil in the first's window."""
    return next(p for p in paired([stays, lends]) if p.stays == stays.tag)


@pytest.mark.parametrize(
    ("window", "verdict", "word"),
    [
        ({}, GOES, "6 mm to spare"),
        ({"tongue_mm": 37.1}, MAY, "tight"),
        ({"tongue_mm": 36.9}, NOT, "too small for the tongue"),
        ({"tongue_mm": 41.9}, GOES, "to spare"),
        ({"tongue_mm": 42.1}, NOT, "too large for the tongue"),
        ({"stack_mm": 59.1}, MAY, "tight"),
        ({"stack_mm": 58.9}, NOT, "too small for the stack"),
        ({"stack_mm": 64.1}, NOT, "too large for the stack"),
        ({"primary_mm": 31.0}, GOES, "0 mm to spare"),
        ({"primary_mm": 31.1}, NOT, "0.1 mm too high"),
        ({"width_mm": 19.1}, NOT, "0.1 mm too thick"),
        ({"width_mm": 12.0}, GOES, "to spare"),
    ],
)
def test_a_coil_against_a_window(window, verdict, word):
    """38 by 60 mm of tongue, 57 by 19 mm of window of which 25 are taken, a millimetre to slip."""
    found = one(core("A"), core("B", **window))

    assert found.verdict == verdict
    assert word in found.why


@pytest.mark.parametrize(
    ("missing", "word"),
    [({"sized": False}, "tongue and stack"), ({"measured": False}, "windows were not measured")],
)
def test_what_was_not_measured_is_measured_first(missing, word):
    """Never a fit by usual proportions."""
    found = one(core("A"), replace(core("B"), **missing))

    assert found.verdict == MAY
    assert word in found.why


@pytest.mark.parametrize(
    ("per_turn", "spread", "tested", "told"),
    [
        (0.9 / 1.009, 0.001, True, EQUALS),
        (0.9 / 1.011, 0.001, True, UNEQUAL),
        (0.9 / 1.009, 0.001, False, UNTOLD),
        (0.9 / 1.3, 0.2, False, UNTOLD),
        (0.9 / 1.3, 0.1, False, UNEQUAL),
    ],
)
def test_turns_are_equal_by_test_turns_on_both(per_turn, spread, tested, told):
    """Within one per cent; what is far apart needs no test turns to be unequal."""
    found = one(core("A", spread=spread), replace(core("B", per_turn, spread), tested=tested))

    assert found.turns == told


def test_unequal_turns_put_out_unequal_volts():
    """A tenth more turns, a tenth more volts, less what coils side by side lose."""
    found = one(core("A", 0.9), core("B", 0.9 / 1.1)).found

    assert found.output_volts.low <= 253.0 <= found.output_volts.high * 1.001
    assert found.apart_percent.value == pytest.approx(10.0)


def test_rings_and_other_supplies_do_not_pair_and_the_best_comes_first():
    """A ring takes no coil; 120 V does not go with 230."""
    ring = replace(core("R"), shape="toroid")
    other = replace(core("S"), iron=replace(core("S").iron, supply_volts=120.0))
    found = paired([core("A"), ring, other, core("B", tongue_mm=30.0), core("C")])

    assert {p.stays for p in found} == {"A", "B", "C"}
    assert [p.verdict for p in found[:2]] == [GOES, GOES]
    assert found[-1].verdict == NOT


def test_pieces_of_the_demo_become_cores_or_none():
    """An oven of which tongue and stack were measured; a choke lends nothing."""
    found = {
        d["tag"]: PairCore.of(identify(parse_record(d)))
        for d in demo_documents()
        if d["tag"] in ("CQ-014", "CQ-011")
    }

    assert found["CQ-011"] is None
    assert (found["CQ-014"].sized, found["CQ-014"].measured) == (True, False)
    assert not found["CQ-014"].tested
