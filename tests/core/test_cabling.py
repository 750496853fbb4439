"""An isolated outlet's conductors from the cables at hand: the section that each guard asks for,
the thinnest cable that does, what is wanting; at every edge.
"""

import pytest
from msgspec.structs import replace

from greyfell.core.evidence.stores import parse_item
from greyfell.core.telling.cabling import CableRun, runs, shared
from greyfell.core.telling.outlet_wiring import Position, Wiring

SINGLE = Position(name="on", joined=(), line=("C",), neutral=("D",), volts=230.0, amps=1.2)
HALVES = Position(
    name="in parallel",
    joined=(("C", "E"), ("D", "F")),
    line=("C", "E"),
    neutral=("D", "F"),
    volts=115.0,
    amps=2.4,
)
PLAN = Wiring(feed=("A", "B"), positions=(SINGLE,), breaker=1.0, mm2=0.5)


def cable(mm2, metres, **more):
    """A cable of the stores."""
    told = {"kind": "wire", "title": f"{mm2:g} mm²", "mm2": mm2, "metres": metres}
    return parse_item({"id": f"c{mm2}", "material": "copper", **told, **more})


@pytest.mark.parametrize(
    ("amps", "mm2"),
    [
        (0.5, 0.5),
        (3.0, 0.5),
        (3.1, 0.75),
        (6.0, 0.75),
        (6.1, 1.0),
        (10.1, 1.5),
        (16.0, 1.5),
        (16.1, 2.5),
        (25.1, 4.0),
        (40.0, 4.0),
    ],
)
def test_a_section_bears_what_its_guard_lets_through(amps, mm2):
    """IEC 60335-1 table 11, just at and above each step."""
    assert CableRun(words="x", conductors=1, metres=1.0, guard=amps).mm2 == mm2


def test_the_feed_is_sized_by_the_socket_and_the_rest_by_its_own_breaker():
    """16 A ahead asks 1.5 mm²; behind the 1 A breaker half a square does; 32 A ahead asks 4."""
    sizes = {r.words: r.mm2 for r in runs(PLAN)}

    assert sizes["switch to the mains winding"] == 1.5
    assert sizes["earth to the core and the case"] == 1.5
    assert sizes["breaker to the outlet, with its pin"] == 0.5
    assert {r.mm2 for r in runs(PLAN, 32.0)} == {4.0, 0.5}


def test_without_a_breaker_of_its_own_it_is_as_thick_as_the_feed():
    """Amps that nobody knows count as the socket's."""
    assert {r.mm2 for r in runs(replace(PLAN, breaker=None))} == {1.5}


def test_halves_that_are_switched_want_more_leads():
    """Every lead on a pole, and both ends of every joint."""
    for count, positions in ((2, (SINGLE,)), (8, (SINGLE, HALVES))):
        run = next(r for r in runs(replace(PLAN, positions=positions)) if "windings" in r.words)

        assert run.conductors == count


def test_each_run_is_cut_from_the_thinnest_that_does_and_the_reel_grows_shorter():
    """8 m of 1.5 mm² are the feed's to the centimetre, 2.9 m of half a square the rest's."""
    laid = shared(PLAN, [cable(1.5, 8.0), cable(0.5, 2.9), cable(2.5, 50.0)])

    assert [x.mm2 for x in laid] == [1.5, 1.5, 1.5, 0.5, 0.5, 0.5]
    assert min(x.left for x in laid if x.mm2 == 1.5) == 0.0
    assert min(x.left for x in laid if x.mm2 == 0.5) == 0.0


@pytest.mark.parametrize(
    ("items", "wanting"),
    [
        ([], "6.0 m of 1.5 mm² copper: none at hand"),
        ([cable(1.5, 5.9)], "6.0 m of 1.5 mm² copper: too short"),
        ([cable(1.5, 6.0)], ""),
        ([cable(1.4, 60.0)], "6.0 m of 1.5 mm² copper: none at hand"),
        ([cable(12.0, 60.0)], ""),
        ([cable(12.1, 60.0)], "6.0 m of 1.5 mm² copper: none at hand"),
        ([cable(1.5, 60.0, material="aluminium")], "6.0 m of 1.5 mm² copper: none at hand"),
        ([cable(1.5, 3.0, count=2)], ""),
    ],
)
def test_what_is_wanting_is_told_and_nothing_is_put_side_by_side(items, wanting):
    """The plug's run: too short, too thin, too thick for a terminal, no copper; two reels alike."""
    assert shared(PLAN, items)[0].wanting == wanting


def test_what_is_not_wired_wants_no_cable():
    """A piece with a stop, one of which nothing is known."""
    assert shared(replace(PLAN, refused="a stop"), [cable(1.5, 9.0)]) == []
    assert shared(replace(PLAN, positions=()), [cable(1.5, 9.0)]) == []
