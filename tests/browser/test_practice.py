"""Lessons walked in Chromium with the keyboard alone, and by taps on posts; axe on the bench."""

import pytest
from playwright.sync_api import expect

from greyfell.core.lessons.courses import LESSONS
from greyfell.core.simulated.hidden import ends_of, hidden
from tests.browser.test_browser import AXE, violations

pytestmark = pytest.mark.browser
FIRST = next(x for x in LESSONS if x.key == "first-ohm")
PIECE = hidden(FIRST.number, FIRST.level)


def test_the_first_lesson_is_walked_with_the_keyboard(page):
    """Into it, the ohmmeter chosen, a pair typed, Enter; done, and nothing wrong by axe."""
    page.goto("/practice")
    page.get_by_role("button", name="1", exact=True).focus()
    page.keyboard.press("Enter")
    page.locator("select[name=instrument]").focus()
    page.keyboard.press("o")
    page.locator("input[name=points]").focus()
    page.keyboard.type("-".join(ends_of(PIECE.piece.windings[0])))
    page.keyboard.press("Enter")

    expect(page.locator("main")).to_contain_text("The first ohm: done.")
    expect(page.get_by_role("status").first).to_contain_text("It shows:")
    if AXE.exists():
        assert violations(page) == []


def test_posts_are_tapped_into_the_pair_last_touched(page):
    """Two taps make a pair, a third begins anew; the wrong move is told in red."""
    page.goto("/practice")
    page.get_by_role("button", name="2", exact=True).click()
    page.locator("input[name=driven]").click()
    page.locator("svg [data-lead=A]").click()
    page.locator("svg [data-lead=B]").click()
    expect(page.locator("input[name=driven]")).to_have_value("A-B")
    page.locator("svg [data-lead=C]").click()
    expect(page.locator("input[name=driven]")).to_have_value("C")
    page.locator("svg [data-lead=D]").click()
    page.locator("select[name=source]").select_option("line")
    page.get_by_label("volts", exact=True).fill("230")
    page.get_by_role("button", name="Connect and read").click()

    expect(page.get_by_role("alert").first).to_be_visible()
    expect(page.locator("main")).to_contain_text("would have gone wrong so far")
    if AXE.exists():
        assert violations(page) == []
