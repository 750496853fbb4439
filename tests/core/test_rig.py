"""The rig at the bench: what each element does to the row, both ways of solving it, every rule just
below and just above, every failure, and what is refused.
"""

import itertools
import math
import re
from contextlib import nullcontext

import numpy as np
import pytest

from greyfell.core.chain.building import BOND, DIODE, OPEN, SHORTED, Failure, core_of
from greyfell.core.chain.elements import KINDS, parse_rig
from greyfell.core.chain.failing import failed, failures
from greyfell.core.chain.over_rating import beyond
from greyfell.core.chain.sight import charges, series_reactance
from greyfell.core.chain.solving import by_phasors, exported, in_time, solve, switched_on
from greyfell.core.dangers.of_row import ROWS, spoken
from greyfell.core.errors import FieldError
from greyfell.core.network.timeline import rms
from greyfell.core.planners.registry import PLANNERS
from tests.conftest import every

SUPPLY = {"volts": 230.0, "hertz": 50.0, "ohms": 0.4, "breaker_amps": 16.0}
PIECE = {
    "volts": 230.0,
    "hertz": 50.0,
    "ratio": 9.0,
    "primary_ohms": 1.6,
    "secondary_ohms": 110.0,
    "leakage_henries": 0.045,
    "idle_amps": 1.5,
    "core_watts": 60.0,
    "bond": "end",
}
FLOATS = PIECE | {"bond": "none"}
BALLAST = {"kind": "ballast", "short_amps": 5.0, "at_volts": 230.0, "at_hertz": 50.0, "ohms": 2.0}
BRIDGE = {"kind": "rectifier", "rectifier": "bridge", "diode_volts": 8.0}
RESERVOIR = {"kind": "reservoir", "farads": 1e-6}


def rig(piece=PIECE, ahead=(), behind=(), load=None, **supply):
    """A rig of these elements."""
    return parse_rig(
        {
            "supply": {**SUPPLY, **supply},
            "ahead": list(ahead),
            "piece": piece,
            "behind": list(behind),
            "load": load or {"kind": "open"},
        }
    )


def codes(found):
    """The codes of what a rig says."""
    return {s.code for s in spoken(found)}


# ------------------------------------------------------------------------- solved, both ways


@pytest.mark.parametrize(
    ("ahead", "load"),
    [
        ([BALLAST], {"kind": "short"}),
        ([{"kind": "resistor", "ohms": 20.0}], {"kind": "resistor", "ohms": 5000.0}),
        ([{"kind": "lamp", "watts": 200.0}], {"kind": "short"}),
        ([{"kind": "variac", "fraction": 0.4}], {"kind": "resistor", "ohms": 3000.0}),
        ([{"kind": "choke", "henries": 0.2, "ohms": 2.0}], {"kind": "weld", "ohms": 900.0}),
    ],
)
def test_phasors_and_time_agree_where_nothing_bends_much(ahead, load):
    """Every joint's volts and amps within a hundredth."""
    row = rig(ahead=ahead, load=load)
    one, two = by_phasors(row), in_time(row)

    for a, b in zip(one.joints, two.joints, strict=True):
        assert a.volts == pytest.approx(b.volts, rel=0.012, abs=0.02)
        assert a.amps == pytest.approx(b.amps, rel=0.012, abs=1e-4)


def test_the_ballast_planner_and_the_rig_give_the_same_amps():
    """The same case, the same number: a plain impedance behind a ballast, shorted."""
    stiff = PIECE | {"idle_amps": 1e-4, "core_watts": 0.0, "secondary_ohms": 1e-3}
    row = rig(piece=stiff, ahead=[BALLAST], load={"kind": "short"}, ohms=0.0)
    x = 2 * math.pi * 50 * 0.045
    amps = solve(row).line.amps
    planned = PLANNERS["ballast_bank"](
        {
            "supply_volts": 230.0,
            "supply_hertz": 50.0,
            "limit_amps": 10.0,
            "source_resistance_ohms": 1.6,
            "source_reactance_ohms": x,
            "ballasts": [
                {"title": "b", "short_amps": 5, "at_volts": 230, "at_hertz": 50, "ohms": 2}
            ],
        }
    )

    assert planned["choices"][0]["shorted_amps"]["value"] == pytest.approx(amps, rel=2e-3)


