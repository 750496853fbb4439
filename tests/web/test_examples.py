"""What stands in a planner's boxes before anything is typed: an example only where there is no
piece, and as one; of a piece what is known, else nothing and the reading that fills it.
"""

import re

import pytest

from greyfell.core.planner_kit.asking import Known, slots
from greyfell.core.planners.registry import PLANNERS
from greyfell.records.repository import Repository
from greyfell.records.stores import Stores
from greyfell.web.asking import EXAMPLE, boxes
from tests.conftest import MAINS, OVEN, PLATE, piece

SWEPT = [
    {"kind": "no_load", "driven": ["A", "B"], "volts": v, "amps": a, "watts": w}
    for v, a, w in ((60.0, 0.2, 6.0), (120.0, 0.5, 22.0), (230.0, 2.1, 80.0))
]


def page(response):
    """The text of a page."""
    return response.get_data(as_text=True)


def known(bench, readings=()):
    """What is known of a piece with these readings."""
    repository = Repository(bench.app.extensions["store"])
    document = piece("ABCDE", OVEN, supply={"volts": 230, "hertz": 50})
    document["tag"] = "K-1"
    document["readings"] += [{"id": f"n{n}", **r} for n, r in enumerate(readings)]
    repository.add(document)
    return Known(repository.get("K-1").ident)


@pytest.mark.parametrize("name", PLANNERS)
def test_from_a_piece_no_figure_of_it_is_an_example(bench, name):
    """Every planner: an example stands only where somebody wants something."""
    for box in boxes(PLANNERS[name], known(bench), {}):
        if box.mark == EXAMPLE and box.text:
            assert box.ask.chosen, box.key
            assert box.look != "tick"


@pytest.mark.parametrize("name", PLANNERS)
def test_what_must_be_known_of_a_piece_and_is_not_names_its_reading(bench, name):
    """Empty, with what tells it."""
    for box in boxes(PLANNERS[name], known(bench), {}):
        if box.slot.required and not box.text and not box.ask.chosen and "." not in box.key:
            assert box.wants, box.key


@pytest.mark.parametrize("name", PLANNERS)
def test_without_a_piece_an_example_is_marked_as_one(name):
    """No figure of it is drawn as measured; no tick is set."""
    planner = PLANNERS[name]
    for box in boxes(planner, None, {}):
        if box.key in planner.example and box.look != "tick":
            assert box.mark == EXAMPLE
        if box.look == "tick":
            assert box.text == "" or box.slot.default is True


@pytest.mark.parametrize("name", [n for n in PLANNERS if PLANNERS[n].example])
def test_the_drawing_of_an_example_says_so(client, name):
    """On the page and in its file."""
    shown = page(client.get(f"/plans/{name}"))
    answer = client.get(f"/plans/{name}.svg")

    assert "an example: nobody&#39;s figure" in shown or "an example: nobody's figure" in shown
    if answer.status_code == 200:
        assert "an example, of no piece" in re.sub(r"</text>\s*<text[^>]*>", " ", page(answer))


def test_typed_over_it_is_no_example_any_more(client):
    """The figure is somebody's then."""
    told = boxes(PLANNERS["limiter"], None, {"limit_amps": "7.5"})
    box = next(b for b in told if b.key == "limit_amps")

    assert box.mark != EXAMPLE
    assert box.text == "7.5"


def test_the_variac_plan_shows_the_sweep_of_its_piece_or_none(bench):
    """Read points as read; with fewer than two, an empty box and the reading that fills it."""
    swept = next(b for b in boxes(PLANNERS["variac"], known(bench, SWEPT), {}) if b.key == "points")
    assert "230 2.1 80" in swept.text
    assert swept.basis == ("the record",)

    shown = page(bench.get("/plans/variac?piece=T-1"))
    assert "115 0.4 20" not in shown
    assert "not known of this piece" in shown


def test_the_brush_of_the_stores_stands_before_any_example(bench):
    """A variac of 8 A in the stores is the one that is planned with."""
    Stores(bench.app.extensions["store"]).add(
        {"kind": "variac", "title": "the old one", "count": 1, "brush_amps": 8.0}
    )
    shown = page(bench.get("/plans/variac?piece=T-1"))

    assert re.search(r'name="brush_amps"[^>]*value="8"', shown)
    assert "from the stores" in shown


def test_a_swept_primary_is_wound_no_further_than_it_bears(bench):
    """230 V and not the dial's 269 V."""
    document = piece("ABCD", MAINS, nameplate=PLATE, supply={"volts": 230, "hertz": 50})
    document["tag"] = "K-2"
    document["readings"] += [{"id": f"n{n}", **r} for n, r in enumerate(SWEPT)]
    Repository(bench.app.extensions["store"]).add(document)
    shown = page(bench.get("/plans/variac?piece=K-2&brush_amps=8&wanted_volts=200&sent=yes"))

    assert "269 V" not in shown
    assert re.search(r"Wind up no further than.*?230 V", shown, re.S)


def test_every_figure_that_is_wanted_is_declared_so():
    """A planner that begins from a piece asks for one at least, or is told whole by the piece."""
    wanted = {n for n, p in PLANNERS.items() if any(s.ask.chosen for s in slots(p.given))}

    assert {"limiter", "ballast", "lamp", "variac", "rewind", "choke"} <= wanted
