"""Any owner, any order, any slip: whatever mixture of readings a record holds, an answer comes back
whole.
"""

import json
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import as_json, identify
from greyfell.core.judgement.audit import audit
from greyfell.core.judgement.gates import live_gate
from greyfell.core.steps.next_step import next_steps
from greyfell.core.telling.why import why
from greyfell.core.wiring.topology import find_windings
from tests.conftest import every, piece

LEADS = "ABCDEF"
POINTS = (*LEADS, "core")
PAIRS = st.lists(st.sampled_from(POINTS), min_size=2, max_size=2, unique=True)
LEAD_PAIRS = st.lists(st.sampled_from(LEADS), min_size=2, max_size=2, unique=True)
OHMS = st.sampled_from(
    ["open", 0.0, 0.06, 0.2, 1.3, 5.7, 12.0, 48.0, 92.5, 440.0, 3000.0, 12e3, 54e3, 2e5, 4e6]
)
VOLTS = st.sampled_from([0.03, 0.4, 3.15, 12.0, 42.0, 118.0, 231.0, 1900.0])
AMPS = st.sampled_from([0.004, 0.05, 0.7, 6.0])

READINGS = st.one_of(
    st.fixed_dictionaries(
        {"kind": st.just("resistance"), "between": PAIRS, "ohms": OHMS},
        optional={
            "range_ohms": st.sampled_from([200.0, 2e6, 2e7]),
            "probe_ohms": st.sampled_from([0.0, 0.3]),
        },
    ),
    st.fixed_dictionaries(
        {"kind": st.just("core_proof"), "ohms": st.sampled_from([0.0, 0.2, 30.0])}
    ),
    st.fixed_dictionaries(
        {"kind": st.just("dc_drop"), "across": PAIRS, "volts": VOLTS, "amps": AMPS}
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("insulation"),
            "between": PAIRS,
            "ohms": OHMS,
            "test_volts": st.just(500.0),
        }
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("inductance"),
            "across": LEAD_PAIRS,
            "henries": st.sampled_from([3e-6, 1e-3, 0.08, 1.4, 60.0]),
            "hertz": st.sampled_from([100.0, 1000.0]),
        },
        optional={
            "q": st.sampled_from([0.0, 0.6, 7.0]),
            "shorted": st.lists(LEAD_PAIRS, max_size=1),
        },
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("ratio"),
            "driven": PAIRS,
            "driven_volts": VOLTS,
            "sensed": PAIRS,
            "sensed_volts": st.one_of(VOLTS, st.just(0.0)),
        }
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("no_load"),
            "driven": LEAD_PAIRS,
            "volts": VOLTS,
            "amps": st.one_of(AMPS, st.just(0.0)),
        },
        optional={"watts": st.sampled_from([0.0, 4.0, 900.0])},
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("test_turn"),
            "driven": LEAD_PAIRS,
            "driven_volts": VOLTS,
            "turns": st.sampled_from([1, 5]),
            "turn_volts": VOLTS,
        }
    ),
    st.fixed_dictionaries(
        {"kind": st.just("turns"), "across": LEAD_PAIRS, "turns": st.sampled_from([1, 3, 200])}
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("lamp"),
            "across": LEAD_PAIRS,
            "supply_volts": st.just(230.0),
            "lamp_watts": st.just(60.0),
            "glow": st.sampled_from(["dark", "dim", "bright"]),
        }
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("polarity"),
            "driven": LEAD_PAIRS,
            "driven_volts": VOLTS,
            "joined": LEAD_PAIRS,
            "across": LEAD_PAIRS,
            "across_volts": VOLTS,
        }
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("short_circuit"),
            "driven": LEAD_PAIRS,
            "shorted": st.lists(LEAD_PAIRS, max_size=1),
            "volts": VOLTS,
            "amps": AMPS,
        }
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("direct"),
            "driven": LEAD_PAIRS,
            "driven_volts": VOLTS,
            "rectified": LEAD_PAIRS,
            "rectifier": st.sampled_from(["bridge", "half-wave", "centre-tap", "doubler"]),
            "direct_volts": VOLTS,
        },
        optional={"direct_amps": AMPS},
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("loop"),
            "driven": LEAD_PAIRS,
            "driven_volts": VOLTS,
            "loaded": LEAD_PAIRS,
            "loop_amps": AMPS,
        },
        optional={"driven_amps": AMPS},
    ),
    st.fixed_dictionaries(
        {"kind": st.just("path"), "part": st.just("lug"), "volts": VOLTS, "amps": AMPS}
    ),
    st.fixed_dictionaries(
        {
            "kind": st.just("earth_voltage"),
            "from": st.sampled_from(LEADS),
            "to": st.just("earth"),
            "volts": VOLTS,
        }
    ),
)
SEEN = st.fixed_dictionaries(
    {},
    optional={
        "supply": st.sampled_from([{"volts": 230, "hertz": 50}, {"volts": 120, "hertz": 60}]),
        "declared_family": st.sampled_from(["microwave", "sign", "choke", "other"]),
        "core": st.sampled_from(
            [
                {"mass_kg": 4.2},
                {"shape": "toroid"},
                {"tongue_mm": 38, "stack_mm": 45, "shunts": "present"},
            ]
        ),
        "nameplate": st.sampled_from(
            [
                {"primary_volts": 230},
                {"va": 120, "outputs": [{"volts": 12.0}]},
                {"secondary_volts": 7500},
            ]
        ),
        "statements": st.just([{"id": "s1", "kind": "salvage-done", "text": "0.3 V"}]),
    },
)


