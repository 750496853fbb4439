"""From an empty shelf to the end of low energy, as a person does it: an oven piece, a sign piece
and a five-winding valve piece by pointer; the oven piece again by keyboard alone. What the piece
answers comes from the forward model and a simulated bench.
"""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from greyfell.core.dangers.own import hazards
from greyfell.core.simulated import designs
from greyfell.core.simulated.designs import EUROPE, DesignedOutput
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.steps import salvage
from greyfell.records.repository import Repository
from tests.browser.test_lost import Served

pytestmark = pytest.mark.browser
GATE = {"found": "0.95µF", "chain": "100k", "measured": "0.4", "again": "0.6"}
"""What is typed at the steps of the gate that ask."""
MOST_STEPS = 60
STORES = (
    {"kind": "meter", "title": "green meter", "max_volts_ac": "600", "most_ohms": "60M"},
    {"kind": "source", "title": "bell block", "volts": "24", "amps": "1", "current": "AC"},
    {"kind": "bench-supply", "title": "supply", "volts": "30", "amps": "10"},
)


@pytest.fixture
def walked(browser, tmp_path, monkeypatch):
    """An empty shelf and a page on it; the five minutes of the gate are made a moment."""
    monkeypatch.setattr(salvage, "WAIT_SECONDS", 0.1)
    monkeypatch.setattr(salvage, "LEAST_HOLD", 0.1)
    served = Served(tmp_path / "shelf")
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=served.address)
    tab = context.new_page()
    tab.served = served
    yield tab
    context.close()
    served.close()


class Hands:
    """What the piece answers to each line that a step begins."""

    def __init__(self, made, seed):
        rng = np.random.default_rng(seed)
        self.bench = SimulatedBench(made, Kit(probe_ohms=0.2), rng)

    def answer(self, begun):
        """The rest of a line: the figure that the bench shows."""
        pairs = re.findall(r"[A-Za-z0-9]+-[A-Za-z0-9]+", begun)
        across = tuple(pairs[0].split("-")) if pairs else ()
        if begun.startswith("proof"):
            return f"{self.bench.core_proof()['ohms']:g}"
        if " dc " in begun:
            if "earth" in begun:
                return "0.42V"
            amps = float(re.search(r"dc ([\d.]+)A", begun).group(1))
            return f"{self.bench.dc_drop(*across, amps)['volts']:.4g}V"
        if " L " in begun:
            return f"{self.bench.inductance(*across, 100.0)['henries']:.4g}H"
        if "turns" in begun:
            volts = float(re.search(r" ([\d.]+)V", begun).group(1))
            return f"{self.bench.test_turn(across, volts, 5, 50.0)['turn_volts']:.4g}V"
        if ">" in begun:
            volts = float(re.search(r" ([\d.]+)V", begun).group(1))
            sensed = tuple(pairs[1].split("-"))
            return f"{self.bench.ratio(across, volts, sensed, 50.0)['sensed_volts']:.4g}V"
        ohms = self.bench.ohms(*across)["ohms"]
        return "20M OL" if ohms == "open" else f"{ohms:g}"


class Pointer:
    """A person with a mouse: links and buttons are clicked, figures typed."""

    def __init__(self, tab):
        self.tab = tab

    def press(self, locator):
        locator.click()

    def fill(self, locator, text):
        locator.fill(text)

    def store(self, text):
        """The rest of a line that was begun, and Enter."""
        field = self.tab.locator("#jot-line")
        expect(field).not_to_have_value("")
        field.press("End")
        field.press_sequentially(text)
        field.press("Enter")


class Keys(Pointer):
    """A person without one: Tab until the thing is reached, then Enter."""

    MOST_TABS = 150

    def reach(self, locator):
        for _ in range(self.MOST_TABS):
            if locator.evaluate("el => el === document.activeElement"):
                return
            self.tab.keyboard.press("Tab")
        raise AssertionError(f"not reached by Tab: {locator}")

    def press(self, locator):
        self.reach(locator)
        self.tab.keyboard.press("Enter")

    def fill(self, locator, text):
        self.reach(locator)
        self.tab.keyboard.press("ControlOrMeta+a")
        self.tab.keyboard.type(text)


