"""Paper and passport as a browser makes them, photos marked by hand, the bench card on a phone."""

from xml.etree import ElementTree

import pypdfium2
import pytest
import zxingcpp
from playwright.sync_api import expect

from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from tests.browser.test_browser import put_on_the_bench, violations
from tests.browser.test_sizes import SIDEWAYS, tab
from tests.conftest import every

__all__ = ["tab"]
pytestmark = pytest.mark.browser
THREE = ["CQ-014", "CQ-009", "CQ-030"]
"""An oven, a sign and a valve piece of the demo."""
MM = 25.4 / 72
LABEL, A4 = (90, 55), (210, 297)
MOST_TAPS, TARGET, TEXT = 5, 56, 28


def squashed(text):
    """A text without its blanks: a sheet's words do not keep them."""
    return "".join(text.split())


def printed(page, url):
    """What the browser prints of a page: the sheets' sizes in mm, their words, the codes on
    them.
    """
    page.goto(url)
    sheets = []
    for sheet in pypdfium2.PdfDocument(page.pdf(prefer_css_page_size=True)):
        size = tuple(round(x * MM) for x in sheet.get_size())
        words = squashed(sheet.get_textpage().get_text_range())
        codes = [code.text for code in zxingcpp.read_barcodes(sheet.render(scale=3).to_pil())]
        sheets.append((size, words, codes))
    return sheets


def identified(page, tag):
    """What is believed of a piece of the demo."""
    return identify(parse_record(page.request.get(f"/pieces/{tag}/record.json").json()))


# ------------------------------------------------------------------ paper


@pytest.mark.parametrize("use", ["weld-nickel", "lamps", "anneal"])
@pytest.mark.parametrize("tag", ["CQ-017", "CQ-005"])
def test_the_build_sheet_is_one_page(page, tag, use):
    """A4, every step with its box, what to have, the cautions."""
    ((size, words, _),) = printed(page, f"/pieces/{tag}/rewind/sheet?use={use}")

    assert size == A4
    assert squashed("What to have") in words
    assert words.count("☐") >= 10


@pytest.mark.parametrize("tag", THREE)
def test_the_tag_is_one_label_and_its_code_names_the_piece(page, tag):
    """90 × 55 mm, nothing on a second one; the code read back by a library."""
    ((size, words, codes),) = printed(page, f"/pieces/{tag}/tag")

    assert size == LABEL
    assert codes == [f"Greyfell {tag}"]
    assert tag in words
    assert squashed("no approval") in words
    assert squashed(hazards(identified(page, tag))[0].headline) in words


@pytest.mark.parametrize("tag", THREE)
def test_the_large_tag_is_one_sheet_with_the_schematic(page, tag):
    """A4 upright, each lead of the piece in its drawing."""
    ((size, words, codes),) = printed(page, f"/pieces/{tag}/tag?size=a4")

    assert size == A4
    assert codes == [f"Greyfell {tag}"]
    assert squashed(hazards(identified(page, tag))[0].sentence) in words


@pytest.mark.parametrize(("size", "sheet"), [("a4", A4), ("label", LABEL)])
def test_every_lead_has_two_labels_on_paper(page, size, sheet):
    """A whole one for each end of a cut, none split between two sheets."""
    sheets = printed(page, f"/pieces/CQ-014/labels?size={size}")
    words = " ".join(words for _, words, _ in sheets)

    assert {size for size, _, _ in sheets} == {sheet}
    assert len(sheets) == (10 if size == "label" else 1)
    assert every(words.count(f"otherendof{lead}") == 1 for lead in "ABCDE")


@pytest.mark.parametrize("tag", THREE)
def test_the_full_record_on_paper_says_every_hazard_and_every_reading(page, tag):
    """A4 sheets; the bar, the buttons and the way back stay on the screen."""
    sheets = printed(page, f"/pieces/{tag}/paper")
    words = " ".join(words for _, words, _ in sheets)
    ident = identified(page, tag)

    assert {size for size, _, _ in sheets} == {A4}
    assert sheets[0][2] == [f"Greyfell {tag}"]
    assert every(squashed(h.headline) in words for h in hazards(ident))
    assert every(r.id in words for r in ident.record.readings)
    assert "backto" not in words
    assert "look:" not in words


def test_paper_is_light_in_the_dark(tab):
    """What is printed from the dark bench is black on white."""
    page = tab("bench", "dark")
    page.goto("/pieces/CQ-014/paper")
    ground = "getComputedStyle(document.querySelector('.paper')).backgroundColor"

    assert page.evaluate(ground) == "rgb(255, 255, 255)"
    assert violations(page) == []


# ------------------------------------------------------------------ the passport


@pytest.mark.parametrize("tag", THREE)
def test_a_passport_is_read_without_network_or_scripts(browser, page, tmp_path, tag):
    """From a file: every hazard is seen, the photo is there, nothing goes sideways on a phone."""
    passport = page.request.get(f"/pieces/{tag}/passport.html").body()
    (tmp_path / "passport.html").write_bytes(passport)
    context = browser.new_context(
        java_script_enabled=False, offline=True, viewport={"width": 390, "height": 844}
    )
    asked = []
    alone = context.new_page()
    alone.on("request", lambda r: asked.append(r.url))
    alone.goto((tmp_path / "passport.html").as_uri())
    seen = alone.locator("body").inner_text()
    wide = alone.locator("body").evaluate("b => b.scrollWidth - innerWidth")
    context.close()

    assert every(h.headline in seen for h in hazards(identified(page, tag)))
    assert [u for u in asked if not u.startswith(("file:", "data:"))] == []
    assert b"data:image/jpeg" in passport
    assert wide <= 0