def test_the_dc_supply_planner_and_the_rig_give_the_same_volts():
    """A bridge behind a winding with the same ohms: the same mean and ripple."""
    piece = PIECE | {
        "ratio": 0.0574,
        "primary_ohms": 1e-3,
        "secondary_ohms": 0.95,
        "leakage_henries": 1e-6,
        "idle_amps": 1e-3,
        "core_watts": 0.0,
        "bond": "none",
    }
    row = rig(
        piece=piece,
        behind=[
            {"kind": "rectifier", "rectifier": "bridge", "diode_volts": 0.9},
            {"kind": "reservoir", "farads": 4.7e-3},
        ],
        load={"kind": "resistor", "ohms": 23.3},
        ohms=0.0,
    )
    mean = in_time(row).load.mean_volts
    planned = PLANNERS["dc_supply"](
        {
            "winding_volts": 230 * 0.0574,
            "load_amps": mean / 23.3,
            "reservoir_farads": 4.7e-3,
            "source_resistance_ohms": 0.95,
        }
    )

    assert planned["loaded_volts"]["value"] == pytest.approx(mean, rel=0.015)


STRAIGHT = PIECE | {"ratio": 1.0, "secondary_ohms": 2.0, "straight": 1.0, "bond": "none"}
"""One to one, its iron straight."""
X = 2 * math.pi * 50 * 0.045


def test_the_lamp_planner_and_the_rig_give_the_same_amps_and_glow():
    """A lamp ahead of straight iron, idle and shorted."""
    piece = STRAIGHT | {"idle_amps": 1.5, "core_watts": 40.0}
    lamp = {"kind": "lamp", "watts": 200.0, "volts": 230.0}
    idle = solve(rig(piece=piece, ahead=[lamp], ohms=0.0))
    planned = PLANNERS["lamp"](
        {
            "supply_volts": 230.0,
            "lamp_watts": 200.0,
            "magnetising_amps": math.sqrt(1.5**2 - (40 / 230) ** 2),
            "magnetising_exponent": 1.0,
            "core_watts": 40.0,
        }
    )

    assert planned["loop_amps"]["value"] == pytest.approx(idle.line.amps, rel=0.015)
    assert planned["winding_volts"]["value"] == pytest.approx(idle.joints[-2].volts, rel=0.015)


def test_a_variac_is_its_ratio_and_a_tenth_of_an_ohm():
    """In the row as in the netlist: winding and brush of one of ten amps. Common practice."""
    text = exported(rig(ahead=[{"kind": "variac", "fraction": 1.0}]))

    assert re.search(r"^RRa1 \S+ \S+ 0\.1$", text, re.M)
    assert re.search(r"^ETa1 wall \S+ n2 0 1$", text, re.M)


@pytest.mark.parametrize(("fraction", "taken"), [(0.0099, False), (0.0101, True), (1.31, False)])
def test_a_brush_stands_between_a_hundredth_and_a_third_above(fraction, taken):
    """No variac gives more than some 130 % of the line, and at its end there is no iron left."""
    with nullcontext() if taken else pytest.raises(FieldError):
        rig(ahead=[{"kind": "variac", "fraction": fraction}])


@pytest.mark.parametrize("fraction", [0.3, 0.6, 0.95])
def test_the_variac_planner_and_the_rig_give_the_same_amps(fraction):
    """An unloaded piece of straight iron at three settings: brush and line."""
    piece = STRAIGHT | {"core_watts": 0.0}
    found = by_phasors(rig(piece=piece, ahead=[{"kind": "variac", "fraction": fraction}], ohms=0.0))
    points = [{"volts": v, "amps": 1.5 * v / 230, "watts": 0.1} for v in (20, 230)]
    planned = PLANNERS["variac"](
        {
            "line_volts": 230.0,
            "brush_amps": 8.0,
            "points": points,
            "wanted_volts": fraction * 230,
        }
    )

    assert planned["brush_amps_drawn"]["value"] == pytest.approx(found.joints[-3].amps, rel=0.02)
    assert planned["line_amps"]["value"] == pytest.approx(found.line.amps, rel=0.02)


