"""From the closed gate to *proved*, as a person does it: an oven, a sign, a mains and a variable
piece; a choke to *screened* with the reason why it never takes the mains alone; one of another kind
to its stop. What the pieces answer comes from the forward model and a simulated bench.
"""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from greyfell.core.dangers.own import hazards
from greyfell.core.judgement.gates import live_gate
from greyfell.core.simulated import designs
from greyfell.core.simulated.designs import EUROPE, DesignedOutput
from tests.browser.test_walks import (
    MOST_STEPS,
    Hands,
    Pointer,
    begin,
    follow,
    known,
    stock,
    through_the_gate,
    walked,
)

pytestmark = pytest.mark.browser
__all__ = ["walked"]
STORES = (
    {"kind": "meter", "title": "green meter", "max_volts_ac": "600", "most_ohms": "60M"},
    {"kind": "source", "title": "bell block", "volts": "24", "amps": "1", "current": "AC"},
    {"kind": "bench-supply", "title": "old supply", "volts": "30", "amps": "10"},
    {"kind": "residual-current-device", "title": "board", "trip_amps": "30m", "type": "A"},
    {"kind": "fuse", "title": "small fuse", "amps": "2"},
    {"kind": "fuse", "title": "large fuse", "amps": "10"},
    {"kind": "switch", "title": "foot switch", "amps": "16", "volts": "250", "poles": "2"},
    {"kind": "lamp", "title": "floodlight", "watts": "500", "volts": "240"},
    {"kind": "lamp", "title": "work lamp", "watts": "100", "volts": "240"},
    {"kind": "variac", "title": "dial", "brush_amps": "8", "line_volts": "230"},
    {"kind": "wattmeter", "title": "plug-in", "most_watts": "3600", "amps": "16", "volts": "250"},
)


class Live(Hands):
    """The same hands under power: lamps, amps and watts at no load, volts on the line."""

    def answer(self, begun):
        """The rest of a line: what the bench shows."""
        pair = tuple(re.search(r"(\w+)-(\w+)", begun).groups()) if "-" in begun else ()
        lamp = re.search(r" lamp ([\d.]+)W", begun)
        if lamp:
            return self.bench.lamp(*pair, 230.0, float(lamp.group(1)), 50.0)["glow"]
        idle = re.fullmatch(r"\w+-\w+ ([\d.]+)V ", begun)
        if idle:
            read = self.bench.no_load(pair, float(idle.group(1)), 50.0)
            return f"{read['amps']:.4g}A {read['watts']:.4g}W"
        return super().answer(begun)


def plate(tab, tag, **told):
    """What the plate says, typed where it is touched."""
    for name, value in told.items():
        tab.goto(f"/pieces/{tag}/?at=clues&touch=plate_{name}")
        tab.locator(f"[name=plate_{name}]").fill(value)
        tab.get_by_role("button", name="Keep what is seen").click()
        tab.wait_for_url(re.compile("touched$"))


def discharged(tab, hand, tag):
    """Out of a chassis with capacitors: each emptied and measured before, said so."""
    tab.goto(f"/pieces/{tag}/?at=salvage")
    tab.get_by_label("What was done, and what it measured").fill("unplugged, all read 0.3 V")
    tab.locator("[name=kind][value=salvage-done]").check()
    hand.press(tab.get_by_role("button", name="Keep this"))
    expect(tab.get_by_text("all read 0.3 V")).to_be_visible()


def called(tab, tag, family):
    """What its owner takes it for."""
    tab.goto(f"/pieces/{tag}/?at=clues&touch=piece")
    chip = tab.locator(f"[name=declared_family][value={family}]")
    chip.click()
    expect(tab.locator("[name=declared_family][aria-pressed=true]")).to_be_visible()


def choose(tab, place, title):
    """Something of the stores, chosen by its name for its place on the bench."""
    box = tab.locator(f"[name={place}]")
    value = box.locator("option", has_text=title).first.get_attribute("value")
    box.select_option(value)


def set_the_bench_up(tab, *, fuse="large fuse"):
    """From the wall to the piece, with the plug out."""
    expect(tab.get_by_text("Not set up yet.")).to_be_visible()
    tab.get_by_label("The plug").select_option("proved")
    choose(tab, "rcd", "board")
    choose(tab, "guard", fuse)
    choose(tab, "switch", "foot switch")
    choose(tab, "limiter", "floodlight")
    tab.get_by_label("The limiter stands").select_option("line")
    tab.get_by_label("switch in reach of one hand").check()
    tab.get_by_label("the socket has an earth").check()
    tab.get_by_label("core wired to earth").check()
    tab.get_by_label("hands off: nobody reaches for it").check()
    for box in tab.get_by_label(re.compile("covered, apart, fixed")).all():
        box.check()
    tab.get_by_role("button", name="Look at this bench").click()
    expect(tab.get_by_text("Nothing wrong on it.")).to_be_visible()


def nothing_live_unasked(tab):
    """Before a first live step, once a session: who is there, who switches off."""
    screen = tab.get_by_label("Before anything is live")
    for box in screen.get_by_role("checkbox").all():
        expect(box).not_to_be_checked()
        box.check()
    screen.get_by_label("Who else is here?").fill("a neighbour, who knows the switch")
    screen.get_by_label("Who can switch off, and where?").fill("the neighbour, at the door")
    screen.get_by_role("button", name="It is so: show the step").click()
    expect(screen).to_have_count(0)


