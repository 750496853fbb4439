"""The live stations without a browser: the bench over the stores, lamps, volts, sheets, shorts; and
what is said where something is wrong.
"""

import json
import re

import pytest
from click.testing import CliRunner

from greyfell.cli import main
from greyfell.records.demo import demo_documents, demo_stores
from greyfell.records.repository import Repository
from greyfell.records.stores import Stores
from tests.conftest import squeezed
from tests.web.test_pages import NASTY, page


@pytest.fixture
def shelf(demo):
    """The demo, and its repository."""
    return demo, Repository(demo.app.extensions["store"])


BENCH = {
    "fed": "A-B",
    "plug": "fixed",
    "earthed": "yes",
    "bond": "yes",
    "reach": "yes",
    "hands_off": "yes",
    "rcd": "s00000012",
    "guard": "s00000018",
    "switch": "s00000015",
    "limiter": "s00000019",
    "side": "line",
    "cover_C": "yes",
}
"""A sound bench for the oven CQ-018, out of the demo's stores."""


def setup(shelf, tag, **more):
    """Keep a set-up; the page after it."""
    client, repository = shelf
    form = {k: v for k, v in {**BENCH, **more}.items() if v is not None}
    form["version"] = repository.get(tag).version
    answer = client.post(f"/pieces/{tag}/setup", form)
    return answer, page(client.get(f"/pieces/{tag}/?at=power"))


def test_a_sound_bench_is_told_to_be_one_and_kept(shelf):
    """Drawn from wall to piece; the record holds it, and its edits."""
    answer, shown = setup(shelf, "CQ-018")
    document = shelf[1].document("CQ-018")

    assert answer.status_code == 302
    assert "Nothing wrong on it." in shown
    assert "The bench: nothing wrong from the wall to the piece" in shown
    assert document["setup"]["format"] == "greyfell.setup/1"
    assert document["edits"][-1]["path"] == "setup"


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"limiter": None}, "No limiter"),
        ({"side": "neutral"}, "stands in the neutral"),
        ({"plug": "reversible"}, None),
        ({"plug": ""}, None),
        ({"switch": None}, "No switch"),
        ({"reach": None}, "not in reach"),
        ({"rcd": None}, "No residual-current device"),
        ({"guard": None}, "No fuse or breaker"),
        ({"bond": None}, "not wired to earth"),
        ({"earthed": None}, "the socket has none"),
        ({"cover_C": None}, "C not covered"),
        ({"fed": "C-core"}, "not known to take the line"),
        ({"dial": "s0000000d"}, "Behind Maintenance shed"),
        ({"meter_M1": "C-core", "held_M1": "hand"}, "held by hand on C–core"),
        ({"meter_M1": "A-B"}, None),
    ],
)
def test_what_is_wrong_or_missing_is_said_by_its_sentence(shelf, more, words):
    """On the page that comes back, numbered."""
    _, shown = setup(shelf, "CQ-018", **more)

    if words is None:
        assert "stands in the neutral" in shown or "Nothing wrong on it." in shown
    else:
        assert words.casefold() in shown.casefold()
        assert "wrong or missing" in shown


@pytest.mark.parametrize("fed", ["", "A", "A-A", "A-Q", "A-B-C", NASTY])
def test_a_pair_that_is_none_is_refused_and_nothing_kept(shelf, fed):
    """One sentence; the bench before it stands."""
    before = shelf[1].document("CQ-018")["setup"]
    answer, shown = setup(shelf, "CQ-018", fed=fed)

    assert answer.status_code == 422
    assert 'role="alert"' in page(answer)
    assert NASTY not in page(answer)
    assert shelf[1].document("CQ-018")["setup"] == before
    assert "Nothing wrong on it." in shown


def test_a_bench_that_moved_on_meanwhile_is_not_overwritten(shelf):
    """A form of an old page stores nothing."""
    client, repository = shelf
    version = repository.get("CQ-018").version
    setup(shelf, "CQ-018", reach=None)
    late = client.post("/pieces/CQ-018/setup", {**BENCH, "version": version})

    assert late.status_code == 422
    assert not repository.document("CQ-018")["setup"]["chain"][2].get("reach")


def test_a_setup_that_cannot_be_read_shuts_nothing_but_says_so(shelf):
    """Brought in from elsewhere, with a kind that nobody knows."""
    client, repository = shelf
    document = {
        **repository.document("CQ-018"),
        "tag": "T-9",
        "id": "00000000000000000000000000000009",
    }
    document["setup"] = {"fed": ["A", "B"], "chain": [{"kind": "wizard"}]}
    document.pop("photos", None)
    repository.add(document)
    shown = page(client.get("/pieces/T-9/?at=power"))

    assert "is not." in shown
    assert "What stands on the bench" in shown


def test_lamps_volts_and_warmth_are_foretold_at_first_power(shelf):
    """Every winding behind the lamp taken, every pair with its band, how long it may stay on."""
    shown = page(shelf[0].get("/pieces/CQ-018/?at=power"))

    assert "The bench has a lamp of <b>500 W</b>" in squeezed(shown)
    assert "C–core" in shown
    assert "no meter" in shown
    assert "By its idle watts" in shown
    assert "no cold test can tell its insulation" in shown
    assert "Theirs alone: an oven put back into use" in shown
    assert "things that people here get wrong" in shown