@pytest.mark.parametrize("farads", [2e-5, 5e-5, 9e-4])
def test_the_series_capacitor_planner_and_the_rig_give_the_same_amps(farads):
    """Above and below resonance, shorted and into a load; volts on the capacitor."""
    piece = STRAIGHT | {"idle_amps": 1e-4, "core_watts": 0.0}
    capacitor = {"kind": "capacitor", "farads": farads}
    given = {
        "supply_volts": 230.0,
        "supply_hertz": 50.0,
        "source_resistance_ohms": 3.6,
        "source_reactance_ohms": X,
        "capacitance_farads": farads,
        "load_ohms": 30.0,
    }
    planned = PLANNERS["series_capacitor"](given)
    shorted = by_phasors(rig(piece=piece, ahead=[capacitor], load={"kind": "short"}, ohms=0.0))
    loaded = by_phasors(
        rig(piece=piece, ahead=[capacitor], load={"kind": "resistor", "ohms": 30.0}, ohms=0.0)
    )

    assert planned["amps_shorted"]["value"] == pytest.approx(shorted.line.amps, rel=0.01)
    assert planned["amps_loaded"]["value"] == pytest.approx(loaded.line.amps, rel=0.01)


@pytest.mark.parametrize("ohms", [20.0, 500.0, 20e3])
def test_the_output_planner_and_the_rig_give_the_same_volts(ohms):
    """Open and into a load behind the piece's own impedance."""
    piece = STRAIGHT | {"ratio": 9.0, "secondary_ohms": 110.0, "idle_amps": 1e-4, "core_watts": 0.0}
    found = by_phasors(rig(piece=piece, load={"kind": "resistor", "ohms": ohms}, ohms=0.0))
    planned = PLANNERS["output"](
        {
            "winding_volts": 9.0 * 230,
            "winding_supply_volts": 230.0,
            "supply_volts": 230.0,
            "source_resistance_ohms": 110.0 + 81 * 1.6,
            "source_reactance_ohms": 81 * X,
            "load_ohms": ohms,
        }
    )

    assert planned["open_volts"]["value"] == pytest.approx(9.0 * 230)
    assert planned["loaded_volts"]["value"] == pytest.approx(found.load.volts, rel=0.01)


@pytest.mark.parametrize("remanence", [0.0, 0.7])
def test_the_breaker_planner_s_inrush_holds_the_rig_s(remanence):
    """The worst switching of the same iron: the formula is an upper bound, of which six tenths to
    all flows. REF-M-17.
    """
    piece = PIECE | {"air_henries": 0.01, "idle_amps": 0.5, "core_watts": 20.0}
    peak = switched_on(rig(piece=piece, ohms=0.0), remanence=remanence).peak_amps
    planned = PLANNERS["breaker"](
        {
            "breaker_amps": 16.0,
            "curve": "B",
            "supply_volts": 230.0,
            "supply_hertz": 50.0,
            "no_load_amps": 0.5,
            "loaded_amps": 6.0,
            "shorted_amps": 90.0,
            "winding_ohms": 1.6,
            "air_core_henries": 0.01,
            "peak_tesla": 1.5,
            "remanent_tesla": 1.5 * remanence,
            "saturation_tesla": 2.0,
        }
    )

    assert 0.62 <= peak / planned["inrush_peak_amps_used"]["high"] <= 1.0


