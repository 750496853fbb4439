"""Planners of salvage and measuring at their thresholds: discharge, metering, ratio, peak."""

import math

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.planners.registry import PLANNERS

CHAIN = {
    "capacitance_farads": 1e-6,
    "volts_peak": 1000.0,
    "resistor_ohms": 1e5,
    "resistor_volts": 2000.0,
    "resistor_watts": 10.0,
}


def said(name, **told):
    """The codes of what is said of a plan."""
    return {w["code"] for w in PLANNERS[name](told)["warnings"]}


@pytest.mark.parametrize(
    ("volts", "codes"),
    [
        (1399.0, set()),
        (1401.0, {"near-volts"}),
        (2000.0, {"near-volts"}),
        (2001.0, {"over-volts"}),
    ],
)
def test_volts_on_each_resistor_are_said_and_refused(volts, codes):
    """Seven tenths of the working volts ask for one more; beyond them it is refused. REF-Q-07."""
    told = {**CHAIN, "volts_peak": volts, "resistor_watts": 1000.0}
    answer = PLANNERS["discharge"](told)

    assert {w["code"] for w in answer["warnings"]} - {"then-short"} == codes
    assert answer.get("refused", False) is ("over-volts" in codes)


@pytest.mark.parametrize(("watts", "pulsed"), [(1.01, False), (0.99, True)])
def test_ten_times_its_watts_at_the_first_touch(watts, pulsed):
    """1000 V on 100 kΩ are 10 W at the first touch."""
    assert ("pulse" in said("discharge", **{**CHAIN, "resistor_watts": watts})) is pulsed


@pytest.mark.parametrize(("ohms", "hold"), [(4.9e5, 5.0), (5.1e5, 5.1), (1e4, 5.0), (10e6, 100.0)])
def test_it_is_held_ten_time_constants_and_never_under_five_seconds(ohms, hold):
    """1 µF: half a megohm is half a second a time constant. House rule."""
    answer = PLANNERS["discharge"]({**CHAIN, "resistor_ohms": ohms})

    assert answer["hold_seconds"]["value"] == pytest.approx(hold)


def test_rated_volts_start_from_their_peak_with_the_mains_a_tenth_high():
    """√2 · 1.1 of the AC rating, and one way of saying the volts only. REF-R-07."""
    rated = {k: v for k, v in CHAIN.items() if k != "volts_peak"} | {"rated_volts_ac": 1000.0}
    start = PLANNERS["discharge"](rated)["start_volts"]["value"]

    assert start == pytest.approx(1000 * math.sqrt(2) * 1.1)
    for told in (CHAIN | {"rated_volts_ac": 1.0}, {k: rated[k] for k in rated if "rated" not in k}):
        with pytest.raises(FieldError, match="one way"):
            PLANNERS["discharge"](told)


def test_a_range_of_farads_widens_the_hold_and_a_bleeder_is_never_trusted():
    doubtful = {"value": 1e-6, "low": 0.9e-6, "high": 1.2e-6}
    told = {**CHAIN, "capacitance_farads": doubtful, "resistor_ohms": 1e7, "bleeder_ohms": 1e7}
    answer = PLANNERS["discharge"](told)

    assert answer["hold_seconds"]["high"] == pytest.approx(120.0)
    assert "bleeder" in {w["code"] for w in answer["warnings"]}
    assert answer["recovered_volts"]["high"] == pytest.approx(100.0)


METER = {
    "full_scale_volts": 1000.0,
    "meter_full_scale_amps": 1e-4,
    "resistor_volts": 500.0,
    "resistor_watts": 1.0,
}


@pytest.mark.parametrize(
    ("told", "count"),
    [
        ({"resistor_volts": 1000 / 0.7 / 2 + 0.1}, 2),
        ({"resistor_volts": 1000 / 0.7 / 2 - 0.1}, 3),
        ({"resistor_watts": 0.101, "resistor_volts": 5000.0}, 2),
        ({"resistor_watts": 0.21, "resistor_volts": 5000.0}, 1),
    ],
)
def test_the_chain_is_as_short_as_volts_and_watts_let_it(told, count):
    """Seven tenths of the volts, half of the watts: 0.1 W in all. REF-Q-07."""
    assert PLANNERS["metering"]({**METER, **told, "series": "E96"})["resistors"] == count


