"""Isolation on the bench: zones just below and above, a body by its table, the touch map of earth,
float and neutral before and after a first fault, coils joined in every way.
"""

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.isolation.body import IMPEDANCE, body_ohms, zone
from greyfell.core.isolation.body_current import Outlet, parts_of, touches
from greyfell.core.network.parts import Resistor
from greyfell.core.planners.registry import PLANNERS
from tests.conftest import every


def touch_map(**more):
    """The planner on 230 V with these."""
    return PLANNERS["touch_map"]({"output_volts": 230.0, **more})


def pair(found, one, two):
    """One pair of a map."""
    return next(p for p in found["pairs"] if {p["from"], p["to"]} == {one, two})


def codes(found):
    """What is said."""
    return {w["code"] for w in found["warnings"]}


# ---------------------------------------------------------------------------------- a body


@pytest.mark.parametrize("row", IMPEDANCE, ids=lambda r: f"{r[0]:g} V")
def test_a_body_is_that_of_the_printed_table(row):
    """5, 50 and 95 % not exceeded, hand to hand. IEC 60479-1 table 1."""
    assert body_ohms(row[0]) == row[1:]


def test_between_and_beyond_the_table_it_falls_and_ends():
    """Never below the last row, never above the first."""
    ohms = [body_ohms(v)[0] for v in (10, 25, 40, 75, 150, 300, 1000, 5000)]

    assert ohms == sorted(ohms, reverse=True)
    assert ohms[0] == 1750.0
    assert ohms[-1] == 575.0


@pytest.mark.parametrize(
    ("amps", "seconds", "found"),
    [
        (0.00050, 10, "AC-1"),
        (0.00051, 10, "AC-2"),
        (0.00499, 10, "AC-2"),
        (0.00501, 10, "AC-3"),
        (0.0399, 10, "AC-3"),
        (0.0401, 10, "AC-4"),
        (0.199, 0.01, "AC-2"),
        (0.201, 0.01, "AC-3"),
        (0.499, 0.01, "AC-3"),
        (0.501, 0.01, "AC-4"),
        (0.099, 0.5, "AC-3"),
        (0.101, 0.5, "AC-4"),
    ],
)
def test_zones_just_below_and_just_above(amps, seconds, found):
    """Curves a, b and c1 at their printed points. IEC 60479-1 figure 20."""
    assert zone(amps, seconds) == found


# ------------------------------------------------------------------------------- the map


def test_a_floating_output_lets_only_its_leakage_through_to_earth():
    """Earthed pin, floating pin: L and N to earth are the leakage; both hands are not helped."""
    for case in ("earth", "float"):
        found = touch_map(case=case, leakage_amps=0.0003)
        assert found["isolates"]
        assert pair(found, "L", "earth")["body_amps"]["value"] == pytest.approx(3e-4, rel=0.05)
        assert pair(found, "L", "N")["zone"] == "AC-4"
        assert pair(found, "L", "N")["cleared_by"] == "nothing"


def test_a_neutral_tied_to_earth_cancels_it():
    """The line kills against everything earthed; a device behind the bond clears that, none else
    does.
    """
    bare = touch_map(case="neutral")
    behind = touch_map(case="neutral", residual_current_device="after-bond")
    ahead = touch_map(case="neutral", residual_current_device="ahead")

    assert not bare["isolates"]
    assert pair(bare, "L", "earth")["zone"] == "AC-4"
    assert pair(bare, "L", "earth")["cleared_by"] == "nothing"
    assert pair(behind, "L", "earth")["cleared_by"] == "residual-current device"
    assert pair(behind, "L", "N")["cleared_by"] == "nothing"
    assert pair(ahead, "L", "earth")["cleared_by"] == "nothing"
    assert "device-wanted" in codes(bare)
    assert "device-ahead" in codes(ahead)
    assert "device-wanted" not in codes(behind)


def test_a_device_behind_a_floating_output_does_nothing():
    """And it is said."""
    found = touch_map(residual_current_device="after-bond")

    assert "device-needs-bond" in codes(found)
    assert every(p["cleared_by"] == "nothing" for p in found["pairs"])


@pytest.mark.parametrize(("clip", "kills"), [("L", "N"), ("N", "L")])
def test_the_clip_of_an_earthed_scope_cancels_it_silently(clip, kills):
    """The other conductor stands at full volts to everything earthed, the clip too."""
    found = touch_map(instrument_clip=clip)

    assert not found["isolates"]
    assert clip in found["why_not"]
    for earthed in ("earth", "case", "clip"):
        assert pair(found, kills, earthed)["zone"] == "AC-4"


@pytest.mark.parametrize(("fault", "kills"), [("line", "N"), ("neutral", "L")])
def test_the_first_fault_to_an_earthed_case_is_silent_and_the_second_hand_is_not(fault, kills):
    """Nothing clears it; the other conductor kills."""
    found = touch_map(first_fault=fault)

    assert not found["isolates"]
    assert pair(found, kills, "earth")["zone"] == "AC-4"
    assert pair(found, kills, "earth")["cleared_by"] == "nothing"