def test_an_averaging_meter_reads_the_idle_amps_low():
    """15 to 35 % low on saturated iron; right on a sine."""
    found = in_time(rig(piece=PIECE | {"power": 11.0, "straight": 0.1}))

    assert 0.65 < found.line.averaging_amps / found.line.amps < 0.85
    assert found.line.averaging_volts == pytest.approx(found.line.volts, rel=5e-3)


def test_switched_on_at_the_worst_moment_it_draws_many_times_its_amps():
    """At the zero crossing with remanence, ten to fifty times the lasting peak; at the crest
    without it hardly more than that.
    """
    row = rig()
    lasting = float(np.abs(in_time(row).run.amps(in_time(row).built.joints[0].through)).max())
    worst = switched_on(row)
    gentle = switched_on(row, angle=math.pi / 2, remanence=0.0)

    assert 10 < worst.peak_amps / lasting < 100
    assert gentle.peak_amps < 1.5 * lasting


def test_power_goes_down_the_row_and_never_up():
    """Watts at every joint are no more than at the one before."""
    row = rig(
        ahead=[BALLAST, {"kind": "lamp", "watts": 500.0}],
        behind=[{"kind": "resistor", "ohms": 200.0}],
        load={"kind": "resistor", "ohms": 4000.0},
    )
    watts = [a.watts for a in in_time(row).joints]

    assert every(a >= b - 1e-6 for a, b in itertools.pairwise(watts))


def test_the_netlist_holds_elements_and_laws_and_nothing_else():
    """No name of this program; every part once; without an analysis where none is asked for, else
    one, with what to print.
    """
    row = rig(ahead=[BALLAST], behind=[], load={"kind": "arc", "volts": 900.0})
    text, whole = exported(row, run=False), exported(row)

    assert (whole.count(".tran "), whole.count(".print tran")) == (1, 1)
    assert "greyfell" not in text.lower()
    assert ".tran" not in text
    assert text.endswith(".end\n")
    names = [line.split()[0] for line in text.splitlines()[1:-1]]
    assert len(names) == len(set(names))


def test_one_cycle_is_as_long_as_the_supply_says():
    """60 Hz: a sixtieth of a second, RMS as the supply's."""
    run = in_time(rig(hertz=60.0)).run

    assert run.times[-1] == pytest.approx(1 / 60)
    assert rms(run.volts("wall")) == pytest.approx(230.0, rel=0.01)


def test_a_models_iron_draws_what_its_watts_do_not():
    """1.5 A and 60 W on 230 V: √(1.5² − 0.261²) = 1.477 A magnetise. REF-T-01."""
    whole = core_of(rig().piece)
    lossless = core_of(rig(piece=PIECE | {"core_watts": 0.0}).piece)

    assert whole.peak_amps / lossless.peak_amps == pytest.approx(1.4771 / 1.5, rel=1e-4)
    assert whole.flux == lossless.flux


def test_where_the_watts_take_all_a_fiftieth_is_left_to_magnetise():
    """345 W on 230 V are the whole 1.5 A."""
    lossy = core_of(rig(piece=PIECE | {"core_watts": 345.0}).piece)
    lossless = core_of(rig(piece=PIECE | {"core_watts": 0.0}).piece)

    assert lossy.peak_amps / lossless.peak_amps == pytest.approx(0.02)


@pytest.mark.parametrize(("hertz", "taken"), [(1000.0, True), (1001.0, False), (9.9, False)])
def test_a_model_is_told_from_ten_hertz_to_a_thousand(hertz, taken):
    """Beyond, no laminated iron works."""
    with nullcontext() if taken else pytest.raises(FieldError, match="Hertz must be"):
        rig(piece=PIECE | {"hertz": hertz})


# ------------------------------------------------------------------------------ what it says


@pytest.mark.parametrize(
    ("ratio", "refused"), [(0.48, False), (0.52, True), (1.0, True), (1.96, True), (2.04, False)]
)
def test_a_capacitor_near_resonance_is_refused(ratio, refused):
    """X_C between half and twice the loop's coils, on the secondary's side."""
    x = 2 * math.pi * 50 * 0.045 * 81
    row = rig(
        behind=[{"kind": "capacitor", "farads": 1 / (2 * math.pi * 50 * ratio * x)}],
        load={"kind": "resistor", "ohms": 8000.0},
    )

    assert ("resonance" in codes(solve(row))) is refused