def stock(tab, entries=STORES):
    """Entries of the stores, through their form: meter, source and supply where no others are
    named.
    """
    for entry in entries:
        tab.goto(f"/stores?kind={entry['kind']}")
        for name, value in entry.items():
            if name == "kind":
                continue
            box = tab.locator(f"[name={name}]").last
            tag = box.evaluate("el => el.tagName")
            box.select_option(value) if tag == "SELECT" else box.fill(value)
        tab.get_by_role("button", name="Put in").click()
        expect(tab.locator("main")).to_contain_text(entry["title"])


def begin(tab, hand, donor, tag, leads):
    """A donor first, a piece out of it, on the bench."""
    tab.goto("/")
    hand.press(tab.get_by_role("link", name="Donors"))
    tab.wait_for_url("**/donors")
    tab.locator("[name=kind]").select_option(donor)
    hand.fill(tab.locator("[name=title]"), f"the {donor}")
    hand.press(tab.get_by_role("button", name="Keep it"))
    hand.press(tab.get_by_role("link", name="A piece out of it"))
    hand.fill(tab.get_by_label("Tag"), tag)
    hand.fill(tab.get_by_label("Its leads"), leads)
    hand.press(tab.get_by_role("button", name="Put it on the bench"))
    tab.wait_for_url(re.compile(f"/pieces/{tag}/"))


def through_the_gate(tab, hand):
    """Ten steps, each by its button, figures where they are asked for."""
    for step in salvage.STEPS:
        form = tab.locator("#gate form")
        expect(form.locator("[name=step]")).to_have_value(step.key)
        if step.key in GATE:
            hand.fill(form.locator("[name=value]"), GATE[step.key])
        clock = form.get_by_role("timer")
        if clock.count():
            expect(clock).to_have_text(re.compile(r"^\s*0 s to go"))
        tab.wait_for_timeout(150)
        hand.press(form.get_by_role("button"))
        expect(tab.locator(f"#gate [name=step][value={step.key}]")).to_have_count(0)


def none_here(tab, hand):
    """There is no capacitor: said where salvage asks."""
    tab.get_by_label("What was done, and what it measured").fill("bare, unplugged")
    tab.get_by_label("none here", exact=True).check()
    hand.press(tab.get_by_role("button", name="Keep this"))


def follow(tab, hand, hands):
    """Every step as it is handed over, until none of cold and low energy is left; how many."""
    taken = 0
    while taken < MOST_STEPS:
        card = tab.get_by_label("Next step")
        elsewhere = card.get_by_role("link", name=re.compile("^at (cold|low energy)$", re.I))
        salvaging = card.get_by_role("link", name=re.compile("^at salvage$", re.I))
        enter = card.get_by_role("button", name="Enter reading")
        if elsewhere.count():
            hand.press(elsewhere)
            continue
        if salvaging.count():
            hand.press(salvaging)
            none_here(tab, hand)
            tab.goto(re.sub(r"\?.*", "", tab.url))
            continue
        if not enter.count():
            return taken
        hand.press(enter)
        hand.store(hands.answer(tab.locator("#jot-line").input_value()))
        expect(tab.locator(".waiting li")).to_have_count(0)
        expect(tab.locator("#jot-line")).to_have_value("")
        taken += 1
    raise AssertionError("the steps do not end")


def known(tab, tag):
    """What the shelf concludes of the piece."""
    return Repository(tab.served.store).get(tag).ident


def volts(ident):
    """Volts of each winding by its leads."""
    return {w.name: w.volts for w in ident.windings}


@pytest.mark.parametrize("by", [Pointer, pytest.param(Keys, marks=pytest.mark.journey)])
def test_an_oven_piece_from_an_empty_shelf_to_the_end_of_low_energy(walked, by):
    """Donor, gate, cold, low energy: an oven, screened, its HV within its range."""
    made = designs.oven(np.random.default_rng(7))
    hand, hands = by(walked), Hands(made, 7)
    stock(walked)
    begin(walked, hand, "oven", "W-1", "A B C D E")
    through_the_gate(walked, hand)
    walked.goto("/pieces/W-1/")
    taken = follow(walked, hand, hands)
    ident = known(walked, "W-1")
    high = volts(ident)["E–core"]
    true = 230.0 * made.winding("hv").turns / made.winding("primary").turns

    assert (ident.family, ident.verdict) == ("microwave", "screened")
    assert high.low * 0.9 < true < high.high * 1.2
    assert 10 <= taken <= 25


