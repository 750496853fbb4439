"""Donors on their pages: kept, corrected, a piece and parts out of one, in archive and back."""

import html
import re
from dataclasses import fields

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.stores import BY_KEY as STORES_KINDS
from greyfell.core.planners.registry import PLANNERS
from greyfell.records.archive import packed, unpacked
from greyfell.records.donors import Donors
from greyfell.records.repository import Repository
from greyfell.records.store import Store
from greyfell.records.stores import Stores
from tests.conftest import squeezed

OVEN = {
    "kind": "oven",
    "title": "Tea kiosk oven",
    "source": "kiosk 3",
    "price": "nothing",
    "mass_kg": "13.5",
    "volts": "230",
    "hertz": "50",
    "line_fuse_amps": "10",
}


def kept(client):
    """The donors of a client's folder."""
    return Donors(client.app.extensions["store"]).all()


def test_a_donor_is_kept_and_its_card_says_what_to_do(client):
    """Class before the case is open, cards in order, cautions of its kind."""
    answer = client.post("/donors", OVEN, follow_redirects=True).get_data(as_text=True)

    assert "Tea kiosk oven" in answer
    assert "line fuse 10 A × 230 V" in answer
    assert "more likely iron" in answer
    assert "beryllia" in answer
    assert answer.index("Plug out") < answer.index("Label both sides")


@pytest.mark.parametrize(
    ("wrong", "field", "says"),
    [
        ({"kind": ""}, "kind", "Say what it is"),
        ({"mass_kg": "heavy"}, "mass_kg", "Mass of the whole"),
        ({"mass_kg": "-1"}, "mass_kg", "above 0"),
        ({"volts": "5 A"}, "volts", "Mains on its plate"),
    ],
)
def test_a_wrong_box_is_refused_with_what_was_typed_and_nothing_is_stored(
    client, wrong, field, says
):
    """A sentence; every other box still holds what was typed."""
    answer = client.post("/donors", OVEN | wrong)
    words = answer.get_data(as_text=True)

    assert answer.status_code == 422
    assert says in words
    assert "Tea kiosk oven" in words
    assert kept(client) == []


def test_sent_twice_it_is_stored_once_and_corrected_in_place(client):
    """By the form's key."""
    client.post("/donors", OVEN | {"once": "k1"})
    client.post("/donors", OVEN | {"once": "k1"})
    donor = kept(client)[0]
    client.post(f"/donors/{donor.id}", OVEN | {"title": "Second oven", "inverter": "no"})

    assert [d.title for d in kept(client)] == ["Second oven"]
    assert kept(client)[0].inverter is False
    assert client.get("/donors/nowhere").status_code == 404


def test_one_donor_gives_pieces_and_parts(client):
    """A piece begun from it carries it; parts put in name it; both stand on its page."""
    client.post("/donors", OVEN)
    donor = kept(client)[0]
    begun = client.get(f"/pieces/new?donor={donor.id}").get_data(as_text=True)
    client.post("/pieces", {"tag": "CQ-9", "leads": "A B C D E", "donor": donor.id})
    client.post("/stores", {"kind": "fuse", "title": "HV fuse", "amps": "0.75", "donor": donor.id})
    page = client.get(f"/donors/{donor.id}").get_data(as_text=True)
    document = Repository(client.app.extensions["store"]).document("CQ-9")

    assert 'value="Tea kiosk oven"' in begun
    assert document["donor"]["line_fuse_amps"] == 10.0
    assert "CQ-9" in page
    assert "HV fuse" in page
    assert "from Tea kiosk oven" in squeezed(client.get("/stores").get_data(as_text=True))


def test_donors_travel_with_the_archive(client, tmp_path):
    """Out of one folder into another, once."""
    client.post("/donors", OVEN)
    data = packed(Repository(client.app.extensions["store"]))
    other = Store(tmp_path / "other")
    told = [list(unpacked(Repository(other), data)) for _ in range(2)]

    assert [d.title for d in Donors(other).all()] == ["Tea kiosk oven"]
    assert [one[0].outcome for one in told] == ["added", "same"]
    assert Stores(other).items() == []
    other.close()


@pytest.mark.parametrize("document", [{"donors": 3}, {"donors": [3]}, {"donors": [{"kind": "x"}]}])
def test_a_spoilt_list_of_donors_stores_nothing(client, document):
    """All or nothing."""
    with pytest.raises(FieldError):
        Donors(client.app.extensions["store"]).bring_in({"format": "greyfell.donors/1", **document})
    assert kept(client) == []


def test_a_part_is_judged_on_its_page(client):
    """The verdict beside the test; a figure that is none is refused."""
    sound = client.get("/donors/tests?test=diode-forward&value=7.1V").get_data(as_text=True)
    refused = client.get("/donors/tests?test=diode-forward&value=x")

    assert "as a sound one reads" in sound
    assert refused.status_code == 422


def test_the_stick_is_a_list_to_buy_until_the_stores_hold_resistors(client):
    """Then it is built from them."""
    bought = client.get("/stores/stick").get_data(as_text=True)
    entry = {"kind": "resistor", "title": "brown", "ohms": "22k", "working_volts": "1000"}
    client.post("/stores", entry | {"watts": "5", "count": "9"})
    built = client.get("/stores/stick").get_data(as_text=True)

    assert "To buy" in bought
    assert "From the stores: brown" in built


def test_a_label_is_explained_at_salvage(bench):
    """Each word, every way to read it; a figure without its unit is asked for."""
    told = bench.get("/pieces/T-1/?at=salvage&label=0.95uF+2100WV").get_data(as_text=True)
    asked = bench.get("/pieces/T-1/?at=salvage&label=0.95").get_data(as_text=True)

    assert "working volts, not watts" in told
    assert told.count("it would hold") == 2
    assert "Type its capacitance with the unit" in asked


def test_a_planner_draws_on_what_the_stores_hold(client):
    """Told in a few words; touched, an entry fills its boxes and leaves the others; one that is
    used up is not offered.
    """
    plain = client.get("/plans/discharge").get_data(as_text=True)
    entry = {"kind": "resistor", "ohms": "10k", "working_volts": "500", "watts": "3"}
    client.post("/stores", {**entry, "title": "brown ones", "count": "12"})
    client.post("/stores", {**entry, "title": "none left", "count": "0"})
    asked = "/plans/discharge?sent=yes&capacitance_farads=1u&volts_peak=3000&rated_volts_ac="
    page = client.get(asked).get_data(as_text=True)
    address = html.unescape(re.search(r'class="chip" href="([^"]+)">brown ones', page).group(1))
    filled = client.get(address).get_data(as_text=True)

    assert "Stores hold" not in plain
    assert "resistors: 10 kΩ" in page
    assert "none left" not in page
    assert 'name="resistor_ohms" id="field-resistor_ohms" value="10000"' in filled
    assert 'value="3000"' in filled
    assert "Hold it for" in filled


def test_every_key_that_is_drawn_from_the_stores_is_one_of_the_planner_and_of_the_kind():
    """No entry fills a box that is not there."""
    for planner in PLANNERS.values():
        for kind, fills in planner.draws.items():
            figures = {figure.key for figure in STORES_KINDS[kind].figures}
            assert set(fills) <= {f.name for f in fields(planner.given)}, planner.name
            assert set(fills.values()) <= figures, planner.name
