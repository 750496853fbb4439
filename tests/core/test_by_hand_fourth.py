"""Rules that a fourth draw of a hundred mutants found nobody to notice, worked out by hand."""

import math

import pytest
from scipy.stats import t as student

from greyfell.core.chain.building import _leakage
from greyfell.core.chain.elements import Model, parse_rig
from greyfell.core.chain.solving import switched_on
from greyfell.core.dangers.of_live import _other_region
from greyfell.core.dangers.of_piece.high import _plate_volts
from greyfell.core.evidence.parse import parse_record
from greyfell.core.figures.quantity import exact
from greyfell.core.identify import identify
from greyfell.core.isolation.body import FIBRILLATES, _along
from greyfell.core.planners import feed
from greyfell.core.uses.measured import STUDENT
from tests.conftest import MAINS, every, piece
from tests.core.test_setup import GUARD, ballast, changed, codes, plain
from tests.core.test_setup import MAINS as ON_THE_BENCH

EUROPE = {"volts": 230.0, "hertz": 50.0}

# ------------------------------------------------------------------ statistics


def test_students_t_is_that_of_the_tables():
    """JCGM 100:2008, table G.2: 95 %, 1 to 13 degrees of freedom; scipy as referee."""
    assert every(
        value == pytest.approx(student.ppf(0.975, free), rel=1e-3)
        for free, value in enumerate(STUDENT, 1)
    )


# ------------------------------------------------------------------ volts and flux


def test_shunts_saturate_at_the_flux_of_their_volts():
    """REF-M-01: √2·V over 2πf; 60 V at 50 Hz are 0.27 Wb of linkage, at 60 Hz five sixths of it."""
    figures = {"leakage_henries": 2.0, "shunt_volts": 60.0, "hertz": 50.0}
    at_50 = _leakage(Model(figures=figures)).law.flux
    at_60 = _leakage(Model(figures={**figures, "hertz": 60.0})).law.flux

    assert at_50 == pytest.approx(math.sqrt(2) * 60 / (100 * math.pi))
    assert at_60 == pytest.approx(at_50 * 5 / 6)


@pytest.mark.parametrize(
    ("bond", "middle", "low", "high"),
    [("none", 24.0, 0.0, 26.4), ("middle", 12.0, 10.8, 13.2), ("end", 24.0, 21.6, 26.4)],
)
def test_an_end_to_the_case_by_how_the_winding_is_bonded(bond, middle, low, high):
    """24 V on its own volts: floating it may have none or all, line ten per cent up (IEC 60038)."""
    told = feed.Given(
        plate_volts=exact(230.0),
        plate_hertz=50.0,
        supply_volts=exact(230.0),
        supply_hertz=50.0,
        plate_secondary_volts=24.0,
        bond=bond,
    )
    found = feed._case(told, 1.0)

    assert found.value == pytest.approx(middle)
    assert (found.low, found.high) == pytest.approx((low, high))


@pytest.mark.parametrize(
    ("text", "volts"), [("230 V 50 Hz, 4 kV 30 mA", 4000.0), ("2,1kV", 2100.0), ("12 V", 0.0)]
)
def test_kilovolts_are_read_off_a_plates_words(text, volts):
    ident = identify(parse_record(piece("ABCD", MAINS, nameplate={"text": text})))

    assert _plate_volts(ident) == pytest.approx(volts)


def test_one_output_of_the_other_region_is_enough():
    """115 V beside 12 V on 230 V mains: the 12 V do not excuse it."""
    volts = (115.0, 12.0)
    ratios = [
        {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 230, "sensed": s, "sensed_volts": v}
        for s, v in zip((["C", "D"], ["E", "F"]), volts, strict=True)
    ]
    ohms = [("A", "B", 12.0), ("C", "D", 4.0), ("E", "F", 0.3)]
    read = [{"kind": "resistance", "between": [a, b], "ohms": r} for a, b, r in ohms]
    apart = [("A", "C"), ("A", "E"), ("C", "E"), ("A", "core"), ("C", "core"), ("E", "core")]
    read += [
        {"kind": "resistance", "between": list(p), "ohms": "open", "range_ohms": 2e7} for p in apart
    ]
    ident = identify(parse_record(piece("ABCDEF", [*read, *ratios], supply=EUROPE)))

    assert _other_region(ident)


# ------------------------------------------------------------------ the bench


@pytest.mark.parametrize(("fuse", "told"), [(1.25, False), (1.26, True)])
def test_a_fuse_guards_a_ballast_up_to_a_quarter_above_its_rating(fuse, told):
    """Rated 1 A, passes 2 A: a fuse of 1.25 A opens before it cooks. Common practice."""
    setup = changed(ballast(plain(), 2.0, 1.0), GUARD, amps=fuse)

    assert ("ballast-amps" in codes(setup, ON_THE_BENCH)) is told


@pytest.mark.parametrize("place", range(1, len(FIBRILLATES)))
def test_a_curve_of_the_body_passes_through_its_points(place):
    """Curve c1 of IEC 60479-1 at its own durations, and between its neighbours beside them."""
    seconds, amps = FIBRILLATES[place]

    assert _along(FIBRILLATES, seconds) == pytest.approx(amps)
    assert _along(FIBRILLATES, seconds * 0.99) >= amps


# ------------------------------------------------------------------ a row


def test_a_lamp_is_cold_when_it_is_switched_on():
    """Cold it has a twelfth to a sixteenth of its ohms: the first peak into a short is far above
    that of the lamp as hot as it becomes.
    """
    rig = parse_rig(
        {
            "format": "greyfell.rig/1",
            "supply": {"volts": 230.0, "hertz": 50.0},
            "ahead": [{"id": "a1", "kind": "lamp", "watts": 100.0, "volts": 230.0}],
            "piece": {
                "volts": 230.0, "hertz": 50.0, "ratio": 0.1, "primary_ohms": 1.0,
                "secondary_ohms": 0.02, "leakage_henries": 1e-3, "idle_amps": 0.05,
                "core_watts": 5.0,
            },
            "load": {"kind": "short"},
        }
    )  # fmt: skip
    on = switched_on(rig, angle=math.pi / 2, remanence=0.0)
    hot = math.sqrt(2) * 100.0 / 230.0

    assert on.peak_amps > 5 * hot