def power(tab, hand, hands, tag, *, fuse):
    """Every step that is handed over, with the line on it, until the piece is proved."""
    for _ in range(MOST_STEPS):
        tab.goto(f"/pieces/{tag}/")
        if tab.get_by_label("Before anything is live").count():
            nothing_live_unasked(tab)
            continue
        card = tab.get_by_label("Next step")
        title = card.inner_text()
        if "Proved" in title:
            return
        there = card.get_by_role("link", name=re.compile("^at (first power|sweep|low energy)$"))
        if there.count():
            hand.press(there)
        if tab.get_by_label("Before anything is live").count():
            nothing_live_unasked(tab)
            continue
        if "Set the bench up" in title:
            set_the_bench_up(tab, fuse=fuse)
            continue
        enter = card.get_by_role("button", name="Enter reading")
        if not enter.count():
            raise AssertionError((title, live_gate(known(tab, tag)).reasons))
        hand.press(enter)
        hand.store(hands.answer(tab.locator("#jot-line").input_value()))
        expect(tab.locator(".waiting li")).to_have_count(0)
        expect(tab.locator("#jot-line")).to_have_value("")
    raise AssertionError("the steps do not end")


def walk(tab, made, tag, *, donor, seed, told, fuse="large fuse", family=""):
    """Donor, gate, clues, cold, low energy, bench, lamp, no load; the piece at the end."""
    hand, hands = Pointer(tab), Live(made, seed)
    leads = dict.fromkeys(x for w in made.windings for x, _ in w.leads if x != "core")
    stock(tab, STORES)
    begin(tab, hand, donor, tag, " ".join(leads))
    if donor == "oven":
        through_the_gate(tab, hand)
    else:
        discharged(tab, hand, tag)
    plate(tab, tag, **told)
    if family:
        called(tab, tag, family)
    tab.goto(f"/pieces/{tag}/")
    follow(tab, hand, hands)
    power(tab, hand, hands, tag, fuse=fuse)
    return known(tab, tag)


PLATE = {"primary_volts": "230", "hertz": "50"}


def test_an_oven_piece_from_the_closed_gate_to_proved(walked):
    """Its bond read, its ratio at a few volts first, its bench sound, then from the primary's side:
    amps and watts at no load.
    """
    made = designs.oven(np.random.default_rng(7))
    ident = walk(walked, made, "L-1", donor="oven", seed=7, told=PLATE)
    kinds = [r.kind for r in ident.record.standing]

    assert ident.verdict == "proved"
    assert "lamp" in kinds
    assert any(r.kind == "no_load" and r.watts for r in ident.record.standing)
    assert ident.record.setup["earth"] == ["core"]


@pytest.mark.journey
def test_a_sign_piece_from_the_closed_gate_to_proved(walked):
    """Kilovolts to the case: never touched, proved by its primary alone."""
    made = designs.sign(np.random.default_rng(9))
    told = {**PLATE, "secondary_volts": "8000", "secondary_amps": "25m"}
    ident = walk(walked, made, "L-2", donor="sign", seed=9, told=told)

    assert (ident.family, ident.verdict) == ("sign", "proved")


def test_a_mains_piece_from_the_closed_gate_to_proved(walked):
    """Its outputs read on the line, each within its band."""
    outputs = [DesignedOutput("lv-secondary", 24.0, 4.0)]
    made = designs.mains(np.random.default_rng(4), EUROPE, 100.0, outputs)
    ident = walk(
        walked,
        made,
        "L-3",
        donor="cabinet",
        seed=4,
        told={**PLATE, "secondary_volts": "24", "va": "100"},
        fuse="small fuse",
    )
    on_line = [r for r in ident.record.standing if r.kind == "ratio" and r.driven_volts > 200]

    assert (ident.family, ident.verdict) == ("mains", "proved")
    assert on_line


@pytest.mark.journey
def test_a_variable_piece_from_the_closed_gate_to_proved(walked):
    """One winding: no isolation, said all the way."""
    made = designs.variable(np.random.default_rng(3))
    ident = walk(
        walked,
        made,
        "L-4",
        donor="cabinet",
        seed=3,
        told=PLATE,
        fuse="small fuse",
        family="variable",
    )

    assert ident.verdict == "proved"
    assert any(h.code == "no-isolation" for h in hazards(ident))


def test_a_choke_is_screened_and_told_why_it_never_takes_the_mains_alone(walked):
    """The gate stays shut, with its sentence."""
    made = designs.choke(np.random.default_rng(2))
    leads = [x for w in made.windings for x, _ in w.leads if x != "core"]
    hand, hands = Pointer(walked), Live(made, 2)
    stock(walked, STORES)
    begin(walked, hand, "cabinet", "L-5", " ".join(leads))
    called(walked, "L-5", "choke")
    discharged(walked, hand, "L-5")
    walked.goto("/pieces/L-5/")
    follow(walked, hand, hands)
    walked.goto("/pieces/L-5/?at=power")

    assert known(walked, "L-5").verdict == "screened"
    expect(walked.get_by_text("a choke is no load for the mains by itself")).to_be_visible()
    expect(walked.get_by_role("button", name="Look at this bench")).to_have_count(0)


def test_a_current_transformer_comes_to_its_stop(walked):
    """Named by its plate: nothing of it is fed, at any station."""
    hand = Pointer(walked)
    begin(walked, hand, "cabinet", "L-6", "A B C D")
    plate(walked, "L-6", text="current transformer 200/5 A")
    walked.goto("/pieces/L-6/?at=power")
    expect(walked.get_by_text(re.compile("never goes on the mains")).first).to_be_visible()
    walked.goto("/pieces/L-6/?at=sweep")
    expect(walked.get_by_text("Nothing is wound up before this is settled")).to_be_visible()
    expect(walked.get_by_text("Wind up in steps")).to_have_count(0)
