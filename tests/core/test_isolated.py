"""An isolated bench asked for: every purpose answered with its reason and cost, the state sheet
with its slips, each threshold just below and just above.
"""

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.isolation.purpose import PURPOSES, TIES, purpose_of
from greyfell.core.isolation.states import compared, halves_states, single_states
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.telling.isolating import states_of
from greyfell.records.demo import demo_documents
from tests.conftest import every
from tests.core.scenes import base


def told(value, state="in series", one="L", two="N"):
    """What one figure of the sheet of two halves of 115 V says."""
    (found,) = compared(halves_states(115.0, proved=True), {(state, one, two): value})
    return found


@pytest.mark.parametrize("purpose", PURPOSES, ids=lambda p: p.key)
def test_every_purpose_has_an_answer_a_reason_a_tie_and_its_cost(purpose):
    """In sentences; a build is advised for the few that need one."""
    assert purpose.advice.endswith(".")
    assert purpose.reason.endswith(".")
    assert purpose.cost.endswith(".")
    assert purpose.tie in TIES
    assert purpose_of(purpose.key) is purpose


def test_what_is_better_than_isolation_is_said_before_it():
    """A probe, a device, a low-voltage supply, one that is marked."""
    said = " ".join(p.advice for p in PURPOSES)

    for better in ("differential probe", "residual-current device", "SELV", "IEC 61558-2-4"):
        assert better in said
    assert sum(p.builds for p in PURPOSES) <= 3


def test_a_purpose_that_is_none_is_refused_and_none_is_none():
    """By its field."""
    assert purpose_of("") is None
    with pytest.raises(FieldError) as refused:
        purpose_of("fun")
    assert refused.value.field == "purpose"


@pytest.mark.parametrize(
    ("read", "holds"), [(230.0, True), (257.0, True), (258.0, False), (203.0, True), (202.0, False)]
)
def test_a_figure_holds_within_an_eighth(read, holds):
    """Mains wander and regulation; 12 per cent."""
    assert told(read).holds == holds


@pytest.mark.parametrize(("read", "holds"), [(4.9, True), (5.1, False)])
def test_where_nothing_should_be_five_volts_are_the_most(read, holds):
    """Case to earth, any position."""
    found = told(read, one="case", two="earth")

    assert found.holds == holds
    assert holds or "stop" in found.words


@pytest.mark.parametrize(
    ("read", "words"),
    [(0.5, "oppose each other"), (115.0, "half"), (460.0, "twice"), (170.0, "none of the usual")],
)
def test_a_wrong_figure_names_the_slip_that_it_looks_like(read, words):
    """Nought, half, twice, and the rest."""
    assert words in told(read).words


def test_what_floats_is_never_wrong():
    """A ghost of any size between a pole and earth."""
    assert told(90.0, one="L", two="earth").holds


@pytest.mark.parametrize("key", [("sideways", "L", "N"), ("off", "N", "L"), ("off", "L", "moon")])
def test_what_the_sheet_has_not_is_refused(key):
    """A position or a pair that is none."""
    with pytest.raises(FieldError):
        compared(single_states(230.0), {key: 1.0})


@pytest.mark.parametrize("volts", [-1.0, 1001.0])
def test_volts_that_are_none_are_refused(volts):
    """By their field."""
    with pytest.raises(FieldError):
        compared(single_states(230.0), {("on", "L", "N"): volts})


def test_halves_whose_polarity_was_not_read_are_not_offered():
    """The reason stands at series and parallel, not at off; read, it is gone."""
    off, *rest = halves_states(115.0, proved=False)

    assert off.refused == ""
    assert every("short" in s.refused for s in rest)
    assert every(s.refused == "" for s in halves_states(115.0, proved=True))


def test_a_pieces_own_sheet_comes_from_its_outputs():
    """One output: off and on; a piece of which nothing is known has none."""
    bell = identify(parse_record(base("bell")))
    blank = identify(parse_record(base("choke")))

    assert [s.name for s in states_of(bell)] == ["off", "on"]
    assert states_of(blank) == []


def test_every_demo_piece_has_a_sheet_or_none_and_never_a_fault():
    """No state has kilovolts."""
    for document in demo_documents():
        for state in states_of(identify(parse_record(document))):
            assert every(v is None or v < 1000 for v in state.volts.values())


@pytest.mark.parametrize(("second", "equal"), [(242.3, True), (242.5, False), (237.7, True)])
def test_turns_are_equal_within_a_hundredth(second, equal):
    """Of 240: 242.4 is the edge."""
    found = PLANNERS["two_primaries"]({"first_turns": 240.0, "second_turns": second})

    assert found["equal"] == equal


def test_a_coil_goes_in_with_a_millimetre_to_spare_or_does_not():
    """Both ways; unread, nobody knows."""
    turns = {"first_turns": 240.0, "second_turns": 240.0}
    room = {"free_height_mm": 30.0, "free_width_mm": 20.0}

    def goes(high, wide):
        coil = {"coil_height_mm": high, "coil_width_mm": wide}
        return PLANNERS["two_primaries"]({**turns, **room, **coil})["goes_in"]

    assert goes(29.0, 19.0) is True
    assert goes(29.1, 19.0) is False
    assert goes(29.0, 19.1) is False
    assert PLANNERS["two_primaries"](turns)["goes_in"] is None


def test_under_load_the_copper_of_both_takes_its_volts():
    """1.6 and 1.7 Ω at 2 A: 6.6 V less than open."""
    given = {"first_turns": 240.0, "second_turns": 240.0, "load_amps": 2.0}
    found = PLANNERS["two_primaries"]({**given, "first_ohms": 1.6, "second_ohms": 1.7})
    drop = found["output_volts"]["value"] - found["loaded_volts"]["value"]

    assert drop == pytest.approx(6.6, abs=0.01)
    assert any(w["code"] == "no-safety-isolation" for w in found["warnings"])
