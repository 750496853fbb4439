"""Who may ask, and what is said when something fails: names, passphrase, lock, tokens, keys."""

import io
import json
import re
import socket
import sqlite3
import threading
import zipfile

import click
import pytest
import sqlalchemy as sa

from greyfell.records import store as data_file
from greyfell.records.archive import packed
from greyfell.records.repository import Repository
from greyfell.records.trouble import Trouble
from greyfell.web import access as door
from greyfell.web.access import HEADERS
from greyfell.web.app import create_app
from greyfell.web.serving import _server, serve
from tests.conftest import Client, every, piece, sound_oven


def page(response):
    return response.get_data(as_text=True)


@pytest.fixture
def opened(tmp_path):
    """Opens the program on folders, and closes them all at the end."""
    made = []

    def make(name="shelf", **more):
        made.append(create_app(tmp_path / name, **more))
        return made[-1]

    yield make
    for app in made:
        app.extensions["store"].close()


# ------------------------------------------------------------------ names


@pytest.mark.parametrize(
    ("host", "known"),
    [
        ("127.0.0.1", True),
        ("127.0.0.1:8730", True),
        ("LOCALHOST:8730", True),
        ("LocalHost", True),
        ("[::1]:8730", True),
        ("127.0.0.1:0", False),
        ("127.0.0.1:65536", False),
        ("127.0.0.1:80@evil.example", False),
        ("127.0.0.1.evil.example", False),
        ("localhost.", False),
        ("evil.example", False),
        ("192.168.1.7:8730", False),
        ("[::ffff:127.0.0.1]", False),
        ("2130706433", False),
        ("", False),
        ("a b", False),
    ],
)
def test_only_its_own_names_are_answered(client, host, known):
    """Every answer of the guard carries what every answer carries."""
    for url in ("/", "/static/app.css", "/nowhere"):
        found = client.get(url, headers={"Host": host})
        assert (found.status_code != 400) is known
        assert found.headers["Content-Security-Policy"] == door.POLICY
        found.close()


@pytest.mark.parametrize(
    ("host", "known"),
    [
        ("bench.local:8730", True),
        ("BENCH.local", True),
        ("192.168.1.7:8730", True),
        ("[fe80::1]:8730", True),
        ("evil.example", False),
        ("999.1.1.1", False),
    ],
)
def test_open_to_others_it_answers_to_given_names_and_to_numbers(opened, host, known):
    """No other site can be called by a number, so a name pointed here is still refused."""
    app = opened(names=["bench.local"], numeric=True, passphrase="correct horse")
    found = app.test_client().get("/", headers={"Host": host})

    assert (found.status_code != 400) is known


# ------------------------------------------------------------------ the passphrase


def entered(app, words):
    """A client that gave a passphrase, and what it was answered."""
    http = app.test_client()
    token = re.search(r'csrf_token" value="([^"]+)"', page(http.get("/enter")))[1]
    return http, http.post("/enter", data={"passphrase": words, "csrf_token": token})


def test_a_changed_passphrase_ends_old_sessions(opened):
    """The same folder, the same secret key, another passphrase."""
    http, _ = entered(opened(passphrase="correct horse"), "correct horse")
    name, cookie = next((c.key, c.value) for c in http._cookies.values())
    other = opened(passphrase="battery staple").test_client()
    other.set_cookie(name, cookie)

    assert http.get("/").status_code == 200
    assert other.get("/").status_code == 302


def test_the_bench_can_be_locked_again(opened):
    http, _ = entered(opened(passphrase="correct horse"), "correct horse")
    text = page(http.get("/"))
    token = re.search(r'csrf_token" value="([^"]+)"', text)[1]
    assert "Lock" in text

    http.post("/leave", data={"csrf_token": token})
    assert http.get("/").status_code == 302


def test_a_long_passphrase_matches(opened):
    words = "correct horse " * 30
    assert entered(opened(passphrase=words), words)[1].status_code == 302


def test_guessing_is_slowed_and_logged(opened, caplog, monkeypatch):
    """Five wrong ones are free; then each waits twice as long, and the right one waits too."""
    now = [1000.0]
    monkeypatch.setattr(door.time, "monotonic", lambda: now[0])
    app = opened(passphrase="correct horse")
    for _ in range(door.FREE_GUESSES):
        assert entered(app, "wrong")[1].status_code == 403

    assert entered(app, "correct horse")[1].status_code == 429
    now[0] += door.FIRST_WAIT - 0.1
    assert entered(app, "wrong")[1].status_code == 429
    now[0] += 0.2
    assert entered(app, "wrong")[1].status_code == 403
    now[0] += 2 * door.FIRST_WAIT - 0.1
    assert entered(app, "correct horse")[1].status_code == 429
    now[0] += 0.2
    assert entered(app, "correct horse")[1].status_code == 302
    assert "wrong guess from 127.0.0.1" in caplog.text


