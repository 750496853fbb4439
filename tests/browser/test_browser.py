"""The slice as a person does it, in a browser; and what every page owes: no violations, shipped
faces, keyboard.
"""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import AXE
from tests.conftest import every

pytestmark = pytest.mark.browser
PAGES = [
    "/",
    "/practice",
    "/instruments",
    "/rewindings",
    "/pieces/CQ-018/dangers?use=weld-nickel&act=first+power",
    "/pieces/CQ-018/rehearse?source=line&driven=A-B&volts_driven=230&connect=yes",
    "/pieces/CQ-021/points",
    "/trips",
    "/pieces/CQ-005/isolated?purpose=appliance",
    "/pieces/new",
    "/import",
    "/plans/",
    "/plans/rewind",
    "/plans/rewind?piece=CQ-017",
    "/plans/ballast",
    "/plans/ballast?piece=CQ-021",
    "/plans/nameplate",
    "/plans/temperature",
    "/plans/wire",
    "/plans/discharge",
    "/plans/metering",
    "/plans/ratio_check",
    "/plans/two_primaries",
    "/plans/dc_routes",
    "/plans/pulse_weld",
    "/plans/peak",
    "/plans/scrap?piece=CQ-014&copper_price=7",
    "/plans/lamp",
    "/plans/source",
    "/plans/circuit_from_tests",
    "/plans/primary_turns",
    "/plans/claim",
    "/plans/breaker",
    "/plans/variac",
    "/plans/ballast_bank",
    "/plans/limiter",
    "/plans/feed",
    "/plans/choke",
    "/plans/sliding_choke",
    "/plans/crank_welder",
    "/plans/saturable_reactor",
    "/plans/series_capacitor",
    "/plans/output",
    "/uses?use=solder",
    "/coils",
    "/pieces/CQ-005/isolation",
    "/schools",
    "/shocked",
    "/glossary",
    "/plans/halves",
    "/plans/touch_map",
    "/plans/autotransformer",
    "/plans/weld_match?piece=CQ-018",
    "/plans/turns_scale",
    "/plans/current_path",
    "/plans/duty",
    "/plans/dc_supply",
    "/plans/valve_supply",
    "/plans/gap",
    "/rigs",
    "/rigs/edit",
    "/rigs/compare?one=pdemo1&two=pdemo3",
    "/kept/pdemo4",
    "/kept/pdemo5",
    "/pieces/CQ-018/?at=model",
    "/pieces/CQ-017/?at=uses",
    "/pieces/CQ-017/rewind?use=weld-nickel",
    "/pieces/CQ-017/rewind?use=stick",
    "/pieces/CQ-017/rewind?use=magnetron",
    "/pieces/CQ-026/rewind",
    "/pieces/CQ-017/rewind/sheet?use=weld-nickel",
    "/plans/leakage",
    "/plans/reflected_short",
    "/pieces/CQ-005/?at=power",
    "/pieces/CQ-018/sheet",
    "/pieces/CQ-018/?at=power",
    "/pieces/CQ-030/?at=power",
    "/pieces/CQ-018/?at=sweep",
    "/pieces/CQ-021/?at=sweep",
    "/stores",
    "/stores?kind=meter",
    "/stores/stick",
    "/donors",
    "/donors/d00000001",
    "/donors/tests?test=fuse&value=OL",
    "/?gives=1+A+at+12+V",
    "/pieces/CQ-021/sisters",
    "/patterns",
    "/pieces/CQ-014/",
    "/pieces/CQ-014/?at=salvage",
    "/pieces/CQ-014/?at=clues",
    "/pieces/CQ-014/?at=clues&touch=A",
    "/pieces/CQ-014/?at=clues&touch=A-B",
    "/pieces/CQ-014/?at=clues&touch=core",
    "/pieces/CQ-053/?at=clues&touch=plate_text",
    "/pieces/CQ-009/?at=salvage&label=0.95uF+2100WV",
    "/pieces/CQ-030/?at=low",
    "/pieces/CQ-017/?at=low",
    "/pieces/CQ-014/?at=power",
    "/pieces/CQ-014/?at=record",
    "/pieces/CQ-014/photos",
    "/pieces/CQ-014/tag",
    "/pieces/CQ-030/tag?size=a4",
    "/pieces/CQ-030/labels",
    "/pieces/CQ-014/labels?size=label",
    "/pieces/CQ-009/paper",
    "/pieces/CQ-014/table",
    "/pieces/CQ-014/bench",
    "/pieces/CQ-030/bench",
    "/log",
    "/pieces/CQ-014/why",
    "/pieces/CQ-010/",
    "/pieces/CQ-030/",
    "/pieces/CQ-044/",
    "/pieces/CQ-011/",
]


def put_on_the_bench(page, tag, leads="A B C D E"):
    """A new piece through the form."""
    page.goto("/pieces/new")
    page.get_by_label("Tag").fill(tag)
    page.get_by_label("Its leads").fill(leads)
    page.get_by_role("button", name="Put it on the bench").click()
    page.wait_for_url(re.compile(f"/pieces/{tag}/"))