def test_a_capacitor_ahead_of_idle_iron_is_refused_and_with_a_load_it_is_not():
    """It jumps into ferroresonance: 20 µF on an oven primary of some hundred ohms."""
    capacitor = {"kind": "capacitor", "farads": 2e-5}
    idle = rig(ahead=[capacitor])
    loaded = rig(ahead=[capacitor], load={"kind": "resistor", "ohms": 3000.0})

    assert "ferroresonance" in codes(in_time(idle))
    assert "ferroresonance" not in codes(solve(loaded))


@pytest.mark.parametrize(("bond", "refused"), [("end", True), ("middle", True), ("none", False)])
def test_a_bridge_on_a_bonded_winding_is_refused(bond, refused):
    """It shorts the winding through the earth."""
    row = rig(piece=PIECE | {"bond": bond}, behind=[BRIDGE, RESERVOIR])

    assert ("bridge-on-bonded" in codes(solve(row))) is refused


@pytest.mark.parametrize(
    ("kind", "rating", "below", "above"),
    [
        ({"kind": "lamp", "watts": 100.0}, "volts", 230.0, 180.0),
        (BALLAST, "rated_amps", 4.0, 3.8),
        ({"kind": "variac", "fraction": 1.0}, "brush_amps", 17.5, 16.0),
        ({"kind": "resistor", "ohms": 30.0}, "watts", 1300.0, 1150.0),
    ],
)
def test_what_is_beyond_its_rating_is_named(kind, rating, below, above):
    """With the output shorted: just within, and just beyond."""
    for value, told in ((below, False), (above, True)):
        row = rig(ahead=[{**kind, rating: value}], load={"kind": "short"})
        at = {b.at for b in beyond(solve(row))}
        assert ("ahead.0" in at or "a1" in at) is told, value


@pytest.mark.parametrize(("kind", "named"), [("bleeder", True), ("resistor", False)])
def test_a_bleeder_bears_volts_and_a_resistor_ahead_watts(kind, named):
    """Rated 500 V behind a doubler of kilovolts: a bleeder arcs along its body; what is rated in
    watts alone says nothing of volts.
    """
    part = {"kind": kind, "ohms": 1e7, "volts": 500.0, "watts": 1e4}
    half_wave = {"kind": "rectifier", "rectifier": "half-wave", "diode_volts": 8.0}
    behind = [half_wave, RESERVOIR, part] if kind == "bleeder" else []
    ahead = [] if kind == "bleeder" else [{k: v for k, v in part.items() if k != "volts"}]
    found = beyond(solve(rig(ahead=ahead, behind=behind)))

    assert any("arcs along its body" in b.fails for b in found) is named


@pytest.mark.parametrize(("share", "named"), [(0.95, True), (1.05, False)])
def test_a_diode_into_a_reservoir_bears_twice_the_peak_and_a_tenth(share, named):
    """The reservoir holds one peak while the winding swings to the other. Common practice."""
    behind = [{"kind": "rectifier", "rectifier": "half-wave", "diode_volts": 8.0}, RESERVOIR]
    peak = in_time(rig(behind=behind)).after("piece").peak_volts
    bears = {**behind[0], "inverse_volts": share * 1.1 * 2 * peak}
    found = beyond(in_time(rig(behind=[bears, RESERVOIR])))

    assert any(b.what == "inverse volts" for b in found) is named


@pytest.mark.parametrize(("breaker", "trips"), [(15.1, False), (14.9, True)])
def test_the_breaker_trips_above_what_it_holds(breaker, trips):
    """17.0 A over 1.13."""
    row = rig(load={"kind": "short"}, breaker_amps=breaker)

    assert ("trips" in codes(solve(row))) is trips


