"""The station Uses and the rewinding page over HTTP: the job, the window, what is refused, the
sheet ticked off, changes and the weld log kept.
"""

import html
import io
import re

import pytest

from greyfell.core.planners.registry import PLANNERS
from greyfell.core.telling.glossary import GLOSSARY
from greyfell.core.telling.schools import SCHOOLS
from greyfell.core.uses.all_uses import use_of
from greyfell.core.uses.core_to_wind import iron_of
from greyfell.core.uses.project import better, both
from greyfell.records.repository import Repository
from greyfell.records.stores import Stores
from greyfell.web.rewinding import JOBS
from tests.conftest import squeezed
from tests.records.test_photos import photo


def page(response):
    """The text of a page."""
    return response.get_data(as_text=True)


def repository(client):
    """The records behind a client."""
    return Repository(client.app.extensions["store"])


def test_the_station_lists_every_use_with_its_verdict(demo):
    """Fits first, refused last and without a link; what was assumed is named."""
    shown = page(demo.get("/pieces/CQ-017/?at=uses"))
    verdicts = re.findall(r"text-(?:stop|caution|sound)\">([a-z ]+)</span>", shown)

    assert verdicts.index("fits") < verdicts.index("fits after") < verdicts.index("does not")
    assert verdicts[-1] == "refused"
    assert "Assumed, since nobody read it" in shown
    assert "use=magnetron" not in shown


@pytest.mark.parametrize(
    ("tag", "words"),
    [("CQ-026", "stop fault"), ("CQ-009", "potted"), ("CQ-033", "autotransformer")],
)
def test_nothing_is_planned_on_a_piece_that_may_not_be_wound(demo, tag, words):
    """Station and page alike, with the reason."""
    for url in (f"/pieces/{tag}/?at=uses", f"/pieces/{tag}/rewind", f"/pieces/{tag}/rewind/sheet"):
        shown = page(demo.get(url))
        assert words in shown
        assert "Turns side by side" not in shown
        assert "What to have" not in shown


@pytest.mark.parametrize("job", [key for key, _ in JOBS])
def test_every_job_has_its_page_and_its_sheet(demo, job):
    """Window drawn, or the reason why nothing is planned."""
    shown = page(demo.get(f"/pieces/CQ-017/rewind?use={job}"))
    sheet = page(demo.get(f"/pieces/CQ-017/rewind/sheet?use={job}"))

    refused = "Nothing is planned" in shown
    assert refused or "turns in the window" in shown
    assert refused == ("Nothing is planned" in sheet)
    assert refused != ("What to have" in sheet)


def test_the_weld_is_asked_by_metal_thickness_and_tips(demo):
    """Copper is refused; nickel says what a foot cannot time and what a cell does."""
    nickel = page(demo.get("/pieces/CQ-017/rewind?use=weld&metal=nickel&mm=0.15&tips=one-sided"))
    copper = page(demo.get("/pieces/CQ-017/rewind?use=weld&metal=copper&mm=0.1"))

    assert "no foot" in nickel
    assert "On cells." in nickel
    assert "Copper to copper" in copper
    assert "Turns side by side" not in copper


def test_a_typed_window_moves_the_drawing_and_the_turns(demo):
    """Twice the height takes a thicker conductor."""

    def section(url):
        return float(re.search(r"Conductor</dt>\s*<dd>.*?, (\d+) mm²", page(demo.get(url)))[1])

    small = section("/pieces/CQ-017/rewind?use=weld-nickel&turns=3&shunts=out&height_mm=48")
    large = section("/pieces/CQ-017/rewind?use=weld-nickel&turns=3&shunts=out&height_mm=90")

    assert large > small


@pytest.mark.parametrize(
    "query", ["turns=nan", "turns=-4", "width_mm=x", "mm=0", "breaker=1e9", "evenings=x", "use=zz"]
)
def test_nonsense_in_the_address_is_answered_by_a_page(demo, query):
    """Never an error of ours."""
    assert demo.get(f"/pieces/CQ-017/rewind?use=weld-nickel&{query}").status_code == 200


def test_a_step_is_ticked_off_and_the_next_stays_locked_by_its_reading(demo):
    """The question first; readings that are not on record keep what follows them locked, and the
    cut is not among it.
    """
    before = page(demo.get("/pieces/CQ-017/rewind/sheet?use=weld-nickel"))
    demo.post("/pieces/CQ-017/rewind/tick", {"step": "asked", "query": "use=weld-nickel"})
    after = page(demo.get("/pieces/CQ-017/rewind/sheet?use=weld-nickel"))

    assert before.count(">Done<") == after.count(">Done<") + 1
    assert "locked: first step 2" in after
    assert "amps and watts at no load" not in after[: after.index("Swarf out with a brush")]
    statements = repository(demo).document("CQ-017")["statements"]
    assert [s["concerns"] for s in statements if s["kind"] == "built"] == ["asked"]


