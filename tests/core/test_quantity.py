"""Figures: ranges that hold, writing as at the bench, reading as people type."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from greyfell.core.errors import FieldError, within
from greyfell.core.figures.notation import (
    as_read,
    engineering,
    parse_quantity,
    parse_uncertain,
    span,
    with_range,
)
from greyfell.core.figures.quantity import Quantity, corners, exact, from_json


@pytest.mark.parametrize(
    ("value", "unit", "shown"),
    [
        (2140.0, "V", "2.14 kV"),
        (0.0042, "Ω", "4.20 mΩ"),
        (118.46, "V", "118 V"),
        (999.6, "V", "1.00 kV"),
        (0.1, "Ω", "100 mΩ"),
        (0.09999999, "Ω", "100 mΩ"),
        (1.0, "A", "1.00 A"),
        (20e6, "Ω", "20.0 MΩ"),
        (3.3e-9, "F", "3.30 nF"),
        (-0.5, "V", "-500 mV"),
    ],
)
def test_engineering_notation_shows_three_figures_and_the_unit(value, unit, shown):
    """Three significant digits, a prefix in steps of a thousand, the unit always."""
    assert engineering(value, unit) == shown


@pytest.mark.parametrize(
    ("value", "shown"),
    [
        (124.5, "124.5 V"),
        (0.0093, "9.3 mV"),
        (230.0, "230 V"),
        (0.153, "0.153 V"),
        (42000.0, "42 kV"),
    ],
)
def test_a_reading_is_shown_as_it_was_read(value, shown):
    """No digit added and none lost."""
    assert as_read(value, "V") == shown


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("1.3", "ohm", 1.3),
        ("1,3", "ohm", 1.3),
        ("4.7 kΩ", "ohm", 4700.0),
        ("4k7", "ohm", 4700.0),
        ("20M", "ohm", 20e6),
        ("20 Mohm", "ohm", 20e6),
        ("12 milliohm", "ohm", 0.012),
        ("47 microfarad", "farad", 4.7e-5),
        ("2.2 kiloohm", "ohm", 2200.0),
        ("20 megaohm", "ohm", 2e7),
        ("20 megohm", "ohm", 2e7),
        ("1.5 gigaohm", "ohm", 1.5e9),
        ("9.3mV", "volt", 0.0093),
        ("2 kilovolts", "volt", 2000.0),
        ("1e3", "volt", 1000.0),
        (".5A", "ampere", 0.5),
        ("290 µH", "henry", 2.9e-4),
        ("290uH", "henry", 2.9e-4),
        ("50 Hz", "hertz", 50.0),
        ("3 turns", "turn", 3.0),
        ("1.1 mm", "millimetre", 1.1),
        ("0R5", "ohm", 0.5),
        ("-12", "volt", -12.0),
        ("700 W", "watt", 700.0),
    ],
)
def test_figures_are_read_as_people_write_them(text, unit, value):
    """Decimal comma or point, prefixes, units spelled or signed."""
    assert parse_quantity(text, unit, field="x") == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "unit"),
    [
        ("banana", "ohm"),
        ("", "ohm"),
        ("3 furlongs", "ohm"),
        ("3 V", "ohm"),
        ("1.2.3", "volt"),
        ("nan", "volt"),
        ("1e400", "volt"),
        ("5 5", "volt"),
        ("--3", "ohm"),
    ],
)
def test_nonsense_is_refused_with_the_field_named(text, unit):
    """A sentence for the person at the bench, and the field."""
    with pytest.raises(FieldError) as refused:
        parse_quantity(text, unit, field="probe ohms")

    assert refused.value.field == "probe ohms"
    assert refused.value.sentence.endswith(".")


@pytest.mark.parametrize(
    ("text", "low", "high"),
    [
        ("0.86 ±0.02", 0.84, 0.88),
        ("230 V ± 2 %", 225.4, 234.6),
        ("5", 5.0, 5.0),
        ("5 +-1", 4.0, 6.0),
    ],
)
def test_limits_may_be_typed_beside_a_figure(text, low, high):
    """± in the figure's unit or in per cent."""
    found = parse_uncertain(text, "volt", field="v")

    assert (found.low, found.high) == pytest.approx((low, high))