def jot(page, line):
    """A line in the jotter, and wait for it to be stored."""
    field = page.locator("#jot-line")
    field.fill(line)
    with page.expect_response(lambda r: "/jot" in r.url):
        field.press("Enter")
    expect(page.locator("#jot-line")).to_have_value("")


def violations(page, rules=()):
    """What axe-core finds on a page as it stands, by all its rules or by some."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE.read_text(encoding="utf-8"))
    options = {"resultTypes": ["violations"], "preload": False}
    if rules:
        options["runOnly"] = {"type": "rule", "values": list(rules)}
    return page.evaluate(
        "async (options) => (await axe.run(document, options)).violations.map(v => [v.id, "
        "v.nodes.map(n => n.html.slice(0, 160)).slice(0, 3)])",
        options,
    )


def test_an_oven_piece_from_three_readings_to_volts_and_turns(page):
    """New piece, click two leads, ohms and a ratio: named, its volts with a range, its danger, a
    turn count.
    """
    put_on_the_bench(page, "B-1")
    page.goto("/pieces/B-1/?at=cold")
    for line in (
        "proof 0.1",
        "C-D 0.2 probes 0.2",
        "E-core 96 probes 0.2",
        "A-C open 20M",
        "A-E open 20M",
        "C-E open 20M",
        "A-core open 20M",
        "C-core open 20M",
    ):
        jot(page, line)
    page.locator("[data-lead=A]").click()
    page.locator("[data-lead=B]").click()
    assert page.locator("#jot-line").input_value() == "A-B "
    page.locator("#jot-line").type("1.5 probes 0.2")
    page.get_by_text("Understood:").wait_for()
    page.locator("#jot-line").press("Enter")
    page.get_by_text("oven primary").first.wait_for()
    jot(page, "E-core 42V > A-B 4.4V")

    page.goto("/pieces/B-1/?at=low")
    assert "First the capacitor" in page.locator("#danger").inner_text()
    assert re.search(r"2\.\d\d kV", page.locator("#piece").inner_text())
    assert "ratio" in page.locator("#piece").inner_text()
    page.get_by_role("link", name="rewind").click()
    page.get_by_text("One turn fewer").wait_for()
    assert re.search(r"\d+ whole turns", page.locator("#result").inner_text())


def test_leads_group_into_windings_as_readings_arrive(page):
    """Floating leads find their place, one reading at a time."""
    put_on_the_bench(page, "B-2", "A B C")
    assert page.get_by_text("not yet placed").count() == 1
    jot(page, "A-B 50 probes 0")
    jot(page, "B-C 52 probes 0")

    drawing = page.locator("svg[aria-label*='The iron of B-2']")
    assert "A–C" in drawing.get_attribute("aria-label")


def test_what_is_not_understood_is_explained_and_kept(page):
    """The line stays; nothing is stored."""
    put_on_the_bench(page, "B-3", "A B")
    page.locator("#jot-line").fill("A-Q 3")
    page.get_by_text("not a lead of this piece").wait_for()
    page.locator("#jot-line").press("Enter")
    page.wait_for_timeout(300)

    assert page.locator("#jot-line").input_value() == "A-Q 3"
    page.goto("/pieces/B-3/?at=record")
    assert page.get_by_text("No readings yet").count() == 1


def test_the_slash_reaches_the_jotter_and_rings_work_by_keyboard(page):
    """Everything reachable by keyboard, with a visible focus."""
    page.goto("/pieces/CQ-014/")
    page.keyboard.press("/")
    assert page.evaluate("document.activeElement.id") == "jot-line"
    page.locator("[data-lead=A]").focus()
    page.keyboard.press("Enter")
    page.locator("[data-lead=core]").focus()
    page.keyboard.press("Enter")

    assert page.locator("#jot-line").input_value() == "A-core "


def test_the_next_step_fills_the_jotter(page):
    """One tap from instruction to entry: the pair, and no outcome."""
    page.goto("/pieces/CQ-014/")
    page.get_by_role("button", name="Enter reading").click()

    assert page.locator("#jot-line").input_value() == "A-core "


def test_a_hand_quicker_than_the_page_keeps_its_caret(page):
    """A figure begun in the moment before the page has put its caret stays in one piece."""
    page.goto("/pieces/CQ-014/")
    page.get_by_role("button", name="Enter reading").evaluate(
        "async button => { const line = document.getElementById('jot-line'); button.click();"
        " while (!line.value) await Promise.resolve();"
        " line.focus(); document.execCommand('insertText', false, '20'); }"
    )
    page.wait_for_timeout(50)
    page.keyboard.type("M OL")

    assert page.locator("#jot-line").input_value() == "A-core 20M OL"


def test_a_rig_is_solved_while_it_is_typed_and_asked_whole_for_another_kind(page):
    """A smaller lamp: other figures without a reload; a ballast has other boxes."""
    page.goto("/rigs/edit")
    before = page.locator("#result svg").first.text_content()
    page.locator("[name='a1.watts']").fill("60")
    expect(page.locator("#result svg").first).not_to_have_text(before)
    assert "a1.watts=60" in page.url

    page.locator("[name='a1.kind']").select_option("ballast")
    page.wait_for_load_state()
    expect(page.locator("[name='a1.short_amps']")).to_have_value("3")
    page.locator("[name='a1.short_amps']").fill("2")
    expect(page.locator("#result")).to_contain_text("Ballast limits")


def test_the_rewind_recomputes_while_it_is_dragged(page):
    """The server's figures, without a reload; the last answer wins."""
    page.goto("/plans/rewind")
    page.locator("input[type=range]").evaluate(
        "e => { for (const v of [3, 9, 20]) { e.value = v; e.dispatchEvent(new "
        "Event('input', {bubbles: true})); } }"
    )
    page.get_by_text("23 whole turns").wait_for()

    assert page.locator("#field-target_volts").input_value() == "20"
    assert "target_volts=20" in page.url