def test_a_sign_piece_by_pointer(walked):
    """No capacitor to discharge; bushings lifted by the case; kilovolts to the case named."""
    made = designs.sign(np.random.default_rng(9))
    leads = [x for w in made.windings for x, _ in w.leads if x != "core"]
    hand = Pointer(walked)
    stock(walked)
    begin(walked, hand, "sign", "W-2", " ".join(leads))
    walked.goto("/pieces/W-2/?at=salvage")
    expect(walked.get_by_text("Lift it by the case")).to_be_visible()
    none_here(walked, hand)
    walked.goto("/pieces/W-2/")
    follow(walked, hand, Hands(made, 9))
    ident = known(walked, "W-2")

    assert ident.family == "sign"
    assert ident.verdict == "screened"
    assert any("case" in h.headline for h in hazards(ident))


@pytest.mark.journey
def test_a_valve_piece_of_five_windings_by_pointer(walked):
    """Eleven leads placed by some twenty pairs; its heaters told apart from the primary."""
    outputs = [
        DesignedOutput("hv-secondary", 620.0, 1.5, True),
        DesignedOutput("filament", 6.8, 13.0),
        DesignedOutput("filament", 5.3, 13.0),
        DesignedOutput("bias", 52.0, 70.0),
    ]
    made = designs.mains(np.random.default_rng(30), EUROPE, 110.0, outputs, subtype="valve")
    leads = [x for w in made.windings for x, _ in w.leads if x != "core"]
    hand = Pointer(walked)
    stock(walked)
    begin(walked, hand, "valve set", "W-3", " ".join(leads))
    walked.goto("/pieces/W-3/?at=salvage")
    none_here(walked, hand)
    walked.goto("/pieces/W-3/")
    follow(walked, hand, Hands(made, 30))
    ident = known(walked, "W-3")
    roles = sorted(w.role for w in ident.windings)

    assert len(ident.windings) == 5
    assert ident.verdict == "screened"
    assert roles.count("primary") == 1
    assert "hv-secondary" in roles


def test_the_load_is_dragged_along_its_line(page):
    """From near open to near shorted: the point, its volts and the slider go along; the address
    keeps it.
    """
    page.goto("/pieces/CQ-018/?at=model")
    plot = page.locator("[data-plot]")
    plot.scroll_into_view_if_needed()
    page.wait_for_load_state("networkidle")

    def dragged(along, up):
        box = plot.locator("svg").bounding_box()
        page.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.4)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] * along, box["y"] + box["height"] * up)
        page.mouse.up()
        load = float(page.locator("input[name=load]").input_value())
        page.wait_for_url(lambda url: f"load={load:g}&" in url)
        return load

    near_open = dragged(0.2, 0.2)
    near_short = dragged(0.6, 0.75)

    assert near_open > 0.2 > -0.2 > near_short


def test_from_an_oven_piece_to_a_matched_tab_welder(page):
    """By the text and roles on screen alone: the station, the job, the window, the turns, the
    sheet, the first step done.
    """
    page.goto("/")
    page.get_by_role("link", name=re.compile("CQ-017")).first.click()
    page.get_by_role("link", name="Uses", exact=True).click()
    page.get_by_role("link", name=re.compile("Weld 0.15 mm nickel")).click()
    with page.expect_response(lambda r: "shunts=out" in r.url):
        page.get_by_role("combobox", name=re.compile("^Shunts")).select_option("out")
    with page.expect_response(lambda r: "turns=2" in r.url):
        page.get_by_label("Turns, or the best").fill("2")
    page.get_by_role("img", name=re.compile("2 turns in the window")).wait_for()
    page.get_by_role("img", name=re.compile("Watts in the job: best with")).wait_for()
    page.get_by_role("link", name="The build sheet").click()
    page.get_by_role("heading", name=re.compile("Build sheet")).wait_for()
    page.get_by_role("button", name="Done").first.click()

    assert page.get_by_role("cell", name="done", exact=True).count() == 1
    assert "turns=2" in page.url
