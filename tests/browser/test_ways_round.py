"""Ways round the gate that were found once, each walked in the browser as it was found: a fault
struck, a word for a discharge, a bond by its place in the list, a heater fed, a heater left on a
whole part, an output of mains-like volts, a deadly rig, a harmless reading after a stop, an example
that passes for measured, a cut behind live kilovolts.
"""

import re

import pytest
from playwright.sync_api import expect

from greyfell.records.demo import demo_documents
from greyfell.records.repository import Repository
from tests.browser.test_live import choose, nothing_live_unasked
from tests.browser.test_walks import stock, walked
from tests.conftest import MAINS, piece
from tests.core.test_ways_round import HEATER_LEFT, RATIO, SHORTED, at, bell, oven

pytestmark = pytest.mark.browser
__all__ = ["walked"]
CLOSED = "Nothing live before this is settled"


@pytest.fixture
def shelf(walked):
    """A page, and how a record is put on its shelf."""
    repository = Repository(walked.served.store)

    def put(document):
        repository.add(document)
        return f"/pieces/{document['tag']}/"

    walked.put = put
    return walked


def jot(tab, line):
    """One line, stored."""
    field = tab.locator("#jot-line")
    field.fill(line)
    field.press("Enter")
    expect(tab.locator(".waiting li")).to_have_count(0)
    expect(field).to_have_value("")


def opened(tab, address):
    """Whether first power hands its steps over; before the first of a sitting it asks."""
    tab.goto(f"{address}?at=power")
    return tab.get_by_text(CLOSED).count() == 0


def strip(tab):
    """The strip that stands over every station."""
    return tab.locator("#danger").inner_text()


def test_k1_a_fault_struck_as_a_slip_is_read_again_before_anything_is_live(shelf):
    """A to the core 3 Ω, struck; the older open reading answers nothing, a newer one does."""
    address = shelf.put(bell())
    assert opened(shelf, address)
    nothing_live_unasked(shelf)
    expect(shelf.get_by_text("The gate is open")).to_be_visible()

    shelf.goto(f"{address}?at=cold")
    jot(shelf, "A-core 3")
    assert not opened(shelf, address)

    shelf.goto(f"{address}?at=record")
    row = shelf.locator(".row", has_text="A–core 3")
    row.get_by_role("textbox").fill("slip of the hand")
    row.get_by_role("button", name="Strike").click()
    expect(shelf.get_by_text("struck: slip of the hand")).to_be_visible()
    assert not opened(shelf, address)
    expect(shelf.get_by_label("Next step")).to_contain_text("A")

    shelf.goto(f"{address}?at=cold")
    jot(shelf, "A-core 20M OL")
    assert opened(shelf, address)


@pytest.mark.parametrize(
    ("text", "volts"),
    [("not discharged, no resistor at hand", ""), ("shorted twice", "1800 V"), ("done", "")],
)
def test_k2_a_word_for_a_discharge_counts_for_what_it_says(shelf, text, volts):
    """Refused with what is missing, and nothing typed is lost; said whole, it opens."""
    address = shelf.put(oven(statements=[]))
    assert not opened(shelf, address)

    shelf.goto(f"{address}?at=salvage")
    form = shelf.locator("form", has=shelf.get_by_label("What was done, and what it measured"))
    if not form.is_visible():
        shelf.locator("summary", has_text="There is none here").click()
    form.get_by_label("What was done, and what it measured").fill(text)
    form.get_by_label("Volts read last").fill(volts)
    form.locator("[name=kind][value=salvage-done]").check()
    form.get_by_role("button", name="Keep this").click()
    expect(shelf.get_by_role("alert").first).to_contain_text("Not kept")
    expect(form.get_by_label("What was done, and what it measured")).to_have_value(text)
    assert not opened(shelf, address)

    shelf.goto(f"{address}?at=salvage")
    if not form.is_visible():
        shelf.locator("summary", has_text="There is none here").click()
    form.get_by_label("What was done, and what it measured").fill("shorted twice, short left on")
    form.get_by_label("Volts read last").fill("0.2 V")
    form.locator("[name=kind][value=salvage-done]").check()
    form.get_by_role("button", name="Keep this").click()
    expect(shelf.get_by_text("shorted twice, short left on").first).to_be_visible()
    assert opened(shelf, address)


def test_k3_a_worse_bond_of_a_later_day_counts_wherever_it_stands(shelf):
    """Good on one day, open on the next, entered before the good one."""
    worse = {"id": "b9", "kind": "resistance", "between": ["earth", "core"], "ohms": "open"}
    later = {**worse, "at": "2026-10-01T10:00:00+01:00"}
    document = oven()
    assert opened(shelf, shelf.put({**document, "tag": "K-3A"}))

    turned = {**document, "tag": "K-3B", "id": "", "readings": [later, *document["readings"]]}
    assert not opened(shelf, shelf.put(turned))
    expect(shelf.locator(".note-stop", has_text=CLOSED)).to_contain_text("earth")


