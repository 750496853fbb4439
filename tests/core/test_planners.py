"""Rewind and ballast: worked examples, what must always hold, and what is refused."""

import cmath
import json
import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from greyfell.core.errors import FieldError
from greyfell.core.planners import PLANNERS
from greyfell.core.quantity import exact
from greyfell.core.rewind import scaled_to

REWIND, BALLAST = PLANNERS["rewind"], PLANNERS["ballast"]


@pytest.mark.parametrize(
    ("v", "target", "turns", "volts"),
    [
        (0.86, 2.5, 3, 2.58),
        (0.9, 12.0, 13, 11.7),
        (1.0, 0.2, 1, 1.0),
        (0.25, 24.0, 96, 24.0),
        (0.5, 1.25, 3, 1.5),
    ],
)
def test_turns_are_whole_and_nearest(v, target, turns, volts):
    """Hand calculation: turns = target over volts per turn, whole, at least one."""
    plan = REWIND({"supply_volts": 230, "volts_per_turn": v, "target_volts": target})

    assert plan["turns"] == turns
    assert plan["open_circuit_volts"]["value"] == pytest.approx(volts)
    assert plan["one_turn_more_volts"]["value"] - plan["one_turn_fewer_volts"][
        "value"
    ] == pytest.approx(2 * v)


@given(st.floats(0.02, 5.0), st.floats(0.0, 0.2), st.floats(0.01, 500.0))
def test_no_other_whole_turn_comes_nearer(v, spread, target):
    """The chosen turns are nearest, and the range carries through in proportion."""
    given_v = {"value": v, "low": v * (1 - spread), "high": v * (1 + spread)}
    plan = REWIND({"supply_volts": 230, "volts_per_turn": given_v, "target_volts": target})
    miss = abs(plan["open_circuit_volts"]["value"] - target)

    assert miss <= abs(plan["one_turn_more_volts"]["value"] - target) + 1e-9
    assert plan["turns"] == 1 or miss <= abs(plan["one_turn_fewer_volts"]["value"] - target) + 1e-9
    assert plan["open_circuit_volts"]["low"] == pytest.approx(plan["turns"] * given_v["low"])


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"target_volts": -2}, "target_volts"),
        ({"target_volts": 0}, "target_volts"),
        ({"volts_per_turn": 0}, "volts_per_turn"),
        ({"supply_volts": -1}, "supply_volts"),
        ({"volts_per_turn": {"value": 1, "low": 2, "high": 3}}, "volts_per_turn"),
        ({"target_volts": "x"}, "target_volts"),
        ({"target_volts": math.nan}, "target_volts"),
        ({"wishes": 3}, "wishes"),
        ({"target_volts": 1e9}, "target_volts"),
        ({"volts_per_turn": {"value": 1}}, "volts_per_turn"),
    ],
)
def test_rewind_refuses_by_field(change, field):
    """The sentence names the field."""
    with pytest.raises(FieldError) as refused:
        REWIND({"supply_volts": 230, "volts_per_turn": 0.9, "target_volts": 12, **change})

    assert refused.value.field.startswith(field)


def test_volts_per_turn_follow_the_supply():
    """Below the knee flux follows volts (REF-M-03)."""
    assert scaled_to(exact(0.9), 230.0, 207.0).value == pytest.approx(0.81)


BASE = {"supply_volts": 230.0, "supply_hertz": 50.0, "limit_amps": 5.0}


@given(
    st.floats(90, 260),
    st.floats(40, 70),
    st.floats(0.1, 30),
    st.floats(0, 20),
    st.floats(0, 20),
    st.floats(0, 5),
)
def test_the_ballasted_loop_passes_the_wanted_current(v, f, i, rs, xs, rb):
    """There and back: the phasor sum of the loop with the ballast in gives the limit again."""
    assume(math.hypot(rs + rb, xs) < 0.98 * v / i)
    plan = BALLAST(
        {
            "supply_volts": v,
            "supply_hertz": f,
            "limit_amps": i,
            "source_resistance_ohms": rs,
            "source_reactance_ohms": xs,
            "ballast_resistance_ohms": rb,
        }
    )
    loop = complex(rs + rb, xs + 2 * cmath.pi * f * plan["inductance_henries"]["value"])

    assert v / abs(loop) == pytest.approx(i, rel=1e-6)
    assert plan["shorted_amps"]["value"] == pytest.approx(i, rel=1e-6)
    assert plan["reactive_voltamperes"]["value"] == pytest.approx(
        i * i * plan["reactance_ohms"]["value"], rel=1e-6
    )
    assert (
        plan["reactance_ohms"]["low"]
        <= plan["reactance_ohms"]["value"]
        <= plan["reactance_ohms"]["high"]
    )


@pytest.mark.parametrize(
    "change",
    [
        {"source_reactance_ohms": 46.0},
        {"source_resistance_ohms": 50.0},
        {"ballast_resistance_ohms": 46.0},
        {"source_reactance_ohms": 400.0},
    ],
)
def test_a_loop_that_limits_already_is_refused(change):
    """No reactance is needed, and the sentence says what flows now."""
    with pytest.raises(FieldError, match="limits already"):
        BALLAST({**BASE, **change})


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"limit_amps": 0}, "limit_amps"),
        ({"supply_hertz": 0}, "supply_hertz"),
        ({"source_resistance_ohms": -1}, "source_resistance_ohms"),
        ({"supply_volts": None}, "supply_volts"),
    ],
)
def test_ballast_refuses_by_field(change, field):
    """Out of bounds, by name."""
    with pytest.raises(FieldError) as refused:
        BALLAST({**BASE, **change})

    assert refused.value.field == field


def test_ranges_of_the_inputs_reach_the_result():
    """An uncertain source makes an uncertain ballast, at the corners."""
    plan = BALLAST({**BASE, "source_reactance_ohms": {"value": 12.0, "low": 10.0, "high": 14.0}})

    assert plan["reactance_ohms"]["high"] - plan["reactance_ohms"]["low"] == pytest.approx(4.0)
    assert plan["shorted_amps"]["low"] < 5.0 < plan["shorted_amps"]["high"]


@pytest.mark.parametrize("planner", PLANNERS.values(), ids=lambda p: p.name)
def test_every_planner_is_documented(planner):
    """A purpose, an example that works, schemas of both sides, figures with ranges and basis."""
    result = planner(dict(planner.example))

    assert planner.purpose
    assert set(planner.gives.model_fields) == set(result)
    for value in result.values():
        if isinstance(value, dict):
            assert value["low"] <= value["value"] <= value["high"]
            assert value["basis"]
    json.dumps([planner.takes.model_json_schema(), planner.gives.model_json_schema()])


@pytest.mark.parametrize("given", [None, [], "x", 3])
def test_an_input_is_an_object(given):
    """Anything else is refused."""
    with pytest.raises(FieldError, match="JSON object"):
        REWIND(given)
