"""What holds of every record whatever stands in it: time and not order, contradictions close, a
statement counts for what it says, and core has no clock.
"""

import json
from copy import deepcopy
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.present import present
from greyfell.core.evidence.times import SITTING, SLACK, STALE
from greyfell.core.identify import answer, as_json, identify
from greyfell.core.judgement.earthing import bond_of
from greyfell.core.judgement.gates import live_gate
from greyfell.core.simulated.histories import MUTATIONS, NOW, START, base_of, histories
from greyfell.core.simulated.owner import LEVELS, take
from greyfell.core.steps.next_step import next_steps
from tests.core.made import record

AT = "2026-05-02T{:02d}:{:02d}:00+01:00"


def concluded(document, now=NOW):
    """A document's identification, asked at a time."""
    return identify(parse_record(document), now=now)


# ------------------------------------------------------------------ time, not order


def told(rng, n):
    """A record of any owner with times, some missing and some alike, a struck reading, changes and
    statements.
    """
    document = deepcopy(take(rng, LEVELS[n % len(LEVELS)]).document)
    for k, reading in enumerate(document["readings"]):
        if rng.random() < 0.9:
            reading["at"] = (START + timedelta(minutes=k - k % 2)).isoformat()
    document["readings"][int(rng.integers(len(document["readings"])))]["struck"] = "a slip"
    said = [
        {"id": "s1", "kind": "salvage-done", "concerns": "capacitor", "text": "0.3 V, short on"},
        {"id": "s2", "kind": "salvage-done", "concerns": "capacitor", "text": "still 900 V"},
        {"id": "s3", "kind": "note", "text": "from the shed"},
    ]
    for statement in said:
        statement["at"] = (START + timedelta(hours=float(rng.uniform(-5, 5)))).isoformat()
    document["statements"] = said
    at = (START + timedelta(minutes=float(rng.uniform(0, 40)))).isoformat()
    document["changes"] = [
        {"id": "c1", "what": "shunts-removed", "at": at},
        {"id": "c2", "what": "cleaned", "at": (START - timedelta(days=2)).isoformat()},
    ]
    return document


@pytest.mark.parametrize("seed", range(12))
def test_the_order_of_entry_changes_nothing(seed):
    """Readings, changes and statements shuffled: one answer, one next step."""
    rng = np.random.default_rng([515, seed])
    document = told(rng, seed)
    answers = []
    for _ in range(2):
        ident = concluded(document)
        answers.append((json.dumps(answer(ident)), [s.as_json() for s in next_steps(ident)]))
        for key in ("readings", "changes", "statements"):
            document[key] = [document[key][int(i)] for i in rng.permutation(len(document[key]))]

    assert answers[0] == answers[1]


def test_what_has_no_time_comes_first_and_equals_go_by_their_names():
    times = [AT.format(12, 0), None, AT.format(10, 0), AT.format(12, 0)]
    ids = ("r10", "r3", "r2", "r9")
    read = [
        {"id": i, "kind": "core_proof", "ohms": 0.1} | ({"at": t} if t else {})
        for i, t in zip(ids, times, strict=True)
    ]

    assert [r.id for r in present(record(read)).readings] == ["r3", "r2", "r9", "r10"]


BAD = {"kind": "dc_drop", "across": ["earth", "core"], "volts": 3.0, "amps": 10.0}
GOOD = {**BAD, "volts": 0.5}
OPEN = {"kind": "resistance", "between": ["earth", "core"], "ohms": "open", "range_ohms": 200.0}
TOUCHES = {"kind": "resistance", "between": ["earth", "core"], "ohms": 0.2}


