"""Worlds that shift what is least known: each moves what it says and nothing else, and what is
concluded holds in all of them.
"""

import numpy as np
import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.simulated.designs import EUROPE, oven
from greyfell.core.simulated.meters import Kit
from greyfell.core.simulated.owner import LEVELS, take
from greyfell.core.simulated.worlds import HOME, WORLDS, World
from greyfell.core.truth.readings import coupling_at


def moved(**shift):
    """An oven of home, and the same as it would be in a world."""
    made = oven(np.random.default_rng(4), EUROPE)
    return made, World(name="other", **shift).piece(made, np.random.default_rng(1))


def test_there_are_home_and_at_least_twelve_others_each_with_its_name():
    assert WORLDS[0] is HOME
    assert len({w.name for w in WORLDS}) == len(WORLDS) >= 13
    assert {w.permeance for w in WORLDS} >= {0.35, 2.8}
    assert {w.flux_law for w in WORLDS} >= {0.5, 1.1}


def test_home_is_home():
    made, same = moved()

    assert [w.turns for w in same.windings] == [round(w.turns) for w in made.windings]
    assert same.coupling == pytest.approx(made.coupling)
    assert [w.ohms for w in same.windings] == pytest.approx([w.ohms for w in made.windings])


def test_aluminium_and_shares_move_ohms_only():
    """1.64 times; outer windings by their share, the primary not."""
    made, metal = moved(aluminium=1.0)
    _, thin = moved(share=1.35)
    factors = [b.ohms / a.ohms for a, b in zip(made.windings, thin.windings, strict=True)]

    assert [b.ohms / a.ohms for a, b in zip(made.windings, metal.windings, strict=True)] == (
        pytest.approx([1.64] * len(made.windings))
    )
    assert factors[0] == pytest.approx(1.0)
    assert factors[1:] == pytest.approx([1.35] * (len(factors) - 1))


def test_the_law_of_coupling_at_few_volts():
    """k^m at none, k at rated flux."""
    made, better = moved(flux_law=0.5)
    few, rated = coupling_at(better, 1e-6), coupling_at(better, 10.0)

    assert few == pytest.approx(made.coupling**0.5)
    assert rated == pytest.approx(made.coupling)


def test_volts_iron_and_leakage():
    made, other = moved(high=0.5, permeance=0.35, leakage=2.0)
    high = [next(w for w in x.windings if w.role == "hv-secondary") for x in (made, other)]

    assert high[1].turns != high[0].turns
    assert high[1].ohms / high[0].ohms == pytest.approx((high[1].turns / high[0].turns) ** 2)
    assert other.iron.mu_initial == pytest.approx(0.35 * made.iron.mu_initial)
    assert 1 - other.coupling == pytest.approx(2 * (1 - made.coupling))


def test_meters_lines_colours_and_habits():
    """Coarser meters, records without ohms, any colour, readings never taken."""
    kit = World(name="x", meters=2.0).kit(Kit())
    rng = np.random.default_rng(3)
    document = {
        "readings": [
            {"kind": k} for k in ["resistance", "dc_drop", "ratio", "core_proof"] for _ in range(50)
        ],
        "leads": [{"id": "A", "colour": "red"}, {"id": "B"}],
    }
    bare = World(name="x", no_ohms=1.0).document(document, ["blue"], rng)
    painted = World(name="x", colours=1.0).document(document, ["blue"], rng)
    lost = World(name="x", forgets=0.5).document(document, ["blue"], rng)

    assert (kit.counts, kit.volts_percent) == (2 * Kit().counts, 2 * Kit().volts_percent)
    assert {r["kind"] for r in bare["readings"]} == {"ratio", "core_proof"}
    assert painted["leads"] == [{"id": "A", "colour": "blue"}, {"id": "B"}]
    assert 60 < len(lost["readings"]) < 140


@pytest.mark.parametrize("world", WORLDS, ids=lambda w: w.name)
def test_every_world_is_borne(world):
    """Eight records of each: a whole answer, no false stop, the family mostly found; short form
    of `make evaluate`.
    """
    rng = np.random.default_rng(17)
    right = []
    for n in range(8):
        told = take(rng, LEVELS[n % 4], fault_share=0.0, slip_share=0.0, world=world)
        ident = identify(parse_record(told.document))
        right.append(ident.family == told.piece.family)
        assert not ident.stopped

    assert sum(right) >= 7
