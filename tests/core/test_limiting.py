"""The limiting planners at the bench: each threshold just below and just above, each picture of
what fails, and what is refused.
"""

import itertools
import math

import numpy as np
import pytest

from greyfell.core.errors import FieldError
from greyfell.core.planners.registry import PLANNERS
from tests.conftest import every

BANK, CHOKE, SLIDING = (PLANNERS[n] for n in ("ballast_bank", "choke", "sliding_choke"))
SATURABLE, CAPACITOR, LIMITER = (
    PLANNERS[n] for n in ("saturable_reactor", "series_capacitor", "limiter")
)
FEED, CRANK, BALLAST = PLANNERS["feed"], PLANNERS["crank_welder"], PLANNERS["ballast"]


def codes(found):
    """The codes of what is said."""
    return {w["code"] for w in found["warnings"]}


# ------------------------------------------------------------------------------------- ballast


def test_a_lamp_behind_a_ballast_takes_what_the_loop_s_phasors_leave_it():
    """Not the difference of ohms: a 500 W lamp behind 39 Ω still takes most of its volts."""
    given = {"supply_volts": 230.0, "supply_hertz": 50.0, "limit_amps": 230 / 39}
    found = BALLAST({**given, "load_lamp_watts": 500.0})
    amps, volts = found["loaded_amps"]["value"], found["load_volts"]["value"]

    assert amps == pytest.approx(500 / 230 * (volts / 230) ** 0.55, rel=1e-3)
    assert math.hypot(volts, 39 * amps) == pytest.approx(230, rel=1e-3)


def test_the_first_peak_is_twice_the_last_without_resistance():
    """κ = 2.0 where R is nought, 1.02 where it is all. IEC 60909, from memory."""
    given = {"supply_volts": 230.0, "supply_hertz": 50.0, "limit_amps": 5.0}
    reactive = BALLAST(given)
    resistive = BALLAST({**given, "ballast_resistance_ohms": 45.9})

    assert reactive["first_peak_amps"]["value"] == pytest.approx(5 * math.sqrt(2) * 2.0)
    ratio = resistive["first_peak_amps"]["value"] / resistive["peak_amps"]["value"]
    assert ratio == pytest.approx(1.02, abs=0.01)


def test_ohms_added_up_say_too_little_and_that_is_shown_beside():
    """20 Ω behind 39 Ω of reactance: 5.2 A, and not 3.9."""
    found = BALLAST(
        {"supply_volts": 230.0, "supply_hertz": 50.0, "limit_amps": 230 / 39, "load_ohms": 20.0}
    )

    assert found["loaded_amps"]["value"] == pytest.approx(230 / math.hypot(20, 39))
    assert found["added_up_amps"]["value"] == pytest.approx(230 / 59)
    assert "not-by-subtraction" in codes(found)


def test_a_load_is_ohms_or_a_lamp():
    """Told twice: a sentence."""
    given = {"supply_volts": 230.0, "supply_hertz": 50.0, "limit_amps": 5.0}
    with pytest.raises(FieldError, match="not both") as told:
        BALLAST({**given, "load_ohms": 20.0, "load_lamp_watts": 100.0})
    assert told.value.field == "load_lamp_watts"


# -------------------------------------------------------------------------------- ballast_bank


def test_the_best_bank_is_the_nearest_below_the_limit_by_brute_force():
    """Three unlike ballasts: every series, parallel and mixed way of joining, by hand."""
    ohms = {"a": 40.0, "b": 60.0, "c": 90.0}
    ballasts = [
        {"title": k, "short_amps": 230 / z, "at_volts": 230.0, "at_hertz": 50.0}
        for k, z in ohms.items()
    ]
    ways = set()
    for n in (1, 2, 3):
        for chosen in itertools.permutations(ohms.values(), n):
            ways.add(sum(chosen))
            ways.add(1 / sum(1 / z for z in chosen))
            if n == 3:
                ways.add(1 / (1 / (chosen[0] + chosen[1]) + 1 / chosen[2]))
    for limit in (2.0, 3.7, 4.5, 7.0, 9.0):
        found = BANK(
            {
                "supply_volts": 230.0,
                "supply_hertz": 50.0,
                "limit_amps": limit,
                "ballasts": ballasts,
            }
        )
        below = [230 / z for z in ways if 230 / z <= limit]
        above = [230 / z for z in ways if 230 / z > limit]
        if below:
            best = found["choices"][0]["shorted_amps"]["value"]
            assert best == pytest.approx(max(below), rel=1e-9)
        if above:
            nearest = found["next_above"]["shorted_amps"]["value"]
            assert nearest == pytest.approx(min(above), rel=1e-9)