def test_a_standard_value_within_two_per_cent_is_built_and_its_error_told():
    """10 MΩ in two of 5.1 MΩ is 2 % off, three of 3.3 MΩ are 1 %. IEC 60063."""
    answer = PLANNERS["metering"]({**METER, "resistor_volts": 800.0, "series": "E24"})

    assert answer["resistors"] == 3
    assert answer["ohms_each"]["value"] == 3.3e6
    assert answer["error_fraction"]["value"] == pytest.approx(-0.01, abs=1e-6)
    assert answer["full_scale_volts_as_built"]["low"] == pytest.approx(0.99 * 990, rel=1e-6)


@pytest.mark.parametrize(("foot", "warned"), [(None, True), (2.9e5, False), (3.2e5, True)])
def test_a_meter_that_opens_leaves_its_leads_live_without_a_foot(foot, warned):
    """Without a resistor across the meter all of the volts; with one its share of them."""
    told = METER if foot is None else {**METER, "foot_ohms": foot}

    assert ("open-meter" in said("metering", **told)) is warned


def test_a_meter_that_reads_it_alone_and_a_chain_without_end_are_refused():
    with pytest.raises(FieldError, match="meter alone"):
        PLANNERS["metering"]({**METER, "meter_ohms": 1e7 + 1})
    with pytest.raises(FieldError, match="take larger ones"):
        PLANNERS["metering"]({**METER, "resistor_volts": 0.5})


@pytest.mark.parametrize(
    ("volts", "neon"), [(42.4, "dark"), (42.5, "undecided"), (63.6, "undecided"), (63.7, "lit")]
)
def test_a_neon_lamp_by_its_peak(volts, neon):
    """Dark below 60 V peak, lit above 90. Common practice."""
    assert PLANNERS["peak"]({"volts": volts})["neon"] == neon


def both(there, back, flux=1.0):
    """A ratio read both ways: forward and back as volts read over driven, 10 V at the primary."""
    n = math.sqrt(there / back)
    driven = 10.0 * n * flux
    return {
        "driven_volts": 10.0,
        "sensed_volts": 10.0 * there,
        "other_driven_volts": driven,
        "other_sensed_volts": driven * back,
        "supply_volts": 100.0,
    }


@pytest.mark.parametrize(
    ("told", "code", "there"),
    [
        (both(0.1, 9.99), "impossible", False),
        (both(0.1, 10.01), "impossible", True),
        (both(0.1, 9.0, 1.99), "unlike-flux", False),
        (both(0.1, 9.0, 2.01), "unlike-flux", True),
        (both(0.1, 9.0, 0.501), "unlike-flux", False),
        (both(0.1, 9.0, 0.499), "unlike-flux", True),
        (both(0.299, 3.0), "live", False),
        (both(0.301, 3.0), "live", True),
    ],
)
def test_what_is_said_of_a_ratio(told, code, there):
    """Coupling of at most one, like volts per turn within a factor of two, 30 V on the supply."""
    assert (code in said("ratio_check", **told)) is there


@pytest.mark.parametrize(("family", "low", "high"), [("oven", 0.935, 0.985), ("none", 0.88, 1.0)])
def test_one_way_takes_the_familys_coupling(family, low, high):
    """Driven in reverse the output falls by the coupling twice. Common practice."""
    told = {"driven_volts": 40.0, "sensed_volts": 4.0, "supply_volts": 230.0, "family": family}
    back = PLANNERS["ratio_check"]({**told, "direction": "reverse"})
    forward = PLANNERS["ratio_check"]({**told, "direction": "forward"})

    assert back["output_volts"]["low"] == pytest.approx(low**2 * 2300)
    assert back["output_volts"]["high"] == pytest.approx(high**2 * 2300)
    assert forward["output_volts"]["low"] == forward["output_volts"]["high"] == pytest.approx(23.0)
    with pytest.raises(FieldError, match="both its volts"):
        PLANNERS["ratio_check"]({**told, "other_driven_volts": 1.0})
