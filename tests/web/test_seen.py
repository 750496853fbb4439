"""Clues by touch: no form to fill in; every clue set on the drawing or by its keyboard twin; how it
moved the odds shown at once.
"""

import re

import pytest

from greyfell.records.repository import Repository
from greyfell.web.clue_form import BOXES, CHOICES, LEAD_TITLES, outputs
from tests.conftest import squeezed

TOUCHES = [
    "",
    "A",
    "A-B",
    "core",
    "core_tongue_mm",
    "core_mass_kg",
    "plate_hertz",
    "plate_outputs",
    "plate_text",
    "plate_midpoint_earthed",
    "piece",
    "supply_breaker_amps",
    "nonsense",
]


def stored(client):
    """The document as it is kept."""
    return Repository(client.app.extensions["store"]).document("T-1")


def page(client, touch=""):
    """The station with one thing touched."""
    return client.get(f"/pieces/T-1/?at=clues&touch={touch}").get_data(as_text=True)


def version(client):
    """The version a form is made from."""
    return re.search(r'name="version" value="(\d+)"', page(client, "piece")).group(1)


def touch(client, **fields):
    """One chip touched, or one box kept."""
    return client.post("/pieces/T-1/clues", {"version": version(client), **fields})


@pytest.mark.parametrize("where", TOUCHES)
def test_no_page_of_the_station_holds_more_than_three_text_boxes(bench, where):
    """The jotter's line and at most two."""
    words = page(bench, where)
    boxes = re.findall(r"<input(?![^>]*type=\"(?:hidden|radio|file)\")[^>]*>|<textarea", words)

    assert 1 <= len(boxes) <= 3


@pytest.mark.parametrize("key", LEAD_TITLES)
def test_every_word_of_a_lead_is_set_by_touch_and_taken_away_by_touch(bench, key):
    """Touched it stands in the record; touched again it is gone."""
    value = CHOICES[key][1]
    touch(bench, **{f"lead_A_{key}": value})
    assert stored(bench)["leads"][0][key] == value

    assert f'value="" aria-pressed="true">{value}' in squeezed(page(bench, "A"))
    touch(bench, **{f"lead_A_{key}": ""})
    assert not stored(bench)["leads"][0].get(key)


@pytest.mark.parametrize(
    ("name", "typed", "path", "value"),
    [
        ("core_tongue_mm", "1 1/2 in", ("core", "tongue_mm"), 38.1),
        ("core_stack_mm", '2"', ("core", "stack_mm"), 50.8),
        ("core_mass_kg", "4,6", ("core", "mass_kg"), 4.6),
        ("core_slide_mm", "30", ("core", "slide_mm"), 30.0),
        ("core_shape", "toroid", ("core", "shape"), "toroid"),
        ("core_damage", "rusted", ("core", "damage"), "rusted"),
        ("core_potted", "yes", ("core", "potted"), True),
        ("plate_secondary_amps", "50mA", ("nameplate", "secondary_amps"), 0.05),
        ("plate_text", "PRI 230V", ("nameplate", "text"), "PRI 230V"),
        ("supply_breaker_amps", "10", ("supply", "breaker_amps"), 10.0),
    ],
)
def test_every_fact_of_iron_plate_and_supply_is_set_from_its_place(bench, name, typed, path, value):
    """mm or inch, prefixes, choices; nothing else of that part is lost."""
    touch(bench, core_shunts="present", plate_hertz="50")
    touch(bench, **{name: typed})
    document = stored(bench)

    assert document[path[0]][path[1]] == pytest.approx(value) if value != typed else typed
    assert document["core"]["shunts"] == "present"
    assert document["nameplate"]["hertz"] == 50.0


@pytest.mark.parametrize(
    ("typed", "mm"), [("1.2", 1.2), ("18 AWG", 1.024), ("AWG 12", 2.053), ("1.5mm2", 1.382)]
)
def test_wire_is_typed_by_diameter_gauge_or_section(bench, typed, mm):
    """ASTM B258 for the gauge: 18 AWG is 1.024 mm, 12 AWG 2.053 mm; A = π·d²/4 for the section."""
    touch(bench, lead_A_wire_mm=typed)

    assert stored(bench)["leads"][0]["wire_mm"] == pytest.approx(mm, rel=1e-3)


def test_two_leads_touched_are_said_to_be_twisted_or_one_the_thicker(bench):
    """By the pair's own answers."""
    assert "is twisted with" in page(bench, "A-B")
    touch(bench, lead_A_twisted_with="B")
    touch(bench, lead_C_thicker_than="A")
    leads = {lead["id"]: lead for lead in stored(bench)["leads"]}

    assert leads["A"]["twisted_with"] == "B"
    assert leads["C"]["thicker_than"] == "A"


def test_a_lead_that_is_not_there_is_taken_away_and_one_that_was_read_is_not(bench):
    """Readings name it: strike them out first."""
    touch(bench, more_leads="Q R")
    refused = touch(bench, drop_lead="A")
    touch(bench, drop_lead="Q")

    assert refused.status_code == 422
    assert "stands in a reading" in refused.get_data(as_text=True)
    assert [x["id"] for x in stored(bench)["leads"]][-1] == "R"
    assert "A" in [x["id"] for x in stored(bench)["leads"]]


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"core_tongue_mm": "wide"}, "Tongue"),
        ({"plate_outputs": "24V 6A 3W"}, "volts and amps"),
        ({"plate_outputs": "24A 6"}, "Output"),
        ({"lead_A_wire_mm": "-1"}, "above 0"),
        ({"more_leads": "A-B"}, "letters"),
        ({"drop_lead": "B"}, "strike that out first"),
    ],
)
def test_a_wrong_figure_is_refused_by_a_sentence_and_loses_nothing(bench, fields, says):
    """The box opens again with what was typed."""
    before = stored(bench)
    answer = touch(bench, **fields)
    words = answer.get_data(as_text=True)

    assert (answer.status_code, stored(bench)) == (422, before)
    assert says in words


def test_outputs_of_a_plate_are_volts_and_amps():
    """In any number, decimal comma too."""
    assert outputs("24V 6A; 12,5V") == [{"volts": 24.0, "amps": 6.0}, {"volts": 12.5}]
    assert outputs(" ") == []


def test_every_box_of_the_table_can_be_reached_by_touch(bench):
    """A link of a drawing or a chip of a panel leads to each."""
    places = ("", "core", "piece", "plate_midpoint_earthed")
    reached = "".join(page(bench, where) for where in places)
    touch(bench, core_shape="toroid")
    reached += page(bench)

    for name, box in BOXES.items():
        assert f"touch={name}" in reached or f'name="{name}"' in reached, box.words


def test_a_fact_shows_at_once_how_it_moved_the_odds(client):
    """Bars before and after, and the warning that colour is never trusted alone."""
    client.post("/pieces", {"tag": "T-1", "leads": "A B C D E"})
    touch(client, core_assembly="welded", core_shunts="present")
    words = page(client)

    assert "What the last fact did" in words
    assert "never trusted alone" in words
    assert re.search(r"\d+ % → (over )?\d+ %", words)


def test_a_plate_is_explained_and_a_bare_figure_asked_for(bench):
    """On the station, from what was typed."""
    touch(bench, plate_text="PRI 230 V SEC 24 HPF")
    words = page(bench)

    assert "a capacitor is inside" in words
    assert "Which unit has 24?" in words
