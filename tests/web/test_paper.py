"""What leaves a piece: tag, labels, record, drawings, passport, tables, photos; the bench card."""

import html
import io
import random
import re
from xml.etree import ElementTree

import pytest
from PIL import Image

from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import answer, identify
from greyfell.records.repository import Repository
from greyfell.web.app import create_app
from greyfell.web.drawings.alone import look
from greyfell.web.paper import DRAWINGS, scan_words
from greyfell.web.pieces import FILES
from greyfell.web.shelf import scanned
from tests.conftest import KNOWN_OVEN, OVEN, Client, every, piece, squeezed
from tests.records.test_photos import photo

SVG = "{http://www.w3.org/2000/svg}"


def repository(client):
    """The repository of a client's folder."""
    return Repository(client.app.extensions["store"])


def words(answer):
    """A page as a reader sees it."""
    return squeezed(html.unescape(re.sub(r"<[^>]+>", " ", answer.get_data(as_text=True))))


@pytest.fixture
def known(client):
    """The sound oven with plate and iron on its shelf."""
    supply = {"volts": 230, "hertz": 50}
    repository(client).add(piece("ABCDE", OVEN, title="Kiosk oven", supply=supply, **KNOWN_OVEN))
    return client


# ------------------------------------------------------------------ paper


def test_the_tag_says_what_it_is_what_can_hurt_and_that_it_is_no_approval(known):
    """Two points for every volt; the danger's headline; screened is not proved."""
    told = words(known.get("/pieces/T-1/tag"))

    assert "First the capacitor, before any ohm." in told
    assert "E–Fe" in told
    assert "kV" in told
    assert "screened is not proved" in told


@pytest.mark.parametrize(
    ("host", "said"),
    [
        ("127.0.0.1:8730", "Greyfell T-1"),
        ("localhost", "Greyfell T-1"),
        ("[::1]:8730", "Greyfell T-1"),
        ("bench.example:8730", "http://bench.example:8730/pieces/T-1/"),
        ("192.168.4.9:8730", "http://192.168.4.9:8730/pieces/T-1/"),
    ],
)
def test_the_code_holds_an_address_only_where_others_can_reach_it(host, said):
    """Else the tag in words; either leads a scanner to the piece."""
    assert scan_words("T-1", host) == said
    assert scanned(said) == "T-1"


@pytest.mark.parametrize("typed", ["T-1", "t-1", "Greyfell T-1", "http://bench/pieces/T-1/"])
def test_the_shelf_finds_a_scanned_or_typed_tag(known, typed):
    """It goes to the piece at once; words of a title still narrow the shelf."""
    answer = known.get("/", query_string={"find": typed})

    assert answer.status_code == 302
    assert answer.location == "/pieces/T-1/"
    assert "Kiosk oven" in words(known.get("/?find=kiosk"))


def test_every_lead_has_a_label_for_both_ends_of_its_cut(known):
    """Ten for five leads, the near one with its state, volts and amps."""
    page = known.get("/pieces/T-1/labels").get_data(as_text=True)
    told = html.unescape(page)

    assert page.count('<section class="lead-label') == 10
    assert "A′" in told
    assert "read cold" in told
    assert "live when fed" in told


def test_terminals_are_marked_by_choice_and_unread_polarity_is_said(known):
    """H for the winding of the highest volts; what was not read is only proposed."""
    known.post("/pieces/T-1/marking", {"marking": "H/X"})
    told = words(known.get("/pieces/T-1/labels"))
    refused = known.post("/pieces/T-1/marking", {"marking": "Q"})

    assert "H1" in told
    assert "proposed" in told
    assert refused.status_code == 422
    assert repository(known).document("T-1")["marking"] == "H/X"


def test_the_full_record_tells_every_reading_struck_ones_with_their_reason(known):
    """Time, meter and hand have their columns; what was vouched for stands too."""
    known.post("/hand", {"hand": "hand one", "back": "/pieces/T-1/"})
    known.post("/pieces/T-1/jot", {"line": "A-B 1.31"})
    known.post("/pieces/T-1/strike/r11", {"reason": "wrong range"})
    told = words(known.get("/pieces/T-1/paper"))

    assert "struck out: wrong range" in told
    assert "hand one" in told
    assert "no approval" in told
    assert "Capacitor may hold charge" in told


@pytest.mark.parametrize("name", DRAWINGS)
def test_every_drawing_of_a_piece_is_a_file_that_stands_alone(known, name):
    """Whole XML with its own rules, no link, no custom property."""
    answer = known.get(f"/pieces/T-1/{name}.svg")
    root = ElementTree.fromstring(answer.data)

    assert answer.mimetype == "image/svg+xml"
    assert root.tag == f"{SVG}svg"
    assert root.find(f"{SVG}style").text == look()
    assert list(root.iter(f"{SVG}a")) == []
    assert b"var(" not in answer.data


