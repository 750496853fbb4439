"""Pages without a browser: every route answers, forms keep what was typed, nothing gets past the
guards.
"""

import io
import json
import re
import threading

import pytest
from click.testing import CliRunner
from markupsafe import escape

from greyfell.cli import main
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.telling.outputs_of_shelf import parse_wanted
from greyfell.records.demo import demo_documents
from greyfell.records.repository import Repository
from greyfell.web import meter_in_hand as dial
from greyfell.web.access import POLICY
from greyfell.web.app import create_app
from tests.conftest import OVEN, piece, squeezed


def stored(bench):
    """The document of T-1 as it is kept."""
    return Repository(bench.app.extensions["store"]).document("T-1")


NASTY = "<img src=x onerror=alert(1)>"


def page(response):
    """The text of a page."""
    return response.get_data(as_text=True)


def token_of(text):
    """The CSRF token of a page."""
    return re.search(r'name="csrf_token" value="([^"]+)"', text)[1]


@pytest.mark.parametrize(
    "url",
    [
        "/",
        "/pieces/new",
        "/import",
        "/archive.zip",
        "/plans/",
        *(f"/plans/{name}" for name in PLANNERS),
        *(f"/plans/{name}?piece=T-1" for name in PLANNERS),
        "/plans/rewind?piece=T-1",
        "/plans/ballast?piece=T-1",
        "/patterns",
        "/stores",
        "/stores?kind=meter",
        "/stores?kind=nonsense&find=lamp",
        "/stores.json",
        "/stores/stick",
        "/donors",
        "/donors/tests",
        "/donors/tests?test=fuse&value=0.3",
        "/pieces/T-1/?at=salvage&label=0.95uF+2100WV",
        "/pieces/T-1/",
        "/pieces/T-1/?at=salvage",
        "/pieces/T-1/?at=clues",
        "/pieces/T-1/?at=cold",
        "/pieces/T-1/?at=low",
        "/pieces/T-1/?at=power",
        "/pieces/T-1/?at=sweep",
        "/pieces/T-1/?at=record",
        "/pieces/T-1/?at=model",
        "/pieces/T-1/?at=uses",
        "/pieces/T-1/isolation",
        "/uses",
        "/coils",
        "/uses?use=solder",
        "/uses?use=magnetron",
        "/uses?use=nonsense",
        "/rewindings",
        "/pieces/T-1/dangers",
        "/pieces/T-1/dangers?use=solder&act=ohms",
        "/pieces/T-1/dangers?use=none&act=nonsense",
        "/pieces/T-1/dangers.json",
        "/instruments",
        "/pieces/T-1/points",
        "/pieces/T-1/isolated",
        "/pieces/T-1/isolated?purpose=appliance",
        "/trips",
        "/pieces/T-1/rehearse",
        "/pieces/T-1/rehearse?source=line&driven=A-B&connect=yes&volts_driven=230",
        "/practice",
        "/schools",
        "/shocked",
        "/glossary",
        "/pieces/T-1/rewind",
        "/pieces/T-1/rewind/sheet",
        "/rigs",
        "/rigs/edit",
        "/rigs/edit?piece=T-1",
        "/rigs/sheet",
        "/rigs/rig.cir",
        "/rigs/rig.csv",
        "/rigs/rig.json",
        "/pieces/T-1/?at=nonsense",
        "/pieces/T-1/?pick=A",
        "/pieces/T-1/?pick=A-core",
        "/pieces/T-1/why",
        "/pieces/T-1/sheet",
        "/pieces/T-1/sisters",
        "/?gives=5+A+at+12+V",
        "/pieces/T-1/record.json",
        "/pieces/T-1/identification.json",
        "/pieces/T-1/photos",
        "/pieces/T-1/tag",
        "/pieces/T-1/tag?size=a4",
        "/pieces/T-1/labels",
        "/pieces/T-1/labels?size=label",
        "/pieces/T-1/paper",
        "/pieces/T-1/schematic.svg",
        "/pieces/T-1/readings.csv",
        "/pieces/T-1/table",
        "/pieces/T-1/bench",
        "/plans/rewind.svg?target_volts=5&volts_per_turn=0.9",
        "/log",
        "/log?tag=T-1",
        "/?family=microwave&sort=tag",
        "/?page=99",
        "/bare",
        "/favicon.ico",
    ],
)
def test_every_page_answers_under_the_policy(looked_at, url):
    """200, the strict policy, no inline style or script."""
    response = looked_at.get(url)

    assert response.status_code == 200
    assert response.headers["Content-Security-Policy"] == POLICY
    assert response.headers["X-Content-Type-Options"] == "nosniff"
    if response.mimetype == "text/html":
        assert not re.search(r"<[^>]+\sstyle=|<script(?![^>]*src=)|\son[a-z]+=\"", page(response))


