"""A goal said first: what it lacks, what it spares, when it can never be, and that it orders tests
among their like and nothing else.
"""

from functools import cache

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.steps.goals import GOALS, by_goal, goal_of, meant, standing
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.step import Step
from greyfell.records.demo import demo_documents
from tests.conftest import MAINS, OVEN, PLATE, every, piece
from tests.core.test_hazards import BELL

SUPPLY = {"supply": {"volts": 230, "hertz": 50}}
KEYS = [g.key for g in GOALS]


def wanted(goal, leads="ABCD", readings=(), **more):
    """A piece with a goal said of it, concluded."""
    said = [{"kind": "goal", "concerns": goal}]
    document = piece(leads, readings, statements=said, **SUPPLY, **more)
    return identify(parse_record(document))


def stands(ident):
    """How its goal stands."""
    return standing(ident, next_steps(ident))


@pytest.mark.parametrize("key", KEYS)
def test_before_the_first_reading_everything_is_lacking(key):
    """In the order of the work, with minutes; no need without words and a tool."""
    found = stands(wanted(key))

    assert found.lacking == found.goal.needs
    assert found.minutes == sum(n.minutes for n in found.goal.needs)
    assert every(n.words and n.tool and n.kinds for n in found.lacking)
    assert "readings left" in found.words


def test_what_is_on_record_is_not_asked_again():
    """Of a bell part for lamps: ratio and insulation are left, an insulation tester to borrow."""
    found = stands(wanted("lamps-12", readings=BELL, nameplate=PLATE))

    assert {"core_proof", "resistance"}.isdisjoint(
        k for n in found.lacking[1:] for k in n.kinds[:1]
    )
    assert "insulation tester" in found.borrow
    assert found.words.startswith(f"{len(found.lacking)} reading")


@pytest.mark.parametrize(
    ("goal", "more", "words"),
    [
        ("tab-welder", {"core": {"mass_kg": 1.4}}, "1.4 kg"),
        ("tab-welder", {"nameplate": {"primary_volts": 230.0, "hertz": 50.0, "va": 249.0}}, "249"),
        ("tab-welder", {"core": {"potted": True}}, "potted"),
        ("tab-welder", {"declared_family": "sign"}, "not rewound"),
        ("lamps-12", {"declared_family": "variable"}, "one winding"),
        ("isolated-bench", {"declared_family": "microwave"}, "never a safety isolation"),
        (
            "isolated-bench",
            {"nameplate": {"primary_volts": 230.0, "hertz": 50.0, "va": 49.0}},
            "49",
        ),
        ("isolated-bench", {"declared_family": "choke"}, "no isolated mains"),
    ],
)
def test_what_can_never_be_is_said_before_the_first_reading(goal, more, words):
    """By mass, plate or family, and nothing is asked for it."""
    found = stands(wanted(goal, **more))

    assert words in found.never
    assert found.lacking == ()
    assert found.words.startswith("It can never be that")


@pytest.mark.parametrize(
    ("goal", "more"),
    [
        ("tab-welder", {"core": {"mass_kg": 1.6}}),
        ("tab-welder", {"nameplate": {"primary_volts": 230.0, "hertz": 50.0, "va": 251.0}}),
        ("isolated-bench", {"nameplate": {"primary_volts": 230.0, "hertz": 50.0, "va": 51.0}}),
        ("what-is-it", {"declared_family": "sign"}),
        ("lamps-12", {"declared_family": "microwave"}),
    ],
)
def test_just_above_it_may_be(goal, more):
    """The other side of every bound."""
    assert stands(wanted(goal, **more)).never == ""


def test_by_its_readings_alone_a_family_says_never():
    """A tapped single winding for a bench."""
    document = next(d for d in demo_documents() if d["tag"] == "CQ-033")
    said = [*document.get("statements", []), {"kind": "goal", "concerns": "isolated-bench"}]

    assert (
        "one tapped winding"
        in stands(identify(parse_record({**document, "statements": said}))).never
    )


