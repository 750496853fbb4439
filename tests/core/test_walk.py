"""The first power of a direct supply that kills: steps in their order, each proved just inside its
bounds and refused just outside.
"""

import pytest

from greyfell.core.chain.elements import parse_rig
from greyfell.core.chain.first_power import STEPS, asked_of, next_step, taken
from greyfell.core.chain.sight import charges
from greyfell.core.chain.solving import solve
from greyfell.core.errors import FieldError
from greyfell.records.demo_rigs import RIGS

ORGAN = solve(parse_rig(RIGS[3]))
LANTERNS = solve(parse_rig(RIGS[2]))
GOOD = {
    "bond": 0.05,
    "bleeder": 2.2e5,
    "stick": 1e5,
    "dry": 110.0,
    "fall": 8.0,
    "rest": 6.0,
}


def walked_to(key):
    """Everything proved before a step."""
    done = []
    for step in STEPS:
        if step.key == key:
            return done
        done.append({"step": step.key})
    return done


def test_only_what_can_kill_is_walked():
    """410 V of an organ's HV, and not 14 V of lanterns; nothing without a rectifier."""
    assert asked_of(ORGAN)
    assert not asked_of(LANTERNS)
    assert not asked_of(solve(parse_rig(RIGS[0])))


def test_the_walk_goes_in_its_order_and_ends():
    """Each step once; out of turn is refused; after the last there is none."""
    done = []
    while (step := next_step(done)) is not None:
        if step.key != "touch":
            with pytest.raises(FieldError, match="not that step"):
                taken(ORGAN, done, "touch", None)
        value = GOOD.get(step.key)
        if step.key == "power":
            low, high = step.bounds(ORGAN.rig, ORGAN)
            value = (low + high) / 2
        done.append(taken(ORGAN, done, step.key, value))

    assert [d["step"] for d in done] == [s.key for s in STEPS]
    with pytest.raises(FieldError):
        taken(ORGAN, done, "touch", None)


@pytest.mark.parametrize(
    ("key", "inside", "outside"),
    [
        ("bond", 0.1, 0.11),
        ("bleeder", 2.4e5, 2.45e5),
        ("bleeder", 2.0e5, 1.95e5),
        ("stick", 1e3, 9e2),
        ("stick", 2e6, 2.1e6),
        ("rest", 50.0, 51.0),
    ],
)
def test_a_figure_is_proved_inside_its_bounds_and_stops_outside(key, inside, outside):
    """A sentence with the bounds; nothing is kept."""
    done = walked_to(key)

    assert taken(ORGAN, done, key, inside) == {"step": key, "value": inside}
    with pytest.raises(FieldError, match="Stop here") as told:
        taken(ORGAN, done, key, outside)
    assert told.value.field == "value"


@pytest.mark.parametrize("key", ["dry", "fall", "power"])
def test_what_the_rig_foretells_bounds_what_is_read(key):
    """A hundredth beyond the upper end is refused, the end itself is not."""
    step = next(s for s in STEPS if s.key == key)
    _, high = step.bounds(ORGAN.rig, ORGAN)
    done = walked_to(key)

    assert taken(ORGAN, done, key, high)["value"] == high
    with pytest.raises(FieldError, match="Stop here"):
        taken(ORGAN, done, key, 1.01 * high)


def test_power_may_read_a_little_less_and_somewhat_more_than_foretold():
    """15 % less; 15 % more and a tenth that no load takes."""
    step = next(s for s in STEPS if s.key == "power")
    rectifier = next(e for e in ORGAN.rig.elements if e.kind.key == "rectifier")
    volts = abs(ORGAN.after(rectifier.id).mean_volts)
    low, high = step.bounds(ORGAN.rig, ORGAN)

    assert (low / volts, high / volts) == pytest.approx((0.85, 1.25))


@pytest.mark.parametrize("value", [None, -1.0, float("nan"), float("inf")])
def test_a_figure_that_is_none_proves_nothing(value):
    """Nor an empty box."""
    with pytest.raises(FieldError):
        taken(ORGAN, [], "bond", value)


def test_a_rig_without_a_bleeder_comes_no_further_than_its_reading():
    """There is nothing to read it of."""
    bare = {**RIGS[3], "behind": RIGS[3]["behind"][:2]}
    solved = solve(parse_rig(bare))
    with pytest.raises(FieldError, match="nothing that bleeder"):
        taken(solved, walked_to("bleeder"), "bleeder", 2.2e5)


def test_volts_may_take_half_as_long_again_to_fall():
    """By the bleeder's own time, from full charge to what is safe."""
    seconds = max(s for _, _, _, s in charges(ORGAN) if s is not None)
    fall = next(s for s in STEPS if s.key == "fall")

    assert fall.bounds(ORGAN.rig, ORGAN) == (0.0, pytest.approx(1.5 * seconds))
