"""Figures and rules that only a seal knew, each by a sum of one's own or a published row."""

import math
import re

import pytest

from greyfell.core.bench.setup import parse_setup
from greyfell.core.chain.elements import parse_rig
from greyfell.core.chain.failing import LESS, MORE, failed
from greyfell.core.chain.solving import solve
from greyfell.core.coil_design.window import Window
from greyfell.core.dangers.contacts import contacts
from greyfell.core.dangers.listing import dangers
from greyfell.core.dangers.scene import Scene
from greyfell.core.evidence.parse import parse_record
from greyfell.core.figures.notation import parse_quantity
from greyfell.core.identify import identify
from greyfell.core.network.rectifiers import INVERSE
from greyfell.core.planners.registry import PLANNERS
from tests.core.scenes import base
from tests.core.test_rig import BALLAST, rig

# ------------------------------------------------------------------ who touches what, to earth


def to_earth(name):
    """Volts of every lead of a piece to earth."""
    ident = identify(parse_record(base(name)))
    return ident, {c.one: c for c in contacts(ident) if c.two == "earth"}


def test_a_fed_lead_stands_at_the_line_a_tenth_high():
    """230 V and a tenth: IEC 60038."""
    _, found = to_earth("converter")

    assert found["A"].volts == pytest.approx(253.0)
    assert found["B"].volts == pytest.approx(253.0)


def test_a_floating_output_stands_at_the_top_of_its_volts_a_tenth_high():
    """What it may put out at the most, by its range, on a high line."""
    ident, found = to_earth("converter")
    output = next(w for w in ident.windings if "C" in w.coil.leads)

    assert found["C"].volts == pytest.approx(1.1 * output.volts.high)
    assert found["C"].volts > 120.0


# ------------------------------------------------------------------ loop, window, diodes


def test_amps_of_a_path_with_one_part_mended_by_hand():
    """0.86 V over 480 A is 1.792 mΩ; the parts are 1.073 mΩ of it, so 1.435 mΩ are reactance;
    without a lug of 0.1 mΩ 1.734 mΩ are left: 496 A.
    """
    volts = {"winding": 0.21, "cables": 0.15, "clamp": 0.095, "left": 0.012, "right": 0.048}
    parts = [{"title": title, "volts": v} for title, v in volts.items()]
    given = {"parts": parts, "amps": 480.0, "open_volts": 0.86, "without": ["right"]}
    found = PLANNERS["current_path"](given)

    ohms = sum(volts.values()) / 480.0
    reactance = math.sqrt((0.86 / 480.0) ** 2 - ohms**2)
    left = math.hypot(ohms - 0.048 / 480.0, reactance)
    assert found["amps_without"]["value"] == pytest.approx(0.86 / left, rel=1e-6)
    assert found["amps_without"]["value"] == pytest.approx(496.0, abs=0.5)


@pytest.mark.parametrize(("build", "metres"), [(0.0, 0.188), (10.0, 0.2194)])
def test_a_mean_turn_goes_round_the_former_and_half_the_build(build, metres):
    """40 by 50 mm and a former of 1 mm: four sides are 188 mm, ten of build π times ten more."""
    made = Window(
        width_mm=20.0,
        height_mm=60.0,
        tongue_mm=40.0,
        stack_mm=50.0,
        primary_mm=27.0,
        shunts_mm=0.0,
        former_mm=1.0,
    )

    assert made.mean_turn_m(build) == pytest.approx(metres, abs=1e-4)


@pytest.mark.parametrize(
    ("rectifier", "peaks"),
    [
        ("half-wave", 2.0),
        ("doubler", 2.0),
        ("bridge", 1.0),
        ("centre-tap", 2.0),
        ("multiplier", 2.0),
    ],
)
def test_a_diode_bears_the_peaks_of_its_published_row(rectifier, peaks):
    """With a capacitor behind it; a bridge shares them between two. Common practice, R-T1."""
    assert INVERSE[rectifier] == peaks
    assert len(INVERSE) == 5


def test_resonance_of_a_series_capacitor_by_hand():
    """1/(ω·X): 22 Ω at 50 Hz meet 144.7 µF. REF-B-04."""
    planner = PLANNERS["series_capacitor"]
    found = planner(planner.example)

    assert found["resonant_farads"]["value"] == pytest.approx(1 / (2 * math.pi * 50.0 * 22.0))
    none = planner({**planner.example, "source_reactance_ohms": 0.0})
    assert none["resonant_farads"] is None


# ------------------------------------------------------------------ a row


@pytest.mark.parametrize("load", [{"kind": "short"}, {"kind": "open"}])
def test_what_a_failure_does_to_the_wall_is_told_the_right_way_round(load):
    """“Only” of less than it was by a fifth, “before” of more by a quarter; between, neither."""
    whole = solve(rig(ahead=[BALLAST], load=load))
    told = [f.words for f in failed(whole)]
    more = [re.match(r"([\d.]+ \S*A) from the wall", words) for words in told]
    less = [re.match(r"Only ([\d.]+ \S*A) from the wall", words) for words in told]

    assert any(more)
    assert any(less)
    for found in filter(None, more):
        assert parse_quantity(found[1], "ampere", field="amps") > MORE * whole.line.amps
    for found in filter(None, less):
        assert parse_quantity(found[1], "ampere", field="amps") < LESS * whole.line.amps


def test_direct_current_in_the_core_is_no_volts_per_hertz():
    """A half-wave puts the core a third beyond its flux, on the volts that its plate allows."""
    half = {"kind": "rectifier", "rectifier": "half-wave", "diode_volts": 1.0}
    row = rig(behind=[half], load={"kind": "resistor", "ohms": 2000.0})
    solved = solve(parse_rig(row.as_json()))
    codes = {d.code for d in dangers(Scene(row=solved))}

    assert "over-flux" not in codes


@pytest.mark.parametrize(
    ("isolated", "from_line"),
    [(True, False), (False, True)],
)
def test_only_an_isolated_source_takes_a_bench_off_the_line(isolated, from_line):
    """What is no source, or one that is not apart, leaves it on the mains."""
    source = {"id": "s", "kind": "source", "place": "line", "volts": 12.0, "isolated": isolated}
    told = parse_setup(
        {"fed": ["A", "B"], "chain": [source], "plug": "fixed", "earthed": True, "reach": True}
    )

    assert told.from_line is from_line
