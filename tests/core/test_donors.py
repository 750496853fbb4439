"""Before a lead has a name: what a donor tells from outside, its parts tested cold, the label of
its capacitor, the stick it is let down with.
"""

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.label import read_label
from greyfell.core.evidence.record import Donor
from greyfell.core.evidence.stores import BY_KEY as STORES_KINDS
from greyfell.core.evidence.stores import parse_item
from greyfell.core.figures.limits import RESISTOR_VOLTS
from greyfell.core.planners.discharge import PULSED
from greyfell.core.steps.discharge_stick import LONGEST_HOLD, MOST_IN_A_ROW, build
from greyfell.core.telling.donors import DONORS, class_of, iron_or_inverter, parse_donor
from greyfell.core.telling.part_tests import BY_KEY, PART_TESTS, expected, judge_part
from tests.conftest import every


def test_every_donor_says_how_it_is_taken_apart_and_what_it_holds():
    """Plug or a lock first, a photo somewhere, labels before the cut, parts the stores know."""
    for kind in DONORS:
        first = kind.cards[0].do
        assert "Plug out" in first or "locked" in first
        assert any(card.photo for card in kind.cards)
        assert any(card.do.startswith("Label both sides") for card in kind.cards)
        assert set(kind.holds) <= set(STORES_KINDS)


def test_a_donor_without_its_kind_or_with_a_wrong_figure_is_refused():
    """A sentence that names the field."""
    with pytest.raises(FieldError) as refused:
        parse_donor({"title": "a box"})
    assert refused.value.field == "kind"
    with pytest.raises(FieldError) as refused:
        parse_donor({"kind": "oven", "mass_kg": -3.0})
    assert "mass kg must be above 0" in refused.value.sentence


@pytest.mark.parametrize(
    ("facts", "holds"),
    [
        ({"volts": 230.0, "line_fuse_amps": 10.0}, 1400.0),
        ({"volts": 120.0, "line_fuse_amps": 15.0}, 1300.0),
        ({"high_fuse_amps": 0.75, "high_fuse_volts": 2300.0}, 1200.0),
        ({"mass_kg": 14.0}, 1000.0),
    ],
)
def test_the_class_of_an_oven_is_told_before_it_is_open(facts, holds):
    """Line fuse × volts, HV fuse × kilovolts, or mass: common practice for ovens of such sizes."""
    found = class_of(Donor(kind="oven", **facts))

    assert found.low <= holds <= found.high
    assert len(found.basis) == 1


def test_two_facts_narrow_the_class_and_two_that_fight_widen_it():
    """Both basises are named either way."""
    fuse = {"volts": 230.0, "line_fuse_amps": 10.0}
    one = class_of(Donor(kind="oven", **fuse))
    both = class_of(Donor(kind="oven", **fuse, mass_kg=12.0))
    odd = class_of(Donor(kind="oven", **fuse, high_fuse_amps=0.1, high_fuse_volts=2000.0))

    assert both.high - both.low <= one.high - one.low
    assert odd.low < one.low
    assert odd.high == one.high
    assert len(both.basis) == len(odd.basis) == 2
    assert class_of(Donor(kind="oven")) is None


@pytest.mark.parametrize(
    ("facts", "says"),
    [
        ({"inverter": True}, "never goes on the mains"),
        ({"inverter": False}, "Iron"),
        ({"mass_kg": 9.9}, "more likely an inverter"),
        ({"mass_kg": 10.0}, "more likely iron"),
        ({}, "not known"),
    ],
)
def test_iron_or_inverter_is_told_as_far_as_it_can_be(facts, says):
    """By what was seen, else by mass, just under and at ten kilograms."""
    assert says in iron_or_inverter(Donor(kind="oven", **facts))
    assert iron_or_inverter(Donor(kind="sign", **facts)) == ""


@pytest.mark.parametrize(
    ("key", "sound", "odd"),
    [
        ("capacitor-farads", "0.95µF", "0.4µF"),
        ("capacitor-farads", "1.3µF", "1.31µF"),
        ("capacitor-bleeder", "10M", "4.9M"),
        ("capacitor-bleeder", "15M", "OL"),
        ("capacitor-can", "OL", "19M"),
        ("diode-forward", "7.2V", "0.1V"),
        ("diode-forward", "4V", "3.9V"),
        ("diode-reverse", "11.9V", "7V"),
        ("fuse", "0.2", "OL"),
        ("cut-out", "0.5", "0.51"),
        ("relay-coil", "20", "19"),
        ("switch", "0.1", "2"),
    ],
)
def test_a_part_is_judged_cold_by_its_band(key, sound, odd):
    """Inside its band, just outside it; what is outside has a sentence."""
    good, bad = judge_part(BY_KEY[key], sound), judge_part(BY_KEY[key], odd)

    assert good.sound
    assert "Cold says no more" in good.sentence
    assert not bad.sound
    assert bad.sentence


