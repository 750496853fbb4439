"""A variac ahead of a winding: brush, line, top, and the wind-up sheet with its stops."""

import math

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.planners.registry import PLANNERS

VARIAC = PLANNERS["variac"]
GIVEN = VARIAC.example


def codes(found):
    """The codes of what is said."""
    return {w["code"] for w in found["warnings"]}


def test_the_line_carries_the_brush_s_amps_times_the_setting():
    """So that its fuse never sees the brush's overload. Autotransformer."""
    found = VARIAC({**GIVEN, "wanted_volts": 23.0, "load_amps": 4.0})

    assert found["setting_fraction"]["value"] == pytest.approx(0.1)
    assert found["line_amps"]["value"] == pytest.approx(0.1 * found["brush_amps_drawn"]["value"])
    assert found["brush_amps_drawn"]["value"] > 4.0


@pytest.mark.parametrize(("load", "refused"), [(4.5, False), (4.8, True)])
def test_a_brush_above_what_it_bears_is_refused(load, refused):
    """With the winding's own amps at right angles, and 3 % for what was read."""
    found = VARIAC({**GIVEN, "wanted_volts": 115.0, "load_amps": load})

    assert ("over-brush" in codes(found)) is refused
    assert found.get("refused", False) is refused


@pytest.mark.parametrize(("wanted", "over"), [(100.0, False), (101.0, True)])
def test_the_plate_s_volts_per_hertz_end_the_winding_up(wanted, over):
    """120 V 60 Hz iron on 50 Hz: 100 V."""
    plate = {"plate_volts": 120.0, "plate_hertz": 60.0, "supply_hertz": 50.0}
    found = VARIAC({**GIVEN, **plate, "wanted_volts": wanted})

    assert found["most_volts"]["value"] == pytest.approx(100.0)
    assert ("over-the-top" in codes(found)) is over


def test_without_a_plate_nothing_is_wound_above_the_line():
    """A dial that goes to 269 V is no reason to go there; a plate of 277 V is."""
    bare, plated = VARIAC(GIVEN), VARIAC({**GIVEN, "plate_volts": 277.0})
    over = VARIAC({**GIVEN, "wanted_volts": 231.0})

    assert bare["most_volts"]["value"] == 230.0
    assert plated["most_volts"]["value"] == pytest.approx(1.17 * 230.0)
    assert "over-the-top" in codes(over)


def test_the_brush_s_own_limit_is_where_the_winding_draws_what_it_bears():
    """Beyond the last point along its slope; none where the dial ends before."""
    found = VARIAC({**GIVEN, "brush_amps": 2.5, "plate_volts": 400.0})
    roomy = VARIAC(GIVEN)
    slope = math.log(1.9 / 0.8) / math.log(230 / 180)
    at = 230 * (2.5 / 1.9) ** (1 / slope)

    assert found["brush_limit_volts"]["value"] == pytest.approx(at, rel=0.02)
    assert found["most_volts"]["value"] == pytest.approx(at, rel=0.02)
    assert roomy["brush_limit_volts"] is None


def test_every_step_of_the_sheet_stops_above_what_is_expected():
    """1.3 times the most of it; the last step at the most volts."""
    found = VARIAC({**GIVEN, "steps": 4})
    volts = [s["volts"]["value"] for s in found["sheet"]]

    assert len(volts) == 4
    assert volts[-1] == pytest.approx(found["most_volts"]["value"])
    for step in found["sheet"]:
        assert step["stop_above_amps"]["value"] == pytest.approx(1.3 * step["amps"]["high"])


@pytest.mark.parametrize(("brush", "fuse"), [(5.0, 5.0), (4.99, 4.0), (8.5, 8.0), (0.05, 0.1)])
def test_the_fuse_is_the_largest_that_is_sold_and_not_above_the_brush(brush, fuse):
    """IEC 60127-2's sizes."""
    assert VARIAC({**GIVEN, "brush_amps": brush})["fuse_amps"]["value"] == fuse


def test_a_dial_is_put_right_by_two_readings():
    """At 20 it gives 46 V and at 90 209 V: 115 V stand at 49.6."""
    dial = [{"dial": 20, "volts": 46}, {"dial": 90, "volts": 209}]
    found = VARIAC({**GIVEN, "wanted_volts": 115.0, "dial_readings": dial})

    assert found["dial_setting"]["value"] == pytest.approx(20 + 70 * (115 - 46) / 163)


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"points": [{"volts": 60, "amps": 0.1}]}, "points"),
        ({"dial_readings": [{"dial": 1, "volts": 2}]}, "dial_readings"),
        ({"dial_readings": [{"dial": 1, "volts": 2}, {"dial": 3, "volts": 2}]}, "dial_readings"),
        ({"brush_amps": 0}, "brush_amps"),
        ({"wanted_volts": -5}, "wanted_volts"),
        ({"steps": 1}, "steps"),
    ],
)
def test_bad_input_names_its_field(more, field):
    """One sentence."""
    with pytest.raises(FieldError) as told:
        VARIAC({**GIVEN, **more})

    assert told.value.field == field