def test_without_a_breaker_told_that_is_said():
    """It is no licence."""
    row = parse_rig({"supply": {"volts": 230, "hertz": 50}, "piece": PIECE})

    assert "no-breaker" in codes(solve(row))


@pytest.mark.parametrize(("volts", "saturates"), [(252.0, False), (255.0, True)])
def test_iron_above_a_tenth_over_its_rated_flux_saturates(volts, saturates):
    """1.10 times."""
    assert ("saturates" in codes(in_time(rig(volts=volts)))) is saturates


@pytest.mark.parametrize(("volts", "driven"), [(2000.0, False), (1600.0, True)])
def test_a_winding_driven_beyond_its_rated_peak_is_damage(volts, driven):
    """2.06 kV on a winding for 1.6 kV: more than 1.2 times; what fails is named."""
    found = solve(rig(piece=PIECE | {"rated_volts": volts}))
    told = [s for s in spoken(found) if s.code == "beyond-rating"]

    assert bool(told) is driven
    if driven:
        assert "insulation" in told[0].sentence


@pytest.mark.parametrize(("ohms", "stays"), [(1.2e7, False), (2.2e7, True)])
def test_a_charge_that_stays_longer_than_a_minute_is_said(ohms, stays):
    """1 µF from 3.2 kV: some 4.2 time constants to 50 V."""
    row = rig(
        behind=[
            {"kind": "rectifier", "rectifier": "half-wave", "diode_volts": 8.0},
            RESERVOIR,
            {"kind": "bleeder", "ohms": ohms},
        ]
    )
    found = solve(row)

    assert ("charged" in codes(found)) is stays
    name, volts, joules, seconds = charges(found)[0]
    assert name == "reservoir"
    assert joules == pytest.approx(1e-6 * volts**2 / 2)
    assert (seconds > 60) is stays


def test_a_charge_that_nothing_empties_stays_for_ever():
    """No bleeder, no load."""
    row = rig(behind=[{"kind": "rectifier", "rectifier": "half-wave"}, RESERVOIR])
    told = next(s for s in spoken(solve(row)) if s.code == "charged")

    assert "for ever" in told.sentence


def test_what_limits_is_named_with_its_volts():
    """A ballast ahead; without one the piece itself."""
    with_one = next(s for s in spoken(solve(rig(ahead=[BALLAST]))) if s.code == "limits")
    without = next(s for s in spoken(solve(rig())) if s.code == "limits")

    assert with_one.sentence.startswith("Ballast limits")
    assert without.sentence.startswith("The piece itself limits")


def test_a_ballast_ahead_of_overdriven_iron_makes_peaks_that_are_told():
    """Crest above 1.6: the peak breaks insulation."""
    small = PIECE | {"volts": 80.0, "idle_amps": 1.0, "core_watts": 20.0}
    row = rig(piece=small, ahead=[{**BALLAST, "short_amps": 2.0}])

    assert "peaky" in codes(in_time(row))
    assert "peaky" not in codes(in_time(rig()))


@pytest.mark.parametrize(("farads", "raised"), [(1e-10, False), (2e-8, True)])
def test_the_winding_s_own_capacitance_raises_the_open_volts(farads, raised):
    """ω²LC of the secondary above 8 %."""
    big = PIECE | {"leakage_henries": 0.9, "winding_farads": farads}

    assert ("raised" in codes(solve(rig(piece=big)))) is raised


def test_a_capacitor_sees_every_coil_of_its_loop_from_its_own_side():
    """A choke of 0.2 H ahead, 45 mH of leakage, 8.1 H behind a ratio of 9: 0.345 H from the line;
    81 times as much from behind.
    """
    capacitor = {"kind": "capacitor", "farads": 1e-6}
    row = rig(
        ahead=[{"kind": "choke", "henries": 0.2, "ohms": 1.0}, capacitor],
        behind=[{"kind": "choke", "henries": 8.1, "ohms": 1.0}, capacitor],
    )
    omega = 2 * math.pi * 50

    assert series_reactance(row, row.ahead[1], omega) == pytest.approx(omega * 0.345)
    assert series_reactance(row, row.behind[1], omega) == pytest.approx(81 * omega * 0.345)