def test_ready_by_is_answered(demo):
    """One evening cannot hold it; no test is left out."""
    shown = page(demo.get("/pieces/CQ-017/rewind?use=weld-nickel&evenings=1"))

    assert "It cannot be" in shown


def test_a_coil_that_is_out_voids_what_it_may_have_touched(demo):
    """The change is kept; readings against the core are asked for again by themselves."""
    demo.post("/pieces/CQ-014/rewind/made", {"what": "winding-removed", "leads": "E"})
    document = repository(demo).document("CQ-014")
    shown = page(demo.get("/pieces/CQ-014/"))

    assert document["changes"][-1]["what"] == "winding-removed"
    assert document["changes"][-1]["leads"] == ["E"]
    assert "core" in re.search(r"Next:.*?</h2>", shown, re.S)[0].lower()


def test_a_change_that_says_nothing_keeps_nothing(demo):
    """The sentence names what is missing."""
    answer = demo.post(
        "/pieces/CQ-017/rewind/made", {"what": "rewound", "query": "use=weld-nickel"}
    )

    assert answer.status_code == 422
    assert "counted through both windows" in page(answer)
    assert not repository(demo).document("CQ-017").get("changes")


def test_a_shot_is_logged_and_the_next_change_proposed(demo):
    """It peels: half as long again; a wrong shot keeps nothing."""
    shot = {"turns": "2", "seconds": "0.2", "result": "peel"}
    demo.post("/pieces/CQ-017/rewind/log", shot)
    shown = page(demo.get("/pieces/CQ-017/rewind?use=weld-nickel"))
    wrong = demo.post("/pieces/CQ-017/rewind/log", {**shot, "result": ""})

    assert "Half as long again: 0.3 s" in shown
    assert wrong.status_code == 422
    statements = repository(demo).document("CQ-017")["statements"]
    assert len([s for s in statements if s["kind"] == "weld-shot"]) == 1


def test_sent_twice_a_shot_is_logged_once(demo):
    """The form's key."""
    shot = {"turns": "2", "seconds": "0.2", "result": "peel", "once": "k-1"}
    for _ in range(2):
        demo.post("/pieces/CQ-017/rewind/log", shot)

    statements = repository(demo).document("CQ-017")["statements"]
    assert len([s for s in statements if s["kind"] == "weld-shot"]) == 1


def test_a_plan_is_kept_with_its_piece(demo):
    """The station leads back to it and to its sheet."""
    demo.post("/pieces/CQ-017/rewind", {"query": "use=weld-nickel&turns=2", "title": "tabs"})
    shown = page(demo.get("/pieces/CQ-017/?at=uses"))

    assert "Being built:" in shown
    assert "rewind?use=weld-nickel&amp;turns=2" in shown
    assert ">tabs<" in shown


def test_what_is_measured_stands_beside_the_plan(demo):
    """After the winding was told: a ratio inside, and one that is three turns, not two."""
    changed = {"what": "rewound", "turns": "2", "leads": "C D"}
    demo.post("/pieces/CQ-017/rewind/made", changed)
    demo.post("/pieces/CQ-017/jot", {"line": "A-B 23V > C-D 0.146V", "at": "low"})
    inside = page(demo.get("/pieces/CQ-017/rewind?use=weld-nickel&turns=2&shunts=out"))
    demo.post("/pieces/CQ-017/jot", {"line": "A-B 23V > C-D 0.30V", "at": "low"})
    outside = page(demo.get("/pieces/CQ-017/rewind?use=weld-nickel&turns=2&shunts=out"))

    assert "Planned and measured" in inside
    assert ", outside" not in inside
    assert ", outside" in outside


def test_from_a_job_the_pieces_that_come_nearest_are_named(demo):
    """Three at most side by side; barred ones apart, with the reason. A 1:1 without its mark is
    none as it is (K8).
    """
    shown = page(demo.get("/uses?use=one-to-one"))
    best = shown[shown.index("<ol") : shown.index("</ol>")]

    assert best.count("<li") == 3
    assert "as it is" not in best.lower().replace("not as it is", "")
    assert "no mark of a safety isolating transformer" in shown
    assert "Iron to look for" in shown
    assert "not to be wound" in shown


def test_a_refused_job_names_no_piece(demo):
    """Its reason alone."""
    shown = page(demo.get("/uses?use=wood-burning"))

    assert "refused" in shown
    assert "CQ-0" not in shown[shown.index("<h1") :]