def test_nothing_live_is_shown_behind_a_closed_gate(shelf):
    """No bench, no lamp, no sheet: a stop fault closes the station at once."""
    for tag in ("CQ-026", "CQ-017", "CQ-011"):
        power = page(shelf[0].get(f"/pieces/{tag}/?at=power"))
        sweep = page(shelf[0].get(f"/pieces/{tag}/?at=sweep"))

        assert "Look at this bench" not in power
        assert "What the lamp will show" not in power
        assert "Wind up in steps" not in sweep
        assert "Nothing is shorted before the gate is open" in sweep


def test_the_sweep_carries_its_sheet_the_short_and_the_load_line(shelf):
    """Of an oven, from the primary's side; watts are asked for."""
    shown = page(shelf[0].get("/pieces/CQ-018/?at=sweep"))

    assert len(re.findall(r"<td>[^<]*\d V</td>", shown)) >= 12
    assert "primary's side only" in shown.replace("&#39;", "'")
    assert "Short circuit of the HV C–core" in shown
    assert "Without watts the split" in shown
    assert "C–core under load" in shown
    assert "Without a variac: three lamps" in shown


def test_a_thousand_points_pasted_draw_their_curve(shelf):
    """As a table; the page answers, the knee is told."""
    client, repository = shelf
    rows = "\n".join(
        f"no_load,A-B,{50 + 0.2 * n:.1f},{1e-4 * (50 + 0.2 * n) + ((50 + 0.2 * n) / 260) ** 14:.5f}"
        for n in range(1000)
    )
    table = f"kind,driven,volts,amps\n{rows}"
    answer = client.post("/pieces/CQ-021/table", {"table": table, "agree": "yes"})
    kept = len(repository.document("CQ-021")["readings"])
    shown = page(client.get("/pieces/CQ-021/?at=sweep"))

    assert answer.status_code in (200, 302)
    assert kept > 1000
    assert "Onset of the knee at" in shown


def test_identify_and_next_tell_the_same_of_the_bench_as_the_page(tmp_path):
    """The command line, by a file."""
    document = next(d for d in demo_documents() if d["tag"] == "CQ-005")
    file = tmp_path / "one.json"
    file.write_text(json.dumps(document), encoding="utf-8")
    told = CliRunner().invoke(main, ["identify", str(file), "--next"])
    wrong = CliRunner().invoke(main, ["setup", str(file)])
    answer = json.loads(wrong.output)

    assert json.loads(told.output)["gate"]["open"]
    assert answer["sound"] is False
    assert {w["code"] for w in answer["wrong"]} == {
        "limiter-not-in-line",
        "out-of-reach",
        "bare-ends",
        "open-ends",
    }


def test_the_demo_has_what_a_sound_bench_needs(shelf):
    """Of every place one entry at least."""
    kinds = {item["kind"] for item in demo_stores()["items"]}

    assert {"residual-current-device", "fuse", "switch", "lamp", "variac", "wattmeter"} <= kinds
    assert Stores(shelf[0].app.extensions["store"]).items()


def test_the_wind_up_sheet_is_printed_with_bench_steps_and_stops(shelf):
    """Behind the gate; a closed one prints why."""
    opened = page(shelf[0].get("/pieces/CQ-018/sheet"))
    closed = page(shelf[0].get("/pieces/CQ-026/sheet"))

    assert "Stop above" in opened
    assert "The bench: nothing wrong" in opened
    assert "Theirs alone" in opened
    assert "No steps." in closed
    assert "Stop above" not in closed


def test_leakage_and_a_soak_are_told_where_they_were_read(shelf):
    """Graded; warm by its ohms."""
    client, repository = shelf
    for line in (
        "A-B 230V > C-earth 0.1mA",
        "A-B soak 30min 230V 9W 9.50 9.70",
    ):
        client.post("/pieces/CQ-021/jot", {"line": line, "at": "power"})
    shown = page(client.get("/pieces/CQ-021/?at=power"))

    assert len(repository.document("CQ-021")["readings"]) >= 2
    assert '<b class="text-sound">good</b>' in shown
    assert "after 30 minutes" in squeezed(shown)


def test_every_paper_says_what_is_licensed_practice_s_alone(shelf):
    """The full record and the passport."""
    for address in ("paper", "passport.html"):
        assert "Theirs alone" in page(shelf[0].get(f"/pieces/CQ-009/{address}"))


def test_the_model_of_a_dual_primary_says_how_its_halves_are_fed(demo):
    """On 230 V in series, from one half's lead to the other's."""
    text = page(demo.get("/pieces/CQ-044/?at=model"))
    drawing = text[text.index("Equivalent circuit") :]

    assert "A–B and C–D in series" in drawing
    assert ">D</text>" in drawing[: drawing.index("in brackets what is assumed")]