def test_the_record_links_to_every_drawing_there_is(known):
    """And to no other."""
    assert set(FILES) == set(DRAWINGS)
    assert known.get("/pieces/T-1/other.svg").status_code == 404
    assert known.get("/plans/rewind.svg?target_volts=5&volts_per_turn=0.9").status_code == 200
    assert known.get("/plans/metering.svg").status_code == 404


def test_the_schematic_names_every_winding_and_where_the_core_is_bonded(known):
    """Each lead once; the HV winding's end on the core."""
    page = known.get("/pieces/T-1/schematic.svg").get_data(as_text=True)
    root = ElementTree.fromstring(page)
    texts = [t.text for t in root.iter(f"{SVG}text")]

    assert every(texts.count(lead) == 1 for lead in "ABCDE")
    assert "HV winding" in texts
    assert 'class="bond"' in page


# ------------------------------------------------------------------ the passport


def test_a_passport_brings_the_piece_to_an_empty_shelf_with_the_same_conclusions(known, tmp_path):
    """To the last digit; the photo byte for byte; brought in twice it changes nothing."""
    repository(known).add_photo("T-1", photo(), "before cutting")
    file = repository(known).get("T-1").record.photos[0].file
    passport = known.get("/pieces/T-1/passport.html").data
    other = Client(create_app(tmp_path / "other"))
    for _ in range(2):
        sent = {"file": (io.BytesIO(passport), "T-1-passport.html")}
        back = other.post("/import", sent, content_type="multipart/form-data")
        assert back.location == "/pieces/T-1/"

    mine, theirs = (repository(c).document("T-1") for c in (known, other))
    assert theirs == mine
    assert answer(identify(parse_record(theirs))) == answer(identify(parse_record(mine)))
    assert repository(other).picture("T-1", file) == repository(known).picture("T-1", file)


def test_a_passport_says_every_hazard_and_asks_nothing_of_anybody(known):
    """No script that runs, no address outside the file."""
    page = known.get("/pieces/T-1/passport.html").get_data(as_text=True)
    ident = repository(known).get("T-1").ident

    assert every(h.headline in html.unescape(page) for h in hazards(ident))
    assert re.findall(r"<script(?! type=\"application/json\")", page) == []
    assert re.findall(r'(?:src|href)="(?!data:)', page) == []
    assert "url(" not in page


def test_a_damaged_passport_is_refused_and_nothing_is_stored(client):
    """A sentence; the shelf stays empty."""
    page = '<!doctype html><script type="application/json" id="greyfell-record">{</script>'
    refused = client.post("/import", {"text": page})

    assert refused.status_code == 422
    assert repository(client).tags() == []


# ------------------------------------------------------------------ tables


def test_a_table_is_shown_as_it_was_understood_before_anything_is_stored(known):
    """Then it is stored once, however often it is sent."""
    text = "kind;between;ohms\nresistance;A-B;1,31\nresistance;C-D;0,1\n"
    shown = known.post("/pieces/T-1/table", {"table": text})
    assert "A–B 1.31 Ω" in words(shown)
    assert len(repository(known).document("T-1")["readings"]) == 10

    for _ in range(2):
        known.post("/pieces/T-1/table", {"table": text, "agree": "yes", "once": "table-1"})
    readings = repository(known).document("T-1")["readings"]
    assert [r["id"] for r in readings[10:]] == ["r11", "r12"]


def test_a_table_with_a_row_that_is_not_understood_stores_nothing_unless_it_is_left_out(known):
    """All or nothing, or all but what was seen to be left out."""
    text = "kind,between,ohms\nresistance,A-B,1.31\nresistance,A-Z,1\n"
    refused = known.post("/pieces/T-1/table", {"table": text, "agree": "yes"})
    assert "Not understood" in words(refused)
    assert len(repository(known).document("T-1")["readings"]) == 10

    known.post("/pieces/T-1/table", {"table": text, "agree": "yes", "leave": "yes"})
    assert len(repository(known).document("T-1")["readings"]) == 11


@pytest.mark.parametrize(
    ("file", "says"),
    [
        (b"\xff\xfe\x00\x01\x00", "no text"),
        (b"a,b\n1,2\n", "needs a column"),
        (b"kind,ohms\n" + b"core_proof,0.1\n" * 50_000, "50000 rows"),
    ],
)
def test_a_file_that_is_no_table_is_refused(known, file, says):
    """Bytes, a missing column, fifty thousand rows."""
    sent = {"file": (io.BytesIO(file), "readings.csv")}
    refused = known.post("/pieces/T-1/table", sent, content_type="multipart/form-data")

    assert refused.status_code == 422
    assert says in words(refused)
    assert len(repository(known).document("T-1")["readings"]) == 10


