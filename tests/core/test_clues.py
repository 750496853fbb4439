"""Clues shift the odds and settle nothing: colours, places, ends, stripes, iron and the owner's
belief.
"""

import itertools
import math

import pytest

from greyfell.core.belief import clues
from greyfell.core.belief.clues import family_clues, winding_clues
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.record import Lead
from greyfell.core.families.registry import EVERY, models
from greyfell.core.identify import identify
from tests.conftest import OVEN, every, piece

MAINS = {"volts": 230, "hertz": 50}


def lead(name="A", **seen):
    return Lead.model_validate({"id": name, **seen})


LOOKS = [
    *((f"colour {role}", row) for role, row in clues.COLOUR.items()),
    *((f"{f.key} {n}", getattr(f.look, n)) for f in EVERY for n in ("shape", "shunts", "assembly")),
    *((f"{f.key} place {role}", row) for f in EVERY for role, row in f.look.place.items()),
    *((f"{f.key} end {role}", row) for f in EVERY for role, row in f.look.end.items()),
]
"""Every table of looks, by its name."""


@pytest.mark.parametrize(("name", "row"), LOOKS, ids=[name for name, _ in LOOKS])
def test_shares_of_a_table_do_not_exceed_the_whole(name, row):
    """Each row is a distribution, or the named part of one: what it leaves belongs to looks not
    named.
    """
    assert 0.2 < sum(row.values()) <= 1.005
    assert every(0 < share < 1 for share in row.values())


@pytest.mark.parametrize("family", EVERY, ids=lambda f: f.key)
def test_every_family_has_its_words_and_its_kinds(family):
    """Before looking it has a chance, and its kinds share it out."""
    assert 0 < family.prior < 1
    assert sum(kind.share for kind in family.kinds) == pytest.approx(1.0)
    assert every((family.word, family.name, family.choice, family.told))


def test_before_looking_the_chances_add_to_about_one():
    """They are shares of what is pulled out of old equipment; weights need no more."""
    assert sum(family.prior for family in EVERY) == pytest.approx(1.0, abs=0.02)


def test_red_leads_speak_for_the_hv_winding():
    """Red for HV and black for the mains side: the old valve-set code, still widely kept. Common
    practice.
    """
    red, black = (
        [lead(colour="red"), lead("B", colour="red")],
        [lead(colour="black"), lead("B", colour="black")],
    )
    assert winding_clues(red, "mains", "hv-secondary") > winding_clues(red, "mains", "primary")
    assert winding_clues(black, "mains", "primary") > winding_clues(black, "mains", "hv-secondary")


@pytest.mark.parametrize("written", ["red", "Red", "RED", "dark red", "red-ish", "faded-red"])
def test_a_colour_is_read_as_people_write_it(written):
    assert winding_clues([lead(colour=written)], "mains", "hv-secondary") == winding_clues(
        [lead(colour="red")], "mains", "hv-secondary"
    )


def test_two_leads_of_one_winding_are_not_two_witnesses():
    """Both ends share their colour by habit: the second adds a quarter of what the first said."""
    one = winding_clues([lead(colour="red")], "mains", "hv-secondary")
    both = winding_clues([lead(colour="red"), lead("B", colour="red")], "mains", "hv-secondary")
    assert both == pytest.approx(1.25 * one)


def test_what_was_not_looked_at_says_nothing():
    assert winding_clues([lead(), lead("B")], "microwave", "primary") == 0.0
    assert family_clues(parse_record(piece("AB", supply=MAINS)), "sign") == {}


def test_an_unknown_colour_speaks_for_no_role():
    """A colour outside every table moves no role against another by more than a hair."""
    odd = [
        winding_clues([lead(colour="chartreuse")], "mains", r)
        for r in ("primary", "hv-secondary", "filament", "lv-secondary")
    ]
    assert max(odd) - min(odd) < 0.01


def test_no_single_clue_can_overturn_odds_of_a_thousand():
    for name in ("shunts", "assembly"):
        looks = [getattr(family.look, name) for family in EVERY]
        for a, b in itertools.product(looks, repeat=2):
            for seen in a.keys() & b.keys():
                assert clues.TEMPER * abs(math.log(a[seen] / b[seen])) < math.log(1000)


@pytest.mark.parametrize(("belief", "likelier"), [("mains", False), ("microwave", True)])
def test_the_owners_belief_moves_but_does_not_decide(belief, likelier):
    """Told "it is a mains transformer" over an oven's ohms: the doubt grows, the answer stays."""
    plain = identify(parse_record(piece("ABCDE", OVEN, supply=MAINS)))
    told = identify(parse_record(piece("ABCDE", OVEN, supply=MAINS, declared_family=belief)))
    assert told.family == plain.family == "microwave"
    assert (told.families["microwave"] > plain.families["microwave"]) == likelier


@pytest.mark.parametrize(
    "colours",
    [
        ("red", "red", "black", "black"),
        ("green", "green", "red", "red"),
        ("blue", "brown", "blue", "brown"),
    ],
)
def test_misleading_colours_do_not_beat_the_ohms(colours):
    """The primary's leads in the HV colour and so on: the winding bonded to the core at 96 Ω stays
    the HV winding.
    """
    leads = [{"id": x, "colour": c} for x, c in zip("ABCD", colours, strict=True)] + [{"id": "E"}]
    ident = identify(parse_record(piece(leads, OVEN, supply=MAINS)))
    roles = {w.coil.leads[0]: w.role for w in ident.windings}
    assert ident.family == "microwave"
    assert roles["E"] == "hv-secondary"
    assert roles["A"] == "primary"


@pytest.mark.parametrize("subtype", ["oven", "sign", "valve", "lv", "dual"])
@pytest.mark.parametrize("volts", [120.0, 230.0])
def test_expectations_of_a_piece_are_sane(subtype, volts):
    """Bonds are distributions, coupling loses and never gains, volts and copper are positive."""
    for role, model in models(subtype, volts, 2).items():
        assert sum(model.bonds.values()) == pytest.approx(1.0), role
        assert -0.12 < model.coupling[0] <= 0.0
        assert model.volts.median > 0
        assert model.copper.median > 0
        assert 0 <= model.ohms[0] < model.ohms[1]
        if role == "primary":
            assert model.volts.median == volts
