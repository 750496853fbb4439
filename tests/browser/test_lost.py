"""Nothing typed is lost: what the person at the bench sees when cookie, token, server, disk or file
fails, and that a retry stores the line once.
"""

import contextlib
import json
import re
import threading
import time

import pytest
import sqlalchemy as sa
from playwright.sync_api import expect
from waitress import create_server, wasyncore

from greyfell.records.copying import FILE
from greyfell.records.repository import Repository
from greyfell.web.app import create_app
from tests.browser.test_browser import AXE, violations
from tests.conftest import piece

pytestmark = pytest.mark.browser


class Served:
    """A shelf with one piece on a server that can be stopped and started on the same port."""

    def __init__(self, folder, port=0, **more):
        self.folder, self.port, self.more = folder, port, more
        self.open()

    def open(self):
        self.app = create_app(self.folder, **self.more)
        self.store = self.app.extensions["store"]
        until = time.monotonic() + 5
        while True:
            try:
                self.server = create_server(self.app, host="127.0.0.1", port=self.port, threads=4)
                break
            except OSError:
                if time.monotonic() > until:
                    raise
                time.sleep(0.05)
        self.port = self.server.effective_port
        self.thread = threading.Thread(target=self.run, daemon=True)
        self.thread.start()

    def run(self):
        with contextlib.suppress(OSError):  # its sockets are taken away under it
            self.server.run()

    def close(self):
        wasyncore.close_all(self.server._map, ignore_all=True)  # as if killed
        self.thread.join(5)
        self.store.close()

    @property
    def address(self):
        return f"http://127.0.0.1:{self.port}"

    def stored(self):
        """The ohms stored, in order."""
        readings = Repository(self.store).document("T-1")["readings"]
        return [r.get("ohms") for r in readings]


@pytest.fixture
def served(tmp_path):
    made = Served(tmp_path / "shelf")
    Repository(made.store).add(piece("ABCD"))
    yield made
    made.close()


@pytest.fixture
def tab(browser, served):
    """A page on the piece; faults may write to its console."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    opened = context.new_page()
    opened.goto(f"{served.address}/pieces/T-1/?at=cold")
    yield opened
    context.close()


def line(tab):
    return tab.locator("#jot-line")


def words(tab):
    return tab.locator("#jot-words")


def type_in(tab, text, key="Enter"):
    line(tab).fill(text)
    line(tab).press(key)


def settled(served, tab):
    """What is stored once nothing waits any more."""
    until = time.monotonic() + 15
    while tab.locator(".waiting li").count() and time.monotonic() < until:
        tab.wait_for_timeout(100)  # routes are answered meanwhile
    return served.stored()


def lose_the_cookie(served, tab):
    tab.context.clear_cookies()


def take_a_new_secret(served, tab):
    served.close()
    (served.folder / "secret").unlink()
    served.open()


def open_another_shelf(served, tab):
    """A second Greyfell on another port of the same machine: cookies know no ports."""
    other = Served(served.folder.with_name("other"))
    beside = tab.context.new_page()
    beside.goto(f"{other.address}/pieces/new")
    beside.get_by_label("Tag").fill("D-1")
    beside.get_by_label("Its leads").fill("A B")
    beside.get_by_role("button", name="Put it on the bench").click()
    beside.wait_for_url("**/pieces/D-1/**")
    beside.close()
    other.close()


def spoil_the_token(served, tab):
    """Every form's, as on a page that was left open."""
    tokens = "document.querySelectorAll('[name=csrf_token]')"
    tab.evaluate(f"() => {{ for (const box of {tokens}) box.value = 'stale' }}")


@pytest.mark.parametrize(
    "what", [lose_the_cookie, take_a_new_secret, open_another_shelf, spoil_the_token]
)
def test_a_lost_cookie_or_token_is_renewed_and_the_line_stored_once(served, tab, what):
    """The person need do nothing: the page takes a new token and sends the line again."""
    what(served, tab)
    type_in(tab, "A-B 1.3")

    expect(words(tab)).to_contain_text("stored")
    expect(line(tab)).to_have_value("")
    assert served.stored() == [1.3]


