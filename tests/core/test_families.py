"""A family is one declaration: what one that only this test knows is called, believed, drawn, told
and barred from, end to end; the published list stays as it is.
"""

import pytest

from greyfell.core.dangers.listing import dangers, strip
from greyfell.core.dangers.of_handling import handling, of_donor
from greyfell.core.dangers.scene import Scene
from greyfell.core.evidence.family_names import FAMILIES
from greyfell.core.evidence.parse import parse_record
from greyfell.core.families import giving, mains, registry
from greyfell.core.families.row import (
    PRIMARY,
    PRIMARY_STRAND,
    Bars,
    Family,
    PieceKind,
    RoleRow,
    SaidWord,
    Strand,
)
from greyfell.core.identify import answer, identify
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.summary import summarise
from greyfell.core.telling.lead_bundle import bundle_of
from greyfell.core.telling.under_power import theirs_alone
from greyfell.core.telling.why import why
from greyfell.core.telling.words import family_name, family_word
from greyfell.core.uses.core_to_wind import barred
from greyfell.records.repository import Repository
from greyfell.web.drawings.iron import iron
from tests.conftest import every, piece
from tests.core.test_hazards import BELL

SUPPLY = {"volts": 230, "hertz": 50}
BRAKE_KIND = PieceKind(
    key="brake feeder",
    words="a lift brake's feeder",
    share=1.0,
    assign=giving.of_few,
    said_by=(SaidWord(r"lift brake"),),
    named_nats=4.0,
    roles={
        "primary": PRIMARY,
        "lv-secondary": RoleRow(volts=(26.0, 0.4), copper=(1.2, 0.4), ohms=(0.0, 60.0)),
    },
)
BRAKE = Family(
    key="brake",
    word="brake feeder",
    name="lift brake feeder",
    choice="out of a lift",
    told="a lift brake's feeder",
    prior=0.05,
    model=mains.ROW.model,
    kinds=(BRAKE_KIND,),
    look=mains.ROW.look,
    does=mains.ROW.does,
    bars=Bars(
        bench="A lift brake's feeder feeds no bench.",
        wound="A lift brake's feeder stays what it is.",
    ),
    leads=(PRIMARY_STRAND, Strand(words="brake coil", roles=("lv-secondary",), count=2)),
    more_leads="a tap for another brake",
    handling=("by-the-case",),
    donors=("lift",),
    theirs="anything in a lift",
    primary_words="brake ",
    stores=True,
    for_mains=True,
)


def plated():
    """A bell part's readings under a plate that speaks of a lift's brake."""
    plate = {"text": "Lift brake transformer", "primary_volts": 230.0}
    return piece("ABCD", BELL, nameplate=plate, title="Lift brake", supply=SUPPLY)


@pytest.fixture
def known():
    """The same, with the family registered for as long as the test runs."""
    registry.EVERY.append(BRAKE)
    yield identify(parse_record(plated()))
    registry.EVERY.remove(BRAKE)


def test_a_family_that_is_registered_is_named(known):
    """Likeliest, with a chance among chances that add up; told in words."""
    assert known.family == "brake"
    assert sum(known.families.values()) == pytest.approx(1.0)
    assert family_word(known.family) == "brake feeder"
    assert family_name(known.family) == "lift brake feeder"
    assert known.belief.best.subtype == BRAKE_KIND.key
    assert {w.role for w in known.windings} == {"primary", "lv-secondary"}
    assert answer(known)["families"]["brake"] == pytest.approx(known.sure, abs=1e-6)


def test_it_is_drawn_and_its_bundle_met(known):
    """The iron with every lead, the strands filled."""
    drawn = iron(known)
    bundle = bundle_of(known)

    assert every(lead in drawn.desc for lead in "ABCD")
    assert "primary A–B" in drawn.desc
    assert bundle.family == "brake"
    assert [s.words for s in bundle.strands] == ["primary", "brake coil"]
    assert every(len(s.leads) == 2 for s in bundle.strands)


def test_it_is_explained_by_what_speaks_for_it(known):
    """The words of its plate, on the page of why; a summary and a next step besides."""
    told = why(known, ["family"])

    assert "words of plate or title" in str(told.evidence)
    assert summarise(known, next_steps(known)).family == "brake"


def test_its_dangers_and_bars_are_told(known):
    """What stores a charge stops first; handling, licensed hands and what it is never used for."""
    assert strip(known)[0].code == "capacitor-first"
    assert "by-the-case" in {d.code for d in dangers(Scene(ident=known))}
    assert [h.code for h in handling(known)] == ["by-the-case"]
    assert [h.code for h in of_donor("lift")] == ["by-the-case"]
    assert "anything in a lift" in theirs_alone(known)
    assert barred(known) == "A lift brake's feeder stays what it is."
    assert registry.bars_of("brake").bench.startswith("A lift brake")


def test_its_page_answers_with_its_name(known, client):
    """Strip, iron and name, as of any piece."""
    repository = Repository(client.app.extensions["store"])
    repository.add(plated())
    page = client.get("/pieces/T-1/").get_data(as_text=True)

    assert "lift brake feeder" in page
    assert "First the capacitor" in page


def test_without_it_nothing_of_it_is_left():
    """The published list of families stays; the registry knows no more than these."""
    ident = identify(parse_record(plated()))

    assert set(ident.families) == set(FAMILIES)
    assert registry.names() == FAMILIES
    assert ident.family != "brake"


@pytest.mark.parametrize(
    ("trait", "families"),
    [
        ("high", {"microwave", "sign"}),
        ("shunted", {"microwave", "sign"}),
        ("stores", {"microwave"}),
        ("magnetron", {"microwave"}),
        ("old_oil", {"sign"}),
        ("ground_fault_unit", {"sign"}),
        ("heater_never_fed", {"microwave"}),
        ("exposed_never", {"microwave"}),
        ("isolates_nothing", {"variable"}),
        ("for_mains", {"microwave", "sign", "mains"}),
        ("rewound", {"microwave", "mains"}),
    ],
)
def test_every_trait_is_of_the_families_that_have_it(trait, families):
    """Facts of the trade, common practice: each trait opens or shuts something."""
    assert {key for key in FAMILIES if registry.has(key, trait)} == families
    assert not registry.has("unknown", trait)
    even = dict.fromkeys(FAMILIES, 1 / len(FAMILIES))
    assert registry.chance(even, trait) == pytest.approx(len(families) / len(FAMILIES))