def whole(record):
    """Ask everything that can be asked of a record, and check what must hold of any answer."""
    ident = identify(record)
    told = as_json(ident)
    json.dumps(told, allow_nan=False)
    assert sum(ident.families.values()) == pytest.approx(1.0, abs=1e-4)
    for w in ident.windings:
        assert sum(w.roles.values()) == pytest.approx(1.0, abs=1e-4)
        if w.volts is not None:
            assert 0 <= w.volts.low <= w.volts.value <= w.volts.high
            assert math.isfinite(w.volts.high)
            assert why(ident, ["winding", w.id, "volts"]).conclusion
    steps = next_steps(ident)
    gate = live_gate(ident)
    assert gate.open or gate.reasons
    assert not ident.stopped or not gate.open
    assert every(s.title for s in steps)
    assert [f for f in audit(ident) if not (f.kind and f.sentence.endswith((".", "?")))] == []
    assert hazards(ident)
    return ident


@settings(max_examples=60, deadline=None)
@given(st.lists(READINGS, max_size=24), SEEN)
def test_any_mixture_of_readings_gets_a_whole_answer(readings, seen):
    """Nothing crashes, nothing is unbounded, no stopped piece has an open gate."""
    whole(parse_record(piece(LEADS, readings, **seen)))


@pytest.mark.parametrize(
    ("rows", "least"),
    [
        (
            [
                ("D", "E", 92.5),
                ("D", "core", 0.06),
                ("A", "core", 0.06),
                ("core", "E", 92.2),
                ("F", "core", 0.04),
                ("B", "C", 1.3),
                ("A", "F", 0.06),
            ],
            2,
        ),
        (
            [
                ("C", "B", 3000.0),
                ("C", "core", 2450.0),
                ("A", "B", 2980.0),
                ("C", "A", 5.7),
                ("A", "core", 2470.0),
                ("core", "B", 54300.0),
            ],
            2,
        ),
        (
            [
                ("A", "B", 1.0),
                ("C", "D", 1.0),
                ("A", "C", 0.6),
                ("B", "D", 2.6),
                ("A", "D", 1.6),
                ("B", "C", 1.6),
                ("E", "core", 900.0),
                ("A", "core", 850.0),
            ],
            2,
        ),
        ([("A", "core", 40.0), ("B", "core", 41.0), ("C", "core", 0.9), ("D", "core", 1.2)], 1),
    ],
    ids=[
        "leads that only the core joins",
        "a far core",
        "a tree of few ohms on a long line",
        "no lead read against another",
    ],
)
def test_groups_read_only_in_part(rows, least):
    """Owners leave pairs out: what was not read is bridged by the shortest way that was, and
    nothing is lost.
    """
    record = parse_record(piece(LEADS, rows, supply={"volts": 230, "hertz": 50}))
    whole(record)
    found = find_windings(record)

    assert len(found.coils) >= least
    placed = (
        {x for c in found.coils for x in c.members}
        | set(found.core_leads)
        | set(found.loose)
        | set(found.untested)
    )
    assert placed == set(LEADS)
