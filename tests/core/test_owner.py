"""The imagined owner whose records test the engine: kept honest, so that the figures of `make
evaluate` mean something.
"""

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from greyfell.core.belief.observations import Row
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.simulated import designs
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.simulated.owner import LEVELS, OwnerTold, kit, take
from greyfell.core.steps.information import worth_of
from tests.conftest import every

ROOT = Path(__file__).parents[2]
KINDS = {"cold": {"resistance", "core_proof"}, "clues": {"resistance", "core_proof", "turns"}}


def records(level, count, seed=1, **more):
    rng = np.random.default_rng(seed)
    return [take(rng, level, **more) for _ in range(count)]


@pytest.mark.parametrize("level", LEVELS)
def test_the_same_seed_gives_the_same_records(level):
    first, second = (
        json.dumps([t.document for t in records(level, 5)], sort_keys=True) for _ in range(2)
    )
    assert first == second
    assert first != json.dumps([t.document for t in records(level, 5, seed=2)], sort_keys=True)


@pytest.mark.parametrize("level", LEVELS)
def test_records_are_valid_and_tell_nothing_they_should_not(level):
    """The record names no winding, role, fault or family: lead letters are shuffled before they are
    written down.
    """
    for told in records(level, 12):
        record = parse_record(told.document)
        assert record.declared_family in (None, told.piece.family) or level != "cold"
        text = json.dumps({**told.document, "declared_family": None})
        for word in (
            "hv-secondary",
            "filament",
            "lv-secondary",
            "primary-half",
            "shorted",
            told.piece.subtype * 2,
        ):
            assert word not in text
        kinds = {r.kind for r in record.readings}
        assert kinds <= KINDS.get(level, kinds)


def test_cold_records_carry_no_clues():
    for told in records("cold", 12):
        assert every(set(lead) == {"id"} for lead in told.document["leads"])
        assert not {"core", "plate", "declared_family"} & set(told.document)


def test_every_winding_was_touched():
    """An owner who never put a probe on a winding would make topology a matter of luck."""
    for told in records("cold", 20, fault_share=0.0, slip_share=0.0):
        read = {p for r in told.document["readings"] for p in r.get("between", ())}
        for w in told.piece.windings:
            assert {x for x, _ in w.leads if x != "core"} <= read


@pytest.mark.parametrize(("supply", "share"), [(230.0, 0.9167), (240.0, 1.0)])
def test_a_tapped_primary_is_fed_where_it_is_made_for(supply, share):
    """One for 230 and 250 V: 230 V goes on its tap, 240 V on its end, the nearer in ratio."""
    outputs = [designs.DesignedOutput("lv-secondary", 12.0, 1.25)]
    rng = np.random.default_rng(3)
    made = designs.mains(rng, designs.EUROPE, 40.0, outputs, taps=(0.9167,))
    told = OwnerTold(document={}, piece=made, level="live", sound=True, supply=supply)
    out = next(w for w in made.windings if w.role == "lv-secondary")
    per_turn = supply / share / made.winding("primary").turns

    assert told.volts(out) == pytest.approx(per_turn * out.turns, rel=0.01)


def test_faults_and_slips_come_as_ordered():
    assert every(t.faults for t in records("live", 12, fault_share=1.0, slip_share=0.0))
    clean = records("live", 12, fault_share=0.0, slip_share=0.0)
    assert every(t.sound and not t.faults and not t.slipped for t in clean)
    assert any(t.slipped for t in records("cold", 12, fault_share=0.0, slip_share=1.0))


def off_by_ten(told):
    """Readings along a winding that lie a tenfold or more from its true ohms."""
    ohms = [r for r in told.document["readings"] if r["kind"] == "resistance"]
    for r in (r for r in ohms if isinstance(r["ohms"], float) and "core" not in r["between"]):
        spot = told.piece.locate(*r["between"])
        true = spot[0].ohms * abs(spot[1] - spot[2]) if spot else 0.0
        if true > 4.0 and not 0.3 < r["ohms"] / true < 3.0:
            yield r["ohms"] / true


def test_a_slip_is_a_tenfold_of_what_stood_there():
    """One figure of a record with a slip is ten times too high or too low, and of others none."""
    slipped = [list(off_by_ten(t)) for t in records("cold", 30, fault_share=0.0, slip_share=1.0)]
    sound = [list(off_by_ten(t)) for t in records("cold", 30, fault_share=0.0, slip_share=0.0)]
    found = [ratio for ratios in slipped for ratio in ratios]

    assert len(found) > 5
    assert every(r == pytest.approx(10, rel=0.3) or r == pytest.approx(0.1, rel=0.3) for r in found)
    assert max(len(ratios) for ratios in slipped) == 1
    assert not any(sound)


def test_kits_differ_as_kits_do():
    """Pocket and bench meters: coarse or fine, probes 0.05 to 0.4 Ω, the limits sometimes not
    written down.
    """
    rng = np.random.default_rng(4)
    kits = [kit(rng) for _ in range(60)]
    assert {k.ohms_step for k in kits} == {0.01, 0.1}
    assert every(0.05 <= k.probe_ohms <= 0.4 and 0.3 <= k.ohms_percent <= 1.3 for k in kits)
    assert {k.probes_noted for k in kits} == {True, False} == {k.accuracy_noted for k in kits}


def test_a_predicted_ratio_is_what_the_bench_then_shows():
    """The step says what a sound piece would read; over some 50 windings the forward model agrees
    nine times in ten.

    The range is nominally a 95 % one: the binomial chance of under 85 % in 50 trials is below one
    per cent.
    """
    inside = []
    for n, told in enumerate(records("clues", 50, seed=11, fault_share=0.0, slip_share=0.0)):
        record = parse_record(told.document)
        ident = identify(record)
        index = next((i for i, w in enumerate(ident.windings) if w.role == "primary"), None)
        if index is None or ident.family != told.piece.family:
            continue
        bench = SimulatedBench(told.piece, Kit(), np.random.default_rng(n))
        for i, w in enumerate(ident.windings):
            row = Row("ratio", (), (index, i), 0.0, 0.01, (10.0, 1.0))
            if i == index or (expected := worth_of(ident, row)) is None:
                continue
            shown = bench.ratio(
                ident.windings[index].coil.leads, 10.0, w.coil.leads, record.supply.hertz
            )
            inside.append(
                expected.low <= shown["sensed_volts"] / shown["driven_volts"] <= expected.high
            )
    assert len(inside) >= 50
    assert sum(inside) / len(inside) >= 0.85


def test_the_evaluation_counts_every_level():
    """`make evaluate` on a handful of records prints one line per level and figures between nought
    and one.
    """
    run = subprocess.run(
        [sys.executable, "scripts/evaluate.py", "24"],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=True,
        timeout=120,
    )
    for level in LEVELS:
        assert level in run.stdout
