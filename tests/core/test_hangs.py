"""On what a plan hangs: shares, ends and costs, held against the planners themselves."""

import pytest

from greyfell.core.planner_kit.hangs import READINGS, hangs, reading_of
from greyfell.core.planners.registry import PLANNERS
from tests.conftest import every


def by_key(name, **more):
    """What a planner's example hangs on, by key."""
    planner = PLANNERS[name]
    return {h.key: h for h in hangs(planner, {**planner.example, **more}, None)}


def test_a_share_is_what_a_hundredth_does():
    """A source's most watts go with the square of its volts. REF-T-07."""
    found = by_key("source")

    assert found["open_volts"].share == pytest.approx(2.0, abs=1e-6)
    assert found["reactance_ohms"].share < 0
    assert len(found) <= 3


@pytest.mark.parametrize("name", sorted(PLANNERS))
def test_beyond_the_ends_the_plan_fails_and_inside_it_stands(name):
    """Each end that is told: refused there, or no answer; not refused as it is."""
    planner = PLANNERS[name]
    for h in hangs(planner, planner.example, None):
        for end in (h.fails_below, h.fails_above):
            if end is None:
                continue
            try:
                refused = planner({**planner.example, h.key: end}).get("refused", False)
            except ValueError:
                refused = True
            assert refused
            assert h.costs
            assert "refused" not in planner(planner.example)


def test_a_dial_s_end_costs_the_piece_by_its_iron():
    """The variac's example fails above what its brush and dial allow."""
    found = by_key("variac")["wanted_volts"]

    assert found.fails_above is not None
    assert found.costs == "the piece, by its iron"


def test_a_refused_plan_tells_no_ends():
    """It fails already."""
    found = by_key("saturable_reactor", cores=1)

    assert every(h.fails_above is None and h.fails_below is None for h in found.values())


@pytest.mark.parametrize(
    ("key", "words"),
    [
        ("source_reactance_ohms", "short circuit"),
        ("volts_per_turn", "test turns"),
        ("reservoir_farads", "capacitance meter"),
        ("tongue_mm", "calliper"),
        ("brush_amps", "variac's plate"),
        ("points", "each step of a wind-up"),
        ("leakage_reactance_ohms", "short circuit"),
        ("side_ohms", "four wires"),
        ("crest", "a reading of it"),
    ],
)
def test_every_input_has_its_cheapest_reading(key, words):
    """By what its key holds; the first that fits."""
    assert words in reading_of(key)
    assert every(part and said for part, said in READINGS)