@pytest.mark.parametrize(("share", "said"), [(1.02, True), (0.98, False)])
def test_amps_shorted_are_unlimited_above_ten_times_the_breaker(share, said):
    """Whatever the piece itself leaves of the line."""
    amps = solve(rig(load={"kind": "short"})).line.amps
    row = rig(load={"kind": "open"}, breaker_amps=amps / 10 / share)

    assert ("nothing-limits" in codes(solve(row))) is said


@pytest.mark.parametrize(("rise", "raised"), [(0.081, True), (0.079, False)])
def test_a_rise_by_its_own_capacitance_is_said_from_eight_in_a_hundred(rise, raised):
    """ω²LC of the leakage and the winding's farads."""
    base = PIECE | {"leakage_henries": 0.9}
    each = (2 * math.pi * base["hertz"]) ** 2 * 0.9 * base["ratio"] ** 2
    row = rig(piece=base | {"winding_farads": rise / each})

    assert ("raised" in codes(solve(row))) is raised


@pytest.mark.parametrize(("rise", "told"), [(0.2, "25%"), (0.5, "100%"), (1.1, "many times")])
def test_what_capacitance_raises_is_told_as_a_share(rise, told):
    """x/(1 − x) of ω²LC; beyond one it resonates."""
    base = PIECE | {"leakage_henries": 0.9, "winding_farads": 1e-9}
    omega = 2 * math.pi * base["hertz"]
    each = omega**2 * 0.9 * base["ratio"] ** 2
    row = rig(piece=base | {"winding_farads": rise / each})
    said = next(s.sentence for s in spoken(solve(row)) if s.code == "raised")

    assert told in said


def test_every_rule_has_its_words_and_the_gravest_come_first():
    """Codes once; stops before cautions before notes."""
    assert len({r.code for r in ROWS}) == len(ROWS)
    order = [r.severity for r in ROWS]
    ranks = {"stop": 0, "caution": 1, "note": 2}
    assert [ranks[s] for s in order] == sorted(ranks[s] for s in order)
    assert every(r.condition and r.source for r in ROWS)


# ----------------------------------------------------------------------------- what may fail


def test_every_element_is_failed_both_ways_and_the_bond_and_a_diode():
    """Nothing is looked up: each is a failure of its own."""
    row = rig(
        ahead=[BALLAST],
        behind=[{"kind": "rectifier", "rectifier": "half-wave"}, RESERVOIR],
        load={"kind": "resistor", "ohms": 1e5},
    )
    found = {(f.at, f.how) for f, _ in failures(row)}

    for at in ("ahead.0", "behind.1", "load"):
        uid = {"ahead.0": row.ahead[0].id, "behind.1": row.behind[1].id, "load": row.load.id}[at]
        assert {(uid, SHORTED), (uid, OPEN)} <= found
    assert {(DIODE, SHORTED), (DIODE, OPEN), (BOND, OPEN)} <= found


def test_a_ballast_that_shorts_leaves_the_piece_on_the_whole_mains():
    """Into a short: four times the amps, and the breaker sees them."""
    whole = solve(rig(ahead=[BALLAST], load={"kind": "short"}, breaker_amps=10.0))
    told = {f.name: f for f in failed(whole)}
    shorted = told["ballast shorted"]

    assert shorted.solved.line.amps > 4 * whole.line.amps
    assert shorted.grave
    assert "breaker" in shorted.words


def test_a_core_without_its_bond_stands_at_the_winding_s_volts():
    """The whole at an end, half at the middle."""
    for bond, volts in (("end", 2070.0), ("middle", 1035.0)):
        whole = solve(rig(piece=PIECE | {"bond": bond}))
        told = next(f for f in failed(whole) if f.failure.at == BOND)
        assert told.grave
        said = "2.0" if volts > 2000 else "1.0"
        assert f"{said}" in told.words
        assert "kV to earth" in told.words