def test_a_drawing_of_any_page_is_saved_as_a_file(page):
    """By its title; it stands alone, without links."""
    page.goto("/pieces/CQ-014/?at=cold")
    page.get_by_text("Save a drawing of this page").click()
    with page.expect_download() as saved:
        page.get_by_role("button", name="Iron of CQ-014", exact=False).first.click()
    root = ElementTree.parse(saved.value.path()).getroot()

    assert root.tag == "{http://www.w3.org/2000/svg}svg"
    assert list(root.iter("{http://www.w3.org/2000/svg}a")) == []
    assert "fill: #5c676d" in root.find("{http://www.w3.org/2000/svg}style").text


# ------------------------------------------------------------------ photos


def test_a_photo_is_marked_by_a_touch_and_by_keys(page):
    """A touch a third from the left; then arrows and Enter for another lead."""
    page.goto("/pieces/CQ-030/photos?lead=F")
    box = page.locator("#photo").bounding_box()
    page.mouse.click(box["x"] + box["width"] / 4, box["y"] + box["height"] / 2)
    expect(
        page.get_by_label("Photo 1: arrow keys move the mark of F, Enter sets it")
    ).to_be_visible()
    page.goto("/pieces/CQ-030/photos?lead=G")
    page.locator("#photo").focus()
    for key in ("ArrowLeft", "Shift+ArrowLeft", "ArrowUp"):
        page.keyboard.press(key)
    with page.expect_navigation():
        page.keyboard.press("Enter")
    photos = page.request.get("/pieces/CQ-030/record.json").json()["photos"]
    marks = {m["lead"]: m for m in photos[0]["marks"] if m["end"] == "piece"}

    assert marks["F"]["x"] == pytest.approx(0.25, abs=0.01)
    assert (marks["G"]["x"], marks["G"]["y"]) == (0.44, 0.49)


# ------------------------------------------------------------------ the bench card


def tap(page, name):
    """A touch on a key of the card."""
    page.get_by_role("button", name=name, exact=True).first.tap()


@pytest.fixture
def phone(browser, address):
    """A phone in one hand: 390 × 844, touched; its console stays empty."""
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, base_url=address
    )
    said = []
    opened = context.new_page()
    opened.on("console", lambda m: said.append(m.text))
    yield opened
    context.close()
    assert said == []


def test_eight_cold_readings_of_an_oven_on_the_card_take_five_taps_each(phone):
    """Digits and the unit that stores them, OL as one key; targets of 56 px, text of 28 px."""
    put_on_the_bench(phone, "CARD-1")
    phone.goto("/pieces/CARD-1/")
    token = phone.locator("input[name=csrf_token]").first.input_value()
    said = {"kind": "salvage-done", "text": "measured 0.3 V", "csrf_token": token}
    phone.request.post("/pieces/CARD-1/vouch", form=said)
    phone.goto("/pieces/CARD-1/bench")
    figures = {
        frozenset("AB"): "1.3",
        frozenset("CD"): "0.1",
        frozenset(("E", "core")): "98",
    }
    taps = []
    while len(taps) < 8:
        begins = phone.locator("input[name=begins]").input_value()
        points = frozenset(begins.split("-"))
        turn = phone.get_by_role("button", name="20 MΩ", exact=True)
        if turn.count() and turn.first.get_attribute("aria-pressed") == "false":
            with phone.expect_navigation():
                tap(phone, "20 MΩ")  # once: it stands until it is turned
        reads = "0.1" if begins == "proof" else figures.get(points, "OL")
        keys = ["OL"] if reads == "OL" else [*reads.replace(".", ":"), "Ω"]
        for key in keys[:-1]:
            tap(phone, "point" if key == ":" else key)
        with phone.expect_navigation():
            tap(phone, keys[-1])
        assert "stored" in phone.locator("#bench-said").inner_text()
        taps.append(len(keys))
    readings = phone.request.get("/pieces/CARD-1/record.json").json()["readings"]

    assert len(readings) == 8
    assert max(taps) <= MOST_TAPS
    print(f"taps a reading: {taps}")


def test_the_card_is_read_from_afar_and_touched_with_gloves(phone):
    """Every key 56 px and more, all its text 28 px and more, nothing sideways, axe finds
    nothing.
    """
    for tag in THREE:
        phone.goto(f"/pieces/{tag}/bench")
        keys = phone.locator(".bench-text button, .bench-text a, .bench-text input:visible")
        for key in keys.all():
            box = key.bounding_box()
            if box is not None:
                assert min(box["width"], box["height"]) >= TARGET, key.inner_text()
        sizes = phone.locator(".bench-text :is(h2, p, button, input, span:not(.sr-only))")
        for size in sizes.evaluate_all("all => all.map(x => getComputedStyle(x).fontSize)"):
            assert float(size.removesuffix("px")) >= TEXT
        assert phone.evaluate(SIDEWAYS) <= 0
        assert violations(phone) == []


def test_a_card_that_is_killed_comes_back_on_its_step_with_what_was_typed(phone):
    """Two digits, then a new load; the step and the digits stand."""
    phone.goto("/pieces/CQ-014/bench")
    begins = phone.locator("input[name=begins]").input_value()
    tap(phone, "4")
    tap(phone, "2")
    phone.reload()

    expect(phone.locator("input[name=begins]")).to_have_value(begins)
    expect(phone.locator("input[name=figure]")).to_have_value("42")
    phone.evaluate("localStorage.clear()")


def test_a_piece_on_a_phone_is_the_bench_card_first(phone):
    """The pad stands before the iron; the jotter covers nothing."""
    phone.goto("/pieces/CQ-014/")
    pad = phone.locator(".bench-first .pad").bounding_box()
    iron = phone.locator(".iron").bounding_box()

    assert pad["y"] < iron["y"]
    assert phone.locator(".jotter").evaluate("x => getComputedStyle(x).position") == "static"