def test_every_school_is_found_where_it_is_claimed(demo):
    """Each names planners that are there, or the uses; the page shows them all."""
    shown = page(demo.get("/schools"))

    assert len(SCHOOLS) == len({s.key for s in SCHOOLS}) == 19
    for school in SCHOOLS:
        assert school.question in html.unescape(shown)
        assert set(school.where) <= set(PLANNERS) | {"uses"}
        assert len(school.ways) >= 2


def test_help_is_one_tap_away_from_every_station(demo):
    """On each page of a piece, and on the bench card."""
    for at in ("cold", "low", "power", "sweep", "uses"):
        assert 'href="/shocked"' in page(demo.get(f"/pieces/CQ-018/?at={at}"))
    assert 'href="/shocked"' in page(demo.get("/pieces/CQ-018/bench"))
    shown = page(demo.get("/shocked"))
    assert shown.index("Power off") < shown.index("emergency number") < shown.index("hospital")


def test_words_are_explained_in_a_sentence_each(demo):
    """In order, none twice, each ends."""
    shown = page(demo.get("/glossary"))

    assert list(GLOSSARY) == sorted(GLOSSARY, key=str.lower)
    for word, meaning in GLOSSARY.items():
        assert meaning.endswith(".")
        assert html.escape(word, quote=False) in shown


@pytest.mark.parametrize("step", ["wind", "short", "nonsense", ""])
def test_a_locked_step_is_not_ticked_off_by_any_hand(demo, step):
    """Nor one that the sheet does not have: nothing is kept, and why is said."""
    answer = demo.post("/pieces/CQ-017/rewind/tick", {"step": step, "query": "use=weld-nickel"})

    assert answer.status_code == 422
    assert "Not ticked off" in page(answer)
    statements = repository(demo).document("CQ-017").get("statements") or []
    assert not [s for s in statements if s["kind"] == "built"]


def test_a_refused_form_loses_nothing(demo):
    """The plan it stood under, and everything that was typed in it."""
    change = {"what": "rewound", "conductor": "cable 35", "metres": "1.2"}
    query = {"query": "use=weld-nickel&turns=2&shunts=out"}
    first = page(demo.post("/pieces/CQ-017/rewind/made", {**change, **query}))
    shot = {"turns": "9", "seconds": "0.2", "tip_mm": "2.5", "result": ""}
    second = page(demo.post("/pieces/CQ-017/rewind/log", {**shot, **query}))

    for shown in (first, second):
        assert "2 turns in the window" in shown
    assert 'name="conductor" value="cable 35"' in first
    assert '<option value="rewound" selected>' in first
    assert 'name="tip_mm" value="2.5"' in second


def test_kept_plans_stand_beside_what_was_measured_and_tell_the_bench_its_bias(demo):
    """Two pieces wound and read 4 % above plan with the same meter: told, offered, not applied."""
    assert "No plan was kept yet" in page(demo.get("/rewindings"))
    for tag, factor in (("CQ-017", 1.04), ("CQ-052", 1.042)):
        wound_and_read(demo, tag, factor)

    shown = html.unescape(page(demo.get("/rewindings")))

    assert shown.count(">Open volts<") == 3
    assert "Open volts, read with bench" in shown
    assert re.search(r"1\.0[34]\d, 1\.0\d\d to 1\.0\d\d", shown)


def wound_and_read(client, tag, factor):
    """Keep a plan of a piece, wind it, read its open volts 4 % above the plan."""
    query = "use=weld-nickel&turns=3"
    client.post(f"/pieces/{tag}/rewind", {"query": query, "title": "three turns"})
    ident = repository(client).get(tag).ident
    belief = ident.belief
    planned = better(both(iron_of(ident), use_of("weld-nickel"), 3)).open_volts.value
    a, b = belief.fed[:2]
    other = next(w for w in belief.windings if a not in w.coil.leads and len(w.coil.leads) > 1)
    change = {"what": "rewound", "turns": "3", "leads": " ".join(other.coil.leads)}
    client.post(f"/pieces/{tag}/rewind/made", {**change, "query": query})
    reading = {
        "kind": "ratio",
        "driven": [a, b],
        "driven_volts": 23.0,
        "sensed": list(other.coil.leads[:2]),
        "sensed_volts": round(planned * 0.1 * factor, 4),
        "meter": "bench",
    }
    repository(client).append(tag, [reading])


def test_a_step_has_its_photo_and_its_stop_line(demo):
    """The photo is kept with the piece under the step; the drawing says where the blade stops."""
    query = "use=weld-nickel"
    shown = page(demo.get(f"/pieces/CQ-017/rewind/sheet?{query}"))
    assert re.search(r"stop \d+ mm (below the top of the coil|deep)", shown)

    for step in ("asked", "before"):
        demo.post("/pieces/CQ-017/rewind/tick", {"step": step, "query": query})
    form = {"step": "card", "query": query, "photo": (io.BytesIO(photo()), "card.jpg")}
    answer = demo.post("/pieces/CQ-017/rewind/photo", form, content_type="multipart/form-data")

    assert answer.status_code == 302
    assert repository(demo).get("CQ-017").record.photos[-1].note == "step card"