@pytest.mark.parametrize(("rated", "over"), [(5.9, False), (5.7, True)])
def test_a_part_above_its_rating_is_told(rated, over):
    """230 V over 39 Ω are 5.897 A."""
    part = {"title": "a", "short_amps": 230 / 39, "at_volts": 230.0, "at_hertz": 50.0}
    given = {"supply_volts": 230.0, "supply_hertz": 50.0, "limit_amps": 6.0}
    found = BANK({**given, "ballasts": [{**part, "rated_amps": rated}]})

    assert found["choices"][0]["over_rating"] is over
    assert ("over-rating" in codes(found)) is over


def test_strings_above_their_volts_may_pass_more():
    """A ballast for 120 V across 230 V saturates: up to 1.4 times, in the range."""
    part = {"title": "a", "short_amps": 3.0, "at_volts": 120.0, "at_hertz": 50.0}
    given = {"supply_volts": 230.0, "supply_hertz": 50.0, "limit_amps": 6.0, "ballasts": [part]}
    amps = BANK(given)["choices"][0]["shorted_amps"]

    assert amps["high"] == pytest.approx(1.4 * amps["value"])


def test_a_hundred_ballasts_are_looked_at_as_far_as_it_goes():
    """Many kinds: still an answer, and none above the limit among the choices."""
    ballasts = [
        {
            "title": f"k{n}",
            "short_amps": 1.0 + 0.37 * n,
            "at_volts": 230.0,
            "at_hertz": 50.0,
            "count": 10,
        }
        for n in range(8)
    ]
    given = {"supply_volts": 230.0, "supply_hertz": 50.0, "limit_amps": 9.0, "ballasts": ballasts}
    found = BANK(given)

    assert found["choices"]
    assert every(c["shorted_amps"]["value"] <= 9.0 for c in found["choices"])


def test_copper_above_the_whole_impedance_is_refused():
    """Ohms and amps that cannot both be right."""
    part = {"title": "a", "short_amps": 5.0, "at_volts": 230.0, "at_hertz": 50.0, "ohms": 50.0}
    given = {"supply_volts": 230.0, "supply_hertz": 50.0, "limit_amps": 6.0, "ballasts": [part]}
    with pytest.raises(FieldError, match="one of the two is wrong"):
        BANK(given)


# --------------------------------------------------------------------------------------- choke


@pytest.mark.parametrize(("amps", "fits"), [(3.8, True), (4.0, False)])
def test_the_window_decides_the_amps(amps, fits):
    """The same core takes 3.8 A and not 4.0: the next wire is too thick."""
    found = CHOKE({**CHOKE.example, "amps": amps})

    assert found["fits"] is fits
    assert found.get("refused", False) is not fits


def test_a_choke_saturates_at_twice_its_amps_and_a_larger_gap_keeps_it():
    """Below the given inductance at twice the amps; a lower flux density loses less."""
    usual = CHOKE(CHOKE.example)
    gentle = CHOKE({**CHOKE.example, "peak_tesla": 0.8})

    def kept(found):
        return found["henries_at_double_amps"]["value"] / found["henries"]["value"]

    assert 0.5 < kept(usual) < 0.8
    assert kept(gentle) > 0.95


def test_the_gap_pulls_as_its_flux_says():
    """573 N at 1.2 T on 10 cm²: B²A/2μ0. The flux is a little below, turns being whole."""
    found = CHOKE({**CHOKE.example, "tongue_mm": 30.0, "stack_mm": 1000 / 30 / 0.95})

    assert found["pull_newtons"]["value"] == pytest.approx(573.0, rel=0.01)


def test_a_core_too_small_for_any_gap_is_refused_by_its_field():
    """Even closed it does not reach the inductance."""
    with pytest.raises(FieldError, match="Even closed") as told:
        CHOKE({**CHOKE.example, "permeability": 50.0})
    assert told.value.field == "permeability"


@pytest.mark.parametrize(
    ("density", "said"), [(6.0, set()), (8.0, {"hot"}), (14.0, {"hot"}), (18.0, {"too-hot"})]
)
def test_a_choke_that_cooks_is_refused(density, said):
    """Thin wire for the same amps: 80 K inside the rise's range is hot, below it too hot."""
    found = CHOKE({**CHOKE.example, "a_per_mm2": density})

    assert {"hot", "too-hot"} & codes(found) == said
    assert found.get("refused", False) is ("too-hot" in said)


# ------------------------------------------------------------------------------- sliding_choke


@pytest.mark.parametrize(
    ("amps", "told"), [(4.61, True), (4.59, False), (18.3, True), (18.5, False)]
)
def test_nothing_is_said_outside_the_measured_points(amps, told):
    """From 4.6 to 18.4 A on 230 V."""
    if told:
        assert SLIDING({**SLIDING.example, "wanted_amps": amps})["millimetres_found"]["value"] >= 0
        return
    with pytest.raises(FieldError, match="reach from") as refused:
        SLIDING({**SLIDING.example, "wanted_amps": amps})
    assert refused.value.field == "wanted_amps"