def test_readings_leave_as_a_table_that_comes_back_as_known(known):
    """Every row is on record already; nothing new is offered."""
    out = known.get("/pieces/T-1/readings.csv")
    shown = known.post("/pieces/T-1/table", {"table": out.get_data(as_text=True)})

    assert out.mimetype == "text/csv"
    assert "10 on record already" in words(shown)
    assert 'name="agree"' not in shown.get_data(as_text=True)


# ------------------------------------------------------------------ photos


def send(client, data, **more):
    """A photo as a form sends it."""
    sent = {"photo": (io.BytesIO(data), "a.jpg"), **more}
    return client.post("/pieces/T-1/photos", sent, content_type="multipart/form-data")


def test_a_photo_is_kept_marked_and_taken_away(known):
    """Both ends of a cut; the picture is served as what it is."""
    assert send(known, photo((400, 300)), note="leads").status_code == 302
    name = repository(known).get("T-1").record.photos[0].file.rpartition("/")[2]
    for end in ("piece", "far"):
        mark = {"lead": "A", "x": "25", "y": "50,5", "end": end}
        known.post(f"/pieces/T-1/photos/{name}", mark)
    picture = known.get(f"/pieces/T-1/photos/{name}")
    marks = repository(known).get("T-1").record.photos[0].marks

    assert picture.mimetype == "image/jpeg"
    assert picture.headers["X-Content-Type-Options"] == "nosniff"
    assert [(m.x, m.y, m.end) for m in marks] == [(0.25, 0.505, "piece"), (0.25, 0.505, "far")]
    assert "No photo shows B, C, D, E yet" in words(known.get("/pieces/T-1/photos"))

    known.post(f"/pieces/T-1/photos/{name}", {"lead": "A", "end": "far", "off": "yes"})
    assert len(repository(known).get("T-1").record.photos[0].marks) == 1
    known.post(f"/pieces/T-1/photos/{name}/away")
    assert known.get(f"/pieces/T-1/photos/{name}").status_code == 404


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"a text file", "JPEG, PNG or WebP"),
        (photo((500, 500))[:400], "damaged or cut short"),
        (b"", "No photo was chosen"),
    ],
)
def test_a_bad_photo_is_a_sentence_and_nothing_is_stored(known, data, says):
    """On the page of the photos."""
    refused = send(known, data)

    assert refused.status_code == 422
    assert says in words(refused)
    assert repository(known).get("T-1").record.photos == []


@pytest.mark.parametrize(
    ("mark", "says"),
    [
        ({"lead": "Z", "x": "1", "y": "1"}, "none of this piece"),
        ({"lead": "A", "x": "left", "y": "1"}, "From the left"),
        ({"lead": "A", "x": "1", "y": "101"}, "From above"),
        ({"lead": "A", "x": "nan", "y": "1"}, "From the left"),
        ({"lead": "A", "x": "1", "y": "1", "end": "both"}, "two ends"),
    ],
)
def test_a_mark_that_cannot_be_is_refused(known, mark, says):
    """A sentence that names what is wrong."""
    send(known, photo())
    name = repository(known).get("T-1").record.photos[0].file.rpartition("/")[2]
    refused = known.post(f"/pieces/T-1/photos/{name}", mark)

    assert refused.status_code == 422
    assert says in words(refused)


def test_the_wire_table_says_where_each_lead_went(known):
    """Kept as a correction; an emptied box takes it away."""
    version = repository(known).get("T-1").version
    wire = {"lead": "A", "went": "door switch", "fed": "mains", "version": version}
    known.post("/pieces/T-1/wires", wire)
    assert "door switch, fed mains" in words(known.get("/pieces/T-1/labels"))

    known.post("/pieces/T-1/wires", {"lead": "A", "version": version + 1})
    lead = repository(known).document("T-1")["leads"][0]
    assert "went" not in lead
    assert "fed" not in lead


def test_a_photo_of_twelve_megabytes_is_taken(known):
    """As a camera sends it: noise, which nothing packs."""
    noise = Image.frombytes("RGB", (2000, 2000), random.Random(3).randbytes(12_000_000))
    out = io.BytesIO()
    noise.save(out, "PNG")

    assert len(out.getvalue()) > 12_000_000
    assert send(known, out.getvalue()).status_code == 302


def test_a_photo_too_large_is_told_with_how_large_it_may_be(known):
    """Before it is read whole."""
    refused = send(known, b"\xff" * (21 * 1024 * 1024))

    assert refused.status_code == 413
    assert "photo 20 MB" in words(refused)