def test_no_route_is_left_out(bench):
    """Every GET route of the map is in the table above or needs a POST."""
    rules = {r.rule for r in bench.app.url_map.iter_rules() if "GET" in r.methods}
    known = {
        "/",
        "/pieces/new",
        "/import",
        "/archive.zip",
        "/plans/",
        "/pieces/<tag>/rewind",
        "/pieces/<tag>/rewind/sheet",
        "/uses",
        "/coils",
        "/rewindings",
        "/pieces/<tag>/dangers",
        "/pieces/<tag>/dangers.json",
        "/instruments",
        "/pieces/<tag>/points",
        "/pieces/<tag>/isolated",
        "/trips",
        "/pieces/<tag>/rehearse",
        "/practice",
        "/practice/<tag>",
        "/schools",
        "/shocked",
        "/glossary",
        "/pieces/<tag>/isolation",
        "/plans/<name>",
        "/rigs",
        "/rigs/edit",
        "/rigs/sheet",
        "/rigs/rig.cir",
        "/rigs/rig.csv",
        "/rigs/rig.json",
        "/rigs/compare",
        "/kept/<uid>",
        "/kept/<uid>.json",
        "/stores",
        "/stores.json",
        "/stores/stick",
        "/donors",
        "/donors/tests",
        "/donors/<uid>",
        "/patterns",
        "/pieces/<tag>/",
        "/pieces/<tag>/why",
        "/pieces/<tag>/sisters",
        "/pieces/<tag>/understand",
        "/pieces/<tag>/record.json",
        "/pieces/<tag>/identification.json",
        "/pieces/<tag>/photos",
        "/pieces/<tag>/photos/<name>",
        "/pieces/<tag>/tag",
        "/pieces/<tag>/sheet",
        "/pieces/<tag>/labels",
        "/pieces/<tag>/paper",
        "/pieces/<tag>/<drawing>.svg",
        "/pieces/<tag>/passport.html",
        "/pieces/<tag>/readings.csv",
        "/pieces/<tag>/table",
        "/pieces/<tag>/bench",
        "/plans/<name>.svg",
        "/log",
        "/bare",
        "/favicon.ico",
        "/static/<path:filename>",
        "/enter",
    }

    assert rules == known


@pytest.mark.parametrize(
    "url", ["/pieces/NOPE/", "/pieces/NOPE/why", "/plans/rewind?piece=NOPE", "/nowhere"]
)
def test_what_is_not_there_is_said_to_be_missing(client, url):
    """404 with a sentence and a way back."""
    response = client.get(url)

    assert response.status_code == 404
    assert re.search(r"To the shelf|There is no piece tagged NOPE", page(response))


def test_a_new_piece_goes_from_form_to_shelf(client):
    """Tag, title, leads, supply: on the bench, then on the shelf."""
    made = client.post(
        "/pieces", {"tag": "CQ-050", "title": "Tea urn", "leads": "A B, C;D E", "supply": "120/60"}
    )

    assert made.status_code == 302
    text = page(client.get(made.headers["Location"]))
    assert "Tea urn" in text
    assert "120 V" in text
    assert "CQ-050" in page(client.get("/"))


@pytest.mark.parametrize(
    ("form", "words"),
    [
        ({"tag": "", "leads": "A B"}, "tag is needed"),
        ({"tag": "a b", "leads": "A"}, "letters"),
        ({"tag": "X", "leads": ""}, "Name the leads"),
        ({"tag": "X", "leads": "A A"}, "named twice"),
        ({"tag": "X", "leads": "core"}, "reserved"),
        ({"tag": "T-1", "leads": "A"}, "in use"),
    ],
)
def test_a_refused_new_piece_keeps_what_was_typed(bench, form, words):
    """422, the sentence beside the field, the typed text in place."""
    response = bench.post("/pieces", {"title": "keep me", **form})

    assert response.status_code == 422
    assert words in page(response)
    assert 'value="keep me"' in page(response)


def test_jotting_appends_and_shows_what_follows(client):
    """From ohm readings to a named transformer, in the page."""
    client.post("/pieces", {"tag": "J-1", "leads": "A B C D E", "supply": "230/50"})
    for line in (
        "proof 0.1",
        "A-B 1.3 probes 0",
        "C-D 0.1 probes 0.1",
        "E-core 96 probes 0",
        "A-core open 20M",
        "A-C open 20M",
        "A-E open 20M",
        "C-E open 20M",
        "C-core open 20M",
    ):
        assert client.post("/pieces/J-1/jot", {"line": line}).status_code == 302
    text = page(client.get("/pieces/J-1/"))

    assert "oven transformer" in text
    assert "Live core when powered" in text
    assert "screened cold" in text


@pytest.mark.parametrize(
    "line", ["A-Z 3", "A-B -3", "A-B nonsense", "", "strike r99 why", "A-B 1e400", NASTY]
)
def test_a_refused_line_stays_in_the_jotter(bench, line):
    """422 without script, the same page with the line in place; nothing stored."""
    response = bench.post("/pieces/T-1/jot", {"line": line})

    assert response.status_code == 422
    assert f'value="{line.replace("<", "&lt;").replace(">", "&gt;")}"' in page(response)
    assert len(stored(bench)["readings"]) == len(OVEN)


def test_the_script_gets_a_page_instead_of_an_error(bench):
    """Asked by the page's own script, a refusal is a 200 with the sentence: a 422 would stand in
    the console.
    """
    refused = bench.post("/pieces/T-1/jot", {"line": "A-Z 3"}, headers={"X-Greyfell": "part"})
    stored = bench.post(
        "/pieces/T-1/jot", {"line": "D-core open 20M"}, headers={"X-Greyfell": "part"}
    )

    assert refused.status_code == stored.status_code == 200
    assert 'data-good="no"' in page(refused)
    assert "stored" in page(stored)


