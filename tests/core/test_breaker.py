"""A breaker ahead of a piece, against the corner points of the standards, and its chances."""

import math

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.planners.registry import PLANNERS

BREAKER = PLANNERS["breaker"]
AMPS = 10.0
GIVEN = {
    "breaker_amps": AMPS,
    "supply_volts": 230.0,
    "supply_hertz": 50.0,
    "no_load_amps": 0.5,
    "shorted_amps": 200.0,
    "inrush_peak_amps": 10.0,
}


def loaded(times, curve="B", **more):
    """What so many times the breaker's amps do."""
    return BREAKER({**GIVEN, "curve": curve, "loaded_amps": times * AMPS, **more})["cases"][
        "loaded"
    ]


@pytest.mark.parametrize(
    ("curve", "times", "trips"),
    [
        # IEC 60898-1: 1.13 holds for an hour, 1.45 trips within it
        ("B", 1.12, "never"),
        ("B", 1.14, "may"),
        ("C", 1.44, "may"),
        ("C", 1.46, "will"),
        ("D", 1.46, "will"),
        # IEC 60947-2: 1.05 and 1.30
        ("K", 1.04, "never"),
        ("K", 1.06, "may"),
        ("Z", 1.31, "will"),
        # UL 489: holds its own amps, trips at 1.35 within the hour
        ("US", 0.99, "never"),
        ("US", 1.34, "may"),
        ("US", 1.36, "will"),
    ],
)
def test_what_stays_on_trips_by_the_standards_corner_points(curve, times, trips):
    """Just below and just above each."""
    assert loaded(times, curve)["trips"] == trips


@pytest.mark.parametrize(("amps", "latest"), [(32.0, 60.0), (40.0, 120.0)])
def test_at_two_and_a_half_times_it_trips_within_a_minute_or_two(amps, latest):
    """IEC 60898-1: 1 to 60 s up to 32 A, to 120 s above."""
    seconds = loaded(2.55 * amps / AMPS, breaker_amps=amps)["seconds"]

    assert seconds["low"] == pytest.approx(1.0)
    assert seconds["high"] == pytest.approx(latest)


@pytest.mark.parametrize(
    ("curve", "low", "high"), [("B", 3, 5), ("C", 5, 10), ("D", 10, 20), ("K", 8, 14), ("Z", 2, 3)]
)
def test_the_magnet_starts_at_its_foot_and_surely_trips_at_its_top(curve, low, high):
    """The first peak over √2·m·In; REF-P-03, IEC 60898-1."""
    root = math.sqrt(2) * AMPS
    told = {
        share: BREAKER(
            {**GIVEN, "curve": curve, "loaded_amps": 5.0, "inrush_peak_amps": share * root}
        )["cases"]["inrush"]["trips"]
        for share in (low * 0.99, low * 1.01, high * 0.99, high * 1.01)
    }

    assert list(told.values()) == ["never", "may", "may", "will"]


@pytest.mark.parametrize(("on", "trips"), [(0.9, "never"), (10.0, "may"), (61.0, "will")])
def test_a_shot_trips_by_its_length(on, trips):
    """At 2.55 times: before 1 s never, between may, after a minute it will."""
    assert loaded(2.55, on_seconds=on)["trips"] == trips


def test_shots_that_follow_each_other_add_up():
    """Half a second at 2.9 times holds; on half of the time it is 2.05 times for good."""
    alone = loaded(2.9, "D", on_seconds=0.5)
    often = loaded(2.9, "D", on_seconds=0.5, off_seconds=0.5)

    assert alone["trips"] == "never"
    assert often["trips"] == "will"


def test_the_chance_at_switching_on_is_that_of_angle_and_remanence():
    """Without saturation none; with iron driven far beyond it nearly every one; a larger letter
    has less.
    """
    iron = {"winding_ohms": 1.0, "air_core_henries": 0.003, "peak_tesla": 1.5}
    told = {**GIVEN, "loaded_amps": 5.0, **iron}
    told.pop("inrush_peak_amps")
    chance = {
        curve: BREAKER({**told, "curve": curve})["chance_per_switching"]["value"] for curve in "BCD"
    }
    none = BREAKER({**told, "saturation_tesla": 3.0, "peak_tesla": 1.0})["chance_per_switching"]

    assert 1 > chance["B"] > chance["C"] > chance["D"] >= 0
    assert none["high"] == 0.0


def test_a_short_that_does_not_trip_it_is_refused():
    """The piece burns first."""
    found = BREAKER({**GIVEN, "loaded_amps": 2.0, "shorted_amps": 9.0})

    assert found["refused"]
    assert {w["code"] for w in found["warnings"]} >= {"short-holds"}


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"breaker_amps": 0}, "breaker_amps"),
        ({"curve": "Q"}, "curve"),
        ({"loaded_amps": -1.0}, "loaded_amps"),
        ({"inrush_peak_amps": None}, "inrush_peak_amps"),
        ({"inrush_peak_amps": None, "winding_ohms": 0.0, "peak_tesla": 1.0}, "inrush_peak_amps"),
    ],
)
def test_bad_input_names_its_field(more, field):
    """One sentence."""
    given = {k: v for k, v in {**GIVEN, "loaded_amps": 5.0, **more}.items() if v is not None}
    with pytest.raises(FieldError) as told:
        BREAKER(given)

    assert told.value.field == field
