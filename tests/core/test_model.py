"""The model of an output: its ranges hold what was left aside, each reading narrows it, what is
assumed is said so, and the circuit's own figures hang together.
"""

import math

import numpy as np
import pytest

from greyfell.core.chain.elements import parse_rig
from greyfell.core.chain.solving import solve
from greyfell.core.circuit.equivalent import own_impedance
from greyfell.core.circuit.model import model_of
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.outputs import models
from greyfell.core.simulated import designs
from greyfell.core.telling.load_answer import seconds_to_limit, trips, wants
from greyfell.records.demo import demo_documents
from scripts.models import LEVELS, MAKERS, document_of, tried
from tests.conftest import OVEN, every, piece

DEMO = {d["tag"]: d for d in demo_documents()}


def modelled(maker, level, seed=3):
    """The model of one simulated piece, its record and its identification."""
    rng = np.random.default_rng(seed)
    made = maker(rng)
    document, _, pair = document_of(made, level, rng)
    ident = identify(parse_record(document))
    w = next(x for x in ident.windings if set(pair) <= {*x.coil.leads, "core"})
    return model_of(ident.record, ident.belief, w), ident


@pytest.mark.parametrize("level", range(len(LEVELS)))
def test_ranges_hold_what_was_left_aside(level):
    """Two loads and the short of twenty-five pieces: in nine of ten and more."""
    rng = np.random.default_rng([811, level])
    held = []
    for k in range(25):
        found = tried(MAKERS[k % len(MAKERS)](rng), level, rng)
        held += [h for h, _, _ in found or ()]

    assert len(held) > 60
    assert np.mean(held) >= 0.9


@pytest.mark.parametrize("maker", MAKERS)
def test_each_reading_narrows_the_short(maker):
    """A short circuit after cold and ratio; a load after that no wider."""
    widths = []
    for level in range(len(LEVELS)):
        model, _ = modelled(maker, level)
        amps = model.line.amps(1e-6)
        widths.append(math.log(amps.high / amps.low))

    assert widths[1] < widths[0]
    assert widths[2] <= 1.05 * widths[1]


def test_what_nothing_tells_is_marked_assumed_and_what_is_read_is_not():
    """Leakage before and after a short circuit."""
    before, _ = modelled(designs.oven, 0)
    after, _ = modelled(designs.oven, 1)

    def assumed(model):
        return {f.key for f in model.figures if f.assumed}

    assert "leakage_henries" in assumed(before)
    assert "leakage_henries" not in assumed(after)
    assert {"shunt_volts", "winding_farads"} <= assumed(after)


def test_nought_ohms_are_a_short():
    """No volts over it, the amps of the source alone, no watts in it."""
    point = models(identify(parse_record(DEMO["CQ-014"])))[0].at(0.0)

    assert (point.volts.value, point.watts.value) == (0.0, 0.0)
    assert point.amps.low > 0


def test_the_reading_that_would_tell_most_is_named_before_and_less_so_after():
    """Before a short circuit: a short or a load; its share shrinks afterwards."""
    before, _ = modelled(designs.isolating, 0)
    after, _ = modelled(designs.isolating, 2)

    assert before.narrower.key in ("short", "load")
    assert after.narrower is None or after.narrower.share < before.narrower.share


def test_the_point_on_the_line_hangs_together():
    """Watts are volts times amps; efficiency and power factor between nought and one; the primary
    carries the turns' share and the idle amps.
    """
    model, _ = modelled(designs.isolating, 1)
    for share in (0.1, 1.0, 10.0, 1e4):
        p = model.at(share * model.line.match_ohms.value)
        assert p.watts.value == pytest.approx(p.volts.value * p.amps.value)
        assert 0 <= p.efficiency <= 1
        assert 0 < p.power_factor <= 1
        assert p.primary_amps.low <= p.primary_amps.value <= p.primary_amps.high
    idle = model.at(1e9).primary_amps.value
    assert idle == pytest.approx(model.idle.middle.amps, rel=0.02)


def test_the_straight_line_understates_a_reactive_source():
    """At the best match an oven gives far more than half of its open volts."""
    model, _ = modelled(designs.oven, 1)
    volts = model.line.volts(model.line.match_ohms.value).value

    assert volts > 0.6 * model.line.open_volts.value