@pytest.mark.parametrize(
    ("line", "good"), [("A-B 1.3", True), ("A-core open 20M", True), ("A-Q 1", False), ("", False)]
)
def test_the_jotter_says_what_it_understood_before_storing(bench, line, good):
    """Understood or not, in words."""
    answer = bench.get("/pieces/T-1/understand", query_string={"line": line}).get_json()

    assert answer["understood"] is good
    assert answer["words"]


def test_clues_are_kept_and_corrections_logged(bench):
    """Leads, core and plate from the form; unknown keys survive; the old stands in edits."""
    form = {
        "version": "1",
        "title": "Kiosk",
        "supply_volts": "240",
        "supply_hertz": "50",
        "declared_family": "microwave",
        "lead_A_colour": "black",
        "lead_A_wire_mm": "1,1",
        "core_shape": "shell",
        "core_shunts": "present",
        "core_tongue_mm": "38",
        "core_mass_kg": "4.6",
        "plate_primary_volts": "240",
        "more_leads": "F",
    }

    assert bench.post("/pieces/T-1/clues", form).status_code == 302
    document = stored(bench)
    assert document["supply"]["volts"] == 240
    assert document["leads"][0]["wire_mm"] == 1.1
    assert document["leads"][-1]["id"] == "F"
    assert document["core"]["mass_kg"] == 4.6
    assert {e["path"] for e in document["edits"]} >= {"title", "supply", "leads", "core"}


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"lead_A_wire_mm": "thick"}, "Wire of A"),
        ({"core_mass_kg": "heavy"}, "Mass, kg must be a number"),
        ({"supply_volts": "-5"}, "above 0"),
        ({"version": "7"}, "another tab"),
    ],
)
def test_refused_clues_keep_what_was_typed(bench, change, words):
    """Nothing half-stored, the form as it was sent."""
    response = bench.post(
        "/pieces/T-1/clues",
        {
            "version": "1",
            "touch": "",
            "title": "typed in vain",
            **change,
        },
    )

    assert response.status_code == 422
    assert words in page(response)
    for typed in change.values():
        assert typed == "7" or f'value="{typed}"' in page(response)
    assert stored(bench).get("title") is None


def test_html_in_every_text_field_comes_out_as_text(client):
    """Titles, clues, notes, reasons, statements: escaped everywhere."""
    client.post("/pieces", {"tag": "H-1", "title": NASTY, "leads": "A B C"})
    client.post("/pieces/H-1/jot", {"line": "A-B 1.3"})
    client.post("/pieces/H-1/strike/r1", {"reason": NASTY})
    client.post("/pieces/H-1/vouch", {"text": NASTY, "by": NASTY, "kind": "salvage-done"})
    client.post(
        "/pieces/H-1/clues",
        {
            "version": "1",
            "title": NASTY,
            "lead_A_colour": NASTY,
            "lead_A_end": NASTY,
            "lead_A_place": NASTY,
            "supply_volts": "230",
            "supply_hertz": "50",
        },
    )

    for url in (
        "/",
        "/pieces/H-1/",
        "/pieces/H-1/?at=record",
        "/pieces/H-1/?at=salvage",
        "/pieces/H-1/?at=clues",
        "/pieces/H-1/why",
        "/plans/rewind?piece=H-1",
    ):
        assert NASTY not in page(client.get(url))


def test_striking_and_vouching_need_words(bench):
    """A reason, a statement: asked for, not assumed."""
    assert bench.post("/pieces/T-1/strike/r2", {"reason": ""}).status_code == 422
    assert bench.post("/pieces/T-1/vouch", {"text": ""}).status_code == 422
    assert bench.post("/pieces/T-1/strike/r2", {"reason": "wrong range"}).status_code == 302
    assert "wrong range" in page(bench.get("/pieces/T-1/?at=record"))


@pytest.mark.parametrize("kind", ["file", "text"])
def test_import_by_file_and_by_text(client, oven, kind):
    """A record comes in either way and is shown."""
    text = json.dumps(oven)
    data = {"file": (io.BytesIO(text.encode()), "T-1.json")} if kind == "file" else {"text": text}

    assert client.post("/import", data).headers["Location"].endswith("/pieces/T-1/")


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "empty"),
        ("{", "not JSON"),
        ('{"format": "greyfell.transformer/3"}', "greyfell.transformer/1"),
        ('{"a": NaN}', "NaN"),
        ("[]", "one JSON object"),
    ],
)
def test_a_bad_import_says_why_and_keeps_the_text(client, text, words):
    """Refused with a sentence; the text stays in the field."""
    response = client.post("/import", {"text": text})

    assert response.status_code == 422
    assert words in page(response)
    assert text.replace('"', "&#34;") in page(response)


def test_a_forty_megabyte_file_is_refused(client):
    """413 with a sentence; nothing read into a record."""
    head = b'--x\r\nContent-Disposition: form-data; name="file"; filename="big.json"\r\n\r\n'
    body = head + b" " * (40 * 1024 * 1024) + b"\r\n--x--\r\n"
    response = client.http.post(
        "/import", data=body, content_type="multipart/form-data; boundary=x"
    )

    assert response.status_code == 413
    assert "4 MB" in page(response)


