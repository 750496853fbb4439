"""Five journeys from an empty shelf to a printed result, by a hand that knows only what is on the
screen and what its instruments show of a simulated piece; taps, typed figures and dead ends are
counted.
"""

import re
import threading

import pypdfium2
import pytest
from playwright.sync_api import expect
from waitress import create_server

from greyfell.core.errors import FieldError
from greyfell.core.lessons.hookup import Hookup
from greyfell.core.lessons.readings import polarity, reading_of, turns_read
from greyfell.core.simulated.hidden import hidden
from greyfell.records.repository import Repository
from greyfell.web.app import create_app

pytestmark = pytest.mark.browser
MOST_STEPS, MOST_TAPS = 34, 110
LOST = "loose part, no donor near it, no capacitor on it"


@pytest.fixture
def empty(browser, tmp_path):
    """A page on a program with nothing on its shelf, and the records behind it."""
    app = create_app(tmp_path / "empty")
    server = create_server(app, host="127.0.0.1", port=0, threads=4)
    threading.Thread(target=server.run, daemon=True).start()
    url = f"http://127.0.0.1:{server.effective_port}"
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=url)
    opened = context.new_page()
    opened.set_default_timeout(8000)
    yield opened, Repository(app.extensions["store"])
    context.close()
    server.close()
    app.extensions["store"].close()


class Hand:
    """Somebody at the bench: what is tapped and typed is counted."""

    def __init__(self, page, piece, tag):
        self.page, self.piece, self.tag = page, piece, tag
        self.taps = self.figures = self.dead_ends = self.taken = 0
        self.said = ["none here", "done elsewhere"]

    def tap(self, role, name, **more):
        """Tap what a role and a name show."""
        self.taps += 1
        self.page.get_by_role(role, name=name, **more).first.click()

    def begin(self, believed="", supply=""):
        """Put the piece on the bench, and say that it came loose."""
        self.page.goto("/pieces/new")
        self.page.get_by_label("Tag").fill(self.tag)
        self.page.get_by_label("Its leads").fill(" ".join(x["id"] for x in self.leads))
        if supply:
            self.page.get_by_label("Mains it would be fed from").select_option(label=supply)
        if believed:
            self.page.get_by_label("What you think it is").select_option(label=believed)
        self.tap("button", "Put it on the bench")
        self.page.wait_for_url(re.compile(f"/pieces/{self.tag}/"))

    @property
    def leads(self):
        return self.piece.document["leads"]

    def loose(self):
        """There is no capacitor here: it is said; asked again, that it was emptied in the donor."""
        self.taps += 3
        box = self.page.get_by_label("What was done, and what it measured")
        if not box.is_visible():
            self.page.locator("summary", has_text="There is none here").click()
        box.fill(LOST)
        said = self.said.pop(0) if len(self.said) > 1 else self.said[0]
        self.page.get_by_label(said).first.check()
        if said == "done elsewhere":
            self.taps += 2
            self.page.get_by_label("Volts read last").fill("0.2 V")
            self.page.get_by_label("done elsewhere was").select_option(label="its capacitor")
        self.page.get_by_role("button", name="Keep this").click()

    def work(self):
        """Follow the next step until it is none of a cold bench's any more."""
        stuck = ""
        for _ in range(MOST_STEPS):
            self.page.goto(f"/pieces/{self.tag}/")
            self.taps += 1
            if self.page.get_by_role("button", name="Done").count() and self.at("Salvage"):
                self.loose()
                continue
            enter = self.page.get_by_role("button", name="Enter reading")
            if not enter.count():
                return
            self.tap("button", "Enter reading")
            begun = self.page.locator("#jot-line").input_value()
            line = self.answer(begun)
            if line is None or begun == stuck:
                self.dead_ends += line is None
                if not self.page.get_by_role("button", name="I have none for this").count():
                    return
                self.tap("button", "I have none for this")
                continue
            stuck = begun
            self.jot(line)

    def at(self, station):
        """Whether the page is at a station."""
        return self.page.locator(f"nav .chip-on:has-text('{station}')").count() > 0

    def jot(self, line):
        """Type the rest of a line, Enter."""
        self.figures += 1
        self.taken += 1
        field = self.page.locator("#jot-line")
        field.fill(line)
        with self.page.expect_response(lambda r: "/jot" in r.url):
            field.press("Enter")
        expect(field).to_have_value("")

    def answer(self, begun):
        """What the instruments show of the piece behind the beginning of a line; None where they
        show nothing.
        """
        try:
            reading = self._reading(begun)
        except FieldError:
            return None
        return None if reading is None else typed(reading)

    def _reading(self, begun):
        if begun.startswith("proof"):
            return self._dead("ohms", ("core", "earth"))
        pairs = re.findall(r"([A-Z]|core)-([A-Z]|core)", begun)
        volts = re.search(r"(\d+)V", begun)
        if "ins" in begun:
            return self._dead("insulation", pairs[0])
        if "L 100Hz" in begun:
            return self._dead("henries", pairs[0])
        if "dc" in begun and "earth" not in begun:
            return self._dead("milliohm", pairs[0])
        if "turns" in begun:
            return turns_read(self.piece, pairs[0], float(volts[1]), self.taken)
        if "=" in begun:
            return polarity(self.piece, pairs[0], pairs[1], float(volts[1]), self.taken)
        if ">" in begun:
            hookup = Hookup(source="low", driven=pairs[0], volts=float(volts[1]))
            return reading_of(
                self.piece,
                Hookup(
                    source=hookup.source,
                    driven=hookup.driven,
                    volts=hookup.volts,
                    instrument="volts",
                    points=pairs[1],
                ),
                self.taken,
            )
        return self._dead("ohms", pairs[0]) if pairs else None

    def _dead(self, instrument, points):
        return reading_of(self.piece, Hookup(instrument=instrument, points=points), self.taken)

    def printed(self, url):
        """The pages that a browser prints of an address, and their words."""
        self.page.goto(url)
        document = pypdfium2.PdfDocument(self.page.pdf(prefer_css_page_size=True))
        words = " ".join(p.get_textpage().get_text_range() for p in document)
        return len(document), " ".join(words.split())


