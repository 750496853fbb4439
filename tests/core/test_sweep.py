"""A winding wound up on a variac: the knees, what it draws between the steps, points that do not
belong.
"""

import math

import numpy as np
import pytest

from greyfell.core.circuit.sweep import (
    LEAST_POINTS,
    ODD,
    ONSET,
    STEEP,
    STEP,
    SweepPoint,
    curve,
    sweep_of,
    sweep_on_record,
)
from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from scripts.sweeps import pieces, score, swept
from tests.conftest import MAINS, PLATE, piece

VOLTS = range(40, 280, 20)


def amps(volts):
    """Straight iron, and a steep end: the knees are known by algebra."""
    return 1e-3 * volts + (volts / 200) ** 12


def points(volts=VOLTS, **more):
    """A sweep without any meter's error."""
    return [SweepPoint(volts=v, amps=amps(v), reading=f"r{v}", **more) for v in volts]


def by_algebra(ratio):
    """Where 1.1 V gives so many times the amps of that curve."""
    low, high = 20.0, 300.0
    for _ in range(80):
        middle = (low + high) / 2
        if amps(STEP * middle) / amps(middle) < ratio:
            low = middle
        else:
            high = middle
    return low


@pytest.mark.parametrize(("ratio", "name"), [(ONSET, "onset"), (STEEP, "steep")])
def test_the_knees_lie_where_a_tenth_more_volts_gives_half_as_much_again_and_twice(ratio, name):
    """IEC 61869-2 for the onset; both named, both with their range."""
    knee = getattr(sweep_of(points()), name)

    assert knee.value == pytest.approx(by_algebra(ratio), rel=0.01)
    assert knee.low < by_algebra(ratio) < knee.high


@pytest.mark.parametrize(("steps", "passed"), [(-1, False), (8, True)])
def test_a_knee_that_the_last_step_has_not_passed_is_not_told(steps, passed):
    """Just short of a tenth over it, and just past: else only what it lies above."""
    last = STEP * by_algebra(ONSET) + steps
    found = sweep_of(points([*range(40, 160, 20), last]))

    assert (found.onset is not None) == passed
    assert found.above == pytest.approx(last / STEP)
    if not passed:
        assert by_algebra(ONSET) > found.above


def test_straight_iron_has_no_knee():
    """A gap that carries all the volts."""
    found = sweep_of([SweepPoint(volts=v, amps=v / 100) for v in VOLTS])

    assert found.onset is None
    assert found.steep is None


@pytest.mark.parametrize(("times", "named"), [(ODD * 0.97, False), (ODD * 1.08, True)])
def test_a_point_far_off_its_neighbours_is_named_and_left_out(times, named):
    """Just below twice off and just above."""
    steps = points(range(40, 280, 10))
    bad = steps[6]
    steps[6] = SweepPoint(volts=bad.volts, amps=bad.amps * times, reading="bad")

    assert [p.reading for p in sweep_of(steps).odd] == (["bad"] if named else [])


@pytest.mark.parametrize("n", range(1, 11))
def test_a_slip_of_ten_is_named_wherever_it_stands_and_the_knee_stays(n):
    """Every step but the ends."""
    steps = points()
    steps[n] = SweepPoint(volts=steps[n].volts, amps=10 * steps[n].amps, reading="bad")
    found = sweep_of(steps)

    assert "bad" in {p.reading for p in found.odd}
    assert found.onset.low < by_algebra(ONSET) < found.onset.high


def test_what_lies_between_steps_is_read_off_and_beyond_them_is_not():
    """Amps to a percent; nothing below the first or above the last."""
    found = sweep_of(points())

    assert found.amps_at(150.0).value == pytest.approx(amps(150.0), rel=0.02)
    assert found.amps_at(39.0) is None
    assert found.amps_at(261.0) is None
    assert found.watts_at(150.0) is None


def test_core_and_copper_are_told_apart():
    """Watts of core by the square of the volts, and 10 Ω of copper."""
    steps = [
        SweepPoint(volts=v, amps=amps(v), watts=(v / 50) ** 2 + 10 * amps(v) ** 2) for v in VOLTS
    ]
    core = sweep_of(steps, ohms=10.0).core_watts_at(230.0)

    assert core.low < (230 / 50) ** 2 < core.high


@pytest.mark.parametrize(("count", "enough"), [(LEAST_POINTS - 1, False), (LEAST_POINTS, True)])
def test_a_sweep_has_four_steps(count, enough):
    """Three say nothing of a bend; two at the same volts are one."""
    steps = points(list(VOLTS)[:count])
    if enough:
        assert len(sweep_of([*steps, steps[0]]).points) == count
    else:
        with pytest.raises(FieldError, match="4 steps"):
            sweep_of([*steps, steps[0]])


def test_the_curve_goes_through_its_points_and_never_back():
    """Monotone wherever its points are."""
    at = np.array([40.0, 60.0, 61.0, 200.0])
    along = curve(at, [0.1, 0.2, 0.9, 1.0])
    found = along(np.linspace(40, 200, 500))

    assert along(at) == pytest.approx([0.1, 0.2, 0.9, 1.0])
    assert (np.diff(found) >= -1e-12).all()


def test_the_curve_is_that_of_a_general_library():
    """SciPy's monotone cubic, inside the ends' own slopes."""
    interpolate = pytest.importorskip("scipy.interpolate")
    volts = np.array([float(v) for v in VOLTS])
    theirs = interpolate.PchipInterpolator(np.log(volts), np.log(amps(volts)))
    at = np.linspace(65.0, 235.0, 100)

    assert curve(volts, amps(volts))(at) == pytest.approx(np.exp(theirs(np.log(at))), rel=1e-9)


def test_simulated_sweeps_come_near_and_their_ranges_hold():
    """Two dozen pieces of the forward model with a cheap meter; `make sweeps` does thousands."""
    found = score(24, 17)

    assert found["onset: within 4 %"][0] >= 95
    assert found["steep: within 4 %"][0] >= 95
    assert found["onset: inside its range"][0] >= 90
    assert found["core watts: within 10 %"][0] >= 95
    assert found["one point ten times: the same knee, or named"][0] >= 95


def test_the_no_load_readings_of_the_fed_winding_are_its_sweep():
    """Struck ones and those of another winding are none of it."""
    rows = [
        {"kind": "no_load", "driven": ["A", "B"], "volts": v, "amps": round(amps(v), 4)}
        for v in (60.0, 120.0, 160.0, 200.0, 230.0)
    ]
    rows[1]["struck"] = "wrong range"
    ident = identify(parse_record(piece("ABCD", [*MAINS, *rows], nameplate=PLATE)))
    found = sweep_on_record(ident.record, ident.belief)

    assert [p.volts for p in found.points] == [60.0, 160.0, 200.0, 230.0]
    assert found.ohms == pytest.approx(33.0, rel=0.05)


def test_a_piece_with_too_few_steps_has_no_sweep():
    """None, and no error."""
    ident = identify(parse_record(piece("ABCD", MAINS, nameplate=PLATE)))

    assert sweep_on_record(ident.record, ident.belief) is None


def test_a_struck_point_moves_nothing():
    """The same knee within its range."""
    for made, pair, rng in pieces(5, 3):
        whole, _ = swept(made, pair, rng)
        less, _ = swept(made, pair, rng, "struck")
        if whole.onset is not None and less.onset is not None:
            assert math.isclose(whole.onset.value, less.onset.value, rel_tol=0.03)