@pytest.mark.parametrize(
    ("readings", "bad", "proved"),
    [
        ([(GOOD, 10)], False, True),
        ([(GOOD, 10), (OPEN, 11)], True, False),
        ([(OPEN, 10), (GOOD, 11)], False, True),
        ([(OPEN, 10), (GOOD, 10)], True, False),  # one minute: the worse of the two
        ([(OPEN, None), (GOOD, 11)], True, False),  # no time is no earlier
        ([(BAD, 10), ({**GOOD, "amps": 9.9, "volts": 0.3}, 11)], True, False),  # fewer amps
        ([(BAD, 10), ({**GOOD, "amps": 10.1}, 11)], False, True),
        ([(BAD, 10), (TOUCHES, 11)], True, False),  # a hand meter says nothing against amps
        ([(GOOD, 9), (OPEN, 10), (TOUCHES, 11)], False, False),  # proved before it broke
        ([(TOUCHES, 11)], False, False),
    ],
)
def test_the_bond_goes_by_its_latest_reading_that_is_at_least_as_strong(readings, bad, proved):
    """In either order of entry (K3)."""
    made = [
        {"id": f"r{n}", **r} | ({"at": AT.format(hour, 0)} if hour else {})
        for n, (r, hour) in enumerate(readings)
    ]
    for order in (made, made[::-1]):
        bond = bond_of(record(order), ())

        assert (bond.bad, bond.proved) == (bad, proved)


# ------------------------------------------------------------------ a reading answers nothing newer


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize(("minutes", "opens"), [(-1, False), (0, False), (1, True)])
def test_only_what_is_read_after_it_answers_a_touch_that_was_struck_out(seed, minutes, opens):
    """The same pair, kind and range; a minute before, at once, a minute after."""
    rng = np.random.default_rng([616, seed])
    base = base_of(rng, ("lv", "oven", "isolating")[seed % 3])
    pair = [base.primary[0], "core"]
    at = datetime.fromisoformat(base.later(days=2))
    base.read("resistance", between=pair, ohms=3.0, at=at.isoformat(), struck="a slip")
    late = (at + timedelta(minutes=minutes)).isoformat()
    base.read("resistance", between=pair, ohms="open", range_ohms=2e7, at=late)

    assert live_gate(concluded(base.document)).open is opens


@pytest.mark.parametrize(
    ("volts", "ohms", "days", "opens"),
    [
        (500.0, 7e6, 3, True),
        (1000.0, 6e8, 3, True),
        (499.0, 6e8, 3, False),
        (500.0, 6.9e6, 3, False),
        (500.0, 6e8, 0, False),
    ],
)
@pytest.mark.parametrize("first", [1.5e6, 4e6])
def test_insulation_goes_by_its_latest_test_at_no_fewer_volts(first, volts, ohms, days, opens):
    """Damp dries: the same pair, as many volts, at least 7 MΩ, later."""
    base = base_of(np.random.default_rng(717), "lv")
    pair = [base.primary[0], "core"]
    base.read("insulation", between=pair, ohms=first, test_volts=500.0, at=base.later(days=1))
    at = base.later(days=1 + days)
    base.read("insulation", between=pair, ohms=ohms, test_volts=volts, at=at)

    assert live_gate(concluded(base.document)).open is opens


@pytest.mark.parametrize(("amps", "opens"), [(9.9, False), (10.0, True)])
def test_between_two_and_seven_megohms_only_a_bond_or_a_better_test_helps(amps, opens):
    """“It is damp” lifts nothing; with a bond proved at 10 A it is basic insulation, so told."""
    base = base_of(np.random.default_rng(818), "lv")
    base.read("insulation", between=[base.primary[0], "core"], ohms=2.4e6, test_volts=500.0)
    damp = {"id": "s9", "kind": "overrule", "concerns": "insulation-low", "text": "only damp"}
    base.document["statements"].append({**damp, "at": base.later(days=3)})
    assert not live_gate(concluded(base.document)).open

    base.read("dc_drop", across=["earth", "core"], volts=0.3, amps=amps, at=base.later(days=4))
    ident = concluded(base.document)

    assert live_gate(ident).open is opens
    assert any("basic insulation only" in f.sentence for f in ident.faults) is opens


# ------------------------------------------------------------------ core has no clock