def test_k5_twelve_volts_on_an_ovens_heater_is_no_sound_bench(shelf):
    """The volts that would stand elsewhere are told at their place."""
    source = {"kind": "source", "title": "bell block", "volts": "12", "amps": "2", "current": "AC"}
    stock(shelf, [source])
    whole = next(d for d in demo_documents() if d["tag"] == "CQ-017")
    address = shelf.put(whole)
    shelf.goto(f"{address}?at=low")
    jot(shelf, "core-earth dc 10A 0.42V")
    assert opened(shelf, address)
    nothing_live_unasked(shelf)
    shelf.get_by_label("The line goes on").fill("C-D")
    choose(shelf, "source", "bell block")
    shelf.get_by_role("button", name="Look at this bench").click()

    expect(shelf.get_by_text("Nothing wrong on it.")).to_have_count(0)
    expect(shelf.locator("main")).to_contain_text(re.compile("heater.*never", re.I | re.S))


def test_k6_a_heater_left_on_a_whole_oven_part_is_no_use_as_it_is(shelf):
    """Taken out was the heater, by the record; the kilovolts stand on the strip."""
    removed = {"id": "c1", "at": at(7), "what": "winding-removed", "note": "the heater"}
    supply = {"supply": {"volts": 230, "hertz": 50}}
    more = {"declared_family": "microwave", "statements": SHORTED, "changes": [removed], **supply}
    document = piece("ABCD", HEATER_LEFT, **more)
    address = shelf.put(document)
    shelf.goto(f"{address}?at=uses")

    assert "kilovolt" in strip(shelf).lower() or "HV" in strip(shelf)
    expect(shelf.get_by_text("as it is")).to_have_count(0)


def test_k8_an_output_of_mains_like_volts_is_no_safety_isolation(shelf):
    """232 V out of 230 V, without the mark: told on the strip, the gate shut."""
    like = [
        r if not (isinstance(r, tuple) and r[:2] == ("C", "D")) else ("C", "D", 32.0) for r in MAINS
    ]
    address = shelf.put(bell([*like, {**RATIO, "sensed_volts": 232.0}], nameplate=None))

    assert not opened(shelf, address)
    assert "isolat" in strip(shelf)
    shelf.goto(f"{address}?at=uses")
    expect(shelf.get_by_text("as it is")).to_have_count(0)


def test_k11_kilovolts_of_an_oven_across_wood_are_neither_solved_nor_printed(shelf):
    """The rig says why not, draws no figures; its sheet says the same; a lamp is solved."""
    address = shelf.put(oven())
    tag = address.split("/")[2]
    shelf.goto(f"/rigs/edit?piece={tag}&l.kind=resistor&l.ohms=9k&l.title=wood+burning")
    expect(shelf.locator("main")).to_contain_text("Never planned.")
    query = shelf.url.split("?")[1]
    shelf.goto(f"/rigs/sheet?{query}")
    expect(shelf.locator("main")).to_contain_text("Never planned.")
    expect(shelf.get_by_text("Wind-up")).to_have_count(0)

    shelf.goto("/rigs/edit")
    expect(shelf.get_by_text("Never planned.")).to_have_count(0)


def test_k14_a_harmless_reading_after_a_stop_softens_nothing(shelf):
    """A stop stays first, on the strip and on the page of dangers."""
    touch = {"id": "x1", "kind": "resistance", "between": ["A", "C"], "ohms": 2.0, "at": at(13)}
    document = bell()
    address = shelf.put({**document, "readings": [*document["readings"], touch]})
    shelf.goto(f"{address}?at=cold")
    assert strip(shelf).startswith("Stop")
    jot(shelf, "C-D 2.6")
    shelf.reload()

    assert strip(shelf).startswith("Stop")
    said = strip(shelf).splitlines()[0].removeprefix("Stop: Windings shorted. ").split(":")[0]
    shelf.goto(f"{address}dangers")
    first = shelf.get_by_role("heading", name="First of all").locator("xpath=following::details[1]")
    expect(first).to_contain_text(said)


def test_k17_from_a_piece_an_unknown_stays_empty_with_the_reading_that_fills_it(shelf):
    """No example passes for this piece's own sweep; its own plate and supply are known."""
    address = shelf.put(bell())
    shelf.goto(f"/plans/variac?piece={address.split('/')[2]}")

    for key in ("points", "brush_amps"):
        expect(shelf.locator(f"[name={key}]")).to_have_value("")
    expect(shelf.locator("[name=plate_volts]")).to_have_value("230")
    expect(shelf.locator("main")).to_contain_text("told by the variac's plate")
    expect(shelf.locator("main")).to_contain_text("told by amps and watts at each step")
    expect(shelf.get_by_text(re.compile("^Still needed"))).to_be_visible()


def test_k19_the_cut_is_done_cold_and_nothing_live_is_asked_before(shelf):
    """Salvage and cold screening are enough to throw the kilovolts away."""
    address = shelf.put(oven())
    shelf.goto(f"{address}rewind/sheet?use=weld-steel")
    rows = shelf.locator("table.one-page tbody tr").all_inner_texts()
    cut = next(n for n, words in enumerate(rows) if re.search(r"\bCut\b", words))
    live = next(n for n, words in enumerate(rows) if "behind the lamp" in words)

    assert cut < live
    assert "live" not in rows[cut]
    expect(shelf.locator("table.one-page")).to_contain_text("Nothing is plugged in")