def test_plain_http_is_said_to_be_plain(opened):
    app = opened(passphrase="correct horse")
    assert "plain text" in page(app.test_client().get("/enter"))


def test_a_locked_bench_says_so_to_the_pages_script(opened):
    """No redirect that a script would follow and take for the page."""
    app = opened(passphrase="correct horse")
    Repository(app.extensions["store"]).add(piece("AB"))
    http = app.test_client()
    found = http.post("/pieces/T-1/jot", data={"line": "A-B 1"}, headers={"X-Greyfell": "part"})

    assert found.status_code in (400, 401)


# ------------------------------------------------------------------ cookies, tokens, keys


def test_cookies_belong_to_one_data_folder(opened):
    """Two shelves on two ports of one machine do not overwrite each other's."""
    names = {opened(name).config["SESSION_COOKIE_NAME"] for name in ("one", "two", "one")}

    assert len(names) == 2
    assert every(name.startswith("greyfell-") for name in names)


def test_an_empty_secret_is_made_anew(opened, tmp_path):
    folder = tmp_path / "shelf"
    folder.mkdir()
    (folder / "secret").touch()

    assert len(opened().config["SECRET_KEY"]) == 64
    assert Client(opened()).post("/demo").status_code == 302


OWN = {"Sec-Fetch-Site": "same-origin"}
FOREIGN = {"Sec-Fetch-Site": "cross-site", "Origin": "http://evil.example"}


@pytest.mark.parametrize("headers", [OWN, {"Origin": "http://localhost"}])
def test_a_stale_form_is_offered_again_with_what_was_typed(bench, headers):
    """And a new token for the page's script."""
    sent = {"line": "A-B 1.31", "at": "cold", "once": "k"}
    found = bench.post("/pieces/T-1/jot", sent, token=False, headers=headers)

    assert found.status_code == 400
    assert 'value="A-B 1.31"' in page(found)
    token = found.headers["X-Greyfell-Token"]
    again = bench.http.post("/pieces/T-1/jot", data={**sent, "csrf_token": token})
    assert again.status_code == 302


@pytest.mark.parametrize("headers", [FOREIGN, {"Origin": "http://evil.example"}, {}])
def test_another_sites_form_is_not_offered_again(bench, headers):
    """What another site sent is neither shown to be sent nor given a token."""
    found = bench.post("/pieces/T-1/jot", {"line": "A-B 1.31"}, token=False, headers=headers)

    assert found.status_code == 400
    assert "A-B 1.31" not in page(found)
    assert "X-Greyfell-Token" not in found.headers


@pytest.fixture
def hurried(opened, monkeypatch):
    """The sound oven on a shelf whose server waits a twentieth of a second for its data file."""
    monkeypatch.setattr(data_file, "PATIENCE", 0.05)
    app = opened("held")
    Repository(app.extensions["store"]).add(sound_oven())
    return Client(app)


def test_while_another_program_holds_the_file_a_line_waits_with_its_sentence(hurried, tmp_path):
    """It is said not to be stored; once the other lets go, the same line is stored once."""
    sent = {"line": "A-B 1.31", "at": "cold", "once": "k"}
    before = len(Repository(hurried.app.extensions["store"]).document("T-1")["readings"])
    hurried.get("/pieces/new")
    other = sqlite3.connect(tmp_path / "held" / data_file.FILE)
    other.execute("BEGIN EXCLUSIVE")
    held = hurried.post("/pieces/T-1/jot", sent, headers={"X-Greyfell": "part"})
    other.rollback()
    other.close()
    again = [
        hurried.post("/pieces/T-1/jot", sent, headers={"X-Greyfell": "part"}) for _ in range(2)
    ]

    assert held.status_code == 503
    assert "Another program holds the data file" in held.get_data(as_text=True)
    assert [a.status_code for a in again] == [200, 200]
    found = Repository(hurried.app.extensions["store"]).document("T-1")["readings"]
    assert len(found) == before + 1