def test_its_pull_is_that_of_its_inductance():
    """80 N at 20 A over 20 mH in 50 mm: ½·I²·dL/dx."""
    points = [
        {"millimetres": 0, "volts": 2 * math.pi * 50 * 0.0305, "amps": 1.0},
        {"millimetres": 50, "volts": 2 * math.pi * 50 * 0.0105, "amps": 1.0},
    ]
    given = {"supply_volts": 100.0, "supply_hertz": 50.0, "wanted_amps": 20.0}
    found = SLIDING({**given, "points": points})

    assert found["pull_newtons"]["value"] == pytest.approx(80.0, rel=1e-6)


def test_a_point_that_does_not_rise_is_said():
    """Fewer amps farther out: a point is wrong."""
    points = [dict(p) for p in SLIDING.example["points"]]
    points[1]["amps"] = 4.0
    found = SLIDING({**SLIDING.example, "points": points, "wanted_amps": 15.0})

    assert found["monotone"] is False
    assert "not-monotone" in codes(found)


@pytest.mark.parametrize(
    ("points", "field"),
    [
        ([{"millimetres": 0, "volts": 10, "amps": 1}], "points"),
        ([{"millimetres": 0, "volts": 10, "amps": 1}] * 2, "points"),
        (
            [{"millimetres": k, "volts": 10, "amps": 1, "watts": 11} for k in (0, 9)],
            "points.0.watts",
        ),
    ],
)
def test_points_that_cannot_be_are_refused(points, field):
    """One alone, the same twice, watts above volts times amps."""
    with pytest.raises(FieldError) as told:
        SLIDING({**SLIDING.example, "points": points})
    assert told.value.field == field


# ----------------------------------------------------------------- saturable reactor, capacitor


@pytest.mark.parametrize(("cores", "refused"), [(1, True), (2, False)])
def test_one_core_alone_is_refused(cores, refused):
    """1.9 kV on the control winding when it opens."""
    found = SATURABLE({**SATURABLE.example, "cores": cores})

    assert found.get("refused", False) is refused
    assert found["induced_volts_open_dc"]["value"] == pytest.approx(230 * 1000 / 120)


def test_a_load_that_cannot_take_the_amps_has_no_reactor():
    """230 V over 20 Ω are 11.5 A."""
    with pytest.raises(FieldError, match=r"11\.5 A"):
        SATURABLE({**SATURABLE.example, "load_amps": 11.6})


@pytest.mark.parametrize(
    ("ratio", "refused"), [(0.49, False), (0.51, True), (1.0, True), (1.99, True), (2.01, False)]
)
def test_between_half_and_twice_the_loop_s_reactance_it_is_refused(ratio, refused):
    """The forbidden band, both edges."""
    farads = 1 / (2 * math.pi * 50 * ratio * 22.0)
    given = {**CAPACITOR.example, "capacitance_farads": farads, "magnetising_ohms": 1.0}
    found = CAPACITOR(given)

    assert ("resonance" in codes(found)) is refused


@pytest.mark.parametrize(("reactance", "refused"), [(61.0, False), (59.0, True)])
def test_below_the_magnetising_reactance_iron_jumps(reactance, refused):
    """20 µF on an oven primary of 500 Ω, and here 60 Ω."""
    farads = 1 / (2 * math.pi * 50 * reactance)
    found = CAPACITOR({**CAPACITOR.example, "capacitance_farads": farads})

    assert ("ferroresonance" in codes(found)) is refused


def test_a_range_over_resonance_has_all_its_amps():
    """Where 1.0 lies inside the range, so do the amps at resonance."""
    c = 1 / (2 * math.pi * 50 * 22.0)
    given = {
        **CAPACITOR.example,
        "capacitance_farads": {"value": 1.1 * c, "low": 0.9 * c, "high": 1.3 * c},
    }
    found = CAPACITOR(given)

    assert found["amps_shorted"]["high"] == pytest.approx(230 / 4.0)


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"capacitance_farads": None}, "capacitance_farads"),
        ({"limit_amps": 2.0}, "capacitance_farads"),
        ({"capacitance_farads": None, "limit_amps": 50.0}, "limit_amps"),
    ],
)
def test_capacitor_or_amps_and_not_beyond_the_loop(more, field):
    """One of the two; and no capacitor lets more flow than the loop alone."""
    with pytest.raises(FieldError) as told:
        CAPACITOR({**CAPACITOR.example, **more})
    assert told.value.field == field


