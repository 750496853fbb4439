"""Every page in light and dark, on the bench, a tablet, a phone and at 200 % zoom: nothing goes
sideways, axe-core finds nothing, the work stands before the picture where there is one column.
"""

import pytest
from playwright.sync_api import expect

from tests.browser.test_browser import AXE, PAGES, violations

pytestmark = pytest.mark.browser
SIZES = {"bench": (1280, 800), "tablet": (768, 1024), "zoomed": (640, 400), "phone": (390, 844)}
SIDEWAYS = "document.documentElement.scrollWidth - document.documentElement.clientWidth"
GROUND = "getComputedStyle(document.documentElement).backgroundColor"


@pytest.fixture
def tab(browser, address):
    """A page opener of a size and a scheme."""
    opened = []

    def of(size, scheme="light"):
        width, height = SIZES[size]
        view = {"width": width, "height": height}
        context = browser.new_context(viewport=view, color_scheme=scheme, base_url=address)
        opened.append(context)
        return context.new_page()

    yield of
    for context in opened:
        context.close()


COLOURS = ("color-contrast", "link-in-text-block")
"""Rules of axe-core that look at colours; every other one reads the same page as in the light."""
NIGHT = "rgb(23, 28, 31)"


@pytest.mark.parametrize("url", PAGES)
def test_every_page_holds_at_every_size_by_day_and_by_night(looked, url):
    """Loaded once: at no size it goes sideways, and its console stays empty (asserted by the
    fixture). axe-core with all its rules finds nothing on the bench and on a phone, nor anything of
    colours in the dark.
    """
    looked.goto(url)
    found = {"bench": faults_of(looked)}
    looked.emulate_media(color_scheme="dark")
    ground = looked.evaluate(GROUND)
    found["night"] = faults_of(looked, COLOURS)
    looked.emulate_media(color_scheme="light")
    over = {}
    for size, (width, height) in SIZES.items():
        looked.set_viewport_size({"width": width, "height": height})
        over[size] = looked.evaluate(SIDEWAYS)
    found["phone"] = faults_of(looked)

    assert ground == NIGHT
    assert {size: wide for size, wide in over.items() if wide > 0} == {}
    assert {at: wrong for at, wrong in found.items() if wrong} == {}


def faults_of(page, rules=()):
    """What axe-core finds; nothing where it is not installed, which the next test says."""
    return violations(page, rules) if AXE.exists() else []


def test_the_checks_of_every_page_have_axe():
    """Without it they look at widths and the console alone."""
    if not AXE.exists():
        pytest.skip("axe-core is not installed: npm ci")


def test_on_a_phone_the_step_stands_before_the_iron_and_can_be_touched(tab):
    """One column: the bench card first; its keys and the stations are 44 px high and more."""
    page = tab("phone")
    page.goto("/pieces/CQ-014/?at=cold")
    step = page.get_by_label("Bench card").bounding_box()
    iron = page.locator(".iron").bounding_box()
    heights = [
        page.get_by_role("button", name="OL", exact=True).bounding_box()["height"],
        page.get_by_label("Stations").get_by_role("link", name="cold").bounding_box()["height"],
    ]

    assert step["y"] < iron["y"]
    assert min(heights) >= 44
    page.get_by_label("Stations").get_by_role("link", name="record").click()
    expect(page.get_by_role("heading", name="Record")).to_be_visible()


def test_the_look_follows_the_system_until_it_is_chosen(tab):
    """Dark by the system; light once chosen, on every page; and back to the system."""
    page = tab("bench", "dark")
    page.goto("/stores")
    dark = page.evaluate(GROUND)
    page.get_by_role("button", name="look: system").click()
    light = page.evaluate(GROUND)
    page.goto("/plans/")

    assert (dark, light) == (NIGHT, "rgb(242, 241, 236)")
    assert page.evaluate(GROUND) == light
    page.get_by_role("button", name="look: light").click()
    page.get_by_role("button", name="look: dark").click()
    assert page.evaluate(GROUND) == dark
    expect(page.get_by_role("button", name="look: system")).to_be_visible()


def test_print_leaves_out_what_is_for_the_screen(tab):
    """Neither bar, jotter nor buttons; the readings stay."""
    page = tab("bench")
    page.goto("/pieces/CQ-014/?at=record")
    page.emulate_media(media="print")

    expect(page.locator(".bar")).to_be_hidden()
    expect(page.locator(".jotter")).to_be_hidden()
    expect(page.get_by_role("button", name="Strike").first).to_be_hidden()
    expect(page.get_by_text("A–B 1.6 Ω").first).to_be_visible()