@pytest.mark.parametrize("days", [-31, -0.001, 32])
def test_no_clock_ends_a_session(served, tab, days, monkeypatch):
    """Set back by five seconds or a month, or on by one."""
    now = time.time
    monkeypatch.setattr(time, "time", lambda: now() + days * 86400)
    type_in(tab, "A-B 1.3")

    expect(words(tab)).to_contain_text("stored")
    assert served.stored() == [1.3]


def test_with_the_server_gone_the_line_stays_and_is_stored_once_it_is_back(served, tab):
    """The page says what happened; after a reload too the line is in its box; Enter stores it."""
    served.close()
    type_in(tab, "A-B 1.3")
    expect(words(tab)).to_contain_text("does not answer")
    expect(line(tab)).to_have_value("A-B 1.3")

    served.open()
    line(tab).press("Enter")
    expect(words(tab)).to_contain_text("stored")
    expect(line(tab)).to_have_value("")
    assert served.stored() == [1.3]


def test_a_locked_file_is_said_and_the_line_kept(served, tab):
    """Another program holds the file: not stored; when it lets go, Enter stores it once."""
    with served.store.writing() as session:
        session.connection()
        type_in(tab, "A-B 1.3")
        expect(words(tab)).to_contain_text("Another program holds the data file", timeout=15_000)
    expect(line(tab)).to_have_value("A-B 1.3")
    assert served.stored() == []

    line(tab).press("Enter")
    expect(words(tab)).to_contain_text("stored")
    assert served.stored() == [1.3]


def test_an_answer_that_comes_too_late_is_not_stored_twice(served, tab):
    """Stored, but the answer was lost on the way: sent again, it still stands once."""
    lost = []

    def lose(route):
        if lost:
            route.continue_()
        else:
            lost.append(route.fetch())
            route.abort()

    tab.route("**/jot", lose)
    type_in(tab, "A-B 1.3")
    expect(words(tab)).to_contain_text("does not answer")
    assert served.stored() == [1.3]

    line(tab).press("Enter")
    expect(words(tab)).to_contain_text("stored")
    assert served.stored() == [1.3]


@pytest.mark.parametrize("way", ["reload", "back", "killed"])
def test_a_line_that_was_typed_comes_back(served, tab, way):
    """After reload, Back, or in a new tab when the old one was killed; said to be not stored."""
    line(tab).fill("A-B 1.3")
    expect(words(tab)).to_contain_text("1.3")
    if way == "reload":
        tab.reload()
    elif way == "back":
        tab.goto(f"{served.address}/")
        tab.go_back()
    else:
        context = tab.context
        tab.close()
        tab = context.new_page()
        tab.goto(f"{served.address}/pieces/T-1/?at=cold")

    expect(line(tab)).to_have_value("A-B 1.3")
    expect(words(tab)).to_contain_text("not stored")
    line(tab).press("Enter")
    expect(words(tab)).to_contain_text(", stored")
    tab.reload()
    expect(line(tab)).to_have_value("")
    assert served.stored() == [1.3]


def test_enter_twice_and_a_double_click_store_once(served, tab):
    line(tab).fill("A-B 1.3")
    line(tab).press("Enter")
    line(tab).press("Enter")
    expect(words(tab)).to_contain_text("stored")
    line(tab).fill("A-B 1.4")
    tab.get_by_role("button", name="Store").dblclick()
    expect(words(tab)).to_contain_text("1.4")
    expect(tab.locator(".waiting li")).to_have_count(0)

    assert served.stored() == [1.3, 1.4]


def test_lines_typed_while_one_is_on_its_way_are_stored_in_order(served, tab):
    """Nothing typed meanwhile loses a letter; each is stored once, in the order of its Enter."""
    held = []
    tab.route("**/jot", lambda route: route.continue_() if held else held.append(route))
    for ohms in (1.1, 1.2, 1.3, 1.4):
        line(tab).type(f"A-B {ohms}")
        line(tab).press("Enter")
    expect(tab.locator(".waiting li")).to_have_count(4)
    assert served.stored() == []
    held[0].continue_()

    assert settled(served, tab) == [1.1, 1.2, 1.3, 1.4]


