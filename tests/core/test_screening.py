"""Cold screening: which barriers a piece has, what an open reading was worth, and which one to read
next.
"""

import math

import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.judgement.screening import (
    CORE,
    Barrier,
    ScreeningState,
    barriers,
    outcomes,
    proof_worth,
    screening_gaps,
    settled,
    shows,
    state_of,
)
from greyfell.core.steps.next_step import next_steps
from tests.conftest import every, piece

SALVAGED = [{"id": "s1", "kind": "salvage-done", "text": "0.3 V"}]
TWO = [("A", "B", 8.0), ("C", "D", 0.20)]
PROOF = {"kind": "core_proof", "ohms": 0.1}


def opened(x, y, range_ohms=2e7):
    """An open reading of one pair on a range."""
    reading = {"kind": "resistance", "between": [x, y], "ohms": "open"}
    return {**reading, "range_ohms": range_ohms} if range_ohms else reading


def megger(x, y, ohms, volts=500.0):
    """A reading of an insulation tester."""
    return {"kind": "insulation", "between": [x, y], "ohms": ohms, "test_volts": volts}


def screened(readings, leads="ABCD", **more):
    """A record, its conclusions and its barriers by winding indices."""
    record = parse_record(piece(leads, readings, supply={"volts": 230, "hertz": 50}, **more))
    ident = identify(record)
    return record, ident, {(b.i, b.j): b for b in barriers(record, ident.topology)}


def test_two_windings_have_three_barriers():
    """Each to the core, and the two to each other; nothing read, nothing known."""
    _, _, found = screened(TWO)

    assert set(found) == {(0, CORE), (1, CORE), (0, 1)}
    assert every(b.range_ohms is None and not b.screened for b in found.values())


@pytest.mark.parametrize(
    ("reading", "range_ohms", "counts"),
    [
        (opened("A", "core"), 2e7, True),
        (opened("A", "core", 2000.0), 2000.0, False),
        (opened("B", "earth"), None, False),
        (megger("A", "core", "open"), 2e7, True),
        (megger("A", "core", 5e8), 2e7, True),
        (megger("A", "core", "open", 50.0) | {"range_ohms": 1e6}, 1e6, False),
        (megger("A", "core", 4e5), None, False),
        (("A", "core", 3e6), None, False),
    ],
)
def test_an_open_reading_is_worth_the_range_it_was_read_on(reading, range_ohms, counts):
    """A low or unwritten range screens nothing; an insulation tester above its limit screens;
    leakage never does.
    """
    _, _, found = screened([*TWO, reading])

    assert found[(0, CORE)].range_ohms == range_ohms
    assert found[(0, CORE)].screened is counts


def test_an_open_reading_without_its_range_is_named_as_such():
    """Owners forget the range: the reading stays on record, and is asked for again."""
    document = piece("ABCD", [PROOF, *TWO, opened("A", "core")])
    del document["readings"][3]["range_ohms"]
    record = parse_record(document)
    ident = identify(record)

    assert barriers(record, ident.topology)[0].range_ohms == 0.0
    assert "A–B to the core was read on an unknown or low range" in screening_gaps(
        ident.record, ident.belief
    )


def test_the_best_of_several_readings_counts():
    """A low range first and a high range later: the later one is what stands."""
    _, _, found = screened(
        [*TWO, opened("A", "core", 2000.0), opened("B", "core", 2e7), opened("A", "core", 2e5)]
    )

    assert found[(0, CORE)].range_ohms == 2e7


def test_an_open_reading_to_a_bonded_winding_is_none_to_the_core():
    """The HV winding hangs on the iron by a bond that may fail next: primary to HV does not clear
    primary to core.
    """
    rows = [
        PROOF,
        ("A", "B", 1.3),
        ("C", "D", 0.0),
        ("E", "core", 96.0),
        opened("A", "E"),
        opened("B", "E"),
        opened("C", "core"),
    ]
    _record, ident, found = screened(rows, "ABCDE")

    assert found[(0, CORE)].range_ohms is None
    assert any(
        g.startswith("A–B to the core was not read")
        for g in screening_gaps(ident.record, ident.belief)
    )


def test_what_carries_the_mains_is_screened_against_every_other_winding():
    """Primary to core alone is half a screening: primary to secondary is what a hand on the output
    relies on.
    """
    _, ident, _ = screened(
        [PROOF, *TWO, opened("A", "core"), opened("C", "core")], statements=SALVAGED
    )
    gaps = screening_gaps(ident.record, ident.belief)

    assert gaps == ["A–B to C–D was not read"]
    assert not live_gate(ident).open
    _record, ident, _ = screened(
        [PROOF, *TWO, opened("A", "core"), opened("C", "core"), opened("A", "D")],
        statements=SALVAGED,
    )
    assert screening_gaps(ident.record, ident.belief) == []