def test_an_ordinary_meter_reads_an_oven_diode_open_and_the_test_says_why():
    """Six to nine volts before it conducts: more than a meter gives."""
    test = BY_KEY["diode-forward"]

    assert "OL both ways" in test.do
    assert "V" in expected(test)
    assert "mains" not in " ".join(t.do for t in PART_TESTS)


@pytest.mark.parametrize("text", ["", "a lot", "7 A"])
def test_a_part_reading_that_is_none_is_refused(text):
    """A sentence, no verdict."""
    with pytest.raises(FieldError):
        judge_part(BY_KEY["diode-forward"], text)
    with pytest.raises(FieldError, match="OL is no reading"):
        judge_part(BY_KEY["diode-forward"], "OL")


@pytest.mark.parametrize(
    ("text", "energies"),
    [
        ("0.95µF 2100V AC ±3%", [4.19]),
        ("1.0 MFD 2000VAC", [4.0]),
        ("1µF 2000VDC", [2.0]),
        ("1,0 µF 2,0kV", [4.0, 2.0]),
        ("0.9 or 1.0µF 2000V AC", [3.6, 4.0]),
    ],
)
def test_a_label_is_worked_every_way_it_can_be_read(text, energies):
    """E = ½CU² of the crest: ½ · 1 µF · (√2 · 2000 V)² = 4 J."""
    found = read_label(text)

    assert [way.energy.value for way in found.ways] == pytest.approx(energies, rel=0.003)
    assert every(w.energy.low < w.energy.value < w.energy.high for w in found.ways)


def test_working_volts_are_volts():
    """WV is not watts, and both AC and DC are tried."""
    found = read_label("0.98µF 2100WV 10MΩ")
    told = dict(found.explained)

    assert "not watts" in told["2100WV"]
    assert "10MΩ" in told
    assert [w.words.split()[-1] for w in found.ways] == ["AC", "DC"]


@pytest.mark.parametrize(
    ("text", "asks"),
    [
        ("2100V AC", "capacitance"),
        ("0.95µF", "volts"),
        ("0µF 2100V", "above nought"),
        ("1µF 0V", "Volts above"),
        ("1µF 2000V ±100%", "under 100"),
        ("1µF 900kV", "100 kV"),
    ],
)
def test_a_figure_without_its_unit_is_asked_for(text, asks):
    """A sentence that says what is missing."""
    with pytest.raises(FieldError, match=asks):
        read_label(text)


def resistor(**figures):
    """An entry of the stores."""
    return parse_item({"id": "s1", "kind": "resistor", "title": "brown ones", **figures})


def test_a_stick_is_built_from_the_stores_where_they_hold_enough():
    """Volts at 70 % of the rating and first watts within ten times it, by the planner."""
    built = build([resistor(ohms=22e3, working_volts=1000.0, watts=5.0, count=8)])

    assert built.source == "brown ones"
    assert built.count <= 8
    assert built.found.volts_each.high <= RESISTOR_VOLTS * 1000.0
    assert built.found.pulse_ratio.high <= PULSED
    assert built.chain[0] < built.count * 22e3 < built.chain[1]


@pytest.mark.parametrize(
    "figures",
    [
        {"ohms": 22e3, "working_volts": 1000.0, "watts": 5.0, "count": 4},
        {"ohms": 22e3, "watts": 5.0, "count": 50},
        {"ohms": 10.0, "working_volts": 1000.0, "watts": 5.0, "count": 50},
        {"ohms": 10e6, "working_volts": 1000.0, "watts": 5.0, "count": 50},
        {"ohms": 22e3, "working_volts": 100.0, "watts": 5.0, "count": 99},
    ],
)
def test_what_will_not_do_is_left_and_a_list_to_buy_is_given(figures):
    """Too few, no volts known, a spark, too slow, too long a row."""
    built = build([resistor(**figures)])

    assert built.source == "to buy"
    assert built.count <= MOST_IN_A_ROW
    assert built.found.hold_seconds.high <= LONGEST_HOLD
    assert built.found.pulse_ratio.high <= PULSED
