"""What looking gives before the first ohm: the bundle a family has, pairs by twist and colour, the
words of a plate, how a fact moves the odds.
"""

import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.plate_words import WORDS, explain
from greyfell.core.identify import identify
from greyfell.core.telling.last_fact import moved
from greyfell.core.telling.lead_bundle import bundle_of, proposals
from tests.conftest import MAINS, OVEN, piece


def bundle(leads, readings=(), **more):
    """The bundle expected of a piece made by hand."""
    return bundle_of(identify(parse_record(piece(leads, readings, **more))))


def filled(found):
    """Strands by their words, with the leads that fill them."""
    return {s.words: s.leads for s in found.strands}


def test_an_oven_has_five_leads_and_readings_fill_them():
    """2 + 2 + 1, the other end on the iron."""
    empty = bundle("ABCDE", declared_family="microwave")
    read = bundle("ABCDE", OVEN, declared_family="microwave")

    assert sum(s.count for s in empty.strands) == 5
    assert not any(s.leads for s in empty.strands)
    assert list(filled(read).values()) == [("A", "B"), ("C", "D"), ("E",)]
    assert read.said == ()


def test_a_missing_heater_and_an_extra_lead_are_named_with_what_they_mean():
    """Cut away; a link or a tap."""
    cut = [r for r in OVEN if not isinstance(r, tuple) or not {"C", "D"} & set(r[:2])]
    less = bundle("ABE", cut, declared_family="microwave")
    more = bundle("ABCDEF", OVEN, declared_family="microwave")

    assert any("no heater winding: cut away" in s for s in less.said)
    assert less.missing == ("heater of the magnetron", "heater of the magnetron")
    assert more.missing == ()
    assert any(s.startswith("F: more than an oven has") for s in more.said)


def test_a_mains_part_of_many_leads_is_met_with_the_valve_bundle():
    """2 + 3 + 3 + 2 and a bias tap: eleven leads, from eight up; fewer are met with a primary."""
    many = bundle("ABCDEFGHIJK", declared_family="mains")
    eight, seven = (bundle("ABCDEFGH"[:n], declared_family="mains") for n in (8, 7))

    assert many.family == eight.family == "valve"
    assert seven.family == "mains"
    assert sum(s.count for s in many.strands) == 11
    assert any("room for" in words for words in many.said)


def test_no_bundle_is_drawn_of_nothing():
    """Neither said nor read."""
    assert bundle("ABCD") is None
    assert bundle("ABCD", MAINS).family == "mains"


def lead(name, **more):
    """A lead that can be seen."""
    return {"id": name, **more}


def test_twist_and_colour_propose_pairs_before_the_first_ohm():
    """Twisted first; two of a colour; two plain with a striped middle; three plain say nothing."""
    seen = parse_record(
        piece(
            [
                lead("A", colour="black", twisted_with="B"),
                lead("B", colour="white"),
                lead("C", colour="red"),
                lead("D", colour="red"),
                lead("E", colour="red", stripe="yellow"),
                lead("F", colour="green"),
                lead("G", colour="green"),
                lead("H", colour="blue"),
                lead("I", colour="blue"),
                lead("J", colour="blue"),
            ]
        )
    )
    told = [(p.leads, p.why) for p in proposals(seen, set())]

    assert told == [
        (("A", "B"), "twisted"),
        (("C", "D", "E"), "one colour, E its middle"),
        (("F", "G"), "one colour"),
    ]
    assert [p.leads for p in proposals(seen, {"F", "A"})] == [("C", "D", "E")]


@pytest.mark.parametrize(
    ("text", "meaning"),
    [
        ("PRI 230 V", "what is fed"),
        ("SEC 12 V", "what it gives"),
        ("U0 26 V", "open volts"),
        ("50 mA", "milliamps of the secondary"),
        ("HPF", "a capacitor is inside"),
        ("ta 40", "hottest air"),
        ("cl. B", "insulation class"),
        ("uk 4 %", "short-circuit volts"),
        ("EN 61558-2-6", "safety isolating"),
        ("Spartrafo", "no isolation"),
        ("12-0-12 V", "two halves about a middle"),
        ("sortie 24 V", "French"),
        ("Eingang 230 V", "German"),
    ],
)
def test_plate_words_are_explained_as_read(text, meaning):
    """Each mark by its meaning; other words say nothing."""
    assert any(meaning in told for _, told in explain(text).told)
    assert explain("made with care").told == ()
    assert len({word.meaning for word in WORDS}) == len(WORDS)


@pytest.mark.parametrize(
    ("text", "asked"),
    [
        ("PRI 230 V 50/60 Hz SEC 24", ("24",)),
        ("230/115V 50Hz 100VA 1987", ()),
        ("7500 30 mA", ("7500",)),
        ("IP 20 ta 40 S1", ()),
        ("12V 3A", ()),
    ],
)
def test_a_figure_without_its_unit_is_asked_for(text, asked):
    """Neither of a mark's own figure nor of a year."""
    assert explain(text).asked == asked


def test_the_last_correction_is_told_by_its_odds_before_and_after():
    """Taken back and held beside the belief now; nothing where nothing was corrected."""
    document = piece("ABCDE", core={"shunts": "present"})
    edit = {"at": "2026-05-02T10:00:00+01:00", "path": "core", "from": None, "to": document["core"]}
    told = {m.family: m for m in moved({**document, "edits": [edit]})}

    assert told["microwave"].after > told["microwave"].before
    assert told["mains"].after < told["mains"].before
    assert moved(document) == []
    assert moved({**document, "edits": [{**edit, "path": "leads", "from": 3}]}) == []