def test_what_fails_while_the_next_is_typed_stands_above_the_box(served, tab):
    """The line being typed is left alone; the one that failed is sent again before it, and their
    order is kept.
    """
    held = []
    tab.route("**/jot", lambda route: route.continue_() if held else held.append(route))
    type_in(tab, "A-B 1.1")
    line(tab).fill("A-B 1.2")
    held[0].abort()
    expect(tab.locator(".waiting li")).to_contain_text("does not answer")
    expect(line(tab)).to_have_value("A-B 1.2")
    expect(tab.get_by_role("button", name="Send again")).to_be_visible()
    line(tab).press("Enter")
    assert settled(served, tab) == [1.1, 1.2]
    expect(line(tab)).to_have_value("")


def test_a_line_that_is_not_understood_comes_back_to_its_box(served, tab):
    type_in(tab, "A-Q 1.3")

    expect(line(tab)).to_have_value("A-Q 1.3")
    expect(words(tab)).to_contain_text("Q")
    assert served.stored() == []


def test_another_form_keeps_what_was_typed(served, tab):
    """The server gone while the clues were filled in: back on the page they are in their boxes."""
    tab.goto(f"{served.address}/pieces/T-1/?at=clues&touch=piece")
    tab.locator("[name=title]").fill("From the tea kiosk")
    tab.reload()
    expect(tab.locator("[name=title]")).to_have_value("From the tea kiosk")
    expect(tab.locator(".not-stored")).to_contain_text("was not stored")

    tab.get_by_role("button", name="Keep what is seen").click()
    expect(tab.locator("h1")).to_have_text("From the tea kiosk")
    tab.goto(f"{served.address}/pieces/T-1/?at=clues&touch=piece")
    expect(tab.locator(".not-stored")).to_have_count(0)


def test_without_the_script_a_stale_form_is_offered_again(served, browser):
    """The page shows what was typed, with a new token; sent again, it is stored once."""
    context = browser.new_context(java_script_enabled=False)
    tab = context.new_page()
    tab.goto(f"{served.address}/pieces/T-1/?at=cold")
    context.clear_cookies()
    type_in(tab, "A-B 1.3")
    expect(tab.locator("#problem")).to_contain_text("Nothing was stored")
    expect(tab.locator("[name=line]")).to_have_value("A-B 1.3")
    tab.get_by_role("button", name="Send it again").click()
    expect(tab.locator("h1")).to_have_text("untitled")
    assert served.stored() == [1.3]
    context.close()


def test_what_is_kept_belongs_to_one_shelf(served, tab):
    """A line typed on one shelf does not turn up on another that stands at the same address."""
    line(tab).fill("A-B 1.3")
    expect(words(tab)).to_contain_text("1.3")
    kept = json.loads(tab.evaluate("() => JSON.stringify(Object.keys(localStorage))"))
    assert len(kept) == 1
    served.close()
    other = Served(served.folder.with_name("other"), served.port)
    document = {**piece("ABCD"), "id": Repository(served.store).document("T-1")["id"]}
    Repository(other.store).add(document)
    tab.goto(f"{other.address}/pieces/T-1/?at=cold")

    expect(line(tab)).to_have_value("")
    other.close()
    served.open()


@pytest.mark.skipif(not AXE.exists(), reason="axe-core is not installed: npm ci")
def test_what_is_shown_when_something_fails_is_accessible_too(served, tab):
    """Lines that wait above the jotter; the page that tells a refusal and offers the form again."""
    held = []
    tab.route("**/jot", lambda route: held.append(route))
    type_in(tab, "A-B 1.1")
    line(tab).fill("C-D 4")
    held[0].abort()
    expect(tab.locator(".waiting li").first).to_be_visible()
    assert violations(tab) == []

    tab.unroute("**/jot")
    spoil_the_token(served, tab)
    tab.evaluate("() => document.querySelector('.jotter form').submit()")
    expect(tab.locator("#problem")).to_be_visible()
    assert violations(tab) == []