@pytest.mark.parametrize(
    ("url", "form", "part"),
    [
        ("/pieces/T-1/jot", {"line": "A-B 1.31"}, "readings"),
        ("/pieces/T-1/vouch", {"kind": "salvage-done", "text": "0.2 V"}, "statements"),
        ("/pieces/T-1/strike/r2", {"reason": "slip"}, "readings"),
        ("/pieces/T-1/clues", {"title": "Kiosk", "version": "1"}, "edits"),
    ],
)
def test_every_form_sent_twice_is_stored_once(bench, url, form, part):
    """A double click, Back and Send, an answer lost on the way."""
    answers = [bench.post(url, {**form, "once": "k"}).status_code for _ in range(3)]
    document = Repository(bench.app.extensions["store"]).document("T-1")

    assert answers == [302, 302, 302]
    said = [x for x in document[part] if x.get("ohms") == 1.31 or "text" in x or x.get("struck")]
    assert len(said) == 1 or (part == "edits" and document["title"] == "Kiosk")


def test_a_new_piece_sent_twice_is_one_piece(client):
    form = {"tag": "N-1", "leads": "A B", "supply": "230/50", "once": "k"}
    answers = [client.post("/pieces", form) for _ in range(2)]

    assert [a.headers["Location"] for a in answers] == ["/pieces/N-1/"] * 2
    assert Repository(client.app.extensions["store"]).tags() == ["N-1"]


def test_a_record_without_an_id_brought_in_twice_is_one_piece(client):
    """A double click on the form; a form of its own is another piece, under a tag of its own."""
    sent = {"text": json.dumps(piece("AB"))}
    answers = [client.post("/import", {**sent, "once": "k"}) for _ in range(2)]

    assert [a.headers["Location"] for a in answers] == ["/pieces/T-1/"] * 2
    client.post("/import", {**sent, "once": "l"})
    assert Repository(client.app.extensions["store"]).tags() == ["T-1", "T-1-2"]


# ------------------------------------------------------------------ trouble


@pytest.mark.parametrize("script", [False, True])
def test_trouble_with_the_file_is_a_sentence_and_the_line_is_kept(bench, monkeypatch, script):
    """503, what happened, what to do; and the form again."""

    def full(*_args, **_more):
        raise Trouble("The disk is full.", "Make room, then send it again.")

    monkeypatch.setattr(Repository, "append", full)
    headers = OWN | ({"X-Greyfell": "part"} if script else {})
    found = bench.post("/pieces/T-1/jot", {"line": "A-B 1.31"}, headers=headers)

    assert found.status_code == 503
    assert "The disk is full. Make room" in page(found)
    assert 'value="A-B 1.31"' in page(found)


def test_a_fault_of_our_own_is_told_as_one(bench, monkeypatch, caplog):
    """No traceback, no word of overload; it is in the log."""

    def wrong(*_args, **_more):
        raise ZeroDivisionError

    monkeypatch.setattr(Repository, "get", wrong)
    found = bench.get("/pieces/T-1/")

    assert found.status_code == 500
    assert "Something in Greyfell itself went wrong" in page(found)
    assert "Traceback" not in page(found)
    assert "ZeroDivisionError" in caplog.text


def test_a_damaged_file_is_said_on_every_page(opened, tmp_path):
    """And the pieces that can be read still open."""
    app = opened()
    Repository(app.extensions["store"]).add(piece("AB"))
    app.extensions["store"].damage = "row 3 missing from index"
    http = app.test_client()

    for url in ("/", "/pieces/T-1/", "/plans/"):
        assert "The data file is damaged" in page(http.get(url))


def test_an_unreadable_piece_says_so_and_can_be_taken_out(bench):
    """Its page is a sentence, the shelf goes on, its record comes out as it stands."""
    store = bench.app.extensions["store"]
    with store.writing() as session:
        session.execute(sa.text("update piece set head = json_set(head, '$.leads', 3)"))
        session.execute(sa.text("update piece set record_hash = 'x'"))

    assert bench.get("/pieces/T-1/").status_code == 422
    assert bench.get("/").status_code == 200
    assert bench.get("/pieces/T-1/record.json").get_json()["leads"] == 3


def test_what_was_left_out_is_named_on_the_page(bench):
    store = bench.app.extensions["store"]
    with store.writing() as session:
        session.execute(
            sa.text("update reading set body = json_set(body, '$.ohms', -5) where id=2")
        )
        session.execute(sa.text("update piece set record_hash = 'x'"))

    assert "Reading r2 could not be weighed" in page(bench.get("/pieces/T-1/"))
    assert bench.post("/pieces/T-1/strike/r2", {"reason": "slip"}).status_code == 302


# ------------------------------------------------------------------ the whole shelf