# ------------------------------------------------------------------ the piece itself, the log


def test_a_renamed_piece_is_found_by_the_tag_that_was_printed_before(known):
    """The old address leads to the new one; a tag that cannot be is refused."""
    known.post("/pieces/T-1/rename", {"tag": "KIOSK-3"})
    old = known.get("/pieces/T-1/")
    refused = known.post("/pieces/KIOSK-3/rename", {"tag": "no blanks here"})

    assert old.location.startswith("/pieces/KIOSK-3/")
    assert known.get("/?find=T-1").location == "/pieces/KIOSK-3/"
    assert refused.status_code == 422


def test_a_piece_is_put_away_with_a_reason_and_comes_back(known):
    """Without a reason it stays."""
    assert known.post("/pieces/T-1/retire", {"why": " "}).status_code == 422
    known.post("/pieces/T-1/retire", {"why": "sold"})
    assert "Kiosk oven" not in words(known.get("/"))
    assert "Kiosk oven" in words(known.get("/?verdict=retired"))

    known.post("/pieces/T-1/back")
    assert "Kiosk oven" in words(known.get("/"))


def test_the_log_tells_readings_strikes_and_what_was_vouched_for(known):
    """Across pieces, the last first; of one piece where it is asked for."""
    meters = [{"id": "M1", "title": "green meter"}]
    read = {"kind": "resistance", "between": ["A", "B"], "ohms": 7.0, "meter": "M1"}
    repository(known).add(piece("AB", [read], tag="T-2", meters=meters))
    known.post("/pieces/T-1/jot", {"line": "A-B 1.31"})
    known.post("/pieces/T-1/jot", {"line": "undo"})
    known.post("/pieces/T-1/vouch", {"kind": "salvage-done", "text": "shorted, 0.2 V"})
    told = words(known.get("/log"))

    assert "struck out: undone" in told
    assert "shorted, 0.2 V" in told
    assert "A–B 7 Ω" in told
    assert "green meter" in told
    assert "green meter" in words(known.get("/pieces/T-2/paper"))
    assert "A–B 7 Ω" not in words(known.get("/log?tag=T-1"))
    assert "Nothing was read yet of T-9" in words(known.get("/log?tag=T-9"))


# ------------------------------------------------------------------ the bench card


def test_the_bench_card_stores_a_figure_a_word_and_the_unit_that_was_touched(known):
    """What the step began, with the figure; a word stands for a whole reading."""
    known.post("/pieces/T-1/bench", {"begins": "A-B", "figure": "1.2", "unit": "k"})
    known.post("/pieces/T-1/bench", {"turn": "2e+07"})
    known.post("/pieces/T-1/bench", {"begins": "D-core", "word": "OL", "dial": "2e+07"})
    readings = repository(known).document("T-1")["readings"]

    assert readings[-2]["ohms"] == 1200
    assert (readings[-1]["ohms"], readings[-1]["range_ohms"]) == ("open", 20e6)
    assert "stored" in words(known.get("/pieces/T-1/bench"))


@pytest.mark.parametrize("figure", ["", "1.2.3", "-", "²", "9" * 400])
def test_a_figure_that_is_none_is_a_sentence_on_the_card(known, figure):
    """Nothing is stored; what was typed is still in the box."""
    refused = known.post("/pieces/T-1/bench", {"begins": "A-B", "figure": figure})

    assert refused.status_code == 422
    assert "Not stored" in words(refused)
    assert len(repository(known).document("T-1")["readings"]) == 10


def test_stop_stands_until_somebody_goes_on(known):
    """Through a reload and another browser; both are in the log."""
    known.post("/pieces/T-1/bench", {"stop": "yes"})
    assert "Hands off" in words(Client(known.app).get("/pieces/T-1/bench"))

    known.post("/pieces/T-1/bench", {"on": "yes"})
    assert "Hands off" not in words(known.get("/pieces/T-1/bench"))
    assert "stopped" not in words(known.get("/pieces/T-1/?at=salvage"))
    kinds = [s["kind"] for s in repository(known).document("T-1")["statements"]]
    assert kinds == ["stopped", "went-on"]


def test_the_gate_is_walked_on_the_card_too(client):
    """Plug out, one touch; back on the card."""
    repository(client).add(piece("ABCDE", declared_family="microwave"))
    assert "Plug out" in words(client.get("/pieces/T-1/bench"))

    taken = client.post("/pieces/T-1/salvage", {"step": "plug", "to": "bench"})
    assert taken.location == "/pieces/T-1/bench"
    assert "Find the capacitor" in words(client.get("/pieces/T-1/bench"))