def test_import_asks_before_it_merges(bench):
    """The same id with news: asked, then appended."""
    document = stored(bench)
    document["readings"].append({"id": "r77", "kind": "core_proof", "ohms": 0.1})

    asked = bench.post("/import", {"text": json.dumps(document)})
    assert "here already" in page(asked)
    bench.post("/import", {"text": json.dumps(document), "agree": "yes"})
    assert any(r["id"] == "r77" for r in stored(bench)["readings"])


@pytest.mark.parametrize(
    "url",
    [
        "/pieces",
        "/pieces/T-1/jot",
        "/pieces/T-1/clues",
        "/pieces/T-1/vouch",
        "/pieces/T-1/strike/r1",
        "/import",
        "/demo",
        "/rigs",
        "/rigs/open",
        "/pieces/T-1/rewind",
        "/pieces/T-1/rewind/tick",
        "/pieces/T-1/rewind/photo",
        "/pieces/T-1/goal",
        "/practice",
        "/instruments/s00000001",
        "/instruments/s00000001/read",
        "/pieces/T-1/points",
        "/pieces/T-1/isolated",
        "/practice/T-1/connect",
        "/practice/T-1/name",
        "/pieces/T-1/rewind/made",
        "/pieces/T-1/rewind/log",
        "/kept",
        "/kept/p1",
        "/kept/p1/walk",
    ],
)
def test_every_write_needs_its_token(bench, url):
    """Without the CSRF token nothing is stored."""
    assert bench.post(url, {"line": "A-B 9"}, token=False).status_code == 400


@pytest.mark.parametrize("host", ["evil.example", "169.254.169.254", "127.0.0.1.evil.example"])
def test_a_foreign_host_header_is_refused(client, host):
    """The Host header is checked against what the program answers to."""
    assert client.get("/", headers={"Host": host}).status_code == 400


def test_a_passphrase_locks_every_page(tmp_path):
    """Bound to another address, the bench is locked until the passphrase is given."""
    app = create_app(tmp_path, passphrase="correct horse")
    http = app.test_client()

    assert http.get("/").headers["Location"].endswith("/enter")
    token = token_of(http.get("/enter").get_data(as_text=True))
    assert http.post("/enter", data={"passphrase": "wrong", "csrf_token": token}).status_code == 403
    assert (
        http.post("/enter", data={"passphrase": "correct horse", "csrf_token": token}).status_code
        == 302
    )
    assert http.get("/").status_code == 200
    app.extensions["store"].close()


def test_an_empty_shelf_teaches(client):
    """The demo, a record, or iron in front of me."""
    text = page(client.get("/"))

    assert "An empty shelf" in text
    client.post("/demo")
    assert "CQ-014" in page(client.get("/"))


