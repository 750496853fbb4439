"""One first danger, wherever a piece is told: every surface of every piece of the demo."""

import html
import json
import re

import pytest
from click.testing import CliRunner

from greyfell.cli import main
from greyfell.core.dangers.listing import dangers, strip
from greyfell.core.dangers.scene import Scene
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.records.demo import demo_documents

DEMO = {document["tag"]: document for document in demo_documents()}
FIRST_BOLD = {
    "piece": ("", r'id="danger">.*?<b[^>]*>(.*?)</b>'),
    "list": ("dangers", r'data-danger="[^"]+".*?<b>(.*?)</b>'),
    "tag": ("tag", r'class="paper-stop"><b>(.*?)</b>'),
    "paper": ("paper", r'class="paper-stop"><b>(.*?)</b>'),
    "passport": ("passport.html", r'class="paper-stop"><b>(.*?)</b>'),
    "rehearsal": ("rehearse", r"note-stop[^>]*>\s*<b[^>]*>(.*?)</b>"),
}
"""Where the first danger stands on a page."""


def first_of(page, pattern):
    """The headline that a page begins with."""
    found = re.search(pattern, page, re.S)
    assert found is not None
    return html.unescape(found[1]).strip()


@pytest.mark.parametrize("tag", DEMO)
def test_every_surface_of_a_piece_begins_with_the_same_danger(demo, tag, tmp_path):
    """Strip, list, tag, paper, passport, rehearsal, JSON and command line. A bench with something
    wrong leads all of them; the hazards of the answer are the piece's own, in that order.
    """
    ident = identify(parse_record(DEMO[tag]))
    told = dangers(Scene(ident=ident))
    first = told[0].headline

    for name, (address, pattern) in FIRST_BOLD.items():
        page = demo.get(f"/pieces/{tag}/{address}").get_data(as_text=True)
        assert first_of(page, pattern) == first, name
    assert demo.get(f"/pieces/{tag}/dangers.json").json["dangers"][0]["headline"] == first
    file = tmp_path / "piece.json"
    file.write_text(json.dumps(DEMO[tag]), encoding="utf-8")
    said = json.loads(CliRunner().invoke(main, ["dangers", str(file)]).output)
    assert said["dangers"][0]["headline"] == first
    own = demo.get(f"/pieces/{tag}/identification.json").json["hazards"]
    order = [danger.headline for danger in told]
    places = [order.index(hazard["headline"]) for hazard in own]
    assert places == sorted(places)
    assert places[0] == 0 or Scene(ident=ident).wrongs


def test_the_strip_of_a_practice_piece_is_that_of_its_record(client):
    """What is believed so far, and no more than that."""
    address = client.post("/practice", {"level": "any", "number": "77"}).headers["Location"]
    page = client.get(address).get_data(as_text=True)
    tag = address.split("/")[-1]
    document = client.get(f"/pieces/{tag}/record.json").json

    first = strip(identify(parse_record(document)))[0]
    assert first.headline in html.unescape(page)