def typed(r):
    """A reading as a hand types it."""
    pair = "-".join(r.get("between") or r.get("across") or r.get("driven") or ())
    if r["kind"] == "resistance":
        return f"{pair} {'open 20M' if r['ohms'] == 'open' else r['ohms']}"
    if r["kind"] == "core_proof":
        return f"proof {r['ohms']}"
    if r["kind"] == "insulation":
        return f"{pair} ins 500V {'2000M' if r['ohms'] == 'open' else r['ohms']}"
    if r["kind"] == "inductance":
        return f"{pair} {r['henries']}H 100Hz"
    if r["kind"] == "dc_drop":
        return f"{pair} dc {r['amps']}A {r['volts']}V"
    if r["kind"] == "ratio":
        return f"{pair} {r['driven_volts']}V > {'-'.join(r['sensed'])} {r['sensed_volts']}V"
    if r["kind"] == "test_turn":
        return f"{pair} {r['driven_volts']}V > {r['turns']} turns {r['turn_volts']}V"
    pair = "-".join(r["driven"])
    joined, across = "=".join(r["joined"]), "-".join(r["across"])
    return f"{pair} {r['driven_volts']}V {joined} > {across} {r['across_volts']}V"


def begun(empty, number, level, tag, **given):
    """A hand at a hidden piece's bench, worked to the end of its cold and low tests."""
    page, records = empty
    hand = Hand(page, hidden(number, level), tag)
    hand.begin(**given)
    hand.work()
    print(f"{tag}: {hand.taps} taps, {hand.figures} figures, {hand.dead_ends} dead ends")
    return hand, records.get(tag)


def test_a_dead_oven_part_is_condemned_with_its_reason_and_its_tag_printed(empty):
    """Its winding is open: found, named, and on the label."""
    hand, piece = begun(empty, 199, "any", "J-1")
    pages, words = hand.printed("/pieces/J-1/tag")

    assert piece.ident.stopped
    assert any(f.code == "open-winding" for f in piece.ident.faults) or "open" in words
    assert pages == 1
    assert hand.taps <= MOST_TAPS
    assert hand.dead_ends <= 2


def test_a_sign_part_of_another_country_is_known_and_shut(empty):
    """120 V, 60 Hz: a sign part, kilovolts told on the tag, no gate opened for it."""
    hand, piece = begun(empty, 47, "any", "J-2", supply="120 V, 60 Hz")
    _, words = hand.printed("/pieces/J-2/tag")

    assert piece.ident.family == "sign"
    assert "kV" in words
    assert hand.dead_ends <= 2
    assert hand.taps <= MOST_TAPS


@pytest.mark.journey
def test_eleven_leads_have_their_places_in_few_pairs(empty):
    """Every lead placed, in fewer than half of its fifty-five pairs; the passport printed."""
    hand, piece = begun(empty, 8, "mains", "J-3")
    placed = {x for w in piece.ident.windings for x in w.coil.members}
    placed |= set(piece.ident.topology.core_leads)
    pairs = [r for r in piece.record.readings if r.kind == "resistance"]
    pages, words = hand.printed("/pieces/J-3/paper")

    assert {x["id"] for x in hand.leads} <= placed | set(hand.piece.piece.loose_leads)
    assert len(pairs) < 28
    assert piece.ident.family == "mains"
    assert pages >= 1
    assert "J-3" in words


@pytest.mark.journey
def test_a_tab_welder_by_a_day(empty):
    """A sound oven part; the goal said, the plan kept, ready in so many evenings, one printed
    sheet.
    """
    hand, _ = begun(empty, 11, "any", "J-4", believed="from a microwave oven")
    page = hand.page
    page.goto("/pieces/J-4/")
    page.locator(".goal summary").click()
    page.get_by_label("Goal").select_option(label="A tab welder")
    hand.tap("button", "That is what I want")
    expect(page.locator(".goal")).to_contain_text("A tab welder")
    page.goto("/pieces/J-4/?at=uses")
    hand.tap("link", "Weld 0.15 mm nickel, one-sided tips")
    page.locator("summary", has_text="Tools at hand, ready by").click()
    page.get_by_label("ready in evenings").fill("4")
    hand.figures += 1
    expect(page.locator("#result")).to_contain_text(
        re.compile("Ready|evenings are needed|cannot be")
    )
    hand.tap("button", "Keep this plan")
    hand.tap("link", "The build sheet")
    pages, words = hand.printed(page.url)

    assert pages == 1
    assert "What to have" in words
    assert hand.taps <= MOST_TAPS


def test_an_isolated_bench_is_asked_for_and_its_report_says_what_it_is_not(empty):
    """An isolating part: the goal's readings, then the report, printed."""
    hand, _ = begun(empty, 7, "mains", "J-5")
    page = hand.page
    page.goto("/pieces/J-5/")
    page.locator(".goal summary").click()
    page.get_by_label("Goal").select_option(label="An isolated bench")
    hand.tap("button", "That is what I want")
    expect(page.locator(".goal")).to_contain_text("insulation tester")
    pages, words = hand.printed("/pieces/J-5/isolation")

    assert "not a safety isolating transformer" in words
    assert pages <= 2
    assert hand.taps <= MOST_TAPS