def test_the_first_fault_to_a_floating_case_still_isolates_from_earth():
    """The case takes the conductor's volts; to earth only leakage flows."""
    found = touch_map(case="float", first_fault="line")

    assert found["isolates"]
    assert pair(found, "N", "case")["zone"] == "AC-4"
    assert pair(found, "case", "earth")["zone"] in ("AC-1", "AC-2")


def test_a_line_fault_behind_a_bonded_neutral_opens_the_breaker():
    """A hundred amps and more."""
    found = touch_map(case="neutral", first_fault="line")

    assert {p["cleared_by"] for p in found["pairs"]} == {"breaker"}


@pytest.mark.parametrize(("amps", "isolates"), [(0.0095, True), (0.0105, False)])
def test_so_much_leakage_is_no_leakage_any_more(amps, isolates):
    """Ten milliamps to earth through a body."""
    assert touch_map(leakage_amps=amps)["isolates"] == isolates


def test_a_short_touch_lies_in_a_lower_zone():
    """30 ms, as a device of persons needs, against for good."""
    assert pair(touch_map(seconds=0.03), "L", "N")["zone"] == "AC-3"


def test_a_wire_moved_moves_the_map():
    """The bond of the case lifted: the volts of the case change."""
    outlet = Outlet(volts=230.0, hertz=50.0, case="earth", farads=1e-8, fault="line")
    lifted = [p for p in parts_of(outlet) if p.name != "RE"]
    tied = next(p for p in parts_of(outlet) if p.name == "RE")

    assert isinstance(tied, Resistor)
    assert len(lifted) == len(parts_of(outlet)) - 1
    loose = touches(Outlet(volts=230.0, hertz=50.0, case="float", farads=1e-8, fault="line"))
    held = touches(outlet)
    volts = [{(t.one, t.two): t.volts for t in x}[("case", "0")] for x in (loose, held)]
    assert volts[0] > 100 * volts[1]


def test_unknown_leakage_counts_as_what_a_sound_part_may_just_have():
    """Three quarters of a milliamp."""
    assert pair(touch_map(), "L", "earth")["body_amps"]["value"] == pytest.approx(7.5e-4, rel=0.01)


# -------------------------------------------------------------------------------- joining


def halves(**more):
    """115 V halves and 12 V halves of 4 A on 230 V."""
    given = {
        "primary_coil_volts": 115.0,
        "secondary_coil_volts": 12.0,
        "secondary_coil_amps": 4.0,
        "supply_volts": 230.0,
    }
    return PLANNERS["halves"](given | more)


def way(found, primary, secondary):
    """One arrangement."""
    return next(
        a for a in found["arrangements"] if (a["primary"], a["secondary"]) == (primary, secondary)
    )


def test_joined_coils_wait_for_their_polarity():
    """Proved, they may be; one coil a side never waits."""
    assert way(halves(), "series", "series")["allowed"] == "after-polarity"
    assert way(halves(polarity_proved=True), "series", "parallel")["allowed"] == "yes"
    assert way(halves(supply_volts=115.0), "one coil", "one coil")["allowed"] == "yes"


@pytest.mark.parametrize(("volts", "allowed"), [(126.0, "yes"), (127.0, "no")])
def test_a_tenth_too_much_flux_is_the_end(volts, allowed):
    """115 V coils in parallel: 1.096 and 1.104 of their flux."""
    found = halves(supply_volts=volts, polarity_proved=True)

    assert way(found, "parallel", "series")["allowed"] == allowed


def test_the_whole_supply_on_a_half_is_refused_and_said():
    """Twice the flux; where every way is too much the plan is refused."""
    found = halves()

    assert way(found, "one coil", "series")["allowed"] == "no"
    assert way(found, "one coil", "series")["flux_ratio"]["value"] == pytest.approx(2.0)
    assert "whole-on-a-half" in codes(found)
    assert halves(supply_volts=300.0)["refused"]


def test_one_primary_coil_alone_bears_half_of_the_voltamperes():
    """The copper of one side."""
    found = halves(supply_volts=115.0, polarity_proved=True)
    whole = way(found, "parallel", "parallel")["voltamperes"]["value"]

    assert way(found, "one coil", "parallel")["voltamperes"]["value"] == pytest.approx(whole / 2)


def test_an_autotransformer_s_high_side_lies_above_its_low_one():
    """Alike or below, there is no answer."""
    for high in (230.0, 200.0):
        with pytest.raises(FieldError) as caught:
            PLANNERS["autotransformer"](
                {"low_volts": 230.0, "high_volts": high, "winding_voltamperes": 100.0}
            )
        assert caught.value.field == "high_volts"
