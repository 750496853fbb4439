"""Two pieces of one make held against each other: one shorted turn is found, sound sisters are left
alone, and what differs is said with both figures.
"""

import numpy as np
import pytest
from msgspec.structs import replace

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.sisters import compare, matched
from greyfell.core.simulated import designs as design
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.truth.piece import Damage
from tests.conftest import every, piece

METER = Kit(ohms_step=0.01, probe_ohms=0.1, volts_percent=0.8, henries_percent=1.0)
PAIRS = 30


def ends(w):
    """A winding's two ends."""
    return w.leads[0][0], w.leads[-1][0]


def bench(made, rng, tag, kinds):
    """What one meter reads of a piece: ohms, and inductance or watts of the primary."""
    own = SimulatedBench(made, METER, rng, celsius=float(rng.uniform(15, 27)))
    leads = sorted({x for w in made.windings for x, _ in w.leads if x != "core"})
    for w in made.windings:
        own.ohms(*ends(w))
    fed = ends(made.winding("primary"))
    if "L" in kinds:
        own.inductance(*fed, hertz=100.0)
        own.inductance(*fed, hertz=1000.0)
    if "W" in kinds:
        volts = made.rated_volts * float(rng.uniform(0.985, 1.015))
        own.no_load(fed, volts, made.rated_hertz)
    document = piece(leads, own.taken, declared_family=made.family)
    document["supply"] = {"volts": made.rated_volts, "hertz": made.rated_hertz}
    return identify(parse_record({**document, "tag": tag}))


def pair(seed, kinds, *, shorted, name="oven"):
    """What differs between an oven's transformer and its sister, with one HV turn shorted or
    none.
    """
    rng = np.random.default_rng(seed)
    made = design.MAKERS[name](rng, design.EUROPE)
    other = design.sister(made, rng)
    if shorted:
        high = next(w for w in made.windings if w.role == "hv-secondary")
        loop = Damage(kind="shorted-turns", winding=high.name, place=0.2, turns=1.0)
        other = replace(other, damage=(loop,))
    return compare(bench(made, rng, "S-1", kinds), bench(other, rng, "S-2", kinds))


@pytest.mark.parametrize("kinds", ["L", "LW"])
def test_one_shorted_turn_in_one_of_two_ovens_is_found(kinds):
    """Nine of ten by inductance and Q, and always on the right one."""
    found = [pair(s, kinds, shorted=True) for s in range(PAIRS)]
    named = [{d.suspect for d in told if d.suspect} for told in found]

    assert sum(bool(tags) for tags in named) >= 0.9 * PAIRS
    assert every(tags <= {"S-2"} for tags in named)


@pytest.mark.parametrize("name", ["oven", "sign", "valve", "lv"])
def test_sound_sisters_do_not_alarm(name):
    """Under one in a hundred: of thirty of each kind at most one."""
    alarms = [pair(s, "LW", shorted=False, name=name) for s in range(PAIRS)]

    assert sum(bool(told) for told in alarms) <= 1


OVEN = [("A", "B", 1.31), ("C", "core", 96.0), ("A", "C", "open")]


def sister(tag, readings, **more):
    """An oven part with more readings."""
    document = piece("ABC", [*OVEN, *readings], declared_family="microwave", **more)
    return identify(parse_record({**document, "tag": tag}))


def inductance(henries, q=6.0, hertz=120.0):
    return {
        "kind": "inductance",
        "across": ["A", "B"],
        "henries": henries,
        "q": q,
        "hertz": hertz,
        "percent": 0.0,
        "digits": 0.0,
    }


def no_load(watts, volts=230.0):
    return {
        "kind": "no_load",
        "driven": ["A", "B"],
        "volts": volts,
        "watts": watts,
        "percent": 0.0,
        "digits": 0.0,
    }


def ratio(sensed):
    return {
        "kind": "ratio",
        "driven": ["C", "core"],
        "driven_volts": 40.0,
        "sensed": ["A", "B"],
        "sensed_volts": sensed,
        "percent": 0.0,
        "digits": 0.0,
    }


@pytest.mark.parametrize(
    ("one", "two", "what", "suspect"),
    [
        ([inductance(0.3)], [inductance(0.3 * 0.710)], None, None),
        ([inductance(0.3)], [inductance(0.3 * 0.700)], "inductance", "S-2"),
        ([inductance(0.3 * 0.700)], [inductance(0.3)], "inductance", "S-1"),
        ([inductance(0.3, 6.0)], [inductance(0.3, 6.0 * 0.58)], None, None),
        ([inductance(0.3, 6.0)], [inductance(0.3, 6.0 * 0.56)], "Q", "S-2"),
        ([inductance(0.3)], [inductance(0.1, hertz=1000.0)], None, None),
        ([no_load(50.0)], [no_load(64.5)], None, None),
        ([no_load(50.0)], [no_load(65.5)], "watts", "S-2"),
        ([no_load(50.0)], [no_load(65.5, volts=240.0)], None, None),
        ([no_load(50.0, 230.0)], [no_load(50.0, 224.0)], None, None),
        ([ratio(4.4)], [ratio(4.4 * 1.0138)], None, None),
        ([ratio(4.4)], [ratio(4.4 * 1.0143)], "ratio", ""),
    ],
)
def test_a_difference_is_a_finding_from_its_threshold(one, two, what, suspect):
    """Three and a half times the spread of sheet and joints; at like volts and hertz only."""
    told = compare(sister("S-1", one), sister("S-2", two))

    assert [(d.what, d.suspect) for d in told] == ([(what, suspect)] if what else [])


@pytest.mark.parametrize(("share", "found"), [(0.9, False), (0.855, False), (0.79, True)])
def test_several_small_differences_tell_together(share, found):
    """Henries and Q down and watts up, none of them far off by itself."""
    one = [inductance(0.3, 6.0), no_load(50.0)]
    two = [inductance(0.3 * share, 6.0 * share**1.6), no_load(50.0 / share**0.75)]
    told = compare(sister("S-1", one), sister("S-2", two))

    assert [d.what for d in told] == (["iron"] if found else [])
    assert [d.suspect for d in told] == (["S-2"] if found else [])


def test_ohms_are_compared_with_the_warmth_of_both():
    """Ten kelvin and the meter's digits are no finding; a fifth is, and blames nobody."""
    alike = compare(sister("S-1", []), sister("S-2", []))
    document = piece("ABC", [("A", "B", 1.31), ("C", "core", 120.0), ("A", "C", "open")])
    other = identify(parse_record({**document, "tag": "S-2", "declared_family": "microwave"}))
    told = compare(sister("S-1", []), other)

    assert alike == []
    assert [(d.what, d.suspect) for d in told] == [("ohms", "")]
    assert "96.0 Ω on S-1, 120 Ω on S-2" in told[0].sentence


def test_windings_are_matched_by_role_and_ohms():
    """Whatever their leads are called; a broken one is matched with none."""
    one = sister("S-1", [])
    document = piece("XYZ", [("X", "core", 95.0), ("Y", "Z", 1.3), ("X", "Z", "open")])
    two = identify(parse_record({**document, "declared_family": "microwave"}))

    assert {(a.name, b.name) for a, b in matched(one, two)} == {
        ("A–B", "Y–Z"),
        ("C–core", "X–core"),
    }