def test_the_model_as_a_rig_gives_the_line_s_own_short():
    """The same case in both: shunts left out of it, the supply stiff."""
    model, _ = modelled(designs.isolating, 1)
    told = {**model.as_rig(), "idle_amps": 1e-4, "core_watts": 0.0}
    rig = parse_rig(
        {
            "supply": {"volts": 230.0, "hertz": 50.0, "ohms": 0.0},
            "piece": told,
            "load": {"kind": "short"},
        }
    )

    assert solve(rig).load.amps == pytest.approx(model.line.amps(0.0).value, rel=0.05)


def test_the_demo_s_outputs_have_their_models_the_highest_first():
    """Volts fall along the list; the fed winding is none of them."""
    ident = identify(parse_record(DEMO["CQ-030"]))
    found = models(ident)
    volts = [m.line.open_volts.value for m in found]

    assert len(found) >= 2
    assert volts == sorted(volts, reverse=True)
    assert every(set(m.winding.coil.leads) != set(ident.belief.fed) for m in found)


def test_a_bond_at_an_end_and_at_the_middle():
    """An oven's HV ends on the core; a sign part's middle does."""
    oven = models(identify(parse_record(DEMO["CQ-018"])))[0]
    sign = models(identify(parse_record(DEMO["CQ-009"])))

    assert oven.bond == "end"
    assert not sign or sign[0].bond in ("middle", "end")


def test_warm_copper_has_more_ohms_and_less_to_go():
    """A quarter more ohms; leakage and iron stay; at the limit no second is left."""
    ident = identify(parse_record(DEMO["CQ-018"]))
    cold = models(ident)[0]
    warm = cold.warmed(20 + 0.25 / 0.00393)
    amps = cold.line.amps(cold.line.match_ohms.value)

    for key in ("primary_ohms", "secondary_ohms"):
        assert warm.get(key).value == pytest.approx(1.25 * cold.get(key).value)
    assert warm.get("leakage_henries") == cold.get("leakage_henries")
    assert warm.line.amps(0.0).value < cold.line.amps(0.0).value
    assert cold.warmed(20.0) is cold
    seconds = [seconds_to_limit(ident, cold.winding, amps, c).value for c in (20, 62.5, 105, 140)]
    assert seconds[1] == pytest.approx(seconds[0] / 2)
    assert seconds[2:] == [0.0, 0.0]


def test_seconds_to_the_limit_go_by_the_square_of_the_amps():
    """What is borne for a minute is borne for a quarter of it at twice the amps."""
    ident = identify(parse_record(DEMO["CQ-018"]))
    model = models(ident)[0]
    one = model.line.amps(model.line.match_ohms.value)
    twice = type(one)(2 * one.value, 2 * one.low, 2 * one.high, one.basis)
    slow, fast = (seconds_to_limit(ident, model.winding, a) for a in (one, twice))

    assert fast.value == pytest.approx(slow.value / 4)
    assert slow.low <= slow.value <= slow.high


def test_the_breaker_is_judged_where_one_is_told():
    """Sixteen amps: not at the best match of this part; unknown without one."""
    ident = identify(parse_record(DEMO["CQ-018"]))
    model = models(ident)[0]
    told = trips(ident, model.at(model.line.match_ohms.value))

    assert told is False


@pytest.mark.parametrize(("watts", "measured"), [(0.0538, True), (0.055, True), (0.2, False)])
def test_watts_a_little_above_volts_times_amps_are_the_meters(watts, measured):
    """0.0538 VA: within what the meters err by it is all resistance; far above, none is told."""
    rng = np.random.default_rng(3)
    document, fed, pair = document_of(designs.low_voltage(rng), 0, rng)
    short = {"id": "s", "kind": "short_circuit", "driven": fed, "shorted": [pair]}
    told = {**short, "volts": 2.69, "amps": 0.02, "watts": watts, "hertz": 50.0}
    document["readings"].append(told)
    ident = identify(parse_record(document))
    own = own_impedance(ident.record, ident.belief)

    assert own.measured is measured


def test_what_a_model_wants_is_said():
    """No primary, or no volts."""
    bare = identify(parse_record(piece("AB", OVEN[:1])))

    assert models(bare) == []
    assert wants(bare).endswith(".")