def test_a_quantity_holds_its_value_inside_its_range():
    """No figure outside its own range, none that is not a number."""
    with pytest.raises(FieldError):
        Quantity(5.0, 6.0, 7.0)
    with pytest.raises(FieldError):
        Quantity(math.nan, 0.0, 1.0)
    assert Quantity(5.0, 4.0, 6.0).relative == pytest.approx(0.2)


@pytest.mark.parametrize(
    ("given", "ok"),
    [
        (3, True),
        (3.5, True),
        ({"value": 3, "low": 2, "high": 4}, True),
        ({"value": 3, "low": 4, "high": 5}, False),
        ({"value": 3, "low": 2}, False),
        ("3", False),
        (None, False),
        (True, False),
        (math.inf, False),
    ],
)
def test_uncertain_inputs_are_checked(given, ok):
    """A number, or value, low and high with the value between."""
    if ok:
        assert from_json("x", given).value == pytest.approx(3, abs=0.6)
    else:
        with pytest.raises(FieldError):
            from_json("x", given)


@given(st.floats(0.1, 1e3), st.floats(0, 0.5), st.floats(0.1, 1e3), st.floats(0, 0.5))
def test_corners_bound_a_quotient(a, da, b, db):
    """Any value inside the limits of the inputs stays inside the limits of the result."""
    x, y = Quantity(a, a * (1 - da), a * (1 + da)), Quantity(b, b * (1 - db), b * (1 + db))

    found = corners(lambda p, q: p / q, x, y)

    for p in (x.low, x.value, x.high):
        for q in (y.low, y.value, y.high):
            assert found.low * (1 - 1e-12) <= p / q <= found.high * (1 + 1e-12)


@given(st.floats(1e-11, 1e11))
def test_what_is_written_reads_back(value):
    """There and back again within the digits shown."""
    assert parse_quantity(engineering(value, "V", 6), "volt", field="v") == pytest.approx(
        value, rel=2e-5
    )


def test_ranges_read_well():
    """± where the range is even and narrow, from … to elsewhere; a unit once."""
    assert with_range(Quantity(230.0, 227.0, 233.0), "V") == "230 V ±3.0"
    assert with_range(Quantity(5.0, 3.0, 9.0), "V") == "5.00 V, 3.00 to 9.00"
    assert with_range(exact(230.0, "supply"), "V") == "230 V"
    assert span(1790.0, 2460.0, "V") == "1.7 to 2.5 kV"


@given(st.floats(1e-3, 1e6), st.floats(1.001, 30.0))
def test_a_shown_range_is_never_narrower_than_the_range(low, factor):
    """Rounded outward, and by no more than it must."""
    first, last = span(low, low * factor, "Ω").split(" to ")
    unit = last.split()[1]
    a = parse_quantity(first if " " in first else f"{first} {unit}", "ohm", field="low")
    b = parse_quantity(last, "ohm", field="high")
    assert a <= low * (1 + 1e-6)
    assert b >= low * factor * (1 - 1e-6)
    assert b - a <= 1.6 * low * (factor - 1) + 0.004 * low * factor


@pytest.mark.parametrize(
    ("limits", "value", "words"),
    [
        ({"above": 0}, 0.0, "above 0"),
        ({"at_least": 0}, -1.0, "at least 0"),
        ({"at_most": 5}, 6.0, "at most 5"),
    ],
)
def test_limits_say_what_is_accepted_first(limits, value, words):
    """First what is accepted, then what came."""
    with pytest.raises(FieldError, match=words):
        within("volts", value, unit="V", **limits)
