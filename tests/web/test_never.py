"""What is never planned, on the pages: a goal in own words, a typed line that asks, a rig, its
sheet and its files, a kept one from elsewhere, a plan's title; and what is lost of what was typed.
"""

import io
import json
import re

import pytest

from greyfell.core.codes import CODES
from greyfell.core.never import NEVER
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.uses.all_uses import USES
from greyfell.records.plans import Plans
from greyfell.records.repository import Repository
from tests.core.test_never import LETHAL

OVEN_ROW = (
    "s.volts=230&s.hertz=50&p.volts=230&p.hertz=50&p.ratio=9&p.primary_ohms=1.6"
    "&p.secondary_ohms=110&p.leakage_henries=45m&p.idle_amps=1.5&p.core_watts=60&p.bond=end"
)
WOOD = f"{OVEN_ROW}&l.kind=resistor&l.ohms=9k&l.title=wood burning"
ARC = f"{OVEN_ROW}&l.kind=arc&l.volts=900&r.enclosed=yes"


def page(response):
    """The text of a page."""
    return response.get_data(as_text=True)


def statements(client):
    """What stands on record of T-1 in words."""
    return Repository(client.app.extensions["store"]).document("T-1").get("statements", [])


def test_a_goal_that_is_never_planned_is_answered_and_not_kept(bench):
    """Why not, what instead, the words still in their box."""
    before = statements(bench)
    answer = bench.post("/pieces/T-1/goal", {"own": "I want fractal burning"})
    shown = page(answer)

    assert answer.status_code == 422
    assert "It has killed dozens" in shown
    assert "A hot-air pen" in shown
    assert 'value="I want fractal burning"' in shown
    assert statements(bench) == before


def test_a_goal_in_own_words_is_kept_with_them(bench):
    """As one of the list where it means one."""
    bench.post("/pieces/T-1/goal", {"own": "weld nickel tabs"})

    said = statements(bench)[-1]
    assert (said["kind"], said["concerns"], said["text"]) == (
        "goal",
        "tab-welder",
        "weld nickel tabs",
    )


@pytest.mark.parametrize(
    "line", ["make a taser", "can I burn wood with it?", "I want a tesla coil", "fractal burning"]
)
def test_a_line_that_asks_is_answered_by_the_list(bench, line):
    """No hint of grammar; the line stands in its box."""
    answer = bench.post("/pieces/T-1/jot", {"line": line})
    shown = page(answer)

    assert answer.status_code == 422
    assert "Nothing is planned." in shown
    assert f'value="{line}"' in shown


@pytest.mark.parametrize("query", [WOOD, ARC])
@pytest.mark.parametrize("where", ["edit", "sheet", "rig.cir", "rig.csv"])
def test_a_lethal_rig_is_neither_shown_nor_printed_nor_put_out(client, query, where):
    """The sentence, and no figure of it."""
    answer = client.get(f"/rigs/{where}?{query}")
    shown = page(answer)

    assert answer.status_code == 422
    assert "Nothing is planned." in shown
    assert "Wind-up" not in shown
    assert "If one thing fails" not in shown
    assert "Keep this rig" not in shown


def test_what_was_typed_of_a_lethal_rig_is_not_lost(client):
    """Its boxes stand as they were."""
    shown = page(client.get(f"/rigs/edit?{WOOD}"))

    assert 'value="wood burning"' in shown
    assert 'value="9k"' in shown


def test_a_lethal_rig_is_not_kept(client):
    """422, and the shelf of plans stays empty."""
    assert client.post("/rigs", {"query": WOOD}).status_code == 422
    assert Plans(client.app.extensions["store"]).all() == []


@pytest.mark.parametrize("name", LETHAL)
def test_a_rig_that_was_kept_before_shows_why_and_no_figure(client, name):
    """As it came in a file of an earlier time."""
    plan = {
        "format": "greyfell.plan/1",
        "planner": "rig",
        "title": "kept",
        "tag": "",
        "at": "2026-01-01T10:00:00+00:00",
        "core_version": 13,
        "input": LETHAL[name],
        "starts": {},
        "result": {"by": "time", "joints": [], "warnings": []},
        "measured": [],
    }
    uid = Plans(client.app.extensions["store"]).add(plan, "k1")
    shown = page(client.get(f"/kept/{uid}"))

    assert "Never planned." in shown
    assert "First power of its direct side" not in shown
    assert client.post(f"/kept/{uid}/walk", {"step": "apart"}).status_code == 422


def test_a_plan_whose_title_asks_for_it_is_not_kept(client):
    """The title is a wish; where the piece came from is none."""
    query = "winding_volts=12&load_amps=0.5&reservoir_farads=4700u&sent=yes"
    form = {"planner": "dc_supply", "query": query}
    asked = client.post("/kept", form | {"title": "a stun gun"})
    named = client.post("/kept", form | {"title": "part of a stun gun, for lamps"})

    assert asked.status_code == 422
    assert "Nothing is planned." in page(asked)
    assert named.status_code == 302


def test_uses_name_all_of_the_list(demo):
    """Each with its reason."""
    refused = {u.key: u.refused for u in USES if u.refused}

    for never in NEVER:
        assert refused[never.key] == never.sentence
    assert page(demo.get("/uses?use=fence")).count(NEVER[0].title) <= 1


def test_ticks_of_a_rig_come_back_as_they_were_and_none_is_set_for_you(client):
    """Unsaid is not so; the file holds them."""
    bare = page(client.get(f"/rigs/edit?{OVEN_ROW}&l.kind=open"))
    told = page(client.get(f"/rigs/edit?{OVEN_ROW}&l.kind=open&r.enclosed=yes"))
    text = page(client.get(f"/rigs/rig.json?{OVEN_ROW}&l.kind=open&r.enclosed=yes"))
    opened = client.post("/rigs/open", {"file": (io.BytesIO(text.encode()), "rig.json")})

    assert not re.search(r'name="r.enclosed"[^>]* checked', bare)
    assert re.search(r'name="r.enclosed"[^>]* checked', told)
    assert json.loads(text)["enclosed"] is True
    assert "r.enclosed=yes" in opened.headers["Location"]


def test_a_file_whose_tick_is_none_is_answered_by_its_name(client):
    """A word where true or false belongs."""
    bad = {"format": "greyfell.rig/1", **LETHAL["nameless, bare"], "enclosed": "very"}
    answer = client.post("/rigs/open", {"file": (io.BytesIO(json.dumps(bad).encode()), "r.json")})

    assert answer.status_code == 422
    assert "true or false" in page(answer)


@pytest.mark.parametrize(
    "url",
    [
        "/plans/",
        *(f"/plans/{name}" for name in PLANNERS),
        "/plans/ballast?piece=CQ-018",
        "/coils",
        "/rigs/edit",
        f"/rigs/sheet?{OVEN_ROW}&l.kind=open&r.enclosed=yes",
        "/pieces/CQ-017/rewind?use=lamps",
        "/pieces/CQ-017/rewind/sheet?use=lamps",
        "/pieces/CQ-018/isolation",
        "/pieces/CQ-018/isolated",
        "/pieces/CQ-018/dangers",
        "/pieces/CQ-018/?at=power",
        "/pieces/CQ-018/?at=sweep",
        "/pieces/new",
    ],
)
def test_wherever_mains_wiring_is_planned_the_code_comes_first(demo, url):
    """One sentence, from one place."""
    answer = demo.get(url)

    assert answer.status_code == 200
    assert CODES in page(answer)