@pytest.mark.skipif(not AXE.exists(), reason="axe-core is not installed: npm ci")
def test_a_locked_bench_is_accessible(browser, tmp_path):
    """Asked for its passphrase, told that it is wrong, and open with the lock in the bar."""
    made = Served(tmp_path / "locked", passphrase="correct horse")
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    tab = context.new_page()
    tab.goto(f"{made.address}/")
    for words in ("wrong", "correct horse"):
        tab.get_by_label("Passphrase").fill(words)
        tab.get_by_role("button", name="Enter").click()
        assert violations(tab) == []
    tab.get_by_role("button", name="Lock").click()
    expect(tab.locator("h1")).to_have_text("This bench is locked")
    context.close()
    made.close()


def test_a_full_disk_is_said_and_the_line_kept(served, tab):
    """The file may grow no more: said, with what to do; with room again Enter stores it once."""
    full = []

    def no_room(connection, _record):
        if full:
            pages = connection.execute("pragma page_count").fetchone()[0]
            connection.execute(f"pragma max_page_count={pages}")

    sa.event.listen(served.store.engine, "connect", no_room)
    full.append(True)
    served.store.engine.dispose()
    stored = 0
    while stored < 400:
        type_in(tab, f"A-B {stored + 1}.5")
        expect(words(tab)).to_contain_text(re.compile(r"stored|The disk is full"))
        if "The disk is full" in words(tab).inner_text():
            break
        stored += 1
    expect(line(tab)).to_have_value(f"A-B {stored + 1}.5")
    expect(words(tab)).to_contain_text("Make room")

    full.clear()
    served.store.engine.dispose()
    line(tab).press("Enter")
    expect(words(tab)).to_contain_text(", stored")
    assert served.stored() == [n + 1.5 for n in range(stored + 1)]


def test_a_folder_that_was_moved_away_is_said(served, tab):
    """Nothing is acknowledged that would be lost; put back, the line is stored."""
    away = served.folder.with_name("away")
    served.folder.rename(away)
    type_in(tab, "A-B 1.3")
    expect(words(tab)).to_contain_text("moved, removed or replaced")
    expect(line(tab)).to_have_value("A-B 1.3")

    away.rename(served.folder)
    line(tab).press("Enter")
    expect(words(tab)).to_contain_text(", stored")
    assert served.stored() == [1.3]


def test_a_damaged_file_is_said_on_the_page(served, tab):
    """Spoilt while it was closed: the next start looks it over and says so, and what to do."""
    for n in range(120):
        note = {"kind": "core_proof", "ohms": 0.1, "note": f"{n} " + "x" * 400}
        Repository(served.store).append("T-1", [note])
    served.close()
    path = served.folder / FILE
    for log in ("-wal", "-shm"):
        path.with_name(path.name + log).unlink(missing_ok=True)
    spoilt = bytearray(path.read_bytes())
    spoilt[-3 * 4096 :] = b"\xff" * (3 * 4096)
    path.write_bytes(spoilt)
    served.open()
    tab.goto(f"{served.address}/")

    expect(tab.get_by_role("alert").first).to_contain_text("damaged")
    expect(tab.get_by_role("alert").first).to_contain_text("greyfell restore")


# ------------------------------------------------------------------ the dial


def test_the_dial_stands_ten_minutes_and_for_one_meter(browser, served):
    """Set once it goes along with every line, as shown beside it; ten minutes after the last line,
    and with another meter, it is not noted.
    """
    meters = [{"id": "M1", "title": "yellow pocket meter"}, {"id": "M2", "title": "bench meter"}]
    repository = Repository(served.store)
    repository.correct("T-1", {"meters": meters}, repository.get("T-1").version)
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    tab = context.new_page()
    tab.clock.install()
    tab.goto(f"{served.address}/pieces/T-1/?at=cold")
    chosen = tab.get_by_label("dial at")
    chosen.select_option("20 MΩ")
    for text in ("A-core open", "B-core open"):
        type_in(tab, text)
        expect(tab.locator(".waiting li")).to_have_count(0)
    tab.clock.fast_forward(599_000)
    expect(chosen).to_have_value("2e+07")
    tab.clock.fast_forward(2_000)
    expect(chosen).to_have_value("")
    chosen.select_option("2 MΩ")
    tab.get_by_label("with").select_option("bench meter")
    expect(chosen).to_have_value("")
    type_in(tab, "C-core open")
    expect(tab.locator(".waiting li")).to_have_count(0)
    readings = repository.document("T-1")["readings"]

    assert [(r.get("range_ohms"), r["meter"]) for r in readings] == [
        (2e7, "M1"),
        (2e7, "M1"),
        (None, "M2"),
    ]
    context.close()