def test_the_archive_goes_out_by_a_link_and_in_by_the_form(bench, opened):
    data = bench.get("/archive.zip").data
    assert zipfile.ZipFile(io.BytesIO(data)).namelist() == ["shelf.json", "pieces/T-1.json"]
    other = Client(opened("other"))
    found = other.post("/import", {"file": (io.BytesIO(data), "shelf.zip")})

    assert found.status_code == 200
    assert re.search(r"T-1</th>\s*<td>added", page(found))
    assert packed(Repository(other.app.extensions["store"]))


def test_a_shelf_of_an_earlier_version_answers_at_once_and_says_so(bench):
    """Tags stand as they were left; behind them the pieces are looked at again."""
    store = bench.app.extensions["store"]
    with store.writing() as session:
        session.execute(sa.text("update conclusion set core_version = 'old'"))
    text = page(bench.get("/"))
    assert "newer than 1 of these 1 pieces" in text
    assert "not looked at again yet" in text

    bench.app.extensions["catching up"].join(20)
    assert "newer than" not in page(bench.get("/"))


@pytest.mark.parametrize(
    ("back", "goes"),
    [
        ("/stores?find=lamp", "/stores?find=lamp"),
        ("//evil.example/x", "/"),
        ("/\\evil.example", "/"),
        ("https://evil.example/", "/"),
        ("", "/"),
    ],
)
def test_the_look_is_kept_and_leads_back_to_a_page_of_ours_only(client, back, goes):
    """Chosen by a form with its token; nowhere else is gone to; nonsense is the system's look."""
    answer = client.post("/theme", {"theme": "dark", "back": back})

    assert answer.status_code == 302
    assert answer.headers["Location"] == goes
    assert 'data-theme="dark"' in client.get("/").get_data(as_text=True)
    client.post("/theme", {"theme": '"><script>', "back": "/"})
    assert "data-theme" not in client.get("/").get_data(as_text=True)
    assert client.post("/theme", {"theme": "dark"}, token=False).status_code == 400


# ------------------------------------------------------------------ fresh script on fresh pages


def test_a_shipped_file_carries_its_contents_in_its_address_and_is_kept_for_ever(client):
    """Style and script of a page; by another mark, or none, it is asked for again each time."""
    found = re.findall(r'(?:href|src)="(/static/[^"]+)"', page(client.get("/")))

    assert len(found) >= 3
    for address in found:
        assert re.search(r"\?v=[0-9a-f]{10}$", address), address
        with client.get(address) as kept:
            assert kept.status_code == 200
            assert kept.headers["Cache-Control"] == "public, max-age=31536000, immutable"
        for other in (address.partition("?")[0], address[:-1] + "x"):
            with client.get(other) as asked:
                assert asked.headers["Cache-Control"] == "no-cache"


@pytest.mark.parametrize(
    "address", ["/", "/stores.json", "/archive.zip", "/no-such-page", "/pieces/NONE/readings.csv"]
)
def test_what_is_somebodys_own_is_not_kept_by_the_browser(client, address):
    """JSON, tables, archives and errors too."""
    assert client.get(address).headers["Cache-Control"] == "no-store"


@pytest.mark.parametrize(("letters", "starts"), [(500, True), (501, False)])
def test_a_passphrase_that_nobody_could_enter_is_refused_at_start(tmp_path, letters, starts):
    """The door weighs 500 letters and no more."""
    started = []
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("greyfell.web.serving.create_app", lambda *_, **__: started.append(1))
        patch.setattr("greyfell.web.serving._server", lambda *_: None)
        patch.setattr("greyfell.web.serving.load", lambda _: None)
        with pytest.raises((click.UsageError, AttributeError)) as told:
            serve(
                tmp_path,
                host="0.0.0.0",
                port=0,
                names=[],
                no_browser=True,
                demo=False,
                passphrase="x" * letters,
            )
    assert bool(started) is starts
    assert starts or "500 letters" in str(told.value)


def test_the_servers_own_errors_carry_the_headers_of_all_else(app):
    """A request that is none, answered before the program is asked."""
    server = _server(app, "127.0.0.1", 0)
    threading.Thread(target=server.run, daemon=True).start()
    with socket.create_connection(("127.0.0.1", server.effective_port), timeout=5) as line:
        line.sendall(b"NONSENSE / HTTP/9\r\nHost: x\r\nContent-Length: -5\r\n\r\n")
        said = line.recv(4000).decode("latin-1")
    server.close()

    assert said.startswith("HTTP/1.0 400")
    for name in (*HEADERS, "Cache-Control"):
        assert f"\n{name}: " in said, name