def test_a_bleeder_that_opens_leaves_the_charge():
    """Nothing takes it away any more."""
    row = rig(
        behind=[
            {"kind": "rectifier", "rectifier": "half-wave"},
            RESERVOIR,
            {"kind": "bleeder", "ohms": 1e7},
        ]
    )
    told = {f.name: f.words for f in failed(solve(row))}

    assert "nothing takes its charge away" in told["bleeder open"].lower()


def test_a_failure_is_the_network_with_that_part_changed():
    """An open element lets next to nothing pass; a shorted one has no volts."""
    row = rig(ahead=[BALLAST], load={"kind": "resistor", "ohms": 3000.0})
    opened = solve(row, Failure(at=row.ahead[0].id, how=OPEN))
    shorted = solve(row, Failure(at=row.ahead[0].id, how=SHORTED))

    assert opened.line.amps < 1e-3
    assert shorted.after("supply").volts == pytest.approx(
        shorted.after(row.ahead[0].id).volts, rel=1e-3
    )


# ---------------------------------------------------------------------------- what is refused


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"format": "greyfell.rig/2"}, "format"),
        ({"supply": {"volts": 230}}, "supply.hertz"),
        ({"supply": {"volts": -1, "hertz": 50}}, "supply.volts"),
        ({"supply": None}, "supply"),
        ({"piece": {}}, "piece.volts"),
        ({"piece": None}, "piece"),
        ({"piece": {**PIECE, "bond": "both"}}, "piece.bond"),
        ({"piece": {**PIECE, "core_watts": 400.0}}, "piece.core_watts"),
        ({"ahead": [{"kind": "rectifier", "rectifier": "bridge"}]}, "ahead.0.kind"),
        ({"ahead": [{"kind": "dimmer"}]}, "ahead.0.kind"),
        ({"ahead": [{"kind": "lamp"}]}, "ahead.0.watts"),
        ({"ahead": [{"kind": "lamp", "watts": math.inf}]}, "ahead.0.watts"),
        ({"ahead": [BALLAST] * 9}, "ahead"),
        ({"ahead": "x"}, "ahead"),
        ({"ahead": [3]}, "ahead.0.kind"),
        ({"behind": [BRIDGE, BRIDGE]}, "behind"),
        ({"behind": [RESERVOIR, BRIDGE]}, "behind"),
        ({"behind": [BRIDGE, {"kind": "capacitor", "farads": 1e-6}]}, "behind"),
        ({"behind": [{"kind": "rectifier", "rectifier": "centre-tap"}]}, "behind"),
        ({"behind": [{"kind": "rectifier", "rectifier": "star"}]}, "behind.0.rectifier"),
        ({"load": {"kind": "battery", "volts": 12}}, "load"),
        ({"load": {"kind": "reservoir", "farads": 1}}, "load.kind"),
        ({"ahead": [{**BALLAST, "id": "x"}, {**BALLAST, "id": "x"}]}, "ahead"),
        ({"title": 3}, "title"),
    ],
)
def test_a_rig_that_cannot_be_is_refused_by_its_field(change, field):
    """One sentence each, nothing half built."""
    document = {"supply": SUPPLY, "piece": PIECE, **change}
    with pytest.raises(FieldError) as told:
        parse_rig(document)
    assert told.value.field == field
    assert told.value.sentence.endswith((".", "given."))


def test_a_rig_comes_back_as_it_went():
    """The open format, there and back, with every kind that may stand somewhere."""
    row = rig(
        ahead=[BALLAST, {"kind": "variac", "fraction": 0.5, "title": "dial"}],
        behind=[{"kind": "choke", "henries": 3.0, "ohms": 40.0}],
        load={"kind": "lamp", "watts": 60.0, "volts": 230.0},
    )

    assert parse_rig(row.as_json()) == row
    assert every(kind.where for kind in KINDS.values())
