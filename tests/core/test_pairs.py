"""The pairs of a piece at the cold station: what each cell is worth, in the order of the windings,
and which is asked for.
"""

import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.pairs import STATES, fan_of
from greyfell.core.telling.usual_ranges import bands
from tests.conftest import OVEN, piece


def found(readings, leads="ABCDE", **more):
    """The fan of a record made by hand."""
    ident = identify(parse_record(piece(leads, readings, **more)))
    return fan_of(ident, bands(ident), next_steps(ident))


def state(fan, x, y):
    """What a pair's cell is."""
    (cell,) = (c for c in fan.cells if set(c.points) == {x, y})
    return cell.state


PROOF = {"kind": "core_proof", "ohms": 0.1}


def opened(x, y, range_ohms=None):
    """An open reading, on a range where it was noted."""
    return {
        "kind": "resistance",
        "between": [x, y],
        "ohms": "open",
        "range_ohms": range_ohms,
    }


def test_every_pair_has_one_cell_and_the_core_stands_last():
    """Five leads and the core: fifteen pairs; nothing read, all of them empty."""
    fan = found([])

    assert len(fan.cells) == 15
    assert fan.points[-1] == "core"
    assert fan.unread == 15
    assert {c.state for c in fan.cells} == {"unread"}
    assert fan.blocks == ()


@pytest.mark.parametrize(
    ("readings", "pair", "expected"),
    [
        ([PROOF, opened("A", "core", 2e7)], ("A", "core"), "open"),
        ([PROOF, opened("A", "core", 1.99e7)], ("A", "core"), "nothing"),
        ([PROOF, opened("A", "core")], ("A", "core"), "nothing"),
        ([opened("A", "core", 2e7)], ("A", "core"), "nothing"),
        ([opened("A", "C", 2e7)], ("A", "C"), "open"),
        ([opened("A", "C")], ("A", "C"), "nothing"),
        ([("A", "B", 1.3)], ("A", "B"), "ohms"),
        ([("A", "B", 1.3)], ("A", "C"), "unread"),
        ([PROOF, ("A", "B", 1.3), ("A", "core", 0.4)], ("A", "core"), "contradicting"),
    ],
)
def test_a_cell_is_worth_what_its_reading_is_worth(readings, pair, expected):
    """Open counts on 20 MΩ and, to the core, on iron that was proved; what stops it stands out."""
    assert state(found(readings), *pair) == expected
    assert STATES[expected]


def test_windings_stand_together_in_their_order_along_the_diagonal():
    """C–D–E is one winding with a tap: its leads stand in a row, its words beside them."""
    fan = found([PROOF, ("C", "A", 1.3), ("B", "E", 20.0), ("B", "D", 9.0), ("D", "E", 11.0)])
    rows = {fan.points[b.first : b.last + 1] for b in fan.blocks}

    assert any(set(r) == {"A", "C"} for r in rows)
    assert any(r in (("B", "D", "E"), ("E", "D", "B")) for r in rows)


def test_the_pair_that_is_asked_for_next_is_marked():
    """What the next step reads, where it is a pair of the fan."""
    ident = identify(parse_record(piece("ABCDE", OVEN[:2])))
    steps = next_steps(ident)
    asked = next(s.leads["between"] for s in steps if s.kind == "resistance")

    assert fan_of(ident, bands(ident), steps).telling == asked
    assert fan_of(ident, bands(ident), []).telling is None


def test_a_pair_read_twice_shows_the_one_that_does_not_belong():
    """The last reading else; a contradicting one before any."""
    rows = [PROOF, ("A", "B", 1.3), ("A", "B", 1.4)]
    fan = found(rows)
    (cell,) = (c for c in fan.cells if set(c.points) == {"A", "B"})

    assert cell.readings == ("r2", "r3")
    assert cell.shown.startswith("1.4")