def test_the_last_goal_counts_and_an_empty_one_takes_it_back():
    """One piece, one goal."""
    said = [{"kind": "goal", "concerns": key} for key in ("tab-welder", "lamps-12")]
    record = piece("AB", statements=said)
    gone = piece("AB", statements=[*said, {"kind": "goal", "concerns": ""}])

    assert goal_of(parse_record(record)).key == "lamps-12"
    assert goal_of(parse_record(gone)) is None
    assert goal_of(parse_record(piece("AB"))) is None


def step(kind, energy, act="x"):
    """A step of a kind."""
    return Step(kind=kind, leads={}, title=kind, do="", act=act, energy=energy)


def test_a_goal_orders_tests_among_their_like_alone():
    """Cold before low before live whatever is wanted; what must be repeated stays first."""
    found = [
        step("resistance", "cold", "repeat"),
        step("inductance", "low"),
        step("insulation", "cold"),
        step("test_turn", "low"),
        step("no_load", "live"),
    ]
    goal = next(g for g in GOALS if g.key == "tab-welder")
    ordered = by_goal(found, goal)

    assert [s.energy for s in ordered] == [s.energy for s in found]
    assert [s.kind for s in ordered if s.energy == "low"] == ["test_turn", "inductance"]
    assert ordered[0].act == "repeat"
    assert by_goal(found, None) == found


@cache
def without_a_goal():
    """Every record of the demo with its steps."""
    return [(d, next_steps(identify(parse_record(d)))) for d in demo_documents()]


@pytest.mark.parametrize("key", KEYS)
def test_no_goal_moves_a_stop_the_capacitor_or_the_gate(key):
    """Over all the demo: the energies of the steps stand as without a goal, and a stop's too."""
    for document, plain in without_a_goal():
        said = [*document.get("statements", []), {"kind": "goal", "concerns": key}]
        moved = next_steps(identify(parse_record({**document, "statements": said})))

        assert [s.energy for s in moved] == [s.energy for s in plain]
        assert sorted(s.title for s in moved) == sorted(s.title for s in plain)


def test_what_is_spared_is_proposed_and_serves_no_need():
    """Named, so that nobody wonders why it is not asked for."""
    ident = wanted("lamps-12", "ABCDE", OVEN)
    found = stands(ident)
    titles = {s.title for s in next_steps(ident)}

    assert set(found.spared) <= titles
    assert stands(wanted("what-is-it", readings=MAINS)).spared is not None


@pytest.mark.parametrize(
    ("text", "key"),
    [
        ("spot welder for 18650 cells: a tab welder", "tab-welder"),
        ("weld nickel tabs on a battery", "tab-welder"),
        ("12 V for the garden lights", "lamps-12"),
        ("isolate a radio on the bench", "isolated-bench"),
        ("what is this thing?", "what-is-it"),
        ("a doorstop", "own"),
        ("anything but never wood burning", "own"),
    ],
)
def test_a_goal_in_own_words_is_one_of_the_list_or_kept_as_said(text, key):
    """Kept as said it asks for nothing, and says where the uses are."""
    assert meant(text).key == key
    if key == "own":
        found = stands(told_goal("own", text))
        assert found.goal.title == text
        assert "“uses”" in found.words


@pytest.mark.parametrize("text", ["I want fractal burning", "make a taser", "electro-fishing"])
def test_a_goal_that_is_never_planned_says_why_and_what_instead(text):
    """When it is typed, and where it stands in a record that came from elsewhere."""
    with pytest.raises(FieldError, match="Nothing is planned"):
        meant(text)

    found = stands(told_goal("tab-welder", text))
    assert found.words.startswith("Never planned.")
    assert not found.lacking


def told_goal(concerns, text):
    """A piece whose goal was said in these words, concluded."""
    said = [{"kind": "goal", "concerns": concerns, "text": text}]
    return identify(parse_record(piece("ABCD", (), statements=said, **SUPPLY)))