def test_two_secondaries_need_not_be_screened_against_each_other():
    """Demanded is what separates a person from the mains; a touch of two secondaries shows
    otherwise.
    """
    rows = [
        PROOF,
        ("A", "B", 30.0),
        ("C", "D", 0.30),
        ("E", "F", 0.9),
        *(opened(x, "core") for x in "ACE"),
        opened("A", "C"),
        opened("A", "E"),
    ]
    _record, ident, found = screened(rows, "ABCDEF")

    assert not found[(1, 2)].screened
    assert screening_gaps(ident.record, ident.belief) == []


# ------------------------------------------------------------------ odds


@pytest.mark.parametrize("range_ohms", [200.0, 2e5, 2e6, 2e7, 2e9])
@pytest.mark.parametrize("proved", [True, False])
def test_outcomes_are_probabilities_and_come_back_to_the_odds(range_ohms, proved):
    """Whatever the range: the outcomes' chances sum to one, and weighed by them the odds after are
    the odds before.
    """
    before = ScreeningState(0.94, 0.04, 0.02)
    found = outcomes(before, shows(range_ohms, to_core=True, proved=proved))

    assert sum(chance for chance, _ in found) == pytest.approx(1.0)
    for part in ("sound", "touch", "leak"):
        assert sum(chance * getattr(then, part) for chance, then in found) == pytest.approx(
            getattr(before, part)
        )
    assert sum(chance * then.nats for chance, then in found) <= before.nats + 1e-12


def test_a_higher_range_settles_more_and_a_proof_makes_it_count():
    """Leakage of megohms shows on a high range only; varnish under the probe hides a touch until
    the core is proved.
    """
    state = ScreeningState(0.94, 0.04, 0.02)
    low, high = (settled(state, shows(r, to_core=True, proved=True)) for r in (2e3, 2e7))
    unproved = settled(state, shows(2e7, to_core=True, proved=False))

    assert low < high
    assert unproved < high


def test_an_open_reading_makes_a_touch_less_likely_and_never_impossible():
    """No "safe" for want of data: some doubt stays after the best reading."""
    _, ident, _ = screened([PROOF, *TWO])
    not_read, low, high = (
        state_of(Barrier(0, CORE, r), ident.windings, proved=True) for r in (None, 2e3, 2e7)
    )

    assert not_read.touch > high.touch > 0
    assert not_read.leak < low.leak * 1.1
    assert high.leak < low.leak
    assert math.isclose(high.sound + high.touch + high.leak, 1.0)


def test_a_proof_is_worth_more_before_the_readings_than_after_them():
    """Before: a probe on varnish is moved, and every reading counts. After: it may turn out that
    the reading said nothing.
    """
    worth = []
    for rows in ([], [opened("A", "core")], [opened("A", "core"), opened("C", "core")]):
        _record, ident, _ = screened([*TWO, *rows])
        worth.append(proof_worth(ident.record, ident.belief))

    assert worth[0] > worth[1] > worth[2] > 0


# ------------------------------------------------------------------ the steps that follow


def test_the_cold_steps_come_proof_first_then_by_worth():
    """The proof gives the others their worth; then the barrier that a life hangs on."""
    _record, ident, _ = screened(TWO, statements=SALVAGED)
    steps = [s for s in next_steps(ident) if s.energy == "cold"]

    assert steps[0].kind == "core_proof"
    assert steps[1].leads["between"] == ("A", "core")
    assert [s.worth for s in steps[1:]] == sorted((s.worth for s in steps[1:]), reverse=True)


def test_a_cold_step_says_how_likely_each_outcome_is():
    """Expect and otherwise carry chances, and what each would mean."""
    _record, ident, _ = screened([PROOF, *TWO], statements=SALVAGED)
    step = next(s for s in next_steps(ident) if s.leads.get("between") == ("A", "core"))

    assert step.expect.startswith("OL (9")
    assert "touches the core, stop" in step.otherwise
    assert "leakage" in step.otherwise


def test_a_likely_hv_return_is_no_alarm():
    """Before an oven's HV winding is read to the core: ohms there are its return, with the chance
    of it; not a touch.
    """
    _record, ident, _ = screened(
        [PROOF, ("A", "B", 1.3), ("C", "D", 0.0), ("E", "F", 96.0), opened("A", "core")],
        "ABCDEF",
        statements=SALVAGED,
    )
    step = next(s for s in next_steps(ident) if s.leads.get("between") == ("E", "core"))

    assert "an HV winding's return on the iron" in step.otherwise


def test_no_live_step_while_a_barrier_is_missing():
    """Everything else on record: one unread barrier keeps the gate closed, and is the next step."""
    rows = [
        PROOF,
        *TWO,
        opened("A", "core"),
        opened("C", "core"),
        {
            "kind": "ratio",
            "driven": ["A", "B"],
            "driven_volts": 12.0,
            "sensed": ["C", "D"],
            "sensed_volts": 0.66,
        },
        {"kind": "inductance", "across": ["A", "B"], "henries": 1.1, "hertz": 100, "q": 4.0},
    ]
    _record, ident, _ = screened(rows, statements=SALVAGED)
    steps = next_steps(ident)

    assert steps[0].leads["between"] == ("A", "C")
    assert every(s.energy != "live" for s in steps)