def test_a_ballast_that_is_not_needed_says_so_in_place(page):
    """Refused with a sentence beside what was typed, no error in the console."""
    page.goto("/plans/ballast")
    page.locator("#field-source_reactance_ohms").fill("80")
    page.get_by_text("limits already").wait_for()

    assert page.locator("#field-source_reactance_ohms").input_value() == "80"


@pytest.mark.parametrize(
    "url", ["/patterns", "/pieces/CQ-017/?at=low", "/plans/ballast?piece=CQ-021"]
)
def test_every_sign_comes_from_a_shipped_face(page, url):
    """Ω, µ, √, ≤, ±, →: what the browser really drew them with (DevTools' platform fonts)."""
    page.goto(url)
    session = page.context.new_cdp_session(page)
    session.send("DOM.enable")
    session.send("CSS.enable")
    root = session.send("DOM.getDocument", {"depth": -1})["root"]
    used = set()
    for node in session.send(
        "DOM.querySelectorAll", {"nodeId": root["nodeId"], "selector": "body, body *"}
    )["nodeIds"]:
        used |= {
            (f["familyName"], f["isCustomFont"])
            for f in session.send("CSS.getPlatformFontsForNode", {"nodeId": node})["fonts"]
        }

    assert every(shipped for _, shipped in used), used
    assert {name.split()[0] for name, _ in used} <= {"Commissioner", "JetBrains", "Noto"}


def test_text_in_drawings_is_large_enough(page):
    """At least 12 px at 1280 wide."""
    for url in (
        "/pieces/CQ-014/",
        "/pieces/CQ-030/",
        "/plans/ballast?piece=CQ-021",
        "/plans/rewind?piece=CQ-021",
        "/pieces/CQ-053/?at=clues",
        "/pieces/CQ-030/?at=low",
        "/stores/stick",
    ):
        page.goto(url)
        small = page.evaluate(
            "() => [...document.querySelectorAll('svg text')].map(t => [t.textContent, "
            "t.getBBox().height ? parseFloat(getComputedStyle(t).fontSize) * "
            "t.ownerSVGElement.getBoundingClientRect().width / "
            "t.ownerSVGElement.viewBox.baseVal.width : 99]).filter(x => x[1] < 11.9)"
        )
        assert small == [], url


def test_the_page_does_not_need_its_script(browser, address):
    """Reading and entering readings without JavaScript."""
    context = browser.new_context(java_script_enabled=False, base_url=address)
    page = context.new_page()
    put_on_the_bench(page, "B-9", "A B C")
    page.locator("#jot-line").fill("A-B 1.3")
    page.get_by_role("button", name="Store").click()
    assert (
        "1.05 Ω" in page.locator("#piece").inner_text()
        or "1.3" in page.locator("#piece").inner_text()
    )
    page.locator("a[data-lead=C]").click()
    assert page.locator("#jot-line").input_value().startswith("C-")
    context.close()


def test_one_key_strikes_the_last_reading_out(page):
    """`u` outside the boxes; the reading stays on record with its reason."""
    put_on_the_bench(page, "UNDO-1")
    page.goto("/pieces/UNDO-1/?at=cold")
    page.get_by_label("Jotter").fill("A-B 3.3")
    page.keyboard.press("Enter")
    expect(page.locator("#jot-words")).to_contain_text("stored")
    page.locator("h1").click()
    page.keyboard.press("u")
    expect(page.locator("#jot-words")).to_contain_text("undone")
    (reading,) = page.request.get("/pieces/UNDO-1/record.json").json()["readings"]

    assert reading["struck"]["reason"] == "undone"


@pytest.mark.parametrize("url", ["/rigs/edit", "/plans/valve_supply"])
def test_what_takes_long_follows_by_itself(page, url):
    """The page stands first; failures, waves and what a plan hangs on come into their places, and
    again after a figure was changed.
    """
    page.goto(url)
    expect(page.locator("[data-later]")).to_have_count(0)
    heading = "If one thing fails" if "rigs" in url else "It hangs on"
    expect(page.get_by_role("heading", name=heading)).to_be_visible()
    field = page.locator("#result ~ form input[inputmode=decimal], form input[inputmode=decimal]")
    with page.expect_response(lambda r: "whole=yes" in r.url):
        field.first.fill("231")
    expect(page.locator("[data-later]")).to_have_count(0)
    expect(page.get_by_role("heading", name=heading)).to_be_visible()