def test_keys_help_empty_and_leave_the_line(tab):
    """`?` shows every key and line, Escape closes it; Escape empties the jotter, then leaves it."""
    tab.locator("body").press("?")
    expect(tab.get_by_role("dialog")).to_contain_text("what the probes read shorted")
    expect(tab.get_by_role("dialog").get_by_role("heading", name="Keys")).to_be_in_viewport()
    tab.keyboard.press("Escape")
    expect(tab.get_by_role("dialog")).to_have_count(0)
    line(tab).fill("A-B 1.")
    line(tab).press("Escape")
    expect(line(tab)).to_have_value("")
    line(tab).press("Escape")
    expect(line(tab)).not_to_be_focused()
    tab.reload()
    expect(line(tab)).to_have_value("")


def test_a_stored_reading_says_its_number_and_undo_takes_it_back(tab, served):
    """The number that a strike needs is said where the reading is typed."""
    type_in(tab, "zero 0.3")
    expect(tab.get_by_text("probes 300 mΩ taken off")).to_be_visible()
    type_in(tab, "A-B 1.6")
    expect(words(tab)).to_contain_text("r1, resistance: A–B")
    type_in(tab, "undo")
    expect(words(tab)).to_contain_text("strike out r1: undone")
    document = Repository(served.store).document("T-1")
    assert document["readings"][0]["struck"]["reason"] == "undone"
    assert document["readings"][0]["probe_ohms"] == 0.3


def test_eight_cold_readings_of_an_oven_take_five_keys_each(browser, served):
    """Enter on an empty line begins the pair that tells most; figures and Enter, or o and Enter.
    Forty keys for eight readings, nothing touched by hand.
    """
    repository = Repository(served.store)
    salvaged = {"kind": "salvage-done", "concerns": "capacitor", "text": "shorted, 0.2 V"}
    oven = piece("ABCDE", declared_family="microwave", statements=[salvaged])
    repository.add({**oven, "tag": "T-2"})
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    tab = context.new_page()
    tab.goto(f"{served.address}/pieces/T-2/")
    tab.get_by_label("dial at").select_option("20 MΩ")
    shown = {frozenset("AB"): "1.3", frozenset("CD"): "0.4", frozenset({"E", "core"}): "96"}
    keys = 0
    line(tab).focus()
    for _ in range(8):
        tab.wait_for_timeout(300)  # as a hand takes from one Enter to the next
        line(tab).press("Enter")
        expect(line(tab)).not_to_have_value("")
        begun = line(tab).input_value().split()[0]
        points = frozenset(begun.split("-"))
        typed = shown.get(points, "0.1" if begun == "proof" else "o")
        line(tab).press_sequentially(typed)
        line(tab).press("Enter")
        expect(tab.locator(".waiting li")).to_have_count(0)
        keys += len(typed) + 2
    assert len(repository.document("T-2")["readings"]) == 8
    assert keys <= 40
    context.close()


def test_a_pair_of_the_fan_is_touched_and_typed(tab, served):
    """One touch begins the line; the reading stands in its cell."""
    tab.get_by_role("link", name="A to C: not read").click()
    expect(line(tab)).to_have_value("A-C ")
    line(tab).press_sequentially("OL")
    line(tab).press("Enter")
    expect(tab.get_by_role("link", name="A to C: OL")).to_be_visible()
    assert served.stored() == ["open"]