@pytest.mark.parametrize("seed", range(4))
def test_nothing_but_the_gate_depends_on_the_time(seed):
    rng = np.random.default_rng([919, seed])
    document = told(rng, seed)
    seen = [as_json(concluded(document, now)) for now in (None, NOW, NOW + timedelta(days=9999))]

    assert seen[0] == seen[1] == seen[2]


@pytest.mark.parametrize(
    ("late", "words"),
    [
        (-SLACK + timedelta(seconds=1), ""),
        (-SLACK - timedelta(seconds=1), "still to come"),
        (STALE - timedelta(days=1), ""),
        (STALE + timedelta(days=1), "more than a year ago"),
    ],
)
def test_times_to_come_and_readings_of_more_than_a_year_are_asked_about(late, words):
    """A year for the bond and the barriers of the mains winding; times to come at once."""
    base = base_of(np.random.default_rng(1010), "oven")
    times = [datetime.fromisoformat(r["at"]) for r in base.readings]
    near = max(times) if late < timedelta(0) else min(times)
    reasons = live_gate(concluded(base.document, near + late)).reasons

    assert ("; ".join(reasons) == "") is (words == "")
    assert words in "; ".join(reasons)
    assert live_gate(concluded(base.document, None)).open


def test_what_is_a_year_old_is_read_again_in_two_minutes():
    """The bond and 500 V; the copper's ohms need not be read again."""
    base = base_of(np.random.default_rng(1111), "oven")
    now = START + timedelta(days=800)
    reasons = live_gate(concluded(base.document, now)).reasons
    assert any("the bond" in r for r in reasons)
    assert any("at 500 V" in r for r in reasons)

    at = (now - timedelta(hours=1)).isoformat()
    base.read("dc_drop", across=["earth", "core"], volts=0.4, amps=10.0, at=at)
    for x in ("core", base.other[0]):
        base.read("insulation", between=[base.primary[0], x], ohms=6e8, test_volts=500.0, at=at)

    assert live_gate(concluded(base.document, now)).open


def test_an_undated_bond_is_of_no_known_age():
    base = base_of(np.random.default_rng(1212), "oven")
    del base.of("dc_drop", "earth", "core")[0]["at"]

    assert any("nobody noted when" in r for r in live_gate(concluded(base.document)).reasons)


# ------------------------------------------------------------------ bent records


@pytest.mark.parametrize("mutation", MUTATIONS, ids=lambda m: m.kind)
def test_a_record_that_is_bent_finds_the_gate_as_it_must(mutation):
    """Short form of `make histories`: deadly ones shut, harmless ones open."""
    rng = np.random.default_rng([3002, MUTATIONS.index(mutation)])
    seen = 0
    for sound, bent in histories(rng, mutation):
        if not live_gate(concluded(sound)).open:
            continue
        gate = live_gate(concluded(bent.document))
        assert gate.open is not mutation.deadly, (bent.how, gate.reasons)
        seen += 1
        if seen == 2 * len(mutation.ways):
            return


# ------------------------------------------------------------------ what bad input gets


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"statements": [{"kind": "salvage-done", "volts": -3.0}]}, "volts"),
        ({"statements": [{"kind": "salvage-done", "volts": "0.3"}]}, "volts"),
        ({"changes": [{"what": "winding-removed", "leads": "A"}]}, "leads"),
        ({"changes": [{"what": "winding-removed", "leads": ["A", "Z"]}]}, "leads"),
        ({"changes": [{"what": "winding-removed", "leads": ["A b"]}]}, "leads"),
    ],
)
def test_bad_input_in_a_new_key_is_a_sentence_that_names_it(more, field):
    with pytest.raises(FieldError) as error:
        record(**more)

    assert field in error.value.field
    assert error.value.sentence.endswith(".")


def test_sittings_are_half_a_day():
    """A house rule that other rules stand on: written down once."""
    assert timedelta(hours=12) == SITTING
    assert datetime(2026, 9, 1, 10, tzinfo=UTC) == START