def test_a_photo_that_is_none_is_refused_with_its_sentence(demo):
    """The sheet stays as it was."""
    answer = demo.post("/pieces/CQ-017/rewind/photo", {"step": "card", "query": "use=weld-nickel"})
    assert answer.status_code == 422
    assert "What to have" in page(answer)


def test_aluminium_and_paper_are_chosen_on_the_page(demo):
    """Aluminium wire has its own ends; paper between layers leaves room for less."""
    base = "/pieces/CQ-017/rewind/sheet?use=lamps"
    wire = page(demo.get(f"{base}&made=aluminium+wire"))
    assert "enamelled aluminium wire" in wire
    assert "lugs for aluminium" in wire

    plain = page(demo.get("/pieces/CQ-017/rewind?use=lamps&made=enamelled&turns=14"))
    paper = page(demo.get("/pieces/CQ-017/rewind?use=lamps&made=enamelled&turns=14&paper_mm=0.5"))
    assert plain != paper


def test_what_is_wound_is_taken_out_of_the_stores_once(demo, monkeypatch):
    """Every step ticked in its order; at the winding the metres go down; not enough is refused."""
    monkeypatch.setattr("greyfell.web.rewinding.missing", lambda _ident: [])
    shelf = Stores(demo.app.extensions["store"])
    query = "use=lamps&made=enamelled&turns=14"
    ident = repository(demo).get("CQ-017").ident
    wanted = better(both(iron_of(ident), use_of("lamps"), 14, ["enamelled"]))
    reel = {"kind": "wire", "title": "reel", "count": 1, "mm2": wanted.conductor.mm2}
    uid = shelf.add({**reel, "metres": 100.0}).id

    shown = page(demo.get(f"/pieces/CQ-017/rewind/sheet?{query}"))
    assert "in the stores: reel" in squeezed(shown)
    steps = re.findall(r'name="step" value="([a-z-]+)"', shown)
    while "wind" not in steps:
        demo.post("/pieces/CQ-017/rewind/tick", {"step": steps[0], "query": query})
        shown = page(demo.get(f"/pieces/CQ-017/rewind/sheet?{query}"))
        steps = re.findall(r'name="step" value="([a-z-]+)"', shown)
    demo.post("/pieces/CQ-017/rewind/tick", {"step": "wind", "query": query, "item": uid})
    left = shelf.get(uid).figures["metres"]
    used = (wanted.metres + wanted.tails_m) * wanted.conductor.in_hand

    assert left == pytest.approx(100.0 - used, abs=0.02)
    again = {"step": "wind", "query": query, "item": "s00000000"}
    assert demo.post("/pieces/CQ-017/rewind/tick", again).status_code == 422
    assert shelf.get(uid).figures["metres"] == left


@pytest.mark.parametrize("where", ["", "/tick", "/photo", "/made", "/log"])
@pytest.mark.parametrize("query", ["use=spot\r\nX-Y: z", "a\nb", "\x00=1&use=\x0b", "x=["])
def test_a_hidden_field_with_anything_in_it_is_answered(demo, where, query):
    """Stored and answered, or refused by a sentence: never stored and then broken off."""
    before = len(repository(demo).get("CQ-017").record.statements)
    form = {"query": query, "title": "t", "step": "x", "what": "coil-out", "once": f"k{where}"}
    answer = demo.post(f"/pieces/CQ-017/rewind{where}", form)
    after = len(repository(demo).get("CQ-017").record.statements)

    assert answer.status_code in (302, 422)
    assert "X-Y" not in answer.headers
    assert after == before or answer.status_code == 302


def test_a_plan_of_too_many_boxes_is_refused_and_not_kept(demo):
    """A hundred are taken, one more is not."""
    for boxes, status in ((100, 302), (101, 422)):
        query = "&".join(f"b{n}=1" for n in range(boxes))
        answer = demo.post("/pieces/CQ-017/rewind", {"query": query, "title": "t"})
        assert answer.status_code == status


@pytest.mark.parametrize("back", ["//evil.example", "/a\r\nX: y", "//[", "/\\evil", "ftp://x"])
def test_the_way_back_is_an_address_of_this_program(demo, back):
    """Another site's, a second header, no address at all: the shelf."""
    answer = demo.post("/theme", {"theme": "dark", "back": back})

    assert answer.status_code == 302
    assert answer.headers["Location"] == "/"