def test_amps_find_the_capacitor_and_the_capacitor_the_amps():
    """There and back."""
    given = {k: v for k, v in CAPACITOR.example.items() if k != "capacitance_farads"}
    found = CAPACITOR({**given, "limit_amps": 2.5})
    back = CAPACITOR({**given, "capacitance_farads": found["capacitance_found_farads"]["value"]})

    assert back["amps_shorted"]["value"] == pytest.approx(2.5)


# -------------------------------------------------------------------------------- limiter, feed


def choice(found, title):
    """The choice of a title."""
    return next(c for c in found["choices"] if c["title"] == title)


def test_a_variac_is_listed_as_no_limiter():
    """It sets volts."""
    dial = choice(LIMITER(LIMITER.example), "dial")

    assert dial["refused"]
    assert "limits nothing" in dial["reason"]


def test_the_recommended_is_the_nearest_below_and_nothing_above_is_taken():
    """Whatever the limit: the first choice is not refused and below, or all are refused."""
    for limit in np.geomspace(0.1, 40, 25):
        found = LIMITER({**LIMITER.example, "limit_amps": float(limit)})
        fitting = [c for c in found["choices"] if not c["refused"]]
        if not fitting:
            assert found["refused"]
            assert found["recommended"] == "nothing on hand"
            continue
        assert found["recommended"] == fitting[0]["title"]
        amps = [c["shorted_amps"]["value"] for c in fitting]
        assert max(amps) == amps[0] <= limit


@pytest.mark.parametrize(("volts_ac", "refused"), [(270, False), (265, True), (None, True)])
def test_a_capacitor_must_bear_what_stands_on_it(volts_ac, refused):
    """244 V and a high line: 268 V AC; what is not written is not believed."""
    item = {"id": "C", "kind": "capacitor", "title": "run", "farads": 2e-5}
    if volts_ac is not None:
        item["volts_ac"] = volts_ac
    found = LIMITER({**LIMITER.example, "stores": [item]})

    assert choice(found, "run")["refused"] is refused


def test_a_capacitor_without_the_magnetising_reactance_is_not_taken():
    """Whether it jumps is not known."""
    given = {k: v for k, v in LIMITER.example.items() if k != "magnetising_ohms"}
    told = choice(LIMITER(given), "run 20 µF")

    assert told["refused"]
    assert "not known" in told["reason"]


def test_stores_may_be_a_document_or_its_entries():
    """`greyfell.stores/1`, or part of it; an entry that is none is named."""
    rows = LIMITER.example["stores"]
    whole = {"format": "greyfell.stores/1", "items": rows}

    assert LIMITER({**LIMITER.example, "stores": whole}) == LIMITER(LIMITER.example)
    with pytest.raises(FieldError) as told:
        LIMITER({**LIMITER.example, "stores": [{"kind": "lamp"}]})
    assert told.value.field == "stores.items.0.watts"


@pytest.mark.parametrize(("volts", "refused"), [(109.0, False), (110.0, True)])
def test_flux_a_tenth_above_the_plate_is_refused(volts, refused):
    """120 V 60 Hz iron bears 100 V at 50 Hz; 1.10 is the stop."""
    item = {"id": "T", "kind": "source", "title": "t", "volts": volts, "amps": 20, "current": "AC"}
    found = FEED({**FEED.example, "stores": [item]})

    assert choice(found, "t")["refused"] is refused


@pytest.mark.parametrize(("amps", "refused"), [(4.6, False), (4.4, True)])
def test_a_source_too_small_is_refused_with_the_figure(amps, refused):
    """450 VA at 100 V are 4.5 A."""
    item = {"id": "T", "kind": "source", "title": "t", "volts": 100, "amps": amps, "current": "AC"}
    told = choice(FEED({**FEED.example, "stores": [item]}), "t")

    assert told["refused"] is refused
    assert ("450 VA" in told["reason"]) is refused


def test_where_nothing_may_feed_it_that_is_said():
    """230 V on 120 V 60 Hz iron, and empty stores."""
    found = FEED({**FEED.example, "stores": []})

    assert found["refused"]
    assert "none-may" in codes(found)


@pytest.mark.parametrize(
    ("more", "code"),
    [
        ({"core_moves": "no"}, "seized"),
        ({"core_moves": "unknown"}, "seized"),
        ({"board_inside": "yes"}, "unknown-board"),
        ({"board_inside": "unknown"}, "unknown-board"),
        ({"reactor": "secondary"}, "above-its-volts"),
    ],
)
def test_a_crank_welder_is_stopped_by_what_nobody_knows(more, code):
    """Seized, a board inside, or a winding for fewer volts: a stop, and unknown counts as one."""
    found = CRANK({**CRANK.example, **more})

    assert found["refused"]
    assert code in codes(found)
    assert "refused" not in CRANK(CRANK.example)