def test_two_tabs_writing_at_once_both_land(bench):
    """Lines from two tabs at the same moment are both stored."""

    def tab(n):
        other = type(bench)(bench.app)
        other.post("/pieces/T-1/jot", {"line": f"A-B {n}"})

    threads = [threading.Thread(target=tab, args=(n,)) for n in (1.31, 1.32, 1.33, 1.34)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()

    ohms = [r.get("ohms") for r in stored(bench)["readings"]]
    assert {1.31, 1.32, 1.33, 1.34} <= set(ohms)


@pytest.mark.parametrize(
    ("query", "status", "words"),
    [
        ("target_volts=2.5&volts_per_turn=0.86", 200, "3 whole turns"),
        ("target_volts=x", 422, "number"),
        ("volts_per_turn=-1", 422, "above 0"),
    ],
)
def test_the_rewind_page_shows_the_planners_figures(bench, query, status, words):
    """The same planner as the command line's."""
    response = bench.get(f"/plans/rewind?{query}")

    assert response.status_code == status
    assert words in page(response)


def test_the_rewind_starts_from_a_piece_with_its_range(bench):
    """Volts per turn derived from the piece, with its range and what would narrow it."""
    text = page(bench.get("/plans/rewind?piece=T-1"))

    assert "±" in text
    assert "five turns of thin wire" in text.lower()


@pytest.mark.parametrize(
    ("query", "status", "words"),
    [
        ("limit_amps=5", 200, "146 mH"),
        ("limit_amps=5&source_reactance_ohms=60", 422, "limits already"),
        ("limit_amps=zero", 422, "number"),
    ],
)
def test_the_ballast_page_shows_the_planners_figures(bench, query, status, words):
    """REF-B: 230 V, 5 A, nothing else in the loop: 46 Ω, 146 mH."""
    response = bench.get(f"/plans/ballast?{query}")

    assert response.status_code == status
    assert words in page(response)


def test_a_stop_is_the_first_thing_on_the_page(client):
    """A fault found by a reading stands above the next step and hides live guidance."""
    Repository(client.app.extensions["store"]).add(
        piece("ABCDE", [*OVEN, ("A", "core", 3e5)], supply={"volts": 230, "hertz": 50})
    )
    text = page(client.get("/pieces/T-1/?at=cold"))

    assert "Stop: insulation low" in text
    assert text.index("Stop: insulation low") < text.index("Next: First the capacitor")
    closed = page(client.get("/pieces/T-1/?at=power"))
    assert "Closed." in closed
    assert "only a better reading clears it" in closed


def test_salvage_is_said_in_one_of_three_ways(bench):
    """None is chosen beforehand; an oven's capacitor is not talked away by “none here”."""
    shown = page(bench.get("/pieces/T-1/?at=salvage"))
    unsaid = bench.post("/pieces/T-1/vouch", {"text": "looked"})
    talked = bench.post("/pieces/T-1/vouch", {"text": "none on it", "kind": "no-capacitor"})
    after = page(bench.get("/pieces/T-1/?at=salvage"))
    closed = page(bench.get("/pieces/T-1/?at=power"))

    assert " checked" not in shown
    assert unsaid.status_code == 422
    assert "Say which it is" in page(unsaid)
    assert talked.status_code == 422
    assert "this piece may have one: find it" in page(talked)
    assert 'value="none on it"' in page(talked)
    assert "1. Plug out, and in sight" in after
    assert "salvage is not on record" in closed


@pytest.mark.parametrize(
    ("form", "words"),
    [
        ({"text": "not discharged, no resistor at hand", "volts": "0.2 V"}, "was not done"),
        ({"text": "shorted twice"}, "does not say the volts read last"),
        ({"text": "shorted twice", "volts": "51 V"}, "at most 50 V may be left"),
        ({"text": "still shows 1800 V"}, "at most 50 V may be left"),
        ({"text": "shorted twice", "volts": "a few"}, "Volts read last"),
        ({"text": "shorted twice", "volts": "-60 V"}, "at most 50 V may be left"),
        ({"text": "shorted twice", "volts": "1e9"}, "volts must be at most"),
        ({"text": "still shows 1800 V", "volts": "0.2 V"}, "say which was read last"),
        ({"text": "bought so", "kind": "done-elsewhere"}, "Say what was done elsewhere"),
        (
            {"text": "shorted", "kind": "done-elsewhere", "concerns": "capacitor"},
            "does not say the volts",
        ),
        (
            {"text": "shorted", "kind": "done-elsewhere", "concerns": "a fuse"},
            "Say what was done elsewhere",
        ),
    ],
)
def test_the_door_of_the_vouch_form_asks_what_the_walked_station_asks(bench, form, words):
    """422, the sentence, what was typed still in its boxes, nothing kept."""
    answer = bench.post("/pieces/T-1/vouch", {"kind": "salvage-done", **form})

    assert answer.status_code == 422
    assert words in page(answer)
    assert f'value="{form["text"]}"' in page(answer)
    assert "statements" not in stored(bench) or not stored(bench)["statements"]


@pytest.mark.parametrize(
    "form",
    [
        {"text": "shorted twice", "volts": "0.2 V"},
        {"text": "shorted twice", "volts": "49.9"},
        {"text": "0.2 V twice, short left on"},
        {
            "text": "by the workshop",
            "kind": "done-elsewhere",
            "concerns": "capacitor",
            "volts": "1 V",
        },
        {"text": "screened by the workshop", "kind": "done-elsewhere", "concerns": "cold tests"},
    ],
)
def test_what_says_enough_is_kept_with_its_volts(bench, form):
    """As it was typed; volts in their own key."""
    answer = bench.post("/pieces/T-1/vouch", {"kind": "salvage-done", **form})
    said = stored(bench)["statements"][-1]

    assert answer.status_code == 302
    assert said["text"] == form["text"]
    assert ("volts" in said) == ("volts" in form)


def test_a_caution_is_overruled_by_name_where_it_stands(client):
    """One form at first power, one caution at a time; the gate no longer asks for it."""
    told = piece(
        "ABCD",
        [*OVEN[:1], ("A", "B", 33.0), ("C", "D", 0.13), ("A", "B", 30.0)],
        supply={"volts": 230, "hertz": 50},
    )
    for n, reading in enumerate(told["readings"]):
        reading["at"] = f"2026-05-02T10:0{n}:00+01:00"
    Repository(client.app.extensions["store"]).add(told)
    before = page(client.get("/pieces/T-1/?at=power"))
    concerns = re.search(r'<option value="(inconsistent-readings [^"]+)"', before).group(1)
    empty = client.post("/pieces/T-1/vouch", {"kind": "overrule", "concerns": concerns})
    odd = client.post("/pieces/T-1/vouch", {"kind": "isolating", "text": "it is"})
    client.post(
        "/pieces/T-1/vouch", {"kind": "overrule", "concerns": concerns, "text": "warm winding"}
    )
    after = page(client.get("/pieces/T-1/?at=power"))

    assert "Bonded by design" not in before
    assert "open question: inconsistent readings" in before
    assert empty.status_code == odd.status_code == 422
    assert "open question: inconsistent readings" not in after
    assert "Closed." in after


def test_page_command_line_and_json_agree_on_every_demo_piece(demo, tmp_path):
    """One answer, asked three ways; every reason of a closed gate stands on the page."""
    paths = []
    for document in demo_documents():
        path = tmp_path / f"{document['tag']}.json"
        path.write_text(json.dumps(document), encoding="utf-8")
        paths.append(str(path))
    lines = CliRunner().invoke(main, ["identify", "--lines", *paths]).output.splitlines()

    told = 0
    for line in map(json.loads, lines):
        web = demo.get(f"/pieces/{line['tag']}/identification.json").get_json()
        power = demo.get(f"/pieces/{line['tag']}/?at=power").get_data(as_text=True)
        assert web == line
        assert ("Closed." in power) is not line["gate"]["open"]
        reasons = line["gate"]["reasons"]
        assert [reason for reason in reasons if str(escape(reason)) not in power] == []
        told += len(reasons)
    assert told > len(lines)


def test_the_whole_plate_is_typed_where_the_gate_asks_for_it(bench):
    """Hertz, secondary, milliamps as amps, an earthed middle, every word; and the breaker."""
    kept = stored(bench)
    form = {
        "version": "1",
        "title": "Letter H",
        "supply_volts": "230",
        "supply_hertz": "50",
        "supply_breaker_amps": "16",
        "plate_primary_volts": "230",
        "plate_hertz": "50",
        "plate_secondary_volts": "8kV",
        "plate_secondary_amps": "25mA",
        "plate_midpoint_earthed": "yes",
        "plate_text": "neon, 200 VA",
    }
    version = re.search(
        r'name="version" value="(\d+)"',
        bench.get("/pieces/T-1/?at=clues&touch=piece").get_data(as_text=True),
    )
    answer = bench.post("/pieces/T-1/clues", {**form, "version": version.group(1)})
    plate = stored(bench)["nameplate"]

    assert answer.status_code == 302
    assert plate == {
        "primary_volts": 230.0,
        "hertz": 50.0,
        "secondary_volts": 8000.0,
        "secondary_amps": 0.025,
        "midpoint_earthed": True,
        "text": "neon, 200 VA",
    }
    assert stored(bench)["supply"]["breaker_amps"] == 16.0
    assert "nameplate" not in kept
    touched = bench.get("/pieces/T-1/?at=clues&touch=plate_midpoint_earthed")
    assert 'value="" aria-pressed="true">yes' in squeezed(touched.get_data(as_text=True))


def test_the_shelf_answers_who_gives_it_on_the_page_and_the_command_line(demo):
    """Page and command line name the same outputs with the same figures; a question that is none is
    told so and kept in its box.
    """
    store = demo.app.extensions["store"]
    repository = Repository(store)
    asked = page(demo.get("/?gives=1+A+at+12+V"))
    listed = CliRunner().invoke(
        main, ["list", "--gives", "1 A at 12 V", "--data", str(store.folder)]
    )
    answers, count = repository.giving(parse_wanted("1 A at 12 V"))

    assert count > 0
    for answer in answers:
        assert answer.figures in asked
        assert f"{answer.item.tag}  {answer.name}  {answer.sure}  {answer.figures}" in listed.output
    refused = demo.get("/?gives=something")
    assert refused.status_code == 422
    assert "Ask for volts and amps" in page(refused)
    assert 'value="something"' in page(refused)
    none = page(demo.get("/?gives=900+A+at+3+V"))
    assert "None that is known" in none


def test_sisters_are_offered_compared_and_refused(demo):
    """The demo's dodgem cabinets are of one name: the one with shorted turns is told, on the page
    and on the command line; a tag that is none, or the piece itself, is told so.
    """
    told = page(demo.get("/pieces/CQ-021/sisters"))

    assert "CQ-022 looks like the one with a shorted turn" in told
    assert "hold it against a sister" in page(demo.get("/pieces/CQ-021/?at=record"))
    alone = page(demo.get("/pieces/CQ-044/sisters"))
    assert "No other piece of the shelf carries the same plate or name" in alone
    for named, why in (("CQ-999", "no piece tagged"), ("cq-021", "another piece than this")):
        refused = demo.get(f"/pieces/CQ-021/sisters?with={named}")
        assert refused.status_code == 422
        assert why in page(refused)
        assert f'value="{named}"' in page(refused)


def test_the_command_line_compares_two_files(tmp_path):
    documents = {d["tag"]: d for d in demo_documents()}
    files = []
    for tag in ("CQ-021", "CQ-022"):
        files.append(str(tmp_path / f"{tag}.json"))
        (tmp_path / f"{tag}.json").write_text(json.dumps(documents[tag]), encoding="utf-8")
    answer = CliRunner().invoke(main, ["sisters", *files])
    refused = CliRunner().invoke(main, ["sisters", files[0], str(tmp_path / "none.json")])

    assert {d["suspect"] for d in json.loads(answer.output)} == {"CQ-022"}
    assert refused.exit_code != 0
    assert "none.json" in refused.output


def dialled(bench, line, dial, meter="M1"):
    """A line stored with the dial at so many ohms; what the page then shows as chosen."""
    bench.post("/pieces/T-1/jot", data={"line": line, "dial": dial, "meter": meter})
    return chosen_dial(bench)


def chosen_dial(bench):
    """What the dial stands at on the page; empty where it is not noted."""
    shown = page(bench.get("/pieces/T-1/"))
    found = re.search(r'<option value="([\d.e+]+)" selected>[\d.]+ .?Ω', shown)
    return found[1] if found else ""


def test_the_dial_is_set_once_and_seen_at_every_reading(bench, monkeypatch):
    """It stands for the next reading too; with another meter, or ten minutes after it was last read
    by, it is not noted any more. A reading takes it along.
    """
    clock = [1e9]
    monkeypatch.setattr(dial.time, "time", lambda: clock[0])
    assert chosen_dial(bench) == ""
    assert dialled(bench, "A-core open", "2e+07") == "2e+07"
    assert stored(bench)["readings"][-1]["range_ohms"] == 2e7
    clock[0] += 599
    assert chosen_dial(bench) == "2e+07"
    assert dialled(bench, "B-core open", "2e+07") == "2e+07"
    clock[0] += 601
    assert chosen_dial(bench) == ""
    assert dialled(bench, "C-core 96", "") == ""
    assert "range_ohms" not in stored(bench)["readings"][-1]


def test_a_dial_that_is_none_is_refused_and_nothing_stored(bench):
    before = len(stored(bench)["readings"])
    refused = bench.post("/pieces/T-1/jot", data={"line": "A-core open", "dial": "77"})
    asked = bench.get("/pieces/T-1/understand?line=A-core+open&dial=2e%2B07").get_json()
    beyond = bench.get("/pieces/T-1/understand?line=A-B+5k&dial=200").get_json()

    assert refused.status_code == 422
    assert "none of the ranges" in page(refused)
    assert len(stored(bench)["readings"]) == before
    assert asked["understood"]
    assert not beyond["understood"]
    assert "dial stands at 200" in beyond["words"]


def test_the_stores_are_filled_counted_and_put_aside(client):
    """From nothing to a shelf of parts; a bad figure is told by its box and nothing is kept."""
    assert "Nothing yet" in page(client.get("/stores"))
    bad = client.post("/stores", data={"kind": "lamp", "title": "clear", "watts": "bright"})
    assert bad.status_code == 422
    assert 'value="bright"' in page(bad)
    assert 'value="clear"' in page(bad)
    assert "Nothing yet" in page(client.get("/stores"))
    client.post("/stores", data={"kind": "lamp", "title": "clear", "watts": "40", "count": "3"})
    shown = page(client.get("/stores?find=lamp"))
    uid = re.search(r'action="/stores/(s[0-9a-f]+)"', shown)[1]
    assert "40.0 W" in shown
    assert client.post(f"/stores/{uid}", data={"count": "many"}).status_code == 422
    assert client.post(f"/stores/{uid}", data={"gone": " "}).status_code == 422
    assert client.post("/stores/s0", data={"count": "1"}).status_code == 404
    client.post(f"/stores/{uid}", data={"count": "2"})
    assert client.get("/stores.json").get_json()["items"][0]["count"] == 2
    client.post(f"/stores/{uid}", data={"gone": "dropped"})
    assert "Nothing yet" in page(client.get("/stores"))
    assert client.get("/stores.json").get_json()["items"][0]["gone"] == "dropped"
    assert client.post("/stores", data={"kind": "gauge"}).status_code == 422


def test_a_meter_is_proved_by_one_key(client):
    """The day goes into its entry; what is no day is refused; a part has no such key."""
    meter = {"kind": "meter", "title": "bench meter", "max_volts_ac": "600", "proved": "2025-01-01"}
    client.post("/stores", data=meter)
    shown = page(client.get("/stores"))
    uid = re.search(r'action="/stores/(s[0-9a-f]+)"', shown)[1]
    client.post("/stores", data={"kind": "lamp", "title": "lamp", "watts": "60", "volts": "240"})
    shown = page(client.get("/stores"))

    assert shown.count(">Proved today<") == 1
    assert client.post(f"/stores/{uid}", data={"proved": "lately"}).status_code == 422
    client.post(f"/stores/{uid}", data={"proved": "2026-11-27"})
    assert "2026-11-27" in page(client.get("/stores"))


def test_stores_come_in_by_either_door(client):
    """As a file on their own page, or where records come in; a wrong one is told so."""
    document = {"format": "greyfell.stores/1", "items": [{"kind": "lamp", "watts": 40.0}]}
    text = json.dumps(document)
    own = client.post("/stores/bring", data={"file": (io.BytesIO(text.encode()), "stores.json")})
    again = client.post("/import", data={"text": text})
    wrong = client.post("/stores/bring", data={"file": (io.BytesIO(b"{}"), "stores.json")})

    assert "Brought in: 1 new" in page(own)
    assert "1 here already" in page(again)
    assert wrong.status_code == 422
    assert "greyfell.stores/1" in page(wrong)


def test_a_meter_of_the_stores_is_a_meter_of_a_piece(bench):
    """It stands beside the jotter, joins the record with the first reading, and is judged."""
    figures = {"category": "CAT III", "max_volts_ac": "600", "title": "green meter"}
    bench.post("/stores", data={"kind": "meter", **figures})
    shown = page(bench.get("/pieces/T-1/?at=low"))
    uid = re.search(r'<option value="(s[0-9a-f]+)">green meter', shown)[1]
    assert "green meter" in shown.split("Which meter may touch what")[1]
    assert "meters" not in stored(bench)
    bench.post("/pieces/T-1/jot", data={"line": "A-B 1.3", "meter": uid})

    assert [m["id"] for m in stored(bench)["meters"]] == [uid]
    assert stored(bench)["readings"][-1]["meter"] == uid


def test_the_probe_zero_stands_for_the_day_and_for_one_meter(bench, monkeypatch):
    """Said once, taken off each reading of ohms, shown beside the jotter; undo strikes the last."""
    clock = [1e9]
    monkeypatch.setattr(dial.time, "time", lambda: clock[0])
    before = len(stored(bench)["readings"])

    def jot(line, meter="M1"):
        bench.post("/pieces/T-1/jot", data={"line": line, "meter": meter})
        return stored(bench)["readings"][-1]

    jot("zero 0.3")
    assert len(stored(bench)["readings"]) == before
    assert jot("A-B 1.6")["probe_ohms"] == 0.3
    assert "probe_ohms" not in jot("A-B 1.6", meter="M2")
    assert jot("undo")["struck"]["reason"] == "undone"
    clock[0] += 13 * 3600
    assert "probe_ohms" not in jot("A-B 1.6")
    jot("zero 0.2", meter="")
    assert "probes 200 mΩ taken off" in page(bench.get("/pieces/T-1/"))


def test_the_gate_of_salvage_is_walked_on_its_page(client):
    """One tap a step, kept with its time; too early or without its figure it says so."""
    repository = Repository(client.app.extensions["store"])
    repository.add(piece("ABC", declared_family="microwave"))

    def take(step, value=""):
        return client.post("/pieces/T-1/salvage", data={"step": step, "value": value})

    assert "1. Plug out, and in sight" in page(client.get("/pieces/T-1/?at=salvage"))
    assert take("plug").status_code == 302
    assert "Find the capacitor" in page(take("chain", "1M"))
    assert take("found", "0.95µF").status_code == 302
    open_chain = take("chain", "OL")
    assert open_chain.status_code == 422
    assert "discharges nothing" in page(open_chain)
    assert take("chain", "1M").status_code == 302
    assert take("holding").status_code == 302
    early = page(take("held"))
    assert "Too early" in early
    assert 9.0 < float(re.search(r'data-left="([\d.]+)"', early)[1]) <= 9.5
    said = [s["concerns"] for s in repository.document("T-1")["statements"]]
    assert said == ["plug", "found", "chain", "holding"]
    assert "not on record" in client.get("/pieces/T-1/identification.json").get_data(as_text=True)


def test_the_page_opens_at_the_station_of_its_next_step(bench):
    """An unsalvaged oven at its capacitor, a salvaged one at the cold tests; a step of another
    station leads there, and the gate of salvage stands alone on its own.
    """
    first = page(bench.get("/pieces/T-1/"))
    cold = page(bench.get("/pieces/T-1/?at=cold"))
    bench.post("/pieces/T-1/vouch", {"text": "shorted, 0.2 V", "kind": "salvage-done"})
    later = page(bench.get("/pieces/T-1/"))

    assert "1. Plug out, and in sight" in first
    assert "Next:" not in first
    assert "Next: First the capacitor" in cold
    assert 'href="?at=salvage">at salvage' in cold.lower()
    assert "Next:" in later
    assert "Plug out" not in later


def test_the_shelf_is_found_by_words_of_tag_or_title(demo):
    """Every word, in either; with family and order; what is not there is said."""
    repository = Repository(demo.app.extensions["store"])
    tags = [i.tag for i in repository.shelf("tag", find="dodgem CQ").items]

    assert tags == ["CQ-021", "CQ-022"]
    assert repository.shelf(find="HELTER").matching == 2
    assert repository.shelf(find="helter", family="mains").matching == 0
    assert repository.shelf(find="100%").matching == 0
    assert "No piece" in page(demo.get("/?find=nowhere"))
    assert page(demo.get("/?find=waltzer&sort=tag")).count("card-frame") == 1


def test_while_the_chain_is_held_the_decay_shows_where_it_stands(bench):
    """Volts left if it is let go now, less a moment later; nothing of that before and after."""
    typed = {"found": "0.95µF", "chain": "1M"}
    before = page(bench.get("/pieces/T-1/?at=salvage"))
    for step in ("plug", "found", "chain", "holding"):
        bench.post("/pieces/T-1/salvage", {"step": step, "value": typed.get(step, "")})
    held = page(bench.get("/pieces/T-1/?at=salvage"))

    assert "let go" not in before
    assert re.search(r"let go.{0,40}V", held, re.S)


def test_i_have_none_is_said_at_the_card_and_taken_back_there(bench):
    """The next test comes; the card of the other offers to take it back."""
    bench.post("/pieces/T-1/vouch", {"text": "shorted, 0.2 V", "kind": "salvage-done"})
    act = re.search(
        r'name="act" value="([^"]+)">I have none', page(bench.get("/pieces/T-1/?at=low"))
    )
    bench.post("/pieces/T-1/lack", {"act": act[1]})
    told = page(bench.get("/pieces/T-1/?at=low"))
    bench.post("/pieces/T-1/lack", {"act": act[1], "has": "yes"})

    assert f'value="{act[1]}">I have one after all' in told
    assert "I have one after all" not in page(bench.get("/pieces/T-1/?at=low"))
    assert bench.post("/pieces/T-1/lack", {"act": "nonsense"}).status_code == 422


def test_polarity_is_typed_in_one_line(client):
    """Driven pair, volts, what is joined, the pair over both: told, stored, and the gate's question
    answered.
    """
    client.post("/pieces", {"tag": "T-1", "leads": "A B C D"})
    client.post("/pieces/T-1/jot", {"line": "A-B 12V B=C > A-D 23.9V"})
    reading = stored(client)["readings"][0]

    assert reading["kind"] == "polarity"
    assert (reading["joined"], reading["across"]) == (["B", "C"], ["A", "D"])
    assert (reading["driven_volts"], reading["across_volts"]) == (12.0, 23.9)
    refused = client.post("/pieces/T-1/jot", {"line": "A-B 12V B=Q > A-D 23.9V"})
    assert "Q is not a lead" in page(refused)
